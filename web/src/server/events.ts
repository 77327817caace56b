import type { JobState } from './db/schema';

/** What pages are told as it happens; each says only what to look at again. */
export type News =
  | { kind: 'asset'; asset: string; version: number; clientId: string | null }
  | { kind: 'assets' }
  | { kind: 'result'; name: string; stage: string }
  | { kind: 'trial'; asset: string }
  | { kind: 'snags'; asset: string }
  | { kind: 'logbook' }
  | { kind: 'plan' }
  | { kind: 'job'; job: string; asset: string; state: JobState; share: number; words: string; secondsLeft: number | null };

type Listener = (news: News) => void;
/** Kept on globalThis, so that every route's copy of this module reaches the same listeners. */
const home = globalThis as { wellmorphListeners?: Set<Listener> };
const listeners = (): Set<Listener> => {
  home.wellmorphListeners ??= new Set();
  return home.wellmorphListeners;
};

export function publish(news: News): void {
  for (const tell of listeners()) tell(news);
}

/** @returns what ends the listening */
export function listen(tell: Listener): () => void {
  listeners().add(tell);
  return () => listeners().delete(tell);
}

/** A line is sent this often, so that a connection nobody holds any more is noticed, ms. */
const BEAT = 20_000;

/** The stream of news as server-sent events (WHATWG HTML, 9.2): open until the page goes. */
export function newsStream(signal: AbortSignal): ReadableStream<Uint8Array> {
  const text = new TextEncoder();
  let end = () => {};
  return new ReadableStream({
    start(controller) {
      const put = (line: string) => {
        try {
          controller.enqueue(text.encode(line));
        } catch {
          end();
        }
      };
      const stop = listen((news) => put(`data: ${JSON.stringify(news)}\n\n`));
      const beat = setInterval(() => put(': still here\n\n'), BEAT);
      beat.unref?.();
      end = () => {
        stop();
        clearInterval(beat);
        signal.removeEventListener('abort', end);
      };
      signal.addEventListener('abort', () => {
        end();
        try {
          controller.close();
        } catch {
          // Closed by the reader already.
        }
      });
      put('retry: 1000\n\n');
    },
    cancel: () => end(),
  });
}
