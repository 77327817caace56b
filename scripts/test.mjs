import { bin, build, install, needChromium, run, say } from './lib.mjs';

/** Everything that has to hold: types, lint with the layer rules, unit tests, browser tests. */
const start = Date.now();
const step = (words) => say(`\n── ${words} (${Math.round((Date.now() - start) / 1000)} s) ──`);

install();
step('Types');
run('node', ['scripts/types.mjs']);
step('Lint and layers');
run(bin('biome'), ['check', '.', '--error-on-warnings']);
step('Unit tests');
run(bin('vitest'), ['run']);
step('Browser tests');
needChromium();
build();
run('node', ['scripts/e2e.mjs']);
say(`\nAll of it holds, in ${Math.round((Date.now() - start) / 1000)} s.`);
