import { figure, inUnit } from '../units/lengths';
import type { Brief } from './brief';

/**
 * Size of one picture pixel on the piece, mm, by the thin lens: pitch · (s − f)/f at distance s from the lens, focused
 * there. Source: the lens equation 1/f = 1/s + 1/s′, magnification f/(s − f).
 */
export function pixelMm(brief: Pick<Brief, 'closestMm' | 'lensMm' | 'sensorHeightMm' | 'pictureHeightPx'>): number {
  const pitch = brief.sensorHeightMm / brief.pictureHeightPx;
  return (pitch * Math.max(brief.closestMm - brief.lensMm, 1)) / brief.lensMm;
}

/** Vertical field of view of the same camera, radians: the sensor seen from its focused distance s·f/(s − f). */
export function fieldOfView(brief: Pick<Brief, 'closestMm' | 'lensMm' | 'sensorHeightMm'>): number {
  const s = Math.max(brief.closestMm, brief.lensMm + 1);
  const image = (s * brief.lensMm) / (s - brief.lensMm);
  return 2 * Math.atan(brief.sensorHeightMm / (2 * image));
}

/**
 * One computed setting: a figure, the sentence that says why, and the figure a person put in its place. Lengths are figures in mm; the
 * sentence says them in the unit of the brief.
 */
export interface Advice {
  id: 'pixels' | 'density' | 'texture' | 'tolerance' | 'triangles' | 'memory';
  label: string;
  value: number;
  unit: string;
  why: string;
  /** What is in force where it differs. */
  override?: number;
}

/** What follows from a brief, each with its sentence. */
export interface BriefAdvice {
  pixelMm: number;
  pixels: Advice;
  density: Advice;
  texture: Advice;
  tolerance: Advice;
  triangles?: Advice;
  memory: Advice;
  /** In force: the override or the advice. */
  wanted: { densityPxPerCm: number; toleranceMm: number };
}

export const nextPowerOfTwo = (x: number): number => 2 ** Math.ceil(Math.log2(Math.max(1, x)) - 1e-9);

/**
 * Video memory of one texture with all its levels, bytes. Levels halve down to 1 × 1; block-compressed ones are rounded
 * up to whole blocks of 4 × 4, which is why × 4/3 is only near.
 */
export function textureBytes(width: number, height: number, bytesPerPixel: number, block = 1): number {
  let sum = 0;
  for (let w = width, h = height; ; w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
    sum += Math.ceil(w / block) * block * Math.ceil(h / block) * block * bytesPerPixel;
    if (w === 1 && h === 1) return sum;
  }
}

/** What the advice is worked out from beside the brief. */
export interface Known {
  /** Surface with texels of its own, mm² (copies share). */
  areaMm2?: number;
  /** Share of the tile that islands cover, measured or expected. */
  coverage?: number;
  /** Maps that each set carries, and the memory they take together, MB. */
  textures?: { maps: number; memoryMB: number };
  /** Triangles needed at a tolerance. */
  trianglesFor?(errorMm: number): number;
}

/** Coverage expected before there is a layout: about what the packer reaches on turned pieces. */
export const EXPECTED_COVERAGE = 0.6;
/** Maps of a finished set, before anything is known of the piece: base colour, occlusion-roughness-metallic, normal. */
export const MAPS_PER_SET = 3;

/** What follows from a brief by arithmetic alone: size of a pixel, density, tolerance. Lengths in mm. */
export function adviseBrief(brief: Brief, known: Known = {}): BriefAdvice {
  const shown = (mm: number, digits = 2) => inUnit(mm, brief.unit, digits);
  const px = pixelMm(brief);
  const onScreen = Math.max(...brief.sizeMm) / px;
  const density = 10 / px;
  const wantedDensity = brief.overrides.densityPxPerCm ?? density;
  const coverage = known.coverage ?? EXPECTED_COVERAGE;
  const [x, y, z] = brief.sizeMm;
  const area = known.areaMm2 ?? 2 * (x * y + y * z + z * x);
  const needed = (wantedDensity / 10) * Math.sqrt(area / coverage / brief.limits.textureSets);
  const size = nextPowerOfTwo(needed);
  const tolerance = brief.errorPx * px;
  const wantedTolerance = brief.overrides.toleranceMm ?? tolerance;
  const maps = known.textures?.maps ?? MAPS_PER_SET;
  const memory =
    known.textures?.memoryMB ??
    (brief.limits.textureSets * maps * textureBytes(brief.limits.textureSize, brief.limits.textureSize, 4)) / 1e6;
  const triangles = known.trianglesFor?.(wantedTolerance);
  return {
    pixelMm: px,
    pixels: {
      id: 'pixels',
      label: 'Pixels on screen',
      value: onScreen,
      unit: 'px',
      why: `At ${shown(brief.closestMm)} with a ${figure(brief.lensMm)} mm lens one pixel covers ${shown(px, 3)}, so ${shown(Math.max(...brief.sizeMm))} of piece fill ${figure(onScreen, 0)} px.`,
    },
    density: {
      id: 'density',
      label: 'Texel density',
      value: density,
      unit: 'px/cm',
      why: `One texel for each of those pixels: ${shown(10)} ÷ ${shown(px, 3)}.`,
      override: brief.overrides.densityPxPerCm,
    },
    texture: {
      id: 'texture',
      label: 'Texture size',
      value: size,
      unit: 'px',
      why: `${figure(area / 100, 0)} cm² at ${figure(wantedDensity, 1)} px/cm, ${figure(coverage * 100, 0)} % of the tile covered, need ${figure(needed, 0)} px; the next power of two is ${figure(size, 0)}.`,
      override: brief.limits.textureSize === size ? undefined : brief.limits.textureSize,
    },
    tolerance: {
      id: 'tolerance',
      label: 'Chord tolerance',
      value: tolerance,
      unit: 'mm',
      why: `${figure(brief.errorPx)} px of outline error at ${shown(px, 3)} a pixel.`,
      override: brief.overrides.toleranceMm,
    },
    ...(triangles !== undefined && {
      triangles: {
        id: 'triangles' as const,
        label: 'Triangles needed',
        value: triangles,
        unit: 'triangles',
        why: `Every round edge within ${shown(wantedTolerance, 3)} of the true one takes ${figure(triangles, 0)}.`,
        override: brief.limits.triangles,
      },
    }),
    memory: {
      id: 'memory',
      label: 'Texture memory',
      value: memory,
      unit: 'MB',
      why: `${figure(brief.limits.textureSets)} × ${maps} maps of ${figure(brief.limits.textureSize, 0)} px with all their levels, uncompressed on the card.`,
      override: brief.limits.memoryMB,
    },
    wanted: { densityPxPerCm: wantedDensity, toleranceMm: wantedTolerance },
  };
}
