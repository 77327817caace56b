import { bin, install, ROOT, run } from './lib.mjs';

/** Compiles the ray kernel anew. To be run, and committed, whenever its source changes. */
install();
run(bin('tsx'), ['scripts/kernel.ts', ROOT]);
