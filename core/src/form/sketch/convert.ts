import { drawnCurves, outlineOf, type Profile } from '../profile';
import type { Constraint, Sketch, SketchCurve, SketchPoint } from './sketch';

/** Ids of the axis of a turned sketch: a guide that nothing moves. */
export const AXIS = { line: 'axis', foot: 'axis0', top: 'axis1' } as const;

/** An empty sketch with the axis of a turned part. */
export const axisSketch = (): Sketch => ({
  points: [
    { id: AXIS.foot, x: 0, y: 0, fixed: true },
    { id: AXIS.top, x: 0, y: 10, fixed: true },
  ],
  curves: [{ id: AXIS.line, name: 'axis', kind: 'line', a: AXIS.foot, b: AXIS.top, guide: true }],
  constraints: [],
});

/**
 * A profile as a sketch: the same curves under the same ids, level and upright lines held so, points on the axis held there,
 * rounded corners as arcs of their radius tangent to both sides, the first point nailed down.
 *
 * @throws FormError where the profile can't be drawn
 */
export function sketchOfProfile(profile: Profile): Sketch {
  const { stretches } = outlineOf(drawnCurves(profile), { body: 'open' });
  const tangent = new Set(profile.segments.filter((s, i) => s.kind === 'tangent' && i > 0).map((s) => s.id));
  const axis = axisSketch();
  const points: SketchPoint[] = [];
  const curves: SketchCurve[] = [];
  const constraints: Constraint[] = [];
  const say = (kind: Constraint['kind'], one: string, two?: string, mm?: number) =>
    constraints.push({ id: `k${constraints.length + 1}`, kind, one, ...(two !== undefined && { two }), ...(mm !== undefined && { mm }) });
  const put = (id: string, [x, y]: readonly [number, number]) => points.push({ id, x, y });
  for (const [i, { curve, patch: id, label: name }] of stretches.entries()) {
    if (i === 0) put('q0', curve.a);
    put(`q${i + 1}`, curve.b);
    const [a, b] = [`q${i}`, `q${i + 1}`];
    if (curve.kind === 'line') {
      curves.push({ id, name, kind: 'line', a, b });
      if (Math.abs(curve.a[1] - curve.b[1]) < 1e-9) say('horizontal', id);
      else if (Math.abs(curve.a[0] - curve.b[0]) < 1e-9 && curve.a[0] > 1e-9) say('vertical', id);
    } else {
      put(`m${i}`, curve.centre);
      curves.push({ id, name, kind: 'arc', a, b, centre: `m${i}`, turn: curve.sweep > 0 ? 'left' : 'right' });
    }
    const before = stretches[i - 1];
    const rounded = id.endsWith('.fillet');
    if (before && (rounded || before.patch.endsWith('.fillet') || tangent.has(id)) && (curve.kind === 'arc' || before.curve.kind === 'arc'))
      say('tangent', ...(curve.kind === 'line' ? ([id, before.patch] as const) : ([before.patch, id] as const)));
    if (rounded && curve.kind === 'arc') say('radius', id, undefined, Math.round(curve.radius * 1e6) / 1e6);
    if (curve.b[0] < 1e-9) say('coincident', b, AXIS.line);
  }
  points[0].fixed = true;
  return { points: [...axis.points, ...points], curves: [...axis.curves, ...curves], constraints };
}
