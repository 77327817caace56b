import { isLayers, type Layer, layersFrom, type OlderWear } from './layers/layer';
import type { Texturing } from './texturing';

export type { Layer } from './layers/layer';

/** What a part is made of: the parameters of the open glTF material model. Colours are sRGB, 0…1. */
export interface Material {
  id: string;
  name: string;
  /** Name in the library it was taken from, or null for one of its own. */
  base: string | null;
  /** Where its values come from, in words. */
  source: string;
  /** Somebody chose or changed it; false for what a file happened to bring. */
  touched: boolean;
  colour: [number, number, number];
  metallic: number;
  roughness: number;
  ior: number;
  /** Share of the light that isn't reflected and goes through, 0…1. */
  transmission: number;
  /** Clear coat over it, 0…1. */
  coat: number;
  coatRoughness: number;
  /** Radiance given off, W/(m²·sr), times its colour. */
  emission: number;
  /** What lies over it, bottom to top. */
  layers: Layer[];
  /** The material it is derived from: what it has not of its own it has from there, and follows it. */
  derived?: { from: string; own: Followed[] };
  /** The pictures a file brought for it: in force while it has them, beside its plain numbers. */
  texturing?: Texturing;
}

/** What a derived material has from the one it is derived from. */
export const FOLLOWED = ['colour', 'metallic', 'roughness', 'ior', 'transmission', 'coat', 'coatRoughness', 'emission', 'layers'] as const;
export type Followed = (typeof FOLLOWED)[number];
const isFollowed = (key: unknown): key is Followed => FOLLOWED.includes(key as Followed);

/** What is wrong with what should be a derived material’s link, as words; null where all is well. */
export function derivedFault(x: unknown): string | null {
  const { from, own } = (x ?? {}) as Partial<NonNullable<Material['derived']>>;
  if (typeof from !== 'string' || from.length < 1 || from.length > 64) return 'what a material is derived from';
  return Array.isArray(own) && own.length <= FOLLOWED.length && own.every(isFollowed) ? null : 'what a derived material has of its own';
}

/** Notes what of a derived material is its own from now on. */
export function makeOwn(m: Material, keys: readonly string[]): void {
  if (m.derived) m.derived.own = FOLLOWED.filter((k) => m.derived?.own.includes(k) || keys.includes(k));
}

/** Hands on what a material is to those derived from it, and to those derived from these. */
export function passOn(materials: readonly Material[], from: Material): void {
  for (const m of materials) {
    if (m.derived?.from !== from.id || m === from) continue;
    const own = new Set<string>(m.derived.own);
    const handed = Object.fromEntries(FOLLOWED.filter((k) => !own.has(k)).map((k) => [k, from[k]]));
    if (Object.keys(handed).length === 0) continue;
    Object.assign(m, JSON.parse(JSON.stringify(handed)));
    passOn(
      materials.filter((x) => x !== from),
      m,
    );
  }
}

export const PLAIN: Omit<Material, 'id' | 'name' | 'texturing' | 'derived'> = {
  base: null,
  source: 'as the file says',
  touched: false,
  colour: [0.72, 0.72, 0.7],
  metallic: 0,
  roughness: 0.5,
  ior: 1.5,
  transmission: 0,
  coat: 0,
  coatRoughness: 0.1,
  emission: 0,
  layers: [],
};

/** Radiance a file's emission of 1 stands for, W/(m²·sr): formats without a unit mean a screen's white, a few hundred cd/m². */
export const FILE_GLOW = 2;

/** Transparent and glowing materials: their base colour means something else than what a surface reflects, so it isn’t judged. */
export const isClearOrGlowing = (m: Pick<Material, 'transmission' | 'emission'>): boolean => m.transmission > 0 || m.emission > 0;

/** Whether any layer stands above or below what it lies on. */
export const hasRelief = (materials: readonly Material[]): boolean => materials.some((m) => m.layers.some((l) => l.on && l.look.relief));

/** Whether any layer changes the coat, or how much light goes through: both have maps of their own only then. */
export const hasCoatMap = (materials: readonly Material[]): boolean =>
  materials.some((m) => m.layers.some((l) => l.on && (l.look.coat !== undefined || l.look.coatRoughness !== undefined)));
export const hasClearMap = (materials: readonly Material[]): boolean =>
  materials.some((m) => m.transmission > 0 && m.layers.some((l) => l.on && l.look.transmission !== undefined));

/** How solid it is drawn where light isn't traced, 0…1. */
export const drawnOpacity = (m: Pick<Material, 'transmission'>): number => 1 - 0.65 * m.transmission;

/** Materials as older documents kept them: `opacity` for `transmission`, `emissive` without a unit, wear and dirt in place of layers. */
export function upgradeMaterial(old: Partial<Material> & OlderWear & { opacity?: number; emissive?: number }): Material {
  const { opacity, emissive, wear, dirt, layers = [], ...rest } = old;
  // Taking back a change of before there were layers brings one of them by its older name: it takes that layer's place.
  const kept = layers.filter((l) => (wear === undefined || l.id !== 'wear') && (dirt === undefined || l.id !== 'dirt'));
  return {
    ...PLAIN,
    transmission: opacity !== undefined ? Math.max(0, 1 - opacity) : 0,
    emission: emissive ? 55 * emissive : 0,
    ...rest,
    layers: wear === undefined && dirt === undefined ? layers : [...kept, ...layersFrom({ wear, dirt })],
  } as Material;
}

const isNumber = (x: unknown, low: number, high: number): x is number => typeof x === 'number' && x >= low && x <= high;
const isColour = (c: unknown): boolean => Array.isArray(c) && c.length === 3 && c.every((x) => isNumber(x, 0, 1));

/** A material read from a file, one of an older one brought up to now; null unless every number is there and in its range. */
export function materialFrom(m: unknown): Material | null {
  if (!m || typeof m !== 'object') return null;
  const x = m as Record<string, unknown>;
  if (x.layers !== undefined) return isMaterial(m) ? m : null;
  if (!isWear(x.wear, ['metallic', 'roughness']) || !isWear(x.dirt, ['roughness', 'cover'])) return null;
  const now = upgradeMaterial(m as OlderWear);
  return isMaterial(now) ? now : null;
}
const isWear = (w: unknown, keys: readonly string[]): boolean => {
  if (w === null) return true;
  const x = w as Record<string, unknown>;
  return typeof w === 'object' && isColour(x.colour) && ['share', ...keys].every((k) => isNumber(x[k], 0, 1));
};

/** Whether something read from a file is a whole material: every number there and in its range. */
export function isMaterial(m: unknown): m is Material {
  if (!m || typeof m !== 'object') return false;
  const x = m as Record<string, unknown>;
  const share = (k: string) => isNumber(x[k], 0, 1);
  return (
    typeof x.name === 'string' &&
    typeof x.source === 'string' &&
    (x.base === null || typeof x.base === 'string') &&
    isColour(x.colour) &&
    ['metallic', 'roughness', 'transmission', 'coat', 'coatRoughness'].every(share) &&
    isNumber(x.ior, 1, 4) &&
    isNumber(x.emission, 0, 1e6) &&
    isLayers(x.layers)
  );
}
