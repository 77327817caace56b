import { applyCommand, meet, touchedBy } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import type { Since } from '@/server/db/assets';
import { ApiError, send } from './api';
import { fold } from './fold';
import type { Entry, LaneStore, Refused, Wish } from './lane-store';

/** What the server last said of an asset’s document. */
export interface Server {
  document: AssetDocument;
  version: number;
}
/** What one step of the lane came to, for whoever waits for it. */
export type Outcome = { done: true; words: string } | { done: false; why: string; code: string };

interface Told {
  /** The document to be shown has changed. */
  shown(document: AssetDocument): void;
  saving(state: 'saved' | 'saving' | 'unsaved'): void;
  refused(list: readonly Refused[]): void;
  /** One could not be done. */
  said(sentence: string): void;
  /** The asset as the server has it. @throws ApiError */
  read(): Promise<Server>;
}

/** Between two tries when the server can’t be reached or fails, ms: doubled each time, up to the last. */
const WAIT = [500, 8000] as const;

/**
 * The one ordered lane of an asset’s edits, undo and redo. What is asked for is shown at once, kept by the browser until the server has
 * it, sent one after the other, and done once however often it is sent. When somebody else was first, each change is run again on the
 * newer document, unless both decide the same thing: then it is said, and kept to be tried again or dropped.
 */
export class Lane {
  private server: Server | null = null;
  /** The version up to which what waits was held against everybody else’s changes; the server is asked about the rest. */
  private base = 0;
  private waiting: Entry[] = [];
  private afterEach: AssetDocument[] = [];
  private refusedOnes: Refused[] = [];
  private readonly outcomes = new Map<Entry, (outcome: Outcome) => void>();
  private pumping: Promise<void> | null = null;
  private wake: () => void = () => {};
  private seq = 0;
  private lastShown: AssetDocument | null = null;
  private closed = false;

  constructor(
    readonly asset: string,
    private readonly store: LaneStore,
    private readonly told: Told,
  ) {}

  get version(): number {
    return this.server?.version ?? 0;
  }
  get unsent(): number {
    return this.waiting.length;
  }
  get refused(): readonly Refused[] {
    return this.refusedOnes;
  }
  /** The document with everything that waits. */
  get document(): AssetDocument | null {
    return this.afterEach.at(-1) ?? this.server?.document ?? null;
  }

  /** Takes what the server says; an older answer than the one that is known is left aside. */
  take(server: Server): void {
    if (this.server && server.version < this.server.version) return;
    this.advance(server);
    this.refold();
    if (this.waiting.length > 0) void this.pump();
  }

  /** Takes over what pages that are gone had asked for, before anything of this page’s own. */
  async adopt(): Promise<void> {
    await this.store.adopt(this.asset, async ({ entries, refused, base }) => {
      if (entries.length > 0 && base) this.base = this.waiting.length > 0 || !this.server ? Math.min(this.base || base, base) : base;
      this.waiting = [...entries, ...this.waiting];
      this.refusedOnes = [...refused, ...this.refusedOnes];
      await this.keep();
    });
    if (this.refusedOnes.length > 0) this.told.refused(this.refusedOnes);
    this.refold();
    void this.pump();
  }

  /**
   * Shows a change at once and sends it in its turn. The promise says what came of it.
   *
   * @throws InputError when a change can’t be applied to what is shown; nothing is asked then
   */
  ask(wish: Wish): Promise<Outcome> {
    // Tried before it is taken: what can’t be done here is said here.
    if (wish.kind === 'edit' && this.document) applyCommand(this.document, wish.command);
    const entry: Entry = { clientId: this.store.clientId, seq: this.seq++, wish };
    this.waiting.push(entry);
    const outcome = new Promise<Outcome>((resolve) => this.outcomes.set(entry, resolve));
    this.refold();
    this.told.saving('saving');
    void this.keep();
    void this.pump();
    return outcome;
  }

  /** Asks again for one that was refused; it is made on the document as it is now. */
  retry(refused: Refused): Promise<Outcome> | null {
    if (!this.forget(refused)) return null;
    const { wish } = refused;
    try {
      return this.ask(wish);
    } catch (error) {
      this.refusedOnes.push({ ...refused, why: (error as Error).message });
      this.told.refused(this.refusedOnes);
      return null;
    }
  }

  /** Lets one go that was refused. */
  forget(refused: Refused): boolean {
    const before = this.refusedOnes.length;
    this.refusedOnes = this.refusedOnes.filter((r) => r !== refused);
    this.told.refused(this.refusedOnes);
    void this.keep();
    return this.refusedOnes.length < before;
  }

  /** Tries now what waits for the server to be back. */
  poke(): void {
    this.wake();
  }

  /** Until everything asked for so far is answered. */
  async flushed(): Promise<void> {
    while (this.waiting.length > 0 && this.server && !this.closed) await this.pump();
  }

  close(): void {
    this.closed = true;
    this.wake();
  }

  private keep(): Promise<void> {
    return this.store.keep(this.asset, { entries: this.waiting, refused: this.refusedOnes, base: this.base });
  }

