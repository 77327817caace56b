import { KitLoader } from '@wellmorph/core/kit-load';

/** General-purpose libraries, loaded when a step first needs one. */
export const kits = new KitLoader({
  async font() {
    const answer = await fetch(new URL('@fontsource/archivo/files/archivo-latin-600-normal.woff', import.meta.url));
    if (!answer.ok) throw new Error('The typeface could not be read.');
    return answer.arrayBuffer();
  },
});
