import { access, type FileHandle, mkdir, open, readFile, rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { BAND, type Counts, LAYERS } from '@wellmorph/core/bake/bands';
import type { Texels } from '@wellmorph/core/bake/texels';
import { InputError } from '@wellmorph/core/errors';
import { dataDir } from '../paths';

/** Where jobs keep what they have done so far. */
export const workDir = (): string => join(dataDir(), 'work');
export const folderOf = (job: string): string => join(workDir(), job);

/** A band as it was finished. */
interface Done {
  band: number;
  counts: Counts;
}

/** Room that is left free beside what a job needs. */
const SPARE = 64e6;

/**
 * What a bake has done so far, on disk: every finished band’s texels at their place in one file, and then a line that says so. A band whose
 * line is missing or broken was not finished.
 */
export class Checkpoint {
  private texelsFile: FileHandle | null = null;
  private log: FileHandle | null = null;
  private writing: Promise<void> = Promise.resolve();

  private constructor(
    readonly _folder: string,
    private readonly texels: Texels,
  ) {}

  /**
   * Opens what a job has kept, and reads it back into the texels.
   *
   * @param name of the result: what another one has done is of no use
   * @returns with the bands that are finished already
   * @throws InputError `job/space` where the disk has no room for it
   */
  static async open(job: string, name: string, texels: Texels): Promise<{ checkpoint: Checkpoint; done: Done[] }> {
    const folder = folderOf(job);
    await mkdir(folder, { recursive: true });
    const path = join(folder, 'texels');
    const there = await access(path).then(
      () => true,
      () => false,
    );
    const kept = there ? await readLog(join(folder, 'bands'), name) : null;
    const bytes = LAYERS.reduce((n, l) => n + texels[l].byteLength, 0);
    if (!kept) {
      const { bavail, bsize } = await statfs(folder);
      if (bavail * bsize < bytes + SPARE) {
        await rm(folder, { recursive: true, force: true });
        throw new InputError(
          'job/space',
          `The disk has ${megabytes(bavail * bsize)} left; this bake keeps ${megabytes(bytes)} of what it has done. Free some, or bake fewer maps.`,
        );
      }
    }
    const made = new Checkpoint(folder, texels);
    made.texelsFile = await open(path, kept ? 'r+' : 'w+');
    made.log = await open(join(folder, 'bands'), kept ? 'a' : 'w');
    if (kept) {
      for (const { band } of kept) await made.readBack(band);
      // A line that was cut short ends here.
      await made.log.write('\n');
    } else await made.log.write(`${JSON.stringify({ name })}\n`);
    return { checkpoint: made, done: kept ?? [] };
  }

  /** Keeps a finished band; one after the other. @throws Error when the disk is full */
  keep(band: number, counts: Counts): Promise<void> {
    this.writing = this.writing.then(async () => {
      await this.each(band, (slice, at) => (this.texelsFile as FileHandle).write(slice, 0, slice.length, at));
      await (this.texelsFile as FileHandle).datasync();
      await (this.log as FileHandle).write(`${JSON.stringify({ band, counts } satisfies Done)}\n`);
    });
    return this.writing;
  }

  /** Lets go of the files; they stay. */
  async close(): Promise<void> {
    await this.writing.catch(() => {});
    await this.texelsFile?.close();
    await this.log?.close();
    this.texelsFile = this.log = null;
  }

  private readBack(band: number): Promise<void> {
    return this.each(band, async (slice, at) => {
      // What is shared between threads is not read into directly.
      const bytes = new Uint8Array(slice.length);
      await (this.texelsFile as FileHandle).read(bytes, 0, bytes.length, at);
      slice.set(bytes);
    });
  }

  /** The bytes of each layer that a band has, and where they lie in the file. */
  private async each(band: number, visit: (slice: Uint8Array, at: number) => Promise<unknown>): Promise<void> {
    const { size } = this.texels;
    const rows = Math.min(BAND, size - band * BAND);
    let base = 0;
    for (const layer of LAYERS) {
      const array = this.texels[layer];
      const row = array.byteLength / size;
      if (row > 0) await visit(new Uint8Array(array.buffer, array.byteOffset + band * BAND * row, rows * row), base + band * BAND * row);
      base += array.byteLength;
    }
  }
}

const megabytes = (bytes: number): string => `${Math.ceil(bytes / 1e6)} MB`;

/** Bands that were finished for a result; null where nothing is kept, or it was for another. */
async function readLog(path: string, name: string): Promise<Done[] | null> {
  const text = await readFile(path, 'utf8').catch(() => null);
  if (text === null) return null;
  const lines = text.split('\n').map((line) => {
    try {
      return JSON.parse(line) as Partial<Done> & { name?: string };
    } catch {
      return {};
    }
  });
  if (lines[0]?.name !== name) return null;
  const done = new Map<number, Done>();
  for (const l of lines) if (l.band !== undefined && l.counts) done.set(l.band, { band: l.band, counts: l.counts });
  return [...done.values()];
}

/** Takes away what a job has kept. */
export const forget = (job: string): Promise<void> => rm(folderOf(job), { recursive: true, force: true });
