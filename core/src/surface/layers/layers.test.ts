import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../../test/shapes';
import { random } from '../../maths/random';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { compose } from '../compose';
import { makeGround } from '../ground';
import { LIBRARY } from '../library';
import { type Material, PLAIN } from '../material';
import { validity } from '../validity';
import { ballOf } from './ball';
import { cloudsAbove, Dents, octaves, rings, runs, Scratches, spotCell, spots, strands, strandsAbove, weave } from './draw';
import { FIELDS, type Field, type FieldKind, finestMm, usualField } from './fields';
import { type Join, type Layer, layersFault } from './layer';
import { boardsOf, emptyPlaces, fillPlaces } from './places';
import { fieldWords, lacking, layerWords } from './words';

const masked = (field: Field, join: Join = 'times', inverted = false) => ({ join, inverted, field });
const layer = (id: string, mask: Layer['mask'], look: Layer['look'] = { roughness: 1 }, more: Partial<Layer> = {}): Layer => ({
  id,
  name: id,
  on: true,
  opacity: 1,
  look,
  mask,
  ...more,
});
const material = (layers: Layer[], more: Partial<Material> = {}): Material => ({
  ...PLAIN,
  id: 'm',
  name: 'M',
  touched: true,
  roughness: 0,
  layers,
  ...more,
});

/** Composes parts and reads back, at each texel, where it lies and what it got. */
function composed(parts: { id: string; mesh: PolyMesh }[], size: number, layers: Layer[], more: Partial<Material> = {}) {
  const placed = parts.map((p) => ({ ...p, material: 0 }));
  const ground = makeGround({ parts: placed, size, curvature: null, occlusion: null, seed: 1 });
  const boards = boardsOf(placed);
  const places = emptyPlaces(size, 0, size);
  fillPlaces(placed, boards, places);
  const { set, figures } = compose(ground, [material(layers, more)], null, { places, boards });
  return { set, figures, places, ground, boards };
}
const shareOf = (layers: Layer[], mesh = sheet(1, 400, () => 0), size = 512) =>
  composed([{ id: 'p', mesh }], size, layers).figures.materials[0].layers;

/** A box whose six faces lie side by side on the tile, each to the same scale; mm. */
function box(w: number, h: number, d: number): PolyMesh {
  const base = cube(1);
  const positions = Float64Array.from(base.positions, (v, i) => v * [w, h, d][i % 3]);
  const mesh = makeMesh({ positions: [...positions], faceStart: [...base.faceStart], faceVert: [...base.faceVert] });
  const most = Math.max(w, h, d);
  const uv = new Float64Array(2 * mesh.faceVert.length);
  for (let f = 0; f < 6; f++) {
    const at = (k: number) => [0, 1, 2].map((x) => mesh.positions[3 * mesh.faceVert[4 * f + k] + x]);
    const [a, b, c] = [at(0), at(1), at(3)];
    const [u, v] = [Math.hypot(...a.map((x, k) => x - b[k])), Math.hypot(...a.map((x, k) => x - c[k]))];
    const [ox, oy] = [((f % 3) + 0.02) / 3, (Math.floor(f / 3) + 0.02) / 3];
    const s = 0.96 / 3 / most;
    for (const [k, [x, y]] of [
      [0, 0],
      [u, 0],
      [u, v],
      [0, v],
    ].entries())
      uv.set([ox + s * x, oy + s * y], 2 * (4 * f + k));
  }
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });
}

