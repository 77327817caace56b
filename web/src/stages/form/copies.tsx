'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { mapVec } from '@wellmorph/core/maths/vec3';
import { copyCost, mirrored, type Placed, quarterTurned } from '@wellmorph/core/pipeline/copies';
import { type AssetDocument, originalOf, type Part } from '@wellmorph/core/pipeline/document';
import { useState } from 'react';
import { boundsOf } from '@/plates/view';
import { useSession, useSheet } from '@/session/context';
import { newId } from '@/sheet/ids';

const AXES = ['x', 'y', 'z'] as const;

/** The first of a name, “name 2”, “name 3” … that no part has. */
function freeName(document: AssetDocument, name: string): string {
  const taken = new Set(document.parts.map((p) => p.name));
  const stem = name.replace(/ \d+$/, '').slice(0, 70);
  let n = 2;
  while (taken.has(`${stem} ${n}`)) n++;
  return `${stem} ${n}`;
}

/** Makes copies of a part: beside it, mirrored across the middle of the piece, or turned by a quarter about it. */
export function CopyMenu({ part }: { part: Part }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const gpu = useSheet((s) => s.form?.gpu);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!document) return null;
  const copy = (placed: Placed) => {
    setAnchor(null);
    const id = newId();
    const name = freeName(document, part.name);
    if (session.dispatch({ type: 'part.copy', part: part.id, id, name, ...placed })) session.select({ part: id, step: null });
  };
  const beside = (): Placed => {
    const own = gpu?.filter((g) => g.id === part.id) ?? [];
    const box = own.length > 0 ? boundsOf(own) : null;
    // A tenth of its width apart from it, so that both are seen.
    const by = box ? Math.round(11 * (box.max.x - box.min.x)) / 10 : 10;
    return {
      move: mapVec(part.move, (x, k) => (k === 0 ? x + by : x)),
      turnDegrees: part.turnDegrees,
      mirror: part.shape.kind === 'copy' ? part.shape.mirror : null,
    };
  };
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Copy
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={() => copy(beside())}>Beside it</MenuItem>
        <Divider />
        {AXES.map((axis) => (
          <MenuItem key={`m${axis}`} onClick={() => copy(mirrored(part, axis))}>
            Mirrored across {axis} = 0
          </MenuItem>
        ))}
        <Divider />
        {AXES.map((axis) => (
          <MenuItem key={`t${axis}`} onClick={() => copy(quarterTurned(part, axis))}>
            A quarter round {axis}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** What a copy is one of, and what it costs. */
export function CopyOf({ part }: { part: Part }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  if (!document || part.shape.kind !== 'copy') return null;
  const original = originalOf(document, part);
  return (
    <Box sx={{ mt: 0.8, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1 }}>
        <span>
          {part.shape.mirror ? 'A mirrored copy of' : 'A copy of'} {original === part ? 'a part that is gone' : original.name}
        </span>
        {original !== part && (
          <Button onClick={() => session.select({ part: original.id, step: null })} aria-label={`Go to ${original.name}`}>
            its steps
          </Button>
        )}
      </Box>
      <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
        {copyCost(document, part)} Its shape follows {original.name}.
      </Box>
    </Box>
  );
}
