import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { answering, bin, build, chromium, install, ROOT, run, say, seed, serve } from './lib.mjs';

/** Speeds of the core, and of opening the demo asset in a real browser. */
install();
// Bundled, as the application is: run as sources, closures carry names along and some loops take twice as long.
const built = join(mkdtempSync(join(tmpdir(), 'wellmorph-bench-')), 'bench.mjs');
run(bin('esbuild'), ['core/bench/main.ts', '--bundle', '--platform=node', '--format=esm', `--outfile=${built}`, '--log-level=error']);
run(process.execPath, [built]);
if (chromium()) {
  build();
  const data = mkdtempSync(join(tmpdir(), 'wellmorph-bench-'));
  seed({ WELLMORPH_DATA: data, WELLMORPH_SEED: 'light' }, true);
  const port = 4397;
  const server = serve({ port, data, stdio: ['ignore', 'ignore', 'inherit'] });
  try {
    if (await answering(port, server))
      run(bin('tsx'), [join(ROOT, 'e2e/open-bench.ts')], { env: { E2E_PORT: String(port), CHROMIUM: chromium() } });
  } finally {
    server.kill('SIGTERM');
    await new Promise((r) => (server.exitCode === null ? server.once('exit', r) : r()));
    rmSync(data, { recursive: true, force: true });
  }
} else say('Chromium is missing, so opening the demo asset was not timed.');
