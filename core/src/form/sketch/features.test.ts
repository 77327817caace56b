import { createRequire } from 'node:module';
import { beforeAll, describe, expect, it } from 'vitest';
import { polygon } from '../../../test/recipes';
import { sketchOf } from '../../../test/scoop';
import { FormError } from '../../errors';
import { random } from '../../maths/random';
import { type Curve, curveLength, gap, line, type Point2, pointAt } from '../curves';
import { beginFeature, featuresFor, featureWords } from './begin';
import { areaInside, type Chain, chainsOf, outlinesOf, pathOf, settled } from './chains';
import { extended, trimmed } from './cutting';
import { teethOf, withFeatures } from './features';
import { parallel, toCurve, type Way } from './parallel';
import { type Sketch, type SketchFeature, without } from './sketch';
import { solveSketch } from './solve';

const feature = (kind: SketchFeature['kind'], of: string, more: Partial<SketchFeature> = {}): SketchFeature => ({
  id: 'f1',
  kind,
  of,
  ...more,
});
const with_ = (sketch: Sketch, ...features: SketchFeature[]): Sketch => ({ ...sketch, features });
const rectangle = (w: number, h: number) =>
  polygon([
    [0, 0],
    [w, 0],
    [w, h],
    [0, h],
  ]);
const area = (sketch: Sketch) => areaInside(outlinesOf(sketch, 'test').outer);
const message = (make: () => unknown): string => {
  try {
    make();
  } catch (error) {
    // Narrow spaces stand between figures and units.
    if (error instanceof FormError) return error.message.replace(/[\u202f\u00a0]/g, ' ');
    throw error;
  }
  return 'made';
};
const asChain = (w: Way): Chain => ({ ...w, ids: w.curves.map((_, i) => `${i}`), names: w.curves.map((_, i) => `${i}`) });
const lengthOf = (curves: readonly Curve[]) => curves.reduce((s, c) => s + curveLength(c), 0);

describe('rounded and bevelled corners, kept', () => {
  it('a rectangle with round corners: area w·h − (4 − π)r², in the order of its curves', () => {
    const s = with_(rectangle(60, 40), feature('round', 'p0 p1 p2 p3', { mm: 6 }));
    expect(area(s)).toBeCloseTo(2400 - (4 - Math.PI) * 36, 9);
    expect(outlinesOf(s, 'test').outer.curves.map((c) => c.kind)).toEqual(['line', 'arc', 'line', 'arc', 'line', 'arc', 'line', 'arc']);
  });
  it('bevelled: 4 · s²/2 less', () => {
    expect(area(with_(rectangle(60, 40), feature('chamfer', 'p0 p1 p2 p3', { mm: 5 })))).toBeCloseTo(2400 - 50, 9);
  });
  it('follow what they stand on: a wider rectangle keeps its radius', () => {
    for (const w of [40, 60, 90])
      expect(area(with_(rectangle(w, 40), feature('round', 'p1', { mm: 9 })))).toBeCloseTo(w * 40 - (1 - Math.PI / 4) * 81, 9);
  });
  it('between a line and an arc the round is tangent to both', () => {
    const s = with_(
      sketchOf(
        [line([0, 0], [40, 0]), { kind: 'arc', a: [40, 0], b: [60, 20], centre: [60, 0], radius: 20, sweep: -Math.PI / 2 }],
        ['foot', 'bow'],
        false,
      ),
      feature('round', 'p1', { mm: 3 }),
    );
    const { curves } = pathOf(s, 'test');
    expect(curves).toHaveLength(3);
    for (const [p, q] of [
      [curves[0], curves[1]],
      [curves[1], curves[2]],
    ]) {
      const e = 1e-6;
      const [a, b, c] = [pointAt(p, 1 - e), q.a, pointAt(q, e)];
      const turn = Math.atan2(c[1] - b[1], c[0] - b[0]) - Math.atan2(b[1] - a[1], b[0] - a[0]);
      expect(Math.abs(turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI)))).toBeLessThan(1e-4);
    }
  });
  it('one that doesn’t fit says between which curves, and what does', () => {
    expect(message(() => area(with_(rectangle(60, 40), feature('round', 'p1', { mm: 45 }))))).toMatch(
      /A rounded corner in the sketch of “test” of R 45 mm doesn’t fit between “side 1” and “side 2”; up to 40 mm does/,
    );
    expect(message(() => area(with_(rectangle(60, 40), feature('chamfer', 'p1', { mm: 40 }))))).toMatch(
      /bevelled corner .* less than 40 mm/,
    );
    expect(
      message(() =>
        area(
          with_(
            polygon(
              [
                [0, 0],
                [9, 0],
                [0, 9],
              ],
              [[2, 2, 1]],
            ),
            feature('round', 'm0', { mm: 1 }),
          ),
        ),
      ),
    ).toMatch(/needs two curves that meet; at the point it was put there are 0/);
  });
});

