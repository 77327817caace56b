import { WellmorphError } from '@wellmorph/core/errors';
import { madeIn } from '@wellmorph/core/pipeline/commands/in-variant';
import { type Command, commandKind } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { labelled } from '@wellmorph/core/pipeline/labels';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { inputsOf, KEPT, type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { asVariant, variantName } from '@wellmorph/core/pipeline/variants';
import { sentenceIn } from '@wellmorph/core/units/lengths';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { AssetState } from '@/server/db/assets';
import type { NewTrial, Trial } from '@/server/db/trials';
import { cancelFlag, WorkError } from '@/workers/pool';
import type { Bytes, Meshes } from '@/workers/protocol';
import { get, send } from './api';
import { runJob } from './job';
import type { Views } from './kept';
import { Lane, type Outcome } from './lane';
import type { Refused, Wish } from './lane-store';
import { lookAtAs, lookedAtAs } from './looked-at';
import { keep, type Made, meshesOf, type Run, runStage, type StageTasks } from './run-stage';
import { sentence } from './sentences';
import { emptySheet, isFresh, type JobKind, type Selected, type SheetState } from './state';
import type { Workbench } from './workbench';

export interface Opened extends AssetState {
  results: StoredResult[];
  trials: Trial[];
}

export { isCancelled, sentence } from './sentences';

/** Kinds of results that each look of a piece has its own of. */
const OF_LOOKS = ['surface', 'gather', 'render'] as const;
/** Of an advice that is kept with a change, characters. */
const LONGEST_ADVICE = 500;

/**
 * One asset on this page: its document with what was asked for, its results in view, the work under way. Nothing of it is shared with
 * another asset; work goes on when another is opened, and what comes of it is filed here.
 */
export class AssetSession {
  readonly store: StoreApi<SheetState>;
  readonly lane: Lane;
  /** Results as they were kept, with marks for labels. */
  private raw: { [K in Kept]?: Views[K] } = {};
  /** What was in view of looks that aren’t, by variant. */
  private readonly ofLooks = new Map<string, { views: Pick<SheetState, (typeof OF_LOOKS)[number]>; raw: { [K in Kept]?: Views[K] } }>();
  /** What was last looked for, by kind: nothing is asked twice for one state. */
  private sought: { [K in Kept]?: string } = {};
  private labels = '';
  private formWanted = false;
  private forming: Promise<boolean> | null = null;
  /** Counts what is done to the list of trials, so that an answer from before it is known for one. */
  private trialsSeen = 0;
  private opening: Promise<void> | null = null;
  /** The advice whose button was just pressed. */
  private advice: string | null = null;
  private isOpening = false;
  private ended = false;

  constructor(
    readonly id: string,
    readonly bench: Workbench,
  ) {
    this.store = createStore(() => emptySheet(id));
    this.lane = new Lane(id, bench.lanes, {
      shown: (document) => this.shown(document),
      saving: (saving) => this.set({ saving }),
      refused: (list) => this.set({ refused: [...list] }),
      said: (text) => this.notify(text, 'error'),
      read: () => this.read(),
    });
  }

  get state(): SheetState {
    return this.store.getState();
  }
  get document(): AssetDocument | null {
    return this.state.document;
  }
  get version(): number {
    return this.lane.version;
  }
  /** Whether it may be let go of: nothing is under way and nothing waits to be stored. */
  get isIdle(): boolean {
    return !this.isOpening && this.state.job === null && this.lane.unsent === 0;
  }
  set = (change: Partial<SheetState> | ((s: SheetState) => Partial<SheetState>)): void => {
    if (!this.ended) this.store.setState(change);
  };
  /** Says something, its lengths in the unit of the brief. */
  notify = (sentence: string, level: 'info' | 'error' = 'info'): void => {
    const text = sentenceIn(sentence, this.document?.brief.unit);
    const name = this.bench.onScreen === this ? null : this.document?.name;
    this.bench.notify(name ? `${name}: ${text}` : text, level);
  };
  select = (change: Partial<Selected>): void => this.set((s) => ({ selected: { ...s.selected, ...change } }));
  /** Chooses a part, and an island of its layout when one was hit. */
  pickIsland = (part: string, island: number | null): void => this.select({ part, island: island === null ? null : { part, island } });

  /** Opens it: its document, what waits to be stored, and whatever its stages came to. Nothing that is stored is computed again. */
  open(): Promise<void> {
    if (!this.opening) {
      this.isOpening = true;
      this.opening = this.begin()
        .catch((error) => {
          // Asked again when the server may be back, or the next time it is opened.
          this.opening = null;
          if (!this.document) this.set({ missing: sentence(error) });
        })
        .finally(() => {
          this.isOpening = false;
        });
    }
    return this.opening;
  }

  private async begin(): Promise<void> {
    // What pages that are gone left unsent comes first: the document is never shown, or called saved, without it.
    await this.lane.adopt();
    const opened = await this.readOpened();
    const variant = this.state.variant ?? lookedAtAs(this.id);
    this.set({ missing: null, ...(opened.document.variants?.some((v) => v.id === variant) && { variant }) });
    this.lane.take(opened);
    // Those of the document as it is first, then what there is of older states, to be seen as such.
    // What came of the piece itself is no older state of the variant it is looked at as.
    const results = opened.results.filter((r) => !this.document?.as || !OF_LOOKS.some((k) => k === r.stage));
    const shown = await Promise.allSettled(results.map((r) => this.showResult(r.stage, r)));
    // One that can't be shown now is looked for again when something changes; the document stands.
    for (const [i, s] of shown.entries()) if (s.status === 'rejected') delete this.sought[results[i].stage];
    this.seek();
  }

  private async readOpened(): Promise<Opened> {
    const seen = this.trialsSeen;
    // Each is a request of its own: one that was under way when something was done knows nothing of it.
    const opened = await get<Opened>(`/api/assets/${this.id}`);
    this.bench.results.known(...opened.results);
    // On their way while the sheet is drawn.
    for (const { blobs } of opened.results) if (blobs.parts) this.bench.blobs.get(blobs.parts).catch(() => {});
    // An answer that was under way while something was done here knows nothing of it.
    const isOlder = opened.version < this.lane.version;
    this.set({
      ...(!isOlder && { history: opened.history, thumbnail: opened.thumbnail }),
      ...(seen === this.trialsSeen && { trials: opened.trials }),
    });
    return opened;
  }

  private async read(): Promise<{ document: AssetDocument; version: number }> {
    const { document, version } = await this.readOpened();
    return { document, version };
  }

  /** Looks at the server’s state again, as after somebody else’s change. */
  async refresh(): Promise<void> {
    if (!this.document) return void (await this.open());
    this.lane.take(await this.read());
    this.sought = {};
    this.seek();
  }
  /** The changes made so far, once those that wait are among them. */
  readHistory = async (): Promise<void> => {
    try {
      await this.lane.flushed();
      await this.readOpened();
    } catch (error) {
      this.notify(sentence(error), 'error');
    }
  };

  /**
   * Applies a change at once and stores it in order. A change that can’t be applied says why and does nothing. What is changed of a
   * look is changed of the variant that is looked at.
   *
   * @param advice what was advised, where this is what comes of taking it
   */
  dispatch = (asked: Command, advice = this.advice): boolean => {
    if (!this.document) return false;
    try {
      const command = madeIn(asked, this.document.as ?? null);
      const kind = commandKind(command.type);
      void this.lane.ask({
        kind: 'edit',
        command: kind.cleaned?.(command) ?? command,
        ...(advice && { advice: advice.slice(0, LONGEST_ADVICE) }),
      });
      return true;
    } catch (error) {
      this.notify(error instanceof WellmorphError ? error.message : 'That change can’t be made.', 'error');
      return false;
    }
  };

  /** Does what was advised: changes that are made at once by it are kept as taken on that advice. */
  advised = (advice: string, act: () => void): void => {
    this.advice = advice;
    try {
      act();
    } finally {
      this.advice = null;
    }
  };

  /** Something the server does, in its turn. */
  ask(wish: Wish): Promise<Outcome> {
    return this.lane.ask(wish);
  }

  stepHistory = async (direction: 'undo' | 'redo'): Promise<void> => {
    const outcome = await this.lane.ask({ kind: direction });
    if (outcome.done) this.notify(`${direction === 'undo' ? 'Taken back' : 'Brought back'}: ${outcome.words}.`);
    else if (outcome.code.startsWith('history/')) this.notify(outcome.why);
  };

  retryRefused = (refused: Refused): void => {
    const outcome = this.lane.retry(refused);
    if (outcome) void outcome.then((o) => o.done && this.notify(`Done now: ${o.words}.`));
  };

  /** Looks at the piece as one of its variants, or as itself. */
  showVariant = (variant: string | null): void => {
    const { piece, variant: before, surface, gather, render } = this.state;
    if (variant === before) return;
    lookAtAs(this.id, variant);
    const of = (look: string | null) => look ?? '';
    // What was made of one look is no older state of another.
    this.ofLooks.set(of(before), { views: { surface, gather, render }, raw: this.raw });
    const known = this.ofLooks.get(of(variant));
    this.raw = { ...this.raw, surface: known?.raw.surface, gather: known?.raw.gather, render: known?.raw.render };
    this.set({ variant, ...(known?.views ?? { surface: null, gather: null, render: null }) });
    if (piece) this.shown(piece);
  };

  /** The document to be shown changed: labels follow, fresh results are looked for, the form is brought up to date. */
  private shown(piece: AssetDocument): void {
    const document = asVariant(piece, this.state.variant);
    this.set({ piece, document });
    const labels = JSON.stringify([
      document.materials.map((m) => [m.id, m.name]),
      document.parts.map((p) => [p.id, p.name, p.shape.steps?.map((s) => [s.id, s.name]), p.regions?.map((r) => [r.id, r.name])]),
    ]);
    if (labels !== this.labels) {
      this.labels = labels;
      for (const kind of KEPT) {
        const raw = this.raw[kind];
        if (raw) this.set({ [kind]: labelled(raw, document) } as Partial<SheetState>);
      }
    }
    this.seek();
  }

  /** Looks by name for results of the document as it is, where they are not in view. */
  private seek(): void {
    const { document } = this;
    if (!document || this.ended) return;
    for (const kind of KEPT) {
      const name = nameOf(document, kind);
      if (this.state[kind]?.name === name || this.sought[kind] === name) continue;
      this.sought[kind] = name;
      if (kind === 'form' || kind === 'findings') continue;
      void this.bench.results
        .named(name)
        .then((found) => (found ? this.showResult(kind, found) : undefined))
        .catch(() => {
          if (this.sought[kind] === name) delete this.sought[kind];
        });
    }
    if (!isFresh(document, this.state.form, 'form') || !isFresh(document, this.state.findings, 'findings')) void this.reform();
  }

  /** A result was kept somewhere: it is shown when it is of the document as it is. */
  heardOf(name: string): void {
    const { document } = this;
    if (!document) return;
    const kind = KEPT.find((k) => nameOf(document, k) === name);
    if (!kind || this.state[kind]?.name === name) return;
    delete this.sought[kind];
    this.seek();
  }

  /** Puts a result in view. One that is of the document as it is is never displaced by another. */
  private async showResult(kind: Kept, result: StoredResult, shown?: unknown): Promise<void> {
    if (this.state[kind]?.name === result.name) return;
    this.offer(kind, await this.bench.tasks[kind].view(result, this.bench, shown as never));
  }

  /** Puts something in view, unless what is there is of the document as it is and this is not: it may have changed back meanwhile. */
  private offer<K extends Kept>(kind: K, view: Views[K]): void {
    // Asked for twice, it comes twice: what was picked in the first stays picked.
    if (this.state[kind]?.name === view.name) return;
    const isCurrent = this.document !== null && nameOf(this.document, kind) === view.name;
    if (this.ended || (!isCurrent && isFresh(this.document, this.state[kind], kind))) return;
    this.putInView(kind, view);
  }

  private putInView<K extends Kept>(kind: K, view: Views[K]): void {
    (this.raw as Record<Kept, unknown>)[kind] = view;
    const { document } = this;
    const change = { [kind]: document ? labelled(view, document) : view } as unknown as Partial<SheetState>;
    this.set(kind === 'unwrap' ? (s) => ({ ...change, selected: { ...s.selected, island: null } }) : change);
  }

  /** Forms the low meshes again when the document has moved on; one run at a time, the latest state wins. @returns whether it could be */
  private reform(): Promise<boolean> {
    this.formWanted = true;
    this.forming ??= this.formLatest().finally(() => {
      this.forming = null;
      if (this.formWanted && !this.ended) void this.reform();
    });
    return this.forming;
  }

  private async formLatest(): Promise<boolean> {
    this.set({ forming: true });
    try {
      while (this.formWanted && !this.ended) {
        this.formWanted = false;
        const { document } = this;
        if (document) await this.formOnce(document);
      }
      return true;
    } catch (error) {
      this.notify(sentence(error), 'error');
      return false;
    } finally {
      this.set({ forming: false });
    }
  }

  private async formOnce(document: AssetDocument): Promise<void> {
    const { results, tasks } = this.bench;
    const [formName, foundName] = [nameOf(document, 'form'), nameOf(document, 'findings')];
    if (this.state.form?.name === formName && this.state.findings?.name === foundName) return;
    // Without the server it is formed all the same.
    const [form, found] = await Promise.all([results.named(formName).catch(() => null), results.named(foundName).catch(() => null)]);
    if (form && found) {
      await Promise.all([this.showResult('form', form), this.showResult('findings', found)]);
      return;
    }
    if (this.formWanted) return;
    const run: Run = { document, piece: this.state.piece ?? document, report: () => {}, cancel: cancelFlag() };
    const { made, thumbnail } = await tasks.form.formed(run, this.bench);
    const as = <K extends Kept>(kind: K, name: string) => ({ name, stage: kind, inputs: [], figures: {}, blobs: {} });
    this.offer('form', await tasks.form.view({ ...as('form', formName), figures: made.figures }, this.bench, made.shown));
    if (made.also?.findings) this.offer('findings', { name: foundName, ...made.also.findings });
    // Asked for again meanwhile it need not be another one: what is of the piece as it is is kept in any case.
    const isLatest =
      this.document !== null && nameOf(this.document, 'form') === formName && nameOf(this.document, 'findings') === foundName;
    if (!isLatest || !made.whole) return;
    try {
      await keep('form', formName, inputsOf(document, 'form'), document, made as unknown as Made<Kept>, this.bench);
      if (thumbnail && !form) await this.keepThumbnail(thumbnail, formName);
    } catch {
      // A result can be made again; edits are what must not be lost, and they say so themselves.
    }
  }

  /** Draws the card of a piece whose set is new: its colours or prints may be. A card that can’t be drawn stays as it is. */
  private async redrawCard(piece: AssetDocument): Promise<void> {
    const png = await this.bench.tasks.form.card(piece, this.bench).catch(() => null);
    // Composed otherwise meanwhile, that draws its own.
    const now = this.state.piece;
    if (png && now && nameOf(now, 'surface') === nameOf(piece, 'surface'))
      await this.keepThumbnail(png, nameOf(piece, 'form')).catch(() => {});
  }

  private async keepThumbnail(png: Bytes, form: string): Promise<void> {
    const thumbnail = await this.bench.blobs.put(png, 'png');
    const { taken } = await send<{ taken: boolean }>('PUT', `/api/assets/${this.id}/thumbnail`, { thumbnail, form });
    if (taken) this.set({ thumbnail });
  }

  /** Waits until what is in view is formed from the document as it is. @throws WorkError when it can’t be */
  async formed(): Promise<void> {
    const isFormed = ({ document, form, findings }: SheetState) =>
      isFresh(document, form, 'form') && isFresh(document, findings, 'findings');
    while (this.document && !this.ended && !isFormed(this.state))
      if (!(await this.reform())) throw new WorkError('form/failed', 'The piece could not be formed, so nothing was made of it.');
  }

  /**
   * Runs one job at a time with progress and cancel; says what went wrong in a sentence. What it is about is settled when it begins:
   * `document` is the one it began with.
   */
  async job<T>(what: JobKind, work: (run: Run) => Promise<T>): Promise<T | null> {
    const { document } = this;
    if (!document) return null;
    if (this.state.job) {
      this.notify('Something is being computed already; wait for it or stop it.');
      return null;
    }
    return runJob({ session: this, document, what }, work);
  }

  /** The result of a stage for the document a run is about, with everything it stands on. @param tasks other ways to make some */
  stage(run: Run, kind: Kept, tasks: Partial<StageTasks> = {}): Promise<StoredResult> {
    return runStage(
      run,
      kind,
      this.bench,
      { ...this.bench.tasks, ...tasks },
      {
        // What came of another look than the one in view is found when that is looked at.
        made: (k, result, shown) => {
          if (k === 'surface' && !run.document.as) void this.redrawCard(run.document);
          return run.document.as === this.document?.as ? this.showResult(k, result, shown) : undefined;
        },
        trial: (k, { picture, ...trial }, result, milliseconds) => {
          const { document } = run;
          // What was tried as a variant says so.
          const variant = variantName(document);
          const title = variant ? `${variant}: ${trial.title}`.slice(0, 120) : trial.title;
          return this.addTrial(
            // Gathering and photographs are tried in Bake.
            {
              stage: k === 'gather' || k === 'project' ? 'bake' : k,
              ...trial,
              title,
              milliseconds,
              resultName: result.name,
              snapshot: document,
            },
            picture ? result.blobs[picture] : undefined,
          );
        },
      },
    );
  }

  /** Keeps an attempt. Its picture is the piece’s own where none is given. */
  async addTrial(trial: Omit<NewTrial, 'thumbnail'>, picture: string | null = this.state.thumbnail): Promise<void> {
    try {
      const made = await send<Trial>('POST', `/api/assets/${this.id}/trials`, { ...trial, ...(picture && { thumbnail: picture }) });
      this.trialsSeen++;
      this.set((s) => ({ trials: [made, ...s.trials.filter((t) => t.id !== made.id)] }));
    } catch (error) {
      this.notify(`The trial could not be kept: ${sentence(error)}`, 'error');
    }
  }

  /** Takes the trials as they are kept, as after one was filed by another page or by the queue. */
  async refreshTrials(): Promise<void> {
    const seen = ++this.trialsSeen;
    try {
      const trials = await get<Trial[]>(`/api/assets/${this.id}/trials`);
      // What was done meanwhile is told of as well, and looked at then.
      if (seen === this.trialsSeen) this.set({ trials });
    } catch {
      // They come with the next look at the asset.
    }
  }

  async judgeTrial(trial: string, change: { verdict?: string; note?: string }): Promise<void> {
    try {
      const made = await send<Trial>('PATCH', `/api/assets/${this.id}/trials/${trial}`, change);
      this.trialsSeen++;
      this.set((s) => ({ trials: s.trials.map((t) => (t.id === trial ? made : t)) }));
    } catch (error) {
      this.notify(sentence(error), 'error');
    }
  }

  /** Sets everything a trial was made by again; what it came to is then found by its name. */
  takeTrial = async (trial: Trial): Promise<void> => {
    const variant = this.document?.as;
    const outcome = await this.lane.ask({ kind: 'take', trial: trial.id, title: trial.title, ...(variant && { variant }) });
    if (outcome.done) this.notify(`Set again as for “${trial.title}”; undo brings back what was set before.`);
    else this.notify(outcome.why, 'error');
  };

  /** The piece becomes what it was when a state of it was named. */
  takeState = async ({ id, name }: { id: string; name: string }): Promise<void> => {
    const outcome = await this.lane.ask({ kind: 'state', state: id, title: name });
    if (outcome.done) this.notify(`As it was for “${name}”; undo brings back what was before.`);
    else this.notify(outcome.why, 'error');
  };

  /** Stored meshes that work on the piece needs. */
  meshes(document: AssetDocument, which: 'low' | 'high' | 'both' | 'all'): Promise<Meshes> {
    return meshesOf(document, which, this.bench.blobs);
  }

  /** Lets everything go. What waits to be stored stays with the browser. */
  close(): void {
    this.ended = true;
    this.state.job?.cancel();
    this.lane.close();
    this.raw = {};
    this.store.setState(emptySheet(this.id), true);
  }
}
