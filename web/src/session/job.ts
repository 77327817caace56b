import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { cancelFlag } from '@/workers/pool';
import type { Run } from './run-stage';
import { isCancelled, sentence } from './sentences';
import type { AssetSession } from './session';
import type { JobKind, JobView } from './state';

let nextId = 1;

/** Words and shares are told to the page no more often than this, ms: drawing a bar over and over takes the machine from the work itself. */
const APART = 250;

/** Runs a job of an asset with progress and cancel; says what went wrong in a sentence. @returns null where it was stopped or failed */
export async function runJob<T>(
  { session, document, what }: { session: AssetSession; document: AssetDocument; what: JobKind },
  work: (run: Run) => Promise<T>,
): Promise<T | null> {
  const { store, bench } = session;
  const cancel = cancelFlag();
  const requests = new AbortController();
  const id = nextId++;
  const job: JobView = {
    id,
    asset: session.id,
    assetName: document.name,
    what,
    share: 0,
    words: '',
    startedAt: Date.now(),
    cancel: () => {
      Atomics.store(cancel, 0, 1);
      requests.abort();
    },
  };
  const put = (change: Partial<JobView>) => {
    const known = store.getState().job;
    if (known?.id !== id) return;
    store.setState({ job: { ...known, ...change } });
    bench.jobChanged(store.getState().job, id);
  };
  store.setState({ job });
  bench.jobChanged(job, id);
  let told = -Infinity;
  const run: Run = {
    document,
    cancel,
    signal: requests.signal,
    report: (share, words) => {
      const now = performance.now();
      if (now - told < APART && share < 1) return;
      told = now;
      const known = store.getState().job;
      put({ share: Math.max(share, known?.share ?? 0), words: words || (known?.words ?? '') });
    },
  };
  try {
    return await work(run);
  } catch (error) {
    const stopped = isCancelled(error);
    session.notify(stopped ? 'Stopped, as asked. Nothing was changed.' : sentence(error), stopped ? 'info' : 'error');
    return null;
  } finally {
    store.setState({ job: null });
    bench.jobChanged(null, id);
  }
}
