import { fieldName } from '../pipeline/field-names';

/** What a run was set to and what it came to. */
export interface Tried {
  /** The piece it is of; where two differ in it, no setting is the only cause. */
  assetId?: string;
  settings: Record<string, unknown>;
  figures: Record<string, number | string>;
}

/** A name, and what each of the runs has of it, in their order. */
export type Row = [key: string, ...values: unknown[]];

/** The one run that would tell causes apart: that of `from`, with one setting as `like` has it. Places among the runs compared. */
export interface Proposal {
  from: number;
  like: number;
  key: string;
  value: unknown;
  settings: Record<string, unknown>;
}

export interface Comparison {
  settings: Row[];
  figures: Row[];
  sentence: string;
  wouldTell: Proposal | null;
}

/** Says what state something was in rather than what was set: nobody can set it for a run. */
const STATES: ReadonlySet<string> = new Set(['materials', 'placed', 'lockedIslands', 'chosenWays', 'layers', 'leftOut']);

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
/** Names in any of some, those of the first in its order. */
const namesIn = (list: readonly object[]): string[] => [...new Set(list.flatMap((x) => Object.keys(x)))];

/** Names of the settings in which two runs differ. */
export const differing = (a: Tried, b: Tried): string[] =>
  namesIn([a.settings, b.settings]).filter((k) => !same(a.settings[k], b.settings[k]));

/** Whether one can come from every run to every other by changing one setting at a time. */
function stepwise(runs: readonly Tried[]): boolean {
  const reached = new Set([0]);
  for (const i of reached) for (const [j, r] of runs.entries()) if (differing(runs[i], r).length <= 1) reached.add(j);
  return reached.size === runs.length;
}

/**
 * The run that would tell two runs apart which differ in several settings: the one's, with one setting of the other's. Of all pairs that
 * differ in several, the pair that differs in the fewest.
 */
function proposal(runs: readonly Tried[]): Proposal | null {
  let best: { from: number; like: number; keys: string[] } | null = null;
  for (let i = 0; i < runs.length; i++)
    for (let j = i + 1; j < runs.length; j++) {
      const keys = differing(runs[i], runs[j]);
      if (keys.length > 1 && (!best || keys.length < best.keys.length)) best = { from: i, like: j, keys };
    }
  const key = best?.keys.find((k) => !STATES.has(k) && runs[best.like].settings[k] !== undefined);
  if (!best || key === undefined) return null;
  const { from, like } = best;
  const value = runs[like].settings[key];
  return { from, like, key, value, settings: { ...runs[from].settings, [key]: value } };
}

const quoted = (keys: readonly string[]): string => {
  const names = keys.map((k) => `“${fieldName(k)}”`);
  return names.length < 2 ? names.join() : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
};

/**
 * Two runs or more side by side: the settings that differ, every figure, whether the cause can be told from them, and where it can’t,
 * the one run that would tell.
 */
export function compareRuns(runs: readonly Tried[]): Comparison {
  const row = (k: string, of: readonly Record<string, unknown>[]): Row => [k, ...of.map((x) => x[k])];
  const all = { settings: runs.map((r) => r.settings), figures: runs.map((r) => r.figures) };
  const settings = namesIn(all.settings)
    .map((k) => row(k, all.settings))
    .filter(([, first, ...rest]) => rest.some((v) => !same(first, v)));
  // What is set and comes out as it was set is told once.
  const isToldAlready = (k: string) => runs.every((r) => k in r.settings && same(r.settings[k], r.figures[k]));
  const figures = namesIn(all.figures)
    .filter((k) => !isToldAlready(k))
    .map((k) => row(k, all.figures));
  const pieces = new Set(runs.map((r) => r.assetId)).size;
  const told = settings.length <= 1 || (runs.length > 2 && stepwise(runs));
  const keys = settings.map(([k]) => k);
  if (pieces > 1)
    return {
      settings,
      figures,
      sentence: `They are of ${pieces} pieces${settings.length > 0 ? `, and ${settings.length === 1 ? 'a setting differs' : `${settings.length} settings differ`} besides` : ''}: what differs can come from the piece itself.`,
      wouldTell: null,
    };
  const sentence =
    settings.length === 0
      ? 'The settings are the same; what differs came from the piece itself.'
      : settings.length === 1
        ? `Only ${quoted(keys)} was changed, so the difference is due to it.`
        : told
          ? `${quoted(keys)} were changed one at a time, so it can be told what each of them did.`
          : `${settings.length} settings differ, so it can’t be told which of them made the difference.`;
  return { settings, figures, sentence, wouldTell: told ? null : proposal(runs) };
}

/** Whether a run is the one that was proposed: every setting that both know is the same. */
export const isProposed = (proposed: Pick<Proposal, 'settings'>, run: Tried): boolean =>
  differing({ ...run, ...proposed }, run).length === 0;
