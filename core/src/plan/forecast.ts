import { deviation, fitLine, mean, studentQuantile } from '../maths/statistics';

/** Stages that time is spent on, in order. */
export const PLANNED = ['brief', 'form', 'unwrap', 'bake', 'surface', 'light', 'render', 'hand-off'] as const;
export type PlannedStage = (typeof PLANNED)[number];

/** A stage of a piece that was finished: what it took, and how large the piece was. */
export interface Done {
  stage: PlannedStage;
  minutes: number;
  parts: number;
  sizeMm: number | null;
}

/** What is expected of a stage, minutes; four of five lie between `low` and `high`. */
export interface Forecast {
  minutes: number;
  low: number;
  high: number;
  /** How many finished ones it is learned from; below {@link LEARNED_FROM} it is the default, moved towards what they took. */
  runs: number;
  by: 'default' | 'median' | 'parts' | 'size';
}

/** So many finished ones make a forecast of their own. */
export const LEARNED_FROM = 5;
const SHARE = 0.8;
/** Least spread that is believed, as a factor: two runs that took the same to the second don’t make a law of nature. */
const LEAST_SPREAD = Math.log(1.1);

/**
 * Minutes of work before anything is known, for a piece of so many parts. A first guess of ours, common practice at best, no source; it is
 * said to be one wherever it is shown.
 */
export function defaultMinutes(stage: PlannedStage, parts: number): number {
  const more = Math.max(0, parts - 1);
  switch (stage) {
    case 'brief':
      return 10;
    case 'form':
      return 30 + 12 * more;
    case 'unwrap':
      return 20 + 4 * more;
    case 'bake':
      return 15 + 2 * more;
    case 'surface':
      return 45 + 8 * more;
    case 'light':
      return 25;
    case 'render':
      return 10;
    case 'hand-off':
      return 15;
  }
}
/** A guess is right within a factor of two, four times of five. */
const GUESS = Math.log(2);

/**
 * How long a stage of a piece will take: from the logarithms of what finished ones took, by Student’s t for the next one. Where their number
 * of parts, or their size, explains the times significantly (|t| above 95 %), along that line; else by their mean, which for minutes is the
 * median. Being a mean of the times themselves it has no bias to correct; a default has, and is moved towards the truth by each finished
 * one, by n/(n + 2).
 *
 * @param first minutes that are expected before anything is known
 */
export function forecast(
  done: readonly Pick<Done, 'minutes' | 'parts' | 'sizeMm'>[],
  piece: Pick<Done, 'parts' | 'sizeMm'>,
  first: (parts: number) => number,
): Forecast {
  const known = done.filter((d) => d.minutes > 0);
  const n = known.length;
  const logs = known.map((d) => Math.log(d.minutes));
  const of = (log: number, half: number, by: Forecast['by']): Forecast => ({
    minutes: Math.exp(log),
    low: Math.exp(log - half),
    high: Math.exp(log + half),
    runs: n,
    by,
  });
  if (n < LEARNED_FROM) {
    const off = n === 0 ? 0 : mean(known.map((d) => Math.log(d.minutes / first(d.parts))));
    return of(Math.log(first(piece.parts)) + (n / (n + 2)) * off, GUESS, 'default');
  }
  // A line needs more than a mean does before it is better than one.
  if (n >= LEARNED_FROM + 3)
    for (const by of ['parts', 'size'] as const) {
      const x = known.map((d) => Math.log(by === 'parts' ? d.parts : (d.sizeMm ?? 0)));
      const at = Math.log(by === 'parts' ? piece.parts : (piece.sizeMm ?? 0));
      if (![...x, at].every(Number.isFinite) || new Set(x).size < 3) continue;
      const line = fitLine(x, logs);
      if (line.spread > 0 && Math.abs(line.slope / line.slopeError) < studentQuantile(0.975, n - 2)) continue;
      // Not carried further than finished ones reach: beyond them a line is a guess.
      const within = Math.min(Math.max(at, Math.min(...x)), Math.max(...x));
      const t = studentQuantile(0.5 + SHARE / 2, n - 2);
      const half = t * Math.max(line.spread, LEAST_SPREAD) * Math.sqrt(1 + 1 / n + (within - line.meanX) ** 2 / line.sxx);
      return of(line.intercept + line.slope * within, half, by);
    }
  const half = studentQuantile(0.5 + SHARE / 2, n - 1) * Math.max(deviation(logs), LEAST_SPREAD) * Math.sqrt(1 + 1 / n);
  return of(mean(logs), half, 'median');
}

/** What a forecast says of itself. */
export function learnedFrom({ runs, by }: Forecast): string {
  if (by === 'default') return runs === 0 ? 'a first guess: none was finished yet' : `a first guess, moved by ${runs} finished`;
  return `from ${runs} finished${by === 'parts' ? ', by their parts' : by === 'size' ? ', by their size' : ''}`;
}
