import { beforeAll, describe, expect, it } from 'vitest';
import { BOTTLE, bottle } from '../../test/bottle';
import { testKit } from '../../test/kit';
import { cube, torusMesh } from '../../test/shapes';
import { briefFor } from '../brief/brief';
import { sheetSvg } from '../drawing/vector-sheet';
import { kindOf, type Step, type StepName } from '../form/steps/index';
import type { Kit } from '../kit';
import type { Vec3 } from '../maths/vec3';
import type { PolyMesh } from '../mesh/polymesh';
import { type AssetDocument, newDocument } from '../pipeline/document';
import { formAsset } from '../pipeline/form';
import { openPrints } from '../pipeline/printed';
import { composeAsset } from '../pipeline/surface';
import { unwrap, unwrapSettings } from '../pipeline/unwrap';
import { fromLibrary } from '../surface/library';
import { judgePrint } from './judge';
import { layPrint } from './lay';
import { type Artwork, INK, type Print } from './print';
import { printTemplate } from './template';
import { printVerdicts } from './verdict';

const none = () => {
  throw new Error('nothing stored');
};
const meshOf = (d: AssetDocument): PolyMesh => formAsset(d, 'low', none).parts[0].mesh;
const BALANCED = { balanced: new Set(['body']) };
const BARS: Artwork = { kind: 'bars', seed: 1, width: 90, height: 60, colour: [0, 0, 0] };

const label = (more: Partial<Print> = {}): Print => ({
  id: 'front',
  name: 'Front',
  on: true,
  part: 'body',
  artwork: BARS,
  width: 90,
  height: 60,
  at: { point: [0, 66, 35], normal: [0, 0, 1] },
  across: { from: 'middle', mm: 0 },
  up: { from: 'low', mm: 20 },
  turn: 0,
  ink: INK,
  ...more,
});

/** A piece of one part made by one step. */
function pieceOf<K extends StepName>(kind: K, more: Partial<Extract<Step, { kind: K }>>): AssetDocument {
  const d = newDocument('Piece', briefFor('product'));
  return {
    ...d,
    materials: [{ ...fromLibrary('enamel', 'paint'), layers: [] }],
    parts: [
      {
        ...bottle().parts[0],
        material: 'paint',
        shape: { kind: 'recipe', steps: [{ ...kindOf(kind).fresh(), kind, id: 'body', enabled: true, ...more } as unknown as Step] },
      },
    ],
  };
}

