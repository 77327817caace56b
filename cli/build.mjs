import { createHash, randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';

const ROOT = resolve(import.meta.dirname, '..');
const CACHE = join(ROOT, 'node_modules/.cache/wellmorph-cli');

/** Sources, and what says which packages they are built with. */
function* sources() {
  for (const dir of ['core/src', 'cli/src'])
    for (const file of readdirSync(join(ROOT, dir), { recursive: true, encoding: 'utf8' }))
      if (file.endsWith('.ts') && !file.endsWith('.test.ts')) yield join(ROOT, dir, file);
  yield join(ROOT, 'package-lock.json');
  yield join(ROOT, 'tsconfig.base.json');
}

/**
 * The command as one file of JavaScript, which starts several times as fast as its sources do; built when those have changed.
 *
 * @returns its URL
 */
export async function built() {
  const hash = createHash('sha256');
  for (const file of [...sources()].sort()) {
    const { mtimeMs, size } = statSync(file);
    hash.update(`${file} ${mtimeMs} ${size}\n`);
  }
  const home = join(CACHE, hash.digest('hex').slice(0, 24));
  if (!existsSync(home)) await build(home);
  return pathToFileURL(join(home, 'main.mjs')).href;
}

/** Builds aside and moves it there whole: of two that build at once, one stands. */
async function build(home) {
  const aside = join(CACHE, `building-${randomUUID()}`);
  const { build: bundle } = await import('esbuild');
  mkdirSync(CACHE, { recursive: true });
  await bundle({
    entryPoints: ['main', 'tiles'].map((name) => join(import.meta.dirname, 'src', `${name}.ts`)),
    outdir: aside,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    tsconfig: join(ROOT, 'tsconfig.base.json'),
    // They bring files of their own that they look for beside themselves.
    external: ['manifold-3d', 'draco3d', 'occt-import-js', 'ktx2-encoder'],
    banner: { js: "import { createRequire as forBundle } from 'node:module'; const require = forBundle(import.meta.url);" },
    logLevel: 'error',
  });
  for (const older of readdirSync(CACHE).filter((name) => !name.startsWith('building-')))
    if (Date.now() - statSync(join(CACHE, older)).mtimeMs > 86_400_000) rmSync(join(CACHE, older), { recursive: true, force: true });
  try {
    renameSync(aside, home);
  } catch (error) {
    rmSync(aside, { recursive: true, force: true });
    if (!existsSync(home)) throw error;
  }
}
