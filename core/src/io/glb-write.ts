import { type Accessor, Document, type Material as GltfMaterial, type Mesh, type mat4, type Texture, WebIO } from '@gltf-transform/core';
import { KHRMaterialsClearcoat, KHRMaterialsEmissiveStrength, KHRMaterialsIOR, KHRMaterialsTransmission } from '@gltf-transform/extensions';
import { rgbToLinear } from '../image/srgb';
import type { Mat4 } from '../maths/mat4';
import type { GpuMesh } from '../mesh/gpu';
import { FILE_GLOW, type Material } from '../surface/material';
import { picturesIn } from '../surface/texturing';
import { type CameMaterial, type CamePictures, withCame } from './glb-came';

/** A part as a GLB holds it. */
export interface GlbPart {
  name: string;
  gpu: GpuMesh;
  /** mm. */
  placements: readonly Mat4[];
  /** Material id, null for none. */
  material: string | null;
  /** Both its sides are seen: it is open on purpose. */
  twoSided?: boolean;
}

/** How a GLB is written. */
export interface GlbOptions {
  name: string;
  materials: readonly Material[];
  /** 8-bit PNG, Y up as glTF asks. */
  normal?: Uint8Array;
  occlusion?: Uint8Array;
  /** A composed set: 8-bit PNG. Occlusion is then in its red channel. */
  baseColour?: Uint8Array;
  orm?: Uint8Array;
  /** Of a composed set, where layers or prints change them: clear coat in red and its roughness in green; the light let through. */
  coat?: Uint8Array;
  clear?: Uint8Array;
  /** Ids of materials that are coated in that map though they have no coat of their own. */
  coated?: ReadonlySet<string>;
  /** Pictures that came with files, by blob: a material that has its own here is written as it came, whatever set there is. */
  pictures?: CamePictures;
  /** Radiance that the file's emission of 1 stands for, W/(m²·sr): the shot's white. */
  white?: number;
}

/**
 * Writes a GLB: metres, Y up, one mesh per part and one node per copy, tangents with the layout. Maps go to every material
 * when given. Glass, coats and glowing parts use the open extensions; every material carries its own description beside them
 * (`extras.wellmorph`), so that reading the file again gives the same material, wear and all.
 */
