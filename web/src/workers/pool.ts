import { LANES } from '@wellmorph/core/rays/kernel/lanes';
import type { Answer, Ask, Held, Kind, Work } from './protocol';

export class WorkError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** A flag in shared memory; set to 1 it stops every worker that was handed it. */
export const cancelFlag = (): Int32Array => new Int32Array(new SharedArrayBuffer(4));

interface Seat {
  worker: Worker;
  busy: boolean;
  /** Where it writes in memory that all share. */
  lane: number;
  /** Which of what is held it was handed last. */
  holds: number;
}

/**
 * Workers for the sheet, each doing one thing at a time: as many as the machine has cores, at most four, for long work, and one more, so
 * that forming, picking and other assets’ work go on while a bake or a picture keeps all the others busy.
 */
export class Pool {
  private seats: Seat[] = [];
  private waiting: (() => void)[] = [];
  private next = 1;
  private hired = 0;

  get size(): number {
    return this.threads + 1;
  }

  /** How many workers one job may keep busy at once. */
  get threads(): number {
    return Math.max(1, Math.min(4, navigator.hardwareConcurrency || 2));
  }

  /** Something that many requests are about: copied to each worker once, however large it is. */
  hold<T>(value: T): Held<T> {
    return { id: this.next++, value };
  }

  /** Has one worker do one thing. @throws WorkError with the sentence of what went wrong, `cancelled` when it was stopped */
  async run<K extends Kind>(
    kind: K,
    ask: Work[K]['ask'],
    onProgress?: (share: number, words: string) => void,
    cancel = cancelFlag(),
    held?: Held<unknown>,
  ): Promise<Work[K]['answer']> {
    const seat = await this.seat();
    const id = this.next++;
    return new Promise<Work[K]['answer']>((resolve, reject) => {
      const end = () => {
        seat.worker.onmessage = null;
        seat.worker.onerror = null;
        seat.busy = false;
        this.waiting.shift()?.();
      };
      seat.worker.onmessage = (event: MessageEvent<Answer>) => {
        const m = event.data;
        if (m.id !== id) return;
        if (m.type === 'progress') onProgress?.(m.share, m.words);
        else {
          end();
          if (m.type === 'done') resolve(m.answer as Work[K]['answer']);
          else reject(new WorkError(m.code, m.message));
        }
      };
      seat.worker.onerror = (event) => {
        event.preventDefault();
        seat.worker.terminate();
        this.seats = this.seats.filter((s) => s !== seat);
        end();
        reject(new WorkError('worker/died', 'The computation stopped unexpectedly; nothing was changed. Try it again.'));
      };
      const about = held && (seat.holds === held.id ? { held: { id: held.id } } : { held: { id: held.id, value: held.value } });
      if (held) seat.holds = held.id;
      seat.worker.postMessage({ id, kind, ask, cancel, lane: seat.lane, ...about } satisfies Ask<K>);
    });
  }

  /** Starts workers before anything is asked of them: reading their code in takes longer than showing a piece. */
  warm(workers = 2): void {
    while (this.seats.length < Math.min(workers, this.size)) this.hire().busy = false;
  }

  private hire(): Seat {
    // Lanes in turn: a worker that died may still be writing in its own.
    const lane = 1 + (this.hired++ % (LANES - 1));
    const worker = new Worker(new URL('./stage.worker.ts', import.meta.url), { type: 'module' });
    const seat: Seat = { worker, lane, busy: true, holds: 0 };
    this.seats.push(seat);
    return seat;
  }

  private async seat(): Promise<Seat> {
    for (;;) {
      const free = this.seats.find((s) => !s.busy);
      if (free) {
        free.busy = true;
        return free;
      }
      if (this.seats.length < this.size) return this.hire();
      await new Promise<void>((resolve) => this.waiting.push(resolve));
    }
  }
}
