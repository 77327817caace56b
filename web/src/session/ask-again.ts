import type { QueryClient } from '@tanstack/react-query';

/** Keys that are asked for again once a first answer is there. */
const waiting = new WeakMap<QueryClient, Map<string, Promise<void>>>();

/**
 * Asks anew for everything under a key, as after something of it was changed. A first answer that is still on its way is of before, and
 * invalidating alone would take it for the new one: it is waited for, and then asked again.
 */
export function askAgain(queries: QueryClient, key: string): Promise<void> {
  const firsts = queries.getQueryCache().findAll({
    queryKey: [key],
    predicate: ({ state }) => state.data === undefined && state.fetchStatus === 'fetching',
  });
  if (firsts.length === 0) return queries.invalidateQueries({ queryKey: [key] });
  const keys = waiting.get(queries) ?? new Map<string, Promise<void>>();
  waiting.set(queries, keys);
  // However often it is asked for meanwhile, once is enough.
  let asked = keys.get(key);
  if (!asked) {
    asked = Promise.allSettled(firsts.map((q) => q.promise)).then(() => {
      keys.delete(key);
      return askAgain(queries, key);
    });
    keys.set(key, asked);
  }
  return asked;
}
