import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { answering, bin, build, chromium, install, needChromium, ROOT, run, say, serve } from './lib.mjs';

/** Browser tests against a server of their own, on data of their own. Arguments go to the test runner. */
install();
needChromium();
build();
const data = mkdtempSync(join(tmpdir(), 'wellmorph-e2e-'));
const port = Number(process.env.E2E_PORT ?? 4399);
run(bin('tsx'), ['--tsconfig', 'tsconfig.base.json', 'scripts/seed.ts'], { env: { WELLMORPH_DATA: data, WELLMORPH_SEED: 'light' } });
const server = serve({ port, data, stdio: ['ignore', 'ignore', 'inherit'] });
let status = 1;
try {
  if (await answering(port, server)) {
    const done = spawnSync(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts', ...process.argv.slice(2)], {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, E2E_PORT: String(port), CHROMIUM: chromium() },
    });
    status = done.status ?? 1;
  } else say('The server for the browser tests did not start.');
} finally {
  server.kill('SIGTERM');
  await new Promise((r) => (server.exitCode === null ? server.once('exit', r) : r()));
  rmSync(data, { recursive: true, force: true });
}
process.exit(status);