describe('teeth', () => {
  it('divide a length evenly, whatever is asked: the pitch nearest to it', () => {
    for (const [length, pitch] of [
      [100, 7],
      [33.3, 4],
      [10, 30],
    ]) {
      const t = teethOf(length, { pitch, mm: 1, degrees: 60 });
      expect(t.count * t.pitch).toBeCloseTo(length, 12);
      expect(Math.abs(t.count - length / pitch)).toBeLessThanOrEqual(Math.max(0.5, 1 - length / pitch));
    }
  });
  it('add the area of their trapezia to a side: n·h·(p/2), because foot and top lands are alike', () => {
    const s = with_(rectangle(60, 40), feature('teeth', 'l0', { pitch: 5, mm: 1.5, degrees: 50, side: 'right' }));
    expect(area(s)).toBeCloseTo(2400 + 12 * 1.5 * 2.5, 9);
    const inward = with_(rectangle(60, 40), feature('teeth', 'l0', { pitch: 5, mm: 1.5, degrees: 50, side: 'left' }));
    expect(area(inward)).toBeCloseTo(2400 - 12 * 1.5 * 2.5, 9);
    // Twelve teeth of four corners each, the last foot land joined to the next tooth's.
    expect(outlinesOf(s, 'test').outer.curves).toHaveLength(3 + 12 * 4 + 1);
  });
  it('pointed where the flanks take the whole pitch, refused where they need more', () => {
    const h = 5 / (2 * Math.tan(Math.PI / 6));
    const pointed = with_(rectangle(60, 40), feature('teeth', 'l0', { pitch: 5, mm: h - 1e-9, degrees: 60, side: 'right' }));
    expect(outlinesOf(pointed, 'test').outer.curves).toHaveLength(3 + 24);
    expect(message(() => area(with_(rectangle(60, 40), feature('teeth', 'l0', { pitch: 5, mm: 5, degrees: 60 }))))).toMatch(
      /A row of teeth in the sketch of “test” on “side 1” 5 mm high at 60° takes 5\.77 mm a tooth; its pitch comes out at 5 mm/,
    );
  });
  it('stand on an arc as on a line: lands are arcs of two radii about its middle', () => {
    const ring = sketchOf(
      [
        { kind: 'arc', a: [20, 0], b: [-20, 0], centre: [0, 0], radius: 20, sweep: Math.PI },
        { kind: 'arc', a: [-20, 0], b: [20, 0], centre: [0, 0], radius: 20, sweep: Math.PI },
      ],
      ['upper', 'lower'],
      true,
    );
    const gear = outlinesOf(with_(ring, feature('teeth', 'c0 c1', { pitch: 4, mm: 2, degrees: 30, side: 'right' })), 'test').outer;
    const radii = gear.curves.flatMap((c) => (c.kind === 'arc' ? [c.radius] : []));
    expect([...new Set(radii.map((r) => r.toFixed(6)))].sort()).toEqual(['20.000000', '22.000000']);
    expect(gear.curves.filter((c) => c.kind === 'line')).toHaveLength(2 * 2 * Math.round((Math.PI * 20) / 4));
    for (const c of gear.curves) if (c.kind === 'arc') expect(gap(c.a, c.centre)).toBeCloseTo(c.radius, 9);
  });
});

