import { CancelledError } from '@wellmorph/core/errors';
import type { NewTrial, Trial } from '@/server/db/trials';
import { cancelFlag, WorkError } from '@/workers/pool';
import { send } from './api';
import { picture } from './forming';
import { type JobView, notify, now, sentence, set } from './state';

/**
 * Runs one job at a time with progress and cancel; says what went wrong in a sentence. `cancel` goes to every worker of the
 * job, so that one asked for after the button was pressed stops before it begins.
 */
export async function job<T>(
  what: JobView['what'],
  work: (report: (share: number, words: string) => void, cancel: Int32Array) => Promise<T>,
): Promise<T | null> {
  if (now().job) {
    notify('Something is being computed already; wait for it or stop it.');
    return null;
  }
  const cancel = cancelFlag();
  set({ job: { what, share: 0, words: '', startedAt: Date.now(), cancel: () => Atomics.store(cancel, 0, 1) } });
  try {
    return await work(
      (share, words) => set((s) => ({ job: s.job && { ...s.job, share: Math.max(share, s.job.share), words: words || s.job.words } })),
      cancel,
    );
  } catch (error) {
    const cancelled = error instanceof CancelledError || (error instanceof WorkError && error.code === 'cancelled');
    notify(cancelled ? 'Stopped, as asked. Nothing was changed.' : sentence(error), cancelled ? 'info' : 'error');
    return null;
  } finally {
    set({ job: null });
  }
}

/** Keeps an attempt. `thumbnail` is the piece's own picture where none is given. */
export async function addTrial(trial: Omit<NewTrial, 'thumbnail'>, thumbnail = picture()): Promise<void> {
  const { id } = now();
  try {
    const made = await send<Trial>('POST', `/api/assets/${id}/trials`, { ...trial, ...(thumbnail && { thumbnail }) });
    if (now().id === id) set((s) => ({ trials: [made, ...s.trials] }));
  } catch (error) {
    notify(`The trial could not be kept: ${sentence(error)}`, 'error');
  }
}

export async function judgeTrial(trial: string, change: { verdict?: string; note?: string }): Promise<void> {
  const { id } = now();
  try {
    const made = await send<Trial>('PATCH', `/api/assets/${id}/trials/${trial}`, change);
    set((s) => ({ trials: s.trials.map((t) => (t.id === trial ? made : t)) }));
  } catch (error) {
    notify(sentence(error), 'error');
  }
}