describe('fields by themselves', () => {
  const many = <T>(n: number, at: (x: number, y: number, z: number) => T): T[] => {
    const next = random(3);
    return Array.from({ length: n }, () => at(500 * next(), 500 * next(), 500 * next()));
  };
  const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;

  it('clouds and strands lie on the share that is asked for, whatever their size', () => {
    for (const share of [0.05, 0.3, 0.5, 0.8])
      for (const size of [3, 17]) {
        const [c, s] = [cloudsAbove(share), strandsAbove(share)];
        expect(Math.abs(mean(many(6000, (x, y, z) => (octaves(x, y, z, size, 9, 0) > c ? 1 : 0))) - share)).toBeLessThan(0.035);
        expect(Math.abs(mean(many(6000, (x, y, z) => strands(x, y, z, size / 10, size, s, share, 4, 0))) - share)).toBeLessThan(0.06);
      }
  });
  it('spots cover their share of any cut, by the volume of spheres strewn at random (Delesse 1847: the share of a cut is the share of the whole)', () => {
    for (const share of [0.05, 0.2, 0.5]) {
      const cell = spotCell(2, share);
      expect(Math.abs(mean(many(6000, (x, y) => spots(x, y, 7.7, 2, cell, 5, 0))) - share)).toBeLessThan(0.06);
    }
  });
  it('rings are as many a cm as are asked for, counted outward from the trunk’s middle', () => {
    // Along a line away from the trunk, which lies to one side and behind: late wood ends once a ring.
    let ends = 0;
    const [from, to, step] = [0, 200, 0.02];
    let isLate = false;
    for (let w = from; w < to; w += step) {
      const now = rings(0, 0, w, 4, 0, 77, 0);
      if (isLate && now < 0.15) ends++;
      isLate = now > 0.3 || (isLate && now >= 0.15);
    }
    // The line does not start at the middle, so it crosses them a little aslant.
    expect(ends).toBeGreaterThan(0.6 * 80);
    expect(ends).toBeLessThan(1.05 * 80);
    expect(mean(many(20_000, (x, y, z) => rings(x, y / 4, z / 4, 3, 4, 12, 0)))).toBeCloseTo(rings(0, 0, 0, 3, 4, 12, 9), 1);
  });
  it('end, edge and face of one board are cut from one trunk: they meet along its edges', () => {
    const mesh = box(200, 20, 40);
    const rows = [layer('late', [masked({ kind: 'rings', along: 'length', count: 1, wander: 4 })])];
    const { set, places } = composed([{ id: 'p', mesh }], 1024, rows);
    const [top, front] = [1, 2].map((k) => Math.max(...mesh.positions.filter((_, i) => i % 3 === k)));
    // What lies within 0.7 mm of the long edge between top and front, on either face, by mm along it.
    const along = [new Map<number, number>(), new Map<number, number>()];
    for (let i = 0; i < 1024 * 1024; i++) {
      if (!places.shell[i]) continue;
      const [x, y, z] = places.position.subarray(3 * i, 3 * i + 3);
      const face = top - y < 0.01 && front - z < 0.7 ? 0 : front - z < 0.01 && top - y < 0.7 ? 1 : -1;
      if (face >= 0) along[face].set(Math.round(x), set.orm[3 * i + 1] / 255);
    }
    const both = [...along[0].keys()].filter((x) => along[1].has(x));
    const off = (by: number) =>
      mean(both.filter((x) => along[1].has(x + by)).map((x) => Math.abs((along[0].get(x) as number) - (along[1].get(x + by) as number))));
    expect(both.length).toBeGreaterThan(150);
    expect(off(0)).toBeLessThan(0.1);
    // No two boards alike.
    const board = (seed: number) => Array.from({ length: 300 }, (_, i) => rings(0, i / 4, 8, 3, 6, seed, 0));
    const [a, b] = [board(1), board(2)];
    expect(a.filter((v, i) => Math.abs(v - b[i]) > 0.2).length).toBeGreaterThan(60);
  });
  it('scratches cover what their number, length and width come to, at any size of texel', () => {
    const drawn = new Scratches({ length: 10, width: 0.2, perMm2: 0.02, spread: Math.PI / 2 });
    const covered = (footprint: number) => mean(many(40_000, (x, y) => drawn.at(x, y, 3, footprint)));
    // Mean length 0.625 of the longest; across the line about ¾ of its width, along it 0.85, and from half to whole as deep.
    const wanted = 0.02 * 6.25 * 0.2 * 0.75 * 0.85 * 0.75;
    expect(covered(0) / wanted).toBeGreaterThan(0.8);
    expect(covered(0) / wanted).toBeLessThan(1.2);
    expect(covered(1) / covered(0)).toBeGreaterThan(0.75);
    expect(covered(1) / covered(0)).toBeLessThan(1.3);
  });
  it('runs are one every so many mm across a wall, as wide as is asked for, and none on what lies flat', () => {
    // A wall that faces z: along a level line at many heights, how many begin.
    const at = (x: number, y: number, n: [number, number, number]) =>
      runs({ x, y, z: 3.7, nx: n[0], nz: n[2], footprint: 0 }, 4, 80, 20, 9);
    let [crossed, wide] = [0, 0];
    const [levels, long] = [60, 3000];
    for (let l = 0; l < levels; l++) {
      let inside = false;
      for (let x = 0; x < long; x += 0.1) {
        const on = at(x, 37.3 * l, [0, 0, 1]) > 0.3;
        if (on && !inside) crossed++;
        if (on) wide += 0.1;
        inside = on;
      }
    }
    const per = (levels * long) / crossed;
    // Some five of eight of the length of a line has a run on it; those that are just on the surface are faint.
    expect(per).toBeGreaterThan(20);
    expect(per).toBeLessThan(60);
    expect(wide / crossed).toBeGreaterThan(1);
    expect(wide / crossed).toBeLessThan(4);
    for (let x = 0; x < 300; x++) expect(at(x, 20, [0, 1, 0])).toBe(0);
    // Each thins out below where it begins.
    const down = Array.from({ length: 400 }, (_, i) => Math.max(...Array.from({ length: 400 }, (_, x) => at(x / 2, -i / 2, [0, 0, 1]))));
    expect(Math.max(...down)).toBeGreaterThan(0.9);
  });
  it('between two points it is whole at the one and nothing at the other, half in the middle', () => {
    const mesh = box(100, 10, 10);
    const [low, high] = [Math.min(...mesh.positions), Math.max(...mesh.positions)];
    const f: Field = { kind: 'between', fromX: low, fromY: 0, fromZ: 0, toX: high, toY: 0, toZ: 0 };
    const { set, places } = composed([{ id: 'p', mesh }], 512, [layer('a', [masked(f)])]);
    for (let i = 0; i < 512 * 512; i++) {
      if (!places.shell[i]) continue;
      const t = (places.position[3 * i] - low) / (high - low);
      expect(Math.abs(set.orm[3 * i + 1] / 255 - (1 - t * t * (3 - 2 * t)))).toBeLessThan(0.01);
    }
    expect(shareOf([layer('a', [masked({ ...f, toX: low })])])[0].share).toBeCloseTo(1, 9);
  });
  it('a weave goes over and under in turn; bowls are deepest in their middles', () => {
    expect(weave(0.5, 0.5, 1, 0)).toBeCloseTo(1, 9);
    expect(weave(0.5, 0, 1, 0)).toBeCloseTo(0, 9);
    expect(weave(1.5, 1, 1, 0)).toBeCloseTo(0, 9);
    expect(mean(many(20_000, (x, y) => weave(x, y, 1.3, 0)))).toBeCloseTo(weave(0, 0, 1, 5), 1);
    const dents = new Dents(9, 2);
    const values = many(2000, (x, y, z) => dents.at(x, y, z));
    expect(Math.min(...values)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...values)).toBeGreaterThan(0.95);
  });
  it('what is finer than a texel is an even tone, not noise', () => {
    const spread = (list: number[]) => Math.sqrt(Math.max(0, mean(list.map((v) => v * v)) - mean(list) ** 2));
    expect(spread(many(500, (x, y, z) => rings(x, y, z, 5, 4, 3, 3)))).toBeLessThan(1e-6);
    expect(spread(many(500, (x, y, z) => strands(x, y, z, 0.1, 10, strandsAbove(0.4), 0.4, 3, 0.5)))).toBeLessThan(1e-6);
    expect(spread(many(500, (x, y, z) => octaves(x, y, z, 2, 3, 4)))).toBe(0);
  });
});

