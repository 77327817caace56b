import { describe, expect, it } from 'vitest';
import { stepOf } from '../../../test/recipes';
import { random } from '../../maths/random';
import { volumeOf } from '../../mesh/measures';
import { turned } from '../steps/turned';
import { areaInside, chainsOf, outlinesOf, pathOf, reversed } from './chains';
import { sketchOfProfile } from './convert';
import { arranged, type Constraint, type Sketch, type SketchCurve, type SketchPoint, without } from './sketch';
import { clashWords, solveSketch } from './solve';

const p = (id: string, x: number, y: number, fixed = false): SketchPoint => ({ id, x, y, ...(fixed && { fixed }) });
const l = (id: string, a: string, b: string): SketchCurve => ({ id, name: id, kind: 'line', a, b });
const circle = (id: string, centre: string, radius: number): SketchCurve => ({ id, name: id, kind: 'circle', centre, radius });
const arc = (id: string, a: string, b: string, centre: string, turn: 'left' | 'right' = 'left'): SketchCurve => ({
  id,
  name: id,
  kind: 'arc',
  a,
  b,
  centre,
  turn,
});
let number = 0;
const k = (kind: Constraint['kind'], one: string, two?: string, more: Partial<Constraint> = {}): Constraint => ({
  id: `k${number++}`,
  kind,
  one,
  ...(two !== undefined && { two }),
  ...more,
});
const sketch = (points: SketchPoint[], curves: SketchCurve[] = [], constraints: Constraint[] = []): Sketch => ({
  points,
  curves,
  constraints,
});
const at = (s: Sketch, id: string) => s.points.find((q) => q.id === id) as SketchPoint;

/** A rectangle drawn crooked, 60 × 40, its lower left corner nailed down. */
const rectangle = (): Sketch =>
  sketch(
    [p('a', 0, 0, true), p('b', 55, 3), p('c', 62, 44), p('d', -2, 37)],
    [l('foot', 'a', 'b'), l('right', 'b', 'c'), l('top', 'c', 'd'), l('left', 'd', 'a')],
    [
      k('horizontal', 'foot'),
      k('vertical', 'right'),
      k('horizontal', 'top'),
      k('vertical', 'left'),
      k('distance', 'foot', undefined, { mm: 60 }),
      k('distance', 'left', undefined, { mm: 40 }),
    ],
  );

