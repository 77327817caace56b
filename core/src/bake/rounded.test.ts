import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { random } from '../maths/random';
import { faceNormals } from '../mesh/normals';
import { makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { Rounding, roundedEdges } from './rounded';

const degrees = (radians: number) => (radians * 180) / Math.PI;
/** Every edge hard. */
const faceted = (mesh: PolyMesh): PolyMesh =>
  withAttribute(mesh, { name: 'hard', domain: 'corner', size: 1, data: new Uint8Array(mesh.faceVert.length).fill(1) });

/** A prism over a polygon in x and z (counter-clockwise seen from above), 20 mm high. */
function prism(outline: readonly (readonly [number, number])[]): PolyMesh {
  const n = outline.length;
  const positions = [...outline.flatMap(([x, z]) => [x, 0, z]), ...outline.flatMap(([x, z]) => [x, 20, z])];
  const top = outline.map((_, i) => n + i);
  const bottom = outline.map((_, i) => n - 1 - i);
  const sides = outline.map((_, i) => [i, (i + 1) % n, n + ((i + 1) % n), n + i]);
  const faces = [top, bottom, ...sides];
  let at = 0;
  return faceted(makeMesh({ positions, faceStart: [0, ...faces.map((f) => (at += f.length))], faceVert: faces.flat() }));
}
const regular = (n: number, r: number): [number, number][] =>
  Array.from({ length: n }, (_, i) => [r * Math.cos((2 * Math.PI * i) / n), -r * Math.sin((2 * Math.PI * i) / n)]);

/** Random places on a mesh: triangle, place, its face’s normal. */
function places(mesh: PolyMesh, count: number, seed: number) {
  const next = random(seed);
  const normals = faceNormals(mesh);
  return Array.from({ length: count }, () => {
    const t = Math.floor(next() * (mesh.triangles.length / 3));
    const u = Math.sqrt(next());
    const v = next();
    const w = [1 - u, u * (1 - v), u * v];
    const p = [0, 1, 2].map((k) => w.reduce((s, x, i) => s + x * mesh.positions[3 * mesh.faceVert[mesh.triangles[3 * t + i]] + k], 0));
    const f = mesh.triangleFace[t];
    return { t, p, n: [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]] };
  });
}
const made = new WeakMap<PolyMesh, Rounding>();
/** One radius for each mesh. */
function asked(mesh: PolyMesh, radius: number, at: { t: number; p: number[]; n: number[] }): number[] {
  const rounding = made.get(mesh) ?? new Rounding(roundedEdges(mesh, radius));
  made.set(mesh, rounding);
  rounding.at(at.t, at.p[0], at.p[1], at.p[2], at.n[0], at.n[1], at.n[2]);
  return [rounding.x, rounding.y, rounding.z];
}
const off = (a: readonly number[], b: readonly number[]) =>
  degrees(Math.atan2(Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]), dot(a, b)));
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/**
 * The definition itself, in space: the ball’s centre is the point nearest to a place of all that are a radius below every face of a convex
 * solid (projections in turn, Dykstra 1983; Boyle & Dykstra 1986), with no edge and no plane of the face in it.
 */
function byBall(mesh: PolyMesh, radius: number, p: readonly number[]): number[] {
  const normals = faceNormals(mesh);
  const planes = Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => {
    const n = [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]];
    const v = 3 * mesh.faceVert[mesh.faceStart[f]];
    return { n, d: dot(n, [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]]) - radius };
  });
  let q = [...p];
  const kept = planes.map(() => [0, 0, 0]);
  for (let round = 0; round < 1500; round++)
    for (const [i, { n, d }] of planes.entries()) {
      const y = q.map((x, k) => x + kept[i][k]);
      const over = Math.max(0, dot(n, y) - d);
      q = y.map((x, k) => x - over * n[k]);
      kept[i] = n.map((x) => over * x);
    }
  const v = p.map((x, k) => x - q[k]);
  return v.map((x) => x / Math.hypot(...v));
}

