'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { adviseBrief } from '@wellmorph/core/brief/advice';
import type { Brief } from '@wellmorph/core/brief/brief';
import { type Family, familySum, type Member, movedLimits } from '@wellmorph/core/brief/family';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import type { Card } from '@/server/workshop';
import { get } from '@/session/api';
import { useBench, useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { DateField } from '@/sheet/date-field';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { NameField } from '@/sheet/name-field';

/** Terms that begin as this piece's own. */
const fresh = (name: string, brief: Brief): Family => ({
  name,
  triangles: brief.limits.triangles,
  memoryMB: brief.limits.memoryMB,
  densityPxPerCm: Math.round(10 * adviseBrief(brief).wanted.densityPxPerCm) / 10,
  deadline: brief.deadline,
});

/** Pieces that share terms: who takes how much of them, and what of it is moved from one to another. */
export function FamilyPanel({ brief, set }: { brief: Brief; set(patch: Partial<Brief>): boolean }) {
  const session = useSession();
  const bench = useBench();
  const { data: cards = [] } = useQuery({ queryKey: ['cards'], queryFn: () => get<Card[]>('/api/assets') });
  const [busy, setBusy] = useState(false);
  const terms = brief.family ?? null;
  const families = [...new Map(cards.flatMap((c) => (c.family ? [[c.family.name, c.family] as const] : []))).values()];
  const members: Member[] = terms
    ? cards
        .filter((c) => c.id === session.id || c.family?.name === terms.name)
        .map((c) => (c.id === session.id ? { ...c, triangleLimit: brief.limits.triangles, deadline: brief.deadline } : c))
    : [];
  const begin = () => {
    const taken = new Set(families.map((f) => f.name));
    let n = 1;
    while (taken.has(`Family ${n}`)) n++;
    set({ family: fresh(`Family ${n}`, brief) });
  };
  /** Changes the briefs of several pieces one after the other, each as it is by then; the first that refuses is said, and ends it. */
  const each = async (changes: readonly { id: string; patch(now: Brief): Partial<Brief> }[]) => {
    setBusy(true);
    try {
      for (const { id, patch } of changes) {
        const done = await bench.change(id, (now) => ({ type: 'brief.set', patch: patch(now.brief) }));
        if (!done.done) return session.notify(done.why ?? 'A piece of the family could not be changed.', 'error');
      }
    } catch (error) {
      session.notify(sentence(error), 'error');
    } finally {
      setBusy(false);
    }
  };
  const change = (patch: Partial<Family>) =>
    terms && void each(members.map((m) => ({ id: m.id, patch: (now) => ({ family: { ...(now.family ?? terms), ...patch } }) })));
  const give = (id: string, triangles: number) => {
    const moved = movedLimits(members, id, triangles);
    if (!moved) return session.notify('The other pieces have not so many triangles to spare.');
    // Who gives comes first: if one of them refuses, nobody has got more than there is.
    const more = ([to, limit]: [string, number]) => limit - (members.find((m) => m.id === to)?.triangleLimit ?? 0);
    const order = Object.entries(moved).sort((a, b) => more(a) - more(b));
    return void each(order.map(([to, limit]) => ({ id: to, patch: (now) => ({ limits: { ...now.limits, triangles: limit } }) })));
  };
  if (!terms)
    return (
      <Box sx={{ mt: 2 }}>
        <Heading aside="terms that pieces share">Family</Heading>
        {families.length > 0 && (
          <Choice
            label="Belongs to"
            value={'' as string}
            choices={[['', 'none'] as const, ...families.map((f) => [f.name, f.name] as const)]}
            onChange={(name) => {
              const found = families.find((f) => f.name === name);
              if (found) set({ family: found });
            }}
          />
        )}
        <Button variant="outlined" sx={{ mt: 0.6 }} onClick={begin}>
          Begin a family
        </Button>
      </Box>
    );
  const sum = familySum(terms, members);
  return (
    <Box sx={{ mt: 2 }} data-family={terms.name}>
      <Heading aside={`${members.length} ${members.length === 1 ? 'piece' : 'pieces'}`}>Family</Heading>
      <NameField label="Called" id="family-name" value={terms.name} onName={(name) => change({ name })} />
      <NumberField
        label="Triangles in all"
        kind="whole"
        unit=""
        min={1}
        max={1e8}
        value={terms.triangles}
        disabled={busy}
        onCommit={(triangles) => change({ triangles })}
      />
      <NumberField
        label="Memory in all"
        kind="number"
        unit="MB"
        min={0.1}
        max={1e6}
        value={terms.memoryMB}
        disabled={busy}
        onCommit={(memoryMB) => change({ memoryMB })}
      />
      <NumberField
        label="Texel density"
        hint="each within 5 %"
        kind="number"
        unit="px/cm"
        min={0.01}
        max={1e5}
        value={terms.densityPxPerCm}
        disabled={busy}
        onCommit={(densityPxPerCm) => change({ densityPxPerCm })}
      />
      <DateField label="All due" value={terms.deadline} onDay={(deadline) => change({ deadline })} />
      <FigureTable
        label="Who takes how much"
        columns={['Piece', 'takes', 'may take', 'px/cm']}
        rows={[
          ...members.map((m) => ({
            key: m.id,
            head: m.name,
            strong: m.id === session.id,
            cells: [
              m.triangles === null ? '–' : figure(m.triangles, 0),
              figure(m.triangleLimit, 0),
              m.density === null ? '–' : figure(m.density, 1),
            ],
            over: [
              (m.triangles ?? 0) > m.triangleLimit,
              false,
              m.density !== null && Math.abs(m.density / terms.densityPxPerCm - 1) > 0.05,
            ],
          })),
          {
            key: 'sum',
            head: 'In all',
            strong: true,
            cells: [figure(sum.triangles, 0), figure(sum.limits, 0), ''],
            over: [sum.triangles > terms.triangles, sum.limits > terms.triangles, false],
          },
        ]}
      />
      {members.length > 1 && (
        <NumberField
          label="This piece may take"
          hint="the others give it, or get it"
          kind="whole"
          unit=""
          min={1}
          max={1e8}
          value={brief.limits.triangles}
          disabled={busy}
          onCommit={(n) => give(session.id, n)}
        />
      )}
      {sum.wrong.map((w) => (
        <Box key={w} sx={{ color: 'error.main', fontSize: 12.5, lineHeight: 1.4, mt: 0.5 }}>
          {w}
        </Box>
      ))}
      <Button variant="outlined" sx={{ mt: 0.8 }} onClick={() => set({ family: null })}>
        Leave the family
      </Button>
    </Box>
  );
}