describe('edges that stick out', () => {
  it('a line is as many mm wide on a knob of 20 mm as on a top of 300 mm, and flats stay clean', () => {
    for (const [w, h, d, size] of [
      [20, 20, 20, 512],
      [300, 30, 150, 2048],
    ] as const) {
      const mesh = box(w, h, d);
      const { set, places } = composed([{ id: 'p', mesh }], size, [layer('worn', [masked({ kind: 'edges', width: 1, broken: 0 })])]);
      let [near, far, line, dirty] = [0, 0, 0, 0];
      const half = [w, h, d].map((x) => x / 2);
      const low = [0, 1, 2].map((k) => Math.min(...[...mesh.positions].filter((_, i) => i % 3 === k)));
      for (let i = 0; i < size * size; i++) {
        if (!places.shell[i]) continue;
        // How far inside each pair of faces it lies: nothing for the one it is on, then to the nearest edge.
        const inside = [0, 1, 2].map((k) => half[k] - Math.abs(places.position[3 * i + k] - low[k] - half[k])).sort((a, b) => a - b);
        const worn = set.orm[3 * i + 1] / 255;
        if (inside[1] < 2) {
          near++;
          line += worn;
        } else {
          far++;
          dirty += worn > 0.01 ? 1 : 0;
        }
      }
      // Half of a line of 1 mm lies on each of the two faces: a quarter of the 2 mm looked at.
      expect((2 * 2 * line) / near).toBeGreaterThan(0.9);
      expect((2 * 2 * line) / near).toBeLessThan(1.15);
      expect(dirty / far).toBeLessThan(0.001);
    }
  });
});

