import { describe, expect, it } from 'vitest';
import { polygon, stepOf } from '../../test/recipes';
import { random } from '../maths/random';
import { volumeOf } from '../mesh/measures';
import { attribute, faceCount } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import { corneredLoop, roundedEdge, roundedInside } from './block';
import { loft } from './loft';
import { sectionPlan } from './section';
import type { Detail } from './step';
import { box } from './steps/box';

type P = readonly [number, number];
const area = (loop: readonly P[]) =>
  loop.reduce((s, p, i) => {
    const q = loop[(i + 1) % loop.length];
    return s + (p[0] * q[1] - q[0] * p[1]) / 2;
  }, 0);
const square = (a: number): P[] => [
  [a, -a],
  [a, a],
  [-a, a],
  [-a, -a],
];

describe('outlines of blocks', () => {
  it('moved inward by d a square loses d on every side', () => {
    for (const d of [0, 1, 3.5]) expect(area(corneredLoop(square(10), d, 0, 0))).toBeCloseTo((20 - 2 * d) ** 2, 9);
  });
  it('rounded corners take (4 − π)r² off it, inward and rounded (4 − π)(r − d)²', () => {
    const fine = 400;
    for (const [r, d] of [
      [4, 0],
      [4, 1.5],
    ])
      expect(area(corneredLoop(square(10), d, r, fine))).toBeCloseTo((20 - 2 * d) ** 2 - (4 - Math.PI) * (r - d) ** 2, 3);
  });
  it('keeps as many corners however far in, none on another', () => {
    const loop = corneredLoop(square(10), 4, 4, 6);
    expect(loop).toHaveLength(28);
    for (let i = 0; i < loop.length; i++) {
      const q = loop[(i + 1) % loop.length];
      expect(Math.hypot(loop[i][0] - q[0], loop[i][1] - q[1])).toBeGreaterThan(0.01);
    }
  });
  it('sides of any convex polygon stay where they are, however their corners are rounded', () => {
    const next = random(12);
    for (let i = 0; i < 40; i++) {
      const n = 3 + Math.floor(next() * 7);
      const corners = Array.from({ length: n }, (_, k): P => {
        const a = (2 * Math.PI * (k + 0.5 * next())) / n;
        return [20 * Math.cos(a), 20 * Math.sin(a)];
      });
      const loop = corneredLoop(corners, 0, 0.4, 5);
      for (const [k, p] of corners.entries()) {
        const q = corners[(k + 1) % n];
        // The last point of a corner and the first of the next lie on the side between them.
        for (const m of [loop[6 * k + 5], loop[(6 * (k + 1)) % loop.length]]) {
          const off = ((q[0] - p[0]) * (m[1] - p[1]) - (q[1] - p[1]) * (m[0] - p[0])) / Math.hypot(q[0] - p[0], q[1] - p[1]);
          expect(Math.abs(off)).toBeLessThan(1e-9);
        }
      }
    }
  });
  it('an edge is rounded by a quarter circle, outside and inside, tangent to both', () => {
    const outline = { corners: square(10), radius: 0 };
    const edge = { at: 30, way: 1 as const, radius: 2, steps: 8, band: 'x', leaving: false };
    for (const [levels, centre] of [
      [roundedEdge(outline, edge), 2],
      [roundedInside(outline, edge), -2],
    ] as const)
      for (const l of levels) expect(Math.hypot(l.inset - centre, l.at - 28)).toBeCloseTo(2, 9);
    const out = roundedEdge(outline, edge);
    expect(out[0]).toMatchObject({ inset: 0, at: 28 });
    expect(out[8].at).toBeCloseTo(30, 12);
    expect(roundedEdge(outline, { ...edge, leaving: true })[0].at).toBeCloseTo(30, 12);
  });
  it('a box with round edges loses what its edges and corners lose: (4 − π)r²/4 a length, and the corners of a sphere', () => {
    // V = abc − r²(4 − π)(a + b + c − 6r) − r³(8 − 4π/3): prism edges without their ends, and eight corners made one ball.
    const r = 2;
    const [a, b, c] = [40, 30, 20];
    const exact = a * b * c - r * r * (4 - Math.PI) * (a + b + c - 6 * r) - r ** 3 * (8 - (4 * Math.PI) / 3);
    const mesh = box.maker.build(stepOf('box', { width: a, height: b, depth: c, corner: 0, edgeRadius: r }), {
      mesh: 'high',
      toleranceMm: 0.0005,
    });
    // Upright corners are a quarter larger than level ones, so that they never vanish; that takes 0.24 % more off this box.
    expect(Math.abs(volumeOf(mesh) / exact - 1)).toBeLessThan(0.003);
  });
});

