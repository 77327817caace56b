import { beforeAll, describe, expect, it } from 'vitest';
import { ball } from '../../test/scenes';
import { cube, sheet } from '../../test/shapes';
import { encodePng } from '../image/png';
import { IDENTITY } from '../maths/mat4';
import { type PolyMesh, withAttribute } from '../mesh/polymesh';
import { bake } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { exportGlb } from '../pipeline/export';
import { unwrap } from '../pipeline/unwrap';
import { type JudgeInput, type Judgement, judge } from './judge';
import { STEP } from './off';
import { type HighSide, highSide } from './prepare';
import { verdictOf } from './verdict';

const judgementOf = async (input: JudgeInput): Promise<Judgement> => (await judge(input)).judgement;

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
  const judged = (png: Uint8Array, y: 'up' | 'down' = 'up') => judgementOf({ glb, png, y, high });

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
    const right = await judgementOf({ glb, png: painted(() => slope), y: 'up', high: ramp });
    const wrong = await judgementOf({ glb, png: painted(() => slope), y: 'down', high: ramp });
    expect(asUp.mean).toBeCloseTo((0.3 * 180) / Math.PI, 0);
    expect(right.mean).toBeLessThan(1);
    expect(wrong.mean).toBeCloseTo((0.6 * 180) / Math.PI, 0);
  });
  it('every texel is looked at, and the worst places are apart and in order, each with its part', async () => {
    // Three spots of 5 × 5 texels, 60°, 40° and 20° off.
    const spots = [
      [12, 12, 60],
      [44, 14, 40],
      [30, 48, 20],
    ];
    const png = painted((x, y) => tilted(spots.find(([a, b]) => Math.abs(x - a) < 3 && Math.abs(y - b) < 3)?.[2] ?? 0));
    const { judgement: j, off } = await judge({ glb, png, y: 'up', high });
    expect(j.texels).toBe(SIZE * SIZE);
    expect(off.every((o) => o > 0)).toBe(true);
    expect(off[12 * SIZE + 12]).toBe(1 + Math.floor(j.worst / STEP));
    expect(j.places.slice(0, 3).map((p) => Math.round(p.degrees))).toEqual([60, 40, 20]);
    for (const [k, [x, y]] of spots.entries()) {
      const at = j.places[k];
      expect(Math.hypot(at.x - ((x + 0.5) / SIZE - 0.5) * 10, at.z - ((y + 0.5) / SIZE - 0.5) * 10)).toBeLessThan(1.4);
      expect([at.id, at.part]).toEqual(['p', 'p']);
    }
    const mean = (3 * 25 * 40 + (SIZE * SIZE - 75) * 0.32) / SIZE ** 2;
    expect(Math.abs(j.mean - mean)).toBeLessThan(0.05);
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
    const j = await judgementOf({ glb: file, png: painted(() => [0, 0, 1]), y: 'up', high: new Map([['c', highSide(cube(20))]]) });
    expect(j.seamMean).toBeLessThan(1.2);
  });
});

describe('a part baked from itself with its edges rounded', () => {
  it('leans by half the angle at its edges, where both sides now meet, and nowhere else; what is rounded is not called wrong', async () => {
    const hard = withAttribute(cube(20), { name: 'hard', domain: 'corner', size: 1, data: new Uint8Array(24).fill(1) });
    const made = { id: 'c', name: 'c', mesh: hard, placements: [IDENTITY] };
    const { parts } = unwrap([made], { size: 256, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} });
    const baked = async (roundMm: number) =>
      (
        await bake(
          parts,
          [],
          new Map(),
          { ...BAKE_DEFAULTS, size: 256, samples: 4, bits: 16, occlusion: false, curvature: false, itself: true, roundMm },
          () => 0,
        )
      ).figures;
    const sharp = await baked(0);
    expect(sharp.judgement?.mean).toBeLessThan(0.1);
    expect(sharp.judgement?.worst).toBeLessThan(0.1);
    expect(sharp.judgement?.seamMean).toBeCloseTo(90, 0);
    const round = await baked(2);
    expect(round.roundedMm).toBe(2);
    expect(round.judgement?.mean).toBeLessThan(0.1);
    // Half a texel from an edge it still leans 45° less what a tenth of a millimetre takes.
    expect(round.judgement?.seamMean).toBeLessThan(6);
    // A frame of 2 mm round faces of 20 mm is 36 % of them.
    expect(Math.abs((round.judgement?.parts[0].roundedShare ?? 0) - 0.36)).toBeLessThan(0.03);
    expect(round.leaningShare).toBeGreaterThan(0.25);
  });
});

describe('how much of a map only mends shading', () => {
  it('a cube shaded softly is mended all over, one with hard edges nowhere; a ball over a coarse one is no mending', async () => {
    const figures = async (low: PolyMesh, dense: PolyMesh) => {
      const { parts } = unwrap([{ id: 'c', name: 'c', mesh: low, placements: [IDENTITY] }], {
        size: 128,
        padding: 4,
        seamAngle: 50,
        rotate: true,
        weights: {},
        regions: {},
      });
      const high = [{ id: 'c', name: 'c', mesh: dense, placements: [IDENTITY] }];
      const chosen = { ...BAKE_DEFAULTS, size: 128, samples: 1 as const, occlusion: false, curvature: false };
      return (await bake(parts, high, new Map(), chosen, () => 0)).figures;
    };
    const hard = (m: PolyMesh) =>
      withAttribute(m, { name: 'hard', domain: 'corner', size: 1, data: new Uint8Array(m.faceVert.length).fill(1) });
    // All but what lies within 5° of the corner normals’ mean, in the middle of each face.
    const soft = await figures(cube(20), hard(cube(20)));
    expect(soft.mendingShare).toBeGreaterThan(0.9);
    expect(soft.pairs[0].mendingShare).toBe(soft.mendingShare);
    expect((await figures(hard(cube(20)), hard(cube(20)))).mendingShare).toBe(0);
    expect((await figures(ball(10, [0, 0, 0], 8), ball(10, [0, 0, 0], 64))).mendingShare).toBeLessThan(0.05);
  });
});

describe('the verdict', () => {
  const j = (mean: number, p95: number): Judgement => ({
    mean,
    p95,
    worst: p95 * 2,
    worstAt: { part: 'Rim', x: 0, y: 0, z: 0 },
    places: [],
    seams: [],
    seamMean: 0,
    seamP95: 0,
    texels: 1000,
    parts: [
      { name: 'Rim', mean: mean * 2, p95, worst: p95, texels: 700, roundedShare: 0 },
      { name: 'Base', mean: 0.1, p95: 1, worst: 1, texels: 300, roundedShare: 0 },
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
      cure: { words: 'Search as far as measured and bake again', settings: { distances: 'measured' } },
    });
    expect(verdictOf(j(1, 2), { ...figures, missedShare: 0.019 }).cure).toBeUndefined();
    // Split directions leave gaps whatever the distances are.
    const split = verdictOf(j(1, 2), { ...figures, missedShare: 0.019, distances: 'uniform', directions: 'split' });
    expect([split.change, split.cure?.settings]).toEqual([expect.stringMatching(/^Average/), { directions: 'averaged' }]);
    expect(verdictOf(j(1, 2), { ...figures, missedShare: 0.019 }).change).toMatch(/close the high mesh/);
    expect(verdictOf(j(1, 2), { ...figures, missedShare: 0.019, dabs: [{}] }).change).toMatch(/Erase what was painted/);
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
