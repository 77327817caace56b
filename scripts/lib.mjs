import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '..');
export const say = (line) => process.stdout.write(`${line}\n`);

/** Runs a program in the clone; ends this one with its code when it fails. */
export function run(command, args, { env = {}, quiet = false, cwd = ROOT } = {}) {
  const done = spawnSync(command, args, {
    cwd,
    stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...env },
  });
  if (done.status !== 0) {
    if (quiet) process.stderr.write(`${done.stdout}${done.stderr}`);
    say(`Stopped: ${command} ${args.join(' ')} did not succeed.`);
    process.exit(done.status ?? 1);
  }
}

export const bin = (name) => join(ROOT, 'node_modules/.bin', name);

function needNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 16)) {
    say(`Wellmorph needs Node 20.16 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
}

/** Installs the packages when they are missing or the lock file has changed since. */
export function install() {
  needNode();
  const mark = join(ROOT, 'node_modules/.wellmorph-lock');
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('Installing packages …');
  run('npm', ['ci', '--no-audit', '--no-fund'], { quiet: true });
  writeFileSync(mark, lock);
}

function* files(dir) {
  for (const entry of readdirSync(dir, { withFileTypes: true })) {
    if (['node_modules', '.next', '.data', '.cache', 'test-results'].includes(entry.name)) continue;
    const path = join(dir, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else if (/\.(tsx?|mjs|json|css|svg|sql)$/.test(entry.name) && !/\.test\.tsx?$/.test(entry.name)) yield path;
  }
}

/** A program of ours as one file of JavaScript, beside the packages it needs: run as sources some loops take twice as long. */
export function bundled(entry, name) {
  const home = join(ROOT, 'node_modules/.cache', `wellmorph-${name}`);
  mkdirSync(home, { recursive: true });
  const built = join(home, `${name}.mjs`);
  run(bin('esbuild'), [
    entry,
    '--bundle',
    '--platform=node',
    '--format=esm',
    '--target=node20',
    '--tsconfig=tsconfig.base.json',
    // They bring files of their own that they look for beside themselves.
    '--external:manifold-3d',
    '--external:draco3d',
    '--external:occt-import-js',
    '--external:ktx2-encoder',
    "--banner:js=import { createRequire as forBundle } from 'node:module'; const require = forBundle(import.meta.url);",
    `--outfile=${built}`,
    '--log-level=error',
  ]);
  return built;
}

/** Builds the web application when its sources have changed since the last build. */
export function build() {
  const hash = createHash('sha256');
  for (const dir of ['core/src', 'demo/src', 'web'])
    for (const f of [...files(join(ROOT, dir))].sort())
      if (!f.endsWith('next-env.d.ts') && !f.endsWith('tsbuildinfo')) hash.update(f.slice(ROOT.length)).update(readFileSync(f));
  const now = hash.digest('hex');
  const mark = join(ROOT, 'web/.next/wellmorph-build');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === now && existsSync(join(ROOT, 'web/.next/BUILD_ID'))) return;
  say('Building the application …');
  run(bin('next'), ['build'], { cwd: join(ROOT, 'web'), quiet: true, env: { NEXT_TELEMETRY_DISABLED: '1' } });
  writeFileSync(mark, now);
}

export const dataDir = () => resolve(process.env.WELLMORPH_DATA ?? join(ROOT, '.data'));

/** The live process that has the data open, or null. Twin of web/src/server/ownership, for before anything is built. */
export function owner(dir) {
  try {
    const { pid, started } = JSON.parse(readFileSync(join(dir, 'owner.json'), 'utf8'));
    process.kill(pid, 0);
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const now = stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19];
    return !started || started === now ? pid : null;
  } catch {
    return null;
  }
}

/** Puts the demo data into a folder that has none yet. */
export const seed = (env, quiet = false) => run(bin('tsx'), ['--tsconfig', 'tsconfig.base.json', 'scripts/seed.ts'], { env, quiet });

/** Written into the data once all of the demo is in it. */
const SEEDED = 'seeded';

/** The same beside other work, unless it was done before. @returns what waits for it */
export function seeding(data) {
  if (existsSync(join(data, SEEDED))) return Promise.resolve();
  const child = spawn(bin('tsx'), ['--tsconfig', 'tsconfig.base.json', 'scripts/seed.ts'], {
    cwd: ROOT,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, WELLMORPH_DATA: data },
  });
  return new Promise((done) => {
    child.on('exit', (code) => {
      if (code === 0) {
        writeFileSync(join(data, SEEDED), '');
        return done();
      }
      say('Stopped: the demo data could not be prepared.');
      process.exit(1);
    });
  });
}

/** Builds what has changed, prepares the data beside that, and starts the server. @returns the server, and whether it came to answer */
export async function start({ port, data, dev = false }) {
  const seeded = seeding(data);
  if (!dev) build();
  await seeded;
  const server = serve({ port, data, dev, stdio: ['ignore', 'ignore', 'inherit'] });
  return { server, answers: await answering(port, server) };
}

/** Starts the server and hands back its process. */
export function serve({ port, data = dataDir(), dev = false, stdio = 'inherit' }) {
  mkdirSync(data, { recursive: true });
  return spawn(
    process.execPath,
    [join(ROOT, 'node_modules/next/dist/bin/next'), dev ? 'dev' : 'start', '-H', process.env.HOST ?? '127.0.0.1', '-p', String(port)],
    {
      cwd: join(ROOT, 'web'),
      stdio,
      env: { ...process.env, WELLMORPH_DATA: data, NEXT_TELEMETRY_DISABLED: '1' },
    },
  );
}

/** Waits until the server answers. */
export async function answering(port, child, seconds = 180) {
  for (let i = 0; i < seconds * 10; i++) {
    if (child.exitCode !== null) return false;
    try {
      const response = await fetch(`http://127.0.0.1:${port}/api/assets`);
      if (response.ok) return true;
    } catch {
      // Not there yet.
    }
    await new Promise((r) => setTimeout(r, 100));
  }
  return false;
}

/** Waits until the server has formed all pieces that were never formed. */
export async function allFormed(port, seconds = 600) {
  for (let i = 0; i < seconds; i++) {
    const cards = await (await fetch(`http://127.0.0.1:${port}/api/assets`)).json();
    if (cards.every((c) => c.triangles !== null)) return true;
    await new Promise((r) => setTimeout(r, 1000));
  }
  return false;
}

/** Ends a server and waits until it has gone. */
export async function ended(server) {
  server.kill('SIGTERM');
  if (server.exitCode === null) await new Promise((r) => server.once('exit', r));
}

export function chromium() {
  for (const path of [process.env.CHROMIUM, '/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'])
    if (path && existsSync(path) && statSync(path).isFile()) return path;
  return null;
}

/** Finds Chromium, or installs Debian's where that is allowed, or says how. */
export function needChromium() {
  if (chromium()) return;
  say('Chromium is missing; installing Debian’s …');
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    spawnSync('apt-get', ['update', '-qq'], { stdio: 'ignore' });
    spawnSync('apt-get', ['install', '-y', '-qq', 'chromium'], {
      stdio: 'ignore',
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  }
  if (!chromium()) {
    say('The browser tests need Chromium. Install it with: sudo apt-get install chromium (or set CHROMIUM to its path).');
    process.exit(1);
  }
}
