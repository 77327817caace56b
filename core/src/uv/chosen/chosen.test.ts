import { capsule, cylinder, icosphere } from 'primitive-geometry';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, refined, sheet, torusMesh } from '../../../test/shapes';
import { IDENTITY, multiply, placement, scaling, transformPoint } from '../../maths/mat4';
import { at } from '../../maths/vec3';
import { attribute, faceCount, makeMesh, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { weld } from '../../mesh/weld';
import { outlinePoints } from '../../pipeline/outline';
import { type UnwrapSettings, unwrap } from '../../pipeline/unwrap';
import { project, SHOT_DEFAULTS, solveShot } from '../../shot/shot';
import { flatten } from '../charts';
import { CHOSEN, type ChosenMethod } from '../words';
import { checkFlatChoices, type FlatChoice, stretchNotMeant } from './choices';
import type { ResolvedChoice } from './chosen';
import { quietAngle } from './quiet';

const lay = (mesh: PolyMesh, ...choices: ResolvedChoice[]) => flatten(mesh, { seamAngle: 50, choices });
const one = (mesh: PolyMesh, choice: ResolvedChoice) => {
  const laid = lay(mesh, choice);
  return { ...laid, result: laid.choices?.[0] as NonNullable<typeof laid.choices>[number] };
};
const primitive = (g: { positions: ArrayLike<number>; cells: ArrayLike<number> }, scale = 20) =>
  weld(
    fromTriangles(
      Array.from(g.positions, (x) => x * scale),
      g.cells,
    ),
    { within: 1e-5 },
  );
/** A grid of quads over places of a surface, n by m; `round` joins its ends. */
const quads = (n: number, m: number, round: boolean, place: (i: number, j: number) => readonly number[]): PolyMesh => {
  const across = round ? n : n + 1;
  const positions = Array.from({ length: across * (m + 1) }, (_, v) => place(v % across, Math.floor(v / across))).flat();
  const faceVert: number[] = [];
  for (let j = 0; j < m; j++)
    for (let i = 0; i < n; i++) {
      const [a, b] = [j * across + i, j * across + ((i + 1) % across)];
      faceVert.push(a, b, b + across, a + across);
    }
  return makeMesh({ positions, faceStart: Uint32Array.from({ length: n * m + 1 }, (_, f) => 4 * f), faceVert });
};
const tube = (n: number, m: number, r: number, length: number) =>
  quads(n, m, true, (i, j) => [r * Math.sin((2 * Math.PI * i) / n), (length * j) / m, r * Math.cos((2 * Math.PI * i) / n)]);
const boundsOfIsland = (laid: { flat: Float64Array; island: Int32Array }, mesh: PolyMesh, island: number) => {
  const b = [Infinity, Infinity, -Infinity, -Infinity];
  for (let f = 0; f < laid.island.length; f++)
    if (laid.island[f] === island)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const [x, y] = [laid.flat[2 * c], laid.flat[2 * c + 1]];
        b[0] = Math.min(b[0], x);
        b[1] = Math.min(b[1], y);
        b[2] = Math.max(b[2], x);
        b[3] = Math.max(b[3], y);
      }
  return [b[2] - b[0], b[3] - b[1]];
};

