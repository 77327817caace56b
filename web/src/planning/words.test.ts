import { describe, expect, it } from 'vitest';
import { inMinutes } from './words';

describe('minutes in words', () => {
  it.each([
    [0, '0 min'],
    [0.02, '0.1 min'],
    [0.54, '0.5 min'],
    [9.94, '9.9 min'],
    [9.96, '10 min'],
    [61.4, '61 min'],
    [156, '2.6 h'],
  ])('%d', (m, words) => expect(inMinutes(m)).toBe(words));
  it('what a machine has to do adds up as it is shown', () => {
    const parts = [0.6, 0.5, 1.6, 0.5];
    const shown = parts.reduce((n, m) => n + Number.parseFloat(inMinutes(m)), 0);
    expect(inMinutes(parts.reduce((n, m) => n + m))).toBe(`${shown.toFixed(1)} min`);
  });
});
