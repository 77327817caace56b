import type { Command } from '@wellmorph/core/pipeline/commands/index';
import { createStore, del, entries, set, type UseStore } from 'idb-keyval';

/** Something asked of the server, in the order it was asked. */
export type Wish =
  /** With the advice that is taken by it, where one is. */
  | { kind: 'edit'; command: Command; advice?: string }
  | { kind: 'undo' }
  | { kind: 'redo' }
  /** A trial’s settings, taken up again: by the variant that is looked at, where one is. */
  | { kind: 'take'; trial: string; title: string; variant?: string }
  | { kind: 'state'; state: string; title: string }
  /** A high mesh for a part, chosen by hand. */
  | { kind: 'pair'; part: string; high: string | null; also?: string[] };

/** A wish with who had it and which of theirs it was: sent twice, it is done once. */
export interface Entry {
  clientId: string;
  seq: number;
  wish: Wish;
}
/** One that could not be done as things stood, with the reason. */
export interface Refused extends Entry {
  why: string;
}
export interface Kept {
  entries: Entry[];
  refused: Refused[];
  /** The version of the asset up to which they were held against everybody else’s changes. */
  base?: number;
}

const keyOf = (asset: string, clientId: string): string => `${asset}/${clientId}`;
const lockOf = (clientId: string): string => `wellmorph-page-${clientId}`;

/**
 * What a page has asked for and the server hasn’t answered yet, kept by the browser so that it outlives the page. Each page keeps its
 * own under its own id and holds a lock of that name while it lives; what is kept under an id whose lock is free was left behind, and
 * is taken over by the next page that looks.
 */
export class LaneStore {
  private readonly store: UseStore;
  private writing: Promise<unknown> = Promise.resolve();
  private release: () => void = () => {};

  constructor(
    readonly clientId: string,
    database = 'wellmorph',
  ) {
    this.store = createStore(database, 'lanes');
    // Held until the page goes; the browser lets go of it then, however the page ends.
    const held = new Promise<void>((resolve) => {
      this.release = resolve;
    });
    void navigator.locks?.request(lockOf(clientId), () => held).catch(() => {});
  }

  /** Keeps what is asked of one asset; in order, and never failing: without a store it is only in the page. */
  keep(asset: string, kept: Kept): Promise<void> {
    const mine = this.writing.then(() =>
      kept.entries.length + kept.refused.length === 0
        ? del(keyOf(asset, this.clientId), this.store)
        : set(keyOf(asset, this.clientId), structuredClone(kept), this.store),
    );
    this.writing = mine.catch(() => {});
    return this.writing as Promise<void>;
  }

  /** Assets for which something was left behind by pages that are gone. */
  async orphaned(): Promise<string[]> {
    const found = new Set<string>();
    for (const [asset, client] of await this.keys()) if (client !== this.clientId) found.add(asset);
    return [...found];
  }

  /**
   * Takes over what pages that are gone had asked of an asset, oldest page first. It is handed to `take` and kept by it before what was
   * left behind is removed, so nothing falls in between.
   */
  async adopt(asset: string, take: (kept: Kept) => Promise<void>): Promise<void> {
    for (const [of, client] of await this.keys()) {
      if (of !== asset || client === this.clientId) continue;
      const over = async () => {
        const all = await entries<string, Kept>(this.store);
        const left = all.find(([key]) => key === keyOf(asset, client))?.[1];
        if (!left) return;
        await take(left);
        await del(keyOf(asset, client), this.store);
      };
      if (!navigator.locks) await over();
      else await navigator.locks.request(lockOf(client), { ifAvailable: true }, async (lock) => (lock ? over() : undefined));
    }
  }

  /** The page is going. */
  async close(): Promise<void> {
    await this.writing;
    this.release();
  }

  private async keys(): Promise<[asset: string, clientId: string][]> {
    try {
      return (await entries<string, Kept>(this.store)).map(([key]) => key.split('/') as [string, string]);
    } catch {
      return [];
    }
  }
}
