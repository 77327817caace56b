import type { QueryClient } from '@tanstack/react-query';
import type { Kept, StoredResult } from '@wellmorph/core/pipeline/results';
import { get, send } from './api';

/** Names asked for in one request. */
const AT_ONCE = 64;

/** Results by name, as the server keeps them. One that is there never changes; one that isn’t may come. */
export class ResultStore {
  private wanted = new Map<string, { resolve(r: StoredResult | null): void; reject(e: unknown): void }[]>();
  private asking: ReturnType<typeof setTimeout> | null = null;

  constructor(private readonly queries: QueryClient) {}

  /** The result of a name, or null where none is kept. @throws ApiError when the server can’t be asked */
  async named(name: string): Promise<StoredResult | null> {
    const known = (): StoredResult | undefined => this.queries.getQueryData<StoredResult>(['result', name]);
    const before = known();
    if (before) return before;
    // Each is a request of its own: an answer that was under way when it was kept doesn’t know of it, and says nothing against it.
    const found = await this.ask(name);
    if (found) this.known(found);
    return found ?? known() ?? null;
  }

  /** Keeps a result; the first that was kept under the name stands, and is what is handed back. */
  async keep(result: StoredResult): Promise<StoredResult> {
    const { name, ...rest } = result;
    const stands = await send<StoredResult>('PUT', `/api/results/${name}`, rest);
    this.known(stands);
    return stands;
  }

  /** Takes results that came with something else. */
  known(...results: readonly StoredResult[]): void {
    for (const r of results) this.queries.setQueryData(['result', r.name], r);
  }

  /** All that are asked for in one turn go in one request. */
  private ask(name: string): Promise<StoredResult | null> {
    return new Promise((resolve, reject) => {
      this.wanted.set(name, [...(this.wanted.get(name) ?? []), { resolve, reject }]);
      this.asking ??= setTimeout(() => void this.flush(), 0);
    });
  }

  private async flush(): Promise<void> {
    this.asking = null;
    const wanted = [...this.wanted];
    this.wanted = new Map();
    for (let i = 0; i < wanted.length; i += AT_ONCE) {
      const some = wanted.slice(i, i + AT_ONCE);
      try {
        const found = new Map((await get<StoredResult[]>(`/api/results?names=${some.map(([n]) => n).join(',')}`)).map((r) => [r.name, r]));
        for (const [name, asked] of some) for (const a of asked) a.resolve(found.get(name) ?? null);
      } catch (error) {
        for (const [, asked] of some) for (const a of asked) a.reject(error);
      }
    }
  }
}

/** A result whose kind is known. */
export type ResultOf<K extends Kept> = StoredResult & { stage: K };
