import { type Arc, arcByTangent, type Curve, line, type Point2, tangentAt } from '../src/form/curves';
import type { Sketch } from '../src/form/sketch/sketch';
import type { SweepStep } from '../src/form/steps/sweep';
import { random } from '../src/maths/random';
import { stepOf } from './recipes';

/** Curves that follow each other as a sketch without constraints. */
export function sketchOf(curves: readonly Curve[], names: readonly string[], closed: boolean): Sketch {
  const n = curves.length;
  const id = (i: number) => (closed ? `p${i % n}` : `p${i}`);
  const arcs = curves.map((c, i) => [c, i] as const).filter((x): x is readonly [Arc, number] => x[0].kind === 'arc');
  return {
    points: [
      ...curves.map((c, i) => ({ id: id(i), x: c.a[0], y: c.a[1] })),
      ...(closed ? [] : [{ id: `p${n}`, x: curves[n - 1].b[0], y: curves[n - 1].b[1] }]),
      ...arcs.map(([c, i]) => ({ id: `m${i}`, x: c.centre[0], y: c.centre[1] })),
    ],
    curves: curves.map((c, i) => ({
      id: `c${i}`,
      name: names[i % names.length],
      kind: c.kind,
      a: id(i),
      b: id(i + 1),
      ...(c.kind === 'arc' && { centre: `m${i}`, turn: c.sweep > 0 ? ('left' as const) : ('right' as const) }),
    })),
    constraints: [],
  };
}

/** An open section: an arc of a radius, hollow upward, as wide as asked. */
export function hollow(radius: number, half: number): Sketch {
  const sag = radius - Math.sqrt(radius * radius - half * half);
  const sweep = 2 * Math.asin(half / radius);
  const arc: Arc = { kind: 'arc', a: [-half, sag], b: [half, sag], centre: [0, radius], radius, sweep };
  return sketchOf([arc], ['hollow'], false);
}

/** Half the width of a bailing scoop at its mouth and at its back, mm; its length and the radius of its back corners. */
export const SCOOP = { mouth: 46, back: 30, long: 150, corner: 18 };

/** The plan of a bailing scoop: a mouth that bulges, sides that draw in, a back with round corners; all joints tangent but the mouth’s. */
export function scoopPlan(): Curve[] {
  const { mouth, back, long, corner } = SCOOP;
  const lip: Point2 = [long * 0.82, 0];
  // The sides, from the mouth's corners to where the back's corners begin: tangent to circles of the corner radius.
  const m: Point2 = [corner, -(back - corner)];
  const p: Point2 = [lip[0], -mouth];
  const [dx, dy] = [p[0] - m[0], p[1] - m[1]];
  const far = Math.hypot(dx, dy);
  const turn = Math.atan2(dy, dx) - Math.acos(corner / far);
  const touch: Point2 = [m[0] + corner * Math.cos(turn), m[1] + corner * Math.sin(turn)];
  const below: Arc = {
    kind: 'arc',
    a: [0, m[1]],
    b: touch,
    centre: m,
    radius: corner,
    sweep: Math.atan2(touch[1] - m[1], touch[0] - m[0]) + Math.PI,
  };
  const side = line(touch, p);
  // The mouth leaves its corner a little turned and comes back mirrored.
  const mouthArc = arcByTangent(p, [p[0], mouth], [Math.cos(0.25), Math.sin(0.25)]);
  const up = (q: Point2): Point2 => [q[0], -q[1]];
  return [
    below,
    side,
    mouthArc,
    line(up(p), up(touch)),
    { ...below, a: up(touch), b: up(below.a), centre: up(m) },
    line(up(below.a), below.a),
  ];
}

/** A bailing scoop: the yardstick of a sweep. Four sections of seeded radii along a bent side curve, a wall, cut to its plan. */
export function scoop(seed: number, more: Partial<SweepStep> = {}): SweepStep {
  const next = random(seed);
  const { long } = SCOOP;
  const first = line([-12, 6], [40, 0]);
  const rise = arcByTangent(first.b, [long * 0.7, 4], tangentAt(first, 0));
  const tail = arcByTangent(rise.b, [long + 14, 9 + 8 * next()], tangentAt(rise, 1));
  const stations = [0, 50, 105, long + 20].map((at, i) => ({
    id: `s${i}`,
    at,
    sketch: hollow(56 + 40 * next(), 52 + 2 * next()),
  }));
  return stepOf('sweep', {
    name: 'Scoop',
    along: 'sketch',
    route: sketchOf([first, rise, tail], ['keel', 'belly', 'lip'], false),
    stations,
    wall: 1.6,
    cut: 'plan',
    plan: sketchOf(scoopPlan(), ['back corner', 'side', 'mouth', 'other side', 'other back corner', 'back'], true),
    ...more,
  });
}