describe('edges rounded without geometry', () => {
  // From the fillet’s axis: x from a right-angled edge it leans by atan(1 − x/r). Not linear: 4.1° off at half of the radius.
  it.each([0, 0.25, 0.5, 0.75, 0.99, 1.2])('a cube, at %f of the radius from its edge: atan(1 − x/r)', (share) => {
    const mesh = faceted(cube(20));
    const r = 2;
    const top = places(mesh, 400, 1).find((a) => a.n[1] > 0.9) as { t: number; p: number[]; n: number[] };
    const n = asked(mesh, r, { ...top, p: [10 - share * r, 20, 1] });
    expect(degrees(Math.atan2(n[0], n[1]))).toBeCloseTo(degrees(Math.atan(Math.max(0, 1 - share))), 5);
    expect(n[2]).toBeCloseTo(0, 9);
  });
  it('both faces of an edge have one direction along it', () => {
    const mesh = faceted(cube(20));
    const on = (normal: number[]) => {
      const found = places(mesh, 400, 2).find((a) => dot(a.n, normal) > 0.9) as { t: number; p: number[]; n: number[] };
      return asked(mesh, 3, { ...found, p: [10, 20, -4] });
    };
    expect(off(on([0, 1, 0]), on([1, 0, 0]))).toBeLessThan(1e-4);
  });
  it('a cube’s corner is a ball', () => {
    const mesh = faceted(cube(20));
    const r = 4;
    const top = places(mesh, 400, 3).find((a) => a.n[1] > 0.9) as { t: number; p: number[]; n: number[] };
    const p = [10 - 1, 20, 10 - 2.5];
    const centre = [10 - r, 20 - r, 10 - r];
    const want = p.map((x, k) => x - centre[k]);
    expect(off(asked(mesh, r, { ...top, p }), want)).toBeLessThan(0.01);
  });
  it.each([
    ['a prism of three sides', regular(3, 20)],
    ['of five', regular(5, 20)],
    ['of nine', regular(9, 20)],
    [
      'a wedge',
      [
        [-20, 8],
        [20, 8],
        [20, 2],
        [-20, -8],
      ] as [number, number][],
    ],
  ])('%s: as the ball that rolls inside it, on 120 random places', (_, outline) => {
    const mesh = prism(outline);
    let touched = 0;
    for (const at of places(mesh, 120, 7)) {
      const mine = asked(mesh, 1.5, at);
      if (off(mine, at.n) > 1) touched++;
      expect(off(mine, byBall(mesh, 1.5, at.p))).toBeLessThan(0.1);
    }
    expect(touched).toBeGreaterThan(20);
  });
  it('an edge that goes in leans away from the wall, and where an outline turns back the ball runs round its point', () => {
    // An L seen from above; its inner upright edge stands at (0, 0).
    const mesh = prism([
      [-20, 20],
      [20, 20],
      [20, 0],
      [0, 0],
      [0, -20],
      [-20, -20],
    ]);
    const r = 2;
    const wall = places(mesh, 600, 5).find((a) => a.n[2] < -0.9 && a.p[0] > 0) as { t: number; p: number[]; n: number[] };
    const n = asked(mesh, r, { ...wall, p: [0.5, 10, 0] });
    // The other wall faces +x: the surface turns towards that, as a fillet does.
    expect(degrees(Math.atan2(n[0], -n[2]))).toBeCloseTo(degrees(Math.atan(1 - 0.5 / r)), 5);
    const top = places(mesh, 600, 6).find((a) => a.n[1] > 0.9 && a.p[0] < -1 && a.p[2] > 1) as { t: number; p: number[]; n: number[] };
    const [x, z] = [-0.6, 0.8];
    const turned = asked(mesh, r, { ...top, p: [x, 20, z] });
    const d = r - Math.hypot(x, z);
    const want = [(-x / 1) * d, r, (-z / 1) * d];
    expect(off(turned, want)).toBeLessThan(0.01);
  });
  it('flat edges and soft ones change nothing; a narrow strip is rounded as far as it is wide', () => {
    const soft = withAttribute(cube(20), { name: 'hard', domain: 'corner', size: 1, data: new Uint8Array(24) });
    for (const at of places(soft, 40, 9)) expect(off(asked(soft, 2, at), at.n)).toBe(0);
    // 1 mm thick and rounded by 5: the strip round it has a half circle’s directions, 45° at both its edges.
    const plate = prism([
      [-20, 0.5],
      [20, 0.5],
      [20, -0.5],
      [-20, -0.5],
    ]);
    const top = places(plate, 400, 4).find((a) => a.n[1] > 0.9) as { t: number; p: number[]; n: number[] };
    const rim = asked(plate, 5, { ...top, p: [0, 20, 0.5] });
    expect(degrees(Math.atan2(rim[2], rim[1]))).toBeCloseTo(45, 3);
    expect(off(asked(plate, 5, { ...top, p: [0, 20, 0] }), [0, 1, 0])).toBeLessThan(1e-3);
  });
});