describe('a print on a bottle of Ø 70', () => {
  for (const sides of [24, 36, 61])
    it(`goes round by its arc, whatever its sides: ${sides}`, () => {
      const mesh = meshOf(bottle(sides));
      const laid = layPrint(mesh, label(), BALANCED);
      expect(laid.carrier.kind).toBe('round');
      expect(laid.carrier.round?.radius).toBeCloseTo(35, 6);
      const f = judgePrint(mesh, laid, 1024);
      // 90 mm on Ø 70: 90 / (π · 70) of a turn.
      expect(f.round?.degrees).toBeCloseTo((90 / (Math.PI * 70)) * 360, 4);
      expect(f.round?.degrees).toBeCloseTo(147.3, 1);
      expect(f.edges).toEqual({ left: null, right: null, below: expect.closeTo(20, 6), above: expect.closeTo(40, 6) });
      expect(f.off).toBeLessThan(1e-4);
      // Its edges lie where the arc to there is 45 mm long.
      for (const s of [-1, 1]) {
        const p: Vec3 = [35 * Math.sin((s * 45) / 35), BOTTLE.from + 20, 35 * Math.cos(45 / 35)];
        const [x, y] = laid.carrier.unrolled(p, -1, laid.middle);
        expect(x).toBeCloseTo(s * 45, 6);
        expect(y).toBeCloseTo(-30, 6);
      }
    });

  it('has a back half once round from its front, and what doesn’t fit is said', () => {
    const mesh = meshOf(bottle(24));
    const round = Math.PI * 70;
    const back = layPrint(mesh, label({ across: { from: 'middle', mm: round / 2 } }), BALANCED);
    const [x] = back.carrier.unrolled([0, 60, -35], -1, back.middle);
    expect(x).toBeCloseTo(0, 6);
    expect(judgePrint(mesh, back, 1024).off).toBeLessThan(1e-4);
    const high = label({ up: { from: 'low', mm: 90 } });
    const f = judgePrint(mesh, layPrint(mesh, high, BALANCED), 1024);
    // Half of its 60 mm stands over the wall’s upper edge.
    expect(f.off).toBeCloseTo(0.5, 3);
    expect(printVerdicts(f, high, briefFor('product'))[0]).toMatchObject({
      level: 'over',
      sentence: expect.stringContaining('50 % of it'),
    });
    const wide = layPrint(mesh, label({ width: round, height: 100, up: { from: 'middle', mm: 0 } }), BALANCED);
    expect(judgePrint(mesh, wide, 1024).off).toBeLessThan(1e-4);
  });

  it('is put where it was clicked and moved from there in millimetres', () => {
    const mesh = meshOf(bottle(36));
    const angle = 0.6;
    const at = { point: [35 * Math.sin(angle), 50, 35 * Math.cos(angle)] as Vec3, normal: [Math.sin(angle), 0, Math.cos(angle)] as Vec3 };
    const put = layPrint(mesh, label({ at, width: 20, height: 10, across: { from: 'put', mm: 2 }, up: { from: 'put', mm: -3 } }), BALANCED);
    expect(put.middle[0]).toBeCloseTo(35 * angle + 2, 1);
    expect(put.middle[1] - put.carrier.coordinates([0, 47, 35])[1]).toBeCloseTo(0, 6);
  });
});

describe('a template of a print', () => {
  it('is a sheet of its own size with the edges of its face where they lie, which painted over comes back to the pixel', async () => {
    const mesh = meshOf(pieceOf('box', { name: 'Box', width: 120, height: 70, depth: 80, body: 'solid', corner: 0 } as never));
    // Its left edge stands 10 mm over that of the face.
    const print = label({
      width: 60,
      height: 40,
      at: { point: [0, 35, 40], normal: [0, 0, 1] },
      across: { from: 'low', mm: -10 },
      up: { from: 'low', mm: 5 },
      keepClear: 4,
    });
    const svg = sheetSvg(printTemplate(mesh, layPrint(mesh, print)));
    expect(svg).toContain('width="60mm" height="40mm" viewBox="0 0 60 40"');
    const [edges] = /id="edges"><path[^>]* d="([^"]*)"/.exec(svg)?.slice(1) ?? [];
    const ends = edges.match(/[ML][^ML]+/g)?.map((p) => p.slice(1).split(' ').map(Number)) ?? [];
    expect(ends.length).toBe(2);
    for (const [x] of ends) expect(x).toBeCloseTo(10, 3);
    expect(ends.map(([, y]) => y).sort((a, b) => a - b)).toEqual([expect.closeTo(0, 3), expect.closeTo(40, 3)]);
    expect(svg).toContain('d="M4 4L56 4L56 36L4 36Z"');
    const kit = await testKit();
    expect(kit.drawings?.(svg, 1417)).toMatchObject({ width: 1417, height: 945 });
  });
});

