import { InputError } from '../errors';

/** The parts of glTF's JSON that are checked before anything is read. */
export interface GltfJson {
  asset: { version: string };
  extensionsUsed?: string[];
  extensionsRequired?: string[];
  scene?: number;
  scenes?: { nodes?: number[] }[];
  nodes?: { mesh?: number; children?: number[]; skin?: number }[];
  meshes?: { primitives: { attributes: Record<string, number>; indices?: number; material?: number; mode?: number }[] }[];
  buffers?: { byteLength: number; uri?: string; extensions?: Record<string, unknown> }[];
  bufferViews?: { buffer: number; byteOffset?: number; byteLength: number; byteStride?: number; extensions?: Record<string, unknown> }[];
  accessors?: {
    bufferView?: number;
    byteOffset?: number;
    componentType: number;
    count: number;
    type: string;
    normalized?: boolean;
    sparse?: Sparse;
  }[];
  images?: { uri?: string; bufferView?: number; mimeType?: string }[];
  textures?: { source?: number }[];
  materials?: Record<string, unknown>[];
}
interface Sparse {
  count: number;
  indices: { bufferView: number; byteOffset?: number; componentType: number };
  values: { bufferView: number; byteOffset?: number };
}

const COMPONENT: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const WIDTH: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
/** Required extensions that are read, or that change nothing about the geometry. */
const READ =
  /^(KHR_(materials_\w+|texture_(transform|basisu)|lights_punctual|mesh_quantization|draco_mesh_compression|node_visibility|xmp(_json_ld)?)|EXT_(meshopt_compression|mesh_gpu_instancing|texture_(webp|avif)))$/;
/** Bytes that data may come to which isn’t in the file as it is, zeros and what is packed: so many, and so many for each byte there is. */
const MADE = { free: 64_000_000, each: 60 };
const MESHOPT = 'EXT_meshopt_compression';

const bad = (code: string, message: string) => new InputError(`gltf/${code}`, message);

/** Takes a GLB apart: its JSON and its binary chunk. glTF 2.0 §4.4. @throws InputError when a length doesn't hold */
export function splitGlb(bytes: Uint8Array): { json: unknown; binary: Uint8Array } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67) throw bad('magic', 'The file is named GLB but does not begin like one.');
  if (view.getUint32(4, true) !== 2) throw bad('version', `This GLB says it is version ${view.getUint32(4, true)}; version 2 can be read.`);
  const length = view.getUint32(8, true);
  if (length > bytes.length) throw bad('truncated', `The GLB says it is ${length} bytes long but ends after ${bytes.length}.`);
  let json: unknown;
  let binary: Uint8Array | undefined;
  for (let at = 12; at + 8 <= length; ) {
    const size = view.getUint32(at, true);
    const kind = view.getUint32(at + 4, true);
    if (at + 8 + size > length) throw bad('chunk', `A chunk of the GLB says it is ${size} bytes long; only ${length - at - 8} are left.`);
    const chunk = bytes.subarray(at + 8, at + 8 + size);
    if (kind === 0x4e4f534a && json === undefined) json = parseJson(chunk);
    else if (kind === 0x004e4942) binary ??= chunk;
    at += 8 + size;
  }
  if (json === undefined) throw bad('json', 'The GLB holds no description of its contents.');
  return { json, binary: binary ?? new Uint8Array(0) };
}

/** The JSON of a glTF, checked to be an object. @throws InputError in one sentence */
export function parseJson(bytes: Uint8Array): unknown {
  try {
    const value: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    if (isRecord(value)) return value;
  } catch {
    // Said below, in a sentence.
  }
  throw bad('json', 'The glTF’s description can’t be read: it is not whole JSON.');
}

/** The files that a glTF says its data and pictures lie in, as names that a folder knows. */
export function urisOf(json: unknown): string[] {
  const out = new Set<string>();
  for (const list of ['buffers', 'images'])
    for (const x of isRecord(json) && Array.isArray(json[list]) ? json[list] : []) {
      const uri = isRecord(x) && typeof x.uri === 'string' ? x.uri : undefined;
      if (uri === undefined || /^[a-z][a-z\d+.-]*:/i.test(uri)) continue;
      try {
        out.add(decodeURIComponent(uri));
      } catch {
        out.add(uri);
      }
    }
  return [...out].slice(0, 200);
}

