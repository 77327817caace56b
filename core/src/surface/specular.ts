import { LINEAR } from '../gather/picture';
import type { Pixels } from '../image/png';
import { byte, TO_SRGB } from './compose';

/**
 * The older school: a diffuse colour, a specular colour and a gloss in place of base colour, metal and roughness. Formulas as published with the
 * open extension KHR_materials_pbrSpecularGlossiness (Khronos, its example “convert between workflows”); all in linear light.
 */
export interface SpecularTexel {
  diffuse: [number, number, number];
  specular: [number, number, number];
  gloss: number;
}
/** The same by base colour, metal and roughness. */
export interface MetalTexel {
  base: [number, number, number];
  metallic: number;
  roughness: number;
}

/** What anything but metal reflects head on. */
const DIELECTRIC = 0.04;
const TINY = 1e-6;
const three = (of: (k: number) => number): [number, number, number] => [of(0), of(1), of(2)];

export function specularFrom({ base, metallic, roughness }: MetalTexel): SpecularTexel {
  const specular = three((k) => DIELECTRIC + metallic * (base[k] - DIELECTRIC));
  const left = 1 - Math.max(...specular);
  return {
    diffuse: three((k) => (left < TINY ? 0 : (base[k] * (1 - DIELECTRIC) * (1 - metallic)) / left)),
    specular,
    gloss: 1 - roughness,
  };
}

/** How bright a colour is taken to be (HSP, Finley 2006, as the extension’s example has it). */
const brightness = ([r, g, b]: readonly number[]): number => Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b);

export function metalFrom({ diffuse, specular, gloss }: SpecularTexel): MetalTexel {
  const left = 1 - Math.max(...specular);
  const metallic = solvedMetal(brightness(diffuse), brightness(specular), left);
  const mix = metallic * metallic;
  return {
    base: three((k) => {
      const fromDiffuse = (diffuse[k] * left) / (1 - DIELECTRIC) / Math.max(1 - metallic, TINY);
      const fromSpecular = (specular[k] - DIELECTRIC * (1 - metallic)) / Math.max(metallic, TINY);
      return Math.min(1, Math.max(0, fromDiffuse + mix * (fromSpecular - fromDiffuse)));
    }),
    metallic,
    roughness: 1 - gloss,
  };
}
function solvedMetal(diffuse: number, specular: number, left: number): number {
  // Dark paint could be half a metal of that colour just as well, which the example takes it for: what reflects no more than paint is paint.
  if (specular < DIELECTRIC + 1e-4) return 0;
  const b = (diffuse * left) / (1 - DIELECTRIC) + specular - 2 * DIELECTRIC;
  const c = DIELECTRIC - specular;
  return Math.min(1, Math.max(0, (-b + Math.sqrt(Math.max(b * b - 4 * DIELECTRIC * c, 0))) / (2 * DIELECTRIC)));
}

/** A set in the older school, and what is lost by it: how far base colour is off once it is turned back, of 255. */
export interface SpecularSet {
  /** sRGB. */
  diffuse: Pixels;
  specular: Pixels;
  /** Linear, one channel. */
  gloss: Pixels;
  /** One channel: levels of 255 that base colour is off by, at most of its three. */
  lost: Pixels;
  meanLost: number;
  mostLost: number;
}

/** @param baseColour 8 bits, sRGB @param orm occlusion, roughness, metallic: 8 bits, of the same size */
export function specularSet(baseColour: Pixels, orm: Pixels): SpecularSet {
  const { width, height } = baseColour;
  const made = (channels: 1 | 3): Pixels => ({ width, height, channels, depth: 8, data: new Uint8Array(channels * width * height) });
  const [diffuse, specular, gloss, lost] = [made(3), made(3), made(1), made(1)];
  let [sum, most] = [0, 0];
  for (let i = 0; i < width * height; i++) {
    const [q, m] = [baseColour.channels * i, orm.channels * i];
    const from = specularFrom({
      base: three((k) => LINEAR[baseColour.data[q + k]]),
      metallic: orm.data[m + 2] / 255,
      roughness: orm.data[m + 1] / 255,
    });
    for (let k = 0; k < 3; k++) {
      diffuse.data[3 * i + k] = srgb(from.diffuse[k]);
      specular.data[3 * i + k] = srgb(from.specular[k]);
    }
    gloss.data[i] = byte(from.gloss);
    // Turned back from what is kept of it: eight bits each.
    const back = metalFrom({
      diffuse: three((k) => LINEAR[diffuse.data[3 * i + k]]),
      specular: three((k) => LINEAR[specular.data[3 * i + k]]),
      gloss: gloss.data[i] / 255,
    });
    let off = 0;
    for (let k = 0; k < 3; k++) off = Math.max(off, Math.abs(srgb(back.base[k]) - baseColour.data[q + k]));
    lost.data[i] = off;
    sum += off;
    most = Math.max(most, off);
  }
  return { diffuse, specular, gloss, lost, meanLost: sum / (width * height), mostLost: most };
}
const srgb = (x: number): number => TO_SRGB[Math.round(4096 * Math.min(1, Math.max(0, x)))];
