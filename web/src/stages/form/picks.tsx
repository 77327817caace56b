'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { PickField } from '@wellmorph/core/form/fields';
import type { PickedLine, Spot } from '@wellmorph/core/form/places';
import { useSession } from '@/session/context';
import { Choice } from '@/sheet/fields';
import { setPicking, stopPicking, usePicking } from './picking';

/** What a step was given by picking on the piece: edges, or one place. */
export function PickRow({
  field,
  part,
  step,
  value,
  onClear,
}: {
  field: PickField;
  part: string;
  step: string;
  value: unknown;
  onClear(): void;
}) {
  const session = useSession();
  const picking = usePicking();
  const active = picking.step === step && picking.what === field.key;
  const edges = field.type === 'edges' ? ((value as PickedLine[] | undefined) ?? []) : [];
  const spot = field.type === 'spot' ? (value as Spot | undefined) : undefined;
  const words = field.type === 'edges' ? `${edges.length} picked` : spot ? `on ${spot.patch.split('/').pop()}` : 'not picked yet';
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 0.6, minHeight: 30 }}>
        <Box className="narrow" sx={{ flex: 1, minWidth: 0 }}>
          {field.label}{' '}
          <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
            {words}
          </Box>
        </Box>
        {(edges.length > 0 || spot) && <Button onClick={onClear}>Clear</Button>}
        <Button
          variant={active ? 'contained' : 'outlined'}
          aria-pressed={active}
          onClick={() =>
            active ? stopPicking(session) : setPicking(session, { part, what: field.key, step, wants: field.type, remove: false })
          }
        >
          {active ? 'Done' : field.type === 'edges' ? 'Pick edges' : 'Pick the place'}
        </Button>
      </Box>
      {active && field.type === 'edges' && <WholeLine />}
    </Box>
  );
}

/** Whether a click on an edge takes the whole line it lies on. */
export function WholeLine() {
  const session = useSession();
  const { whole } = usePicking();
  return (
    <Choice
      label="A click takes"
      value={whole ? 1 : 0}
      choices={[
        [1, 'the whole line'],
        [0, 'one edge'],
      ]}
      onChange={(v) => setPicking(session, { whole: v === 1 })}
    />
  );
}
