'use client';

import Box from '@mui/material/Box';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import ToggleButton from '@mui/material/ToggleButton';
import type { MeasureKind } from '@wellmorph/core/form/measure';
import { VIEWS, type ViewKind } from '@wellmorph/core/inspect/views';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { chooseSoftCorners, useSoftCorners } from '@/plates/soft-corners';
import { useSession, useSheet } from '@/session/context';
import type { SectionPlane } from '@/session/state';
import type { Work } from '@/workers/protocol';
import { showView, VIEW_LIST } from './look';
import { leaveOut, onlyThese, showAll, showBehind } from './shown';

/** Chooses what is drawn on the surface: materials, with or without edges, or something measured. */
export function ViewMenu({
  kind,
  onKind,
  edges,
  onEdges,
  onSection,
}: {
  kind: ViewKind | null;
  /** Absent where only materials are shown. */
  onKind?(kind: ViewKind | null): void;
  edges: boolean;
  onEdges(edges: boolean): void;
  /** Cuts the view open across an axis, or not. */
  onSection?(axis: SectionPlane['axis'] | null): void;
}) {
  const session = useSession();
  const shown = useSheet((s) => s.shown);
  const section = useSheet((s) => s.section);
  const some = useSheet((s) => s.selected.part !== null);
  const corners = useSoftCorners();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const choose = (act: () => void) => {
    setAnchor(null);
    act();
  };
  return (
    <>
      <MenuButton label="view on the piece" pressed={kind !== null} onOpen={setAnchor}>
        {kind ? VIEWS[kind] : 'Materials'}
      </MenuButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem selected={kind === null} onClick={() => choose(() => onKind?.(null))}>
          Materials
        </MenuItem>
        {onKind &&
          VIEW_LIST.map(([k, name]) => (
            <MenuItem key={k} selected={kind === k} onClick={() => choose(() => onKind(k))}>
              {name}
            </MenuItem>
          ))}
        <Divider />
        <MenuItem role="menuitemcheckbox" aria-checked={edges} onClick={() => choose(() => onEdges(!edges))}>
          {edges ? 'Hide edges' : 'Show edges'}
          <Key>E</Key>
        </MenuItem>
        <MenuItem role="menuitemcheckbox" aria-checked={corners} onClick={() => choose(() => chooseSoftCorners(!corners))}>
          {corners ? 'Corners unshaded' : 'Shade corners'}
        </MenuItem>
        <MenuItem disabled={!some} onClick={() => choose(() => leaveOut(session))}>
          Leave the chosen part out <Key>L</Key>
        </MenuItem>
        <MenuItem disabled={!some} onClick={() => choose(() => onlyThese(session))}>
          Only the chosen part <Key>O</Key>
        </MenuItem>
        <MenuItem disabled={shown.only === null && shown.out.length === 0} onClick={() => choose(() => showAll(session))}>
          All parts <Key>A</Key>
        </MenuItem>
        <MenuItem role="menuitemcheckbox" aria-checked={shown.behind} onClick={() => choose(() => showBehind(session))}>
          {shown.behind ? 'Nothing of what is left out' : 'What is left out as lines'} <Key>B</Key>
        </MenuItem>
        {onSection && <Divider />}
        {onSection &&
          (['x', 'y', 'z'] as const).map((axis) => (
            <MenuItem
              key={axis}
              role="menuitemcheckbox"
              aria-checked={section?.axis === axis}
              selected={section?.axis === axis}
              onClick={() => choose(() => onSection(section?.axis === axis ? null : axis))}
            >
              Section across {axis}
            </MenuItem>
          ))}
      </Menu>
    </>
  );
}

const Key = ({ children }: { children: string }) => (
  <Box component="span" className="mono" sx={{ ml: 2, fontSize: 11, color: 'text.secondary' }}>
    {children}
  </Box>
);

const MEASURES: Record<MeasureKind, string> = { distance: 'Distance', angle: 'Angle', radius: 'Radius' };

/** Chooses what is measured between places that are clicked. */
export function MeasureMenu({ kind, onKind }: { kind: MeasureKind | null; onKind(kind: MeasureKind | null): void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const choose = (k: MeasureKind | null) => {
    setAnchor(null);
    onKind(k);
  };
  return (
    <>
      <MenuButton label="measure on the piece" pressed={kind !== null} onOpen={setAnchor}>
        {kind ? MEASURES[kind] : 'Measure'}
      </MenuButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {(Object.entries(MEASURES) as [MeasureKind, string][]).map(([k, name]) => (
          <MenuItem key={k} selected={kind === k} onClick={() => choose(k)}>
            {name}
          </MenuItem>
        ))}
        {kind && <MenuItem onClick={() => choose(null)}>Nothing</MenuItem>}
      </Menu>
    </>
  );
}

function MenuButton({
  label,
  pressed,
  onOpen,
  children,
}: {
  label: string;
  pressed: boolean;
  onOpen(anchor: HTMLElement): void;
  children: string;
}) {
  return (
    <ToggleButton
      value={label}
      selected={pressed}
      aria-haspopup="menu"
      aria-label={label}
      onClick={(e) => onOpen(e.currentTarget)}
      sx={{ px: 1.2, whiteSpace: 'nowrap' }}
    >
      {children} ▾
    </ToggleButton>
  );
}

/** The view that is chosen, once it was measured; kept up to date with the form. */
export function useMeasuredView(kind: ViewKind | null): Work['view']['answer'] | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const formed = useSheet((s) => s.form?.name);
  const measured = useSheet((s) => s.view);
  useEffect(() => {
    if (kind && document && formed === nameOf(document, 'form')) void showView(session, kind);
  }, [kind, document, formed]);
  return kind && measured?.view.kind === kind ? measured : null;
}
