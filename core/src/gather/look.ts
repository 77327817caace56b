import { srgbToLinear } from '../image/srgb';
import { FILE_GLOW, type Material } from '../surface/material';
import { PLAIN_TEXTURING, placed, type Slot, type TextureUse, type Texturing, type Wrap } from '../surface/texturing';

/** What is gathered of every place, by its number among what is summed up. */
export const TO = {
  red: 0,
  green: 1,
  blue: 2,
  alpha: 3,
  roughness: 4,
  metallic: 5,
  occlusion: 6,
  glowRed: 7,
  glowGreen: 8,
  glowBlue: 9,
  normalX: 10,
  normalY: 11,
  normalZ: 12,
  height: 13,
  transmission: 14,
} as const;
/** Numbers of a place; after what is gathered its weight, and that of its colour, of which what is clear has less. */
export const NUMBERS = 17;
export const WEIGHT = 15;
export const COLOUR_WEIGHT = 16;

/** One picture, sampled once for all that is read from it. */
export interface Tap {
  /** Number of the picture, how many smaller levels follow it, and by how many it is coarser than the finest of its material. */
  picture: number;
  levels: number;
  coarser: number;
  /** Number of the layout among those the part has. */
  layout: number;
  /** Layout, v up → the picture: x = m0·u + m1·v + m2, y = m3·u + m4·v + m5. */
  matrix: number[];
  wrap: [Wrap, Wrap];
  nearest: boolean;
  colour: boolean;
  /** Channel → what it is, times a factor and plus an offset. */
  gives: { from: number; to: number; times: number; plus: number }[];
}

/** A material as it is gathered: what it is everywhere, and the pictures that are multiplied in. Plain values, so that workers can share it. */
export interface GatherLook {
  /** Numbers of a place before any picture. */
  plain: number[];
  taps: Tap[];
  /** The tap with its normals, −1 for none, and how strongly they lean. */
  normal: number;
  normalScale: number;
  vertexColours: boolean;
  clear: boolean;
  /** Parts of it are cut out: alpha below a half is nothing. */
  cutOut: boolean;
}

/** How a material without pictures is said as one with: its numbers as factors. */
export function plainTexturing(m: Material): Texturing<number> {
  const colour = m.colour.map(srgbToLinear);
  const glow = m.emission / FILE_GLOW;
  return {
    ...PLAIN_TEXTURING,
    uses: [],
    baseColour: [colour[0], colour[1], colour[2], 1],
    metallic: m.metallic,
    roughness: m.roughness,
    emission: [colour[0] * glow, colour[1] * glow, colour[2] * glow],
    ...(m.transmission > 0 && { transmission: m.transmission }),
    alpha: 'opaque',
  };
}

/** What of each slot goes where. */
const GOES: Partial<Record<Slot, readonly number[]>> = {
  baseColour: [TO.red, TO.green, TO.blue],
  alpha: [TO.alpha],
  roughness: [TO.roughness],
  metallic: [TO.metallic],
  occlusion: [TO.occlusion],
  emission: [TO.glowRed, TO.glowGreen, TO.glowBlue],
  height: [TO.height],
  transmission: [TO.transmission],
};

/** A use’s place in its picture as the six numbers of {@link Tap.matrix}. */
function matrixOf(use: TextureUse<unknown>): number[] {
  const [o, x, y] = [placed(use, 0, 0), placed(use, 1, 0), placed(use, 0, 1)];
  return [x[0] - o[0], y[0] - o[0], o[0], x[1] - o[1], y[1] - o[1], o[1]];
}

/**
 * A material as it is gathered.
 *
 * @param layoutAt number of a layout among those the part hands over
 */
export function lookOf(t: Texturing<number>, layoutAt: (layout: number) => number): GatherLook {
  const { transmission = 0 } = t;
  const plain = new Array<number>(NUMBERS).fill(0);
  plain[TO.red] = t.baseColour[0];
  plain[TO.green] = t.baseColour[1];
  plain[TO.blue] = t.baseColour[2];
  plain[TO.alpha] = t.alpha === 'opaque' ? 1 : t.baseColour[3];
  plain[TO.roughness] = t.roughness;
  plain[TO.metallic] = t.metallic;
  plain[TO.occlusion] = 1;
  for (let k = 0; k < 3; k++) plain[TO.glowRed + k] = t.emission[k];
  plain[TO.height] = 0.5;
  plain[TO.transmission] = transmission;
  const taps: Tap[] = [];
  let normal = -1;
  const tapFor = (use: TextureUse<number>, colour: boolean): number => {
    const made: Tap = {
      picture: use.picture,
      levels: 0,
      coarser: 0,
      layout: layoutAt(use.layout),
      matrix: matrixOf(use),
      wrap: use.wrap ?? ['repeat', 'repeat'],
      nearest: use.nearest ?? false,
      colour,
      gives: [],
    };
    const key = (x: Tap) => JSON.stringify({ ...x, gives: 0 });
    const known = taps.findIndex((x) => key(x) === key(made));
    return known >= 0 ? known : taps.push(made) - 1;
  };
  for (const use of t.uses) {
    if (layoutAt(use.layout) < 0) continue;
    // Alpha stands beside a colour and is no light: it is read from the same texels.
    const colour = use.slot === 'baseColour' || use.slot === 'emission' || (use.slot === 'alpha' && use.channel === 3);
    if (use.slot === 'normal') {
      normal = tapFor(use, false);
      continue;
    }
    const goes = GOES[use.slot];
    if (!goes || (use.slot === 'alpha' && t.alpha === 'opaque')) continue;
    const tap = taps[tapFor(use, colour)];
    for (const [k, to] of goes.entries()) {
      const strength = use.slot === 'occlusion' ? t.occlusionStrength : 1;
      tap.gives.push({ from: use.channel ?? k, to, times: strength, plus: 1 - strength });
      // What a picture says stands in place of the middle height.
      if (use.slot === 'height') plain[TO.height] = 1;
    }
  }
  return {
    plain,
    taps,
    normal,
    normalScale: t.normalScale,
    vertexColours: t.vertexColours,
    clear: t.alpha === 'blend' || transmission > 0,
    cutOut: t.alpha === 'mask',
  };
}