describe('a sketch', () => {
  it('is brought to its dimensions and said to be fully determined', () => {
    const s = solveSketch(rectangle());
    expect(s).toMatchObject({ solved: true, free: 0, redundant: [], conflicts: [], loose: [] });
    expect(at(s.sketch, 'c')).toMatchObject({ x: expect.closeTo(60, 7), y: expect.closeTo(40, 7) });
  });

  // Degrees of freedom: two a point, three a circle; what each constraint takes is the textbook count (coincident 2, on a curve 1,
  // the others 1, mirrored 2).
  it.each<[string, Sketch, number]>([
    ['a lone point', sketch([p('a', 1, 2)]), 2],
    ['a line', sketch([p('a', 0, 0), p('b', 9, 1)], [l('l', 'a', 'b')]), 4],
    ['a level line', sketch([p('a', 0, 0), p('b', 9, 1)], [l('l', 'a', 'b')], [k('horizontal', 'l')]), 3],
    ['a circle', sketch([p('m', 0, 0)], [circle('c', 'm', 5)]), 3],
    ['an arc: three points less its own shape', sketch([p('a', 5, 0), p('b', 0, 5), p('m', 0, 0)], [arc('r', 'a', 'b', 'm')]), 5],
    ['two points together', sketch([p('a', 0, 0), p('b', 1, 1)], [], [k('coincident', 'a', 'b')]), 2],
    ['a point on a circle', sketch([p('m', 0, 0), p('q', 4, 2)], [circle('c', 'm', 5)], [k('coincident', 'q', 'c')]), 4],
    [
      'mirrored points over a nailed line',
      sketch(
        [p('a', 0, 0, true), p('b', 0, 9, true), p('q', 3, 2), p('r', -4, 3)],
        [l('axis', 'a', 'b')],
        [k('symmetric', 'q', 'r', { three: 'axis' })],
      ),
      2,
    ],
    ['the rectangle without its width', { ...rectangle(), constraints: rectangle().constraints.filter((c) => c.mm !== 60) }, 1],
  ])('%s has its degrees of freedom', (_name, s, free) => {
    expect(solveSketch(s).free).toBe(free);
  });

  it('names what can still move', () => {
    const r = rectangle();
    const s = solveSketch({ ...r, constraints: r.constraints.filter((c) => c.mm !== 60) });
    expect(s.loose.sort()).toEqual(['b', 'c']);
  });

  it('follows a hand as far as the constraints let it', () => {
    const r = rectangle();
    const free = { ...r, constraints: r.constraints.filter((c) => c.mm !== 60) };
    const s = solveSketch(free, { point: 'c', x: 85, y: 70 });
    expect(at(s.sketch, 'c').x).toBeCloseTo(85, 3);
    expect(at(s.sketch, 'c').y).toBeCloseTo(40, 6);
    expect(at(s.sketch, 'b').x).toBeCloseTo(85, 3);
    // A nailed point stays.
    expect(at(solveSketch(free, { point: 'a', x: 9, y: 9 }).sketch, 'a')).toMatchObject({ x: 0, y: 0 });
  });

  it('names a constraint that says nothing new, and what it follows from', () => {
    const r = rectangle();
    const again = k('perpendicular', 'foot', 'right');
    const s = solveSketch({ ...r, constraints: [...r.constraints, again] });
    expect(s.solved).toBe(true);
    expect(s.conflicts).toEqual([]);
    expect(s.redundant.map((c) => c.constraint)).toEqual([again.id]);
    expect(s.redundant[0].because.sort()).toEqual([r.constraints[0].id, r.constraints[1].id].sort());
    expect(clashWords({ ...r, constraints: [...r.constraints, again] }, s)[0].message).toMatch(
      /“square, foot and right” says nothing new: it follows from .*“level, foot”/,
    );
  });

  it('names a contradiction and solves the rest', () => {
    const r = rectangle();
    const wrong = k('distance', 'top', undefined, { mm: 70 });
    const s = solveSketch({ ...r, constraints: [...r.constraints, wrong] });
    expect(s.conflicts.map((c) => c.constraint)).toEqual([wrong.id]);
    expect(s.conflicts[0].because).toContain(r.constraints[4].id);
    expect(s.solved).toBe(true);
    expect(at(s.sketch, 'c').x).toBeCloseTo(60, 6);
  });

  it('a triangle that breaks the triangle inequality is a contradiction', () => {
    const s = solveSketch(
      sketch(
        [p('a', 0, 0, true), p('b', 10, 1), p('c', 4, 5)],
        [],
        [k('distance', 'a', 'b', { mm: 10 }), k('distance', 'b', 'c', { mm: 3 }), k('distance', 'a', 'c', { mm: 2 })],
      ),
    );
    expect(s.conflicts.length).toBe(1);
  });

  it('any mixture of constraints taken from a true figure is solved again after the figure is shaken', () => {
    const next = random(77);
    for (let round = 0; round < 40; round++) {
      const n = 4 + Math.floor(next() * 6);
      const truth = Array.from({ length: n }, (_, i) => p(`p${i}`, 100 * next(), 100 * next(), i === 0));
      const lines = truth.slice(1).map((_, i) => l(`l${i}`, `p${i}`, `p${i + 1}`));
      const constraints = lines.map((line, i) => {
        const [a, b] = [truth[i], truth[i + 1]];
        return next() < 0.5
          ? k('distance', line.id, undefined, { mm: Math.hypot(a.x - b.x, a.y - b.y) })
          : k('distance', a.id, `p${(i + 2) % n}`, { mm: Math.hypot(a.x - truth[(i + 2) % n].x, a.y - truth[(i + 2) % n].y) });
      });
      const shaken = truth.map((q, i) => (i === 0 ? q : { ...q, x: q.x + 4 * (next() - 0.5), y: q.y + 4 * (next() - 0.5) }));
      const s = solveSketch(sketch(shaken, lines, constraints));
      expect(s.solved).toBe(true);
      expect(s.free).toBe(2 * (n - 1) - constraints.length + s.redundant.length);
    }
  });
});