describe('mirrored and repeated curves', () => {
  it('half an outline mirrored over a guide closes it, its ends on the line shared', () => {
    const half: Sketch = {
      points: [
        { id: 'a', x: 0, y: 0 },
        { id: 'b', x: 20, y: 0 },
        { id: 'c', x: 12, y: 30 },
        { id: 'd', x: 0, y: 30 },
      ],
      curves: [
        { id: 'foot', name: 'foot', kind: 'line', a: 'a', b: 'b' },
        { id: 'side', name: 'side', kind: 'line', a: 'b', b: 'c' },
        { id: 'top', name: 'top', kind: 'line', a: 'c', b: 'd' },
        { id: 'axis', name: 'axis', kind: 'line', a: 'a', b: 'd', guide: true },
      ],
      constraints: [],
      features: [feature('mirror', 'foot side top', { about: 'axis' })],
    };
    expect(Math.abs(area(half))).toBeCloseTo(2 * ((20 + 12) / 2) * 30, 9);
  });
  it('rows and rings of holes: so many, evenly, the original included', () => {
    const plate = polygon(
      [
        [-50, -30],
        [50, -30],
        [50, 30],
        [-50, 30],
      ],
      [[-40, 0, 2]],
    );
    const row = outlinesOf(with_(plate, feature('row', 'h0', { count: 5, dx: 20, dy: 0 })), 'test');
    expect(row.holes.map((h) => areaInside(h) / -Math.PI)).toEqual(Array.from({ length: 5 }, () => expect.closeTo(4, 9)));
    const disc: Sketch = {
      points: [
        { id: 'm', x: 1, y: 2 },
        { id: 'q', x: 21, y: 2 },
      ],
      curves: [
        { id: 'rim', name: 'rim', kind: 'circle', centre: 'm', radius: 30 },
        { id: 'hole', name: 'hole', kind: 'circle', centre: 'q', radius: 3 },
      ],
      constraints: [],
      features: [feature('ring', 'hole', { about: 'm', count: 7, degrees: 360 })],
    };
    const { holes } = outlinesOf(disc, 'test');
    expect(holes).toHaveLength(7);
    const middles = settled(disc, 'test').points.filter((p) => p.id !== 'm');
    // A regular polygon of n corners on radius r: sides of 2r·sin(π/n).
    const nearest = middles.map((p) => Math.min(...middles.filter((q) => q !== p).map((q) => Math.hypot(p.x - q.x, p.y - q.y))));
    for (const d of nearest) expect(d).toBeCloseTo(2 * 20 * Math.sin(Math.PI / 7), 9);
  });
  it('work one after the other: teeth on a parallel in a line’s place', () => {
    const s = with_(
      sketchOf([line([0, 0], [50, 0])], ['line'], false),
      { ...feature('offset', 'c0', { mm: 4, side: 'both', keeps: 'instead' }), id: 'strip' },
      { ...feature('teeth', 'strip.0', { pitch: 5, mm: 1, degrees: 40 }), id: 'saw' },
    );
    expect(Math.abs(area(s))).toBeCloseTo(50 * 8 + 10 * 1 * 2.5, 9);
  });
  it('more than a sketch can hold is said before any of it is made', () => {
    const many = /would make more than 4 000 curves/;
    expect(message(() => area(with_(rectangle(60, 40), feature('teeth', 'l0', { pitch: 0.01, mm: 0.001 }))))).toMatch(many);
    const rows = [1, 2, 3].map((k) => ({
      ...feature('row', k === 1 ? 'l0 l1 l2 l3' : 'f1.1.0 f1.2.0 f1.3.0 f1.4.0 f1.5.0 f1.6.0 f1.7.0 f1.8.0 f1.9.0 f1.10.0 f1.11.0', {
        count: 400,
        dx: k,
        dy: 70,
      }),
      id: `f${k}`,
    }));
    expect(message(() => area(with_(rectangle(60, 40), ...rows)))).toMatch(many);
  });
  it('what they speak of may be gone: one sentence', () => {
    expect(message(() => area(with_(rectangle(9, 9), feature('row', 'nothing', { count: 3, dx: 1 }))))).toMatch(
      /speaks of a curve that isn’t there any more/,
    );
    expect(message(() => area(with_(rectangle(9, 9), feature('mirror', 'l0', { about: 'p0' }))))).toMatch(/needs a line to mirror about/);
  });
});

// The outside: the polygon clipping library's own offsetting, on outlines cut into short chords.
interface Paths {
  push_back(p: unknown): void;
}
interface Clipper {
  MakePathD(coordinates: number[]): unknown;
  PathsD: new () => Paths;
  InflatePathsD(paths: Paths, by: number, join: unknown, end: unknown, mitre: number, precision: number, arc: number): Paths;
  AreaPathsD(paths: Paths): number;
  JoinType: Record<string, unknown>;
  EndType: Record<string, unknown>;
}
let clipper: Clipper;
beforeAll(async () => {
  const require = createRequire(import.meta.url);
  const factory = require('clipper2-wasm/dist/umd/clipper2z') as (o?: object) => Promise<Clipper>;
  clipper = await factory();
});
const chords = (w: Way, step: number): number[] =>
  w.curves.flatMap((c) => {
    const n = c.kind === 'line' ? 1 : Math.ceil(curveLength(c) / step);
    return Array.from({ length: n }, (_, i) => pointAt(c, i / n)).flat();
  });
