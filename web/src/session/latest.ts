import { cancelFlag } from '@/workers/pool';
import type { AssetSession } from './session';

/** Work that is under way beside a session’s job, and what stops it. */
export interface Going {
  /** What it is made of: the same is not begun twice. */
  readonly name: string;
  readonly cancel: Int32Array;
  /** Whether nothing newer was begun since; what is not the latest any more is not shown. */
  isLatest(): boolean;
  end(): void;
}

/** One kind of such work, for every session: a newer one stops the older, and takes its place. */
export class Latest {
  private readonly going = new WeakMap<AssetSession, Going>();

  /** Begins something in place of what was under way; null when that very thing is under way already. */
  begin(session: AssetSession, name: string): Going | null {
    const before = this.going.get(session);
    if (before?.name === name) return null;
    if (before) Atomics.store(before.cancel, 0, 1);
    const mine: Going = {
      name,
      cancel: cancelFlag(),
      isLatest: () => this.going.get(session) === mine,
      end: () => {
        if (mine.isLatest()) this.going.delete(session);
      },
    };
    this.going.set(session, mine);
    return mine;
  }
}
