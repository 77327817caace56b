import { icosphere } from 'primitive-geometry';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, torusMesh } from '../../test/shapes';
import { edgeTurns, principal, vertexCurvature } from './curvature';
import { faceNormals } from './normals';
import { type PolyMesh, vertexCount } from './polymesh';
import { flip, transform } from './transform';
import { weld } from './weld';

const R = 30;
const ball = (): PolyMesh => {
  const g = icosphere({ subdivisions: 4 });
  return weld(
    fromTriangles(
      Array.from(g.positions, (x) => (x * R) / 0.5 / 2),
      g.cells,
    ),
    { within: 1e-6 },
  );
};
const radiusOf = (m: PolyMesh, v: number) => Math.hypot(...m.positions.slice(3 * v, 3 * v + 3));

describe('curvature', () => {
  it('of a sphere: mean 1/r, Gaussian 1/r², everywhere (differential geometry)', () => {
    const m = ball();
    const r = radiusOf(m, 0);
    const c = vertexCurvature(m);
    for (let v = 0; v < vertexCount(m); v++) {
      expect(c.mean[v] * r).toBeGreaterThan(0.985);
      expect(c.mean[v] * r).toBeLessThan(1.015);
      expect(c.gauss[v] * r * r).toBeGreaterThan(0.97);
      expect(c.gauss[v] * r * r).toBeLessThan(1.03);
      expect(principal(c, v) * r).toBeCloseTo(1, 0);
    }
    // Turned over, the same ball is hollow.
    expect(vertexCurvature(flip(m)).mean[5] * r).toBeCloseTo(-1, 1);
  });
  it('of a torus: K = cos φ / (r (R + r cos φ)), H = (R + 2 r cos φ) / (2 r (R + r cos φ))', () => {
    const [big, small] = [50, 20];
    const m = torusMesh(big, small, 160, 80);
    const c = vertexCurvature(m);
    for (let v = 0; v < vertexCount(m); v++) {
      const [x, y, z] = m.positions.slice(3 * v, 3 * v + 3);
      const cos = (Math.hypot(x, z) - big) / small;
      expect(Math.abs(Math.hypot(cos, y / small) - 1)).toBeLessThan(1e-9);
      expect(c.gauss[v]).toBeCloseTo(cos / (small * (big + small * cos)), 4);
      expect(c.mean[v]).toBeCloseTo((big + 2 * small * cos) / (2 * small * (big + small * cos)), 3);
    }
  });
  it('of a cylinder: mean 1/2r, Gaussian none, and edges turn by 2π/n', () => {
    const [n, r, rows] = [48, 12, 6];
    const positions: number[] = [];
    const faces: number[] = [];
    for (let j = 0; j <= rows; j++)
      for (let i = 0; i < n; i++) positions.push(r * Math.cos((2 * Math.PI * i) / n), 2 * j, -r * Math.sin((2 * Math.PI * i) / n));
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < n; i++) {
        const at = (a: number, b: number) => b * n + (a % n);
        faces.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1));
      }
    const m = fromTriangles(positions, faces);
    const c = vertexCurvature(m);
    for (let v = n; v < n * rows; v++) {
      expect(c.mean[v]).toBeCloseTo(1 / (2 * r), 4);
      expect(c.gauss[v]).toBeCloseTo(0, 9);
      expect(principal(c, v)).toBeCloseTo(1 / r, 3);
    }
    expect(Number.isNaN(c.mean[0])).toBe(true);
    const turns = [...edgeTurns(m, faceNormals(m))].filter((t) => Math.abs(t) > 1e-9);
    for (const t of turns) expect(t).toBeCloseTo((2 * Math.PI) / n, 9);
  });
  it('gathered over a closed surface is 2π times its Euler characteristic (Gauss–Bonnet)', () => {
    const sum = (m: PolyMesh) => vertexCurvature(m).defect.reduce((s, x) => s + x, 0);
    expect(sum(ball())).toBeCloseTo(4 * Math.PI, 6);
    expect(sum(transform(cube(10), [1, 0.2, 0, 0, 0, 2, 0.3, 0, 0, 0, 1, 0, 0, 0, 0, 1]))).toBeCloseTo(4 * Math.PI, 9);
    expect(sum(torusMesh(30, 8, 20, 12))).toBeCloseTo(0, 9);
  });
  it('turns of a cube’s edges are right angles, outward', () => {
    for (const t of edgeTurns(cube(5), faceNormals(cube(5)))) expect(t).toBeCloseTo(Math.PI / 2, 12);
  });
});