function inflated(w: Way, by: number, join: 'Round' | 'Miter'): number {
  const paths = new clipper.PathsD();
  paths.push_back(clipper.MakePathD(chords(w, 0.02)));
  return clipper.AreaPathsD(clipper.InflatePathsD(paths, by, clipper.JoinType[join], clipper.EndType.Polygon, 4, 5, 0.0005));
}

describe('parallels, against a polygon clipping library and closed forms', () => {
  const way = (sketch: Sketch): Way => outlinesOf(sketch, 'test').outer;
  const areas = (ways: readonly Way[]) => ways.reduce((s, w) => s + areaInside(asChain(w)), 0);
  const shapes: [string, Sketch][] = [
    ['rectangle', rectangle(60, 40)],
    [
      'triangle',
      polygon([
        [0, 0],
        [70, 5],
        [20, 44],
      ]),
    ],
    [
      'L',
      polygon([
        [0, 0],
        [60, 0],
        [60, 20],
        [22, 20],
        [22, 50],
        [0, 50],
      ]),
    ],
    [
      'star',
      polygon(
        Array.from({ length: 10 }, (_, i): [number, number] => {
          const [r, a] = [i % 2 === 0 ? 40 : 18, (i * Math.PI) / 5];
          return [r * Math.cos(a), r * Math.sin(a)];
        }),
      ),
    ],
    [
      'rounded',
      with_(
        polygon([
          [0, 0],
          [60, 0],
          [60, 20],
          [22, 20],
          [22, 50],
          [0, 50],
        ]),
        feature('round', 'p1 p2 p3', { mm: 7 }),
      ),
    ],
    [
      'dumb-bell',
      polygon([
        [0, 0],
        [30, 0],
        [30, 12],
        [60, 12],
        [60, 0],
        [90, 0],
        [90, 30],
        [60, 30],
        [60, 18],
        [30, 18],
        [30, 30],
        [0, 30],
      ]),
    ],
  ];
  it.each(shapes)('%s: outward with round corners and inward, area by area', (_, sketch) => {
    const w = way(sketch);
    for (const d of [0.5, 2, 5]) {
      expect(areas(parallel(w, -d, 'round')) / inflated(w, d, 'Round')).toBeCloseTo(1, 4);
      expect(areas(parallel(w, d, 'round')) / inflated(w, -d, 'Round')).toBeCloseTo(1, 4);
    }
  });
  it('a dumb-bell thinner than twice the distance falls apart in two', () => {
    expect(parallel(way(shapes[5][1]), 4, 'round')).toHaveLength(2);
    expect(parallel(way(shapes[5][1]), 16, 'round')).toHaveLength(0);
  });
  it('sharp corners run on to where they meet', () => {
    const w = way(rectangle(60, 40));
    expect(areas(parallel(w, -3, 'sharp'))).toBeCloseTo(66 * 46, 9);
    expect(areas(parallel(w, -3, 'round'))).toBeCloseTo(2400 + 200 * 3 + Math.PI * 9, 9);
    expect(areas(parallel(way(shapes[1][1]), -3, 'sharp')) / inflated(way(shapes[1][1]), 3, 'Miter')).toBeCloseTo(1, 5);
  });
  it('convex ones by Steiner’s formula: A + P·d + π·d²', () => {
    const next = random(12);
    for (let i = 0; i < 40; i++) {
      const n = 3 + Math.floor(5 * next());
      const angles = Array.from({ length: n }, () => 2 * Math.PI * next()).sort((a, b) => a - b);
      const w = way(polygon(angles.map((a): [number, number] => [30 * Math.cos(a), 30 * Math.sin(a)])));
      const d = 0.2 + 8 * next();
      expect(areas(parallel(w, -d, 'round')) / (areaInside(asChain(w)) + lengthOf(w.curves) * d + Math.PI * d * d)).toBeCloseTo(1, 7);
    }
  });
  it('an open line keeps its distance everywhere on both sides', () => {
    const next = random(5);
    for (let i = 0; i < 30; i++) {
      const corners = Array.from({ length: 4 }, (_, k): Point2 => [k * 25 + 8 * next(), 30 * next()]);
      const w: Way = { curves: corners.slice(1).map((b, k) => line(corners[k], b)), closed: false };
      for (const d of [3, -3])
        for (const p of parallel(w, d, 'round').flatMap((x) => x.curves.flatMap((c) => [0, 0.3, 0.5, 0.8, 1].map((t) => pointAt(c, t)))))
          expect(Math.min(...w.curves.map((c) => toCurve(p, c)))).toBeCloseTo(3, 5);
    }
  });
  it('as a kept feature: beside, in its place, as a strip; without room it says so', () => {
    const beside = settled(with_(rectangle(60, 40), feature('offset', 'l0 l1 l2 l3', { mm: 5, side: 'left' })), 'test');
    expect(chainsOf(beside, 'test').map((c) => Math.abs(areaInside(c)))).toEqual([expect.closeTo(2400, 9), expect.closeTo(50 * 30, 9)]);
    const strip = with_(
      sketchOf([line([0, 0], [40, 0]), line([40, 0], [40, 30])], ['a', 'b'], false),
      feature('offset', 'c0 c1', { mm: 3, side: 'both', keeps: 'instead' }),
    );
    // Two arms, the square of the inner corner, and a quarter disc outside.
    expect(Math.abs(area(strip))).toBeCloseTo(40 * 6 + 30 * 6 - 9 + (Math.PI * 9) / 4, 9);
    expect(
      message(() => area(with_(rectangle(60, 40), feature('offset', 'l0 l1 l2 l3', { mm: 25, side: 'left', keeps: 'instead' })))),
    ).toMatch(/A parallel in the sketch of “test” 25 mm left of “side 1” has no room/);
  });
});

