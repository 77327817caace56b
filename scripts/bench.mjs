import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { benchFolder } from './bench-folder.mjs';
import { answering, bin, build, bundled, chromium, install, ROOT, run, say, seed, serve } from './lib.mjs';

/** Speeds of the core, and of opening the demo asset in a real browser. */
install();
run(process.execPath, [bundled('core/bench/main.ts', 'bench')]);
benchFolder();
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
