import {
  type Document,
  type JSONDocument,
  type Material,
  type Mesh,
  type Node,
  type Primitive,
  type Texture,
  WebIO,
} from '@gltf-transform/core';
import type { Clearcoat, EmissiveStrength, IOR, Transmission } from '@gltf-transform/extensions';
import { KHRMaterialsClearcoat, KHRMaterialsEmissiveStrength, KHRMaterialsIOR, KHRMaterialsTransmission } from '@gltf-transform/extensions';
import { InputError } from '../errors';
import { rgbToSrgb } from '../image/srgb';
import { compose, IDENTITY, isRigid, type Mat4, multiply } from '../maths/mat4';
import { type Attribute, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { dropRepeats } from '../mesh/weld';
import { FILE_GLOW, isMaterial, PLAIN } from '../surface/material';
import { checkGltf, type GltfJson, parseJson, splitGlb } from './glb-check';
import type { MaterialMaps, Model, ModelMaterial, ModelPart, ModelTexture } from './model';

const MM = 1000;
const io = () =>
  new WebIO().registerExtensions([KHRMaterialsClearcoat, KHRMaterialsEmissiveStrength, KHRMaterialsIOR, KHRMaterialsTransmission]);

/** Reads a GLB (glTF 2.0, metres). Every length is checked first. @throws InputError */
export async function readGlb(bytes: Uint8Array, keepScale = false): Promise<Model> {
  const { json, binary } = splitGlb(bytes);
  checkGltf(json, binary.length);
  return read(() => io().readBinary(bytes), keepScale);
}

/** Reads a .gltf with everything inside (data URIs). */
export async function readGltfJson(bytes: Uint8Array, keepScale = false): Promise<Model> {
  const json = parseJson(bytes);
  checkGltf(json, 0);
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const [i, b] of ((json as GltfJson).buffers ?? []).entries()) if (b.uri) resources[b.uri] = fromDataUri(b.uri, i);
  for (const image of json.images ?? []) if (image.uri) resources[image.uri] = fromDataUri(image.uri, 0);
  return read(() => io().readJSON({ json, resources } as unknown as JSONDocument), keepScale);
}

function fromDataUri(uri: string, i: number): Uint8Array<ArrayBuffer> {
  const comma = uri.indexOf(',');
  if (!uri.slice(0, comma).endsWith(';base64')) throw new InputError('gltf/uri', `Buffer ${i} is not base64.`);
  const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const text = uri.slice(comma + 1).replace(/=+$/, '');
  const out = new Uint8Array(Math.floor((text.length * 3) / 4));
  let [bits, have, at] = [0, 0, 0];
  for (const ch of text) {
    const v = alphabet.indexOf(ch);
    if (v < 0) throw new InputError('gltf/uri', `Buffer ${i} is not base64.`);
    bits = (bits << 6) | v;
    have += 6;
    if (have >= 8) {
      have -= 8;
      out[at++] = (bits >> have) & 255;
    }
  }
  return out;
}

