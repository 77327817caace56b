import 'reflect-metadata';
import 'fake-indexeddb/auto';
import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Worker as Thread } from 'node:worker_threads';
import { build } from 'esbuild';
import type { AssetSession } from '../src/session/session';
import type { Workbench } from '../src/session/workbench';
import { BenchEventSource, BenchLocks } from './browser';

/**
 * The sheet without a browser, for tests: the page's own store on a real database in a directory of its own, its requests
 * answered by the real route handlers, its workers real threads running the real worker's code.
 */
export interface Bench {
  dir: string;
  /** While true, no request gets through. */
  offline: boolean;
  /** Every request that got through, `GET /api/…`. */
  asked: string[];
  /** Ends one of the page's workers that is at work, as running out of memory would. */
  killWorker(doing: string): boolean;
  /** A page of the browser: its own workbench, beside whatever others are open. */
  page(): Promise<Workbench>;
  /** Takes a result away, as if it had never been made: what comes of making it again is from cold. */
  forget(name: string, ...pages: Workbench[]): Promise<void>;
  /** Requests that are answered like this instead of by their route; null lets them through. */
  answer: ((path: string, method: string) => Response | Promise<Response> | null) | null;
  close(): Promise<void>;
}

type Handler = (request: Request, context: { params: Promise<Record<string, string>> }) => Promise<Response>;
const ROUTES: [pattern: RegExp, names: string[], load: () => Promise<unknown>][] = [
  [/^\/api\/assets$/, [], () => import('../src/app/api/assets/route')],
  [/^\/api\/assets\/([^/]+)$/, ['id'], () => import('../src/app/api/assets/[id]/route')],
  [/^\/api\/assets\/([^/]+)\/edits$/, ['id'], () => import('../src/app/api/assets/[id]/edits/route')],
  [/^\/api\/assets\/([^/]+)\/history$/, ['id'], () => import('../src/app/api/assets/[id]/history/route')],
  [/^\/api\/assets\/([^/]+)\/pair$/, ['id'], () => import('../src/app/api/assets/[id]/pair/route')],
  [/^\/api\/assets\/([^/]+)\/duplicate$/, ['id'], () => import('../src/app/api/assets/[id]/duplicate/route')],
  [/^\/api\/assets\/([^/]+)\/thumbnail$/, ['id'], () => import('../src/app/api/assets/[id]/thumbnail/route')],
  [/^\/api\/assets\/([^/]+)\/high$/, ['id'], () => import('../src/app/api/assets/[id]/high/route')],
  [
    /^\/api\/assets\/([^/]+)\/trials\/([^/]+)\/take$/,
    ['id', 'trial'],
    () => import('../src/app/api/assets/[id]/trials/[trial]/take/route'),
  ],
  [/^\/api\/results$/, [], () => import('../src/app/api/results/route')],
  [/^\/api\/results\/([^/]+)$/, ['name'], () => import('../src/app/api/results/[name]/route')],
  [/^\/api\/events$/, [], () => import('../src/app/api/events/route')],
  [/^\/api\/store$/, [], () => import('../src/app/api/store/route')],
  [/^\/api\/assets\/([^/]+)\/trials$/, ['id'], () => import('../src/app/api/assets/[id]/trials/route')],
  [/^\/api\/assets\/([^/]+)\/trials\/([^/]+)$/, ['id', 'trial'], () => import('../src/app/api/assets/[id]/trials/[trial]/route')],
  [/^\/api\/assets\/([^/]+)\/jobs$/, ['id'], () => import('../src/app/api/assets/[id]/jobs/route')],
  [/^\/api\/assets\/([^/]+)\/time$/, ['id'], () => import('../src/app/api/assets/[id]/time/route')],
  [/^\/api\/assets\/([^/]+)\/snags$/, ['id'], () => import('../src/app/api/assets/[id]/snags/route')],
  [/^\/api\/assets\/([^/]+)\/states$/, ['id'], () => import('../src/app/api/assets/[id]/states/route')],
  [/^\/api\/assets\/([^/]+)\/states\/([^/]+)$/, ['id', 'state'], () => import('../src/app/api/assets/[id]/states/[state]/route')],
  [
    /^\/api\/assets\/([^/]+)\/states\/([^/]+)\/take$/,
    ['id', 'state'],
    () => import('../src/app/api/assets/[id]/states/[state]/take/route'),
  ],
  [/^\/api\/assets\/([^/]+)\/sweeps$/, ['id'], () => import('../src/app/api/assets/[id]/sweeps/route')],
  [/^\/api\/sweeps\/([^/]+)$/, ['sweep'], () => import('../src/app/api/sweeps/[sweep]/route')],
  [/^\/api\/snags$/, [], () => import('../src/app/api/snags/route')],
  [/^\/api\/snags\/([^/]+)$/, ['snag'], () => import('../src/app/api/snags/[snag]/route')],
  [/^\/api\/lessons$/, [], () => import('../src/app/api/lessons/route')],
  [/^\/api\/lessons\/([^/]+)$/, ['lesson'], () => import('../src/app/api/lessons/[lesson]/route')],
  [/^\/api\/filters$/, [], () => import('../src/app/api/filters/route')],
  [/^\/api\/runs$/, [], () => import('../src/app/api/runs/route')],
  [/^\/api\/runs\/chosen$/, [], () => import('../src/app/api/runs/chosen/route')],
  [/^\/api\/runs\/at-hand$/, [], () => import('../src/app/api/runs/at-hand/route')],
  [/^\/api\/runs\/export$/, [], () => import('../src/app/api/runs/export/route')],
  [/^\/api\/runs\/suggestions$/, [], () => import('../src/app/api/runs/suggestions/route')],
  [/^\/api\/runs\/([^/]+)\/use$/, ['run'], () => import('../src/app/api/runs/[run]/use/route')],
  [/^\/api\/queue$/, [], () => import('../src/app/api/queue/route')],
  [/^\/api\/plan$/, [], () => import('../src/app/api/plan/route')],
  [/^\/api\/plan\/calendar$/, [], () => import('../src/app/api/plan/calendar/route')],
  [/^\/api\/jobs$/, [], () => import('../src/app/api/jobs/route')],
  [/^\/api\/jobs\/([^/]+)$/, ['job'], () => import('../src/app/api/jobs/[job]/route')],
  [/^\/api\/blobs$/, [], () => import('../src/app/api/blobs/route')],
  [/^\/api\/blobs\/([^/]+)$/, ['hash'], () => import('../src/app/api/blobs/[hash]/route')],
];

