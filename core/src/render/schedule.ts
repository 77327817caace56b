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

/** How far a film had got when it was put down: passes that are whole are in its sums, and of the next one some tiles. */
export interface Begun {
  /** Samples of each half that the pass in work goes to; its tiles that are done, by their place in {@link tilesOf}. */
  to: number;
  tiles: ReadonlySet<number>;
  measured: readonly Measured[];
  rays: number;
  seconds: number;
}

/** A tile that was added, by its place in {@link tilesOf}, and the samples of each half that it has now. */
export interface Added {
  index: number;
  tile: Tile;
  to: number;
  rays: number;
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
  /** Where it goes on; its film has the passes that were whole, and the tiles. */
  begun?: Begun;
  /** After each pass over the whole picture. */
  onPass?: (film: Film, measured: readonly Measured[]) => void;
  /** After each tile, for a picture that grows or is kept as it does. */
  onTile?: (added: Added) => void;
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
  const { clock, development, begun, task = QUIET } = options;
  const measure = options.measure ?? (async (f: Film, samples: number) => noiseOf(f, development, samples));
  const start = clock() - (begun?.seconds ?? 0);
  const half = Math.max(1, Math.ceil(options.samples / 2));
  const measured: Measured[] = [...(begun?.measured ?? [])];
  const pixels = film.width * film.height;
  let rays = begun?.rays ?? 0;
  let done = film.samples * pixels;
  const hands: Tracer[] = [];
  try {
    const quiet = () =>
      options.noise !== undefined && measured.length > 0 && measured[measured.length - 1].noise <= options.noise && film.samples >= 4;
    for (const to of passesTo(half)) {
      const from = film.samples;
      if (to <= from) continue;
      if (quiet()) break;
      const tiles = tilesOf(film.width, film.height);
      const there = (index: number) => begun?.to === to && begun.tiles.has(index);
      const waiting = tiles.flatMap((tile, index) => (there(index) ? [] : [{ tile, index, tries: 0 }]));
      for (const [index, tile] of tiles.entries()) if (there(index)) done += (to - from) * tile.width * tile.height;
      let failed: unknown = null;
      const work = async (k: number): Promise<void> => {
        for (;;) {
          const next = waiting.shift();
          if (!next || failed) return;
          checkpoint(task);
          hands[k] ??= crew.hire();
          const pass: Pass = { tile: next.tile, from, to, width: film.width, height: film.height, seed: options.seed };
          let traced: Awaited<ReturnType<Tracer['trace']>>;
          try {
            traced = await hands[k].trace(pass);
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
          options.onTile?.({ index: next.index, tile: next.tile, to, rays: traced.rays });
        }
      };
      const all = await Promise.allSettled(Array.from({ length: Math.min(crew.size, waiting.length) }, (_, k) => work(k)));
      for (const one of all) if (one.status === 'rejected') throw one.reason;
      film.samples = to;
      measured.push({ samples: 2 * to, noise: await measure(film, to), seconds: clock() - start });
      options.onPass?.(film, measured);
    }
  } finally {
    for (const h of hands) h?.dismiss();
  }
  return { measured, rays, seconds: clock() - start };
}