describe('laid flat as seen', () => {
  it('a plane leant back by θ is shortened by cos θ: at equal area L² = √((cos θ + 1/cos θ)/2), Sander 2001', () => {
    for (const degrees of [0, 30, 60, 70]) {
      const a = (degrees * Math.PI) / 180;
      const mesh = sheet(6, 30, (_, z) => z * Math.tan(a));
      const { result } = one(mesh, { method: 'direction', towards: [0, 1, 0] });
      expect(result.islands).toBe(1);
      expect(result.stretchL2).toBeCloseTo(Math.sqrt((Math.cos(a) + 1 / Math.cos(a)) / 2), 9);
    }
  });

  it('what leans farther than 75° or faces away is laid as before, counted, and a few of its places said', () => {
    const box = refined(cube(20), 3);
    const laid = one(box, { method: 'direction', towards: [0, 0, 1] });
    expect(laid.result).toMatchObject({ islands: 1, stretchL2: expect.closeTo(1, 9) });
    expect(laid.result.refused).toMatchObject([{ why: 'away', faces: 5 * 9 }]);
    expect(laid.result.refused[0].places).toHaveLength(10);
    expect(laid.islands).toBe(6);
    expect(laid.method.filter((m) => m === 'direction')).toHaveLength(1);
    expect(Math.min(...laid.island)).toBe(0);
  });

  it('through the camera lies as in the picture, wherever and however it stands: place for place but for move, turn and scale', () => {
    const mesh = sheet(8, 60, (x, z) => 6 * Math.sin(x / 9) + z / 9);
    const stretched = multiply(placement([30, 10, -20], [0, 25, 0]), scaling([1.5, 1, 0.8]));
    const shot = { ...SHOT_DEFAULTS, elevation: 55 };
    const settings: UnwrapSettings = { size: 256, padding: 4, seamAngle: 50, rotate: false, weights: {}, regions: {}, shot };
    for (const [stands, side] of [
      [stretched, 1],
      [multiply(stretched, scaling([-1, 1, 1])), -1],
    ] as const) {
      const part = { id: 'p', name: 'p', mesh, placements: [stands] };
      const { parts, figures } = unwrap([part], { ...settings, choices: [{ part: 'p', method: 'shot' }] });
      expect(figures.choices).toMatchObject([{ islands: 1, refused: [] }]);
      expect(figures.folds).toBe(0);
      const { camera } = solveShot(shot, outlinePoints([part]));
      const [laid, uv] = [parts[0].mesh, attribute(parts[0].mesh, 'uv', 'corner')?.data as Float64Array];
      const seen = Array.from(laid.faceVert, (v) => {
        const [x, y] = project(camera, transformPoint(stands, at(laid.positions, v)), shot.widthPx, shot.heightPx);
        return [side * x, -y];
      });
      const far = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0] - b[0], a[1] - b[1]);
      const lies = (c: number) => [uv[2 * c], uv[2 * c + 1]];
      const k = far(lies(0), lies(100)) / far(seen[0], seen[100]);
      for (let c = 3; c < laid.faceVert.length; c += 7) expect(far(lies(c), lies(50)) / k).toBeCloseTo(far(seen[c], seen[50]), 2);
    }
  });

  it('layers seen one behind the other would lie on each other: they are left', () => {
    // A ramp that winds over itself once and a half.
    const ramp = quads(54, 1, false, (i, j) => {
      const a = (Math.PI * i) / 18;
      return [(10 + 10 * j) * Math.sin(a), i / 2, (10 + 10 * j) * Math.cos(a)];
    });
    const seen = one(ramp, { method: 'direction', towards: [0, 1, 0] }).result;
    const below = one(ramp, { method: 'direction', towards: [0, -1, 0] }).result;
    const [said] = [...seen.refused, ...below.refused].filter((r) => r.why === 'over');
    expect(said.faces).toBe(54);
  });

  it('from six sides: a box is six squares, a ball six patches with their worst at the corners', () => {
    const box = one(refined(cube(20), 3), { method: 'sides' });
    expect(box.result).toMatchObject({ islands: 6, stretchL2: expect.closeTo(1, 9), refused: [] });
    const ball = one(primitive(icosphere({ subdivisions: 4 })), { method: 'sides' });
    expect(ball.result).toMatchObject({ islands: 6, refused: [] });
    // At a corner the normal leans by arccos(1/√3): a triangle there is stretched by √3 on its own, less at the islands’ own scale.
    expect(ball.result.stretchLinf).toBeGreaterThan(1.4);
    expect(ball.result.stretchLinf).toBeLessThan(Math.sqrt(3));
  });
});

