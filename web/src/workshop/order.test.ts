import { describe, expect, it } from 'vitest';
import type { Card } from '@/server/workshop';
import { ordered, orderFrom, USUAL } from './order';

const card = (name: string, rest: Partial<Card> = {}): Card =>
  ({
    id: name,
    name,
    purpose: 'game',
    deadline: null,
    triangles: 10,
    triangleLimit: 100,
    worst: null,
    findings: 0,
    stages: { 'hand-off': 'none' },
    ...rest,
  }) as Card;
const cards = [
  card('Storm lantern', { deadline: '2026-12-04', triangles: 99 }),
  card('Biscuit tin', { findings: 2, worst: { message: '', severity: 'error' }, purpose: 'product' }),
  card('Gig oar', { deadline: '2026-11-30', triangles: null }),
  card('Oil can', { findings: 5, worst: { message: '', severity: 'warning' }, stages: { 'hand-off': 'ok' } as Card['stages'] }),
];
const names = (order: Partial<typeof USUAL>) => ordered(cards, { ...USUAL, ...order }).map((c) => c.name);

describe('cards of the workshop', () => {
  it('stand as they were added until another order is chosen', () => {
    expect(names({})).toEqual(['Storm lantern', 'Biscuit tin', 'Gig oar', 'Oil can']);
    expect(names({ by: 'name' })).toEqual(['Biscuit tin', 'Gig oar', 'Oil can', 'Storm lantern']);
    expect(names({ by: 'due' })).toEqual(['Gig oar', 'Storm lantern', 'Biscuit tin', 'Oil can']);
    expect(names({ by: 'worst' })).toEqual(['Biscuit tin', 'Oil can', 'Storm lantern', 'Gig oar']);
    expect(names({ by: 'filled' })).toEqual(['Storm lantern', 'Biscuit tin', 'Oil can', 'Gig oar']);
  });
  it('are found by every word that is typed, and by what is chosen', () => {
    expect(names({ search: ' TIN bis' })).toEqual(['Biscuit tin']);
    expect(names({ search: 'anchor' })).toEqual([]);
    expect(names({ show: 'mend' })).toEqual(['Biscuit tin', 'Oil can']);
    expect(names({ show: 'unfinished' })).toEqual(['Storm lantern', 'Biscuit tin', 'Gig oar']);
    expect(names({ show: 'for product' })).toEqual(['Biscuit tin']);
  });
  it('an order that was remembered and is no more is the usual; what was looked for is not kept', () => {
    expect(orderFrom({ by: 'gone', show: 5 })).toEqual({ by: 'added', show: 'all' });
    expect(orderFrom({ by: 'name', show: 'for product', search: 'tin' })).toEqual({ by: 'name', show: 'for product' });
  });
});
