import { bin, install, ROOT, run } from './lib.mjs';

/** Blurs the studio's light anew. To be run, and committed, whenever it changes. */
install();
run(bin('tsx'), ['scripts/studio.ts', ROOT]);
