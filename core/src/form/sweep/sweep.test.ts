import { describe, expect, it } from 'vitest';
import { polygon, stepOf } from '../../../test/recipes';
import { hollow, SCOOP, scoop, scoopPlan, sketchOf } from '../../../test/scoop';
import { FormError } from '../../errors';
import { random } from '../../maths/random';
import type { Vec3 } from '../../maths/vec3';
import { boundaryLoops } from '../../mesh/connectivity';
import { eulerCharacteristic, isWatertight, volumeOf } from '../../mesh/measures';
import { attribute, faceCount, type PolyMesh, triangleCount, vertexCount } from '../../mesh/polymesh';
import { soupOf } from '../../mesh/soup';
import { RayQuery } from '../../rays/query';
import { buildTree } from '../../rays/tree';
import { type Curve, curveLength, type Point2, pointAt, shareOf, tangentAt } from '../curves';
import type { Sketch } from '../sketch/sketch';
import type { Detail } from '../step';
import { type SweepStep, sweep } from '../steps/sweep';

const low = (mm: number): Detail => ({ mesh: 'low', count: (a) => a.countFor(mm) });
const high = (toleranceMm: number): Detail => ({ mesh: 'high', toleranceMm });
const build = (step: SweepStep, detail: Detail): PolyMesh => sweep.maker.build(step, detail);
const vertex = (m: PolyMesh, v: number): Vec3 => [m.positions[3 * v], m.positions[3 * v + 1], m.positions[3 * v + 2]];
const cornersOf = (m: PolyMesh, f: number): number[] => [...m.faceVert.subarray(m.faceStart[f], m.faceStart[f + 1])];
const patchOf = (m: PolyMesh, f: number): string => m.patches[attribute(m, 'patch', 'face')?.data[f] ?? 0];
const vertices = (m: PolyMesh): Vec3[] => Array.from({ length: vertexCount(m) }, (_, v) => vertex(m, v));

/** Edges of faces, each once, with the names of the patches on both sides. */
function edges(m: PolyMesh): { a: number; b: number; patches: string[] }[] {
  const out = new Map<string, { a: number; b: number; patches: string[] }>();
  for (let f = 0; f < faceCount(m); f++) {
    const ring = cornersOf(m, f);
    for (let k = 0; k < ring.length; k++) {
      const [a, b] = [ring[k], ring[(k + 1) % ring.length]];
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      const e = out.get(key) ?? { a, b, patches: [] };
      e.patches.push(patchOf(m, f));
      out.set(key, e);
    }
  }
  return [...out.values()];
}

/** From a point to a curve of an outline, mm, exactly. */
function toCurve(p: Point2, c: Curve): number {
  const t = Math.min(1, Math.max(0, shareOf(c, p)));
  const q = pointAt(c, t);
  return Math.hypot(p[0] - q[0], p[1] - q[1]);
}
const toPlan = (p: Vec3, curves: readonly Curve[]): number => Math.min(...curves.map((c) => toCurve([p[0], -p[2]], c)));

/** The side curve of a scoop by the way along it, from its lines and arcs alone. */
function onRoute(curves: readonly Curve[], s: number): { at: Point2; travel: Point2 } {
  let left = s;
  for (const c of curves) {
    const l = curveLength(c);
    if (left <= l || c === curves[curves.length - 1]) {
      const at = pointAt(c, left / l);
      if (c.kind === 'line') return { at, travel: tangentAt(c, 0) };
      const k = Math.sign(c.sweep);
      return { at, travel: [(-k * (at[1] - c.centre[1])) / c.radius, (k * (at[0] - c.centre[0])) / c.radius] };
    }
    left -= l;
  }
  throw new Error('no curve');
}

