import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { AssetState } from '@/server/db/assets';
import type { Lesson } from '@/server/db/lessons';
import type { LoggedRun, RunsAtHand, RunsWanted } from '@/server/db/runs';
import type { Snag } from '@/server/db/snags';
import type { Used } from '@/server/use-run';
import { get, send } from '@/session/api';
import { askAgain } from '@/session/ask-again';
import { useBench } from '@/session/context';
import { queryOf } from './wanted';

/** The runs that are wanted, a page of them. What was listed stays until the next is there. */
export const useRuns = (wanted: RunsWanted) =>
  useQuery({
    queryKey: ['runs', 'list', wanted],
    queryFn: () => get<{ runs: LoggedRun[]; total: number }>(`/api/runs?${queryOf(wanted)}`),
    placeholderData: keepPreviousData,
  });

export const useRunsAtHand = () => useQuery({ queryKey: ['runs', 'at-hand'], queryFn: () => get<RunsAtHand>('/api/runs/at-hand') }).data;

/** Runs that were chosen, in the order they were. */
export const useChosen = (ids: readonly string[]) =>
  useQuery({
    queryKey: ['runs', 'chosen', ids],
    queryFn: () => (ids.length === 0 ? Promise.resolve([]) : get<LoggedRun[]>(`/api/runs/chosen?ids=${ids.join(',')}`)),
    placeholderData: keepPreviousData,
  });

export const useLessons = (): Lesson[] => useQuery({ queryKey: ['lessons'], queryFn: () => get<Lesson[]>('/api/lessons') }).data ?? [];
export const useSnags = (): Snag[] => useQuery({ queryKey: ['snags', 'all'], queryFn: () => get<Snag[]>('/api/snags') }).data ?? [];

/** Something asked of the server that may be refused: the refusal is said at the foot of the page. */
export function useAsk<V, T = unknown>(ask: (what: V) => Promise<T>, again: readonly string[]) {
  const bench = useBench();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ask,
    onSuccess: () => {
      for (const key of again) void askAgain(queries, key);
    },
    onError: (error) => bench.notify(error.message, 'error'),
  });
}

export const useJudge = () =>
  useAsk(
    ({ run, ...change }: { run: LoggedRun; verdict?: string; note?: string }) =>
      send('PATCH', `/api/assets/${run.assetId}/trials/${run.id}`, change),
    ['runs'],
  );

/** Sets a piece as a run was set. The piece is taken as it stands on the server now. */
export const useTakeUp = () =>
  useAsk(
    async ({ run, asset, other }: { run: string; asset: string; other?: { run: string; key: string } }) => {
      const { version } = await get<AssetState>(`/api/assets/${asset}`);
      return send<Used>('POST', `/api/runs/${run}/use`, {
        asset,
        baseVersion: version,
        clientId: crypto.randomUUID(),
        seq: 0,
        ...(other && { other }),
      });
    },
    ['runs'],
  );
