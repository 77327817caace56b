import { linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Who owns a data directory: a process and when it started, so that a reused number is not mistaken for it. */
interface Owner {
  pid: number;
  started: string;
}

/** When a process started, from the kernel; empty where that can't be told. */
function startedAt(pid: number): string {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}

function isAlive(owner: Owner): boolean {
  try {
    process.kill(owner.pid, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
  const now = startedAt(owner.pid);
  return now === '' || owner.started === '' || now === owner.started;
}

export class OwnedError extends Error {}

const lockPath = (dir: string): string => join(/* turbopackIgnore: true */ dir, 'owner.json');

/** The live process that owns a directory, or null. */
export function ownerOf(dir: string): Owner | null {
  try {
    const owner = JSON.parse(readFileSync(lockPath(dir), 'utf8')) as Owner;
    return isAlive(owner) ? owner : null;
  } catch {
    return null;
  }
}

/**
 * Takes a data directory for this process. The embedded database takes no lock of its own, and two processes on one
 * directory would destroy it silently. A lock left by a process that is gone is taken over.
 *
 * @throws OwnedError in one sentence when another process has it
 */
export function takeOwnership(dir: string): void {
  mkdirSync(dir, { recursive: true });
  const mine: Owner = { pid: process.pid, started: startedAt(process.pid) };
  for (let tries = 0; tries < 3; tries++) {
    try {
      // Written whole beside it and then given its name: nobody ever sees a lock that doesn't say whose it is.
      const whole = `${lockPath(dir)}.${process.pid}`;
      writeFileSync(whole, JSON.stringify(mine));
      try {
        linkSync(whole, lockPath(dir));
      } finally {
        rmSync(whole, { force: true });
      }
      return;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const owner = ownerOf(dir);
      if (owner?.pid === process.pid) return;
      if (owner)
        throw new OwnedError(
          `The data in ${dir} is already open in another Wellmorph (process ${owner.pid}); close that one first, or set WELLMORPH_DATA to another folder.`,
        );
      rmSync(lockPath(dir), { force: true });
    }
  }
  throw new OwnedError(`The data in ${dir} could not be taken; try again.`);
}

export function releaseOwnership(dir: string): void {
  if (ownerOf(dir)?.pid === process.pid) rmSync(lockPath(dir), { force: true });
}