describe('a bailing scoop: tangent lines and arcs in plan, a bent side, four sections of seeded radii, a wall', () => {
  const plan = scoopPlan();
  for (const seed of [1, 2, 3, 4, 5]) {
    const step = scoop(seed);
    const mesh = build(step, low(0.1));
    it(`seed ${seed}: closed, at most 1 500 triangles, all quads`, () => {
      expect([isWatertight(mesh), eulerCharacteristic(mesh), boundaryLoops(mesh).length]).toEqual([true, 2, 0]);
      expect(triangleCount(mesh)).toBeLessThanOrEqual(1500);
      expect(Array.from({ length: faceCount(mesh) }, (_, f) => cornersOf(mesh, f).length).every((n) => n === 4)).toBe(true);
    });
    it(`seed ${seed}: its rim lies on the plan, and nothing beyond it`, () => {
      const rim = new Set(
        edges(mesh)
          .filter((e) => e.patches.some((p) => p !== 'upper' && p !== 'lower'))
          .flatMap((e) => [e.a, e.b]),
      );
      expect(rim.size).toBeGreaterThan(60);
      for (const v of rim) expect(toPlan(vertex(mesh, v), plan)).toBeLessThan(1e-6);
      const widest = Math.max(...vertices(mesh).map((p) => Math.abs(p[2])));
      expect(widest).toBeLessThan(SCOOP.mouth + 1e-6);
    });
    it(`seed ${seed}: its rows at the sections lie on them`, () => {
      const route = step.route as Sketch;
      const point = (id?: string): Point2 => {
        const p = route.points.find((q) => q.id === id);
        return [p?.x ?? 0, p?.y ?? 0];
      };
      const curves = route.curves.map((c): Curve => {
        const [a, b] = [point(c.a), point(c.b)];
        if (c.kind === 'line') return { kind: 'line', a, b };
        const centre = point(c.centre);
        const from = Math.atan2(a[1] - centre[1], a[0] - centre[0]);
        let turn = Math.atan2(b[1] - centre[1], b[0] - centre[0]) - from;
        if (c.turn === 'left' && turn < 0) turn += 2 * Math.PI;
        if (c.turn === 'right' && turn > 0) turn -= 2 * Math.PI;
        return { kind: 'arc', a, b, centre, radius: Math.hypot(a[0] - centre[0], a[1] - centre[1]), sweep: turn };
      });
      for (const station of step.stations.slice(1, 3)) {
        const { at, travel } = onRoute(curves, station.at);
        const arc = station.sketch.points.find((p) => p.id === 'm0');
        const radius = Math.hypot((arc?.x ?? 0) - station.sketch.points[0].x, (arc?.y ?? 0) - station.sketch.points[0].y);
        const there = vertices(mesh).filter((p) => Math.abs((p[0] - at[0]) * travel[0] + (p[1] - at[1]) * travel[1]) < 1e-6);
        expect(there.length).toBeGreaterThan(10);
        for (const p of there) {
          const up = (p[0] - at[0]) * -travel[1] + (p[1] - at[1]) * travel[0];
          expect(Math.abs(Math.hypot(up - radius, p[2]) - radius)).toBeLessThan(1e-6);
        }
      }
    });
    it(`seed ${seed}: no chord stands off by more than 0.1 mm, along, across or round the plan`, () => {
      const query = new RayQuery(buildTree(soupOf(build(step, high(0.002)))));
      let worst = 0;
      for (const { a, b, patches } of edges(mesh)) {
        const [p, q] = [vertex(mesh, a), vertex(mesh, b)];
        for (let k = 1; k < 8; k++) {
          const m: Vec3 = [p[0] + ((q[0] - p[0]) * k) / 8, p[1] + ((q[1] - p[1]) * k) / 8, p[2] + ((q[2] - p[2]) * k) / 8];
          query.nearest(m[0], m[1], m[2], Number.POSITIVE_INFINITY);
          worst = Math.max(worst, query.t);
          if (patches.some((x) => x !== 'upper' && x !== 'lower')) worst = Math.max(worst, toPlan(m, plan));
        }
      }
      expect(worst).toBeLessThan(0.1 + 0.004);
      expect(worst).toBeGreaterThan(0.05);
    });
  }

  it('its wall is as thick as asked, square to the surface, to a thousandth', () => {
    const step = scoop(3);
    const dense = build(step, high(0.002));
    const soup = soupOf(dense);
    const upper: number[] = [];
    for (let t = 0; t < triangleCount(dense); t++)
      if (patchOf(dense, dense.triangleFace[t]) === 'upper') for (let x = 0; x < 9; x++) upper.push(soup[9 * t + x]);
    const query = new RayQuery(buildTree(Float64Array.from(upper)));
    const mesh = build(step, low(0.3));
    const inner = new Set<number>();
    for (let f = 0; f < faceCount(mesh); f++) if (patchOf(mesh, f) === 'lower') for (const v of cornersOf(mesh, f)) inner.add(v);
    const rim = new Set(
      edges(mesh)
        .filter((e) => e.patches.some((p) => p.includes('edge') || p === 'start' || p === 'end'))
        .flatMap((e) => [e.a, e.b]),
    );
    let asked = 0;
    for (const v of inner) {
      if (rim.has(v)) continue;
      query.nearest(...vertex(mesh, v), Number.POSITIVE_INFINITY);
      expect(Math.abs(query.t - 1.6)).toBeLessThan(0.004);
      asked++;
    }
    expect(asked).toBeGreaterThan(60);
  });
});