describe('unrolled', () => {
  it('a tube comes out as long as it is and 2πr wide, wherever it stands; its seam is behind, its caps are laid as before', () => {
    for (const n of [12, 48]) {
      const r = 10;
      const laid = one(tube(n, 4, r, 30), { method: 'cylinder', towards: [0, 1, 0] });
      expect(laid.result).toMatchObject({ islands: 1, refused: [], stretchL2: expect.closeTo(1, n === 12 ? 3 : 4) });
      const [u, v] = boundsOfIsland(laid, tube(n, 4, r, 30), 0);
      // Of the polygon, whose sides lie r·cos(π/n) off the axis; its area is kept.
      expect(u * v).toBeCloseTo(2 * n * r * Math.sin(Math.PI / n) * 30, 6);
      expect(u / v).toBeCloseTo((2 * Math.PI * r) / 30, n === 12 ? 0 : 1);
    }
    const closed = primitive(cylinder({ height: 2, radius: 0.5, nx: 24, ny: 3 }), 20);
    const { result, method } = one(closed, { method: 'cylinder', towards: [0, 1, 0] });
    expect(result).toMatchObject({ islands: 1, refused: [{ why: 'away' }] });
    expect(method.filter((m) => m === 'plane')).toHaveLength(2);
  });

  it('its inside is an island of its own, seen from within', () => {
    const both = quads(24, 1, true, (i, j) => {
      const [a, r] = [(2 * Math.PI * i) / 24, j === 0 ? 10 : 10];
      return [r * Math.sin(a), 20 * j, r * Math.cos(a)];
    });
    const inward = makeMesh({
      ...both,
      faceVert: Uint32Array.from({ length: both.faceVert.length }, (_, c) => both.faceVert[(c & ~3) + 3 - (c & 3)]),
    });
    const { result } = one(inward, { method: 'cylinder', towards: [0, 1, 0] });
    expect(result).toMatchObject({ islands: 1, refused: [], stretchL2: expect.closeTo(1, 3) });
  });

  it('round a ball, up to 75°, L² is that of longitude against latitude at their length', () => {
    const [n, m, top] = [96, 48, (75 * Math.PI) / 180];
    const band = quads(n, m, true, (i, j) => {
      const [a, b] = [(2 * Math.PI * i) / n, top * ((2 * j) / m - 1) * 0.9999];
      return [10 * Math.cos(b) * Math.sin(a), 10 * Math.sin(b), 10 * Math.cos(b) * Math.cos(a)];
    });
    const { result } = one(band, { method: 'sphere', towards: [0, 1, 0] });
    expect(result).toMatchObject({ islands: 1, refused: [] });
    // Longitude is drawn 1/cos φ too long: ∫ (1 + cos² φ)/2 dA over ∫ dA with dA ∝ cos φ, times drawn over real area.
    const s = Math.sin(top);
    const mean = (s + (s - s ** 3 / 3)) / 2 / s;
    expect(result.stretchL2).toBeCloseTo(Math.sqrt((mean * top) / s), 2);
  });

  it('the seam goes where fewest look, else behind; what is open is cut where it is open', () => {
    const turn = 2 * Math.PI;
    const arcs = Array.from({ length: 12 }, (_, i) => ({ from: (turn * i) / 12, to: (turn * (i + 1)) / 12, weight: 1 }));
    expect(Math.sin(quietAngle(arcs))).toBeCloseTo(0, 6);
    expect(Math.cos(quietAngle(arcs))).toBeCloseTo(1, 6);
    const shy = arcs.map((a, i) => ({ ...a, weight: i === 4 ? 0.1 : 1 }));
    expect(quietAngle(shy)).toBeGreaterThanOrEqual(arcs[4].from - 1e-9);
    expect(quietAngle(shy)).toBeLessThanOrEqual(arcs[4].to + 1e-9);
    const open = arcs.filter((_, i) => i < 5 || i > 8);
    expect(quietAngle(open)).toBeCloseTo((turn * 7) / 12, 1);
  });
});

