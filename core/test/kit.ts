import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Kit } from '../src/kit';
import { KitLoader } from '../src/kit-load';
import type { AssetDocument } from '../src/pipeline/document';

const require = createRequire(import.meta.url);

/** The libraries as the tests load them: from where the package manager put them. */
const loader = new KitLoader({
  async font() {
    const bytes = readFileSync(require.resolve('@fontsource/archivo/files/archivo-latin-600-normal.woff'));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
export async function testKit(): Promise<Kit> {
  await Promise.all((['solids', 'simplifier', 'font'] as const).map((what) => loader.load(what)));
  return loader.for({ parts: [] } as unknown as AssetDocument);
}