const straight = (long: number): Partial<SweepStep> => ({
  along: 'sketch',
  route: sketchOf([{ kind: 'line', a: [0, 0], b: [long, 0] }], ['path'], false),
});
const section = (at: number, sketch: Sketch, i = 0) => ({ id: `s${i}`, at, sketch });
const circle = (radius: number): Sketch => ({
  points: [{ id: 'm', x: 0, y: 0 }],
  curves: [{ id: 'c', name: 'round', kind: 'circle', centre: 'm', radius }],
  constraints: [],
});
const flat = (half: number): Sketch => sketchOf([{ kind: 'line', a: [-half, 0], b: [half, 0] }], ['flat'], false);
const square = (half: number): Sketch =>
  polygon([
    [-half, -half],
    [half, -half],
    [half, half],
    [-half, half],
  ]);

describe('sweeps against closed forms', () => {
  const volume = (more: Partial<SweepStep>, tolerance = 0.0005) => volumeOf(build(stepOf('sweep', { wall: 0, ...more }), high(tolerance)));
  it('a gutter is the part of a tube: θ/2 · ((R + w)² − R²) · l', () => {
    const [r, half, w, long] = [30, 20, 2, 90];
    const theta = 2 * Math.asin(half / r);
    const v = volume({ ...straight(long), stations: [section(0, hollow(r, half))], wall: w, wallIs: 'upper' });
    expect(v / ((theta / 2) * ((r + w) ** 2 - r ** 2) * long)).toBeCloseTo(1, 4);
    const inner = volume({ ...straight(long), stations: [section(0, hollow(r, half))], wall: w, wallIs: 'lower' });
    expect(inner / ((theta / 2) * (r ** 2 - (r - w) ** 2) * long)).toBeCloseTo(1, 4);
  });
  it('a flat sheet cut to a round plan is a disc: πr² · w; along a path that climbs, its plan stays round and w stands square to it', () => {
    const plan = circle(20);
    const disc = { stations: [section(0, flat(30))], wall: 3, cut: 'plan' as const, plan };
    const level = volume({
      ...disc,
      route: sketchOf([{ kind: 'line', a: [-40, 0], b: [40, 0] }], ['path'], false),
      along: 'sketch',
    });
    expect(level / (Math.PI * 400 * 3)).toBeCloseTo(1, 4);
    const climb = Math.tan(0.4);
    const leaning = volume({
      ...disc,
      route: sketchOf([{ kind: 'line', a: [-40, -40 * climb], b: [40, 40 * climb] }], ['path'], false),
      along: 'sketch',
    });
    // A slab w thick that climbs by α is w / cos α high everywhere over the disc.
    expect(leaning / ((Math.PI * 400 * 3) / Math.cos(0.4))).toBeCloseTo(1, 4);
  });
  it('from one circle to another, straight: a frustum, πh(R² + Rr + r²)/3', () => {
    const v = volume({ ...straight(50), stations: [section(0, circle(20), 0), section(50, circle(8), 1)], blend: 'straight' });
    expect(v / ((Math.PI * 50 * (400 + 160 + 64)) / 3)).toBeCloseTo(1, 4);
  });
  it('round a bend: area times the way of its middle (Pappus)', () => {
    const arc: Curve = { kind: 'arc', a: [0, 0], b: [40, 40], centre: [0, 40], radius: 40, sweep: Math.PI / 2 };
    const v = volume({ along: 'sketch', route: sketchOf([arc], ['bend'], false), stations: [section(0, circle(6))] });
    expect(v / (Math.PI * 36 * 40 * (Math.PI / 2))).toBeCloseTo(1, 3);
  });
  it('twisted, it has the volume it had (Cavalieri), and its corners stand where the twist says', () => {
    const step = stepOf('sweep', {
      ...straight(80),
      stations: [section(0, square(10), 0), section(40, square(10), 1)],
      turns: [
        { id: 'a', at: 0, degrees: 0 },
        { id: 'b', at: 80, degrees: 90 },
      ],
    });
    const mesh = build(step, high(0.002));
    expect(volumeOf(mesh) / (400 * 80)).toBeCloseTo(1, 3);
    // Half way the monotone curve through two values has turned by half: 45°, a corner straight up.
    const middle = vertices(build(step, low(0.05))).filter((p) => Math.abs(p[0] - 40) < 1e-6);
    expect(Math.max(...middle.map((p) => p[1]))).toBeCloseTo(10 * Math.SQRT2, 6);
    for (const p of vertices(mesh)) {
      const r = Math.hypot(p[1], p[2]);
      expect(r).toBeGreaterThan(10 - 1e-9);
      expect(r).toBeLessThan(10 * Math.SQRT2 + 1e-9);
    }
  });
  it('scaled to nothing at its end it closes in a point', () => {
    const horn = stepOf('sweep', {
      ...straight(60),
      stations: [section(0, circle(9))],
      sizes: [
        { id: 'a', at: 0, across: 100, up: 100 },
        { id: 'b', at: 60, across: 0, up: 0 },
      ],
    });
    const mesh = build(horn, low(0.05));
    expect([isWatertight(mesh), eulerCharacteristic(mesh)]).toEqual([true, 2]);
    expect(vertices(mesh).filter((p) => p[0] > 60 - 1e-9)).toEqual([[60, 0, 0]]);
  });
  it('a section’s own up stays up along a level path that winds, and its wall opens on its rim', () => {
    const winding = stepOf('sweep', {
      along: 'points',
      path: [
        { id: 'a', x: 0, y: 0, z: 0 },
        { id: 'b', x: 60, y: 0, z: 0, bend: 40 },
        { id: 'c', x: 90, y: 0, z: 60, bend: 40 },
        { id: 'd', x: 160, y: 0, z: 70 },
      ],
      stations: [section(0, flat(12))],
      wall: 0,
    });
    const mesh = build(winding, low(0.05));
    for (const p of vertices(mesh)) expect(Math.abs(p[1])).toBeLessThan(1e-6);
    expect([boundaryLoops(mesh).length, eulerCharacteristic(mesh)]).toEqual([1, 1]);
  });
  it('more columns and rows come nearer, as n⁻²: the curve the solver walks is true', () => {
    const step = scoop(2);
    const [columns, rows] = sweep.maker.plan(step).adaptive;
    for (const a of [columns, rows]) {
      expect(a.errorMm(64) / a.errorMm(128)).toBeGreaterThan(3.4);
      for (const e of [0.4, 0.1, 0.02]) expect(a.errorMm(a.countFor(e))).toBeLessThanOrEqual(e * (1 + 1e-9));
    }
  });
});

