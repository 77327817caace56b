import type { Artwork } from '@wellmorph/core/print/print';

const INK: [number, number, number] = [0.12, 0.12, 0.13];

/** What can be set here, to begin with. */
export const BEGINNINGS: { name: string; says: string; artwork: Exclude<Artwork, { kind: 'picture' }> }[] = [
  {
    name: 'Text',
    says: 'letters of so many mm, straight or round an arc',
    artwork: { kind: 'text', text: 'LAMP OIL', capital: 8, tracking: 40, leading: 1.6, align: 'middle', arc: 0, colour: INK },
  },
  {
    name: 'Scale',
    says: 'ticks and numerals round a dial',
    artwork: {
      kind: 'dial',
      from: 0,
      to: 10,
      step: 1,
      parts: 5,
      begins: 45,
      sweep: 270,
      diameter: 40,
      long: 3,
      short: 1.6,
      thick: 0.5,
      numerals: 3,
      unit: 'bar',
      colour: INK,
    },
  },
  {
    name: 'Bars',
    says: 'where a code will stand; they say nothing',
    artwork: { kind: 'bars', seed: 1, width: 30, height: 15, colour: INK },
  },
];
