'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { mapVec, type Vec3 } from '@wellmorph/core/maths/vec3';
import type { AssetDocument, Group, Part } from '@wellmorph/core/pipeline/document';
import { useState } from 'react';
import { boundsOf } from '@/plates/view';
import { useSession, useSheet } from '@/session/context';
import { Choice } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { NameField } from '@/sheet/name-field';
import { Plain } from '@/sheet/plain';
import { AxisFields } from './axis-fields';
import { Fold } from './fold';
import { setPartsDown } from './set-down';
import { isShown, leaveOut, onlyThese } from './shown';

const TIGHT = { minWidth: 0, px: 0.7 } as const;
const partsOf = (document: AssetDocument, group: string): string[] => document.parts.flatMap((p) => (p.group === group ? [p.id] : []));

/** The groups of a piece: named, moved and turned together, left out of the view together. */
export function GroupPanel({ document }: { document: AssetDocument }) {
  const session = useSession();
  const [open, setOpen] = useState(false);
  const groups = document.groups ?? [];
  const add = () => {
    const { part } = session.state.selected;
    const made: Group = { id: newId(), name: `Group ${groups.length + 1}` };
    session.dispatch({ type: 'group.set', group: made.id, name: made.name, parts: part ? [part] : [] });
    setOpen(true);
  };
  return (
    <Fold
      title="Groups"
      about={groups.length === 0 ? 'none' : groups.map((g) => g.name).join(', ')}
      open={open && groups.length > 0}
      onOpen={setOpen}
      actions={<Button onClick={add}>+ group</Button>}
    >
      {groups.map((g) => (
        <GroupRow key={g.id} group={g} document={document} />
      ))}
    </Fold>
  );
}

function GroupRow({ group, document }: { group: Group; document: AssetDocument }) {
  const session = useSession();
  const shown = useSheet((s) => s.shown);
  const gpu = useSheet((s) => s.form?.gpu);
  const [open, setOpen] = useState(false);
  const [by, setBy] = useState<Vec3>([0, 0, 0]);
  const [turn, setTurn] = useState<Vec3>([0, 0, 0]);
  const mine = partsOf(document, group.id);
  const move = () => {
    const own = gpu?.filter((g) => mine.includes(g.id)) ?? [];
    if (own.length === 0) return;
    const { centre } = boundsOf(own);
    const about = mapVec([centre.x, centre.y, centre.z], (x) => Math.round(x * 1e6) / 1e6);
    if (session.dispatch({ type: 'group.move', group: group.id, by, turnDegrees: turn, about })) {
      setBy([0, 0, 0]);
      setTurn([0, 0, 0]);
    }
  };
  return (
    <Box sx={{ pt: 0.4, pb: 0.6, borderTop: 1, borderColor: 'sheet.faint' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Plain aria-expanded={open} onClick={() => setOpen(!open)} sx={{ flex: 1, fontSize: 13, fontWeight: 600 }}>
          {group.name}{' '}
          <Box component="span" className="narrow" sx={{ fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
            {mine.length} {mine.length === 1 ? 'part' : 'parts'}
          </Box>
        </Plain>
        <Button sx={TIGHT} disabled={mine.length === 0} onClick={() => leaveOut(session, mine)}>
          {mine.length > 0 && mine.every((p) => !isShown(shown, p)) ? 'show' : 'leave out'}
        </Button>
        <Button sx={TIGHT} disabled={mine.length === 0} onClick={() => onlyThese(session, mine)}>
          only
        </Button>
      </Box>
      {open && (
        <Box>
          <NameField
            label="Name"
            id={`group-${group.id}`}
            value={group.name}
            onName={(name) => session.dispatch({ type: 'group.set', group: group.id, name, parts: mine })}
          />
          <AxisFields label="By along" value={by} onSet={setBy} />
          <AxisFields label="By about" turn value={turn} onSet={setTurn} />
          <Box sx={{ display: 'flex', gap: 0.8, mt: 0.6 }}>
            <Button variant="outlined" disabled={mine.length === 0 || [...by, ...turn].every((x) => x === 0)} onClick={move}>
              Move it
            </Button>
            <Button variant="outlined" disabled={mine.length === 0} onClick={() => void setPartsDown(session, mine, group.name)}>
              Set down
            </Button>
            <Button variant="outlined" onClick={() => session.dispatch({ type: 'group.remove', group: group.id })}>
              Dissolve
            </Button>
          </Box>
        </Box>
      )}
    </Box>
  );
}

/** Which group a part belongs to. */
export function GroupChoice({ part }: { part: Part }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  if (!document?.groups || document.groups.length === 0) return null;
  const set = (id: string) => {
    const to = document.groups?.find((g) => g.id === (id || part.group));
    if (!to) return;
    const others = partsOf(document, to.id).filter((p) => p !== part.id);
    session.dispatch({ type: 'group.set', group: to.id, name: to.name, parts: id ? [...others, part.id] : others });
  };
  return (
    <Choice
      label="Group"
      value={part.group ?? ''}
      choices={[['', 'none'] as const, ...document.groups.map((g) => [g.id, g.name] as const)]}
      onChange={set}
    />
  );
}
