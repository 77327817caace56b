import { AXIS, axisSketch } from '@wellmorph/core/form/sketch/convert';
import { freshId } from '@wellmorph/core/form/sketch/cutting';
import { CONSTRAINTS, type ConstraintKind, type Sketch } from '@wellmorph/core/form/sketch/sketch';
import { solveSketch } from '@wellmorph/core/form/sketch/solve';
import { describe, expect, it } from 'vitest';
import { arcThrough, constrain, settledPlaces, snapTo, withCurve, withHint, withPoint } from './edit';

/** Draws a line from place to place, as a hand would: each click snaps, lands and is said. */
function drawn(places: [number, number][], turned = true): Sketch {
  let sketch = turned ? axisSketch() : { points: [], curves: [], constraints: [] };
  let before: string | undefined;
  for (const place of places) {
    const from = sketch.points.find((p) => p.id === before);
    const snap = snapTo(sketch, place, 5, turned, from);
    const landed = withPoint(sketch, snap);
    sketch = landed.sketch;
    if (before && landed.id !== before) {
      const line = withCurve(sketch, { kind: 'line', a: before, b: landed.id });
      sketch = withHint(line.sketch, line.id, snap);
    }
    before = landed.id;
  }
  return sketch;
}

describe('where a click lands', () => {
  const sketch = drawn([
    [0, 0],
    [30, 0],
    [33, 40],
  ]);
  it('on a point that is near, whatever the grid', () => {
    expect(snapTo(sketch, [30.9, 0.8], 5, true)).toEqual({ at: [30, 0], point: 'p2' });
    // Nine px at ten px a mm are nine tenths of a mm: that far it is a place of its own.
    expect(snapTo(sketch, [31.2, 0.6], 10, true).point).toBeUndefined();
  });
  it('on whole half millimetres otherwise', () => {
    expect(snapTo(sketch, [12.3, 20.8], 5, true).at).toEqual([12.5, 21]);
  });
  it('on the axis of a turned part, and holds there', () => {
    const snap = snapTo(sketch, [1.2, 55], 5, true);
    expect(snap).toMatchObject({ at: [0, 55], onAxis: true });
    const { sketch: next, id } = withPoint(sketch, snap);
    expect(next.constraints.at(-1)).toMatchObject({ kind: 'coincident', one: id, two: AXIS.line });
    expect(snapTo(sketch, [1.2, 55], 5, false).onAxis).toBeUndefined();
  });
  it('never on the ends of the axis itself, nor on the point that is moved', () => {
    expect(snapTo(axisSketch(), [0, 10], 5, true).point).toBeUndefined();
    expect(snapTo(sketch, [30, 0], 5, true, undefined, 'p2').point).toBeUndefined();
  });
  it('level with the point drawn from, and the line is held level', () => {
    const p3 = sketch.points.find((p) => p.id === 'p3');
    const snap = snapTo(sketch, [50, 41.2], 5, true, p3);
    expect(snap).toMatchObject({ at: [50, 40], line: 'horizontal' });
    expect(sketch.constraints.filter((k) => k.kind === 'horizontal')).toHaveLength(1);
  });
});

describe('what is drawn', () => {
  it('a foot drawn from the axis is on it and level; nothing says anything twice', () => {
    const s = drawn([
      [0, 0],
      [30, 0],
      [30.4, 40],
      [18, 55],
    ]);
    expect(s.constraints.map((k) => k.kind)).toEqual(['coincident', 'horizontal', 'vertical']);
    expect(solveSketch(s)).toMatchObject({ solved: true, redundant: [], conflicts: [] });
  });
  it('ids are never used twice', () => {
    const s = drawn([
      [0, 0],
      [30, 0],
      [31, 20],
    ]);
    const ids = [...s.points, ...s.curves, ...s.constraints].map((o) => o.id);
    expect(new Set(ids).size).toBe(ids.length);
    expect(ids).not.toContain(freshId(s, 'p'));
  });
  it('an arc through three places is the circle through them, and bulges to where it was clicked', () => {
    // Thales: the angle over a diameter is right, so its middle is the middle of the other two.
    const right = arcThrough([0, 0], [20, 0], [10, -10]);
    expect(right?.centre).toEqual([10, 0]);
    expect(right?.turn).toBe('left');
    expect(arcThrough([0, 0], [20, 0], [10, 10])?.turn).toBe('right');
    expect(arcThrough([0, 0], [20, 0], [10, 0])).toBeNull();
    for (const [a, b, c] of [
      [
        [3, 4],
        [11, -2],
        [9, 9],
      ],
      [
        [0, 0],
        [1, 7],
        [-5, 3],
      ],
    ] as [number, number][][]) {
      const { centre } = arcThrough(a, b, c) ?? { centre: [0, 0] };
      const r = (p: readonly number[]) => Math.hypot(p[0] - centre[0], p[1] - centre[1]);
      expect(r(a)).toBeCloseTo(r(b), 9);
      expect(r(a)).toBeCloseTo(r(c), 9);
    }
  });
});

