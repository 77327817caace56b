import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import Module from 'manifold-3d/manifold';
import { MeshoptSimplifier } from 'meshoptimizer';
import { parse } from 'opentype.js';
import type { Kit } from '../src/kit';

const require = createRequire(import.meta.url);

/** The libraries as the tests load them: from where the package manager put them. */
export async function testKit(): Promise<Kit> {
  const solids = await Module();
  solids.setup();
  await MeshoptSimplifier.ready;
  const bytes = readFileSync(require.resolve('@fontsource/archivo/files/archivo-latin-600-normal.woff'));
  return {
    solids,
    simplifier: MeshoptSimplifier,
    font: parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer),
  };
}