async function read(open: () => Promise<Document>, keepScale: boolean): Promise<Model> {
  let document: Document;
  try {
    document = await open();
  } catch (error) {
    throw new InputError(
      'gltf/unreadable',
      `The glTF can’t be read: ${error instanceof Error ? error.message.split('\n')[0].slice(0, 120) : 'unknown'}.`,
    );
  }
  const places = new Map<Mesh, Mat4[]>();
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  const visit = (node: Node, parent: Mat4, depth: number) => {
    if (depth > 200) throw new InputError('gltf/nodes', 'The glTF’s nodes are nested deeper than 200, or in a circle.');
    const world = multiply(
      parent,
      compose(node.getTranslation().map((x) => x * MM) as [number, number, number], node.getRotation(), node.getScale()),
    );
    const mesh = node.getMesh();
    if (mesh) places.set(mesh, [...(places.get(mesh) ?? []), world]);
    for (const child of node.listChildren()) visit(child, world, depth + 1);
  };
  for (const node of scene ? scene.listChildren() : document.getRoot().listNodes()) visit(node, IDENTITY, 0);

  const materials: ModelMaterial[] = [];
  const known = new Map<Material, number>();
  const textures: ModelTexture[] = [];
  const textureNumber = numbering(textures);
  const notes: string[] = [];
  const parts: ModelPart[] = [];
  for (const mesh of document.getRoot().listMeshes()) {
    const worlds = places.get(mesh);
    if (!worlds) continue;
    const primitives = mesh.listPrimitives();
    for (const p of primitives) {
      if (p.getMode() < 4) {
        notes.push('Points and lines were left out.');
        continue;
      }
      const source = p.getMaterial();
      const material = source ? materialIndex(source, materials, known, textureNumber) : -1;
      const base = mesh.getName() || nodeName(document, mesh) || 'Part';
      const name = primitives.length > 1 && source?.getName() ? `${base}, ${source.getName()}` : base;
      const own = primitiveMesh(p);
      if (keepScale || worlds.every(isRigid)) parts.push({ name, mesh: own, placements: worlds, material });
      // A size or a mirror left on a node goes into the mesh: what is measured is what stands there. Or it stays, and is found.
      else
        for (const w of worlds)
          parts.push(
            isRigid(w)
              ? { name, mesh: own, placements: [w], material }
              : { name, mesh: transform(own, w), placements: [IDENTITY], material },
          );
    }
  }
  return { parts, materials, textures, notes: [...new Set(notes)] };
}

const nodeName = (document: Document, mesh: Mesh): string | undefined =>
  document
    .getRoot()
    .listNodes()
    .find((n) => n.getMesh() === mesh)
    ?.getName();

/** Numbers textures as they are met; each is kept once. */
function numbering(list: ModelTexture[]): (t: Texture | null) => number | undefined {
  const known = new Map<Texture, number>();
  return (t) => {
    const bytes = t?.getImage();
    if (!t || !bytes) return undefined;
    const seen = known.get(t);
    if (seen !== undefined) return seen;
    const made = list.push({ name: t.getName() || t.getURI() || `texture ${list.length + 1}`, mime: t.getMimeType(), bytes }) - 1;
    known.set(t, made);
    return made;
  };
}

/** One material per look: sources that look the same become one. A description of our own in its extras stands for itself. */
function materialIndex(
  source: Material,
  materials: ModelMaterial[],
  known: Map<Material, number>,
  textureNumber: (t: Texture | null) => number | undefined,
): number {
  const seen = known.get(source);
  if (seen !== undefined) return seen;
  const own = (source.getExtras() as { wellmorph?: unknown }).wellmorph;
  const maps: MaterialMaps = {
    baseColour: textureNumber(source.getBaseColorTexture()),
    orm: textureNumber(source.getMetallicRoughnessTexture()),
    normal: textureNumber(source.getNormalTexture()),
  };
  const textured = Object.values(maps).some((m) => m !== undefined);
  if (source.getAlphaMode() !== 'OPAQUE' && maps.baseColour !== undefined && source.getBaseColorFactor()[3] === 1) maps.alpha = true;
  const material: ModelMaterial = {
    ...(isMaterial(own) ? { ...own, touched: true } : described(source)),
    name: source.getName() || `Material ${materials.length + 1}`,
    ...(textured && { maps }),
  };
  const alike = materials.findIndex((m) => JSON.stringify({ ...m, name: '' }) === JSON.stringify({ ...material, name: '' }));
  const index = alike >= 0 ? alike : materials.push(material) - 1;
  known.set(source, index);
  return index;
}

