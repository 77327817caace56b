import {
  type Accessor,
  type Document,
  type JSONDocument,
  type Material,
  type Mesh,
  type Node,
  type Primitive,
  type Texture,
  WebIO,
} from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  type Clearcoat,
  type EmissiveStrength,
  type InstancedMesh,
  type IOR,
  type Transmission,
} from '@gltf-transform/extensions';
import { InputError } from '../errors';
import { rgbToSrgb } from '../image/srgb';
import { compose, IDENTITY, isRigid, type Mat4, multiply } from '../maths/mat4';
import { apart, isEven } from '../maths/polar';
import { type Attribute, makeMesh, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { Records } from '../mesh/records';
import { transform } from '../mesh/transform';
import { dropRepeats } from '../mesh/weld';
import { FILE_GLOW, materialFrom, type Material as OwnMaterial, PLAIN } from '../surface/material';
import { figure } from '../units/lengths';
import { withDecoders } from './decoders';
import { checkGltf, type GltfJson, parseJson, splitGlb } from './glb-check';
import { texturingIn } from './gltf-looks';
import { droppedWords, leftOut } from './left-out';
import type { Model, ModelMaterial, ModelPart, ModelTexture } from './model';

const MM = 1000;
/** Under this name the library looks for the binary of a GLB. */
const OWN_BUFFER = '@glb.bin';

/** Other files that lie beside a model, by name. */
export type Beside = Record<string, Uint8Array>;

/** Reads a GLB (glTF 2.0, metres). Everything is checked first. @throws InputError */
export async function readGlb(bytes: Uint8Array, beside: Beside = {}): Promise<Model> {
  const { json, binary } = splitGlb(bytes);
  return read(json, binary, beside);
}

/** Reads a .gltf with everything inside, or with its files beside it. */
export const readGltfJson = (bytes: Uint8Array, beside: Beside = {}): Promise<Model> => read(parseJson(bytes), new Uint8Array(0), beside);

/** A file that a glTF names, by the name it is at hand under. */
function fileAt(uri: string, beside: Beside): Uint8Array | undefined {
  let name = uri;
  try {
    name = decodeURIComponent(uri);
  } catch {
    // Taken as it is written.
  }
  const last = name.split(/[\\/]/).pop() ?? '';
  for (const key of [name, last]) if (Object.hasOwn(beside, key)) return beside[key];
  return undefined;
}

/** Everything a glTF points to, by what it calls it. */
function resourcesOf(gltf: GltfJson, binary: Uint8Array, beside: Beside, notes: string[]): Record<string, Uint8Array<ArrayBuffer>> {
  const out: Record<string, Uint8Array<ArrayBuffer>> = { [OWN_BUFFER]: new Uint8Array(binary) };
  const put = (uri: string | undefined, i: number, missing: () => void) => {
    if (uri === undefined || Object.hasOwn(out, uri)) return;
    const found = uri.startsWith('data:') ? fromDataUri(uri, i) : fileAt(uri, beside);
    if (!found) missing();
    out[uri] = found ? new Uint8Array(found) : new Uint8Array(0);
  };
  for (const [i, b] of (gltf.buffers ?? []).entries()) put(b.uri, i, () => {});
  const lost: string[] = [];
  for (const image of gltf.images ?? []) put(image.uri, 0, () => lost.push(image.uri as string));
  if (lost.length > 0)
    notes.push(`${lost.length === 1 ? `The picture “${lost[0].slice(0, 60)}” was` : `${lost.length} pictures were`} not brought along.`);
  return out;
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

async function read(json: unknown, binary: Uint8Array, beside: Beside): Promise<Model> {
  const gltf = checkGltf(json, binary.length, (uri) => fileAt(uri, beside)?.length);
  const notes: string[] = [];
  try {
    const io = await withDecoders(new WebIO().registerExtensions(ALL_EXTENSIONS), gltf.extensionsUsed ?? []);
    const resources = resourcesOf(gltf, binary, beside, notes);
    const document = await io.readJSON({ json: gltf, resources } as unknown as JSONDocument);
    const model = modelOf(document, gltf);
    return { ...model, notes: [...new Set([...notes, ...model.notes, ...leftOut(gltf)])] };
  } catch (error) {
    if (error instanceof InputError) throw error;
    // What the checks let through and the library can't take: a file that is broken in a way of its own.
    throw new InputError('gltf/unreadable', 'The glTF can’t be read: what it describes doesn’t hold together.');
  }
}

/** A document of the library as a model. @param json what it was read from, in whose order its lists are */
function modelOf(document: Document, json: GltfJson): Model {
  const places = new Map<Mesh, Mat4[]>();
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  const visit = (node: Node, parent: Mat4, depth: number) => {
    if (depth > 200) throw new InputError('gltf/nodes', 'The glTF’s nodes are nested deeper than 200, or in a circle.');
    const world = multiply(
      parent,
      compose(node.getTranslation().map((x) => x * MM) as [number, number, number], node.getRotation(), node.getScale()),
    );
    const mesh = node.getMesh();
    if (mesh) {
      const all = places.get(mesh) ?? [];
      for (const own of copiesOf(node)) all.push(own ? multiply(world, own) : world);
      places.set(mesh, all);
    }
    for (const child of node.listChildren()) visit(child, world, depth + 1);
  };
  for (const node of scene ? scene.listChildren() : document.getRoot().listNodes()) visit(node, IDENTITY, 0);

  const materials: ModelMaterial[] = [];
  const textures: ModelTexture[] = [];
  const looks = materialsOf(document, json, materials, numbering(document, textures));
  const notes: string[] = [];
  const parts: ModelPart[] = [];
  const even: number[] = [];
  let [brought, dropped] = [0, 0];
  for (const mesh of document.getRoot().listMeshes()) {
    const worlds = places.get(mesh);
    if (!worlds) continue;
    const primitives = mesh.listPrimitives();
    const groups = byStretch(worlds);
    if (groups.reduce((n, g) => n + g.placements.length, 0) < worlds.length)
      notes.push(
        `${worlds.length === 1 ? '' : 'Copies of '}“${mesh.getName() || nodeName(document, mesh) || 'a part'}” that nodes flatten to nothing were left out.`,
      );
    for (const { stretch } of groups) if (stretch && isEven(stretch)) even.push(stretch[0]);
    for (const p of primitives) {
      if (p.getMode() < 4) {
        notes.push('Points and lines were left out.');
        continue;
      }
      const source = p.getMaterial();
      const material = source ? looks(source, p.getAttribute('COLOR_0') !== null) : -1;
      const base = mesh.getName() || nodeName(document, mesh) || 'Part';
      const name = primitives.length > 1 && source?.getName() ? `${base}, ${source.getName()}` : base;
      const { mesh: own, from, vertices } = primitiveMesh(p);
      brought += from;
      dropped += from - triangleCount(own);
      for (const { placements, stretch } of groups) {
        const came = stretch && !isEven(stretch) ? stretch : undefined;
        parts.push({ name, mesh: stretch ? transform(own, stretch) : own, placements, material, vertices, ...(came && { came }) });
      }
    }
  }
  if (dropped > 0) notes.push(droppedWords(dropped, brought));
  if (even.length > 0) {
    const [least, most] = [Math.min(...even), Math.max(...even)].map((s) => figure(s, 6));
    notes.push(
      `A scale on the nodes, ${least === most ? `of ${least}` : `from ${least} to ${most}`}, was applied: sizes are of what stands there.`,
    );
  }
  return { parts, materials, textures, notes };
}

/** Where a node’s mesh stands beside the node itself: once, or at every place of its instances (EXT_mesh_gpu_instancing). */
function copiesOf(node: Node): (Mat4 | null)[] {
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
  if (!instances) return [null];
  const [moved, turned, scaled] = ['TRANSLATION', 'ROTATION', 'SCALE'].map((name) => instances.getAttribute(name));
  const count = Math.max(...[moved, turned, scaled].map((a) => a?.getCount() ?? 0));
  if (count > MOST_COPIES) throw new InputError('gltf/instances', `The glTF has ${count} copies of one mesh; ${MOST_COPIES} can be taken.`);
  return Array.from({ length: count }, (_, i) => {
    const t = moved?.getElement(i, []) ?? [0, 0, 0];
    const q = turned?.getElement(i, []) ?? [0, 0, 0, 1];
    const s = scaled?.getElement(i, []) ?? [1, 1, 1];
    return compose(t.map((x) => x * MM) as [number, number, number], q as [number, number, number, number], s as [number, number, number]);
  });
}
/** Copies of one mesh that a document can hold. */
const MOST_COPIES = 10_000;

/** Places by what they do to a mesh beside turning and moving it: copies that are scaled alike share one. */
function byStretch(worlds: readonly Mat4[]): { placements: Mat4[]; stretch: Mat4 | null }[] {
  const groups = new Map<string, { placements: Mat4[]; stretch: Mat4 | null }>();
  for (const w of worlds) {
    const rigid = isRigid(w);
    const taken = rigid ? { turn: w, stretch: null } : apart(w);
    if (!taken) continue;
    const most = Math.max(...(taken.stretch ?? [1]).map(Math.abs));
    const key = taken.stretch ? `${most.toPrecision(5)} ${taken.stretch.map((x) => Math.round((1e5 * x) / most))}` : '';
    const group = groups.get(key) ?? { placements: [], stretch: taken.stretch };
    group.placements.push(taken.turn);
    groups.set(key, group);
  }
  return [...groups.values()];
}

const nodeName = (document: Document, mesh: Mesh): string | undefined =>
  document
    .getRoot()
    .listNodes()
    .find((n) => n.getMesh() === mesh)
    ?.getName();

/** Numbers the file’s images as they are met; each is kept once. Undefined for one that is missing. */
function numbering(document: Document, list: ModelTexture[]): (image: number) => number | undefined {
  const known = new Map<Texture, number>();
  const all = document.getRoot().listTextures();
  return (image) => {
    const t: Texture | undefined = all[image];
    const bytes = t?.getImage();
    if (!t || !bytes?.length) return undefined;
    const seen = known.get(t);
    if (seen !== undefined) return seen;
    const made = list.push({ name: t.getName() || t.getURI() || `texture ${list.length + 1}`, mime: t.getMimeType(), bytes }) - 1;
    known.set(t, made);
    return made;
  };
}

/**
 * Numbers materials as they are met: one per name and look. A description of our own in its extras stands for itself; it is drawn in its
 * pictures already.
 */
function materialsOf(
  document: Document,
  json: GltfJson,
  materials: ModelMaterial[],
  picture: (image: number) => number | undefined,
): (source: Material, vertexColours: boolean) => number {
  const known = new Map<string, number>();
  const all = document.getRoot().listMaterials();
  return (source, vertexColours) => {
    const at = all.indexOf(source);
    const key = `${at} ${vertexColours}`;
    const seen = known.get(key);
    if (seen !== undefined) return seen;
    const own = materialFrom((source.getExtras() as { wellmorph?: unknown }).wellmorph);
    const texturing = texturingIn(json, at, picture, vertexColours);
    const material: ModelMaterial = {
      ...(own ? { ...bare(own), touched: true } : described(source)),
      name: source.getName() || `Material ${materials.length + 1}`,
      ...(texturing && { texturing: own ? { ...texturing, whole: true } : texturing }),
    };
    const text = JSON.stringify(material);
    const alike = materials.findIndex((m) => JSON.stringify(m) === text);
    const index = alike >= 0 ? alike : materials.push(material) - 1;
    known.set(key, index);
    return index;
  };
}

/** What a file says of a material of our own; its pictures are read from the file itself. */
function bare({ texturing: _, ...own }: OwnMaterial): Omit<OwnMaterial, 'texturing'> {
  return own;
}

function described(source: Material): Omit<ModelMaterial, 'name' | 'texturing'> {
  const [r, g, b, a] = source.getBaseColorFactor();
  // Where a picture says what glows, its factor alone would light all of it.
  const glow = source.getEmissiveTexture() ? 0 : Math.max(...source.getEmissiveFactor());
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

/** Layouts and colours a primitive may bring: what they are called in a file and here, numbers of each. */
const CARRIED = [
  ['TEXCOORD_0', 'uv', 2],
  ['TEXCOORD_1', 'uv2', 2],
  ['TEXCOORD_2', 'uv3', 2],
  ['TEXCOORD_3', 'uv4', 2],
  ['COLOR_0', 'colour', 4],
] as const;

/** Triangles of a primitive (lists, strips, fans), joined where positions are the very same; what corners carry stays with them. And how many there were. */
function primitiveMesh(p: Primitive): { mesh: PolyMesh; from: number; vertices: number } {
  const position = p.getAttribute('POSITION');
  if (!position) return { mesh: makeMesh({ positions: [], faceStart: [0], faceVert: [] }), from: 0, vertices: 0 };
  const count = position.getCount();
  const indices = p.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, i) => i);
  for (const i of indices)
    if (i >= count) throw new InputError('gltf/index', `A triangle refers to vertex ${i}, but there are only ${count}.`);
  const corners = triangleCorners(indices, p.getMode());
  const places = new Records(3, count);
  const joined = new Uint32Array(count);
  const point = valuesOf(position, 3);
  for (let v = 0; v < count; v++) {
    for (let k = 0; k < 3; k++) places.set(k, point[3 * v + k]);
    joined[v] = places.number();
  }
  const attributes: Attribute[] = [];
  const normal = p.getAttribute('NORMAL');
  if (normal && normal.getCount() === count) {
    const data = new Float64Array(3 * corners.length);
    const n = valuesOf(normal, 3);
    for (let i = 0; i < corners.length; i++) {
      const o = 3 * corners[i];
      const l = Math.sqrt(n[o] * n[o] + n[o + 1] * n[o + 1] + n[o + 2] * n[o + 2]) || 1;
      for (let k = 0; k < 3; k++) data[3 * i + k] = n[o + k] / l;
    }
    if (data.every(Number.isFinite)) attributes.push({ name: 'normal', domain: 'corner', size: 3, data });
  }
  for (const [theirs, name, size] of CARRIED) {
    const values = p.getAttribute(theirs);
    if (!values || values.getCount() !== count) continue;
    const data = new Float64Array(size * corners.length);
    const t = valuesOf(values, size);
    for (let i = 0; i < corners.length; i++) {
      for (let k = 0; k < size; k++) data[size * i + k] = t[size * corners[i] + k];
      // glTF's v runs down; ours runs up.
      if (size === 2) data[2 * i + 1] = 1 - data[2 * i + 1];
    }
    if (data.every(Number.isFinite)) attributes.push({ name, domain: 'corner', size, data });
  }
  const faces = corners.length / 3;
  const mesh = makeMesh({
    positions: Float64Array.from(places.column(0, 3), (x) => x * MM),
    faceStart: Uint32Array.from({ length: faces + 1 }, (_, f) => 3 * f),
    faceVert: corners.map((v) => joined[v]),
    attributes,
  });
  const used = new Uint8Array(count);
  for (const v of corners) used[v] = 1;
  return { mesh: dropRepeats(mesh), from: faces, vertices: used.reduce((n, u) => n + u, 0) };
}

/** Numbers of each element of an accessor; the fourth of a colour that has three is 1. */
function valuesOf(accessor: Accessor, size: number): ArrayLike<number> {
  const own = accessor.getArray();
  if (own instanceof Float32Array && accessor.getElementSize() === size) return own;
  const out = new Float64Array(size * accessor.getCount());
  const element = [0, 0, 0, 1];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let k = 0; k < size; k++) out[size * i + k] = element[k];
  }
  return out;
}

function triangleCorners(index: ArrayLike<number>, mode: number): Uint32Array {
  if (mode === 4) return Uint32Array.from(index).subarray(0, index.length - (index.length % 3));
  const out: number[] = [];
  for (let i = 2; i < index.length; i++) {
    if (mode === 6) out.push(index[0], index[i - 1], index[i]);
    else if (i % 2 === 0) out.push(index[i - 2], index[i - 1], index[i]);
    else out.push(index[i - 1], index[i - 2], index[i]);
  }
  return Uint32Array.from(out);
}
