import { describe, expect, it } from 'vitest';
import { cube, sheet, torusMesh } from '../../test/shapes';
import { IDENTITY, translation } from '../maths/mat4';
import { gpuMesh } from '../mesh/gpu';
import { faceNormals, markHard } from '../mesh/normals';
import { attribute, cornerCount, faceCount, makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { flip, transform } from '../mesh/transform';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { looksAt } from './seams/looks';
import { measureSeams } from './seams/measure';

const SETTINGS: UnwrapSettings = { size: 512, padding: 4, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const part = (mesh: PolyMesh, id = 'a', placements = [IDENTITY]) => ({ id, name: id, mesh, placements });
const laid = (mesh: PolyMesh, more: Partial<UnwrapSettings> = {}) => unwrap([part(mesh)], { ...SETTINGS, ...more });

describe('figures of seams', () => {
  it('a cube has twelve seams and twenty-four vertices, as hard edges make them anyway', () => {
    const { parts, figures } = laid(markHard(cube(10), 60));
    expect(figures.seams).toMatchObject({ hardInsideMm: 0, reopenedMm: 0, gpuVertices: 24, forcedVertices: 24 });
    expect(figures.seams?.lengthMm).toBeCloseTo(120, 9);
    expect(figures.seams?.reasons).toEqual({ hand: 0, hard: expect.closeTo(120, 9), region: 0, closed: 0, divided: 0, curved: 0 });
    // Two copies have twice the seams, and the same vertices.
    expect(measureSeams(parts[0].mesh, null, 2).lengthMm).toBeCloseTo(240, 9);
    expect(measureSeams(parts[0].mesh, null, 2).gpuVertices).toBe(24);
  });

  it('each has its reason: a tube closes on itself, a drawn line is drawn, a region has its border; together they are all', () => {
    const n = 24;
    const at = (j: number): number[] =>
      Array.from({ length: n }, (_, i) => [10 * Math.cos((2 * Math.PI * i) / n), 10 * j, 10 * Math.sin((2 * Math.PI * i) / n)]).flat();
    const tube = makeMesh({
      positions: [0, 1, 2, 3].flatMap(at),
      faceStart: Array.from({ length: 3 * n + 1 }, (_, f) => 4 * f),
      faceVert: Array.from({ length: 3 * n }, (_, f) => {
        const [i, j] = [f % n, Math.floor(f / n)];
        const [a, b] = [j * n + i, j * n + ((i + 1) % n)];
        return [a, a + n, b + n, b];
      }).flat(),
    });
    const round = laid(tube, { seamAngle: 60 }).figures.seams;
    // One line from rim to rim, 30 mm.
    expect(round?.reasons).toMatchObject({ closed: expect.closeTo(30, 6), hard: 0, hand: 0, curved: 0 });
    const ring = Int32Array.from({ length: 3 * n }, (_, f) => (f < n ? 1 : 0));
    const banded = laid(withAttribute(tube, { name: 'region', domain: 'face', size: 1, data: ring }), { seamAngle: 60 }).figures.seams;
    expect(banded?.reasons?.region).toBeCloseTo(n * 20 * Math.sin(Math.PI / n), 6);
    const opened = Uint8Array.from({ length: 12 * n }, (_, c) => Number(c % 4 === 0 && Math.floor(c / 4) % n === 5));
    const drawn = laid(withAttribute(tube, { name: 'seam', domain: 'corner', size: 1, data: opened }), { seamAngle: 60 }).figures.seams;
    expect(drawn?.reasons).toMatchObject({ hand: expect.closeTo(30, 6), closed: 0 });
    for (const s of [round, banded, drawn])
      expect(Object.values(s?.reasons ?? {}).reduce((x, y) => x + y, 0)).toBeCloseTo(s?.lengthMm ?? 0, 6);
  });

  it('a long strip is divided to fill the tile, and that is why', () => {
    const long = makeMesh({
      positions: Array.from({ length: 41 }, (_, i) => [10 * i, 0, 0, 10 * i, 0, 10]).flat(),
      faceStart: Array.from({ length: 41 }, (_, f) => 4 * f),
      faceVert: Array.from({ length: 40 }, (_, f) => [2 * f, 2 * f + 1, 2 * f + 3, 2 * f + 2]).flat(),
    });
    const { figures } = laid(long);
    expect(figures.islands).toBeGreaterThan(1);
    expect(figures.seams?.reasons?.divided).toBeCloseTo(10 * (figures.islands - 1), 6);
    expect(figures.seams?.lengthMm).toBeCloseTo(figures.seams?.reasons?.divided ?? 0, 6);
  });

  it('hard edges that lie inside an island are counted: one closed by hand, and those a wider angle leaves', () => {
    const box = cube(10);
    const joined = new Uint8Array(cornerCount(box));
    // The edge from corner 0 to corner 1 of the cube, from both of its faces.
    for (let c = 0; c < joined.length; c++)
      if (
        (box.faceVert[c] === 0 && box.faceVert[c % 4 === 3 ? c - 3 : c + 1] === 1) ||
        (box.faceVert[c] === 1 && box.faceVert[c % 4 === 3 ? c - 3 : c + 1] === 0)
      )
        joined[c] = 1;
    const closed = laid(withAttribute(box, { name: 'joined', domain: 'corner', size: 1, data: joined })).figures;
    expect(closed.islands).toBe(5);
    expect(closed.seams?.hardInsideMm).toBeCloseTo(10, 9);
    expect(closed.seams?.lengthMm).toBeCloseTo(110, 9);
    expect(laid(box, { seamAngle: 170 }).figures.seams?.hardInsideMm).toBeGreaterThan(0);
  });

  it('edges along which a file split its normals are seams; in a file that split them all they say nothing', () => {
    // A flat sheet whose normals lean apart along its middle, as a file with a soft and a hard half has them.
    const grid = withAttribute(
      sheet(4, 40, () => 0),
      {
        name: 'normal',
        domain: 'corner',
        size: 3,
        data: Float64Array.from({ length: 3 * 64 }, (_, i) => {
          const left = ((i / 12) | 0) % 4 < 2 ? -0.3 : 0.3;
          return [left, Math.sqrt(1 - 0.09), 0][i % 3];
        }),
      },
    );
    const { figures } = laid(grid);
    expect(figures).toMatchObject({ islands: 2, seams: { hardInsideMm: 0 } });
    expect(figures.seams?.lengthMm).toBeCloseTo(40, 9);
    const ring = torusMesh(40, 10, 24, 12);
    const n = faceNormals(ring);
    const faceted = withAttribute(ring, {
      name: 'normal',
      domain: 'corner',
      size: 3,
      data: Float64Array.from({ length: 3 * cornerCount(ring) }, (_, i) => n[3 * ((i / 12) | 0) + (i % 3)]),
    });
    expect(laid(faceted).figures.islands).toBeLessThan(40);
    expect(laid(faceted).figures.seams?.hardInsideMm).toBeGreaterThan(1000);
  });

  it('vertices are as many as a mesh for the card has', () => {
    for (const mesh of [cube(10), torusMesh(40, 10, 24, 12), torusMesh(30, 12, 16, 9, false)]) {
      const whole = laid(markHard(mesh, 60)).parts[0].mesh;
      expect(measureSeams(whole, null).gpuVertices).toBe(gpuMesh(whole, { tangents: false }).corner.length);
    }
  });
});

describe('where people look', () => {
  it('the front is looked at more than the back, above more than below, left as much as right; inside a box nothing is', () => {
    const [box] = looksAt([part(cube(10))]);
    // Faces of the cube: below, above, back, right, front, left.
    const [below, above, back, right, front, left] = box;
    expect(front).toBeGreaterThan(back);
    expect(above).toBeGreaterThan(below);
    expect(below).toBeLessThan(0.2);
    expect(left).toBeCloseTo(right, 12);
    expect(Math.max(...box)).toBeLessThanOrEqual(1);
    const inner = part(cube(4, [0, 3, 0]), 'b');
    expect(Math.max(...looksAt([part(cube(10)), inner])[1])).toBe(0);
    // Through glass, and in a box that is moved away, it is seen as if it stood alone.
    const alone = looksAt([inner])[0];
    expect(looksAt([{ ...part(cube(10)), blocks: false }, inner])[1]).toEqual(alone);
    expect(looksAt([{ ...part(cube(10)), moves: true }, inner])[1]).toEqual(alone);
    expect(looksAt([part(cube(10)), { ...inner, moves: true }])[1]).toEqual(alone);
  });

  it('is the same at any scale, and the box on the ground has no looks at its foot', () => {
    const small = looksAt([part(transform(cube(10), [0.01, 0, 0, 0, 0, 0.01, 0, 0, 0, 0, 0.01, 0, 0, 0, 0, 1]))])[0];
    expect([...small]).toEqual([...looksAt([part(cube(10))])[0]].map((x) => expect.closeTo(x, 6)));
    const ground = part(
      sheet(2, 1000, () => -0.01),
      'g',
    );
    expect(looksAt([part(cube(10)), ground])[0][0]).toBe(0);
  });

  it('half the density where nobody looks: exactly half, over exactly that share of the surface', () => {
    // A box with walls: a cube of 20 mm, and a cube of 18 mm inside it turned outside in.
    const walls = { ...SETTINGS, unseen: 0.5 };
    const inside = transform(flip(cube(18)), translation([0, 1, 0]));
    const parts = [part(cube(20)), part(inside, 'b')];
    const { figures } = unwrap(parts, walls);
    expect(figures.unseenShare).toBeCloseTo(18 ** 2 / (20 ** 2 + 18 ** 2), 9);
    expect((figures.unseenDensity as number) / figures.density).toBeCloseTo(0.5, 4);
    const equal = unwrap(parts, SETTINGS).figures;
    expect((equal.unseenDensity as number) / equal.density).toBeCloseTo(1, 4);
    expect(figures.density).toBeGreaterThan(equal.density * 1.1);
    expect(figures).toMatchObject({ folds: 0, overlapTexels: 0 });
  });

  it('a slit goes where it is seen least: along the back of a tube', () => {
    // An open tube of 24 sides: what is slit is one line along it, at any side when all count the same.
    const tube = pipe(24);
    const { parts } = laid(tube, { seamAngle: 60, whole: true });
    const uv = attribute(parts[0].mesh, 'uv', 'corner')?.data as Float64Array;
    const at = new Map<string, Set<string>>();
    for (let c = 0; c < cornerCount(tube); c++) {
      const v = tube.faceVert[c];
      const z = tube.positions[3 * v + 2].toFixed(3);
      const places = at.get(`${v}|${z}`) ?? new Set();
      at.set(`${v}|${z}`, places.add(`${uv[2 * c].toFixed(5)},${uv[2 * c + 1].toFixed(5)}`));
    }
    const slit = [...at].filter(([, places]) => places.size > 1).map(([key]) => Number(key.split('|')[1]));
    expect(faceCount(parts[0].mesh)).toBe(24);
    expect(slit).toHaveLength(2);
    for (const z of slit) expect(z).toBeLessThan(-9);
  });
});

/** A tube of radius 10 and height 30 about y, one quad a side, outside only. */
function pipe(n: number): PolyMesh {
  const grid = sheet(1, 1, () => 0);
  const positions = Array.from({ length: 2 * n }, (_, i) => {
    const a = (2 * Math.PI * (i % n)) / n;
    return [10 * Math.sin(a), i < n ? 0 : 30, 10 * Math.cos(a)];
  }).flat();
  const faceVert = Array.from({ length: n }, (_, i) => [i, (i + 1) % n, n + ((i + 1) % n), n + i]).flat();
  const triangles = Array.from({ length: n }, (_, i) => [4 * i, 4 * i + 1, 4 * i + 2, 4 * i, 4 * i + 2, 4 * i + 3]).flat();
  return {
    ...grid,
    attributes: [],
    positions: Float64Array.from(positions),
    faceStart: Uint32Array.from({ length: n + 1 }, (_, i) => 4 * i),
    faceVert: Uint32Array.from(faceVert),
    triangles: Uint32Array.from(triangles),
    triangleFace: Uint32Array.from({ length: 2 * n }, (_, i) => i >> 1),
  };
}
