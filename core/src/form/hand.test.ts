import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { transformDirection, transformPoint } from '../maths/mat4';
import { boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import type { PolyMesh } from '../mesh/polymesh';
import { showing } from './cover';
import { budgetOf, form, NOWHERE } from './recipe';
import type { Detail } from './step';
import type { Step } from './steps';

const low: Detail = { mesh: 'low', count: () => 12 };
const peg = stepOf('box', { id: 'peg', width: 4, height: 10, depth: 4, corner: 0, edgeRadius: 0 });
const formed = (...steps: Step[]) => form([peg, ...steps], low);
const row = (more: object = {}) => stepOf('row', { count: 6, dx: 20, dy: 0, dz: 0, ...more });
/** Size, lean and foot of a copy. */
function seen(m: Parameters<typeof transformPoint>[0]) {
  const up = transformDirection(m, [0, 1, 0]);
  const size = Math.hypot(...up);
  return { size, lean: (Math.acos(Math.min(1, up[1] / size)) * 180) / Math.PI, foot: transformPoint(m, [0, 0, 0]) };
}

describe('copies set by hand', () => {
  it('without a hand they stand exactly as they did', () => {
    expect(formed(row()).placements.map((m) => transformPoint(m, [1, 2, 3])[0])).toEqual([1, 21, 41, 61, 81, 101]);
  });
  it('vary in size, lean and turn within what was asked, about what they stand on', () => {
    const { placements } = formed(
      row({ count: 200, handSmallest: 0.8, handLargest: 1.3, leanLeast: 5, leanMost: 12, turnMost: 30, handSeed: 3 }),
    );
    const all = placements.map(seen);
    for (const [i, { size, lean, foot }] of all.entries()) {
      expect(size).toBeGreaterThanOrEqual(0.8 - 1e-12);
      expect(size).toBeLessThanOrEqual(1.3 + 1e-12);
      expect(lean).toBeGreaterThanOrEqual(5 - 1e-6);
      expect(lean).toBeLessThanOrEqual(12 + 1e-6);
      // Their foot stays where it was: middle of the peg’s foot.
      expect(Math.hypot(foot[0] - 20 * i, foot[1], foot[2])).toBeLessThan(1e-9);
    }
    const mean = all.reduce((s, x) => s + x.size, 0) / all.length;
    // Drawn evenly: the mean of 200 is within three standard errors, 0.5/√12/√200.
    expect(Math.abs(mean - 1.05)).toBeLessThan((3 * 0.5) / Math.sqrt(12 * 200));
  });
  it('the same seed comes out the same, another differs, and more copies change none of the first', () => {
    const of = (more: object) => formed(row({ handSmallest: 0.5, handLargest: 1.5, leanMost: 20, handSeed: 1, ...more })).placements;
    expect(of({})).toEqual(of({}));
    expect(of({ count: 9 }).slice(0, 6)).toEqual(of({}));
    expect(of({ handSeed: 2 })).not.toEqual(of({}));
  });
  it('single ones are moved or left out; the others, the budget and the applied mesh follow', () => {
    const own = [
      { id: 'a', copy: 2, dx: 0, dy: 3, dz: -1, drop: false },
      { id: 'b', copy: 5, dx: 0, dy: 0, dz: 0, drop: true },
    ];
    const { placements } = formed(row({ own }));
    expect(placements.map((m) => transformPoint(m, [0, 0, 0]))).toEqual([
      [0, 0, 0],
      [20, 3, -1],
      [40, 0, 0],
      [60, 0, 0],
      [100, 0, 0],
    ]);
    const steps = [peg, row({ own })];
    expect(budgetOf(steps).triangles(() => 12)).toBe(5 * 12);
    const one = formed(row({ own, applied: true })).mesh as PolyMesh;
    expect(volumeOf(one)).toBeCloseTo(5 * 160, 6);
    expect(isWatertight(one)).toBe(true);
  });
  it.each([
    ['array', stepOf('array', { count: 8, leanMost: 9, handSmallest: 0.9, handLargest: 1.1 } as never)],
    ['trail', stepOf('trail', { leanMost: 9, handSmallest: 0.9, handLargest: 1.1 } as never)],
  ])('%s takes a hand too', (_, step) => {
    const sizes = new Set(formed(step).placements.map((m) => seen(m).size.toFixed(6)));
    expect(sizes.size).toBeGreaterThan(2);
  });
});

describe('arranged by what is copied', () => {
  const pin = stepOf('turned', { id: 'pin', edgeRadius: 0.6 });
  const floor = form([stepOf('plate', { lies: 'flat' })], low).mesh as PolyMesh;
  const around = { ...NOWHERE, region: () => floor };
  it.each([
    ['leaning ones', row({ leanLeast: 3, leanMost: 20, handSmallest: 0.7, handLargest: 1.2 })],
    [
      'as many as hide so much',
      stepOf('scatter', { on: 'floor', spacing: 1, most: 60, smallest: 0.02, largest: 0.05, shows: 70, leanMost: 5 }),
    ],
  ])('%s stand in the same places in the low mesh, with other counts, and in the high one', (_, step) => {
    const of = (detail: Detail) => form([pin, step], detail, { surroundings: around }).placements;
    const all = of(low);
    expect(all.length).toBeGreaterThan(2);
    expect(of({ mesh: 'low', count: () => 30 })).toEqual(all);
    expect(of({ mesh: 'high', toleranceMm: 0.05 })).toEqual(all);
  });
});

describe('strewn until so much is hidden', () => {
  const floor = form([stepOf('box', { id: 'floor', width: 100, height: 1, depth: 100, corner: 0, edgeRadius: 0 })], low).mesh as PolyMesh;
  const { min, max } = boundsOf(floor);
  // Only its top.
  const top: PolyMesh = (() => {
    const faces = Array.from({ length: floor.triangles.length / 3 }, (_, t) => t).filter((t) =>
      [0, 1, 2].every((k) => floor.positions[3 * floor.faceVert[floor.triangles[3 * t + k]] + 1] > max[1] - 1e-9),
    );
    return { ...floor, triangles: Uint32Array.from(faces.flatMap((t) => [...floor.triangles.subarray(3 * t, 3 * t + 3)])) };
  })();
  const around = { ...NOWHERE, region: () => top };
  const scatter = (more: object) =>
    stepOf('scatter', { on: 'floor', spacing: 3, most: 500, smallest: 1, largest: 1, turned: false, ...more });
  it('takes the fewest that leave no more than the share, and no fewer would', () => {
    const pad = stepOf('box', { id: 'pad', width: 8, height: 1, depth: 8, corner: 0, edgeRadius: 0 });
    const made = form([pad, scatter({ shows: 60 })], low, { surroundings: around });
    const item = made.mesh as PolyMesh;
    const n = made.placements.length;
    expect(showing(top, item, made.placements)).toBeLessThanOrEqual(0.6);
    expect(showing(top, item, made.placements.slice(0, n - 1))).toBeGreaterThan(0.6);
    // Squares of 64 mm² on 10 000: by the Poisson estimate 1 − e^(−64n/10⁴) is hidden, more where they keep apart.
    expect(n).toBeGreaterThan(50);
    expect(n).toBeLessThan(Math.log(1 / 0.6) / 0.0064 + 25);
    expect(form([pad, scatter({ shows: 0 })], low, { surroundings: around }).placements.length).toBeGreaterThan(n);
    expect(max[0] - min[0]).toBe(100);
  });
  it('lean and single ones apply to what is strewn', () => {
    const made = form([peg, scatter({ leanLeast: 10, leanMost: 10, own: [{ id: 'a', copy: 1, dx: 0, dy: 0, dz: 0, drop: true }] })], low, {
      surroundings: around,
    });
    for (const m of made.placements) expect(seen(m).lean).toBeCloseTo(10, 6);
  });
});

describe('rows of a band', () => {
  it('have depths of their own: the volume of each row’s raised faces', () => {
    const band = stepOf('band', {
      columns: 40,
      rows: 3,
      radius: 30,
      height: 30,
      wall: 3,
      pattern: 'all',
      depth: 1,
      inset: 0,
      edgeRadius: 0,
      twistDegrees: 0,
    });
    const volume = (more: object) => volumeOf(form([{ ...band, ...more } as Step], low).mesh as PolyMesh);
    const bare = volume({ depth: 0 });
    const cell = 40 * 10 * 2 * 30 * Math.sin(Math.PI / 40);
    expect(volume({ own: [{ id: 'a', row: 2, depth: 2.5 }] }) - bare).toBeCloseTo(cell * (1 + 2.5 + 1), 4);
    expect(volume({ own: [{ id: 'a', row: 1, depth: 0 }] }) - bare).toBeCloseTo(cell * 2, 4);
    const said = form([{ ...band, own: [{ id: 'a', row: 4, depth: 1 }] } as Step], low).problems[0].message;
    expect(said).toBe('“Embossed band” has 3 rows; there is no row 4 to give a depth of its own.');
  });
});