const isRecord = (x: unknown): x is Record<string, unknown> => typeof x === 'object' && x !== null && !Array.isArray(x);
const isIndex = (x: unknown): x is number => typeof x === 'number' && Number.isInteger(x) && x >= 0;

/** What a field of the description may hold; an optional one may be left out. */
type Kind = 'index' | 'size' | 'number' | 'text' | 'switch' | 'indices' | 'texts' | 'numbers' | 'record';
const HOLDS: Record<Kind, (x: unknown) => boolean> = {
  index: isIndex,
  size: isIndex,
  number: (x) => typeof x === 'number' && Number.isFinite(x),
  text: (x) => typeof x === 'string',
  switch: (x) => typeof x === 'boolean',
  indices: (x) => Array.isArray(x) && x.every(isIndex),
  texts: (x) => Array.isArray(x) && x.every((t) => typeof t === 'string'),
  numbers: (x) => Array.isArray(x) && x.every((n) => typeof n === 'number' && Number.isFinite(n)),
  record: isRecord,
};
/** Numbers a list has to have, by field. */
const LENGTHS: Record<string, number> = {
  translation: 3,
  rotation: 4,
  scale: 3,
  matrix: 16,
  emissiveFactor: 3,
  baseColorFactor: 4,
};
type Fields = Record<string, Kind>;
/** One description of what glTF 2.0 says of each list (§5), as far as anything is read of it. A `!` marks what has to be there. */
const LISTS: Record<string, Fields> = {
  scenes: { name: 'text', nodes: 'indices' },
  nodes: {
    name: 'text',
    mesh: 'index',
    camera: 'index',
    skin: 'index',
    children: 'indices',
    translation: 'numbers',
    rotation: 'numbers',
    scale: 'numbers',
    matrix: 'numbers',
    weights: 'numbers',
    extensions: 'record',
  },
  meshes: { name: 'text', weights: 'numbers', extensions: 'record' },
  buffers: { 'byteLength!': 'size', uri: 'text', name: 'text', extensions: 'record' },
  bufferViews: { 'buffer!': 'index', byteOffset: 'size', 'byteLength!': 'size', byteStride: 'size', target: 'index', extensions: 'record' },
  accessors: {
    bufferView: 'index',
    byteOffset: 'size',
    'componentType!': 'index',
    'count!': 'size',
    'type!': 'text',
    normalized: 'switch',
    sparse: 'record',
    name: 'text',
  },
  images: { uri: 'text', bufferView: 'index', mimeType: 'text', name: 'text', extensions: 'record' },
  textures: { source: 'index', sampler: 'index', name: 'text', extensions: 'record' },
  samplers: { magFilter: 'index', minFilter: 'index', wrapS: 'index', wrapT: 'index' },
  materials: {
    name: 'text',
    pbrMetallicRoughness: 'record',
    normalTexture: 'record',
    occlusionTexture: 'record',
    emissiveTexture: 'record',
    emissiveFactor: 'numbers',
    alphaMode: 'text',
    alphaCutoff: 'number',
    doubleSided: 'switch',
    extensions: 'record',
  },
  skins: { joints: 'indices', inverseBindMatrices: 'index', skeleton: 'index' },
  animations: {},
  cameras: {},
};
const PBR: Fields = {
  baseColorFactor: 'numbers',
  baseColorTexture: 'record',
  metallicFactor: 'number',
  roughnessFactor: 'number',
  metallicRoughnessTexture: 'record',
};
const PRIMITIVE: Fields = {
  'attributes!': 'record',
  indices: 'index',
  material: 'index',
  mode: 'index',
  targets: 'record',
  extensions: 'record',
};
const SINGULAR: Record<string, string> = { meshes: 'mesh', skins: 'skin', images: 'picture', bufferViews: 'buffer view' };

function checkFields(what: string, x: unknown, fields: Fields): void {
  if (!isRecord(x)) throw bad('shape', `${what} of the glTF is not described.`);
  for (const [key, kind] of Object.entries(fields)) {
    const name = key.replace('!', '');
    const value = x[name];
    if (value === undefined) {
      if (key.endsWith('!')) throw bad('shape', `${what} of the glTF has no ${name}.`);
      continue;
    }
    const length = LENGTHS[name];
    if (name !== 'targets' && (!HOLDS[kind](value) || (length !== undefined && (value as unknown[]).length !== length)))
      throw bad('shape', `${what} of the glTF has a ${name} that is none.`);
  }
}

