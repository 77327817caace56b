import type { Station } from '@/shared/stations';

/** Nobody is at work any more after this long without a touch, ms. */
export const IDLE = 5 * 60_000;
/** How often it is looked whether somebody is at work, ms. Longer gaps are of a machine that slept, or a page that was held: not work. */
const BEAT = 10_000;
/** Seconds are handed in once there are so many, or when the page or the stage is left. */
const ENOUGH = 60;

/** What tells the time and takes what was counted: the browser’s own, or a test’s. */
export interface Keeping {
  /** ms of a clock that never goes back: the one on the wall can be set. */
  ticks(): number;
  /** The day it is, as days are written. */
  day(): string;
  /** @returns whether it was taken; what wasn’t is handed in again later */
  hand(asset: string, stage: Station, day: string, seconds: number): Promise<boolean>;
}

interface Counted {
  asset: string;
  stage: Station;
  day: string;
  seconds: number;
}

/**
 * Counts the time somebody works on a stage of a piece: while its sheet is in front, and was touched in the last five minutes. The time up to
 * the last touch counts and the idle minutes after it don’t.
 */
export class TimeKeeper {
  private at: { asset: string; stage: Station } | null = null;
  private touchedAt = Number.NEGATIVE_INFINITY;
  private countedTo = 0;
  private waiting: Counted[] = [];
  private handing = false;
  /** All of it is to be handed in, however little: the stage was left. */
  private all = false;

  constructor(private readonly by: Keeping) {}

  /** Another stage is looked at, or none. What was counted for the last one is handed in. */
  look(asset: string, stage: Station): void {
    this.beat();
    this.at = { asset, stage };
    this.touch();
    void this.handIn(true);
  }
  leave(): void {
    this.beat();
    this.at = null;
    void this.handIn(true);
  }

  /** Somebody did something. */
  touch(): void {
    const now = this.by.ticks();
    // Back after idling: what lies between was no work.
    if (now - this.touchedAt > IDLE) this.countedTo = now;
    else this.count(now);
    this.touchedAt = now;
  }

  /** To be called every {@link BEAT} while the page is in front. */
  beat(): void {
    const now = this.by.ticks();
    if (now - this.touchedAt <= IDLE) this.count(now);
    void this.handIn();
  }

  private count(now: number): void {
    const passed = now - this.countedTo;
    this.countedTo = now;
    if (!this.at || passed <= 0 || passed > 3 * BEAT) return;
    const day = this.by.day();
    const last = this.waiting.at(-1);
    const seconds = passed / 1000;
    if (last && last.asset === this.at.asset && last.stage === this.at.stage && last.day === day) last.seconds += seconds;
    else this.waiting.push({ ...this.at, day, seconds });
  }

  /** Hands in what was counted, oldest first; one after another, so that nothing is handed in twice. */
  private async handIn(all = false): Promise<void> {
    this.all ||= all;
    if (this.handing) return;
    this.handing = true;
    try {
      while (this.waiting.length > 1 || (this.waiting[0]?.seconds ?? 0) > (this.all ? 0 : ENOUGH)) {
        const one = this.waiting.shift() as Counted;
        // What is counted meanwhile for the same is counted anew.
        if (one.seconds >= 0.5 && !(await this.by.hand(one.asset, one.stage, one.day, Math.min(3600, one.seconds)).catch(() => false))) {
          this.waiting.unshift(one);
          return;
        }
      }
      this.all = false;
    } finally {
      this.handing = false;
    }
  }
}
export const TIME_BEAT = BEAT;
