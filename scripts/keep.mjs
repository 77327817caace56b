import { join } from 'node:path';
import { bundled, install, ROOT, run } from './lib.mjs';

/** Makes anew what comes ready with the demo. To be run, and committed, whenever a result of the lantern changes. */
install();
run(process.execPath, [bundled('scripts/keep.ts', 'keep'), join(ROOT, 'demo/kept')]);