describe('what is said of a sketch', () => {
  const box = (): Sketch => ({
    points: [
      { id: 'a', x: 0, y: 0, fixed: true },
      { id: 'b', x: 41, y: 1 },
      { id: 'c', x: 39, y: 22 },
      { id: 'd', x: 1, y: 19 },
      { id: 'm', x: 60, y: 10 },
    ],
    curves: [
      { id: 'l1', name: 'foot', kind: 'line', a: 'a', b: 'b' },
      { id: 'l2', name: 'right', kind: 'line', a: 'b', b: 'c' },
      { id: 'l3', name: 'top', kind: 'line', a: 'c', b: 'd' },
      { id: 'l4', name: 'left', kind: 'line', a: 'd', b: 'a' },
      { id: 'r1', name: 'hole', kind: 'circle', centre: 'm', radius: 5 },
    ],
    constraints: [],
  });
  const SAID: [ConstraintKind, string[]][] = [
    ['coincident', ['b', 'c']],
    ['coincident', ['m', 'l3']],
    ['coincident', ['b', 'r1']],
    ['horizontal', ['l1']],
    ['vertical', ['b', 'c']],
    ['parallel', ['l1', 'l3']],
    ['perpendicular', ['l1', 'l2']],
    ['tangent', ['l2', 'r1']],
    ['equal', ['l1', 'l3']],
    ['symmetric', ['b', 'd', 'l2']],
    ['distance', ['l1']],
    ['distance', ['c', 'l1']],
    ['distance', ['b', 'd']],
    ['radius', ['r1']],
    ['angle', ['l1', 'l2']],
    ['across', ['b', 'd']],
    ['upward', ['l2']],
    ['spaced', ['b', 'c', 'd']],
  ];
  it.each(SAID)('%s of %s is taken and holds', (kind, chosen) => {
    const made = constrain(box(), kind, [...chosen].reverse());
    if ('wrong' in made) throw new Error(made.wrong);
    const s = solveSketch(made.sketch);
    expect(s).toMatchObject({ solved: true, conflicts: [], redundant: [] });
    const k = made.sketch.constraints[0];
    // A figure starts with what was there, so that nothing jumps.
    if (['distance', 'radius', 'angle', 'across', 'upward'].includes(kind)) {
      const figure = k.mm ?? k.degrees ?? 0;
      expect(Math.abs(figure)).toBeGreaterThan(1);
      for (const p of s.sketch.points) {
        const was = box().points.find((q) => q.id === p.id);
        expect(Math.hypot(p.x - (was?.x ?? 0), p.y - (was?.y ?? 0))).toBeLessThan(0.02);
      }
    }
  });
  it('covers every kind there is', () => {
    expect([...new Set(SAID.map(([kind]) => kind))].sort()).toEqual(Object.keys(CONSTRAINTS).sort());
  });
  it('what can’t be said of what is chosen, contradicts, or says nothing new is refused with a sentence, and nothing changes', () => {
    const start = box();
    const first = constrain(start, 'horizontal', ['l1']);
    if ('wrong' in first) throw new Error(first.wrong);
    expect(constrain(first.sketch, 'radius', ['l1'])).toEqual({ wrong: 'That can’t be said of what is chosen.' });
    const again = constrain(first.sketch, 'horizontal', ['a', 'b']);
    expect('wrong' in again && again.wrong).toMatch(/says nothing new: it follows from “level, foot”/);
    const long = constrain(first.sketch, 'distance', ['l1']);
    if ('wrong' in long) throw new Error(long.wrong);
    const upright = constrain(long.sketch, 'vertical', ['l1']);
    expect('wrong' in upright && upright.wrong).toMatch(/can’t hold together with/);
    expect(start.constraints).toEqual([]);
  });
  it('points come to rest where the constraints hold, to a millionth of a millimetre', () => {
    let s = box();
    for (const [kind, chosen] of [
      ['horizontal', ['l1']],
      ['vertical', ['l2']],
      ['horizontal', ['l3']],
      ['vertical', ['l4']],
    ] as [ConstraintKind, string[]][]) {
      const made = constrain(s, kind, chosen);
      if ('wrong' in made) throw new Error(made.wrong);
      s = made.sketch;
    }
    const at = (id: string) => s.points.find((p) => p.id === id) as { x: number; y: number };
    expect(at('b').y).toBe(0);
    expect(at('c').x).toBeCloseTo(at('b').x, 8);
    expect(settledPlaces(s, solveSketch(s))).toEqual(s);
  });
});
