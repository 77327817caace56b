import { resolve } from 'node:path';

/** Where everything lives: the folder of WELLMORPH_DATA, or `.data` in the clone. */
export const dataDir = (): string =>
  resolve(
    /* turbopackIgnore: true */ process.env.WELLMORPH_DATA ??
      resolve(/* turbopackIgnore: true */ process.cwd(), process.cwd().endsWith('web') ? '../.data' : '.data'),
  );