describe('what prints lie on', () => {
  it('is unrolled round its tip where it is a cone', () => {
    const d = pieceOf('turned', {
      name: 'Funnel',
      body: 'solid',
      profile: {
        points: [
          { id: 'p0', r: 50, y: 0 },
          { id: 'p1', r: 20, y: 60 },
        ],
        segments: [{ id: 's0', name: 'wall', kind: 'line' }],
      },
    } as never);
    const mesh = meshOf({ ...d, form: { ...d.form, locks: { 'body.sides': 32 } } });
    const print = label({ at: { point: [0, 30, 35], normal: [0, 0.45, 0.9] }, width: 40, height: 20, up: { from: 'middle', mm: 0 } });
    const { carrier, middle } = layPrint(mesh, print, BALANCED);
    expect(carrier.kind).toBe('cone');
    // Developed by hand: radius along the side is r / sin of half the opening, angles shrink by that sine.
    const sine = 30 / Math.hypot(30, 60);
    for (const [angle, y] of [
      [0.5, 30],
      [-0.4, 12],
      [0.2, 55],
    ]) {
      const r = 50 - y / 2;
      const [x, up] = carrier.unrolled([r * Math.sin(angle), y, r * Math.cos(angle)], -1, middle);
      expect(x).toBeCloseTo((r / sine) * Math.sin(angle * sine), 1);
      expect(Math.abs(x - (r / sine) * Math.sin(angle * sine))).toBeLessThan(0.02);
      expect(Math.abs(up - (35 / sine - (r / sine) * Math.cos(angle * sine)))).toBeLessThan(0.02);
    }
  });

  it('goes round the corners of a tin by their arcs', () => {
    const mesh = meshOf(pieceOf('box', { name: 'Tin', width: 120, height: 70, depth: 80, body: 'solid', corner: 15 } as never));
    const girth = 2 * (90 + 50) + 2 * Math.PI * 15;
    const wrap = label({ width: girth, height: 50, at: { point: [0, 35, 40], normal: [0, 0, 1] }, up: { from: 'middle', mm: 0 } });
    const laid = layPrint(mesh, wrap);
    expect(laid.carrier.kind).toBe('wall');
    expect(Math.abs((laid.carrier.girth?.mm ?? 0) - girth)).toBeLessThan(0.02);
    expect(judgePrint(mesh, laid, 1024).off).toBeLessThan(1e-3);
    // What fits on the front alone is measured from the front’s own edges.
    const small = layPrint(mesh, label({ width: 60, height: 40, at: wrap.at, across: { from: 'low', mm: 5 }, up: { from: 'low', mm: 5 } }));
    expect(small.carrier.kind).toBe('flat');
    expect(judgePrint(mesh, small, 1024).edges.right).toBeCloseTo(90 - 60 - 5, 3);
  });

  it('is a flat of a cube, its top seen from the front', () => {
    const mesh = cube(40);
    const top = layPrint(
      mesh,
      label({ width: 30, height: 10, at: { point: [5, 40, 5], normal: [0, 1, 0] }, up: { from: 'middle', mm: 0 } }),
    );
    expect(top.carrier.kind).toBe('flat');
    // Right is right, and up is away from who stands before it.
    const [x0, y0] = top.carrier.coordinates([0, 40, 0]);
    const [x1, y1] = top.carrier.coordinates([1, 40, -1]);
    expect([x1 - x0, y1 - y0]).toEqual([expect.closeTo(1, 9), expect.closeTo(1, 9)]);
  });

  it('reads from where it is seen, inside a wall too', () => {
    const d = pieceOf('turned', {
      name: 'Cup',
      body: 'wall',
      wall: 4,
      profile: {
        points: [
          { id: 'p0', r: 40, y: 0 },
          { id: 'p1', r: 40, y: 80 },
        ],
        segments: [{ id: 's0', name: 'wall', kind: 'line' }],
      },
    } as never);
    const mesh = meshOf({ ...d, form: { ...d.form, locks: { 'body.sides': 32 } } });
    const inside = layPrint(
      mesh,
      label({
        width: 40,
        height: 20,
        at: { point: [0, 40, -36], normal: [0, 0, 1] },
        across: { from: 'put', mm: 0 },
        up: { from: 'middle', mm: 0 },
      }),
      BALANCED,
    );
    expect(inside.carrier.kind).toBe('round');
    // Looked at from the front, over the rim: right is +x there as it is on the outside in front.
    const [x, y] = inside.carrier.unrolled([5, 45, -Math.sqrt(36 * 36 - 25)], -1, inside.middle);
    expect(x).toBeCloseTo(36 * Math.asin(5 / 36), 1);
    expect(y).toBeCloseTo(5, 6);
    const outside = layPrint(
      mesh,
      label({ width: 40, height: 20, at: { point: [0, 40, 40], normal: [0, 0, 1] }, up: { from: 'middle', mm: 0 } }),
      BALANCED,
    );
    expect(outside.carrier.unrolled([5, 45, Math.sqrt(1600 - 25)], -1, outside.middle)[0]).toBeCloseTo(40 * Math.asin(5 / 40), 1);
  });

  it('is drawn out where it can’t be unrolled, and that is said', () => {
    const mesh = torusMesh(60, 25, 96, 64);
    const at = { point: [85, 0, 0] as Vec3, normal: [1, 0, 0] as Vec3 };
    const small = label({ width: 8, height: 8, at, across: { from: 'put', mm: 0 }, up: { from: 'put', mm: 0 } });
    const little = judgePrint(mesh, layPrint(mesh, small), 1024);
    expect(little.lies).toBe('draped');
    expect(little.off).toBeLessThan(0.01);
    expect(little.stretch.most).toBeLessThan(1.03);
    const large = { ...small, width: 60, height: 60 };
    const much = judgePrint(mesh, layPrint(mesh, large), 1024);
    expect(much.stretch.most).toBeGreaterThan(1.1);
    expect(
      printVerdicts(much, large, briefFor('product'))
        .map((v) => v.sentence)
        .join(),
    ).toMatch(/drawn out by up to/);
  });
});

