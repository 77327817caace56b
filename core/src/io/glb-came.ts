import { encodePng } from '../image/png';

import type { Material } from '../surface/material';
import { eachTextureInfo, type RawTexture, type TextureUse, type Texturing, textureIn } from '../surface/texturing';
import { splitGlb } from './glb-check';
import { isKtx2, isWebp } from './head';
import { decodeTexture } from './textures';

/** A picture that came with a file, to be handed over again as it was. */
export interface CamePicture {
  name: string;
  mime: string;
  bytes: Uint8Array;
}

/** Pictures that came with files, by blob. */
export type CamePictures = ReadonlyMap<string, CamePicture>;

/** A material of a GLB that is to be as it came: its place among the file’s materials. */
export interface CameMaterial {
  at: number;
  material: Pick<Material, 'name'> & { texturing: Texturing };
  twoSided: boolean;
}

type Plain = Record<string, unknown>;
interface Json {
  materials: Plain[];
  textures?: Plain[];
  images?: Plain[];
  samplers?: Plain[];
  bufferViews?: Plain[];
  buffers?: { byteLength: number }[];
  extensionsUsed?: string[];
  extensionsRequired?: string[];
}

/**
 * A GLB with some of its materials as they came with their file: every texture, factor and extension word for word, every picture byte for
 * byte. Pictures that several name are in it once.
 *
 * @param picture the picture of a blob, undefined where it is not at hand: the material then stays as it was written
 */
export function withCame(glb: Uint8Array, came: readonly CameMaterial[], picture: (blob: string) => CamePicture | undefined): Uint8Array {
  const parts = splitGlb(glb);
  const json = parts.json as Json;
  const chunks: Uint8Array[] = [parts.binary];
  let length = parts.binary.length;
  const images = new Map<string, number>();
  const used = new Set(json.extensionsUsed);
  const required = new Set(json.extensionsRequired);
  const imageOf = (key: string, { name, mime, bytes }: CamePicture): number => {
    const known = images.get(key);
    if (known !== undefined) return known;
    const from = length + (-length & 3);
    chunks.push(new Uint8Array(from - length), bytes);
    length = from + bytes.length;
    json.bufferViews ??= [];
    json.images ??= [];
    const view = json.bufferViews.push({ buffer: 0, byteOffset: from, byteLength: bytes.length }) - 1;
    const made = json.images.push({ name, mimeType: ofOtherKind(bytes)?.mime ?? mime, bufferView: view }) - 1;
    images.set(key, made);
    return made;
  };
  const textureOf = (image: number, { sampler, by }: Pick<RawTexture, 'sampler' | 'by'>): number => {
    json.textures ??= [];
    let at: number | undefined;
    if (sampler) {
      json.samplers ??= [];
      const text = JSON.stringify(sampler);
      at = json.samplers.findIndex((s) => JSON.stringify(s) === text);
      if (at < 0) at = json.samplers.push({ ...sampler }) - 1;
    }
    if (by) {
      used.add(by);
      required.add(by);
    }
    const texture = { ...(at !== undefined && { sampler: at }), ...(by ? { extensions: { [by]: { source: image } } } : { source: image }) };
    const text = JSON.stringify(texture);
    const same = json.textures.findIndex((t) => JSON.stringify(t) === text);
    return same >= 0 ? same : json.textures.push(texture) - 1;
  };
  for (const { at, material, twoSided } of came) {
    const described = describedBy(material.texturing, picture);
    if (!described) continue;
    const own = structuredClone(described.material);
    const numbers = described.textures.map((t) =>
      textureOf(imageOf(t.key, t.picture), { ...t, by: ofOtherKind(t.picture.bytes)?.by ?? t.by }),
    );
    eachTextureInfo(own, (info) => {
      info.index = numbers[info.index];
    });
    for (const e of extensionsIn(own)) used.add(e);
    json.materials[at] = { ...own, name: material.name, ...((twoSided || own.doubleSided === true) && { doubleSided: true }) };
  }
  if (used.size > 0) json.extensionsUsed = [...used].sort();
  if (required.size > 0) json.extensionsRequired = [...required].sort();
  const pad = -length & 3;
  if (json.buffers?.[0]) json.buffers[0].byteLength = length;
  else if (length > 0) json.buffers = [{ byteLength: length }];
  return joinGlb(json, [...chunks, new Uint8Array(pad)]);
}