  /** Goes on to a newer state of the server’s. What waits was made without it, so it still has to be held against it. */
  private advance(server: Server): void {
    if (!this.server || server.version > this.server.version) this.server = server;
    if (this.waiting.length === 0 || this.base === 0) this.base = this.server.version;
  }

  private refold(): void {
    if (!this.server) return;
    this.afterEach = fold(this.server.document, this.waiting);
    const now = this.document;
    if (!now || now === this.lastShown) return;
    this.lastShown = now;
    this.told.shown(now);
  }

  private pump(): Promise<void> {
    this.pumping ??= this.run().finally(() => {
      this.pumping = null;
    });
    return this.pumping;
  }

  private async run(): Promise<void> {
    let pause: number = WAIT[0];
    while (this.waiting.length > 0 && !this.closed && this.server) {
      const [entry] = this.waiting;
      try {
        const answer = await this.send(entry, this.base);
        await this.done(entry, answer);
        pause = WAIT[0];
      } catch (error) {
        if (this.closed) return;
        if (!(error instanceof ApiError) || error.isPassing) {
          this.told.saving('unsaved');
          await this.rest(pause);
          pause = Math.min(2 * pause, WAIT[1]);
        } else if (error.status === 409 && error.said.since) await this.overtaken(error.said.since, error.said.version);
        // Never to be right as it is: said, and not kept.
        else if (error.status === 400) await this.refuse(entry, error.message, error.code, false);
        else await this.refuse(entry, error.message, error.code, true);
      }
    }
    if (!this.closed) this.told.saving(this.waiting.length > 0 ? 'unsaved' : 'saved');
  }

  private rest(milliseconds: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, milliseconds);
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  private send({ clientId, seq, wish }: Entry, baseVersion: number): Promise<{ version: number; words: string; name?: string }> {
    const once = { baseVersion, clientId, seq };
    const path = `/api/assets/${this.asset}`;
    switch (wish.kind) {
      case 'edit':
        return send('POST', `${path}/edits`, { ...once, command: wish.command, ...(wish.advice && { advice: wish.advice }) });
      case 'take':
        return send('POST', `${path}/trials/${wish.trial}/take`, { ...once, ...(wish.variant && { variant: wish.variant }) });
      case 'state':
        return send('POST', `${path}/states/${wish.state}/take`, once);
      case 'pair':
        return send('POST', `${path}/pair`, { ...once, part: wish.part, high: wish.high, ...(wish.also && { also: wish.also }) });
      default:
        return send('POST', `${path}/history`, { ...once, direction: wish.kind });
    }
  }

  /** The server has done one: its document follows, by the same change where that is known to come to the same, else by asking. */
  private async done(entry: Entry, answer: { version: number; words: string; name?: string }): Promise<void> {
    const server = this.server as Server;
    const { wish } = entry;
    let next: Server | null = null;
    if (wish.kind === 'edit' && answer.version === server.version + 1) {
      const { document } = applyCommand(server.document, wish.command);
      if (answer.name === nameOf(document, 'render')) next = { document, version: answer.version };
    }
    next ??= answer.version <= server.version ? server : await this.told.read();
    this.settle(entry, { done: true, words: answer.words });
    this.base = Math.max(this.base, answer.version);
    this.advance(next);
    this.refold();
    await this.keep();
  }

  /** Somebody else was first: what decides the same thing is put aside, the rest goes on from the newer document. */
  private async overtaken(since: readonly Since[], upTo?: number): Promise<void> {
    const next = await this.told.read();
    const theirs = since.flatMap((s) => touchedBy(s.command));
    const last = since.at(-1);
    const what = last ? `${last.kind === 'edit' ? '' : 'took back or brought back: '}${last.words}` : 'something';
    for (const entry of [...this.waiting]) {
      const { wish } = entry;
      const mine = wish.kind === 'edit' ? touchedBy(wish.command) : wish.kind === 'pair' ? [`part/${wish.part}/high`] : [''];
      if (!meet(mine, theirs)) continue;
      await this.refuse(entry, `Someone else changed this in the meantime (${what}); yours was not applied.`, 'asset/stale', true);
    }
    this.base = upTo ?? next.version;
    this.advance(next);
    this.refold();
  }

  private async refuse(entry: Entry, why: string, code: string, keep: boolean): Promise<void> {
    const { wish } = entry;
    // That there is nothing to take back is an answer, not a loss.
    if (keep && (wish.kind === 'edit' || wish.kind === 'pair')) {
      this.refusedOnes.push({ ...entry, why });
      this.told.refused(this.refusedOnes);
    }
    this.settle(entry, { done: false, why, code });
    if (wish.kind === 'edit' || wish.kind === 'pair' || code === 'asset/stale') this.told.said(why);
    this.refold();
    await this.keep();
  }

  private settle(entry: Entry, outcome: Outcome): void {
    this.waiting = this.waiting.filter((e) => e !== entry);
    this.outcomes.get(entry)?.(outcome);
    this.outcomes.delete(entry);
  }
}
