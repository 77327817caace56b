import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { benchFolder } from './bench-folder.mjs';
import { allFormed, answering, bin, build, bundled, chromium, ended, install, ROOT, run, say, serve, start } from './lib.mjs';

/** Speeds of the core, and of opening the demo asset in a real browser; `layouts` alone: layouts beside those of a general-purpose library; `bakes` alone: bakes of large maps; `gather` alone: ten textured models on one set; `photo` alone: a photograph of 48 megapixels laid on a box; `layers` alone: sets of three and twelve layers; `prints` alone: labels on a bottle; `variants` alone: sets of ten of it; `logbook` alone: questions to a logbook of 20 000 runs. */
install();
if (process.argv[2] === 'logbook') await logbook();
else run(process.execPath, [bundled('core/bench/main.ts', 'bench'), ...process.argv.slice(2)]);
if (process.argv.length === 2) {
  benchFolder();
  await startOver();
}

/** From installed packages to the first answer: everything built and prepared, and then once more with all of it there. */
async function startOver() {
  const data = mkdtempSync(join(tmpdir(), 'wellmorph-bench-'));
  const port = 4397;
  const loop = calibration();
  const timed = async (words, wanted) => {
    const began = performance.now();
    const { server, answers } = await start({ port, data });
    const seconds = (performance.now() - began) / 1000;
    say(
      answers
        ? `${words}: ${seconds.toFixed(1)} s, ${(seconds / loop).toFixed(1)} × calibration (wanted ≤ ${wanted} s on a quiet machine)`
        : `${words}: the server did not answer`,
    );
    return { server, answers };
  };
  try {
    rmSync(join(ROOT, 'web/.next'), { recursive: true, force: true });
    const first = await timed('first start of the demo, packages installed', 45);
    const began = performance.now();
    if (first.answers && (await allFormed(port)))
      say(`every other piece formed in the background: ${((performance.now() - began) / 1000).toFixed(1)} s after that`);
    await ended(first.server);
    const second = await timed('second start', 5);
    if (second.answers && chromium())
      run(bin('tsx'), [join(ROOT, 'e2e/open-bench.ts')], { env: { E2E_PORT: String(port), CHROMIUM: chromium() } });
    else say('Chromium is missing, so opening the demo asset was not timed.');
    await ended(second.server);
  } finally {
    rmSync(data, { recursive: true, force: true });
  }
}

/** Questions to a full logbook, then how long its views take to open in a browser. */
async function logbook() {
  const data = mkdtempSync(join(tmpdir(), 'wellmorph-bench-'));
  const port = 4397;
  try {
    run(bin('tsx'), ['--tsconfig', 'tsconfig.base.json', 'web/bench/logbook.ts'], { env: { WELLMORPH_DATA: data } });
    if (!chromium()) return say('Chromium is missing, so opening the logbook was not timed.');
    build();
    const server = serve({ port, data, stdio: ['ignore', 'ignore', 'inherit'] });
    process.on('exit', () => server.kill('SIGTERM'));
    // Pieces that were never formed are formed in the background, which would be timed too.
    if ((await answering(port, server)) && (await allFormed(port)))
      run(bin('tsx'), [join(ROOT, 'e2e/logbook-bench.ts')], { env: { E2E_PORT: String(port), CHROMIUM: chromium() } });
    await ended(server);
  } finally {
    rmSync(data, { recursive: true, force: true });
  }
}

/** One round of a fixed loop, s: what times on different machines are told in. */
function calibration() {
  const done = spawnSync(process.execPath, [bundled('core/bench/loop.ts', 'loop')], { encoding: 'utf8' });
  return Number(done.stdout);
}
