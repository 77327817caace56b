import { FormError } from '../errors';
import { figure } from '../units/lengths';
import { pointAt } from './curves';
import { outlineOf } from './profile';
import { drawnOf, type TurnedStep } from './steps/turned';

/**
 * What a turned, walled vessel holds to its brim, ml: the volume inside its inner line, by the disk rule ∫πr²dy with
 * Gauss–Legendre points on each curve (exact for lines, to rounding for arcs).
 *
 * @throws FormError when the step can't be built or has no inside
 */
export function capacityOf(step: TurnedStep): number {
  if (step.body !== 'wall') throw new FormError('capacity/open', `“${step.name}” has no wall, so it holds nothing.`);
  const { stretches } = outlineOf(drawnOf(step), { body: 'wall', wall: step.wall, drawnIs: step.drawnIs });
  let mm3 = 0;
  for (const s of stretches) {
    if (!s.patch.endsWith(' inside')) continue;
    // The inside runs from the rim down: dy is negative there.
    const points = s.curve.kind === 'line' ? 1 : Math.max(2, Math.ceil(Math.abs(s.curve.sweep) * 8));
    for (let i = 0; i < points; i++)
      for (const [x, w] of GAUSS) {
        const at = (t: number) => pointAt(s.curve, (i + t) / points);
        const h = 1e-4;
        const slope = (at(x + h)[1] - at(x - h)[1]) / (2 * h);
        mm3 -= Math.PI * at(x)[0] ** 2 * slope * w;
      }
  }
  return mm3 / 1000;
}
/** Three points on 0…1: exact to degree five. */
const GAUSS: readonly [number, number][] = [
  [0.5 - Math.sqrt(0.15), 5 / 18],
  [0.5, 8 / 18],
  [0.5 + Math.sqrt(0.15), 5 / 18],
];

/** What grows so that a vessel holds what is wanted. */
export type Growth = 'height' | 'width' | 'both';

/**
 * The step with its profile stretched so that it holds `ml` to the brim; its wall stays as thick as it is.
 *
 * @throws FormError `capacity/fit` when no size between a tenth and ten times the present one does
 */
export function fitCapacity(step: TurnedStep, ml: number, growth: Growth): TurnedStep {
  if (step.sketch) throw new FormError('capacity/sketch', `“${step.name}” is drawn by a sketch; set its dimensions there.`);
  if (!(ml > 0)) throw new FormError('capacity/ml', 'A vessel has to hold more than 0 ml.');
  const grown = (k: number): TurnedStep => {
    const [r, y] = [growth === 'height' ? 1 : k, growth === 'width' ? 1 : k];
    const tidy = (x: number) => Math.round(x * 1e6) / 1e6;
    return {
      ...step,
      profile: {
        points: step.profile.points.map((p) => ({ ...p, r: tidy(p.r * r), y: tidy(p.y * y) })),
        segments: step.profile.segments.map((s) => (s.bulge === undefined ? s : { ...s, bulge: tidy(s.bulge * Math.sqrt(r * y)) })),
      },
    };
  };
  const holds = (k: number): number => {
    try {
      return capacityOf(grown(k));
    } catch (error) {
      if (error instanceof FormError) return Number.NaN;
      throw error;
    }
  };
  let [low, high] = [0.1, 10];
  while (Number.isNaN(holds(low)) && low < 1) low *= 1.15;
  while (Number.isNaN(holds(high)) && high > 1) high /= 1.15;
  if (!(holds(low) <= ml && holds(high) >= ml))
    throw new FormError(
      'capacity/fit',
      `“${step.name}” can’t be stretched to hold ${figure(ml, 0)} ml; it holds ${figure(capacityOf(step), 1)} ml now.`,
    );
  for (let i = 0; i < 60; i++) {
    const k = (low + high) / 2;
    if (holds(k) < ml) low = k;
    else high = k;
  }
  return grown((low + high) / 2);
}