describe('trimming and running on', () => {
  const cross = (): Sketch => ({
    points: [
      { id: 'a', x: -30, y: 0 },
      { id: 'b', x: 30, y: 0 },
      { id: 'c', x: -10, y: -20 },
      { id: 'd', x: -10, y: 20 },
      { id: 'm', x: 10, y: 0 },
    ],
    curves: [
      { id: 'level', name: 'level', kind: 'line', a: 'a', b: 'b' },
      { id: 'up', name: 'up', kind: 'line', a: 'c', b: 'd' },
      { id: 'round', name: 'round', kind: 'circle', centre: 'm', radius: 8 },
    ],
    constraints: [],
  });
  const lengths = (s: Sketch, id: string) => {
    const c = s.curves.find((x) => x.id === id);
    const [p, q] = [c?.a, c?.b].map((e) => s.points.find((x) => x.id === e));
    return p && q ? Math.hypot(p.x - q.x, p.y - q.y) : undefined;
  };
  it('an end goes up to the curve that cuts it, and stays on it', () => {
    const s = trimmed(cross(), 'level', [-25, 0]);
    expect(lengths(s, 'level')).toBeCloseTo(40, 9);
    expect(s.constraints).toMatchObject([{ kind: 'coincident', two: 'up' }]);
    expect(s.points.some((p) => p.id === 'a')).toBe(false);
    // Held: the cutting line moved, the end goes with it.
    const moved = { ...s, points: s.points.map((p) => (p.id === 'c' || p.id === 'd' ? { ...p, x: -14, fixed: true } : p)) };
    const solved = solveSketch(moved);
    expect(solved.solved).toBe(true);
    const end = solved.sketch.points.find((p) => p.id === s.curves[0].a);
    expect(end?.x).toBeCloseTo(-14, 6);
  });
  it('a part between two cuts leaves two curves', () => {
    const s = trimmed(cross(), 'level', [10, 0.2]);
    expect(s.curves).toHaveLength(4);
    expect(lengths(s, 'level')).toBeCloseTo(32, 9);
    expect(lengths(s, s.curves[3].id)).toBeCloseTo(12, 9);
  });
  it('a circle becomes the arc that is left; what nothing cuts goes', () => {
    const s = trimmed(cross(), 'round', [10, 8]);
    const arc = s.curves.find((c) => c.id === 'round');
    expect(arc?.kind).toBe('arc');
    const made = settled(s, 'test');
    const chain = chainsOf({ ...made, curves: made.curves.filter((c) => c.id === 'round') }, 'test')[0];
    expect(lengthOf(chain.curves)).toBeCloseTo(Math.PI * 8, 6);
    expect(Math.min(...chain.curves.map((c) => pointAt(c, 0.5)[1]))).toBeCloseTo(-8, 6);
    const lone: Sketch = { ...cross(), curves: cross().curves.slice(1, 2) };
    expect(trimmed(lone, 'up', [-10, 0]).curves).toEqual([]);
  });
  it('a line runs on to the next curve ahead; a joined end or nothing ahead is said', () => {
    const short: Sketch = {
      points: [...cross().points.slice(2, 4), { id: 'e', x: 20, y: 5 }, { id: 'f', x: 8, y: 5 }],
      curves: [cross().curves[1], { id: 'short', name: 'short', kind: 'line', a: 'e', b: 'f' }],
      constraints: [],
    };
    expect(lengths(extended(short, 'short', [8, 5]), 'short')).toBeCloseTo(30, 9);
    expect(message(() => extended(short, 'short', [20, 5]))).toBe('Nothing lies ahead of that end of “short”.');
    expect(message(() => extended(rectangle(9, 9), 'l0', [0, 0]))).toMatch(/^That end of “side 1” is joined to another curve/);
    expect(message(() => extended(cross(), 'round', [0, 0]))).toBe('A circle has no end to run on from.');
  });
});

