import { bundled, install, run } from './lib.mjs';

/** Damaged files against the readers: `npm run fuzz -- --minutes 5 --seed 7`, or `--only N` for one of them again. */
install();
run(process.execPath, [bundled('core/fuzz/main.ts', 'fuzz'), ...process.argv.slice(2)]);