export async function writeGlb(parts: readonly GlbPart[], options: GlbOptions): Promise<Uint8Array> {
  const document = new Document();
  const root = document.getRoot();
  root.getAsset().generator = 'Wellmorph';
  const buffer = document.createBuffer();
  const texture = (name: string, png?: Uint8Array): Texture | undefined =>
    png && document.createTexture(name).setMimeType('image/png').setImage(new Uint8Array(png)).setURI(`${name}.png`);
  const normal = texture('normal', options.normal);
  const orm = texture('orm', options.orm);
  const occlusion = orm ?? texture('occlusion', options.occlusion);
  const baseColour = texture('basecolor', options.baseColour);
  const coat = texture('coat', options.coat);
  const clear = texture('transmission', options.clear);
  const materials = new Map<string, GltfMaterial>();
  const came: { made: GltfMaterial; material: CameMaterial['material']; twoSided: boolean }[] = [];
  const keyOf = (material: string | null, twoSided = false) => `${material}${twoSided ? ' on both sides' : ''}`;
  const used = new Set(parts.map((p) => keyOf(p.material, p.twoSided)));
  const wanted = options.materials.flatMap((m) => [false, true].map((both) => ({ m, both })));
  for (const { m, both } of wanted) {
    if (!used.has(keyOf(m.id, both))) continue;
    const made = describe(document, m, options.white).setDoubleSided(both);
    if (m.texturing && picturesIn(m.texturing).every((p) => options.pictures?.has(p))) {
      came.push({ made, material: { name: m.name, texturing: m.texturing }, twoSided: both });
      materials.set(keyOf(m.id, both), made);
      continue;
    }
    if (baseColour) made.setBaseColorTexture(baseColour).setBaseColorFactor([1, 1, 1, 1]);
    if (orm) made.setMetallicRoughnessTexture(orm).setMetallicFactor(1).setRoughnessFactor(1);
    if (normal) made.setNormalTexture(normal);
    if (occlusion) made.setOcclusionTexture(occlusion);
    if (coat && (hasCoat(m) || options.coated?.has(m.id)))
      made.setExtension(
        'KHR_materials_clearcoat',
        document
          .createExtension(KHRMaterialsClearcoat)
          .createClearcoat()
          .setClearcoatFactor(1)
          .setClearcoatTexture(coat)
          .setClearcoatRoughnessFactor(1)
          .setClearcoatRoughnessTexture(coat),
      );
    if (clear && m.transmission > 0)
      made.setExtension(
        'KHR_materials_transmission',
        document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(1).setTransmissionTexture(clear),
      );
    materials.set(keyOf(m.id, both), made);
  }
  for (const both of [false, true]) {
    if (!used.has(keyOf(null, both)) || !(normal || occlusion || both)) continue;
    const plain = document.createMaterial('none given').setDoubleSided(both);
    if (normal) plain.setNormalTexture(normal);
    if (occlusion) plain.setOcclusionTexture(occlusion);
    materials.set(keyOf(null, both), plain);
  }

  const scene = document.createScene(options.name);
  root.setDefaultScene(scene);
  const top = document.createNode(options.name);
  scene.addChild(top);
  const written = new Map<GpuMesh, { material: string; mesh: Mesh }[]>();
  const place = (p: GlbPart, mesh: Mesh): void => {
    for (const [i, m] of p.placements.entries()) {
      const inMetres = m.map((x, k) => (k >= 12 && k < 15 ? x / 1000 : x)) as mat4;
      const node = document.createNode(i === 0 ? p.name : `${p.name} ${i + 1}`).setMesh(mesh);
      node.setMatrix(inMetres);
      top.addChild(node);
    }
  };
  for (const p of parts) {
    const key = keyOf(p.material, p.twoSided);
    const known = written.get(p.gpu)?.find((w) => w.material === key);
    if (known) {
      place(p, known.mesh);
      continue;
    }
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array | Uint32Array | Uint16Array): Accessor =>
      document
        .createAccessor()
        .setType(type)
        .setArray(array.slice() as Float32Array<ArrayBuffer>)
        .setBuffer(buffer);
    const { gpu } = p;
    const vertices = gpu.position.length / 3;
    const primitive = document
      .createPrimitive()
      .setIndices(accessor('SCALAR', vertices < 65535 ? Uint16Array.from(gpu.index) : gpu.index))
      .setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          gpu.position.map((x) => x / 1000),
        ),
      )
      .setAttribute('NORMAL', accessor('VEC3', unitLength(gpu.normal, 3)));
    if (gpu.uv)
      primitive.setAttribute(
        'TEXCOORD_0',
        accessor(
          'VEC2',
          gpu.uv.map((x, i) => (i % 2 === 1 ? 1 - x : x)),
        ),
      );
    for (const { name, size, data } of gpu.more) {
      const own = name === 'colour' ? 'COLOR_0' : `TEXCOORD_${Number(name.slice(2)) - 1}`;
      primitive.setAttribute(
        own,
        accessor(size === 2 ? 'VEC2' : 'VEC4', size === 2 ? data.map((x, i) => (i % 2 === 1 ? 1 - x : x)) : data),
      );
    }
    if (gpu.tangent) primitive.setAttribute('TANGENT', accessor('VEC4', unitLength(gpu.tangent, 4)));
    const material = materials.get(key);
    if (material) primitive.setMaterial(material);
    const mesh = document.createMesh(p.name).addPrimitive(primitive);
    written.set(p.gpu, [...(written.get(p.gpu) ?? []), { material: key, mesh }]);
    place(p, mesh);
  }
  const glb = await new WebIO().registerExtensions(EXTENSIONS).writeBinary(document);
  if (came.length === 0) return glb;
  const order = root.listMaterials();
  return withCame(
    glb,
    came.map(({ made, ...rest }) => ({ at: order.indexOf(made), ...rest })),
    (blob) => options.pictures?.get(blob),
  );
}

const EXTENSIONS = [KHRMaterialsClearcoat, KHRMaterialsEmissiveStrength, KHRMaterialsIOR, KHRMaterialsTransmission];

/** Whether anything of it is coated. */
const hasCoat = (m: Material): boolean => m.coat > 0 || m.layers.some((l) => l.on && (l.look.coat ?? 0) > 0);

function describe(document: Document, m: Material, white = FILE_GLOW): GltfMaterial {
  const colour = rgbToLinear(m.colour);
  const { id: _, texturing: __, derived: ___, ...own } = m;
  const made = document
    .createMaterial(m.name)
    .setBaseColorFactor([...colour, 1])
    .setMetallicFactor(m.metallic)
    .setRoughnessFactor(m.roughness)
    .setExtras({ wellmorph: own });
  if (m.ior !== 1.5) made.setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(m.ior));
  if (m.transmission > 0)
    made.setExtension(
      'KHR_materials_transmission',
      document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(m.transmission),
    );
  if (m.coat > 0)
    made.setExtension(
      'KHR_materials_clearcoat',
      document
        .createExtension(KHRMaterialsClearcoat)
        .createClearcoat()
        .setClearcoatFactor(m.coat)
        .setClearcoatRoughnessFactor(m.coatRoughness),
    );
  if (m.emission > 0) {
    made.setEmissiveFactor(colour);
    made.setExtension(
      'KHR_materials_emissive_strength',
      document
        .createExtension(KHRMaterialsEmissiveStrength)
        .createEmissiveStrength()
        .setEmissiveStrength(m.emission / white),
    );
  }
  return made;
}

/** Directions made unit again after rounding; a tangent's fourth number is a sign and stays. */
function unitLength(values: Float32Array, size: 3 | 4): Float32Array {
  const out = values.slice();
  for (let i = 0; i < out.length; i += size) {
    const l = Math.hypot(out[i], out[i + 1], out[i + 2]) || 1;
    for (let k = 0; k < 3; k++) out[i + k] /= l;
  }
  return out;
}
