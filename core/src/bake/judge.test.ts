import { beforeAll, describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { encodePng } from '../image/png';
import { IDENTITY } from '../maths/mat4';
import { exportGlb } from '../pipeline/export';
import { unwrap } from '../pipeline/unwrap';
import { type Judgement, judge, verdictOf } from './judge';
import { type HighSide, highSide } from './prepare';

/** Maps painted by hand, so that what the judge should say is known beforehand. */
const SIZE = 64;
const painted = (n: (x: number, y: number) => [number, number, number]) => {
  const data = new Uint8Array(3 * SIZE * SIZE);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const v = n(x, y);
      const l = Math.hypot(...v);
      v.forEach((c, k) => {
        data[3 * (y * SIZE + x) + k] = Math.round((c / l) * 127.5 + 127.5);
      });
    }
  return encodePng({ width: SIZE, height: SIZE, channels: 3, depth: 8, data });
};
const tilted = (degrees: number): [number, number, number] => [Math.sin((degrees * Math.PI) / 180), 0, Math.cos((degrees * Math.PI) / 180)];

describe('the judge', () => {
  let glb: Uint8Array;
  let high: Map<string, HighSide>;
  beforeAll(async () => {
    const flat = sheet(2, 10, () => 0);
    glb = await exportGlb([{ id: 'p', name: 'p', mesh: flat, placements: [IDENTITY] }], {
      name: 'p',
      tangents: true,
      materials: [],
      materialOf: () => null,
    });
    high = new Map([['p', highSide(sheet(4, 10, () => 0))]]);
  });
  const judged = (png: Uint8Array, y: 'up' | 'down' = 'up') => judge({ glb, png, y, high });

  it.each([0, 5, 20, 60])('a map tilted by %i° on a flat pair is %i° off', async (degrees) => {
    const j = await judged(painted(() => tilted(degrees)));
    expect(j.mean).toBeCloseTo(Math.max(degrees, 0.32), 0);
    expect(j.worst - j.mean).toBeLessThan(0.5);
    expect(j.texels).toBeGreaterThan(3000);
  });
  it('half the texels wrong: the mean is half, the 95th of a hundred is whole', async () => {
    const j = await judged(painted((x) => tilted(x < SIZE / 2 ? 0 : 40)));
    expect(j.mean).toBeCloseTo(20.2, 0);
    expect(j.p95).toBeCloseTo(40, 0);
    expect(j.worstAt.part).toBe('p');
    // The right half of the sheet is +x.
    expect(j.worstAt.x).toBeGreaterThan(0);
  });
  it('the wrong way up is seen: a slope along v, read as the other sense, is off by twice its tilt', async () => {
    const slope: [number, number, number] = [0, Math.sin(0.3), Math.cos(0.3)];
    const asUp = await judged(painted(() => slope));
    const ramp = new Map([['p', highSide(sheet(4, 10, (_x, z) => z * Math.tan(0.3)))]]);
    const right = await judge({ glb, png: painted(() => slope), y: 'up', high: ramp });
    const wrong = await judge({ glb, png: painted(() => slope), y: 'down', high: ramp });
    expect(asUp.mean).toBeCloseTo((0.3 * 180) / Math.PI, 0);
    expect(right.mean).toBeLessThan(1);
    expect(wrong.mean).toBeCloseTo((0.6 * 180) / Math.PI, 0);
  });
  it('a flat map on a cube meets itself at its seams to the angle of its edges', async () => {
    const laid = unwrap([{ id: 'c', name: 'c', mesh: cube(20), placements: [IDENTITY] }], {
      size: 64,
      padding: 4,
      seamAngle: 50,
      rotate: true,
      weights: {},
      regions: {},
    });
    // Smooth normals: both sides of every edge share one direction, so a flat map meets itself exactly.
    const file = await exportGlb(laid.parts, { name: 'c', tangents: true, materials: [], materialOf: () => null });
    const j = await judge({ glb: file, png: painted(() => [0, 0, 1]), y: 'up', high: new Map([['c', highSide(cube(20))]]) });
    expect(j.seamMean).toBeLessThan(1.2);
  });
});

describe('the verdict', () => {
  const j = (mean: number, p95: number): Judgement => ({
    mean,
    p95,
    worst: p95 * 2,
    worstAt: { part: 'Rim', x: 0, y: 0, z: 0 },
    seamMean: 0,
    seamP95: 0,
    texels: 1000,
    parts: [
      { name: 'Rim', mean: mean * 2, p95, texels: 700 },
      { name: 'Base', mean: 0.1, p95: 1, texels: 300 },
    ],
  });
  const figures = {
    missedShare: 0,
    backShare: 0,
    bits: 8 as const,
    samples: 4,
    distances: 'measured' as const,
    neededFront: 0.9,
    neededRear: 1.4,
  };
  it('missed rays come first, with the distances that would find them', () => {
    expect(verdictOf(j(1, 2), { ...figures, missedShare: 0.019, distances: 'uniform' })).toEqual({
      level: 'over',
      sentence: '1.9 % of the rays find nothing.',
      change: 'Search 0.9\u00a0mm outward and 1.4\u00a0mm inward: the meshes are never further apart.',
    });
    expect(verdictOf(j(1, 2), { ...figures, missedShare: 0.019 }).change).toMatch(/close the high mesh/);
  });
  it('back faces next', () => {
    expect(verdictOf(j(1, 2), { ...figures, backShare: 0.02 }).sentence).toMatch(/2\.0 % of the rays meet the back/);
    expect(verdictOf(j(1, 2), { ...figures, backShare: 0.02, distances: 'uniform' }).change).toMatch(/measured distances/);
  });
  it('then what it lies in: bits, samples, texels', () => {
    expect(verdictOf(j(0.4, 1), figures).change).toMatch(/16 bits/);
    expect(verdictOf(j(2, 12), { ...figures, samples: 1 }).change).toMatch(/2 × 2 samples/);
    expect(verdictOf(j(2, 12), { ...figures, samples: 2 }).change).toMatch(/4 × 4 samples.*Rim/);
    expect(verdictOf(j(4, 14), figures)).toMatchObject({ level: 'near', change: expect.stringMatching(/^Rim carries most of it/) });
    expect(verdictOf(j(8, 40), figures).level).toBe('over');
    expect(verdictOf(j(1.5, 4), figures)).toMatchObject({ level: 'ok', change: null });
  });
});