describe('sections', () => {
  const fine: Detail = { mesh: 'high', toleranceMm: 0.0005 };
  const points = (s: Parameters<typeof sectionPlan>[0], detail: Detail = fine) =>
    sectionPlan(s, 'id', 'name')
      .points(detail)
      .map((p): P => [p.x, p.y]);
  it('have the area of their figure: πr², πab, wh − (4 − π)r²', () => {
    expect(area(points({ radius: 5 })) / (25 * Math.PI)).toBeCloseTo(1, 3);
    expect(area(points({ section: 'oval', radius: 1, width: 10, height: 6 })) / (15 * Math.PI)).toBeCloseTo(1, 3);
    expect(area(points({ section: 'rectangle', radius: 1, width: 10, height: 6, corner: 1.5 }))).toBeCloseTo(60 - (4 - Math.PI) * 2.25, 2);
    expect(
      area(
        points({
          section: 'sketch',
          radius: 1,
          outline: polygon([
            [0, 0],
            [8, 0],
            [8, 4],
            [0, 4],
          ]),
        }),
      ),
    ).toBeCloseTo(32, 9);
  });
  it('say how far they reach, which bends need to know', () => {
    expect(sectionPlan({ section: 'rectangle', radius: 1, width: 6, height: 8 }, 'i', 'n').reach).toBeCloseTo(5, 9);
    expect(sectionPlan({ section: 'oval', radius: 1, width: 6, height: 8 }, 'i', 'n').reach).toBe(4);
  });
  it('have as many corners as they say, and shares round them that rise from 0', () => {
    for (const s of [
      { radius: 3 },
      { section: 'rectangle' as const, radius: 1, width: 6, height: 4, corner: 1 },
      {
        section: 'sketch' as const,
        radius: 1,
        outline: polygon([
          [0, 0],
          [8, 0],
          [4, 4],
        ]),
      },
    ]) {
      const plan = sectionPlan(s, 'i', 'n');
      const count = () => 7;
      const made = plan.points({ mesh: 'low', count });
      expect(made).toHaveLength(plan.corners(count));
      expect(made[0].u).toBe(0);
      for (let i = 1; i < made.length; i++) expect(made[i].u).toBeGreaterThan(made[i - 1].u);
    }
  });
  it('a sketched section that is open gets a sentence', () => {
    const open = polygon([
      [0, 0],
      [8, 0],
      [4, 4],
    ]);
    expect(() => sectionPlan({ section: 'sketch', radius: 1, outline: { ...open, curves: open.curves.slice(1) } }, 'i', 'Rail')).toThrow(
      /The outline of “Rail” is open between/,
    );
  });
});

describe('lofts', () => {
  const ring = (r: number, y: number, n = 8) =>
    Array.from({ length: n }, (_, i): [number, number, number] => [
      r * Math.cos((2 * Math.PI * i) / n),
      y,
      -r * Math.sin((2 * Math.PI * i) / n),
    ]);
  const face = () => ({ patch: 'side', u: [0, 1] as const, v: [0, 1] as const });
  it('between two poles and rings close without caps', () => {
    const mesh = loft({ loops: [[[0, 0, 0]], ring(5, 4), [[0, 9, 0]]], face });
    expect(faceCount(mesh)).toBe(16);
    // Two pyramids on one base: a·h/3, a = n·r²·sin(2π/n)/2.
    expect(volumeOf(mesh)).toBeCloseTo(((8 * 25 * Math.sin(Math.PI / 4)) / 2) * 3, 9);
  });
  it('caps are flat, hard and laid out as they are; the rest is left to the flattening unless a maker lays it', () => {
    const mesh = loft({ loops: [ring(5, 0), ring(5, 9)], start: 'foot', end: 'top', face });
    const chart = attribute(mesh, 'chart', 'face')?.data ?? [];
    expect([...chart].filter((c) => c === UNLAID)).toHaveLength(8);
    expect(new Set([...chart].filter((c) => c !== UNLAID)).size).toBe(2);
    expect(mesh.patches).toEqual(['side', 'foot', 'top']);
    const flat = attribute(mesh, 'flat', 'corner')?.data ?? [];
    const laid = Array.from({ length: 8 }, (_, i): P => {
      const c = mesh.faceStart[8] + i;
      return [flat[2 * c], flat[2 * c + 1]];
    });
    expect(Math.abs(area(laid))).toBeCloseTo((8 * 25 * Math.sin(Math.PI / 4)) / 2, 9);
    // Seen from outside, not mirrored.
    expect(area(laid)).toBeGreaterThan(0);
  });
  it('a closed one comes back to its start', () => {
    const mesh = loft({ loops: [ring(5, 0), ring(5, 9), ring(3, 9), ring(3, 0)], closed: true, face });
    expect(faceCount(mesh)).toBe(32);
    expect(volumeOf(mesh)).toBeCloseTo(((8 * (25 - 9) * Math.sin(Math.PI / 4)) / 2) * 9, 9);
  });
});
