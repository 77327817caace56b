/** What is remembered of how fast this machine is, in this browser. */
interface Known {
  /** By what was forecast: how much longer it took than was said. */
  factors: Record<string, number>;
  /** By what was done: how the time was spent on its parts, shares of 1. */
  shares: Record<string, number[]>;
}
const KEY = 'wellmorph-pace';
/** How far one run moves what is believed. */
const LEARN = 0.6;
const [LEAST, MOST] = [0.33, 3];
/** Pieces that are remembered by themselves. */
const PIECES = 100;

/**
 * Corrects forecasts by what came of earlier ones, with the threads, tiles and page they are made in: each run that ends tells how much
 * longer it took than was said, and where its time went. Kept by the browser, since it is about the machine, not about any piece.
 */
export class Pace {
  private known: Known = { factors: {}, shares: {} };

  constructor(private readonly store: Pick<Storage, 'getItem' | 'setItem'> | undefined = globalThis.localStorage) {
    try {
      const read = JSON.parse(this.store?.getItem(KEY) ?? 'null') as Known | null;
      if (read?.factors && read.shares) this.known = read;
    } catch {
      // What can't be read is learned again.
    }
  }

  /** A forecast as it should be said, s. @param of the asset it is made of: pieces differ as machines do, once one was seen */
  corrected(what: string, seconds: number, of?: string): number {
    return seconds * this.factor(what, of);
  }

  /** One ended: `said` is what had been said of it, `took` what it took, s. */
  learn(what: string, said: number, took: number, of?: string): void {
    if (!(said > 0 && took > 0)) return;
    const now = Math.min(MOST, Math.max(LEAST, this.factor(what, of) * (took / said) ** LEARN));
    const { factors } = this.known;
    factors[what] = now;
    if (of !== undefined) {
      const key = `${what} ${of}`;
      // The one seen last stands last.
      delete factors[key];
      factors[key] = now;
      const own = Object.keys(factors).filter((k) => k.includes(' '));
      for (const old of own.slice(0, -PIECES)) delete factors[old];
    }
    this.keep();
  }

  private factor(what: string, of?: string): number {
    const { factors } = this.known;
    return (of === undefined ? undefined : factors[`${what} ${of}`]) ?? factors[what] ?? 1;
  }

  /** Where each part of something begins and ends in its progress, 0…1: by where the time went last, else as is usual. */
  parts(what: string, usual: readonly number[]): [from: number, to: number][] {
    const own = this.known.shares[what];
    const list = own?.length === usual.length ? own : usual;
    const whole = list.reduce((s, x) => s + x, 0);
    let at = 0;
    return list.map((x) => {
      const from = at;
      at += x / whole;
      return [from, Math.min(1, at)];
    });
  }

  /** How long each part took, s. */
  learnParts(what: string, seconds: readonly number[]): void {
    const whole = seconds.reduce((s, x) => s + x, 0);
    if (!(whole > 0.2)) return;
    this.known.shares[what] = seconds.map((x) => Math.max(0.01, x / whole));
    this.keep();
  }

  private keep(): void {
    try {
      this.store?.setItem(KEY, JSON.stringify(this.known));
    } catch {
      // Without room it is only known to this page.
    }
  }
}
