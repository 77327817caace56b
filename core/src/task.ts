import { CancelledError } from './errors';

/** What long work is handed: a way to say how far it is and to learn that it should stop. */
export interface Task {
  /** @param share 0…1 of the whole; @param words what is being done now */
  progress(share: number, words?: string): void;
  cancelled(): boolean;
}

/** A task nobody watches. */
export const QUIET: Task = { progress() {}, cancelled: () => false };

/** @throws CancelledError when the person asked for it */
export function checkpoint(task: Task): void {
  if (task.cancelled()) throw new CancelledError();
}

/** The part of a task between two shares of it. */
export function part(task: Task, from: number, to: number): Task {
  return {
    progress: (share, words) => task.progress(from + (to - from) * share, words),
    cancelled: () => task.cancelled(),
  };
}
