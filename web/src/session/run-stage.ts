import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { labelledText, unlabelled } from '@wellmorph/core/pipeline/labels';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { inputsOf, type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import type { NewTrial } from '@/server/db/trials';
import { type Pool, WorkError } from '@/workers/pool';
import type { Bytes, Kind, Meshes, Work } from '@/workers/protocol';
import type { BlobCache } from './blobs';
import type { FiguresOf, Views } from './kept';
import type { Pace } from './pace';
import type { ResultStore } from './results';
import type { Growing } from './state';

/** What every run needs of the page: workers, files, results. Nothing of it belongs to one asset. */
export interface Tools {
  pool: Pool;
  blobs: BlobCache;
  results: ResultStore;
  /** How fast this machine was found to be. */
  pace: Pace;
}

/** A piece of long work: what it is about never changes under it, and it can be stopped. */
export interface Run {
  /** The document as it was when it began, with its labels. */
  readonly document: AssetDocument;
  /** The piece itself, where that is looked at as a variant: what its card is a picture of. */
  readonly piece?: AssetDocument;
  report(share: number, words: string): void;
  /** Set to 1, it stops every worker that was handed it. */
  cancel: Int32Array;
  /** The same for requests. */
  signal?: AbortSignal;
  /** Shows a picture as it grows; not kept. */
  growing?(picture: Growing): void;
  /** Seconds it was thought to take when it was asked for. */
  forecastSeconds?: number;
  /** Told how long making it took, s; not where it was there already. */
  took?(seconds: number): void;
}

/** What a task is handed. */
export interface Making extends Tools {
  /** The document without labels: what comes of it may be kept. */
  document: AssetDocument;
  run: Run;
  /** A result that it stands on. @throws WorkError when the document names none of that kind */
  input(kind: Kept): StoredResult;
  /** Whether it stands on one of that kind. */
  has(kind: Kept): boolean;
  /** The stored meshes of the low or the high parts. */
  meshes(which: 'low' | 'high' | 'both'): Promise<Meshes>;
  report(share: number, words: string): void;
  work<K extends Kind>(kind: K, ask: Work[K]['ask'], from?: number, to?: number): Promise<Work[K]['answer']>;
}

/** A file of a result as it was made, and what kind of file it is. */
export type MadeFile = { bytes: Bytes | string; kind: 'parts' | 'png' | 'svg' | 'exr' };
export interface Made<K extends Kept> {
  figures: FiguresOf[K];
  files: Record<string, MadeFile | null>;
  /** Other kinds that came with it, kept under the names of the same document. */
  also?: { [O in Kept]?: FiguresOf[O] };
  /** What would have to be worked out again to show it. */
  shown?: Partial<Views[K]>;
  /** What is kept of it as an attempt; without it none is. */
  trial?: Pick<NewTrial, 'title' | 'settings' | 'figures' | 'forecastSeconds'> & {
    /** Which of the files is its picture; the piece’s own when absent. */
    picture?: string;
  };
}

/** A kind of result: how it is made from what it stands on, and how it is shown. One for each; forgetting one does not compile. */
export interface StageTask<K extends Kept> {
  make(making: Making): Promise<Made<K>>;
  /** The result as the sheet shows it. */
  view(result: StoredResult, tools: Tools, shown?: Partial<Views[K]>): Promise<Views[K]>;
}
export type StageTasks = { [K in Kept]: StageTask<K> };

/** What is told of a run as results come. */
export interface Told {
  made(kind: Kept, result: StoredResult, shown: unknown): Promise<void> | void;
  trial(kind: Kept, trial: NonNullable<Made<Kept>['trial']>, result: StoredResult, milliseconds: number): Promise<void>;
}

/** The stored meshes an asset’s low or high parts need. */
export async function meshesOf(document: AssetDocument, which: 'low' | 'high' | 'both' | 'all', blobs: BlobCache): Promise<Meshes> {
  const names = new Set<string>();
  for (const p of document.parts) {
    if (which !== 'high' && p.shape.kind === 'mesh') names.add(p.shape.low.blob);
    if (which !== 'low' && p.high) names.add(p.high.blob);
  }
  // Dense meshes that are not paired yet, too.
  if (which === 'all') for (const h of document.highParts) names.add(h.blob);
  return Object.fromEntries(await Promise.all([...names].map(async (n) => [n, await blobs.shared(n)] as const)));
}

/** About how long each kind takes beside the others, for one progress over several. */
const WEIGHT: Record<Kept, number> = { form: 1, findings: 1, look: 3, unwrap: 2, bake: 10, surface: 4, gather: 6, project: 4, render: 30 };
const DOING: Record<Kept, string> = {
  form: 'forming',
  findings: 'inspecting',
  look: 'looking closely',
  unwrap: 'unwrapping',
  bake: 'baking',
  surface: 'composing',
  gather: 'gathering',
  project: 'laying photographs on',
  render: 'rendering',
};

/**
 * The result of a stage for the document a run began with. What is kept under its name is taken; else what it stands on is made in turn,
 * always by the same name, and then it. It is kept under that name, whatever has become of the document since.
 *
 * @throws WorkError in one sentence
 */
export async function runStage(run: Run, kind: Kept, tools: Tools, tasks: StageTasks, told: Told): Promise<StoredResult> {
  const found = new Map<Kept, StoredResult>();
  const missing: Kept[] = [];
  const look = async (k: Kept): Promise<void> => {
    if (found.has(k) || missing.includes(k)) return;
    const known = await tools.results.named(nameOf(run.document, k));
    if (known) found.set(k, known);
    else {
      for (const input of inputsOf(run.document, k)) if (input) await look(input);
      if (!missing.includes(k)) missing.push(k);
    }
  };
  await look(kind);
  const way = `way ${missing.join(' ')}`;
  const parts = tools.pace.parts(
    way,
    missing.map((k) => WEIGHT[k]),
  );
  const took: number[] = [];
  for (const [i, k] of missing.entries()) {
    const [from, to] = parts[i];
    const started = performance.now();
    // What it stands on may have been found only further down.
    for (const input of inputsOf(run.document, k)) if (input && !found.has(input)) await look(input);
    found.set(
      k,
      await makeStage(
        k,
        found,
        run,
        (share, words) => run.report(from + (to - from) * share, k === kind ? words : `${DOING[k]}: ${words}`),
        tools,
        tasks,
        told,
      ),
    );
    took.push((performance.now() - started) / 1000);
  }
  tools.pace.learnParts(way, took);
  const result = found.get(kind) as StoredResult;
  if (missing.length === 0) await told.made(kind, result, undefined);
  return result;
}

async function makeStage(
  kind: Kept,
  found: ReadonlyMap<Kept, StoredResult>,
  run: Run,
  report: Run['report'],
  tools: Tools,
  tasks: StageTasks,
  told: Told,
): Promise<StoredResult> {
  const document = unlabelled(run.document);
  const kinds = inputsOf(document, kind);
  const started = performance.now();
  const labelledReport: Run['report'] = (share, words) => report(share, labelledText(words, run.document));
  const making: Making = {
    ...toolsOf(tools),
    document,
    run,
    report: labelledReport,
    has: (k) => kinds.includes(k),
    input(k) {
      const result = kinds.includes(k) ? found.get(k) : undefined;
      if (!result) throw new WorkError('stage/input', 'What this is made from is missing.');
      return result;
    },
    meshes: (which) => meshesOf(document, which, tools.blobs),
    work: (what, ask, from = 0, to = 1) => tools.pool.run(what, ask, (s, w) => labelledReport(from + (to - from) * s, w), run.cancel),
  };
  try {
    const made = (await tasks[kind].make(making)) as Made<Kept>;
    const stored = await keep(kind, nameOf(run.document, kind), kinds, run.document, made, tools);
    await told.made(kind, stored, made.shown);
    if (made.trial) await told.trial(kind, made.trial, stored, Math.round(performance.now() - started));
    return stored;
  } catch (error) {
    if (error instanceof WorkError) throw new WorkError(error.code, labelledText(error.message, run.document));
    throw error;
  }
}

const toolsOf = ({ pool, blobs, results, pace }: Tools): Tools => ({ pool, blobs, results, pace });

/** Keeps what was made under the names that the document gives it. */
export async function keep(
  kind: Kept,
  name: string,
  inputs: readonly (Kept | null)[],
  document: AssetDocument,
  made: Made<Kept>,
  { blobs, results }: Tools,
): Promise<StoredResult> {
  const files: Record<string, string> = {};
  for (const [key, file] of Object.entries(made.files)) if (file) files[key] = await blobs.put(file.bytes, file.kind);
  for (const [other, figures] of Object.entries(made.also ?? {}))
    await results.keep({
      name: nameOf(document, other as Kept),
      stage: other as Kept,
      inputs: inputsOf(document, other as Kept).map((k) => k && nameOf(document, k)),
      figures,
      blobs: {},
    });
  return results.keep({ name, stage: kind, inputs: inputs.map((k) => k && nameOf(document, k)), figures: made.figures, blobs: files });
}
