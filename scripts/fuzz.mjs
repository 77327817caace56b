import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { bin, install, ROOT, run } from './lib.mjs';

/** Damaged files against the readers: `npm run fuzz -- --minutes 5 --seed 7`, or `--only N` for one of them again. */
install();
const home = join(ROOT, 'node_modules/.cache/wellmorph-fuzz');
mkdirSync(home, { recursive: true });
const built = join(home, 'fuzz.mjs');
run(bin('esbuild'), [
  'core/fuzz/main.ts',
  '--bundle',
  '--platform=node',
  '--format=esm',
  '--target=node20',
  '--tsconfig=tsconfig.base.json',
  '--external:manifold-3d',
  '--external:draco3d',
  "--banner:js=import { createRequire as forBundle } from 'node:module'; const require = forBundle(import.meta.url);",
  `--outfile=${built}`,
  '--log-level=error',
]);
run(process.execPath, [built, ...process.argv.slice(2)]);
