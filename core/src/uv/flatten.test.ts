import bunny from 'bunny';
import fc from 'fast-check';
import { capsule, cube as geometryCube, icosphere, torus } from 'primitive-geometry';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, refined, sheet, torusMesh } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { edgesOf } from '../mesh/connectivity';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { weld } from '../mesh/weld';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { flatten } from './charts';
import { type Chart, ChartMaker, diskRim, rimsOf } from './flatten/chart';
import { folds, rimCrosses } from './flatten/check';
import { energyOf, relax } from './flatten/dirichlet';
import { framesOf } from './flatten/frames';
import { lscm } from './flatten/lscm';
import { tutte } from './flatten/tutte';
import { unfold } from './flatten/unfold';
import { clusters, leastEigenvalue } from './seams/clusters';
import { faceGraph } from './seams/regions';
import { slit } from './seams/slits';
import { singularValues } from './stretch';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const laid = (mesh: PolyMesh, more: Partial<UnwrapSettings> = {}) =>
  unwrap([{ id: 'p', name: 'p', mesh, placements: [IDENTITY] }], { ...settings, ...more });
const primitive = (g: { positions: ArrayLike<number>; cells: ArrayLike<number> }) =>
  weld(
    fromTriangles(
      Array.from(g.positions, (x) => x * 20),
      g.cells,
    ),
    { within: 1e-5 },
  );
const scan = () =>
  fromTriangles(
    bunny.positions.flat().map((x: number) => x * 10),
    bunny.cells.flat(),
  );
const whole = (mesh: PolyMesh): Chart =>
  new ChartMaker(mesh, edgesOf(mesh)).make(
    Array.from({ length: faceCount(mesh) }, (_, f) => f),
    new Uint8Array(edgesOf(mesh).count),
  );
/** Part of a cylinder or a cone, `n` by `m` quads, open along its length. */
const rolled = (n: number, m: number, low: number, high: number, angle: number) => {
  const positions: number[] = [];
  const cells: number[] = [];
  for (let j = 0; j <= m; j++)
    for (let i = 0; i <= n; i++) {
      const [a, r] = [(angle * i) / n, low + ((high - low) * j) / m];
      positions.push(r * Math.cos(a), (40 * j) / m, -r * Math.sin(a));
    }
  for (let j = 0; j < m; j++)
    for (let i = 0; i < n; i++) {
      const v = j * (n + 1) + i;
      cells.push(v, v + 1, v + n + 2, v, v + n + 2, v + n + 1);
    }
  return fromTriangles(positions, cells);
};
const singular = (chart: Chart, uv: Float64Array, t: number) => {
  const v = [0, 1, 2].map((k) => chart.triangles[3 * t + k]);
  return singularValues(
    v.flatMap((i) => [...chart.points.slice(3 * i, 3 * i + 3)]),
    v.flatMap((i) => [uv[2 * i], uv[2 * i + 1]]),
  );
};