describe('a printed set', () => {
  let kit: Kit;
  beforeAll(async () => {
    kit = await testKit();
  });
  /** Where the ink of a bottle’s print lies on its set, on the mean: mm round and up. */
  async function inkOf(sides: number, print: Print, size: number): Promise<{ x: number; y: number; pixel: number }> {
    const d = { ...bottle(sides), prints: [print] };
    const laid = unwrap(formAsset(d, 'low', none).parts, unwrapSettings(d)).parts;
    const pictures = await openPrints(d, laid, size, { kit, read: () => undefined });
    const { set, figures } = composeAsset(d, laid, {}, size, () => 0, undefined, pictures);
    const plain = composeAsset({ ...d, prints: [] }, laid, {}, size, () => 0).set;
    const { mesh } = laid[0];
    const { carrier, middle } = layPrint(mesh, print, BALANCED);
    const uv = mesh.attributes.find((a) => a.name === 'uv')?.data as Float64Array;
    let [sx, sy, n] = [0, 0, 0];
    const { fillTriangle } = await import('../image/raster');
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[t + k]);
      const at = (i: number) => [uv[2 * i] * size, (1 - uv[2 * i + 1]) * size] as const;
      const p = [a, b, c].map((i) => [0, 1, 2].map((k) => mesh.positions[3 * mesh.faceVert[i] + k]));
      fillTriangle(...at(a), ...at(b), ...at(c), size, size, (x, y, w0, w1, w2) => {
        const i = 3 * (y * size + x);
        const ink = (plain.baseColour[i] - set.baseColour[i]) / Math.max(1, plain.baseColour[i]);
        if (!(ink > 0.01)) return;
        const place = [0, 1, 2].map((k) => w0 * p[0][k] + w1 * p[1][k] + w2 * p[2][k]) as unknown as Vec3;
        const [mx, my] = carrier.unrolled(place, -1, middle);
        [sx, sy, n] = [sx + ink * mx, sy + ink * my, n + ink];
      });
    }
    return { x: sx / n, y: sy / n, pixel: 1 / (figures.printed?.prints[0].pxPerMm.mean ?? 1) };
  }

  it('has its ink where it was put, on 24 sides and on 36', async () => {
    // Drawn as an arrow would be: nothing of it is symmetric.
    const arrow = label({
      artwork: { kind: 'text', text: '1>', capital: 30, tracking: 0, leading: 1.6, align: 'middle', arc: 0, colour: [0, 0, 0] },
      width: 60,
      height: 30,
    });
    const [few, many] = [await inkOf(24, arrow, 512), await inkOf(36, arrow, 512)];
    expect(Math.abs(few.x - many.x)).toBeLessThan(0.5 * few.pixel);
    expect(Math.abs(few.y - many.y)).toBeLessThan(0.5 * few.pixel);
  });
});
