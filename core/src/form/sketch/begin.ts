import { FormError } from '../../errors';
import { millimetres } from '../../units/lengths';
import { curveLength, type Point2, pointAt } from '../curves';
import { curveIn } from './chains';
import { freshId } from './cutting';
import { FEATURE_NAMES, teethOf, withFeatures } from './features';
import type { FeatureKind, Sketch, SketchCurve, SketchFeature } from './sketch';
import { solveSketch } from './solve';

/** What a choice of points and curves comes to, in the order they were chosen. */
interface Choice {
  points: string[];
  curves: SketchCurve[];
}
function choiceOf(sketch: Sketch, chosen: readonly string[]): Choice {
  return {
    points: chosen.filter((x) => sketch.points.some((p) => p.id === x)),
    curves: chosen.flatMap((x) => sketch.curves.filter((c) => c.id === x)),
  };
}
const isCorner = (sketch: Sketch, id: string): boolean =>
  sketch.curves.filter((c) => !c.guide && c.kind !== 'circle' && (c.a === id || c.b === id)).length === 2;

/** What can be made of what is chosen. @param sketch with what its features made already: more can be made of that */
export function featuresFor(sketch: Sketch, chosen: readonly string[]): FeatureKind[] {
  const { points, curves } = choiceOf(sketch, chosen);
  if (chosen.length === 0 || points.length + curves.length !== chosen.length) return [];
  if (curves.length === 0) return points.every((p) => isCorner(sketch, p)) ? ['round', 'chamfer'] : [];
  if (points.length === 1) return ['ring'];
  if (points.length > 1) return [];
  const drawn = curves.filter((c) => !c.guide);
  const last = curves[curves.length - 1];
  return [
    ...(drawn.length === curves.length && curves.every((c) => c.kind !== 'circle') ? (['teeth'] as const) : []),
    ...(drawn.length === curves.length ? (['offset', 'row'] as const) : []),
    ...(curves.length > 1 && last.kind === 'line' ? (['mirror'] as const) : []),
  ];
}

/**
 * A sketch with a feature more, of a size that fits.
 *
 * @throws FormError `sketch/feature` when none fits
 */
export function beginFeature(sketch: Sketch, kind: FeatureKind, chosen: readonly string[]): { sketch: Sketch; id: string } {
  const solved = solveSketch(sketch).sketch;
  const settled = withFeatures(solved, '');
  const { points, curves } = choiceOf(settled, chosen);
  const id = freshId(sketch, 'f');
  const reach = boxOf(settled, curves.length > 0 ? curves : settled.curves);
  const size = Math.max(reach.wide, reach.high, 1);
  const tidy = (mm: number) => Number(mm.toPrecision(2));
  const ids = (list: readonly { id: string }[]) => list.map((c) => c.id).join(' ');
  const shared = { id, kind, of: ids(curves) };
  const made: SketchFeature = (() => {
    switch (kind) {
      case 'round':
      case 'chamfer':
        return { id, kind, of: points.join(' '), mm: tidy(size / 12) };
      case 'teeth': {
        const pitch = tidy(curveLength(curveIn(settled, settled.curves.find((c) => c.id === curves[0].id) as SketchCurve, true)) / 12);
        return { ...shared, pitch, mm: tidy(pitch / 2.5), degrees: 60, side: 'right' };
      }
      case 'offset':
        return { ...shared, mm: tidy(size / 12), side: 'left', keeps: 'beside', corners: 'round' };
      case 'row':
        return { ...shared, count: 3, dx: tidy(reach.wide * 1.5 || size), dy: 0 };
      case 'ring':
        return { ...shared, about: points[0], count: 6, degrees: 360 };
      case 'mirror':
        return { ...shared, of: ids(curves.slice(0, -1)), about: curves[curves.length - 1].id };
    }
  })();
  // What doesn't fit is tried smaller, down to a sixty-fourth.
  for (let tries = 0; ; tries++) {
    const mm = made.mm === undefined ? undefined : made.mm / 2 ** tries;
    const next: Sketch = { ...sketch, features: [...(sketch.features ?? []), { ...made, ...(mm !== undefined && { mm: tidy(mm) }) }] };
    try {
      withFeatures({ ...solved, features: next.features }, '');
      return { sketch: next, id };
    } catch (error) {
      if (!(error instanceof FormError) || mm === undefined || tries >= 6) throw error;
    }
  }
}

function boxOf(sketch: Sketch, curves: readonly SketchCurve[]): { wide: number; high: number } {
  const places = curves.flatMap((own): Point2[] => {
    const c = sketch.curves.find((x) => x.id === own.id) ?? own;
    if (c.kind !== 'circle') return Array.from({ length: 9 }, (_, k) => pointAt(curveIn(sketch, c, true), k / 8));
    const m = sketch.points.find((p) => p.id === c.centre);
    const r = c.radius ?? 1;
    return m
      ? [
          [m.x - r, m.y - r],
          [m.x + r, m.y + r],
        ]
      : [];
  });
  if (places.length === 0) return { wide: 0, high: 0 };
  const span = (k: 0 | 1) => Math.max(...places.map((p) => p[k])) - Math.min(...places.map((p) => p[k]));
  return { wide: span(0), high: span(1) };
}

/** A feature in a few words: `A row of teeth on “foot”`. */
export function featureWords(sketch: Sketch, f: SketchFeature): string {
  const ids = f.of.split(' ').filter((x) => x !== '');
  const name = (id: string): string => {
    const c = sketch.curves.find((x) => x.id === id);
    if (c) return `“${c.name}”`;
    const i = sketch.points.findIndex((p) => p.id === id);
    return i < 0 ? 'what another feature made' : `point ${i + 1}`;
  };
  const said =
    ids.length > 2 ? `${ids.length} ${sketch.points.some((p) => p.id === ids[0]) ? 'corners' : 'curves'}` : ids.map(name).join(' and ');
  const along = f.kind === 'teeth' && sketch.curves.find((c) => c.id === ids[0] && c.kind !== 'circle');
  const teeth = along ? teethOf(curveLength(curveIn(sketch, along, true)), f) : undefined;
  return `${FEATURE_NAMES[f.kind]}: ${said}${f.about ? `, about ${name(f.about)}` : ''}${teeth ? `, ${teeth.count} at ${millimetres(teeth.pitch, 2)}` : ''}`;
}
