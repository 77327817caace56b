'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Neighbours } from '@wellmorph/core/pipeline/look';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { proposedFor, standingWords, wantedWords } from '@wellmorph/core/pipeline/standings';
import { useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { FigureTable } from '@/sheet/figure-table';
import { newId } from '@/sheet/ids';
import { StatusMark } from '@/sheet/marks';

/** Rows shown before the rest is asked for. */
const FIRST = 6;

/** Parts that stand near each other: how near or how deep, and what is proposed to be wanted of them, taken with one click. */
export function NeighbourTable() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const look = useSheet((s) => s.look);
  const looking = useSheet((s) => s.looking);
  const [all, setAll] = useState(false);
  if (!document) return null;
  const fresh = look && look.name === nameOf(document, 'look') ? look.neighbours : null;
  const rows = (fresh ?? []).filter((n) => !n.relation);
  if (!fresh)
    return (
      <Box sx={{ fontSize: 12.5, color: 'text.secondary', py: 0.4 }}>
        {looking === null ? '' : 'Measuring between neighbouring parts …'}
      </Box>
    );
  if (rows.length === 0) return null;
  const name = (id: string) => document.parts.find((p) => p.id === id)?.name ?? '?';
  return (
    <Box sx={{ mt: 0.6 }}>
      <FigureTable
        label="neighbouring parts"
        rows={(all ? rows : rows.slice(0, FIRST)).map((n) => ({
          key: `${n.a}+${n.b}`,
          head: `${name(n.a)} · ${name(n.b)}`,
          onClick: () => session.select({ part: n.a }),
          cells: [standingWords(n), <Propose key="want" near={n} between={`${name(n.a)} and ${name(n.b)}`} />],
        }))}
      />
      {rows.length > FIRST && (
        <Button sx={{ minWidth: 0, px: 0.5, fontSize: 12 }} onClick={() => setAll(!all)}>
          {all ? 'Show fewer' : `Show all ${rows.length}`}
        </Button>
      )}
      {(fresh ?? []).some((n) => n.met === false) && (
        <Box sx={{ display: 'flex', gap: 0.6, alignItems: 'center', fontSize: 12 }}>
          <StatusMark status="over" size={13} /> Some stand otherwise than wanted.
        </Box>
      )}
    </Box>
  );
}

function Propose({ near, between }: { near: Neighbours; between: string }) {
  const session = useSession();
  const proposed = proposedFor(near);
  return (
    <Button
      sx={{ minWidth: 0, px: 0.5, py: 0, minHeight: 20, fontSize: 12, whiteSpace: 'nowrap' }}
      aria-label={`Want ${wantedWords(proposed)} between ${between}`}
      title={`Want ${wantedWords(proposed)}`}
      onClick={(e) => {
        // The row would choose its part.
        e.stopPropagation();
        session.dispatch({ type: 'relation.set', relation: { id: newId(), a: near.a, b: near.b, ...proposed } });
      }}
    >
      {proposed.wanted === 'resting' ? 'rest' : 'keep'}
    </Button>
  );
}