/** What a picture of a kind that glTF itself has not is named with (EXT_texture_webp, KHR_texture_basisu); told by its first bytes. */
function ofOtherKind(bytes: Uint8Array): { mime: string; by: string } | undefined {
  if (isWebp(bytes)) return { mime: 'image/webp', by: 'EXT_texture_webp' };
  return isKtx2(bytes) ? { mime: 'image/ktx2', by: 'KHR_texture_basisu' } : undefined;
}

function joinGlb(json: unknown, chunks: readonly Uint8Array[]): Uint8Array {
  const bare = new TextEncoder().encode(JSON.stringify(json));
  const text = new Uint8Array(bare.length + (-bare.length & 3)).fill(0x20);
  text.set(bare);
  const binary = chunks.reduce((n, c) => n + c.length, 0);
  const out = new Uint8Array(12 + 8 + text.length + (binary > 0 ? 8 + binary : 0));
  const view = new DataView(out.buffer);
  const words = [0x46546c67, 2, out.length, text.length, 0x4e4f534a];
  for (const [i, w] of words.entries()) view.setUint32(4 * i, w, true);
  out.set(text, 20);
  if (binary > 0) {
    let at = 20 + text.length;
    view.setUint32(at, binary, true);
    view.setUint32(at + 4, 0x004e4942, true);
    at += 8;
    for (const c of chunks) {
      out.set(c, at);
      at += c.length;
    }
  }
  return out;
}

/** The extensions that a description speaks of, wherever in it. */
function extensionsIn(x: Plain): string[] {
  return Object.entries(x).flatMap(([key, value]) => {
    if (typeof value !== 'object' || value === null || key === 'extras') return [];
    return [...(key === 'extensions' ? Object.keys(value) : []), ...extensionsIn(value as Plain)];
  });
}

/** A glTF material and the pictures it names by number. */
interface Described {
  material: Plain;
  textures: (Pick<RawTexture, 'sampler' | 'by'> & { key: string; picture: CamePicture })[];
}

/** How a texturing is said in glTF: as it was where it came from one, else made of its uses. Undefined where a picture is missing. */
function describedBy(t: Texturing, picture: (blob: string) => CamePicture | undefined): Described | undefined {
  if (!t.raw) return madeOf(t, picture);
  const textures: Described['textures'] = [];
  for (const { picture: blob, ...how } of t.raw.textures) {
    const found = picture(blob);
    if (!found) return undefined;
    textures.push({ ...how, key: blob, picture: found });
  }
  return { material: t.raw.material, textures };
}

const WRAP = { clamp: 33071, mirror: 33648, repeat: 10497 } as const;
const [LINEAR, NEAREST] = [9729, 9728];

