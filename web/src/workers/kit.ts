import { KitLoader } from '@wellmorph/core/kit-load';

/** General-purpose libraries, loaded when a step first needs one. */
export const kits = new KitLoader({
  font: () => fetched(new URL('@fontsource/archivo/files/archivo-latin-600-normal.woff', import.meta.url)),
  drawings: () => fetched(new URL('@resvg/resvg-wasm/index_bg.wasm', import.meta.url)),
});

async function fetched(url: URL): Promise<ArrayBuffer> {
  const answer = await fetch(url);
  if (!answer.ok) throw new Error('A file that belongs to this could not be read.');
  return answer.arrayBuffer();
}
