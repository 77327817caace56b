import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Cut } from '@wellmorph/core/plan/cuts';
import type { Hours } from '@wellmorph/core/plan/schedule';
import { useEffect, useState } from 'react';
import { useAsk } from '@/logbook/queries';
import type { Changed } from '@/server/db/assets';
import type { Plan, PlannedPiece } from '@/server/plan';
import { get, send } from '@/session/api';

/** The day it is here, as days are written. */
export const today = (now = new Date()): string =>
  `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, '0')}-${String(now.getDate()).padStart(2, '0')}`;

/** The day it is; looked at again now and then, since a page may stay open over midnight. */
export function useToday(): string {
  const [day, setDay] = useState(today);
  useEffect(() => {
    const timer = setInterval(() => setDay(today()), 60_000);
    return () => clearInterval(timer);
  }, []);
  return day;
}

export const usePlan = (day: string) =>
  useQuery({ queryKey: ['plan', day], queryFn: () => get<Plan>(`/api/plan?day=${day}`), placeholderData: keepPreviousData });

export const useSetPlan = () => useAsk((change: { hours?: Hours; order?: string[] }) => send('PUT', '/api/plan', change), ['plan']);

/** A cut that was taken, and what takes it back. */
export interface Taken {
  what: string;
  back(): Promise<unknown>;
}
const once = () => ({ clientId: crypto.randomUUID(), seq: 0 });

export const useTakeCut = (hours: Hours | undefined) =>
  useAsk(
    async ({ row, cut }: { row: PlannedPiece; cut: Cut }): Promise<Taken> => {
      if (cut.hours) {
        await send('PUT', '/api/plan', { hours: cut.hours });
        return { what: cut.what, back: () => send('PUT', '/api/plan', { hours }) };
      }
      const { version } = await send<Changed>('POST', `/api/assets/${row.id}/edits`, {
        ...once(),
        baseVersion: row.version,
        command: cut.command,
        advice: `To be ready in time: ${cut.what}`,
      });
      return {
        what: `${row.name}: ${cut.what}`,
        back: () => send('POST', `/api/assets/${row.id}/history`, { ...once(), baseVersion: version, direction: 'undo' }),
      };
    },
    ['plan', 'cards'],
  );
