import { kits } from '../node/kit';
import type { Kit } from '../src/kit';

/** A kit with all libraries in it. */
export async function testKit(): Promise<Kit> {
  await Promise.all((['solids', 'simplifier', 'font', 'drawings'] as const).map((what) => kits.load(what)));
  return kits.loaded;
}