function described(source: Material): Omit<ModelMaterial, 'name'> {
  const [r, g, b, a] = source.getBaseColorFactor();
  const glow = Math.max(...source.getEmissiveFactor());
  const strength = source.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1;
  const coat = source.getExtension<Clearcoat>('KHR_materials_clearcoat');
  const transmission = source.getExtension<Transmission>('KHR_materials_transmission')?.getTransmissionFactor() ?? 0;
  return {
    ...PLAIN,
    colour: rgbToSrgb([r, g, b]).map((x) => Math.round(x * 255) / 255) as [number, number, number],
    metallic: source.getMetallicFactor(),
    roughness: source.getRoughnessFactor(),
    ior: source.getExtension<IOR>('KHR_materials_ior')?.getIOR() ?? 1.5,
    transmission: Math.max(transmission, source.getAlphaMode() === 'BLEND' ? Math.round((1 - a) * 1e6) / 1e6 : 0),
    coat: coat?.getClearcoatFactor() ?? 0,
    coatRoughness: coat?.getClearcoatRoughnessFactor() ?? PLAIN.coatRoughness,
    emission: glow > 0 ? FILE_GLOW * glow * strength : 0,
  };
}

/** Triangles of a primitive (lists, strips, fans), joined where positions are the very same; normals and uv stay with corners. */
function primitiveMesh(p: Primitive): PolyMesh {
  const position = p.getAttribute('POSITION');
  if (!position) return makeMesh({ positions: [], faceStart: [0], faceVert: [] });
  const count = position.getCount();
  const indices = p.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, i) => i);
  for (const i of indices)
    if (i >= count) throw new InputError('gltf/index', `A triangle refers to vertex ${i}, but there are only ${count}.`);
  const corners = triangleCorners(Array.from(indices), p.getMode());
  const point = [0, 0, 0];
  const ids = new Map<string, number>();
  const positions: number[] = [];
  const joined = new Uint32Array(count);
  for (let v = 0; v < count; v++) {
    position.getElement(v, point);
    const key = point.join();
    let id = ids.get(key);
    if (id === undefined) {
      id = ids.size;
      ids.set(key, id);
      positions.push(point[0] * MM, point[1] * MM, point[2] * MM);
    }
    joined[v] = id;
  }
  const attributes: Attribute[] = [];
  const normal = p.getAttribute('NORMAL');
  if (normal && normal.getCount() === count) {
    const data = new Float64Array(3 * corners.length);
    const n = [0, 0, 0];
    corners.forEach((v, i) => {
      normal.getElement(v, n);
      const l = Math.hypot(n[0], n[1], n[2]) || 1;
      data.set([n[0] / l, n[1] / l, n[2] / l], 3 * i);
    });
    if (data.every(Number.isFinite)) attributes.push({ name: 'normal', domain: 'corner', size: 3, data });
  }
  const uv = p.getAttribute('TEXCOORD_0');
  if (uv && uv.getCount() === count) {
    const data = new Float64Array(2 * corners.length);
    const t = [0, 0];
    corners.forEach((v, i) => {
      uv.getElement(v, t);
      // glTF's v runs down; ours runs up.
      data.set([t[0], 1 - t[1]], 2 * i);
    });
    if (data.every(Number.isFinite)) attributes.push({ name: 'uv', domain: 'corner', size: 2, data });
  }
  const faces = corners.length / 3;
  const mesh = makeMesh({
    positions,
    faceStart: Uint32Array.from({ length: faces + 1 }, (_, f) => 3 * f),
    faceVert: corners.map((v) => joined[v]),
    attributes,
  });
  return dropRepeats(mesh);
}

function triangleCorners(index: number[], mode: number): number[] {
  if (mode === 4) return index.slice(0, index.length - (index.length % 3));
  const out: number[] = [];
  for (let i = 2; i < index.length; i++) {
    if (mode === 6) out.push(index[0], index[i - 1], index[i]);
    else if (i % 2 === 0) out.push(index[i - 2], index[i - 1], index[i]);
    else out.push(index[i - 1], index[i - 2], index[i]);
  }
  return out;
}