describe('new constraints', () => {
  it('level and upright distances are signed and solved; three points evenly spaced', () => {
    const s = solveSketch({
      points: [
        { id: 'a', x: 0, y: 0, fixed: true },
        { id: 'b', x: 12, y: 7 },
        { id: 'c', x: 30, y: 4 },
      ],
      curves: [],
      constraints: [
        { id: '1', kind: 'across', one: 'a', two: 'c', mm: 40 },
        { id: '2', kind: 'upward', one: 'a', two: 'c', mm: -6 },
        { id: '3', kind: 'spaced', one: 'a', two: 'b', three: 'c' },
      ],
    });
    expect([s.solved, s.free]).toEqual([true, 0]);
    const at = (id: string) => s.sketch.points.find((p) => p.id === id);
    expect([at('c')?.x, at('c')?.y, at('b')?.x, at('b')?.y].map((x) => Math.round((x ?? 0) * 1e6) / 1e6)).toEqual([40, -6, 20, -3]);
  });
  it('features leave a sketch without any as it is', () => {
    const s = rectangle(4, 5);
    expect(withFeatures(s, 'test')).toBe(s);
  });
});

describe('begun from what is chosen', () => {
  it('offers what can be made of it', () => {
    const s = rectangle(60, 40);
    const hole = polygon(
      [
        [0, 0],
        [60, 0],
        [60, 40],
        [0, 40],
      ],
      [[20, 20, 4]],
    );
    expect(featuresFor(s, ['p0', 'p2'])).toEqual(['round', 'chamfer']);
    expect(featuresFor(s, ['l0'])).toEqual(['teeth', 'offset', 'row']);
    expect(featuresFor(s, ['l0', 'l1'])).toEqual(['teeth', 'offset', 'row', 'mirror']);
    expect(featuresFor(hole, ['h0'])).toEqual(['offset', 'row']);
    expect(featuresFor(hole, ['h0', 'p0'])).toEqual(['ring']);
    expect(featuresFor(hole, ['m0'])).toEqual([]);
    expect(featuresFor(s, [])).toEqual([]);
  });
  it('at a size that fits, with a name that says how teeth come out', () => {
    const thin = rectangle(60, 3);
    const { sketch, id } = beginFeature(thin, 'round', ['p0', 'p1', 'p2', 'p3']);
    expect(sketch.features?.[0].mm).toBeLessThanOrEqual(1.5);
    expect(id).toBe('f1');
    const saw = beginFeature(rectangle(60, 40), 'teeth', ['l0']);
    expect(featureWords(saw.sketch, (saw.sketch.features as SketchFeature[])[0]).replace(/[\u202f\u00a0]/g, ' ')).toBe(
      'A row of teeth: “side 1”, 12 at 5 mm',
    );
    expect(area(saw.sketch)).toBeGreaterThan(2400);
    // More can be made of what a feature made.
    const more = beginFeature(beginFeature(rectangle(60, 40), 'offset', ['l0', 'l1', 'l2', 'l3']).sketch, 'row', ['f1.0']);
    expect(more.sketch.features).toHaveLength(2);
  });
  it('what is taken away takes its features along; those of several keep the rest', () => {
    const s: Sketch = {
      ...rectangle(60, 40),
      features: [feature('round', 'p0 p1', { mm: 2 }), { ...feature('teeth', 'l2', { pitch: 4, mm: 1 }), id: 'f2' }],
    };
    expect(without(s, ['l2']).features).toMatchObject([{ id: 'f1', of: 'p0 p1' }]);
    expect(without(s, ['p0']).features?.[0].of).toBe('p1');
  });
});