/** Sends a request to its route handler, as the server would. */
export async function ask(path: string, init: RequestInit = {}): Promise<Response> {
  const url = new URL(path, 'http://127.0.0.1:4310');
  for (const [pattern, names, load] of ROUTES) {
    const found = pattern.exec(url.pathname);
    if (!found) continue;
    const handler = ((await load()) as Record<string, Handler>)[init.method ?? 'GET'];
    if (!handler) return new Response(null, { status: 405 });
    const headers = new Headers(init.headers);
    headers.set('host', url.host);
    const params = Object.fromEntries(names.map((n, i) => [n, decodeURIComponent(found[i + 1])]));
    return handler(new Request(url, { ...init, headers }), { params: Promise.resolve(params) });
  }
  return new Response(null, { status: 404 });
}

export async function openBench(): Promise<Bench> {
  const dir = mkdtempSync(join(tmpdir(), 'wellmorph-bench-'));
  process.env.WELLMORPH_DATA = dir;
  const code = join(dir, 'stage.worker.mjs');
  // The solids library looks for its WebAssembly beside its script.
  copyFileSync(createRequire(import.meta.url).resolve('manifold-3d/manifold.wasm'), join(dir, 'manifold.wasm'));
  await build({
    entryPoints: [resolve(import.meta.dirname, '../src/workers/stage.worker.ts')],
    outfile: code,
    bundle: true,
    format: 'esm',
    platform: 'node',
    // The browser's build of the archive library, as in the page.
    alias: { '@': resolve(import.meta.dirname, '../src'), fflate: 'fflate/browser' },
    banner: {
      js: `import { parentPort as port } from 'node:worker_threads';
import { createRequire as forBundle } from 'node:module';
const require = forBundle(import.meta.url);
globalThis.self = { onmessage: null, postMessage: (m) => port.postMessage(m) };
port.on('message', (data) => globalThis.self.onmessage({ data }));`,
    },
    logLevel: 'error',
  });
  const threads = new Set<Thread>();
  const workers = new Set<BenchWorker>();
  class BenchWorker {
    onmessage: ((e: { data: unknown }) => void) | null = null;
    onerror: ((e: { preventDefault(): void }) => void) | null = null;
    /** The kind of work it was handed last. */
    doing = '';
    private readonly thread = new Thread(code);
    constructor() {
      threads.add(this.thread);
      workers.add(this);
      this.thread.on('message', (data) => this.onmessage?.({ data }));
      this.thread.on('error', () => this.onerror?.({ preventDefault() {} }));
      this.thread.unref();
    }
    postMessage(message: unknown): void {
      this.doing = String((message as { kind?: unknown }).kind);
      this.thread.postMessage(message);
    }
    terminate(): void {
      workers.delete(this);
      threads.delete(this.thread);
      void this.thread.terminate();
    }
  }
  const pages = new Set<Workbench>();
  const bench: Bench = {
    dir,
    offline: false,
    answer: null,
    async forget(name, ...of) {
      const [{ database }, { results }, { eq }] = [
        await import('../src/server/db/client'),
        await import('../src/server/db/schema'),
        await import('drizzle-orm'),
      ];
      await (await database()).delete(results).where(eq(results.name, name));
      for (const page of of) page.queries.removeQueries({ queryKey: ['result', name] });
    },
    async page() {
      const [{ Workbench: Page }, { TASKS }] = [await import('../src/session/workbench'), await import('../src/stages/tasks')];
      const page = new Page(TASKS, `wellmorph ${dir}`);
      pages.add(page);
      page.start();
      return page;
    },
    asked: [],
    killWorker(doing) {
      for (const w of workers) {
        // Only a worker that is at work has somebody listening for its end.
        const { onerror } = w;
        if (!onerror || w.doing !== doing) continue;
        w.terminate();
        onerror({ preventDefault() {} });
        return true;
      }
      return false;
    },
    async close() {
      await Promise.all([...pages].map((p) => p.close()));
      await Promise.all([...threads].map((t) => t.terminate()));
      const { closeDatabase } = await import('../src/server/db/client');
      await closeDatabase();
      rmSync(dir, { recursive: true, force: true });
    },
  };
  Object.assign(globalThis, { Worker: BenchWorker });
  Object.assign(globalThis, {
    EventSource: BenchEventSource((path, init) => (bench.offline ? Promise.reject(new TypeError('no server')) : ask(path, init))),
  });
  Object.defineProperty(globalThis, 'navigator', { value: { hardwareConcurrency: 2, locks: new BenchLocks() }, configurable: true });
  globalThis.fetch = (async (input: string | URL, init?: RequestInit) => {
    if (bench.offline) throw new TypeError('no server');
    bench.asked.push(`${init?.method ?? 'GET'} ${input}`);
    const instead = bench.answer?.(String(input), init?.method ?? 'GET');
    if (instead) return instead;
    return ask(String(input), init);
  }) as typeof fetch;
  return bench;
}

/** A thread that does nothing for a minute. */
export const idleThread = (): Thread => new Thread('setTimeout(() => {}, 60000)', { eval: true });

/** Waits until something holds, looking every few milliseconds. @throws when it does not within `seconds` */
export async function until(holds: () => boolean, what: string, seconds = 120): Promise<void> {
  for (const end = Date.now() + seconds * 1000; !holds(); await new Promise((r) => setTimeout(r, 10)))
    if (Date.now() > end) throw new Error(`waited ${seconds} s for: ${what}`);
}

/** Waits until an asset’s form and what is found about it are of the document as it is. */
export async function formed(s: AssetSession): Promise<void> {
  const { isFresh } = await import('../src/session/state');
  const fresh = () => isFresh(s.document, s.state.form, 'form') && isFresh(s.document, s.state.findings, 'findings');
  await until(() => fresh() && !s.state.forming, 'the form');
}
/** Waits until everything asked for is stored. */
export const stored = (s: AssetSession): Promise<void> =>
  until(() => s.state.saving === 'saved' && s.lane.unsent === 0, 'everything to be stored');