describe('one chart', () => {
  const dome = sheet(12, 20, (x, z) => 4 * Math.exp(-(x * x + z * z) / 18));
  it('conformal: a flat chart comes back to the last digit, a dome keeps its angles better than barycentric', () => {
    const chart = whole(sheet(6, 10, () => 0));
    const uv = lscm(chart, diskRim(chart) as number[]) as Float64Array;
    for (let t = 0; t < chart.triangles.length / 3; t++) for (const s of singular(chart, uv, t)) expect(s).toBeCloseTo(1, 6);
    const bowl = whole(dome);
    const rim = diskRim(bowl) as number[];
    const shear = (map: Float64Array) => {
      let sum = 0;
      for (let t = 0; t < bowl.triangles.length / 3; t++) {
        const [a, b] = singular(bowl, map, t);
        sum += a / b;
      }
      return sum / (bowl.triangles.length / 3);
    };
    expect(shear(lscm(bowl, rim) as Float64Array)).toBeLessThan(shear(tutte(bowl, rim) as Float64Array));
  });
  it('barycentric never folds nor crosses (Tutte 1963): 300 random disks', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e9 }), (seed) => {
        const next = random(seed);
        const chart = whole(sheet(3 + Math.floor(7 * next()), 20, () => 12 * next()));
        const rim = diskRim(chart) as number[];
        const uv = tutte(chart, rim) as Float64Array;
        expect(folds(chart, uv)).toBe(0);
        expect(rimCrosses(rim, uv)).toBe(false);
      }),
      { numRuns: 300, seed: 4 },
    );
  });
  it('what can be unrolled is unrolled exactly, what can’t is refused', () => {
    for (const mesh of [rolled(24, 3, 20, 20, 5), rolled(30, 4, 25, 8, 4), sheet(5, 10, (x) => 3 * Math.sin(x))]) {
      const chart = whole(mesh);
      const uv = unfold(chart) as Float64Array;
      for (let t = 0; t < chart.triangles.length / 3; t++) for (const s of singular(chart, uv, t)) expect(s).toBeCloseTo(1, 6);
    }
    expect(unfold(whole(dome))).toBeNull();
    // Closed all round, a cylinder is as flat everywhere but has no way to lie.
    expect(unfold(whole(weld(rolled(24, 3, 20, 20, 2 * Math.PI), { within: 1e-4 })))).toBeNull();
  });
  it('relaxing never raises the energy nor turns a triangle over, and ends where its slope is none', () => {
    const next = random(5);
    for (let round = 0; round < 12; round++) {
      const chart = whole(sheet(9, 20, () => 5 * next()));
      let uv = tutte(chart, diskRim(chart) as number[]) as Float64Array;
      let energy = energyOf(chart, uv);
      for (let step = 0; step < 20; step++) {
        const eased = relax(chart, uv, { steps: 1, least: 0 });
        const now = energyOf(chart, eased.uv);
        expect(now).toBeLessThanOrEqual(energy * (1 + 1e-12));
        expect(folds(chart, eased.uv)).toBe(0);
        [uv, energy] = [eased.uv, now];
      }
      // Central differences of the energy itself, along random directions: as flat as they can tell.
      const area = framesOf(chart).area.reduce((s, a) => s + a, 0);
      const { uv: best } = relax(chart, uv, { steps: 60, least: 1e-12 });
      for (let k = 0; k < 5; k++) {
        const d = best.map(() => next() - 0.5);
        const at = (s: number) =>
          energyOf(
            chart,
            best.map((x, i) => x + s * d[i]),
          ) / area;
        expect(Math.abs(at(1e-5) - at(-1e-5)) / 2e-5).toBeLessThan(2e-3);
      }
    }
  });
  it('the energy of a known map: stretched by 2 and squeezed by ½ it is 2 · (4 + ¼) an area', () => {
    const chart = whole(sheet(1, 10, () => 0));
    const uv = new Float64Array(8);
    for (let v = 0; v < 4; v++) [uv[2 * v], uv[2 * v + 1]] = [2 * chart.points[3 * v], -chart.points[3 * v + 2] / 2];
    expect(energyOf(chart, uv)).toBeCloseTo(100 * 2 * (4 + 1 / 4), 8);
    for (let v = 0; v < 4; v++) uv[2 * v] *= -1;
    expect(energyOf(chart, uv)).toBe(Infinity);
  });
  it('tells a crossing rim, and one that runs back on itself', () => {
    expect(rimCrosses([0, 1, 2, 3], Float64Array.from([0, 0, 1, 1, 1, 0, 0, 1]))).toBe(true);
    expect(rimCrosses([0, 1, 2, 3], Float64Array.from([0, 0, 1, 0, 1, 1, 0, 1]))).toBe(false);
    expect(rimCrosses([0, 1, 2, 3, 4], Float64Array.from([0, 0, 4, 0, 4, 1, 2, 0, 0, 1]))).toBe(true);
  });
});

