import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { build } from 'esbuild';

/** Within the project, so that packages that aren't bundled are found from there. */
const HOME = resolve(import.meta.dirname, '../../node_modules/.cache');

/**
 * A server worker's source as one file that a thread can be started from, as the server's own build would make it; gone when the tests end.
 *
 * @returns its path
 */
export async function builtWorker(source: string): Promise<string> {
  mkdirSync(HOME, { recursive: true });
  const folder = mkdtempSync(join(HOME, 'wellmorph-worker-'));
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  const outfile = join(folder, `${basename(source, '.ts')}.mjs`);
  await build({
    entryPoints: [source],
    outfile,
    bundle: true,
    format: 'esm',
    platform: 'node',
    logLevel: 'error',
    // They bring files of their own that they look for beside themselves.
    external: ['manifold-3d', 'draco3d', 'occt-import-js'],
    banner: { js: "import { createRequire as forBundle } from 'node:module'; const require = forBundle(import.meta.url);" },
  });
  return outfile;
}