describe('masks and layers', () => {
  const clouds: Field = { kind: 'clouds', size: 20, share: 0.3, soft: 0.05 };
  it('what faces up, what lies below a height: as counted on a box', () => {
    const [up] = composed([{ id: 'p', mesh: box(100, 100, 100) }], 256, [
      layer('dust', [masked({ kind: 'facing', towards: 'up', within: 30, soft: 0 })]),
    ]).figures.materials[0].layers;
    expect(up.share).toBeCloseTo(1 / 6, 2);
    const y = Math.min(...box(100, 100, 100).positions.filter((_, i) => i % 3 === 1));
    const [low] = composed([{ id: 'p', mesh: box(100, 100, 100) }], 256, [
      layer('wet', [masked({ kind: 'span', axis: 'y', from: y + 25, to: y + 25 })]),
    ]).figures.materials[0].layers;
    expect(low.share).toBeCloseTo((1 + 4 * 0.25) / 6, 2);
  });
  it('are joined: both, either, one without the other; a mask that is inverted is the rest', () => {
    const other: Field = { kind: 'spots', size: 12, share: 0.3 };
    const of = (...mask: Layer['mask']) => shareOf([layer('a', mask)])[0].share;
    const [a, b] = [of(masked(clouds)), of(masked(other))];
    const [both, either, without] = [
      of(masked(clouds), masked(other)),
      of(masked(clouds), masked(other, 'or')),
      of(masked(clouds), masked(other, 'less')),
    ];
    expect(both + without).toBeCloseTo(a, 2);
    expect(either).toBeGreaterThan(Math.max(a, b));
    // Their edges are soft, and there it is not quite the sum.
    expect(Math.abs(either + both - a - b)).toBeLessThan(0.02);
    expect(of(masked(clouds, 'times', true))).toBeCloseTo(1 - a, 3);
    expect(of()).toBe(1);
  });
  it('an even layer is its own share of the colour in linear light; a blend is W3C’s; metal goes by its mask alone', () => {
    const grey = layer('a', [], { colour: [1, 1, 1], metallic: 0 }, { opacity: 0.5 });
    const { set, ground } = composed([{ id: 'p', mesh: sheet(1, 50, () => 0) }], 16, [grey], { colour: [0, 0, 0], metallic: 1 });
    const at = ground.owner.findIndex((o) => o > 0);
    // Half of white light is 188 in sRGB (IEC 61966-2-1).
    expect(Math.abs(set.baseColour[3 * at] - 188)).toBeLessThanOrEqual(1);
    expect(set.orm[3 * at + 2]).toBe(0);
    const darker = composed(
      [{ id: 'p', mesh: sheet(1, 50, () => 0) }],
      16,
      [layer('a', [], { colour: [0.5, 0.5, 0.5], blend: 'multiply' })],
      {
        colour: [0.8, 0.4, 0.2],
      },
    ).set;
    for (const [k, v] of [0.4, 0.2, 0.1].entries()) expect(Math.abs(darker.baseColour[3 * at + k] - 255 * v)).toBeLessThanOrEqual(1);
  });
  it('have contrast and patches: a ramp is cut where it is said, and what is missing is missing by its share', () => {
    const half = masked({ kind: 'boards', share: 0.5 });
    const share = (more: Partial<Layer['mask'][number]>) => shareOf([layer('a', [{ ...half, ...more }])])[0].share;
    // Of one sheet one amount.
    const plain = share({});
    const at = (from: number, to: number) => {
      const t = Math.min(1, Math.max(0, (plain - from) / (to - from)));
      return t * t * (3 - 2 * t);
    };
    for (const [from, to] of [
      [0, 1],
      [0.2, 0.6],
      [0.9, 1],
      [0, 0.05],
    ])
      expect(share({ curve: { from, to } })).toBeCloseTo(at(from, to), 6);
    const whole = (broken: { size: number; by: number }) =>
      shareOf([layer('a', [{ ...masked({ kind: 'facing', towards: 'up', within: 90, soft: 0 }), broken }])])[0].share;
    expect(whole({ size: 6, by: 0 })).toBeCloseTo(1, 9);
    expect(Math.abs(whole({ size: 6, by: 1 }) - 0.5)).toBeLessThan(0.04);
    expect(Math.abs(whole({ size: 6, by: 0.4 }) - 0.8)).toBeLessThan(0.02);
    const wrong = (more: object) => layersFault([layer('a', [{ ...half, ...more }])]);
    expect(wrong({ curve: { from: 0.5, to: 0.5 } })).toMatch(/contrast/);
    expect(wrong({ broken: { size: 0, by: 1 } })).toMatch(/broken up/);
    expect(wrong({ curved: 1 })).toMatch(/mask/);
  });
  it('a layer follows an earlier one; one that is gone leaves it out, and that is said', () => {
    const first = layer('first', [masked(clouds)]);
    const second = layer('second', [masked({ kind: 'layer', of: 'first' })]);
    const [a, b] = shareOf([first, second]);
    expect(b.share).toBe(a.share);
    const [alone] = shareOf([second]);
    expect(alone).toMatchObject({ share: 0, leftOut: true });
    const [off] = shareOf([{ ...first, on: false }, second]);
    expect(off).toMatchObject({ id: 'second', leftOut: true });
    // Only earlier ones can be followed, so there are no circles.
    expect(shareOf([second, first])[0].leftOut).toBe(true);
  });
  it('the same place gets the same, in another layout, at the same footprint: to 1 of 255', () => {
    const layers = [
      layer('a', [masked(clouds)], { colour: [1, 0, 0] }),
      layer('b', [masked({ kind: 'strands', along: 'x', width: 2, length: 30, share: 0.5 })], { roughness: 0.5 }),
      layer('c', [masked({ kind: 'spots', size: 6, share: 0.2 })], { colour: [0, 0, 1] }),
    ];
    const mesh = sheet(1, 100, () => 0);
    const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
    // A quarter turn about the middle of the tile.
    const turned = withAttribute(mesh, {
      name: 'uv',
      domain: 'corner',
      size: 2,
      data: uv.map((_, i) => (i % 2 ? 1 - uv[i - 1] : uv[i + 1])),
    });
    const [one, two] = [mesh, turned].map((m) => composed([{ id: 'p', mesh: m }], 128, layers));
    let worst = 0;
    const found = new Map<string, number>();
    const key = (p: Float32Array, i: number) => [0, 1, 2].map((k) => Math.round(1000 * p[3 * i + k])).join();
    for (let i = 0; i < 128 * 128; i++) if (one.places.shell[i]) found.set(key(one.places.position, i), i);
    let met = 0;
    for (let i = 0; i < 128 * 128; i++) {
      const j = two.places.shell[i] ? found.get(key(two.places.position, i)) : undefined;
      if (j === undefined) continue;
      met++;
      for (let k = 0; k < 3; k++) worst = Math.max(worst, Math.abs(one.set.baseColour[3 * j + k] - two.set.baseColour[3 * i + k]));
    }
    expect(met).toBeGreaterThan(5000);
    expect(worst).toBeLessThanOrEqual(1);
  });
  it('boards of one part are not alike, and a part is the same wherever else it is composed', () => {
    const board = (x: number) => {
      const b = box(200, 20, 40);
      return { ...b, positions: b.positions.map((v, i) => (i % 3 === 0 ? v + x : v)) };
    };
    const wood = [layer('late', [masked({ kind: 'rings', along: 'length', count: 2, wander: 4 })])];
    const [a, b] = ['a', 'b'].map((id) => composed([{ id, mesh: board(0) as PolyMesh }], 512, wood).set.orm);
    // One channel of three, and most of the tile is empty.
    expect(a.filter((v, i) => Math.abs(v - b[i]) > 30).length / a.length).toBeGreaterThan(0.008);
    const again = composed([{ id: 'a', mesh: board(700) as PolyMesh }], 512, wood).set.orm;
    expect(a.every((v, i) => Math.abs(v - again[i]) <= 2)).toBe(true);
  });
  it('rows drawn by themselves are the rows of the whole', () => {
    const parts = [{ id: 'p', mesh: box(60, 40, 20), material: 0 }];
    const boards = boardsOf(parts);
    const whole = emptyPlaces(64, 0, 64);
    fillPlaces(parts, boards, whole);
    for (const [from, to] of [
      [0, 24],
      [24, 40],
      [40, 64],
    ]) {
      const some = emptyPlaces(64, from, to);
      fillPlaces(parts, boards, some);
      expect(some.position).toEqual(whole.position.subarray(3 * 64 * from, 3 * 64 * to));
      expect(some.shell).toEqual(whole.shell.subarray(64 * from, 64 * to));
    }
  });
});

