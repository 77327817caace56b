import { describe, expect, it } from 'vitest';
import { cross, dot, sub, type Vec3 } from '../maths/vec3';
import { annulus, type Loop } from './annulus';

const circle = (n: number, radius: number, first: number, turn = 0): Loop => ({
  vertices: Array.from({ length: n }, (_, i) => first + i),
  places: Array.from({ length: n }, (_, i): Vec3 => {
    const a = (2 * Math.PI * i) / n + turn;
    return [radius * Math.cos(a), radius * Math.sin(a), 0];
  }),
});
function filled(outerCount: number, innerCount: number, turn = 0.3) {
  const outer = circle(outerCount, 20, 0);
  const inner = circle(innerCount, 8, outerCount, turn);
  const places = [...outer.places, ...inner.places];
  const made = annulus(outer, inner, (p) => places.push(p) - 1);
  return { ...made, places };
}
const counts = [
  [4, 4],
  [4, 12],
  [4, 16],
  [6, 8],
  [4, 64],
  [8, 8],
  [10, 8],
  [24, 8],
  [40, 6],
  [64, 4],
  [14, 30],
  [7, 21],
  [5, 9],
] as const;

describe('quads between two loops', () => {
  it.each(counts)('of %i and %i: quads alone, closed, every edge of both loops used once, none turned over', (a, b) => {
    const { faces, triangles, places } = filled(a, b);
    expect(triangles).toBe(0);
    expect(faces.every((f) => f.length === 4 && new Set(f).size === 4)).toBe(true);
    const edges = new Map<string, number>();
    for (const f of faces)
      for (const [k, v] of f.entries()) edges.set(`${v},${f[(k + 1) % 4]}`, (edges.get(`${v},${f[(k + 1) % 4]}`) ?? 0) + 1);
    // Every directed edge once: neighbours run along a common edge in opposite ways.
    expect([...edges.values()].every((n) => n === 1)).toBe(true);
    const rims = [...edges.keys()].filter((e) => !edges.has(e.split(',').reverse().join(',')));
    expect(rims).toHaveLength(a + b);
    for (let i = 0; i < a; i++) expect(rims).toContain(`${i},${(i + 1) % a}`);
    for (let i = 0; i < b; i++) expect(rims).toContain(`${a + ((i + 1) % b)},${a + i}`);
    // Euler's formula for a ring: V − E + F = 0.
    const vertices = new Set(faces.flat()).size;
    const whole = [...edges.keys()].filter((e) => rims.includes(e) || Number(e.split(',')[0]) < Number(e.split(',')[1])).length;
    expect(vertices - whole + faces.length).toBe(0);
    for (const [p, q, r, s] of faces.map((f) => f.map((v) => places[v])))
      expect(dot(cross(sub(r, p), sub(s, q)), [0, 0, 1])).toBeGreaterThan(0);
  });
  it('counts that are odd against each other take one triangle and no more', () => {
    for (const [a, b] of [
      [4, 9],
      [9, 4],
      [16, 7],
      [5, 48],
    ])
      expect(filled(a, b).triangles).toBe(1);
  });
  it('equal counts stand vertex before vertex, as near as they can', () => {
    const { faces, free } = filled(12, 12, (2 * Math.PI) / 12 + 0.05);
    expect([faces.length, free.size]).toEqual([12, 0]);
    const [first] = faces.filter((f) => f[0] === 0);
    expect(first[3]).toBe(12 + 11);
  });
  it('what lies between knows its neighbours: three or more edges each', () => {
    const { free, faces } = filled(4, 12);
    expect(free.size).toBe(8);
    for (const around of free.values()) expect(around.size).toBeGreaterThanOrEqual(3);
    expect(faces).toHaveLength(16);
  });
});
