'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type AssetDocument, type Relation, WANTED } from '@wellmorph/core/pipeline/document';
import { standingWords } from '@wellmorph/core/pipeline/standings';
import { useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Choice, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { StatusMark } from '@/sheet/marks';
import { Fold } from './fold';
import { NeighbourTable } from './neighbours';

/** How parts are wanted to stand to each other, and how they were found to. */
export function RelationPanel({ document }: { document: AssetDocument }) {
  const session = useSession();
  const [open, setOpen] = useState(false);
  const found = useSheet((s) => s.findings?.standings.relations);
  const relations = document.relations ?? [];
  const wrong = relations.filter((r) => found?.find((f) => f.id === r.id)?.met === false).length;
  if (document.parts.length < 2) return null;
  const parts = document.parts.filter((p) => !p.aid).map((p) => [p.id, p.name] as const);
  const add = () => {
    // A pair that is not in the list yet.
    for (const [i, [a]] of parts.entries())
      for (const [b] of parts.slice(i + 1))
        if (!relations.some((r) => (r.a === a && r.b === b) || (r.a === b && r.b === a))) {
          session.dispatch({ type: 'relation.set', relation: { id: newId(), a, b, wanted: 'gap', mm: 0.4, tolerance: 0.05 } });
          return;
        }
  };
  return (
    <Fold
      title="Between parts"
      about={
        relations.length === 0
          ? 'nothing wanted yet'
          : wrong > 0
            ? `${wrong} of ${relations.length} not as wanted`
            : `${relations.length} as wanted`
      }
      wrong={wrong > 0}
      open={open}
      onOpen={setOpen}
      actions={
        <Button
          onClick={() => {
            setOpen(true);
            add();
          }}
        >
          Add
        </Button>
      }
    >
      {relations.length === 0 && (
        <Box sx={{ fontSize: 12.5, color: 'text.secondary', lineHeight: 1.4, py: 0.4 }}>
          Say which parts should rest on each other, keep a gap, or go in by so much; it is measured after every change.
        </Box>
      )}
      {relations.map((r, i) => (
        <RelationRow key={r.id} relation={r} parts={parts} first={i === 0} />
      ))}
      <NeighbourTable />
    </Fold>
  );
}

function RelationRow({ relation: r, parts, first }: { relation: Relation; parts: readonly (readonly [string, string])[]; first: boolean }) {
  const session = useSession();
  const found = useSheet((s) => s.findings?.standings.relations.find((f) => f.id === r.id));
  const put = (patch: Partial<Relation>) => session.dispatch({ type: 'relation.set', relation: { ...r, ...patch } });
  const name = (id: string) => parts.find(([p]) => p === id)?.[1] ?? '?';
  const measured = r.wanted === 'gap' || r.wanted === 'sunk';
  return (
    <Box sx={{ borderTop: first ? 0 : 1, borderColor: 'sheet.line', pt: 0.4, mt: 0.4 }} data-relation={r.id}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.6, fontSize: 12.5 }}>
        {found && <StatusMark status={found.met ? 'ok' : 'over'} size={14} />}
        <Box className="narrow" sx={{ flex: 1, minWidth: 0 }}>
          {found ? standingWords(found) : 'not measured yet'}
        </Box>
        <Button
          sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
          aria-label={`Drop the relation of ${name(r.a)} and ${name(r.b)}`}
          onClick={() => session.dispatch({ type: 'relation.remove', relation: r.id })}
        >
          ×
        </Button>
      </Box>
      <Choice label="Part" value={r.a} choices={parts.filter(([id]) => id !== r.b)} onChange={(a) => put({ a })} />
      <Choice label="and part" value={r.b} choices={parts.filter(([id]) => id !== r.a)} onChange={(b) => put({ b })} />
      <Choice
        label="Wanted"
        value={r.wanted}
        choices={Object.entries(WANTED) as [Relation['wanted'], string][]}
        onChange={(wanted) => put({ wanted })}
      />
      {measured && <NumberField label={r.wanted === 'gap' ? 'Gap' : 'Sunk in by'} min={0} value={r.mm} onCommit={(mm) => put({ mm })} />}
      {r.wanted !== 'free' && (
        <NumberField
          label="May be off by"
          min={0.000001}
          max={1000}
          digits={3}
          value={r.tolerance}
          onCommit={(tolerance) => put({ tolerance })}
        />
      )}
    </Box>
  );
}
