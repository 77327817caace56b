import type { TrialWords } from '@wellmorph/core/pipeline/trials';

/** A job that is being done: what its doer may ask of it and tell it. */
export interface Working {
  /** Set to 1 to stop; threads look at it. */
  cancel: Int32Array;
  stopped(): boolean;
  /** It was stopped to go on later. */
  paused(): boolean;
  /** Since it was begun, s. */
  seconds(): number;
  told(share: number, words: string): void;
}

/** What came of a job, for its trial. */
export interface Outcome {
  trial: TrialWords;
  seconds: number;
  thumbnail: string | null;
}

/** It was stopped, as somebody asked. */
export class Stopped extends Error {}