/**
 * Checks the kind of everything that is read, every length and every reference. What a glTF points to outside itself has to be at hand.
 *
 * @param has which other files are at hand
 * @throws InputError in one sentence
 */
export function checkGltf(json: unknown, binaryLength: number, has: (uri: string) => number | undefined = () => undefined): GltfJson {
  if (!isRecord(json)) throw bad('json', 'The glTF’s description can’t be read: it is not whole JSON.');
  const { asset } = json;
  if (!isRecord(asset) || typeof asset.version !== 'string' || !asset.version.startsWith('2'))
    throw bad('version', 'The glTF does not say that it is version 2.');
  for (const key of ['extensionsUsed', 'extensionsRequired'])
    if (json[key] !== undefined && !HOLDS.texts(json[key])) throw bad('shape', `The glTF has ${key} that are none.`);
  if (json.scene !== undefined && !isIndex(json.scene)) throw bad('shape', 'The glTF has a scene that is none.');
  for (const [list, fields] of Object.entries(LISTS)) {
    const all = json[list];
    if (all === undefined) continue;
    if (!Array.isArray(all)) throw bad('shape', `The glTF has ${list} that are no list.`);
    const one = SINGULAR[list] ?? list.replace(/s$/, '');
    for (const [i, x] of all.entries()) checkFields(`${one.charAt(0).toUpperCase()}${one.slice(1)} ${i}`, x, fields);
  }
  const gltf = json as unknown as GltfJson;
  for (const e of gltf.extensionsRequired ?? [])
    if (!READ.test(e)) throw bad('extension', `The glTF needs the extension ${e.slice(0, 60)}, which is not read here; save it without.`);
  for (const [i, m] of (gltf.materials ?? []).entries())
    if (m.pbrMetallicRoughness !== undefined) checkFields(`Material ${i}`, m.pbrMetallicRoughness, PBR);
  checkMeshes(gltf);
  checkNodes(gltf);
  checkData(gltf, binaryLength, has);
  if (!gltf.meshes?.length) throw bad('no-mesh', 'The glTF holds no mesh.');
  return gltf;
}

function checkMeshes(gltf: GltfJson): void {
  const accessors = gltf.accessors?.length ?? 0;
  for (const [i, m] of (gltf.meshes ?? []).entries()) {
    if (!Array.isArray(m.primitives)) throw bad('shape', `Mesh ${i} of the glTF has no primitives.`);
    for (const p of m.primitives) {
      checkFields(`A primitive of mesh ${i}`, p, PRIMITIVE);
      const targets = (p as { targets?: unknown }).targets;
      if (targets !== undefined && !(Array.isArray(targets) && targets.every((t) => isRecord(t) && Object.values(t).every(isIndex))))
        throw bad('shape', `A primitive of mesh ${i} of the glTF has targets that are none.`);
      const named = [...Object.values(p.attributes), ...(p.indices === undefined ? [] : [p.indices])];
      if (!named.every((a) => isIndex(a) && a < accessors))
        throw bad('reference', `A primitive of mesh ${i} names an accessor that is not in the file.`);
      if (p.material !== undefined && !gltf.materials?.[p.material])
        throw bad('reference', `A primitive of mesh ${i} names a material that is not in the file.`);
      if (p.mode !== undefined && p.mode > 6) throw bad('shape', `A primitive of mesh ${i} has the mode ${p.mode}; 0 to 6 are there.`);
    }
  }
}

function checkNodes(gltf: GltfJson): void {
  const nodes = gltf.nodes ?? [];
  const seen = new Uint8Array(nodes.length);
  for (const [i, n] of nodes.entries()) {
    if (n.mesh !== undefined && !gltf.meshes?.[n.mesh]) throw bad('reference', `Node ${i} names a mesh that is not in the file.`);
    for (const child of n.children ?? []) {
      if (!nodes[child]) throw bad('reference', `Node ${i} names a child that is not in the file.`);
      if (seen[child]++) throw bad('nodes', `Node ${child} of the glTF hangs from two others, or twice from one.`);
    }
  }
  for (const [i, s] of (gltf.scenes ?? []).entries())
    for (const n of s.nodes ?? []) if (!nodes[n]) throw bad('reference', `Scene ${i} names a node that is not in the file.`);
  if (gltf.scene !== undefined && !gltf.scenes?.[gltf.scene]) throw bad('reference', 'The glTF’s scene is not in the file.');
}

