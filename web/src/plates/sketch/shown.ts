import { AXIS } from '@wellmorph/core/form/sketch/convert';
import type { Sketch, SketchCurve } from '@wellmorph/core/form/sketch/sketch';

/** Whether a feature stands in a curve's place: it is gone, ends elsewhere, or only guides now. */
export function replaced(made: Sketch, k: SketchCurve): boolean {
  const now = made.curves.find((c) => c.id === k.id);
  return !now || (!k.guide && now.guide === true) || isMade({ ...made, curves: [k] }, now);
}
/** Whether a curve is none of those that were drawn, or ends elsewhere than it was. */
export function isMade(drawn: Sketch, k: SketchCurve): boolean {
  const was = drawn.curves.find((c) => c.id === k.id);
  const other = (now: string | undefined, then: string | undefined) => now !== then && !together(drawn, now, then);
  return !was || other(k.a, was.a) || other(k.b, was.b);
}
const together = (sketch: Sketch, a: string | undefined, b: string | undefined): boolean =>
  sketch.constraints.some((x) => x.kind === 'coincident' && ((x.one === a && x.two === b) || (x.one === b && x.two === a)));

export const isCentre = (sketch: Sketch, point: string): boolean => sketch.curves.some((k) => k.centre === point);

/** What of the drawing has to be seen, mm. */
export function extentOf(sketch: Sketch, turned: boolean) {
  const points = sketch.points.filter((p) => !(turned && p.id === AXIS.top));
  const circles = sketch.curves.flatMap((k) => {
    const m = sketch.points.find((p) => p.id === k.centre);
    return k.kind === 'circle' && m
      ? [
          { x: m.x - (k.radius ?? 0), y: m.y - (k.radius ?? 0) },
          { x: m.x + (k.radius ?? 0), y: m.y + (k.radius ?? 0) },
        ]
      : [];
  });
  const all = [...points, ...circles];
  if (all.length < 2) return turned ? { x0: 0, x1: 60, y0: 0, y1: 80 } : { x0: -40, x1: 40, y0: -40, y1: 40 };
  return {
    x0: Math.min(...all.map((p) => p.x)),
    x1: Math.max(...all.map((p) => p.x)),
    y0: Math.min(...all.map((p) => p.y)),
    y1: Math.max(...all.map((p) => p.y)),
  };
}
