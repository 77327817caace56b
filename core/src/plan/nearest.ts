import type { Tried } from './compare';

/** What a piece is like, as far as it says which other pieces its runs can be of use to. */
export interface About {
  /** Its longest side, mm; null before it is formed. */
  sizeMm: number | null;
  parts: number;
  triangles: number | null;
  /** Names of its materials. */
  materials: string[];
  roles: string[];
  /** Its rig’s name, and the kinds of steps its parts are made by; for lessons, absent of runs from before they were kept. */
  rig?: string;
  steps?: string[];
}

/** A run that somebody judged, and the piece it is of. */
export interface Judged extends Tried {
  asset: string;
  stage: string;
  kept: boolean;
  about: About;
}

/** Share of names that two lists have in common: Jaccard’s index; 1 of two empty lists. */
function shared(a: readonly string[], b: readonly string[]): number {
  const all = new Set([...a, ...b]);
  return all.size === 0 ? 1 : a.filter((x, i) => b.includes(x) && a.indexOf(x) === i).length / all.size;
}
/** How many powers of ten two figures are apart; 1 where one is not known. */
const apart = (a: number | null, b: number | null): number => (a && b ? Math.abs(Math.log10(a / b)) : a === b ? 0 : 1);

/**
 * How unlike two pieces are: powers of ten of their sizes, half those of their parts and triangles, the materials that only one has, and
 * half the roles. 0: alike in all of it.
 */
export const unlikeness = (a: About, b: About): number =>
  apart(a.sizeMm, b.sizeMm) +
  0.5 * apart(a.parts, b.parts) +
  0.5 * apart(a.triangles, b.triangles) +
  (1 - shared(a.materials, b.materials)) +
  0.5 * (1 - shared(a.roles, b.roles));

/** The nearest of some runs, nearest first; equal ones as they come. */
export function nearest<T extends { about: About }>(to: About, runs: readonly T[], count: number): T[] {
  return runs
    .map((run) => ({ run, d: unlikeness(to, run.about) }))
    .sort((a, b) => a.d - b.d)
    .slice(0, count)
    .map((x) => x.run);
}

/** A setting that did well on the nearest pieces. */
export interface Suggestion {
  key: string;
  value: unknown;
  kept: number;
  of: number;
  /** On how many pieces. */
  pieces: number;
  /** The evidence, in words. */
  sentence: string;
}

/** Runs that are looked at, at most. */
const LOOKED_AT = 24;

/**
 * What the nearest judged runs of a stage on other pieces suggest: of each setting the value that was kept most, if it was kept more
 * often than not, with how often that was.
 *
 * @param keys settings that may be suggested
 * @param now what is set, so that nothing is suggested that is so already
 */
export function suggestions(
  to: About,
  stage: string,
  runs: readonly Judged[],
  keys: readonly string[],
  now: Record<string, unknown>,
): Suggestion[] {
  const near = nearest(
    to,
    runs.filter((r) => r.stage === stage),
    LOOKED_AT,
  );
  return keys.flatMap((key) => {
    const tried = new Map<string, Judged[]>();
    for (const r of near) {
      if (r.settings[key] === undefined) continue;
      const value = JSON.stringify(r.settings[key]);
      tried.set(value, [...(tried.get(value) ?? []), r]);
    }
    const best = [...tried.entries()]
      .map(([value, of]) => ({ value, of, kept: of.filter((r) => r.kept).length }))
      .sort((a, b) => b.kept - a.kept || a.of.length - b.of.length)[0];
    if (!best || 2 * best.kept <= best.of.length || best.value === JSON.stringify(now[key])) return [];
    const pieces = new Set(best.of.map((r) => r.asset)).size;
    return [
      {
        key,
        value: JSON.parse(best.value),
        kept: best.kept,
        of: best.of.length,
        pieces,
        sentence: evidence(best.kept, best.of.length, pieces),
      },
    ];
  });
}

/** How often something was kept; a few runs are called a few. */
function evidence(kept: number, of: number, pieces: number): string {
  const on = `on ${pieces === 1 ? 'one piece' : `${pieces} pieces`}`;
  if (of === 1) return `kept the one time it was tried, ${on}`;
  if (of === 2) return kept === 2 ? `two runs, both kept, ${on}` : `two runs, one kept, ${on}`;
  return `kept ${kept} of ${of} times, ${on}`;
}
