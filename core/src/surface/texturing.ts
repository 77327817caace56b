import { InputError } from '../errors';

/** What a picture says of a material. `other` is what is kept and handed on, and not drawn here. */
export const SLOTS = {
  baseColour: 'base colour',
  alpha: 'alpha',
  roughness: 'roughness',
  metallic: 'metallic',
  normal: 'normal',
  occlusion: 'occlusion',
  emission: 'emission',
  height: 'height',
  transmission: 'transmission',
  coat: 'coat',
  coatRoughness: 'coat roughness',
  coatNormal: 'coat normal',
  other: 'other',
} as const;
export type Slot = keyof typeof SLOTS;
/** Whether a slot holds colours, which are stored as sRGB, and not data. */
export const isColour = (slot: Slot): boolean => slot === 'baseColour' || slot === 'emission';

/** What stands beyond the tile. */
export const WRAPS = ['repeat', 'mirror', 'clamp'] as const;
export type Wrap = (typeof WRAPS)[number];

/** One picture in one slot, and how it is laid on. `T` names the picture: its blob in a document, its number in a model. */
export interface TextureUse<T = string> {
  picture: T;
  slot: Slot;
  /** Which of the part’s layouts: 0 is the first. */
  layout: number;
  /** The channel a single value is read from; all three where absent. */
  channel?: number;
  /** Moved, turned (radians) and scaled as KHR_texture_transform says, v down: uv → T · R · S · uv. As it is when absent. */
  offset?: [number, number];
  turn?: number;
  scale?: [number, number];
  /** Repeated when absent. */
  wrap?: [Wrap, Wrap];
  /** Its texels are squares, not blended. */
  nearest?: boolean;
}

/** A picture inside a glTF’s own description of a material, and how it is sampled there. */
export interface RawTexture<T = string> {
  picture: T;
  sampler?: Record<string, number>;
  /** The extension that names it, for kinds of pictures that glTF itself has not. */
  by?: string;
}

/**
 * How a material was textured in the file it came with: its pictures, and the factors they are multiplied with. In force as long as the
 * material has it; its plain numbers stand beside it.
 */
export interface Texturing<T = string> {
  uses: TextureUse<T>[];
  /** Linear, with alpha. */
  baseColour: [number, number, number, number];
  metallic: number;
  roughness: number;
  /** Linear, strength included. */
  emission: [number, number, number];
  normalScale: number;
  occlusionStrength: number;
  alpha: 'opaque' | 'mask' | 'blend';
  cutoff: number;
  twoSided: boolean;
  /** It holds its own light and takes none. */
  unlit: boolean;
  /** Share of the light that goes through, 0 when absent; a picture of it is multiplied in. */
  transmission?: number;
  /** Colours of vertices are multiplied in. */
  vertexColours: boolean;
  /** Wear and dirt are drawn in it already. */
  whole?: boolean;
  /** The glTF material word for word, its pictures by their place in `textures`, so that it can be handed over again as it was. */
  raw?: { material: Record<string, unknown>; textures: RawTexture<T>[] };
}

export const PLAIN_TEXTURING: Omit<Texturing<never>, 'uses'> = {
  baseColour: [1, 1, 1, 1],
  metallic: 1,
  roughness: 1,
  emission: [0, 0, 0],
  normalScale: 1,
  occlusionStrength: 1,
  alpha: 'opaque',
  cutoff: 0.5,
  twoSided: false,
  unlit: false,
  vertexColours: false,
};

/** The same with its pictures named otherwise. */
export function renamed<A, B>(t: Texturing<A>, name: (picture: A) => B): Texturing<B> {
  return {
    ...t,
    uses: t.uses.map((u) => ({ ...u, picture: name(u.picture) })),
    ...(t.raw && { raw: { ...t.raw, textures: t.raw.textures.map((x) => ({ ...x, picture: name(x.picture) })) } }),
  } as Texturing<B>;
}

/** The pictures a material is textured with, each once. */
export const picturesIn = <T>(t: Texturing<T>): T[] => [
  ...new Set([...t.uses.map((u) => u.picture), ...(t.raw?.textures ?? []).map((x) => x.picture)]),
];

export const textureIn = <T>(t: Texturing<T>, slot: Slot): TextureUse<T> | undefined => t.uses.find((u) => u.slot === slot);

/** Whether some of what lies behind shows through. */
export const isClearTexturing = (t: Texturing<unknown>): boolean => t.alpha === 'blend' || (t.transmission ?? 0) > 0;

/** Whether a use lies on the layout as that is, neither moved nor turned nor scaled. */
export const isPlainlyLaid = ({ offset = [0, 0], turn = 0, scale = [1, 1] }: TextureUse<unknown>): boolean =>
  offset[0] === 0 && offset[1] === 0 && turn === 0 && scale[0] === 1 && scale[1] === 1;

