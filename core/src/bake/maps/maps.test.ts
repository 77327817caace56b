import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { describe, expect, it } from 'vitest';
import { ball } from '../../../test/scenes';
import { cube, sheet } from '../../../test/shapes';
import { encodeExr } from '../../image/exr';
import { decodePng } from '../../image/png';
import { IDENTITY, rotation, scaling, translation } from '../../maths/mat4';
import { random } from '../../maths/random';
import { makeMesh, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { transform } from '../../mesh/transform';
import { type AboutPart, type BakeSettings, prepareBake } from '../../pipeline/bake';
import { bake, bakeTexels } from '../../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../../pipeline/document';
import type { PartMesh } from '../../pipeline/form';
import { unwrap } from '../../pipeline/unwrap';
import { idsOf } from '../ids';
import type { Texels } from '../texels';
import { FURTHER_MAPS, type FurtherMap } from './further';

const SIZE = 64;
const part = (mesh: PolyMesh, id = 'p'): PartMesh => ({ id, name: id, mesh, placements: [IDENTITY] });
const settings = (further: FurtherMap[], more: Partial<BakeSettings> = {}): BakeSettings => ({
  ...BAKE_DEFAULTS,
  size: SIZE,
  samples: 1,
  curvature: false,
  occlusion: false,
  further,
  ...more,
});
const flat = (size = 10) => sheet(2, size, () => 0);
const texelsOf = (low: PolyMesh, high: readonly PartMesh[], chosen: BakeSettings): Texels =>
  bakeTexels(prepareBake([part(low)], high, new Map(), chosen).prepared);
/** Mean over the texels a condition on x and z (mm, −size/2 … size/2) holds for. */
function mean(values: ArrayLike<number>, size: number, where: (x: number, z: number) => boolean): number {
  let [sum, n] = [0, 0];
  for (let j = 0; j < SIZE; j++)
    for (let i = 0; i < SIZE; i++) {
      const [x, z] = [((i + 0.5) / SIZE - 0.5) * size, ((j + 0.5) / SIZE - 0.5) * size];
      if (!where(x, z)) continue;
      sum += values[j * SIZE + i];
      n++;
    }
  return sum / n;
}
/** A wall h high that stands x mm from the middle, facing −x, as long as nothing sees its ends. */
const wall = (x: number, h: number): PolyMesh =>
  makeMesh({
    positions: [x, 0, -4000, x, h, -4000, x, h, 4000, x, 0, 4000],
    faceStart: [0, 4],
    faceVert: [0, 3, 2, 1],
  });

describe('occlusion', () => {
  // Rays of 24 texels side by side and of 1024 each: three standard errors of the mean are under 0.5 %.
  it.each([
    [3, 4],
    [2, 10],
    [6, 3],
  ])('beside a wall %i mm high, %i mm off: ½(1 + d/√(d² + h²)) of a cosine-weighted sky', (h, d) => {
    const size = 40;
    const floor = sheet(1, 4 * size, () => 0);
    const low = flat(size);
    const made = texelsOf(
      low,
      [part(floor), part(wall(12, h), 'wall')],
      settings([], { occlusion: true, occlusionRays: 1024, reachMm: 1e5, distances: 'uniform', frontMm: 0.1, rearMm: 0.1 }),
    );
    // The column of texels whose middle is nearest to the distance, and where exactly that is.
    const column = Math.round(((12 - d) / size + 0.5) * SIZE - 0.5);
    const off = 12 - ((column + 0.5) / SIZE - 0.5) * size;
    const open = mean(made.occlusion, size, (x, z) => Math.abs(12 - x - off) < 1e-6 && Math.abs(z) < 8);
    expect(Math.abs(open - 0.5 * (1 + off / Math.hypot(off, h)))).toBeLessThan(0.005);
  });
  it('under a disk of radius r at height h: 1 − r²/(r² + h²), the form factor of a disk over a point', () => {
    const n = 256;
    const disk = makeMesh({
      positions: Array.from({ length: n }, (_, i) => [6 * Math.cos((2 * Math.PI * i) / n), 5, -6 * Math.sin((2 * Math.PI * i) / n)]).flat(),
      faceStart: [0, n],
      faceVert: Array.from({ length: n }, (_, i) => i),
    });
    const made = texelsOf(
      flat(2),
      [part(sheet(1, 40, () => 0)), part(disk, 'disk')],
      settings([], { occlusion: true, occlusionRays: 1024, reachMm: 1e5, distances: 'uniform', frontMm: 0.1, rearMm: 0.1 }),
    );
    const open = mean(made.occlusion, 2, (x, z) => Math.hypot(x, z) < 0.1);
    expect(Math.abs(open - (1 - 36 / (36 + 25)))).toBeLessThan(0.005);
  });
  it('other parts are let out when they are not wanted, and the ground is let in when it is', () => {
    const open = (more: Partial<BakeSettings>, y = 0) => {
      const lift = (m: PolyMesh) => transform(m, translation([0, y, 0]));
      const made = bakeTexels(
        prepareBake(
          [part(flat(4))],
          [part(lift(sheet(1, 40, () => 0))), part(lift(sheet(1, 400, () => 3)), 'lid')],
          new Map(),
          settings([], { occlusion: true, occlusionRays: 64, reachMm: 1e4, distances: 'uniform', frontMm: 5, rearMm: 5, ...more }),
        ).prepared,
      );
      return mean(made.occlusion, 4, () => true);
    };
    expect(open({})).toBeLessThan(0.05);
    expect(open({ neighbours: false })).toBe(1);
    // A sheet that looks down sees nothing but the ground, however far it stands above it.
    const down = transform(flat(4), rotation([1, 0, 0], Math.PI));
    const shaded = (ground: boolean) => {
      const stand = part(transform(cube(1), translation([50, -20, 0])), 'foot');
      const { prepared } = prepareBake(
        [part(down)],
        [part(down), stand],
        new Map(),
        settings([], { occlusion: true, occlusionRays: 64, reachMm: 1e4, ground }),
      );
      return mean(bakeTexels(prepared).occlusion, 4, () => true);
    };
    expect(shaded(false)).toBeGreaterThan(0.98);
    expect(shaded(true)).toBeLessThan(0.03);
  });
  it('rays in a cone of α see a lid only within it', () => {
    const open = (spreadDegrees: number) => {
      const ring = (r: number) =>
        Array.from({ length: 64 }, (_, i) => [r * Math.cos((i * Math.PI) / 32), 5, -r * Math.sin((i * Math.PI) / 32)]);
      const lid = makeMesh({
        positions: [...ring(5.2), ...ring(500)].flat(),
        faceStart: Array.from({ length: 65 }, (_, i) => 4 * i),
        faceVert: Array.from({ length: 64 }, (_, i) => [i, 64 + i, 64 + ((i + 1) % 64), (i + 1) % 64]).flat(),
      });
      const made = texelsOf(
        flat(0.2),
        [part(sheet(1, 40, () => 0)), part(lid, 'lid')],
        settings([], { occlusion: true, occlusionRays: 128, reachMm: 1e5, distances: 'uniform', frontMm: 0.1, rearMm: 0.1, spreadDegrees }),
      );
      return mean(made.occlusion, 0.2, () => true);
    };
    // Its hole is seen under 46°.
    expect(open(40)).toBe(1);
    expect(open(90)).toBeCloseTo(1 - 25 / (25 + 5.2 ** 2), 1);
  });
});

describe('the bent normal', () => {
  it('at the foot of an endless wall leans away from it by atan(2/π): the middle of half a cosine-weighted sky', () => {
    const made = texelsOf(
      flat(2),
      [part(sheet(1, 4000, () => 0)), part(wall(1, 1e6), 'wall')],
      settings(['bentNormal'], { occlusionRays: 1024, reachMm: 1e7, distances: 'uniform', frontMm: 0.1, rearMm: 0.1 }),
    );
    // x of the tangent frame is x of the sheet. In the column beside the wall, 1/64 mm off, it is endless.
    const [x, z] = [0, 2].map((k) => {
      const values = Float32Array.from({ length: SIZE * SIZE }, (_, i) => made.bentNormal[3 * i + k]);
      return mean(values, 2, (px) => px > 1 - 2 / SIZE);
    });
    // E[x] = −4/(3π), E[z] = 2/3.
    expect((Math.atan2(-x, z) * 180) / Math.PI).toBeCloseTo((Math.atan(2 / Math.PI) * 180) / Math.PI, 0);
  });
});

describe('thickness', () => {
  it('of a slab is its thickness, of a ball D(1 + cos²α)/2 for rays within α, of what has no back the reach', () => {
    const at = (high: PolyMesh, thicknessMm = 100) =>
      mean(
        texelsOf(
          flat(0.5),
          [part(high)],
          settings(['thickness'], { occlusionRays: 256, thicknessMm, distances: 'uniform', frontMm: 1, rearMm: 1 }),
        ).thickness,
        0.5,
        () => true,
      );
    const slab = transform(transform(cube(40), scaling([5, 1, 5])), translation([0, -40, 0]));
    expect(at(slab)).toBeCloseTo(40, 2);
    expect(at(slab, 12)).toBeCloseTo(12, 6);
    const alpha = Math.PI / 6;
    const solid = (20 * (1 + Math.cos(alpha) ** 2)) / 2;
    expect(Math.abs(at(ball(10, [0, -10, 0], 192)) / solid - 1)).toBeLessThan(0.005);
    expect(at(sheet(4, 20, () => 0))).toBe(100);
  });
  it('of a shell is the mean depth of its wall over the cone', () => {
    // Rays at θ leave a wall from R to r after R cos θ − √(r² − R² sin² θ); their depth straight down, by the cosine, over the cone.
    const [R, r, alpha] = [20, 18, Math.PI / 6];
    let sum = 0;
    for (let i = 0; i < 4000; i++) {
      const s2 = ((i + 0.5) / 4000) * Math.sin(alpha) ** 2;
      const c = Math.sqrt(1 - s2);
      sum += (R * c - Math.sqrt(r * r - R * R * s2)) * c;
    }
    const outer = ball(R, [0, -R, 0], 256);
    const inner = ball(r, [0, -R, 0], 256);
    const shell = makeMesh({
      positions: [...outer.positions, ...inner.positions],
      faceStart: [...outer.faceStart, ...Array.from(inner.faceStart.slice(1), (x) => x + outer.faceVert.length)],
      faceVert: [...outer.faceVert, ...Array.from(inner.faceVert, (v) => v + outer.positions.length / 3)],
    });
    const made = texelsOf(
      flat(0.5),
      [part(shell)],
      settings(['thickness'], { occlusionRays: 256, distances: 'uniform', frontMm: 1, rearMm: 1 }),
    );
    expect(Math.abs(mean(made.thickness, 0.5, () => true) / (sum / 4000) - 1)).toBeLessThan(0.01);
  });
});

describe('a ball over its box', () => {
  // The cage of a cube points straight out from its middle at every place of it, so each ray meets the ball where it is known to.
  const laid = unwrap([part(cube(20))], { size: SIZE, padding: 4, seamAngle: 50, rotate: true, weights: {}, regions: {} }).parts[0].mesh;
  const high = part(ball(12, [0, 10, 0], 256));
  const { prepared } = prepareBake([part(laid)], [high], new Map(), settings(['objectNormal', 'position', 'height', 'opacity']));
  const made = bakeTexels(prepared);

  it('object normals and positions are those of the ball, heights what lies between', () => {
    let seen = 0;
    for (let i = 0; i < SIZE * SIZE; i++) {
      if (made.state[i] !== 1) continue;
      seen++;
      const p = [0, 1, 2].map((k) => made.position[3 * i + k] - (k === 1 ? 10 : 0));
      const l = Math.hypot(...p);
      expect(Math.abs(l - 12)).toBeLessThan(0.01);
      const dot = p.reduce((s, x, k) => s + (x / l) * made.objectNormal[3 * i + k], 0);
      expect((Math.acos(Math.min(1, dot)) * 180) / Math.PI).toBeLessThan(0.2);
      // On the cube’s surface the greatest coordinate is 10: so far out lies the low mesh in this direction.
      const low = 10 / (Math.max(...p.map(Math.abs)) / l);
      expect(made.height[i]).toBeCloseTo(12 - low, 1);
      expect(made.opacity[i]).toBe(1);
    }
    expect(seen).toBeGreaterThan(1000);
  });
  it('position and height say what black and white stand for, and the EXR holds millimetres', async () => {
    const { figures, files } = await bake([part(laid)], [high], new Map(), settings(['position', 'height']), () => 0);
    const range = figures.ranges.position as { from: number[]; to: number[] };
    const png = decodePng(files.position as Uint8Array);
    const exr = readExr(files.positionExr as Uint8Array);
    expect([png.depth, png.channels, exr.width]).toEqual([16, 3, SIZE]);
    for (const i of [...made.state.keys()].filter((t) => made.state[t] === 1).slice(0, 200))
      for (let k = 0; k < 3; k++) {
        const value = range.from[k] + ((range.to[k] - range.from[k]) * png.data[3 * i + k]) / 65535;
        expect(value).toBeCloseTo(made.position[3 * i + k], 2);
        expect(exr.at(i, k)).toBe(made.position[3 * i + k]);
      }
    // Nothing of the ball is nearer to the middle than the cube's faces are, or farther: mid-grey is the low surface itself.
    expect(figures.ranges.height?.from[0]).toBe(-(figures.ranges.height?.to[0] ?? 0));
  });
});

/** Read by an independent package. `at` gives a channel of a pixel, top row first. */
function readExr(bytes: Uint8Array): { width: number; height: number; at: (pixel: number, channel: number) => number } {
  const loader = new EXRLoader();
  loader.setDataType(FloatType);
  const { width, height, data } = loader.parse(bytes.slice().buffer) as unknown as { width: number; height: number; data: Float32Array };
  const channels = data.length / (width * height);
  // It turns pictures upside down, as textures lie on a card.
  return { width, height, at: (i, k) => data[channels * ((height - 1 - Math.floor(i / width)) * width + (i % width)) + k] };
}

describe('EXR', () => {
  it.each([
    [1, 1],
    [17, 33],
    [64, 16],
  ])('%i × %i floats come back to the bit from an independent reader', (width, height) => {
    const next = random(width);
    const values = Float32Array.from({ length: width * height }, () => (next() - 0.5) * 10 ** Math.floor(8 * next() - 4));
    const grey = readExr(encodeExr(width, height, { Y: values }));
    expect([grey.width, grey.height]).toEqual([width, height]);
    for (let i = 0; i < values.length; i++) expect(grey.at(i, 0)).toBe(values[i]);
    const rgb = readExr(encodeExr(width, height, { R: values, G: values.map((x) => 2 * x), B: values.map((x) => -x) }));
    for (let i = 0; i < values.length; i++) expect([0, 1, 2].map((k) => rgb.at(i, k))).toEqual([values[i], 2 * values[i], -values[i]]);
  });
});

describe('the id map', () => {
  /** A sheet of 20 × 20 quads, the left half a region; one face of it lost, one of the right taken by mistake. */
  const marked = (): PolyMesh => {
    const mesh = sheet(20, 10, () => 0);
    const region = new Int32Array(400);
    for (let f = 0; f < 400; f++) region[f] = f % 20 < 10 ? 1 : 0;
    region[20 * 5 + 3] = 0;
    region[20 * 12 + 16] = 1;
    return withAttribute(mesh, { name: 'region', domain: 'face', size: 1, data: region });
  };
  const about = new Map<string, AboutPart>([
    ['p', { role: 'body', moves: false, material: 'Brass', regions: [{ name: 'Label', material: 'Paper' }] }],
  ]);
  it('one colour for each region, and faces that went astray are named with what is round them', async () => {
    const { figures, files } = await bake([part(marked())], [], about, settings(['id'], { itself: true, idBy: 'region' }), () => 0);
    expect(figures.ids?.legend.map((l) => l.name)).toEqual(['p', 'Label']);
    expect(figures.ids?.strays.map((s) => [s.is, s.in, s.from, s.to, s.faces])).toEqual([
      [1, 2, 0, 1, [103]],
      [2, 1, 1, 0, [256]],
    ]);
    const png = decodePng(files.id as Uint8Array);
    const colour = (x: number, y: number) =>
      `#${[0, 1, 2].map((k) => png.data[3 * (y * SIZE + x) + k].toString(16).padStart(2, '0')).join('')}`;
    expect(colour(4, 60)).toBe(figures.ids?.legend[1].colour);
    expect(colour(60, 60)).toBe(figures.ids?.legend[0].colour);
    // Never mixed: no colour but those of the legend.
    const all = new Set(Array.from({ length: SIZE * SIZE }, (_, i) => colour(i % SIZE, Math.floor(i / SIZE))));
    expect([...all].sort()).toEqual(figures.ids?.legend.map((l) => l.colour).sort());
  });
  it('by material, by part; forty colours are forty', () => {
    const p = {
      id: 'p',
      name: 'Part',
      mesh: marked(),
      painted: marked(),
      material: 'Brass',
      regions: [{ name: 'Label', material: 'Brass' }],
    };
    expect(idsOf([p], 'material').legend.map((l) => l.name)).toEqual(['Brass']);
    expect(idsOf([p, { ...p, id: 'q', name: 'Other', material: null, regions: [] }], 'material').legend.map((l) => l.name)).toEqual([
      'Brass',
      'without a material',
    ]);
    const many = idsOf(
      Array.from({ length: 40 }, (_, i) => ({ ...p, id: `p${i}`, name: `${i}` })),
      'part',
    );
    expect(new Set(many.legend.map((l) => l.colour)).size).toBe(40);
  });
});

describe('ids painted on the vertices of the high mesh', () => {
  /** Red left, green right, as light, as glTF keeps them; one face of each lost to the other. */
  const painted = (): PolyMesh => {
    const mesh = sheet(20, 10, () => 0);
    const data = new Float64Array(4 * mesh.faceVert.length);
    for (let f = 0; f < 400; f++) {
      const red = (f % 20 < 10 && f !== 103) || f === 256;
      for (let c = 4 * f; c < 4 * f + 4; c++) data.set(red ? [1, 0, 0, 1] : [0, 0.2158605, 0, 1], 4 * c);
    }
    return withAttribute(mesh, { name: 'colour', domain: 'corner', size: 4, data });
  };
  const by = (high: PolyMesh, more: Partial<BakeSettings> = {}) =>
    bake([part(flat())], [part(high)], new Map(), settings(['id'], { idBy: 'colour', ...more }), () => 0);

  it('come out as they were painted; a face that was missed is named, and takes the colour round it where that is wanted', async () => {
    const { figures, files } = await by(painted());
    expect(figures.ids?.legend.map((l) => l.colour)).toEqual(['#ff0000', '#008000']);
    expect(figures.ids?.strays.map((s) => [s.is, s.in, s.faces])).toEqual([
      [2, 1, [103]],
      [1, 2, [256]],
    ]);
    const at = (png: Uint8Array, x: number, y: number) => [...decodePng(png).data.slice(3 * (y * SIZE + x), 3 * (y * SIZE + x) + 3)];
    // Face 103 is the fourth of the sixth row: its middle lies 3.5/20 from the left, 5.5/20 from below.
    const [x, y] = [Math.floor((3.5 / 20) * SIZE), Math.floor((1 - 5.5 / 20) * SIZE)];
    expect(at(files.id as Uint8Array, 2, 2)).toEqual([255, 0, 0]);
    expect(at(files.id as Uint8Array, x, y)).toEqual([0, 128, 0]);
    const clean = await by(painted(), { idClean: true });
    expect(at(clean.files.id as Uint8Array, x, y)).toEqual([255, 0, 0]);
    expect([clean.figures.ids?.cleaned, clean.figures.ids?.strays.length]).toEqual([true, 2]);
  });
  it('nothing painted, or shades instead of ids, is one sentence', async () => {
    await expect(by(sheet(4, 10, () => 0))).rejects.toThrow(/Nothing that is baked from has colours/);
    const mesh = sheet(20, 10, () => 0);
    const next = random(1);
    const shades = Float64Array.from({ length: 4 * mesh.faceVert.length }, () => next());
    await expect(by(withAttribute(mesh, { name: 'colour', domain: 'corner', size: 4, data: shades }))).rejects.toThrow(
      /more than 64 colours/,
    );
  });
});

describe('further maps', () => {
  it('cost no memory where they are not wanted, and each is written where it is', async () => {
    const bare = texelsOf(flat(), [part(flat())], settings([]));
    for (const map of FURTHER_MAPS) expect((bare[map as keyof Texels] as Float32Array).length).toBe(0);
    const { files } = await bake(
      [part(flat())],
      [part(flat())],
      new Map(),
      settings([...FURTHER_MAPS], { bits: 16, idBy: 'part' }),
      () => 0,
    );
    for (const map of FURTHER_MAPS) expect(decodePng(files[map] as Uint8Array).width).toBe(SIZE);
    expect(decodePng(files.bentNormal as Uint8Array).depth).toBe(16);
    expect(
      Object.keys(files)
        .filter((f) => f.endsWith('Exr'))
        .sort(),
    ).toEqual(['heightExr', 'positionExr', 'thicknessExr']);
  });
});
