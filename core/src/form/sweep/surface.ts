import { FormError } from '../../errors';
import { add, cross, normalise, scale, sub, type Vec3 } from '../../maths/vec3';
import { millimetres } from '../../units/lengths';
import type { Point2 } from '../curves';
import { type Path, type Track, trackOf } from '../path';
import type { Sketch } from '../sketch/sketch';
import { shares, throughValues } from './blend';
import { type Sections, sectionsOf } from './sections';

/** What a sweep is swept of. Lengths in mm, along the path. */
export interface Sweeping extends Path {
  /** Sections square to the path: across and up, seen against the way it runs. */
  stations: readonly { id: string; at: number; sketch: Sketch }[];
  blend?: 'smooth' | 'straight';
  /** Turn about the path, degrees, left seen against the way it runs. */
  turns?: readonly { at: number; degrees: number }[];
  /** Shares of the drawn sizes, per cent. */
  sizes?: readonly { at: number; across: number; up: number }[];
}

/** The exact surface of a sweep: s mm along the path, t the share through the section. */
export interface Surface {
  long: number;
  sections: Sections;
  track: Track;
  /** Where sections stand, ascending. */
  stations: readonly number[];
  /** All places along at which something was said: sections, twists, sizes. */
  marks: readonly number[];
  at(s: number, t: number): Vec3;
  /** The section at s, to be asked for many places of it. */
  row(s: number): (t: number) => Vec3;
  /** Unit, towards the section’s up where it lies level. */
  normal(s: number, t: number): Vec3;
}

/** Stations and values nearer than this are in the same place, mm. */
const SAME = 0.01;

/** @throws FormError `path/…`, `sweep/…` in one sentence naming the curve, section or place */
export function surfaceOf(step: Sweeping): Surface {
  const track = trackOf(step);
  const { long } = track;
  const sorted = [...step.stations].sort((a, b) => a.at - b.at);
  for (const [i, s] of sorted.entries()) {
    if (s.at > long + SAME)
      throw new FormError(
        'sweep/station',
        `A section of “${step.name}” stands ${millimetres(s.at)} along its path, which is ${millimetres(long)} long.`,
        { atMm: s.at, longMm: long },
      );
    if (i > 0 && s.at - sorted[i - 1].at < SAME)
      throw new FormError('sweep/station', `Two sections of “${step.name}” stand ${millimetres(s.at)} along its path; one place has one.`);
  }
  const sections = sectionsOf(
    sorted.map((s) => s.sketch),
    step.name,
  );
  const stations = sorted.map((s) => Math.min(s.at, long));
  const weights = shares(stations, step.blend ?? 'smooth', [
    stations[0] > SAME ? 'held' : 'free',
    stations[stations.length - 1] < long - SAME ? 'held' : 'free',
  ]);
  const turn = valuesAlong(step.turns, (v) => (v.degrees * Math.PI) / 180, 0, 'turns', step.name);
  const wide = valuesAlong(step.sizes, (v) => v.across / 100, 1, 'sizes', step.name);
  const high = valuesAlong(step.sizes, (v) => v.up / 100, 1, 'sizes', step.name);
  const row = (s: number): ((t: number) => Vec3) => {
    const rider = track.at(s);
    const w = weights(s);
    const [c, d] = [Math.cos(turn(s)), Math.sin(turn(s))];
    const across = scale(add(scale(rider.across, c), scale(rider.up, d)), wide(s));
    const up = scale(add(scale(rider.up, c), scale(rider.across, -d)), high(s));
    const used = w.map((share, k) => ({ share, curve: sections.curves[k] })).filter((x) => x.share !== 0);
    return (t) => {
      let [x, y] = [0, 0];
      for (const { share, curve } of used) {
        const p: Point2 = curve(t);
        x += share * p[0];
        y += share * p[1];
      }
      return [
        rider.point[0] + x * across[0] + y * up[0],
        rider.point[1] + x * across[1] + y * up[1],
        rider.point[2] + x * across[2] + y * up[2],
      ];
    };
  };
  const h = long * 1e-5;
  return {
    long,
    sections,
    track,
    stations,
    marks: [...stations, ...(step.turns ?? []).map((v) => v.at), ...(step.sizes ?? []).map((v) => v.at)].filter((s) => s <= long),
    row,
    at: (s, t) => row(s)(t),
    normal(s, t) {
      const along = sub(row(s + h)(t), row(s - h)(t));
      const here = row(s);
      return normalise(cross(along, sub(here(t + FINE), here(t - FINE))));
    },
  };
}
const FINE = 1e-5;

function valuesAlong<T extends { at: number }>(
  list: readonly T[] | undefined,
  of: (v: T) => number,
  none: number,
  what: string,
  step: string,
): (s: number) => number {
  if (!list || list.length === 0) return () => none;
  const sorted = [...list].sort((a, b) => a.at - b.at);
  const twice = sorted.find((v, i) => i > 0 && v.at - sorted[i - 1].at < SAME);
  if (twice)
    throw new FormError('sweep/values', `Two ${what} of “${step}” stand ${millimetres(twice.at)} along its path; one place has one.`);
  return throughValues(
    sorted.map((v) => v.at),
    sorted.map(of),
  );
}

/** What is said where the sections reach beyond what their path bends round. */
export function foldAt(surface: Surface, s: number, step: string): FormError {
  const { pieces } = surface.track;
  const piece = pieces.find((p) => s < p.end) ?? pieces[pieces.length - 1];
  return new FormError(
    'sweep/fold',
    `“${step}” folds over itself ${millimetres(s, 1)} along its path: its sections reach beyond the middle that “${piece.name}” bends round.`,
  );
}