describe('textbook cases', () => {
  it('a four-bar linkage follows Freudenstein’s equation (F. Freudenstein 1955)', () => {
    // K₁·cos θ₄ − K₂·cos θ₂ + K₃ = cos(θ₂ − θ₄), K₁ = d/a, K₂ = d/c, K₃ = (a² − b² + c² + d²)/2ac.
    const [a, b, c, d] = [20, 55, 40, 60];
    for (const crank of [20, 60, 110, 160, 220, 300]) {
      const t2 = (crank * Math.PI) / 180;
      const s = solveSketch(
        sketch(
          [p('o', 0, 0, true), p('q', d, 0, true), p('A', a * Math.cos(t2), a * Math.sin(t2)), p('B', 52, 39)],
          [l('ground', 'o', 'q'), l('crank', 'o', 'A'), l('coupler', 'A', 'B'), l('rocker', 'q', 'B')],
          [
            k('distance', 'crank', undefined, { mm: a }),
            k('distance', 'coupler', undefined, { mm: b }),
            k('distance', 'rocker', undefined, { mm: c }),
            k('angle', 'ground', 'crank', { degrees: crank }),
          ],
        ),
      );
      expect(s).toMatchObject({ solved: true, free: 0 });
      const t4 = Math.atan2(at(s.sketch, 'B').y, at(s.sketch, 'B').x - d);
      const left = (d / a) * Math.cos(t4) - (d / c) * Math.cos(t2) + (a * a - b * b + c * c + d * d) / (2 * a * c);
      expect(left).toBeCloseTo(Math.cos(t2 - t4), 8);
    }
  });
  it('without its crank’s angle it has one degree of freedom (Grübler: 3·3 − 2·4)', () => {
    const s = solveSketch(
      sketch(
        [p('o', 0, 0, true), p('q', 60, 0, true), p('A', 3, 19), p('B', 52, 39)],
        [l('crank', 'o', 'A'), l('coupler', 'A', 'B'), l('rocker', 'q', 'B')],
        [
          k('distance', 'crank', undefined, { mm: 20 }),
          k('distance', 'coupler', undefined, { mm: 55 }),
          k('distance', 'rocker', undefined, { mm: 40 }),
        ],
      ),
    );
    expect(s.free).toBe(1);
    expect(s.loose.sort()).toEqual(['A', 'B']);
  });
  it('a circle tangent to three lines is the incircle: r = area / half the sides', () => {
    const s = solveSketch(
      sketch(
        [p('a', 0, 0, true), p('b', 40, 0, true), p('c', 0, 30, true), p('m', 14, 6)],
        [l('ab', 'a', 'b'), l('bc', 'b', 'c'), l('ca', 'c', 'a'), circle('in', 'm', 5)],
        [k('tangent', 'ab', 'in'), k('tangent', 'bc', 'in'), k('tangent', 'ca', 'in')],
      ),
    );
    expect(s).toMatchObject({ solved: true, free: 0 });
    expect(s.sketch.curves[3].radius).toBeCloseTo(10, 7);
    expect(at(s.sketch, 'm')).toMatchObject({ x: expect.closeTo(10, 7), y: expect.closeTo(10, 7) });
  });
  it('Apollonius: the circles tangent to three tangent circles have Descartes’ curvatures', () => {
    // k₄ = k₁ + k₂ + k₃ ± 2√(k₁k₂ + k₂k₃ + k₃k₁) (Descartes 1643); radii 10, 20, 30 on a 30-40-50 triangle: 60/23 and −60.
    const given = (m: SketchPoint, r: number) =>
      sketch(
        [p('a', 0, 0, true), p('b', 30, 0, true), p('c', 0, 40, true), m],
        [circle('A', 'a', 10), circle('B', 'b', 20), circle('C', 'c', 30), circle('X', 'm', r)],
        [
          k('radius', 'A', undefined, { mm: 10 }),
          k('radius', 'B', undefined, { mm: 20 }),
          k('radius', 'C', undefined, { mm: 30 }),
          k('tangent', 'A', 'X'),
          k('tangent', 'B', 'X'),
          k('tangent', 'C', 'X'),
        ],
      );
    const inner = solveSketch(given(p('m', 9, 9), 2));
    expect(inner).toMatchObject({ solved: true, free: 0 });
    expect(inner.sketch.curves[3].radius).toBeCloseTo(60 / 23, 6);
    const outer = solveSketch(given(p('m', 25, 35), 70));
    expect(outer.solved).toBe(true);
    expect(outer.sketch.curves[3].radius).toBeCloseTo(60, 6);
  });
  it('an arc tangent to the two lines it joins is a fillet: its ends are R·tan(θ/2) from the corner', () => {
    const s = solveSketch(
      sketch(
        [p('a', 0, 0, true), p('s', 30, 1), p('m', 29, 12), p('e', 41, 13), p('b', 40, 60)],
        [l('foot', 'a', 's'), arc('round', 's', 'e', 'm'), l('wall', 'e', 'b')],
        [
          k('horizontal', 'foot'),
          k('vertical', 'wall'),
          k('tangent', 'foot', 'round'),
          k('tangent', 'wall', 'round'),
          k('radius', 'round', undefined, { mm: 12 }),
          k('distance', 'wall', undefined, { mm: 48 }),
          k('distance', 'foot', undefined, { mm: 28 }),
        ],
      ),
    );
    expect(s).toMatchObject({ solved: true, free: 0, redundant: [] });
    expect(at(s.sketch, 'e')).toMatchObject({ x: expect.closeTo(40, 7), y: expect.closeTo(12, 7) });
    const [chain] = chainsOf(s.sketch, 's');
    expect(chain.curves.map((c) => c.kind)).toEqual(['line', 'arc', 'line']);
    expect(chain.curves[1]).toMatchObject({ kind: 'arc', sweep: expect.closeTo(Math.PI / 2, 6) });
  });
});