describe('straightened', () => {
  /** A flat half ring, of triangles. */
  const arch = (n: number, width: number) => {
    const q = quads(n, 2, false, (i, j) => {
      const [a, r] = [(Math.PI * i) / n, 20 + (width * (2 - j)) / 2];
      return [-r * Math.cos(a), 0, -r * Math.sin(a)];
    });
    const cells = Array.from({ length: faceCount(q) }, (_, f) => {
      const v = q.faceVert.subarray(4 * f, 4 * f + 4);
      return [v[0], v[1], v[2], v[0], v[2], v[3]];
    }).flat();
    return fromTriangles(q.positions, cells);
  };

  it('an arch is a strip as long as the mean of its sides, and as wide as its area asks: its width', () => {
    const mesh = arch(40, 4);
    const laid = one(mesh, { method: 'strip' });
    expect(laid.result).toMatchObject({ islands: 1, refused: [] });
    const [u, v] = boundsOfIsland(laid, mesh, 0);
    expect(u).toBeCloseTo(Math.PI * 22, 0);
    expect(v).toBeCloseTo(4, 1);
  });

  it('to a rectangle it has the sides asked for, in proportion, the longer one where it was said', () => {
    const mesh = arch(24, 10);
    for (const size of [
      [80, 20],
      [20, 80],
    ] as [number, number][]) {
      const laid = one(mesh, { method: 'rectangle', size });
      expect(laid.result.refused).toEqual([]);
      const [u, v] = boundsOfIsland(laid, mesh, 0);
      expect(u / v).toBeCloseTo(size[0] / size[1], 6);
    }
  });

  it('a disk has no four corners: said, and laid as before', () => {
    const disk = fromTriangles(
      [0, 0, 0, ...Array.from({ length: 24 }, (_, i) => [10 * Math.cos((Math.PI * i) / 12), 0, -10 * Math.sin((Math.PI * i) / 12)]).flat()],
      Array.from({ length: 24 }, (_, i) => [0, 1 + i, 1 + ((i + 1) % 24)]).flat(),
    );
    const laid = one(disk, { method: 'strip' });
    expect(laid.result).toMatchObject({ islands: 0, refused: [{ why: 'corners', faces: 24 }] });
    expect(laid.islands).toBe(1);
  });

  it('by rows and columns: each as wide as its quads are, a bent and tapered band lies in squares', () => {
    const band = quads(8, 3, true, (i, j) => {
      const [a, r] = [(2 * Math.PI * i) / 8, 10 + 2 * j];
      return [r * Math.sin(a), [0, 3, 5, 10][j], r * Math.cos(a)];
    });
    const laid = one(band, { method: 'grid' });
    expect(laid.result).toMatchObject({ islands: 1, refused: [] });
    const lines = (k: number) => new Set(Array.from({ length: laid.flat.length / 2 }, (_, c) => Math.round(1e6 * laid.flat[2 * c + k])));
    const counts = [lines(0).size, lines(1).size].sort((a, b) => a - b);
    expect(counts).toEqual([4, 9]);
  });

  it('triangles are in no rows: it says how many', () => {
    expect(one(arch(10, 4), { method: 'grid' }).result.refused).toMatchObject([{ why: 'quads', faces: 40 }]);
  });
});

describe('by stretch or by angles', () => {
  const dome = () => sheet(16, 40, (x, z) => 14 * Math.cos(x / 16) * Math.cos(z / 16));
  it('with the least stretch is never more stretched than as it would be; true to angles keeps them better', () => {
    const usual = lay(dome()).choices;
    expect(usual).toBeUndefined();
    const [even, angles] = (['even', 'angles'] as const).map((method) => one(dome(), { method }));
    expect(even.result).toMatchObject({ islands: 1, refused: [] });
    expect(angles.result).toMatchObject({ islands: 1, refused: [] });
    expect(even.result.stretchL2).toBeLessThan(angles.result.stretchL2);
    const off = ({ flat }: { flat: Float64Array }, mesh: PolyMesh) => {
      let sum = 0;
      for (let t = 0; t < mesh.triangles.length; t += 3)
        for (let k = 0; k < 3; k++) {
          const c = [0, 1, 2].map((j) => mesh.triangles[t + ((k + j) % 3)]);
          const p = c.map((i) => [...mesh.positions.slice(3 * mesh.faceVert[i], 3 * mesh.faceVert[i] + 3)]);
          const q = c.map((i) => [flat[2 * i], flat[2 * i + 1], 0]);
          const angle = ([o, a, b]: number[][]) => {
            const [u, v] = [a.map((x, i) => x - o[i]), b.map((x, i) => x - o[i])];
            return Math.acos(u.reduce((s, x, i) => s + x * v[i], 0) / Math.hypot(...u) / Math.hypot(...v));
          };
          sum += Math.abs(angle(p) - angle(q));
        }
      return sum;
    };
    expect(off(angles, dome())).toBeLessThan(off(even, dome()));
  });

  it('where it has no rim it is laid as before, and that is said', () => {
    const ball = primitive(icosphere({ subdivisions: 2 }));
    const closed = withAttribute(ball, { name: 'joined', domain: 'corner', size: 1, data: new Uint8Array(ball.faceVert.length).fill(1) });
    const laid = lay(closed, { method: 'even', at: { from: [0, 10, 0], facing: [0, 1, 0] } });
    expect(laid.choices).toMatchObject([{ islands: 0, refused: [{ why: 'rim', faces: faceCount(ball) }] }]);
    expect(Math.min(...laid.island)).toBe(0);
  });
});