describe('where it is cut', () => {
  it('the least eigenvalue of a symmetric matrix, against ones made from known values', () => {
    const next = random(17);
    for (let round = 0; round < 200; round++) {
      const values = [next(), next(), next()].map((x) => 4 * x);
      // Turned about two axes: V·diag·Vᵀ.
      const [a, b] = [6 * next(), 6 * next()];
      const v = [
        [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)],
        [-Math.sin(a), Math.cos(a), 0],
        [-Math.cos(a) * Math.sin(b), -Math.sin(a) * Math.sin(b), Math.cos(b)],
      ];
      const m = (i: number, j: number) => values.reduce((s, x, k) => s + x * v[k][i] * v[k][j], 0);
      expect(leastEigenvalue(m(0, 0), m(1, 1), m(2, 2), m(0, 1), m(0, 2), m(1, 2))).toBeCloseTo(Math.min(...values), 9);
    }
  });
  it('a cylinder, a cone and a folded sheet are one cluster each; a ball is several, fewer where a seam is worth more', () => {
    const count = (mesh: PolyMesh, worth: number) => {
      const faces = Array.from({ length: faceCount(mesh) }, (_, f) => f);
      return 1 + Math.max(...clusters(mesh, faceGraph(mesh, 170), faces, { worth, most: 0.05 }));
    };
    for (const mesh of [rolled(24, 3, 20, 20, 6), rolled(30, 4, 25, 8, 5), sheet(8, 10, (x) => 3 * Math.sin(x))])
      expect(count(mesh, 0.02)).toBe(1);
    const ball = primitive(icosphere({ subdivisions: 3 }));
    const [few, many] = [count(ball, 0.05), count(ball, 0.002)];
    expect(few).toBeGreaterThan(2);
    expect(few).toBeLessThan(10);
    expect(many).toBeGreaterThan(few);
  });
  it('a pipe is slit once, along its length', () => {
    const pipe = weld(rolled(24, 5, 20, 20, 2 * Math.PI), { within: 1e-4 });
    const chart = whole(pipe);
    const rims = rimsOf(chart);
    expect(rims?.loops).toHaveLength(2);
    expect(rims?.euler).toBe(0);
    const path = slit(edgesOf(pipe), chart, rims as NonNullable<typeof rims>);
    expect(path).toHaveLength(5);
    const cut = new Uint8Array(edgesOf(pipe).count);
    for (const e of path) cut[e] = 1;
    const open = new ChartMaker(pipe, edgesOf(pipe)).make([...chart.faces], cut);
    expect(diskRim(open)).not.toBeNull();
    expect(open.points.length - chart.points.length).toBe(3 * 6);
  });
  it('Σ angle defects and turning of the rims is 2πχ (Gauss–Bonnet), as the charts count χ', () => {
    for (const mesh of [
      sheet(7, 10, (x, z) => Math.sin(x + z)),
      rolled(12, 3, 9, 14, 2),
      weld(rolled(24, 5, 20, 12, 2 * Math.PI), { within: 1e-4 }),
    ]) {
      const chart = whole(mesh);
      const rims = rimsOf(chart) as NonNullable<ReturnType<typeof rimsOf>>;
      const n = chart.points.length / 3;
      const left = new Float64Array(n).fill(2 * Math.PI);
      for (const loop of rims.loops) for (const v of loop) left[v] = Math.PI;
      const at = (v: number) => chart.points.slice(3 * v, 3 * v + 3);
      for (let i = 0; i < chart.triangles.length; i += 3)
        for (let k = 0; k < 3; k++) {
          const [o, a, b] = [0, 1, 2].map((j) => at(chart.triangles[i + ((k + j) % 3)]));
          const [u, v] = [a, b].map((p) => p.map((x, j) => x - o[j]));
          const dot = u.reduce((s, x, j) => s + x * v[j], 0);
          left[chart.triangles[i + k]] -= Math.acos(dot / Math.hypot(...u) / Math.hypot(...v));
        }
      expect(left.reduce((s, x) => s + x, 0)).toBeCloseTo(2 * Math.PI * rims.euler, 6);
    }
  });
  it('cuts where a person asked for a seam', () => {
    const m = sheet(4, 10, () => 0);
    const seam = new Uint8Array(m.faceVert.length);
    for (let j = 0; j < 4; j++) seam[4 * (4 * j + 1) + 1] = 1;
    const bare = { ...m, attributes: [{ name: 'seam', domain: 'corner' as const, size: 1, data: seam }] };
    expect(flatten(bare, { seamAngle: 60 }).islands).toBe(2);
    expect(flatten({ ...m, attributes: [] }, { seamAngle: 60 }).islands).toBe(1);
  });
});

describe('a whole mesh', () => {
  // Solids of the general-purpose package primitive-geometry, and the scan of the package bunny.
  it.each([
    ['cube', primitive(geometryCube({ sx: 1 })), 6],
    ['icosphere', primitive(icosphere({ subdivisions: 2 })), 8],
    ['torus', primitive(torus({ segments: 24, minorSegments: 12 })), 16],
    ['capsule', primitive(capsule({})), 8],
    ['plain cube', cube(30), 6],
    ['bunny, 3 674 triangles', scan(), 60],
  ])('%s: no fold, no overlap, islands apart by the padding, few of them and hardly stretched', (_name, mesh, most) => {
    const { figures, parts } = laid(mesh);
    expect([figures.folds, figures.mirrored]).toEqual([0, undefined]);
    expect(figures.overlapTexels).toBe(0);
    expect(figures.gutter).toBeGreaterThanOrEqual(8);
    expect(figures.border).toBeGreaterThanOrEqual(3);
    expect(figures.islands).toBeLessThanOrEqual(most);
    expect(figures.stretchL2).toBeLessThan(1.03);
    expect(figures.coverage).toBeGreaterThan(0.4);
    for (const x of attribute(parts[0].mesh, 'uv')?.data ?? []) expect(x >= 0 && x <= 1).toBe(true);
  });
  it('comes out the same at any scale', () => {
    const mesh = torusMesh(30, 12, 24, 12, false);
    const [a, b] = [1, 1000].map((k) => flatten({ ...mesh, positions: mesh.positions.map((x) => k * x) }, { seamAngle: 50 }));
    expect([...a.island]).toEqual([...b.island]);
    // However each island is turned: lengths along its edges.
    const along = (flat: Float64Array, c: number) => Math.hypot(flat[2 * c] - flat[2 * c + 2], flat[2 * c + 1] - flat[2 * c + 3]);
    for (let c = 0; c < mesh.faceVert.length; c += 3) expect(along(b.flat, c) / 1000).toBeCloseTo(along(a.flat, c), 2);
  });
  it('faces without area get a place in the tile and spoil nothing', () => {
    const mesh = refined(cube(20), 2);
    const flat = fromTriangles([...mesh.positions], [...Array.from(mesh.triangles, (c) => mesh.faceVert[c]), 0, 1, 0, 0, 0, 1]);
    const { figures, parts } = laid(flat);
    expect([figures.folds, figures.mirrored]).toEqual([0, undefined]);
    expect(figures.overlapTexels).toBe(0);
    for (const x of attribute(parts[0].mesh, 'uv')?.data ?? []) expect(x >= 0 && x <= 1).toBe(true);
  });
});
