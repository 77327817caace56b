/**
 * The two parts of a browser that Node lacks, for the bench: locks shared by all pages, and a reader of server-sent events that comes
 * back after a break.
 */
type Granted = (lock: { name: string } | null) => unknown;

/** Exclusive locks by name (W3C Web Locks), as far as pages use them. */
export class BenchLocks {
  private readonly held = new Set<string>();
  private readonly waiting = new Map<string, (() => void)[]>();

  async request(name: string, options: { ifAvailable?: boolean } | Granted, work?: Granted): Promise<unknown> {
    const [{ ifAvailable }, granted] = typeof options === 'function' ? [{ ifAvailable: false }, options] : [options, work as Granted];
    if (this.held.has(name)) {
      if (ifAvailable) return granted(null);
      await new Promise<void>((go) => this.waiting.set(name, [...(this.waiting.get(name) ?? []), go]));
    }
    this.held.add(name);
    try {
      return await granted({ name });
    } finally {
      this.held.delete(name);
      this.waiting.get(name)?.shift()?.();
    }
  }
}

/** An EventSource that reads a route's own answer. @param ask sends a request, as the page's fetch does */
export function BenchEventSource(ask: (path: string, init: RequestInit) => Promise<Response>) {
  return class {
    onopen: (() => void) | null = null;
    onerror: (() => void) | null = null;
    onmessage: ((e: { data: string }) => void) | null = null;
    private readonly ending = new AbortController();
    constructor(private readonly path: string) {
      void this.listen();
    }
    close(): void {
      this.ending.abort();
    }
    private async listen(): Promise<void> {
      while (!this.ending.signal.aborted) {
        try {
          const answer = await ask(this.path, { signal: this.ending.signal });
          this.onopen?.();
          const reader = (answer.body as ReadableStream<Uint8Array>).getReader();
          const text = new TextDecoder();
          let rest = '';
          for (let got = await reader.read(); !got.done; got = await reader.read()) {
            rest += text.decode(got.value, { stream: true });
            const blocks = rest.split('\n\n');
            rest = blocks.pop() ?? '';
            for (const block of blocks) if (block.startsWith('data: ')) this.onmessage?.({ data: block.slice(6) });
          }
        } catch {
          this.onerror?.();
        }
        await new Promise((r) => setTimeout(r, 50).unref());
      }
    }
  };
}
