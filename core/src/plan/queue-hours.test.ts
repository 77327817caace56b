import fc from 'fast-check';
import { expect, it } from 'vitest';
import { isOpen, untilTurn } from './queue-hours';

it('a night goes over midnight, a day doesn’t, and equal hours are all of them', () => {
  const night = { from: 22, to: 6 };
  expect([21.9, 22, 23, 0, 5.9, 6, 12].map((h) => isOpen(h, night))).toEqual([false, true, true, true, true, false, false]);
  expect([8, 9, 16.9, 17].map((h) => isOpen(h, { from: 9, to: 17 }))).toEqual([false, true, true, false]);
  expect(isOpen(3, { from: 5, to: 5 })).toBe(true);
  expect(untilTurn(20, night)).toBe(2);
  expect(untilTurn(23, night)).toBe(7);
});
it('until the next turn it stays as it is, and at the turn it is otherwise', () => {
  const hour = fc.integer({ min: 0, max: 47 }).map((h) => h / 2);
  fc.assert(
    fc.property(hour, hour, hour, (now, from, to) => {
      fc.pre(from !== to);
      const hours = { from, to };
      const wait = untilTurn(now, hours);
      expect(wait).toBeGreaterThan(0);
      for (let h = 0; h < wait; h += 0.25) expect(isOpen((now + h) % 24, hours)).toBe(isOpen(now, hours));
      expect(isOpen((now + wait) % 24, hours)).toBe(!isOpen(now, hours));
    }),
  );
});