function checkData(gltf: GltfJson, binaryLength: number, has: (uri: string) => number | undefined): void {
  const present = (gltf.buffers ?? []).reduce((n, b) => n + (b.uri?.startsWith('data:') ? b.uri.length : b.uri ? (has(b.uri) ?? 0) : 0), 0);
  const most = MADE.free + MADE.each * (binaryLength + present);
  let made = 0;
  const makes = (bytes: number) => {
    made += bytes;
    if (!(made <= most)) throw bad('size', `The glTF claims more than ${Math.round(most / 1e6)} MB of data that it doesn’t hold.`);
  };
  for (const [i, b] of (gltf.buffers ?? []).entries()) {
    const packed = b.extensions?.[MESHOPT];
    if (isRecord(packed) && packed.fallback === true && b.uri === undefined) {
      makes(b.byteLength);
      continue;
    }
    const isData = b.uri?.startsWith('data:');
    const have = b.uri === undefined ? binaryLength : isData ? Math.floor((b.uri.length - b.uri.indexOf(',') - 1) * 0.75) : has(b.uri);
    if (have === undefined)
      throw bad('uri', `The glTF’s data lie in another file, “${String(b.uri).slice(0, 60)}”: it has to be brought along.`);
    if (b.byteLength > have + 3) throw bad('buffer', `Buffer ${i} claims ${b.byteLength} bytes; the file holds ${have}.`);
  }
  for (const [i, t] of (gltf.textures ?? []).entries())
    if (t.source !== undefined && !gltf.images?.[t.source])
      throw bad('texture', `Texture ${i} of the glTF names a picture that is not in it.`);
  for (const [i, v] of (gltf.bufferViews ?? []).entries()) {
    const buffer = gltf.buffers?.[v.buffer];
    if (!buffer || (v.byteOffset ?? 0) + v.byteLength > buffer.byteLength)
      throw bad('view', `Buffer view ${i} reaches past the end of its buffer.`);
    const packed = v.extensions?.[MESHOPT];
    if (packed !== undefined) checkPacked(gltf, i, packed, makes);
  }
  const views = gltf.bufferViews ?? [];
  for (const [i, image] of (gltf.images ?? []).entries())
    if (image.bufferView !== undefined && !views[image.bufferView]) throw bad('reference', `Picture ${i} of the glTF has no data.`);
  const within = (view: number, offset: number, bytes: number) => views[view] !== undefined && offset + bytes <= views[view].byteLength;
  for (const [i, a] of (gltf.accessors ?? []).entries()) {
    const size = COMPONENT[a.componentType] * WIDTH[a.type];
    if (!(size > 0)) throw bad('accessor', `Accessor ${i} has no valid type or count.`);
    if (a.bufferView === undefined || a.sparse) makes(a.count * size);
    if (a.sparse) {
      const { count, indices, values } = a.sparse;
      const width = COMPONENT[indices?.componentType];
      if (
        !isIndex(count) ||
        count > a.count ||
        !(width > 0) ||
        !isIndex(indices?.bufferView) ||
        !isIndex(values?.bufferView) ||
        !within(indices.bufferView, indices.byteOffset ?? 0, count * width) ||
        !within(values.bufferView, values.byteOffset ?? 0, count * size)
      )
        throw bad('accessor', `Accessor ${i} has replacements that are not all there.`);
    }
    if (a.bufferView === undefined) continue;
    const stride = views[a.bufferView]?.byteStride || size;
    if (!within(a.bufferView, a.byteOffset ?? 0, a.count > 0 ? (a.count - 1) * stride + size : 0))
      throw bad('accessor', `Accessor ${i} claims ${a.count} values; its data ends before that.`);
  }
}

/** A buffer view packed by EXT_meshopt_compression: its source is there, and what comes out is what the view says. */
function checkPacked(gltf: GltfJson, i: number, packed: unknown, makes: (bytes: number) => void): void {
  const no = () => bad('view', `Buffer view ${i} is packed in a way that doesn’t hold together.`);
  if (!isRecord(packed)) throw no();
  const { buffer, byteOffset = 0, byteLength, byteStride, count } = packed;
  const source = isIndex(buffer) ? gltf.buffers?.[buffer] : undefined;
  if (!source || !isIndex(byteOffset) || !isIndex(byteLength) || byteOffset + byteLength > source.byteLength) throw no();
  if (!isIndex(byteStride) || byteStride < 1 || byteStride > 256 || !isIndex(count)) throw no();
  makes(byteStride * count);
}