describe('the ball a material is shown on', () => {
  it('wears the layers, round it without a seam: dust on what faces up, nothing below', () => {
    const dust = layer('dust', [masked({ kind: 'facing', towards: 'up', within: 60, soft: 10 })]);
    const wood = layer('late', [masked({ kind: 'rings', along: 'length', count: 3, wander: 4 })], { colour: [1, 1, 1] });
    const { size, orm, baseColour } = ballOf(material([dust, wood], { colour: [0, 0, 0] }), 96, 1);
    const column = (x: number, y: number) => 3 * (y * size + x);
    expect([orm[column(5, 3) + 1], orm[column(5, size - 3) + 1]]).toEqual([255, 0]);
    // A seam would part the two columns that meet by more than others do.
    const step = (a: number, b: number) => {
      let sum = 0;
      for (let y = 20; y < 76; y++) sum += Math.abs(baseColour[column(a, y)] - baseColour[column(b, y)]);
      return sum / 56;
    };
    const usual = Array.from({ length: size - 1 }, (_, x) => step(x, x + 1)).sort((a, b) => a - b);
    expect(step(size - 1, 0)).toBeLessThanOrEqual(usual[usual.length - 1]);
  });
});

describe('what can be asked for', () => {
  const kinds = Object.keys(FIELDS) as FieldKind[];
  it('every kind of field as it is usually begun with is whole, is said in words, and can be composed', () => {
    for (const kind of kinds) {
      const field: Field = kind === 'layer' ? { kind, of: 'base' } : usualField(kind);
      const l = layer('a', [masked(field)]);
      expect(layersFault([layer('base', []), l]), kind).toBeNull();
      expect(fieldWords(field).length, kind).toBeGreaterThan(3);
      expect(FIELDS[kind].says, kind).toMatch(/\.$/);
      const finest = finestMm(field);
      if (finest !== null) expect(finest).toBeGreaterThan(0);
      const [, found] = composed([{ id: 'p', mesh: box(60, 40, 20) }], 64, [layer('base', []), l]).figures.materials[0].layers;
      expect(found.share, kind).toBeGreaterThanOrEqual(0);
      expect(found.share, kind).toBeLessThanOrEqual(1);
    }
  });
  it('what is wrong is named: a number out of range, an unknown kind, a word too many', () => {
    const of = (field: object) => layersFault([layer('Rust', [{ join: 'times', inverted: false, field } as never])]);
    expect(of({ kind: 'edges', width: 9, broken: 0 })).toBe('Line of edges of Rust');
    expect(of({ kind: 'clouds', size: 3, share: 0.2 })).toBe('Soft of clouds of Rust');
    expect(of({ kind: 'scratches', along: 'any', count: 5000, length: 300, width: 0.1, spread: 5 })).toBe(
      'how many scratches: 300 mm long, up to 2 a dm² can be drawn, of Rust',
    );
    expect(of({ kind: 'stars' })).toBe('a field of a kind there is not of Rust');
    expect(of({ kind: 'dents', size: 3, depth: 2 })).toBe('something hammered bowls has not of Rust');
    expect(of({ kind: 'rings', along: 'w', count: 3, wander: 1 })).toBe('Along of growth rings of Rust');
    expect(layersFault(Array.from({ length: 25 }, (_, i) => layer(`l${i}`, [])))).toBe('more than 24 layers');
    expect(layersFault('none')).toBe('layers');
  });
  it('what a mask wants of the bake is said where it isn’t there', () => {
    const worn = layer('Worn', [masked({ kind: 'worn', share: 0.1 })]);
    expect(lacking(worn, { curvature: false, occlusion: true })).toBe('Worn follows the baked curvature, and none was baked.');
    expect(lacking(worn, { curvature: true, occlusion: false })).toBeNull();
    expect(layerWords(layer('a', [masked({ kind: 'edges', width: 0.8, broken: 0 }), masked({ kind: 'dents', size: 9 })]))).toBe(
      '0.8 mm line on edges and 1 more',
    );
  });
});

describe('every material of the library', () => {
  it.each(LIBRARY.map((m) => [m.key, m] as const))('%s with all its layers is nowhere what real surfaces aren’t', (key, m) => {
    expect(layersFault(m.layers)).toBeNull();
    const { set, ground } = composed([{ id: 'p', mesh: box(80, 50, 30) }], 384, m.layers, m);
    const { shares } = validity(set, ground, [{ ...m, id: key, touched: true }]);
    for (const [name, share] of Object.entries(shares)) if (name !== 'sound') expect(share, name).toBe(0);
  });
});