describe('choices', () => {
  it('nothing folds and nothing is left out, whatever is chosen for whatever', () => {
    const shapes: Record<string, PolyMesh> = {
      box: refined(cube(20), 2),
      ball: primitive(icosphere({ subdivisions: 2 })),
      capsule: primitive(capsule()),
      ring: torusMesh(20, 6, 16, 8),
      'ring of triangles': torusMesh(20, 6, 16, 8, false),
      tube: tube(16, 3, 8, 20),
      dome: sheet(8, 40, (x, z) => 10 * Math.cos(x / 12) * Math.cos(z / 12)),
    };
    const settings: UnwrapSettings = { size: 256, padding: 2, seamAngle: 50, rotate: true, weights: {}, regions: {}, shot: SHOT_DEFAULTS };
    for (const [name, mesh] of Object.entries(shapes))
      for (const method of Object.keys(CHOSEN) as ChosenMethod[]) {
        const choice: FlatChoice = { part: 'p', method, towards: [0, 1, 0], size: [30, 20] };
        const [part] = unwrap([{ id: 'p', name, mesh, placements: [IDENTITY] }], { ...settings, choices: [choice] }).parts;
        const { figures } = unwrap([{ id: 'p', name, mesh, placements: [IDENTITY] }], { ...settings, choices: [choice] });
        const uv = attribute(part.mesh, 'uv', 'corner')?.data as Float64Array;
        const what = `${name}, ${method}`;
        expect(uv.every(Number.isFinite), what).toBe(true);
        expect([figures.folds, figures.overlapTexels, figures.mirrored], what).toEqual([0, 0, undefined]);
        const [result] = figures.choices ?? [];
        const refused = result.refused.reduce((n, r) => n + r.faces, 0);
        expect(result.islands > 0 || refused > 0, what).toBe(true);
      }
  });

  it('one island of several is found by its place, on other counts too; a place that is gone is said', () => {
    const place = { from: [0, 0, 10] as const, facing: [0, 0, 1] as const };
    for (const n of [1, 3]) {
      const laid = lay(refined(cube(20), n), { method: 'direction', towards: [0, 0, 1], at: place });
      expect(laid.choices).toMatchObject([{ islands: 1, refused: [] }]);
      expect(laid.method.filter((m) => m === 'direction')).toHaveLength(1);
    }
    expect(lay(cube(20), { method: 'even', at: { from: [0, 0, 30], facing: [0, 0, 1] } }).choices).toMatchObject([
      { islands: 0, lost: true },
    ]);
  });

  it('islands that a maker unrolled are freed where somebody chose otherwise, and only those', () => {
    const box = refined(cube(20), 2);
    const plain = lay(box, { method: 'sides' });
    const made = withAttribute(withAttribute(box, { name: 'chart', domain: 'face', size: 1, data: plain.island }), {
      name: 'flat',
      domain: 'corner',
      size: 2,
      data: plain.flat,
    });
    const one = lay(made, { method: 'even', at: { from: [0, 0, 10], facing: [0, 0, 1] } });
    expect(one.method.filter((m) => m === 'exact')).toHaveLength(5);
    expect(one.method.filter((m) => m === 'even')).toHaveLength(1);
    expect(lay(made, { method: 'sides' }).method.every((m) => m === 'sides')).toBe(true);
  });

  it('stretch that is meant is left out of what is judged', () => {
    const f = {
      stretchL2: Math.sqrt((100 * 1 + 100 * 1.44) / 200),
      parts: [{ areaMm2: 200 }],
      choices: [{ part: 'p', islands: 1, areaMm2: 100, stretchL2: 1.2, stretchLinf: 1.5, refused: [] }],
    };
    expect(stretchNotMeant(f, [{ part: 'p', method: 'shot' }])).toBe(f.stretchL2);
    expect(stretchNotMeant(f, [{ part: 'p', method: 'shot', meant: 'painted through the camera' }])).toBeCloseTo(1, 9);
  });

  it('requests that lie get a sentence', () => {
    const good: FlatChoice = { part: 'p', method: 'direction', towards: [0, 0, 1] };
    expect(checkFlatChoices([{ ...good, more: 1 }])).toEqual([good]);
    for (const bad of [
      'x',
      [null],
      [{ ...good, part: 3 }],
      [{ ...good, method: 'toString' }],
      [{ part: 'p', method: 'cylinder' }],
      [{ ...good, towards: [0, 0, 2] }],
      [{ ...good, towards: [0, Number.NaN, 1] }],
      [{ ...good, up: [0, 0, 1] }],
      [{ ...good, at: { from: [0, 0], facing: [0, 0, 1] } }],
      [{ part: 'p', method: 'rectangle', size: [0, 4] }],
      [{ ...good, meant: 'x' }],
    ])
      expect(() => checkFlatChoices(bad), JSON.stringify(bad)).toThrow(/^[A-Z“].*\.$/);
  });
});
