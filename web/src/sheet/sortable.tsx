'use client';

import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  type ScreenReaderInstructions,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import DragIndicatorOutlined from '@mui/icons-material/DragIndicatorOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import type { ReactNode } from 'react';

interface Row {
  id: string;
  name: string;
}

const SAID: ScreenReaderInstructions = {
  draggable: 'Space takes it up, the arrow keys move it, Space puts it down, Escape leaves it where it was.',
};

/** A list whose rows are dragged into another order by their grips, with the pointer or the keyboard. */
export function SortableList({
  rows,
  onMove,
  children,
}: {
  rows: readonly Row[];
  onMove(id: string, by: number): void;
  children: ReactNode;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const at = (id: unknown) => rows.findIndex((r) => r.id === id);
  const place = (id: unknown) => `place ${at(id) + 1} of ${rows.length}`;
  const name = (id: unknown) => rows[at(id)]?.name ?? 'It';
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${name(active.id)} is taken up from ${place(active.id)}.`,
    onDragOver: ({ active, over }) => (over ? `${name(active.id)} is at ${place(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) => `${name(active.id)} is put down at ${place((over ?? active).id)}.`,
    onDragCancel: ({ active }) => `${name(active.id)} stays where it was.`,
  };
  const end = ({ active, over }: DragEndEvent) => {
    const by = over ? at(over.id) - at(active.id) : 0;
    // What was dragged may have gone meanwhile.
    if (by !== 0 && at(active.id) >= 0 && over && at(over.id) >= 0) onMove(String(active.id), by);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={end}
      accessibility={{ announcements, screenReaderInstructions: SAID }}
    >
      <SortableContext items={rows.map((r) => r.id)} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** One row of such a list; what is drawn gets the grip it is dragged by. */
export function SortableRow({ id, name, children }: Row & { children(grip: ReactNode): ReactNode }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging, index, items } = useSortable({ id });
  const grip = (
    <IconButton
      ref={setActivatorNodeRef}
      size="small"
      aria-label={`Place ${index + 1} of ${items.length}`}
      title={`Drag ${name} to another place`}
      sx={{ width: 18, p: 0, cursor: isDragging ? 'grabbing' : 'grab', touchAction: 'none', color: 'text.secondary' }}
      {...attributes}
      {...listeners}
    >
      <DragIndicatorOutlined sx={{ fontSize: 16 }} />
    </IconButton>
  );
  return (
    <Box
      ref={setNodeRef}
      sx={{ position: 'relative', zIndex: isDragging ? 2 : undefined, bgcolor: isDragging ? 'background.paper' : undefined }}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      {children(grip)}
    </Box>
  );
}

/** The same by one place at a time; what has no place to go to is not offered. */
export function MoveButtons({ id, name, rows, onMove }: Row & { rows: readonly { id: string }[]; onMove(by: number): void }) {
  const at = rows.findIndex((r) => r.id === id);
  return (
    <>
      {at > 0 && (
        <Button sx={{ minWidth: 0, px: 0.5, minHeight: 22 }} aria-label={`Move ${name} up`} onClick={() => onMove(-1)}>
          ↑
        </Button>
      )}
      {at + 1 < rows.length && (
        <Button sx={{ minWidth: 0, px: 0.5, minHeight: 22 }} aria-label={`Move ${name} down`} onClick={() => onMove(1)}>
          ↓
        </Button>
      )}
    </>
  );
}
