import { describe, expect, it } from 'vitest';
import { cube, sheet, torusMesh } from '../../test/shapes';
import { scaling, translation } from '../maths/mat4';
import { at, type Vec3 } from '../maths/vec3';
import { edgesOf } from '../mesh/connectivity';
import type { PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { flatten } from '../uv/charts';
import { edgeLengths } from '../uv/seams/measure';
import { checkSeams, marked } from './regions';
import { clickedSeams, clickedWay, edgeNear, lineThrough, PathFinder, type PickedSeam, type SeamPath, wayBetween } from './seam-paths';

const placesOf = (mesh: PolyMesh, way: readonly number[]): Vec3[] => way.map((v) => at(mesh.positions, v));
const path = (mesh: PolyMesh, way: readonly number[], how: SeamPath['how'] = 'open', id = 'a'): SeamPath => ({
  id,
  how,
  points: placesOf(mesh, way),
});
const lengthOf = (mesh: PolyMesh, edges: readonly number[]): number => edges.reduce((s, e) => s + edgeLengths(mesh)[e], 0);
const islandsOf = (mesh: PolyMesh, seams: PickedSeam[], seamAngle = 50) => flatten(marked(mesh, [], seams).mesh, { seamAngle }).islands;

describe('lines and ways along a mesh', () => {
  it('round a ring of quads a line closes on itself: as long as a regular polygon is round', () => {
    const ring = torusMesh(40, 10, 24, 12);
    const finder = new PathFinder(ring);
    const lengths = Array.from({ length: edgesOf(ring).count }, (_, e) => {
      const line = lineThrough(ring, e);
      expect(line[line.length - 1]).toBe(line[0]);
      return lengthOf(ring, finder.edgesAlong(path(ring, line)) as number[]);
    });
    // Across the tube every line is a regular polygon of 12 sides: 2 · n · r · sin(π / n).
    const across = 2 * 12 * 10 * Math.sin(Math.PI / 12);
    expect(lengths.filter((l) => Math.abs(l - across) < 1e-6)).toHaveLength(24 * 12);
    // Round the ring it is one of 24 sides, at twelve radii.
    const outermost = 2 * 24 * 50 * Math.sin(Math.PI / 24);
    expect(Math.max(...lengths)).toBeCloseTo(outermost, 6);
  });

  it('between two corners of a grid the way is as long as its streets: |dx| + |dz|', () => {
    const grid = sheet(8, 80, () => 0);
    for (const [a, b] of [
      [0, 80],
      [4, 66],
      [20, 61],
    ]) {
      const way = wayBetween(grid, a, b) as number[];
      const [p, q] = [at(grid.positions, a), at(grid.positions, b)];
      const edges = new PathFinder(grid).edgesAlong(path(grid, way)) as number[];
      expect(lengthOf(grid, edges)).toBeCloseTo(Math.abs(p[0] - q[0]) + Math.abs(p[2] - q[2]), 9);
    }
    const two = sheet(1, 10, () => 0);
    expect(wayBetween(two, 0, 0)).toEqual([0]);
  });

  it('a click takes the nearest edge, its line, or the way from the place before; where no edges lead it says so', () => {
    const grid = sheet(4, 40, () => 0);
    expect(placesOf(grid, clickedWay(grid, 5, [-9, 0, 5], 'edge', null))).toEqual(expect.arrayContaining([at(grid.positions, 6)]));
    expect(clickedWay(grid, 5, [-9, 0, 5], 'line', null)).toHaveLength(5);
    expect(clickedWay(grid, 0, [-20, 0, 20], 'path', null)).toEqual([0]);
    expect(clickedWay(grid, 15, [20, 0, -20], 'path', [-20, 0, 20])).toHaveLength(9);
    const apart: PolyMesh = { ...grid, ...joinedMeshes(grid, transform(grid, translation([100, 0, 0]))) };
    expect(() => clickedWay(apart, 20, [90, 0, 10], 'path', [-20, 0, 20])).toThrow('No edges lead from the one place to the other.');
  });
});

describe('seams drawn by hand', () => {
  it('are the same edges on the same mesh, follow other counts, and are lost where the surface is gone', () => {
    const coarse = torusMesh(40, 10, 24, 12);
    const line = lineThrough(coarse, edgeNear(coarse, 0, at(coarse.positions, coarse.faceVert[0])));
    const drawn = path(coarse, line);
    const same = new PathFinder(coarse).edgesAlong(drawn) as number[];
    expect(same).toHaveLength(line.length - 1);
    for (const [n, m] of [
      [48, 24],
      [36, 12],
      [20, 10],
    ]) {
      const other = torusMesh(40, 10, n, m);
      const found = new PathFinder(other).edgesAlong(drawn) as number[];
      // It goes round once, as long as before but for the corners of a polygon of other sides.
      expect(Math.abs(lengthOf(other, found) / lengthOf(coarse, same) - 1)).toBeLessThan(0.06);
      const ends = new Map<number, number>();
      for (const e of found) for (const v of edgesOf(other).ends.subarray(2 * e, 2 * e + 2)) ends.set(v, (ends.get(v) ?? 0) + 1);
      expect([...ends.values()].every((k) => k === 2)).toBe(true);
    }
    expect(new PathFinder(transform(coarse, translation([200, 0, 0]))).edgesAlong(drawn)).toBeNull();
    expect(new PathFinder(transform(coarse, scaling([0.2, 0.2, 0.2]))).edgesAlong(drawn)).toBeNull();
    expect(marked(transform(coarse, translation([200, 0, 0])), [], [drawn]).marks.lostSeams).toEqual(['a']);
  });

  it('cut where they are opened: a sheet across its middle is two islands, along both middles four', () => {
    const grid = sheet(8, 80, () => 0);
    expect(islandsOf(grid, [])).toBe(1);
    const across = path(grid, wayBetween(grid, 36, 44) as number[]);
    const along = path(grid, wayBetween(grid, 4, 76) as number[], 'open', 'b');
    expect(islandsOf(grid, [across])).toBe(2);
    expect(islandsOf(grid, [across, along])).toBe(4);
    // The later one counts where two meet.
    expect(islandsOf(grid, [across, { ...across, id: 'c', how: 'close' }])).toBe(1);
  });

  it('join where they are closed: each edge of a cube that is closed is an island less, down to one that hangs together as a cross', () => {
    const box = cube(10);
    expect(islandsOf(box, [])).toBe(6);
    // Five edges of the bottom and one side: the net every child cuts out. Corners 0…3 lie below, 4…7 above.
    const net: SeamPath[] = [
      [0, 1],
      [1, 2],
      [2, 3],
      [3, 0],
      [4, 5],
    ].map((way, i) => path(box, way, 'close', String(i)));
    for (let n = 1; n <= 5; n++) {
      const { mesh } = marked(box, [], net.slice(0, n));
      const laid = flatten(mesh, { seamAngle: 50 });
      expect(laid.islands).toBe(6 - n);
      expect(areaOf(mesh, laid.flat)).toBeCloseTo(600, 6);
    }
  });

  it('cut again what can’t be flat: a cube with all its edges closed is laid all the same, without a fold', () => {
    const box = cube(10);
    const { ends } = edgesOf(box);
    const all = Array.from({ length: 12 }, (_, e) => path(box, [ends[2 * e], ends[2 * e + 1]], 'close', String(e)));
    const { mesh } = marked(box, [], all);
    const laid = flatten(mesh, { seamAngle: 50 });
    expect(laid.islands).toBeGreaterThan(0);
    expect(Math.min(...areas(mesh, laid.flat))).toBeGreaterThan(0);
  });
});

describe('what a click does', () => {
  const grid = sheet(2, 20, () => 0);
  const points = placesOf(grid, [1, 4]);
  it('opens, takes back, closes a seam that is there, and turns what was drawn round when that is said', () => {
    const opened = clickedSeams([], { points, cut: false, line: null }, 'a');
    expect(opened).toEqual([{ id: 'a', how: 'open', points }]);
    expect(clickedSeams(opened, { points: [...points].reverse(), cut: true, line: null }, 'b')).toEqual([]);
    expect(clickedSeams([], { points, cut: true, line: null }, 'b')).toEqual([{ id: 'b', how: 'close', points }]);
    expect(clickedSeams(opened, { points, cut: true, line: null }, 'b', 'close')).toEqual([{ id: 'b', how: 'close', points }]);
    const line = { patch: 's/side', constant: 'u' as const, at: 0.5, from: 0, to: 1 };
    const onLine = clickedSeams([], { points, cut: false, line }, 'a');
    expect(onLine).toEqual([{ id: 'a', ...line }]);
    expect(clickedSeams(onLine, { points, cut: true, line }, 'b')).toEqual([]);
  });
  it('refuses what is none in a sentence', () => {
    expect(checkSeams([{ id: 'a', how: 'open', points }])).toEqual([{ id: 'a', how: 'open', points }]);
    for (const wrong of [
      { id: 'a', how: 'open', points: [[0, 0, 0]] },
      {
        id: 'a',
        how: 'open',
        points: [
          [0, 0, 0],
          [0, Number.NaN, 0],
        ],
      },
      { id: '', how: 'open', points },
      { id: 'a', how: 'torn', points },
    ])
      expect(() => checkSeams([wrong])).toThrow(/^A seam drawn on the part .*\.$/);
  });
});

/** Area of each triangle as it is laid, mm²; negative where it is turned over. */
function areas(mesh: PolyMesh, flat: Float64Array): number[] {
  return Array.from({ length: mesh.triangles.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
    return ((flat[b] - flat[a]) * (flat[c + 1] - flat[a + 1]) - (flat[c] - flat[a]) * (flat[b + 1] - flat[a + 1])) / 2;
  });
}
const areaOf = (mesh: PolyMesh, flat: Float64Array): number => areas(mesh, flat).reduce((s, x) => s + x, 0);

/** Two meshes as one, without attributes. */
function joinedMeshes(a: PolyMesh, b: PolyMesh): Pick<PolyMesh, 'positions' | 'faceStart' | 'faceVert' | 'triangles' | 'triangleFace'> {
  const [verts, faces, corners] = [a.positions.length / 3, a.faceStart.length - 1, a.faceVert.length];
  return {
    positions: Float64Array.from([...a.positions, ...b.positions]),
    faceStart: Uint32Array.from([...a.faceStart, ...[...b.faceStart].slice(1).map((x) => x + corners)]),
    faceVert: Uint32Array.from([...a.faceVert, ...[...b.faceVert].map((v) => v + verts)]),
    triangles: Uint32Array.from([...a.triangles, ...[...b.triangles].map((c) => c + corners)]),
    triangleFace: Uint32Array.from([...a.triangleFace, ...[...b.triangleFace].map((f) => f + faces)]),
  };
}
