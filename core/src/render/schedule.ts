import { CancelledError, StageError } from '../errors';
import { checkpoint, QUIET, type Task } from '../task';
import { addTile, type Development, type Film, noiseOf, type Pass, type Tile, tilesOf } from './film';
import { type Measured, passesTo } from './forecast';

/** Somebody who traces tiles: a worker, or this thread. */
export interface Tracer {
  /** @throws anything when it dies; the tile is then traced by another */
  trace(pass: Pass): Promise<{ halves: [Float32Array, Float32Array]; rays: number }>;
  dismiss(): void;
}

/** Hires tracers: as many as `size`, and a new one for each that dies. */
export interface Crew {
  size: number;
  hire(): Tracer;
}

/** How long a film is traced. */
export interface TraceOptions {
  /** Per pixel, both halves together. */
  samples: number;
  seed: number;
  /** Stop as soon as the noise is this low, share of full. */
  noise?: number;
  development: Development;
  /** Seconds. */
  clock: () => number;
  task?: Task;
  /** Measures the noise elsewhere, where this thread must stay free. */
  measure?: (film: Film, samples: number) => Promise<number>;
  /** After each pass over the whole picture. */
  onPass?: (film: Film, measured: readonly Measured[]) => void;
  /** After each tile, for a picture that grows. */
  onTile?: (tile: Tile) => void;
}

/** Times a tile is tried before the picture is given up. */
const TRIES = 2;

/**
 * Traces a film pass by pass, doubling, tiles handed to whoever is free. A tile whose worker dies is traced once more by a new
 * one; when that dies too, the picture is given up in a sentence. Tiles are added whole, so what is there is right, and the
 * same whoever traced them.
 *
 * @throws StageError `render/worker`, CancelledError
 */
export async function traceFilm(
  film: Film,
  crew: Crew,
  options: TraceOptions,
): Promise<{ measured: Measured[]; rays: number; seconds: number }> {
  const { clock, development, task = QUIET } = options;
  const measure = options.measure ?? (async (f: Film, samples: number) => noiseOf(f, development, samples));
  const start = clock();
  const half = Math.max(1, Math.ceil(options.samples / 2));
  const measured: Measured[] = [];
  const pixels = film.width * film.height;
  let rays = 0;
  let done = 0;
  const hands: Tracer[] = [];
  try {
    for (const to of passesTo(half)) {
      const from = film.samples;
      if (to <= from) continue;
      const waiting = tilesOf(film.width, film.height).map((tile) => ({ tile, tries: 0 }));
      let failed: unknown = null;
      const work = async (k: number): Promise<void> => {
        for (;;) {
          const next = waiting.shift();
          if (!next || failed) return;
          checkpoint(task);
          hands[k] ??= crew.hire();
          const pass: Pass = { tile: next.tile, from, to, width: film.width, height: film.height, seed: options.seed };
          try {
            const traced = await hands[k].trace(pass);
            checkpoint(task);
            addTile(film, next.tile, traced.halves);
            rays += traced.rays;
          } catch (error) {
            if (error instanceof CancelledError) throw error;
            hands[k].dismiss();
            delete hands[k];
            if (++next.tries >= TRIES) {
              failed = error;
              throw new StageError(
                'render/worker',
                `A worker stopped twice on the tile at ${next.tile.x}, ${next.tile.y}; the picture was given up after ${2 * from} samples per pixel.`,
              );
            }
            waiting.unshift(next);
            continue;
          }
          done += (to - from) * next.tile.width * next.tile.height;
          task.progress(done / (half * pixels), `${2 * to} samples per pixel`);
          options.onTile?.(next.tile);
        }
      };
      const all = await Promise.allSettled(Array.from({ length: Math.min(crew.size, waiting.length) }, (_, k) => work(k)));
      for (const one of all) if (one.status === 'rejected') throw one.reason;
      film.samples = to;
      measured.push({ samples: 2 * to, noise: await measure(film, to), seconds: clock() - start });
      options.onPass?.(film, measured);
      if (options.noise !== undefined && measured[measured.length - 1].noise <= options.noise && to >= 4) break;
    }
  } finally {
    for (const h of hands) h?.dismiss();
  }
  return { measured, rays, seconds: clock() - start };
}
