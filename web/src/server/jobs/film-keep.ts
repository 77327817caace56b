import { closeSync, mkdirSync, openSync, readFileSync, readSync, statfsSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import type { FilmKeeper } from '@wellmorph/core/pipeline/render';
import { type Film, TILE, type Tile, tilesOf } from '@wellmorph/core/render/film';
import type { Measured } from '@wellmorph/core/render/forecast';
import type { Added, Begun } from '@wellmorph/core/render/schedule';
import { CHANNELS } from '@wellmorph/core/render/tracer';

/** What is said of a tile once its sums are written: where, up to which samples, and a check of its bytes; rays and seconds of all so far. */
interface TileLine {
  tile: number;
  to: number;
  slot: number;
  crc: number;
  rays: number;
  seconds: number;
}
interface PassLine {
  measured: Measured[];
}

/** Passes to fewer samples of each half than this are done in no time. */
const LEAST = 8;
/** Room that is left free beside what a picture keeps. */
const SPARE = 64e6;
/** Bytes of the largest tile, both halves. */
const ROOM = 2 * 4 * CHANNELS * TILE * TILE;

/**
 * Keeps a picture on disk as it grows: of every tile the sums of its last two passes, in turns, and then a line that vouches for them. So
 * whenever it is broken off, every tile has one whole set of sums. Where the disk is full the picture goes on without.
 */
export class FilmKeep implements FilmKeeper {
  private sums = -1;
  private log = -1;
  /** The slot each tile was written to last. */
  private readonly slots = new Map<number, number>();
  private started = performance.now();
  private rays = 0;

  /** @param folder of the job @param name of the result: what another one has done is of no use */
  constructor(
    private readonly folder: string,
    private readonly name: string,
  ) {}

  async begun(film: Film): Promise<Begun | null> {
    const tiles = tilesOf(film.width, film.height);
    try {
      mkdirSync(this.folder, { recursive: true });
      const kept = this.readBack(film, tiles);
      if (!kept && !this.roomFor(tiles.length)) return null;
      this.sums = openSync(this.path('sums'), kept ? 'r+' : 'w+');
      this.log = openSync(this.path('tiles'), kept ? 'a' : 'w');
      // A line that was cut short ends here.
      writeSync(this.log, kept ? '\n' : `${JSON.stringify({ name: this.name })}\n`);
      if (!kept) return null;
      this.rays = kept.rays;
      this.started -= 1000 * kept.seconds;
      return kept;
    } catch {
      this.close();
      film.samples = 0;
      for (const half of film.sums) half.fill(0);
      return null;
    }
  }

  added(film: Film, { index, tile, to, rays }: Added): void {
    this.rays += rays;
    if (to < LEAST) return;
    const slot = 1 - (this.slots.get(index) ?? 1);
    this.write(() => {
      const bytes = bytesOf(film, tile);
      writeSync(this.sums, bytes, 0, bytes.length, (2 * index + slot) * ROOM);
      this.say({ tile: index, to, slot, crc: crc32(bytes), rays: this.rays, seconds: (performance.now() - this.started) / 1000 });
      this.slots.set(index, slot);
    });
  }

  passed(measured: readonly Measured[]): void {
    this.write(() => this.say({ measured: [...measured] }));
  }

  close(): void {
    for (const file of [this.sums, this.log]) if (file >= 0) closeSync(file);
    this.sums = this.log = -1;
  }

  private path(name: string): string {
    return join(this.folder, name);
  }
  private say(line: TileLine | PassLine): void {
    writeSync(this.log, `${JSON.stringify(line)}\n`);
  }
  private write(what: () => void): void {
    if (this.log < 0) return;
    try {
      what();
    } catch {
      this.close();
    }
  }
  private roomFor(tiles: number): boolean {
    const { bavail, bsize } = statfsSync(this.folder);
    return bavail * bsize > 2 * ROOM * tiles + SPARE;
  }

  /** Puts back the sums of all tiles; null where a tile has none that are whole, or they are of another picture. */
  private readBack(film: Film, tiles: readonly Tile[]): Begun | null {
    const lines = readLines(this.path('tiles'));
    if (lines[0]?.name !== this.name) return null;
    const said = lines.filter((l): l is TileLine => l.tile !== undefined && l.crc !== undefined);
    /** Of every tile its last two lines, the last one first. */
    const lastTwo = tiles.map((): TileLine[] => []);
    for (const line of said) if (lastTwo[line.tile]) lastTwo[line.tile] = [line, ...lastTwo[line.tile].slice(0, 1)];
    const sums = openSync(this.path('sums'), 'r');
    try {
      const found = tiles.map((tile, index) => {
        for (const line of lastTwo[index]) {
          const bytes = new Uint8Array(8 * CHANNELS * tile.width * tile.height);
          const read = readSync(sums, bytes, 0, bytes.length, (2 * index + line.slot) * ROOM);
          if (read === bytes.length && crc32(bytes) === line.crc) return { line, bytes };
        }
        return null;
      });
      const whole = found.flatMap((f) => f ?? []);
      if (whole.length < tiles.length) return null;
      const passes = [...new Set(whole.map((f) => f.line.to))].sort((a, b) => a - b);
      // Tiles of one pass, and of the one in work: nothing else comes about by itself.
      if (passes.length > 2) return null;
      for (const [i, { line, bytes }] of whole.entries()) {
        putBack(film, tiles[i], bytes);
        this.slots.set(i, line.slot);
      }
      film.samples = passes[0];
      const last = said[said.length - 1];
      const measured = lines.reduce<Measured[]>((list, l) => l.measured ?? list, []).filter((m) => m.samples <= 2 * film.samples);
      return {
        to: passes[1] ?? 0,
        tiles: new Set(passes.length > 1 ? whole.flatMap((f, i) => (f.line.to === passes[1] ? [i] : [])) : []),
        measured,
        rays: last.rays,
        seconds: last.seconds,
      };
    } finally {
      closeSync(sums);
    }
  }
}

type Line = Partial<TileLine & PassLine> & { name?: string };
function readLines(path: string): Line[] {
  let text = '';
  try {
    text = readFileSync(path, 'utf8');
  } catch {
    return [];
  }
  return text.split('\n').flatMap((line) => {
    try {
      return [JSON.parse(line) as Line];
    } catch {
      return [];
    }
  });
}

/** Visits the rows of a tile in both halves of a film, and where they lie among its bytes. */
function eachRow(film: Film, tile: Tile, visit: (row: Float32Array, at: number) => void): void {
  const row = CHANNELS * tile.width;
  for (const [half, sums] of film.sums.entries())
    for (let y = 0; y < tile.height; y++) {
      const from = CHANNELS * ((tile.y + y) * film.width + tile.x);
      visit(sums.subarray(from, from + row), row * (half * tile.height + y));
    }
}
function bytesOf(film: Film, tile: Tile): Uint8Array {
  const out = new Float32Array(2 * CHANNELS * tile.width * tile.height);
  eachRow(film, tile, (row, at) => out.set(row, at));
  return new Uint8Array(out.buffer);
}
function putBack(film: Film, tile: Tile, bytes: Uint8Array): void {
  const values = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length / 4);
  eachRow(film, tile, (row, at) => row.set(values.subarray(at, at + row.length)));
}
