import type { Material } from '@wellmorph/core/pipeline/document';
import type { Variant } from '@wellmorph/core/pipeline/variants';
import type { Artwork, DialArtwork, Print, TextArtwork } from '@wellmorph/core/print/print';

import { enamel } from './materials';

type Drawn = Exclude<Artwork, { kind: 'picture' }>;
type Rgb = [number, number, number];

/** Words in capitals of a height, mm. */
const words = (text: string, capital: number, colour: Rgb, more: Partial<TextArtwork> = {}): TextArtwork => ({
  kind: 'text',
  text,
  capital,
  tracking: 60,
  leading: 1.7,
  align: 'middle',
  arc: 0,
  colour,
  ...more,
});

/** A print of something set here. @param size that it comes to, mm; a test holds it against the drawing */
const set = (
  id: string,
  name: string,
  part: string,
  artwork: Drawn,
  [width, height]: [number, number],
  point: [number, number, number],
  normal: [number, number, number],
  more: Partial<Print> = {},
): Print => ({
  id,
  name,
  on: true,
  part,
  artwork,
  width,
  height,
  at: { point, normal },
  across: { from: 'middle', mm: 0 },
  up: { from: 'middle', mm: 0 },
  turn: 0,
  ink: { opacity: 0.94, blend: 'normal', roughness: 0.55 },
  ...more,
});

const CREAM: Rgb = [0.9, 0.86, 0.74];
const BLACK: Rgb = [0.11, 0.11, 0.12];
const FRONT: [number, number, number] = [0, 0, 1];

/** What the biscuit tin says: its wrap in front and behind, and where a code would stand. */
export const TIN_PRINTS: Print[] = [
  set('wrap', 'Wrap', 'body', words('SHIP’S BISCUIT\nTWICE BAKED', 12, CREAM), [143.598, 32.82], [0, 55, 66], FRONT, {
    up: { from: 'low', mm: 22 },
    ink: { opacity: 1, blend: 'normal', roughness: 0.35, relief: 20 },
  }),
  set('back', 'Back', 'body', words('KEEP DRY · PELLAMERE LIGHT', 5, CREAM), [119.067, 5.175], [0, 55, -66], [0, 0, -1], {
    up: { from: 'low', mm: 60 },
  }),
  set('bars', 'Bars', 'body', { kind: 'bars', seed: 7, width: 34, height: 16, colour: CREAM }, [34, 16], [0, 30, -66], [0, 0, -1], {
    up: { from: 'low', mm: 18 },
  }),
];

const looked = ({ name, colour, layers }: Material) => ({ name, colour, layers });
const GINGER = looked(enamel('green', 'Ginger enamel', [0.46, 0.15, 0.06]));
const OAT = looked(enamel('green', 'Oat enamel', [0.74, 0.66, 0.47]));

/** The same tin for what else is baked at the light: other words, other enamel, and a bare one. */
export const TIN_VARIANTS: Variant[] = [
  {
    id: 'ginger',
    name: 'Ginger',
    prints: { wrap: { artwork: words('GINGER NUTS\nFOR COLD NIGHTS', 10, CREAM), width: 143.644, height: 27.35 } },
    materials: { green: GINGER },
  },
  {
    id: 'oat',
    name: 'Oat',
    prints: { wrap: { artwork: words('OAT CAKES\nUNSALTED', 12, BLACK), width: 106.076 } },
    materials: { green: OAT },
  },
  { id: 'store', name: 'Store', prints: { wrap: { on: false }, bars: { on: false } }, parts: { body: 'tin', lid: 'tin' } },
];

/** The grease tube’s front and back. */
export const TUBE_PRINTS: Print[] = [
  set('front', 'Front', 'tube', words('LAMP\nGREASE', 5, BLACK), [32.238, 13.587], [0, 52, 16], FRONT, { up: { from: 'put', mm: 0 } }),
  set('back', 'Back', 'tube', words('FOR HINGES\nAND VENTS', 3, BLACK), [28.889, 8.205], [0, 52, -16], [0, 0, -1], {
    up: { from: 'put', mm: 0 },
  }),
];

/** The gauge’s scale. */
const DIAL: DialArtwork = {
  kind: 'dial',
  from: 960,
  to: 1060,
  step: 10,
  parts: 5,
  begins: 45,
  sweep: 270,
  diameter: 136,
  long: 9,
  short: 5,
  thick: 1.1,
  numerals: 6,
  unit: 'hPa',
  colour: BLACK,
};
export const GAUGE_PRINTS: Print[] = [
  set('scale', 'Scale', 'dial', DIAL, [136, 136], [0, 35.5, 0], [0, 1, 0], { across: { from: 'put', mm: 0 }, up: { from: 'put', mm: 0 } }),
];

/** The chest’s stencil, worn into the wood. */
export const CHEST_PRINTS: Print[] = [
  set('stencil', 'Stencil', 'body', words('KEEPER', 34, BLACK, { tracking: 120 }), [227.592, 34], [0, 120, 140], FRONT, {
    ink: { opacity: 0.78, blend: 'multiply', roughness: 0.8 },
  }),
];

/** A line under the storm glass. */
export const GLASS_PRINTS: Print[] = [
  set('plate', 'Plate', 'board', words('FAIR · CHANGE · STORM', 2.6, CREAM), [48.286, 2.691], [0, 236, 10], FRONT, {
    up: { from: 'high', mm: 16 },
  }),
];
