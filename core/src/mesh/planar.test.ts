import earcut from 'earcut';
import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { normalise, type Vec3 } from '../maths/vec3';
import { areaOf } from './measures';
import { doubleArea, fillLoops, frameOf, isInside, joinTriangles } from './planar';
import { makeMesh, triangleCount } from './polymesh';

type P = [number, number];
const ring = (n: number, r: number, x = 0, y = 0, turn = 1): P[] =>
  Array.from({ length: n }, (_, i) => [x + r * Math.cos((turn * 2 * Math.PI * i) / n), y + r * Math.sin((turn * 2 * Math.PI * i) / n)]);
/** Loops as numbers of points, and where those are. */
function numbered(loops: readonly P[][]): { loops: number[][]; at: (v: number) => P } {
  const points = loops.flat();
  let n = 0;
  return { loops: loops.map((l) => l.map(() => n++)), at: (v) => points[v] };
}
const areaBy = (faces: number[][], at: (v: number) => P) => faces.reduce((s, f) => s + doubleArea(f.map(at)) / 2, 0);
/** No vertex twice in a face, and every outline and hole edge in exactly one. */
function checkFaces(faces: number[][], loops: readonly (readonly number[])[]): void {
  const edges = new Map<string, number>();
  for (const f of faces) {
    expect(new Set(f).size).toBe(f.length);
    for (const [i, v] of f.entries()) {
      const key = `${v},${f[(i + 1) % f.length]}`;
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  }
  for (const n of edges.values()) expect(n).toBe(1);
  for (const l of loops) for (const [i, v] of l.entries()) expect(edges.get(`${v},${l[(i + 1) % l.length]}`)).toBe(1);
}

describe('faces over loops of a plane', () => {
  it('a square with a hole is two halves; their area is the square’s less the hole’s', () => {
    const { loops, at } = numbered([ring(4, 10), ring(12, 3, 0, 0, -1)]);
    const faces = fillLoops(loops, at);
    expect(faces).toHaveLength(2);
    checkFaces(faces, loops);
    expect(areaBy(faces, at)).toBeCloseTo(200 - 0.5 * 12 * 9 * Math.sin(Math.PI / 6), 9);
  });
  it('takes any number of holes, holes in islands in holes, and points in line with their neighbours', () => {
    const side = (n: number): P[] => [
      ...Array.from({ length: n }, (_, i): P => [-20 + (40 * i) / n, -20]),
      ...Array.from({ length: n }, (_, i): P => [20, -20 + (40 * i) / n]),
      ...Array.from({ length: n }, (_, i): P => [20 - (40 * i) / n, 20]),
      ...Array.from({ length: n }, (_, i): P => [-20, 20 - (40 * i) / n]),
    ];
    const { loops, at } = numbered([
      side(5),
      ring(8, 3, -10, -10, -1),
      ring(8, 3, 10, -10, -1),
      ring(16, 6, 5, 8, -1),
      ring(6, 4, 5, 8),
      ring(5, 1.5, 5, 8, -1),
    ]);
    const faces = fillLoops(loops, at);
    checkFaces(faces, loops);
    const expected = loops.reduce((s, l) => s + doubleArea(l.map(at)) / 2, 0);
    expect(areaBy(faces, at)).toBeCloseTo(expected, 9);
  });
  it('joins random triangulations with holes into simple faces that cover them once', () => {
    const next = random(4);
    for (let i = 0; i < 60; i++) {
      const holes = Array.from({ length: Math.floor(next() * 5) }, (_, k) =>
        ring(3 + Math.floor(next() * 8), 1 + next(), -12 + 6 * k, 8 * next() - 4, -1),
      );
      const { loops, at } = numbered([ring(5 + Math.floor(next() * 20), 20), ...holes]);
      const flat = loops.flat().flatMap(at);
      const starts = holes.map((_, k) => loops.slice(0, k + 1).reduce((n, l) => n + l.length, 0));
      const ears = earcut(flat, starts);
      const faces = joinTriangles(ears);
      checkFaces(faces, []);
      expect(areaBy(faces, at)).toBeCloseTo(areaBy(loops, at), 6);
      expect(faces.length).toBeLessThanOrEqual(holes.length === 0 ? 1 : Math.max(2, ears.length / 3));
    }
  });
  it('knows inside from outside, and makes right-handed frames', () => {
    expect(isInside([0, 0], ring(7, 2))).toBe(true);
    expect(isInside([2.1, 0], ring(7, 2))).toBe(false);
    const next = random(5);
    for (let i = 0; i < 50; i++) {
      const n = normalise([next() - 0.5, next() - 0.5, next() - 0.5] as Vec3);
      const { u, v } = frameOf(n);
      const c = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
      for (const k of [0, 1, 2]) expect(c[k]).toBeCloseTo(n[k], 12);
    }
  });
});

describe('n-gons with points in line', () => {
  it('are covered once, however many lie on a side and however the outline turns', () => {
    const next = random(9);
    for (let i = 0; i < 80; i++) {
      // A comb: concave, its sides divided at random places.
      const corners: P[] = [
        [0, 0],
        [50, 0],
        [50, 30],
        [40, 30],
        [40, 10],
        [30, 10],
        [30, 30],
        [20, 30],
        [20, 10],
        [10, 10],
        [10, 30],
        [0, 30],
      ];
      const points = corners.flatMap((p, k): P[] => {
        const q = corners[(k + 1) % corners.length];
        const inner = Array.from({ length: Math.floor(next() * 3) }, () => next()).sort((a, b) => a - b);
        return [p, ...inner.map((t): P => [p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])])];
      });
      const m = makeMesh({
        positions: points.flatMap((p) => [p[0], p[1], 0]),
        faceStart: [0, points.length],
        faceVert: points.map((_, k) => k),
      });
      expect(triangleCount(m)).toBe(points.length - 2);
      expect(areaOf(m)).toBeCloseTo(1500 - 400, 6);
    }
  });
});
