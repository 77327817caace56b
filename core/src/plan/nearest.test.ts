import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type About, type Judged, nearest, suggestions, unlikeness } from './nearest';

const about = (sizeMm: number | null, materials: string[] = ['Aged brass'], parts = 6): About => ({
  sizeMm,
  parts,
  triangles: 4000,
  materials,
  roles: ['body'],
});
const names = fc.uniqueArray(fc.constantFrom('Aged brass', 'Clear glass', 'Red paint', 'Oiled oak', 'Black enamel'), { maxLength: 5 });
const piece: fc.Arbitrary<About> = fc.record({
  sizeMm: fc.option(fc.integer({ min: 10, max: 3000 })),
  parts: fc.integer({ min: 1, max: 40 }),
  triangles: fc.option(fc.integer({ min: 100, max: 50_000 })),
  materials: names,
  roles: fc.constantFrom(['body'], ['body', 'glass'], ['body', 'fastener']),
});

describe('which pieces are near', () => {
  it('a piece is like itself, as unlike another as the other is to it, and never less than alike', () => {
    fc.assert(
      fc.property(piece, piece, (a, b) => {
        expect(unlikeness(a, a)).toBe(0);
        expect(unlikeness(a, b)).toBeCloseTo(unlikeness(b, a), 12);
        expect(unlikeness(a, b)).toBeGreaterThanOrEqual(0);
      }),
    );
  });
  it('the nearest are those that brute force finds: none left out is nearer than one taken', () => {
    fc.assert(
      fc.property(piece, fc.array(piece, { maxLength: 30 }), fc.integer({ min: 1, max: 8 }), (to, list, count) => {
        const runs = list.map((a, i) => ({ about: a, i }));
        const taken = nearest(to, runs, count);
        expect(taken).toHaveLength(Math.min(count, list.length));
        const farthest = Math.max(0, ...taken.map((t) => unlikeness(to, t.about)));
        for (const r of runs) if (!taken.includes(r)) expect(unlikeness(to, r.about)).toBeGreaterThanOrEqual(farthest);
      }),
    );
  });
});

describe('what they suggest', () => {
  const run = (asset: string, settings: object, kept: boolean, of: About = about(200)): Judged => ({
    asset,
    stage: 'bake',
    settings: settings as Judged['settings'],
    figures: {},
    kept,
    about: of,
  });
  const six = [true, true, true, false, true, true].map((kept, i) => run(`p${i % 3}`, { reachMm: 12 }, kept));
  it('the value that was kept most, with how often that was; what is set already is no suggestion', () => {
    const [s] = suggestions(about(210), 'bake', six, ['reachMm', 'samples'], { reachMm: 5 });
    expect(s).toMatchObject({ key: 'reachMm', value: 12, kept: 5, of: 6, pieces: 3, sentence: 'kept 5 of 6 times, on 3 pieces' });
    expect(suggestions(about(210), 'bake', six, ['reachMm'], { reachMm: 12 })).toEqual([]);
  });
  it('two runs are called two runs, and what was dropped more often than kept is not suggested', () => {
    expect(suggestions(about(210), 'bake', six.slice(0, 2), ['reachMm'], {})[0].sentence).toBe('two runs, both kept, on 2 pieces');
    expect(suggestions(about(210), 'bake', [run('a', { reachMm: 3 }, false), run('a', { reachMm: 3 }, true)], ['reachMm'], {})).toEqual([]);
    expect(suggestions(about(210), 'unwrap', six, ['reachMm'], {})).toEqual([]);
  });
  it('one that was planted on a near piece surfaces before many that lie far away', () => {
    const far = Array.from({ length: 40 }, (_, i) => run(`far${i}`, { reachMm: 400 }, true, about(9000, ['Slate'], 40)));
    const near = Array.from({ length: 24 }, (_, i) => run(`near${i % 4}`, { reachMm: 8 }, true));
    expect(suggestions(about(190), 'bake', [...far, ...near], ['reachMm'], {})[0].value).toBe(8);
  });
});