function madeOf(t: Texturing, picture: (blob: string) => CamePicture | undefined): Described | undefined {
  const textures: Described['textures'] = [];
  let missing = false;
  const info = (use: TextureUse | undefined, made?: { key: string; picture: CamePicture }): Plain | undefined => {
    if (!use) return undefined;
    const own = made ?? { key: use.picture, picture: picture(use.picture) as CamePicture };
    if (!own.picture) {
      missing = true;
      return undefined;
    }
    const { offset, turn, scale, wrap, nearest } = use;
    const sampler = {
      ...(nearest && { magFilter: NEAREST, minFilter: NEAREST }),
      ...(wrap && { ...(!nearest && { magFilter: LINEAR }), wrapS: WRAP[wrap[0]], wrapT: WRAP[wrap[1]] }),
    };
    const index = textures.push({ ...own, ...(Object.keys(sampler).length > 0 && { sampler }) }) - 1;
    const moved = { ...(offset && { offset }), ...(turn !== undefined && { rotation: turn }), ...(scale && { scale }) };
    return {
      index,
      ...(use.layout > 0 && { texCoord: use.layout }),
      ...(Object.keys(moved).length > 0 && { extensions: { KHR_texture_transform: moved } }),
    };
  };
  const [rough, metal, colour, alpha] = [
    textureIn(t, 'roughness'),
    textureIn(t, 'metallic'),
    textureIn(t, 'baseColour'),
    textureIn(t, 'alpha'),
  ];
  const packed = (uses: readonly (TextureUse | undefined)[], name: string) => packedPicture(uses, name, picture);
  const together = rough && metal && rough.picture === metal.picture && rough.channel === 1 && metal.channel === 2;
  const surface = rough ?? metal;
  const cutOut = alpha && colour && alpha.picture === colour.picture && alpha.channel === 3;
  const base = colour ?? alpha;
  const glow = Math.max(...t.emission);
  const material: Plain = {
    pbrMetallicRoughness: {
      baseColorFactor: t.baseColour,
      metallicFactor: t.metallic,
      roughnessFactor: t.roughness,
      ...(base && {
        baseColorTexture: info(
          base,
          cutOut || !alpha ? undefined : packed([part(colour, 0), part(colour, 1), part(colour, 2), alpha], 'base colour'),
        ),
      }),
      ...(surface && {
        metallicRoughnessTexture: info(surface, together ? undefined : packed([undefined, rough, metal], 'roughness and metallic')),
      }),
    },
    ...(textureIn(t, 'normal') && { normalTexture: { ...info(textureIn(t, 'normal')), scale: t.normalScale } }),
    ...(textureIn(t, 'occlusion') && { occlusionTexture: { ...info(textureIn(t, 'occlusion')), strength: t.occlusionStrength } }),
    ...(textureIn(t, 'emission') && { emissiveTexture: info(textureIn(t, 'emission')) }),
    ...(glow > 0 && { emissiveFactor: t.emission.map((x) => x / Math.max(1, glow)) }),
    ...(t.alpha !== 'opaque' && { alphaMode: t.alpha.toUpperCase(), ...(t.alpha === 'mask' && { alphaCutoff: t.cutoff }) }),
    ...(t.twoSided && { doubleSided: true }),
    ...((t.unlit || glow > 1 || t.transmission) && {
      extensions: {
        ...(glow > 1 && { KHR_materials_emissive_strength: { emissiveStrength: glow } }),
        ...(t.unlit && { KHR_materials_unlit: {} }),
        ...(t.transmission && {
          KHR_materials_transmission: {
            transmissionFactor: t.transmission,
            ...(textureIn(t, 'transmission') && { transmissionTexture: info(textureIn(t, 'transmission')) }),
          },
        }),
      },
    }),
  };
  return missing ? undefined : { material, textures };
}

/** One channel of a picture that has several. */
const part = (use: TextureUse | undefined, channel: number): TextureUse | undefined => use && { ...use, channel };

/** Single channels of several pictures as one, white where there is none; at the size of the largest. */
function packedPicture(
  uses: readonly (TextureUse | undefined)[],
  name: string,
  picture: (blob: string) => CamePicture | undefined,
): { key: string; picture: CamePicture } | undefined {
  const read = uses.map((u) => {
    const found = u && picture(u.picture);
    return found && u ? { pixels: decodeTexture(found.name, found.bytes), channel: u.channel ?? 0 } : undefined;
  });
  const there = read.filter((r) => r !== undefined);
  if (there.length === 0) return undefined;
  const [width, height] = [Math.max(...there.map((r) => r.pixels.width)), Math.max(...there.map((r) => r.pixels.height))];
  const channels = uses.length as 3 | 4;
  const data = new Uint8Array(channels * width * height).fill(255);
  for (const [k, r] of read.entries()) {
    if (!r) continue;
    const { pixels, channel } = r;
    const own = Math.min(channel, pixels.channels - 1);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const from = Math.floor((y * pixels.height) / height) * pixels.width + Math.floor((x * pixels.width) / width);
        data[channels * (y * width + x) + k] = pixels.data[pixels.channels * from + own];
      }
  }
  const bytes = encodePng({ width, height, channels, depth: 8, data });
  return { key: `${name} ${uses.map((u) => (u ? `${u.picture} ${u.channel}` : '')).join()}`, picture: { name, mime: 'image/png', bytes } };
}