/** Where in its picture a place of the layout lies, both v up: KHR_texture_transform, which is written for v down. */
export function placed({ offset = [0, 0], turn = 0, scale = [1, 1] }: TextureUse<unknown>, u: number, v: number): [number, number] {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const [x, y] = [u * scale[0], (1 - v) * scale[1]];
  return [offset[0] + c * x + s * y, 1 - (offset[1] - s * x + c * y)];
}

/** The longest description of a material that is kept word for word, characters of JSON. */
export const LONGEST_RAW = 20_000;
const BLOB = /^[0-9a-f]{64}$/;
const isNumber = (x: unknown, low: number, high: number): boolean => typeof x === 'number' && x >= low && x <= high;
const isNumbers = (x: unknown, count: number, low: number, high: number): boolean =>
  Array.isArray(x) && x.length === count && x.every((n) => isNumber(n, low, high));
const maybe = (x: unknown, check: (x: unknown) => boolean): boolean => x === undefined || check(x);

/**
 * A description from outside, looked over before it is believed.
 * @throws InputError in one sentence
 */
export function checkTexturing(x: unknown): Texturing {
  const t = x as Texturing;
  const whole =
    typeof t === 'object' &&
    t !== null &&
    Array.isArray(t.uses) &&
    t.uses.length <= 60 &&
    t.uses.every(isUse) &&
    isNumbers(t.baseColour, 4, 0, 1e6) &&
    isNumber(t.metallic, 0, 1) &&
    isNumber(t.roughness, 0, 1) &&
    isNumbers(t.emission, 3, 0, 1e6) &&
    isNumber(t.normalScale, -100, 100) &&
    isNumber(t.occlusionStrength, 0, 1) &&
    ['opaque', 'mask', 'blend'].includes(t.alpha) &&
    isNumber(t.cutoff, 0, 1e6) &&
    [t.twoSided, t.unlit, t.vertexColours].every((b) => typeof b === 'boolean') &&
    maybe(t.whole, (b) => typeof b === 'boolean') &&
    maybe(t.transmission, (x) => isNumber(x, 0, 1)) &&
    maybe(t.raw, isRaw);
  if (!whole) throw new InputError('material/texturing', 'How the material is textured is not described as it has to be.');
  return t;
}

function isUse(x: unknown): boolean {
  const u = x as TextureUse;
  return (
    typeof u === 'object' &&
    u !== null &&
    BLOB.test(String(u.picture)) &&
    Object.hasOwn(SLOTS, u.slot) &&
    [0, 1, 2, 3].includes(u.layout) &&
    maybe(u.channel, (c) => [0, 1, 2, 3].includes(c as number)) &&
    maybe(u.offset, (o) => isNumbers(o, 2, -1e6, 1e6)) &&
    maybe(u.turn, (a) => isNumber(a, -1e6, 1e6)) &&
    maybe(u.scale, (s) => isNumbers(s, 2, -1e6, 1e6)) &&
    maybe(u.wrap, (w) => Array.isArray(w) && w.length === 2 && w.every((k) => WRAPS.includes(k))) &&
    maybe(u.nearest, (n) => typeof n === 'boolean')
  );
}

function isRaw(x: unknown): boolean {
  const { material, textures } = (x ?? {}) as NonNullable<Texturing['raw']>;
  if (typeof material !== 'object' || material === null || Array.isArray(material) || !Array.isArray(textures)) return false;
  if (JSON.stringify(material).length > LONGEST_RAW || textures.length > 60) return false;
  const sound = textures.every(
    (t) =>
      BLOB.test(String(t?.picture)) &&
      maybe(t.by, (b) => typeof b === 'string' && /^\w{1,60}$/.test(b)) &&
      maybe(t.sampler, (s) => typeof s === 'object' && s !== null && Object.values(s as object).every((n) => Number.isInteger(n))),
  );
  const indices: number[] = [];
  eachTextureInfo(material, (info) => indices.push(info.index));
  return sound && indices.every((i) => i < textures.length);
}

/** A mention of a texture inside a glTF material. */
export interface TextureInfo {
  index: number;
  texCoord?: number;
  extensions?: Record<string, unknown>;
  [more: string]: unknown;
}

/** Everything in a glTF material that names a texture, whichever extension it stands in (glTF 2.0 §5.30: an object with an `index`, under a name that ends in “Texture”). */
export function eachTextureInfo(
  material: Record<string, unknown>,
  tell: (info: TextureInfo, key: string, holder: Record<string, unknown>) => void,
): void {
  for (const [key, value] of Object.entries(material)) {
    if (typeof value !== 'object' || value === null || key === 'extras' || Array.isArray(value)) continue;
    const { index } = value as TextureInfo;
    if (/Texture$/.test(key) && typeof index === 'number' && Number.isInteger(index) && index >= 0)
      tell(value as TextureInfo, key, material);
    else eachTextureInfo(value as Record<string, unknown>, tell);
  }
}
