import { execFile } from 'node:child_process';
import { resolve } from 'node:path';

const BIN = resolve(import.meta.dirname, '../bin/wellmorph.mjs');

export interface Ran {
  code: number;
  out: string;
  err: string;
  /** Standard output as it came. */
  bytes: Buffer;
}

/** Runs the command as a person would, in a folder: a process of its own, with something on its standard input where given. */
export const ranIn =
  (dir: () => string) =>
  (args: readonly string[], { input, env }: { input?: Uint8Array; env?: Record<string, string> } = {}): Promise<Ran> =>
    new Promise((ok) => {
      const child = execFile(
        process.execPath,
        [BIN, ...args],
        { cwd: dir(), maxBuffer: 1e9, encoding: 'buffer', env: { ...process.env, ...env } },
        (error, out, err) => ok({ code: error ? Number(error.code ?? 1) : 0, out: out.toString(), err: err.toString(), bytes: out }),
      );
      // A command that doesn't read it has ended before it is written.
      child.stdin?.on('error', () => {});
      child.stdin?.end(input);
    });