describe('the way through a sketch', () => {
  it('a closed one has the area of its figure, whichever way it was drawn', () => {
    const { outer } = outlinesOf(rectangle(), 's');
    expect(areaInside(outer)).toBeCloseTo(2400, 5);
    expect(areaInside(reversed(outer))).toBeCloseTo(-2400, 5);
  });
  it('a circle inside is a hole and runs clockwise', () => {
    const r = rectangle();
    const { holes } = outlinesOf({ ...r, points: [...r.points, p('m', 30, 20)], curves: [...r.curves, circle('hole', 'm', 6)] }, 's');
    expect(areaInside(holes[0])).toBeCloseTo(-Math.PI * 36, 6);
  });
  it('an open outline, a branch, and a contradiction each get a sentence', () => {
    const r = rectangle();
    const open = without(r, ['left']);
    expect(open.constraints.some((c) => c.one === 'left')).toBe(false);
    expect(() => outlinesOf(open, 'lid')).toThrow(/The outline of “lid” is open between/);
    expect(() => pathOf(r, 'lid')).toThrow(/has to be one open line/);
    const branch = { ...r, points: [...r.points, p('z', 9, 99)], curves: [...r.curves, l('stray', 'c', 'z')] };
    expect(() => outlinesOf(branch, 'lid')).toThrow(/3 curves meet/);
    const clash = { ...r, constraints: [...r.constraints, k('distance', 'right', undefined, { mm: 41 })] };
    expect(() => outlinesOf(clash, 'lid')).toThrow(/In the sketch of “lid”, “distance 41\u00a0mm, right” can’t hold together with/);
  });
  it('says which constraints can be put on what is chosen, in any order', () => {
    const r = rectangle();
    expect(arranged(r, 'distance', ['foot', 'c'])).toEqual(['c', 'foot']);
    expect(arranged(r, 'tangent', ['foot', 'top'])).toBeNull();
    expect(arranged(r, 'symmetric', ['left', 'b', 'c'])).toEqual(['b', 'c', 'left']);
  });
});

describe('a profile as a sketch', () => {
  it('is the same line under the same ids, and its corner radii can be set', () => {
    const step = stepOf('turned', {
      profile: {
        points: [
          { id: 'a', r: 0, y: 0 },
          { id: 'b', r: 30, y: 0, fillet: 5 },
          { id: 'c', r: 30, y: 40 },
          { id: 'd', r: 12, y: 60 },
        ],
        segments: [
          { id: 's0', name: 'floor', kind: 'line' },
          { id: 's1', name: 'wall', kind: 'line' },
          { id: 's2', name: 'shoulder', kind: 'tangent' },
        ],
      },
      edgeRadius: 0,
    });
    const drawn = { ...step, sketch: sketchOfProfile(step.profile) };
    const s = solveSketch(drawn.sketch);
    expect(s).toMatchObject({ solved: true, redundant: [], conflicts: [] });
    const detail = { mesh: 'high', toleranceMm: 0.01 } as const;
    const [a, b] = [turned.maker.build(step, detail), turned.maker.build(drawn, detail)];
    expect(volumeOf(b)).toBeCloseTo(volumeOf(a), 3);
    expect([...b.patches].sort()).toEqual([...a.patches].sort());
    const round = drawn.sketch.constraints.find((c) => c.kind === 'radius');
    const wider = { ...drawn.sketch, constraints: drawn.sketch.constraints.map((c) => (c === round ? { ...c, mm: 9 } : c)) };
    expect(solveSketch(wider).solved).toBe(true);
    expect(pathOf(wider, 's').curves.some((c) => c.kind === 'arc' && Math.abs(c.radius - 9) < 1e-6)).toBe(true);
  });
});