describe('what can’t be swept says which curve, section or place stands in the way', () => {
  const refuse = (more: Partial<SweepStep>): string => {
    try {
      build(scoop(1, more), low(0.2));
    } catch (error) {
      // Narrow spaces stand between figures and units.
      if (error instanceof FormError) return error.message.replace(/[\u202f\u00a0]/g, ' ');
      throw error;
    }
    return 'built';
  };
  const plan = scoopPlan();
  const names = ['back corner', 'side', 'mouth', 'other side', 'other back corner', 'back'];
  it.each<[string, Partial<SweepStep>, RegExp]>([
    [
      'a corner in the path',
      {
        route: sketchOf(
          [
            { kind: 'line', a: [-12, 6], b: [40, 0] },
            { kind: 'line', a: [40, 0], b: [170, 4] },
          ],
          ['keel', 'lip'],
          false,
        ),
      },
      /sharp corner between “keel” and “lip”/,
    ],
    [
      'sections too narrow',
      { stations: [section(0, hollow(60, 40))] },
      /sections of “Scoop” end \d+(\.\d+)? mm inside “(side|mouth|other side)” of its plan near .*; make them wider/,
    ],
    [
      'a path too short',
      { route: sketchOf([{ kind: 'line', a: [-12, 0], b: [130, 0] }], ['keel'], false), stations: [section(0, hollow(80, 52))] },
      /path of “Scoop” ends \d+(\.\d+)? mm before “mouth”/,
    ],
    [
      'a section off the path',
      { stations: [section(0, hollow(60, 52), 0), section(400, hollow(60, 52), 1)] },
      /A section of “Scoop” stands 400 mm along its path, which is 1\d\d(\.\d+)? mm long/,
    ],
    [
      'two in one place',
      { stations: [section(20, hollow(60, 52), 0), section(20, hollow(70, 52), 1)] },
      /Two sections of “Scoop” stand 20 mm/,
    ],
    [
      'open and closed',
      { stations: [section(0, hollow(60, 52), 0), section(80, circle(20), 1)] },
      /Section 2 of “Scoop” is closed and the first is open/,
    ],
    [
      'corners that differ',
      { stations: [section(0, square(20), 0), section(80, circle(20), 1)] },
      /Section 2 of “Scoop” has no sharp corner and the first has 4 sharp corners/,
    ],
    [
      'a wall thicker than the bend',
      { wall: 70, wallIs: 'lower', stations: [section(0, hollow(56, 52))] },
      /A wall of 70 mm doesn’t fit “Scoop”: near .* it bends round \d+/,
    ],
    [
      'a plan with a shoulder',
      {
        plan: sketchOf(
          [
            { kind: 'line', a: [0, -20], b: [60, -20] },
            { kind: 'line', a: [60, -20], b: [60, -40] },
            { kind: 'line', a: [60, -40], b: [140, -40] },
            { kind: 'line', a: [140, -40], b: [140, 40] },
            { kind: 'line', a: [140, 40], b: [0, 40] },
            { kind: 'line', a: [0, 40], b: [0, -20] },
          ],
          ['tail', 'shoulder', 'side', 'mouth', 'far side', 'back'],
          true,
        ),
      },
      /“shoulder” of the plan of “Scoop” runs across the sweep or back near/,
    ],
    [
      'a plan with a hole',
      {
        plan: {
          points: [...sketchOf(plan, names, true).points, { id: 'h', x: 70, y: 0 }],
          curves: [...sketchOf(plan, names, true).curves, { id: 'h1', name: 'eye', kind: 'circle', centre: 'h', radius: 5 }],
          constraints: [],
        },
      },
      /The plan of “Scoop” has a hole, “eye”/,
    ],
    ['an open plan', { plan: sketchOf(plan.slice(0, 5), names, false) }, /The outline of “Scoop” is open between/],
    ['no plan', { plan: undefined }, /“Scoop” is to be cut to a plan that isn’t drawn yet/],
    [
      'a bend inside the section',
      {
        cut: 'no',
        route: sketchOf([{ kind: 'arc', a: [0, 0], b: [9, 9], centre: [0, 9], radius: 9, sweep: Math.PI / 2 }], ['elbow'], false),
        stations: [section(0, hollow(80, 52))],
      },
      /“Scoop” folds over itself \d.* mm along its path: its sections reach beyond the middle that “elbow” bends round/,
    ],
    [
      'nothing in the middle',
      {
        cut: 'no',
        stations: [section(0, circle(9))],
        sizes: [
          { id: 'a', at: 0, across: 100, up: 100 },
          { id: 'b', at: 80, across: 0, up: 0 },
          { id: 'c', at: 160, across: 100, up: 100 },
        ],
      },
      /comes to nothing \d.* mm along its path; only its ends may/,
    ],
  ])('%s', (_, more, words) => expect(refuse(more)).toMatch(words));
  it('and a closed section under a plan is told that nothing is cut', () => {
    const notes = sweep.maker.notes?.(scoop(1, { stations: [section(0, circle(20))] })) ?? [];
    expect(notes.map((n) => n.code)).toEqual(['sweep/cut']);
  });
});

