'use client';

import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { PLANNED, type PlannedStage } from '@wellmorph/core/plan/forecast';
import { useState } from 'react';
import { useAsk } from '@/logbook/queries';
import type { Spent } from '@/server/db/spent';
import { get, send } from '@/session/api';
import { STATIONS } from '@/shared/stations';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { inMinutes } from './words';

/** Time spent on a piece by stage, and today’s minutes of one of them put right by hand. */
export function SpentHere({ id, day }: { id: string; day: string }) {
  const { data = [] } = useQuery({ queryKey: ['plan', 'spent', id], queryFn: () => get<Spent[]>(`/api/assets/${id}/time`) });
  const [stage, setStage] = useState<PlannedStage>('form');
  const put = useAsk((minutes: number) => send('PUT', `/api/assets/${id}/time`, { stage, day, minutes }), ['plan']);
  const name = (s: PlannedStage) => STATIONS.find((x) => x.id === s)?.name ?? s;
  const of = (s: PlannedStage, only?: string) => data.reduce((n, x) => n + (x.stage === s && (!only || x.day === only) ? x.minutes : 0), 0);
  const spent = PLANNED.filter((s) => of(s) >= 0.5);
  return (
    <Box component="section" aria-label="time spent" sx={{ mt: 2 }}>
      <Heading aside={spent.length === 0 ? 'none counted' : inMinutes(spent.reduce((n, s) => n + of(s), 0))}>Time spent</Heading>
      {spent.length > 0 && (
        <FigureTable
          label="time spent, by stage"
          columns={['stage', 'today', 'in all']}
          rows={spent.map((s) => ({ key: s, head: name(s), cells: [of(s, day) >= 0.5 ? inMinutes(of(s, day)) : '', inMinutes(of(s))] }))}
        />
      )}
      <Box sx={{ mt: 0.6 }}>
        <Choice label="put right, today" value={stage} choices={PLANNED.map((s) => [s, name(s)] as const)} onChange={setStage} />
        <NumberField
          key={stage}
          label="came to"
          kind="number"
          unit="min"
          min={0}
          max={1440}
          digits={0}
          value={of(stage, day)}
          onCommit={(m) => put.mutate(m)}
          width={84}
        />
      </Box>
    </Box>
  );
}
