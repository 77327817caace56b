import { type Accessor, Document, type Material as GltfMaterial, type mat4, type Texture, WebIO } from '@gltf-transform/core';
import { rgbToLinear } from '../image/srgb';
import type { Mat4 } from '../maths/mat4';
import type { GpuMesh } from '../mesh/gpu';

export interface GlbMaterial {
  id: string;
  name: string;
  /** sRGB, 0…1. */
  colour: readonly number[];
  metallic: number;
  roughness: number;
  opacity: number;
  emissive: number;
}

export interface GlbPart {
  name: string;
  gpu: GpuMesh;
  /** mm. */
  placements: readonly Mat4[];
  /** Material id, null for none. */
  material: string | null;
}

export interface GlbOptions {
  name: string;
  materials: readonly GlbMaterial[];
  /** 8-bit PNG, Y up as glTF asks. */
  normal?: Uint8Array;
  occlusion?: Uint8Array;
}

/**
 * Writes a GLB: metres, Y up, one mesh per part and one node per copy, tangents with the layout. Normal and occlusion maps
 * go to every material when given.
 */
export async function writeGlb(parts: readonly GlbPart[], options: GlbOptions): Promise<Uint8Array> {
  const document = new Document();
  const root = document.getRoot();
  root.getAsset().generator = 'Wellmorph';
  const buffer = document.createBuffer();
  const texture = (name: string, png?: Uint8Array): Texture | undefined =>
    png && document.createTexture(name).setMimeType('image/png').setImage(new Uint8Array(png)).setURI(`${name}.png`);
  const normal = texture('normal', options.normal);
  const occlusion = texture('occlusion', options.occlusion);
  const materials = new Map<string, GltfMaterial>();
  const used = new Set(parts.map((p) => p.material));
  for (const m of options.materials) {
    if (!used.has(m.id)) continue;
    const colour = rgbToLinear(m.colour);
    const made = document
      .createMaterial(m.name)
      .setBaseColorFactor([...colour, m.opacity])
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness);
    if (m.opacity < 1) made.setAlphaMode('BLEND').setDoubleSided(false);
    if (m.emissive > 0) made.setEmissiveFactor(colour);
    if (normal) made.setNormalTexture(normal);
    if (occlusion) made.setOcclusionTexture(occlusion);
    materials.set(m.id, made);
  }
  const plain = used.has(null) && (normal || occlusion) ? document.createMaterial('none given') : null;
  if (plain && normal) plain.setNormalTexture(normal);
  if (plain && occlusion) plain.setOcclusionTexture(occlusion);

  const scene = document.createScene(options.name);
  root.setDefaultScene(scene);
  const top = document.createNode(options.name);
  scene.addChild(top);
  for (const p of parts) {
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
    if (gpu.tangent) primitive.setAttribute('TANGENT', accessor('VEC4', unitLength(gpu.tangent, 4)));
    const material = p.material === null ? plain : (materials.get(p.material) ?? null);
    if (material) primitive.setMaterial(material);
    const mesh = document.createMesh(p.name).addPrimitive(primitive);
    for (const [i, m] of p.placements.entries()) {
      const inMetres = m.map((x, k) => (k >= 12 && k < 15 ? x / 1000 : x)) as mat4;
      const node = document.createNode(i === 0 ? p.name : `${p.name} ${i + 1}`).setMesh(mesh);
      node.setMatrix(inMetres);
      top.addChild(node);
    }
  }
  return new WebIO().writeBinary(document);
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