describe('on plans and sections of a seed', () => {
  it('everything that isn’t refused is closed and on its plan, 60 times', () => {
    const next = random(77);
    let built = 0;
    for (let i = 0; i < 60; i++) {
      const step = scoop(100 + i, {
        wall: 0.5 + 3 * next(),
        wallIs: (['upper', 'lower', 'middle'] as const)[i % 3],
        turns:
          i % 4 === 0
            ? [
                { id: 'a', at: 0, degrees: -4 },
                { id: 'b', at: 160, degrees: 6 * next() },
              ]
            : [],
      });
      try {
        const mesh = build(step, low(0.05 + 0.4 * next()));
        expect([isWatertight(mesh), eulerCharacteristic(mesh)]).toEqual([true, 2]);
        expect(volumeOf(mesh)).toBeGreaterThan(0);
        const far = vertices(mesh).map((p) => toPlan(p, scoopPlan()));
        expect(far.filter((d) => d < 1e-6).length).toBeGreaterThan(40);
        built++;
      } catch (error) {
        if (!(error instanceof FormError)) throw error;
      }
    }
    expect(built).toBeGreaterThan(50);
  });
  it('halves mirror each other where everything drawn does', () => {
    const mesh = build(scoop(4), low(0.1));
    const key = (p: Vec3, s: number) => [p[0], p[1], s * p[2]].map((x) => (Math.abs(x) < 5e-6 ? 0 : x).toFixed(4)).join(' ');
    const all = new Set(vertices(mesh).map((p) => key(p, 1)));
    const lone = vertices(mesh).filter((p) => !all.has(key(p, -1)));
    expect(lone.length).toBeLessThan(vertices(mesh).length * 0.02);
  });
});
