import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { allFormed, answering, bin, build, chromium, ended, install, needChromium, ROOT, seed, serve } from './lib.mjs';

/** Browser tests; each file of them has a server of its own on a copy of the demo data. Arguments go to the test runner. */
install();
needChromium();
build();
const data = mkdtempSync(join(tmpdir(), 'wellmorph-e2e-'));
let status = 1;
try {
  seed({ WELLMORPH_DATA: data, WELLMORPH_SEED: 'light' });
  // The pieces are formed once, by the server itself; every file of tests starts from there.
  const port = Number(process.env.E2E_PORT ?? 4399);
  const server = serve({ port, data, stdio: ['ignore', 'ignore', 'inherit'] });
  const ready = (await answering(port, server)) && (await allFormed(port));
  await ended(server);
  if (!ready) throw new Error('the server did not form the demo’s pieces');
  const done = spawnSync(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts', ...process.argv.slice(2)], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, E2E_DATA: data, E2E_PORT: process.env.E2E_PORT ?? '4399', CHROMIUM: chromium() },
  });
  status = done.status ?? 1;
} finally {
  rmSync(data, { recursive: true, force: true });
}
process.exit(status);
