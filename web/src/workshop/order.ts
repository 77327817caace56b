import { PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import type { Card } from '@/server/workshop';

/** How the cards of the workshop are ordered and which of them are shown. */
export interface Order {
  search: string;
  by: keyof typeof ORDERS;
  show: keyof typeof SHOWN;
}
export const ORDERS = {
  added: 'as they were added',
  name: 'by name',
  due: 'by what is due',
  worst: 'worst first',
  filled: 'by triangles used',
} as const;
export const SHOWN = {
  all: 'all',
  mend: 'with something to mend',
  unfinished: 'not ready to hand off',
  ...(Object.fromEntries(Object.entries(PURPOSES).map(([k, words]) => [`for ${k}`, words])) as Record<`for ${Purpose}`, string>),
} as const;
export const USUAL: Order = { search: '', by: 'added', show: 'all' };

const among = <K extends string>(choices: Record<K, unknown>, kept: unknown, usual: K): K =>
  typeof kept === 'string' && Object.hasOwn(choices, kept) ? (kept as K) : usual;
/** The order as it was kept; what is looked for is looked for once. */
export const orderFrom = (kept: Record<string, unknown>): Pick<Order, 'by' | 'show'> => ({
  by: among(ORDERS, kept.by, USUAL.by),
  show: among(SHOWN, kept.show, USUAL.show),
});

/** Far enough away to come after everything that has a date. */
const NEVER = '9999';
const KEYS: Record<Order['by'], (c: Card) => [number | string, string]> = {
  added: () => [0, ''],
  name: (c) => [c.name.toLocaleLowerCase(), ''],
  due: (c) => [c.deadline ?? NEVER, c.name],
  worst: (c) => [c.worst?.severity === 'error' ? 0 : c.worst ? 1 : 2, String(100_000 - c.findings)],
  filled: (c) => [c.triangles === null ? 1 : -c.triangles / c.triangleLimit, c.name],
};

const wanted = (c: Card, show: Order['show']): boolean => {
  if (show === 'all') return true;
  if (show === 'mend') return c.findings > 0;
  if (show === 'unfinished') return c.stages['hand-off'] !== 'ok';
  return c.purpose === show.slice(4);
};

/** The cards that are wanted, in the order that is wanted; what is equal stays as it came. */
export function ordered(cards: readonly Card[], { search, by, show }: Order): Card[] {
  const words = search.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  const key = KEYS[by];
  const less = (a: number | string, b: number | string) =>
    typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b));
  return cards
    .filter((c) => wanted(c, show) && words.every((w) => `${c.name} ${PURPOSES[c.purpose]}`.toLocaleLowerCase().includes(w)))
    .map((c) => ({ c, k: key(c) }))
    .sort((a, b) => less(a.k[0], b.k[0]) || less(a.k[1], b.k[1]))
    .map(({ c }) => c);
}
