import { nearestKnown, spread } from '../bake/spread';
import type { Pixels } from '../image/png';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { type Ground, smoothEdge, thresholds } from './ground';
import { isClearOrGlowing, type Material } from './material';

/** Half the width of a mask's edge, in the units of its driver. */
const SOFT_WEAR = 0.06;
const SOFT_DIRT = 0.05;

/** A texture set, top row first, 8 bits. */
export interface ComposedSet {
  size: number;
  /** sRGB, 3 per texel. */
  baseColour: Uint8Array;
  /** Occlusion, roughness, metallic: 3 per texel, linear. */
  orm: Uint8Array;
  /** sRGB, 3 per texel; null where nothing glows. */
  emissive: Uint8Array | null;
}

/** What a composed set came to, measured on it. */
export interface ComposeFigures {
  /** Per material, in order. Shares of its own texels, measured on the result. */
  materials: { id: string; name: string; texels: number; wearShare: number; dirtShare: number }[];
  coveredShare: number;
}

interface Thresholds {
  wear: number[];
  dirt: number[];
}

export const thresholdsOf = (ground: Ground, materials: readonly Material[]): Thresholds => ({
  wear: thresholds(
    ground.wear,
    ground.owner,
    materials.map((m) => (isClearOrGlowing(m) ? 0 : (m.wear?.share ?? 0))),
    SOFT_WEAR,
  ),
  dirt: thresholds(
    ground.dirt,
    ground.owner,
    materials.map((m) => (isClearOrGlowing(m) ? 0 : (m.dirt?.share ?? 0))),
    SOFT_DIRT,
  ),
});

/** 0…255 sRGB of a linear value, quick: 4096 steps are finer than 8 bits everywhere above the darkest. */
const TO_SRGB = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(255 * linearToSrgb(i / 4096)));
const byte = (x: number): number => (x <= 0 ? 0 : x >= 1 ? 255 : Math.round(x * 255));

export const emptySet = (
  size: number,
  glowing: boolean,
  allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n),
): ComposedSet => ({
  size,
  baseColour: new Uint8Array(allocate(3 * size * size)),
  orm: new Uint8Array(allocate(3 * size * size)),
  emissive: glowing ? new Uint8Array(allocate(3 * size * size)) : null,
});

/**
 * Rows of a set: base, then dirt over it, then wear rubbed through both. Colours are mixed in linear light. Occlusion is
 * copied beside roughness and metallic, so that the three travel in one texture as glTF packs them.
 *
 * @param occlusion 0…255 per texel at the set's size, or null for open everywhere
 * @param counts per material: texels, wear and dirt summed; added to
 */
export function composeRows(
  ground: Ground,
  materials: readonly Material[],
  limits: Thresholds,
  occlusion: Uint8Array | null,
  out: ComposedSet,
  from: number,
  to: number,
  counts: Float64Array,
): void {
  const linear = materials.map((m) => ({
    base: m.colour.map(srgbToLinear),
    wear: m.wear?.colour.map(srgbToLinear) ?? [0, 0, 0],
    dirt: m.dirt?.colour.map(srgbToLinear) ?? [0, 0, 0],
  }));
  for (let i = from * ground.size; i < to * ground.size; i++) {
    const k = ground.owner[i] - 1;
    const m = materials[k];
    const o = 3 * i;
    if (!m) {
      out.orm[o] = 255;
      continue;
    }
    const colour = linear[k];
    const wear = m.wear ? smoothEdge(ground.wear[i], limits.wear[k], SOFT_WEAR) : 0;
    const gathered = m.dirt ? smoothEdge(ground.dirt[i], limits.dirt[k], SOFT_DIRT) : 0;
    const dirt = gathered * (m.dirt?.cover ?? 0);
    counts[3 * k]++;
    counts[3 * k + 1] += wear;
    counts[3 * k + 2] += gathered;
    for (let c = 0; c < 3; c++) {
      let v = colour.base[c];
      v += dirt * (colour.dirt[c] - v);
      v += wear * (colour.wear[c] - v);
      out.baseColour[o + c] = TO_SRGB[Math.round(v * 4096)];
    }
    let roughness = m.roughness;
    if (m.dirt) roughness += dirt * (m.dirt.roughness - roughness);
    // Under what lies on it no metal shows, however thin.
    let metallic = m.metallic * (1 - gathered);
    if (m.wear) {
      roughness += wear * (m.wear.roughness - roughness);
      metallic += wear * (m.wear.metallic - metallic);
    }
    out.orm[o] = occlusion ? occlusion[i] : 255;
    out.orm[o + 1] = byte(roughness);
    out.orm[o + 2] = byte(metallic);
    if (out.emissive && m.emission > 0) for (let c = 0; c < 3; c++) out.emissive[o + c] = byte(m.colour[c]);
  }
}

/** A whole set on this thread. */
export function compose(
  ground: Ground,
  materials: readonly Material[],
  occlusion: Uint8Array | null,
): { set: ComposedSet; figures: ComposeFigures } {
  const set = emptySet(
    ground.size,
    materials.some((m) => m.emission > 0),
  );
  const counts = new Float64Array(3 * materials.length);
  composeRows(ground, materials, thresholdsOf(ground, materials), occlusion, set, 0, ground.size, counts);
  return { set, figures: composeFigures(counts, materials, ground.size) };
}

/** The figures of a set from what was counted while it was composed. */
export function composeFigures(counts: Float64Array, materials: readonly Material[], size: number): ComposeFigures {
  const rows = materials.map((m, k) => ({
    id: m.id,
    name: m.name,
    texels: counts[3 * k],
    wearShare: counts[3 * k + 1] / Math.max(1, counts[3 * k]),
    dirtShare: counts[3 * k + 2] / Math.max(1, counts[3 * k]),
  }));
  return { materials: rows.filter((r) => r.texels > 0), coveredShare: rows.reduce((n, r) => n + r.texels, 0) / (size * size) };
}

/** The set as pictures to deliver, carried over the padding so that no level mixes the background in. */
export function setPixels(
  set: ComposedSet,
  owner: Uint8Array,
  from = nearestKnown(owner, set.size),
): { baseColour: Pixels; orm: Pixels; emissive: Pixels | null } {
  const pixels = (data: Uint8Array): Pixels => ({ width: set.size, height: set.size, channels: 3, depth: 8, data: spread(data, 3, from) });
  return { baseColour: pixels(set.baseColour), orm: pixels(set.orm), emissive: set.emissive && pixels(set.emissive) };
}
