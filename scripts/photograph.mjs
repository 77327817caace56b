import { join } from 'node:path';
import { bundled, install, ROOT, run } from './lib.mjs';

/** Draws the demo's photographs anew. To be run, and committed, whenever the notice box changes. */
install();
run(process.execPath, [bundled('scripts/photograph.ts', 'photograph'), join(ROOT, 'demo/kept'), ...process.argv.slice(2)]);
