import {
  eachTextureInfo,
  LONGEST_RAW,
  PLAIN_TEXTURING,
  type RawTexture,
  type Slot,
  type TextureInfo,
  type TextureUse,
  type Texturing,
  type Wrap,
} from '../surface/texturing';
import type { GltfJson } from './glb-check';

type Plain = Record<string, unknown>;
const record = (x: unknown): Plain => (typeof x === 'object' && x !== null && !Array.isArray(x) ? (x as Plain) : {});
const number = (x: unknown, otherwise: number): number => (typeof x === 'number' && Number.isFinite(x) ? x : otherwise);
const numbers = <N extends number[]>(x: unknown, otherwise: readonly [...N]): N =>
  Array.isArray(x) && x.length === otherwise.length && x.every((n) => Number.isFinite(n)) ? ([...x] as N) : ([...otherwise] as N);
const share = (x: number): number => Math.min(1, Math.max(0, x));

/** What each of glTF’s textures says, and in which channels (glTF 2.0 §5.22; the KHR_materials_* extensions). */
const TELLS: Record<string, readonly [Slot, number?][]> = {
  baseColorTexture: [['baseColour']],
  metallicRoughnessTexture: [
    ['roughness', 1],
    ['metallic', 2],
  ],
  normalTexture: [['normal']],
  occlusionTexture: [['occlusion', 0]],
  emissiveTexture: [['emission']],
  transmissionTexture: [['transmission', 0]],
  clearcoatTexture: [['coat', 0]],
  clearcoatRoughnessTexture: [['coatRoughness', 1]],
  clearcoatNormalTexture: [['coatNormal']],
};
/** OpenGL’s numbers for what stands beyond the tile (glTF 2.0 §5.26). */
const WRAP: Record<number, Wrap> = { 33071: 'clamp', 33648: 'mirror', 10497: 'repeat' };
const NEAREST = 9728;
/** Extensions by which a texture names a picture of a kind that glTF has not. */
export const OTHER_PICTURES = ['KHR_texture_basisu', 'EXT_texture_webp', 'EXT_texture_avif'] as const;

/**
 * How a glTF’s material is textured; undefined where it has no picture that is at hand.
 *
 * @param index of the material
 * @param picture the model’s number for one of the glTF’s images, undefined where it is missing
 */
export function texturingIn(
  json: GltfJson,
  index: number,
  picture: (image: number) => number | undefined,
  vertexColours: boolean,
): Texturing<number> | undefined {
  const source = json.materials?.[index];
  if (!source) return undefined;
  const material = structuredClone(source) as Plain;
  const uses: TextureUse<number>[] = [];
  const textures: RawTexture<number>[] = [];
  const alphaMode = material.alphaMode;
  const missing: { holder: Plain; key: string }[] = [];
  eachTextureInfo(material, (info, key, holder) => {
    const made = rawTexture(json, info.index, picture);
    if (!made) {
      missing.push({ holder, key });
      return;
    }
    const laid = laidBy(info, made);
    for (const [slot, channel] of TELLS[key] ?? [['other' as const]])
      uses.push({ ...laid, slot, ...(channel !== undefined && { channel }) });
    if (key === 'baseColorTexture' && (alphaMode === 'MASK' || alphaMode === 'BLEND')) uses.push({ ...laid, slot: 'alpha', channel: 3 });
    info.index = textures.push(made) - 1;
  });
  if (textures.length === 0) return undefined;
  for (const { holder, key } of missing) delete holder[key];
  const pbr = record(material.pbrMetallicRoughness);
  const extensions = record(material.extensions);
  const strength = number(record(extensions.KHR_materials_emissive_strength).emissiveStrength, 1);
  const transmission = share(number(record(extensions.KHR_materials_transmission).transmissionFactor, 0));
  return {
    ...PLAIN_TEXTURING,
    uses,
    baseColour: numbers<number[]>(pbr.baseColorFactor, [1, 1, 1, 1]).map((x) => Math.max(0, x)) as Texturing['baseColour'],
    metallic: share(number(pbr.metallicFactor, 1)),
    roughness: share(number(pbr.roughnessFactor, 1)),
    emission: numbers<number[]>(material.emissiveFactor, [0, 0, 0]).map((x) => Math.max(0, x * strength)) as Texturing['emission'],
    normalScale: number(record(material.normalTexture).scale, 1),
    occlusionStrength: share(number(record(material.occlusionTexture).strength, 1)),
    alpha: alphaMode === 'MASK' ? 'mask' : alphaMode === 'BLEND' ? 'blend' : 'opaque',
    cutoff: Math.max(0, number(material.alphaCutoff, 0.5)),
    twoSided: material.doubleSided === true,
    unlit: extensions.KHR_materials_unlit !== undefined,
    vertexColours,
    ...(transmission > 0 && { transmission }),
    ...(JSON.stringify(material).length <= LONGEST_RAW && { raw: { material, textures } }),
  };
}

/** A texture of the file by the picture that is drawn of it: one of its own kind where it offers several. */
function rawTexture(json: GltfJson, index: number, picture: (image: number) => number | undefined): RawTexture<number> | undefined {
  const texture = record(json.textures?.[index]);
  const extensions = record(texture.extensions);
  const offered: { image: unknown; by?: string }[] = [
    { image: texture.source },
    ...OTHER_PICTURES.map((by) => ({ image: record(extensions[by]).source, by })),
  ];
  for (const { image, by } of offered) {
    const at = typeof image === 'number' ? picture(image) : undefined;
    if (at === undefined) continue;
    const samplers = (json as { samplers?: unknown[] }).samplers ?? [];
    const own = typeof texture.sampler === 'number' ? record(samplers[texture.sampler]) : {};
    const sampler = Object.fromEntries(
      ['magFilter', 'minFilter', 'wrapS', 'wrapT'].flatMap((k) => (Number.isInteger(own[k]) ? [[k, own[k] as number]] : [])),
    );
    return { picture: at, ...(Object.keys(sampler).length > 0 && { sampler }), ...(by && { by }) };
  }
  return undefined;
}

/** How a texture is laid on (KHR_texture_transform, whose layout overrules the plain one). */
function laidBy(info: TextureInfo, { picture, sampler = {} }: RawTexture<number>): Omit<TextureUse<number>, 'slot'> {
  const moved = record(record(info.extensions).KHR_texture_transform);
  const layout = number(moved.texCoord, number(info.texCoord, 0));
  const offset = numbers<[number, number]>(moved.offset, [0, 0]);
  const scale = numbers<[number, number]>(moved.scale, [1, 1]);
  const turn = number(moved.rotation, 0);
  const wrap: [Wrap, Wrap] = [WRAP[sampler.wrapS] ?? 'repeat', WRAP[sampler.wrapT] ?? 'repeat'];
  return {
    picture,
    layout: Math.min(3, Math.max(0, Math.trunc(layout))),
    ...((offset[0] !== 0 || offset[1] !== 0) && { offset }),
    ...(turn !== 0 && { turn }),
    ...((scale[0] !== 1 || scale[1] !== 1) && { scale }),
    ...((wrap[0] !== 'repeat' || wrap[1] !== 'repeat') && { wrap }),
    ...(sampler.magFilter === NEAREST && { nearest: true }),
  };
}
