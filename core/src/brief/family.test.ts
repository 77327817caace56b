import { describe, expect, it } from 'vitest';
import { type Family, familySum, type Member, movedLimits } from './family';

const terms: Family = { name: 'Lamp room', triangles: 10_000, memoryMB: 40, densityPxPerCm: 20, deadline: '2026-12-10' };
const member = (id: string, more: Partial<Member> = {}): Member => ({
  id,
  name: id,
  triangleLimit: 5000,
  memoryLimit: 20,
  triangles: 4000,
  density: 20,
  memoryMB: 16,
  deadline: '2026-12-09',
  ...more,
});

describe('a family of pieces', () => {
  it('is summed up, and says nothing where its terms are kept', () => {
    const { wrong, ...sum } = familySum(terms, [member('a'), member('b', { triangles: 4500, density: 20.9 })]);
    expect(wrong).toEqual([]);
    expect(sum).toEqual({ triangles: 8500, limits: 10_000, memoryMB: 32 });
  });
  it('says each thing once, with the pieces it is about', () => {
    const { wrong } = familySum(terms, [
      member('Lamp', { triangles: 7000, density: 21.2, memoryMB: 30 }),
      member('Gauge', { density: 18.9, deadline: '2026-12-11' }),
      member('Can', { triangles: null, density: null, deadline: null }),
    ]);
    expect(wrong).toEqual([
      '1\u202f000 triangles over what the family may take.',
      '22 MB of texture memory over what the family may take.',
      'Lamp, Gauge: their texel densities lie more than 5 % off 20 px/cm.',
      'Gauge, Can: due after the family, or on no day.',
    ]);
    expect(familySum(terms, [member('a', { triangleLimit: 8000 }), member('b')]).wrong).toEqual([
      'Its pieces’ limits come to 13\u202f000 triangles, 3\u202f000 more than the family may take.',
    ]);
  });
  it('moves limits so that their sum stays: from the one with the most to spare, and never into what is taken', () => {
    const list = [member('a'), member('b', { triangles: 3000 }), member('c', { triangles: 4900 })];
    expect(movedLimits(list, 'a', 6500)).toEqual({ a: 6500, b: 3500 });
    expect(movedLimits(list, 'a', 7050)).toEqual({ a: 7050, b: 3000, c: 4950 });
    expect(movedLimits(list, 'a', 7200)).toBeNull();
    expect(movedLimits(list, 'a', 4200)).toEqual({ a: 4200, c: 5800 });
    expect(movedLimits(list, 'a', 5000)).toEqual({});
    for (const n of [5200, 6000, 6999]) {
      const made = movedLimits(list, 'c', n) ?? {};
      expect(list.reduce((s, m) => s + (made[m.id] ?? m.triangleLimit), 0)).toBe(15_000);
    }
  });
});
