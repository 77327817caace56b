import { InputError } from '../errors';

/** The parts of glTF's JSON that are checked before anything is read. */
export interface GltfJson {
  asset?: { version?: string };
  extensionsRequired?: string[];
  buffers?: { byteLength?: number; uri?: string }[];
  bufferViews?: { buffer?: number; byteOffset?: number; byteLength?: number; byteStride?: number }[];
  accessors?: { bufferView?: number; byteOffset?: number; componentType?: number; count?: number; type?: string; sparse?: unknown }[];
  images?: { uri?: string; bufferView?: number }[];
  textures?: { source?: number }[];
  meshes?: unknown[];
}

const COMPONENT: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const WIDTH: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
/** Required extensions that change nothing about the geometry. */
const HARMLESS = /^KHR_(materials_|texture_transform|lights_punctual|mesh_quantization)/;

const bad = (code: string, message: string) => new InputError(`gltf/${code}`, message);

/** Takes a GLB apart: its JSON and its binary chunk. glTF 2.0 §4.4. @throws InputError when a length doesn't hold */
export function splitGlb(bytes: Uint8Array): { json: GltfJson; binary: Uint8Array } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67) throw bad('magic', 'The file is named GLB but does not begin like one.');
  if (view.getUint32(4, true) !== 2) throw bad('version', `This GLB says it is version ${view.getUint32(4, true)}; version 2 can be read.`);
  const length = view.getUint32(8, true);
  if (length > bytes.length) throw bad('truncated', `The GLB says it is ${length} bytes long but ends after ${bytes.length}.`);
  let json: GltfJson | undefined;
  let binary = new Uint8Array(0);
  for (let at = 12; at + 8 <= length; ) {
    const size = view.getUint32(at, true);
    const kind = view.getUint32(at + 4, true);
    if (at + 8 + size > length) throw bad('chunk', `A chunk of the GLB says it is ${size} bytes long; only ${length - at - 8} are left.`);
    const chunk = bytes.subarray(at + 8, at + 8 + size);
    if (kind === 0x4e4f534a && !json) json = parseJson(chunk);
    else if (kind === 0x004e4942 && binary.length === 0) binary = new Uint8Array(chunk);
    at += 8 + size;
  }
  if (!json) throw bad('json', 'The GLB holds no description of its contents.');
  return { json, binary };
}

export function parseJson(bytes: Uint8Array): GltfJson {
  try {
    const value: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    if (value && typeof value === 'object' && !Array.isArray(value)) return value as GltfJson;
  } catch {
    // Said below, in a sentence.
  }
  throw bad('json', 'The glTF’s description can’t be read: it is not whole JSON.');
}

/** Checks every length and reference that reading would trust. Data URIs are the only ones followed. */
export function checkGltf(json: GltfJson, binaryLength: number): void {
  if (!json.asset?.version?.startsWith('2')) throw bad('version', 'The glTF does not say that it is version 2.');
  for (const e of json.extensionsRequired ?? [])
    if (!HARMLESS.test(e))
      throw bad('extension', `The glTF needs the extension ${String(e).slice(0, 60)}, which is not read here; save it uncompressed.`);
  for (const [i, b] of (json.buffers ?? []).entries()) {
    if (b.uri !== undefined && !b.uri.startsWith('data:'))
      throw bad('uri', `The glTF points to another file (“${b.uri.slice(0, 60)}”); only files with everything inside can be read.`);
    const have = b.uri === undefined ? binaryLength : Math.floor((b.uri.length - b.uri.indexOf(',') - 1) * 0.75);
    if (!(typeof b.byteLength === 'number' && b.byteLength >= 0) || b.byteLength > have + 3)
      throw bad('buffer', `Buffer ${i} claims ${b.byteLength} bytes; the file holds ${have}.`);
  }
  for (const image of json.images ?? [])
    if (image.uri !== undefined && !image.uri.startsWith('data:'))
      throw bad(
        'uri',
        `The glTF points to a picture elsewhere (“${image.uri.slice(0, 60)}”); only files with everything inside can be read.`,
      );
  for (const [i, t] of (json.textures ?? []).entries())
    if (t.source !== undefined && !json.images?.[t.source])
      throw bad('texture', `Texture ${i} of the glTF names a picture that is not in it.`);
  for (const [i, v] of (json.bufferViews ?? []).entries()) {
    const buffer = json.buffers?.[v.buffer ?? -1];
    const end = (v.byteOffset ?? 0) + (v.byteLength ?? Number.NaN);
    if (!buffer || !(end <= (buffer.byteLength ?? 0)) || (v.byteOffset ?? 0) < 0)
      throw bad('view', `Buffer view ${i} reaches past the end of its buffer.`);
  }
  for (const [i, a] of (json.accessors ?? []).entries()) {
    const size = COMPONENT[a.componentType ?? 0] * WIDTH[a.type ?? ''];
    if (!(size > 0) || !Number.isInteger(a.count) || (a.count as number) < 0)
      throw bad('accessor', `Accessor ${i} has no valid type or count.`);
    if (a.bufferView === undefined) {
      if ((a.count as number) > 10_000_000) throw bad('accessor', `Accessor ${i} claims ${a.count} values without any data.`);
      continue;
    }
    const v = json.bufferViews?.[a.bufferView];
    const stride = v?.byteStride || size;
    const end = (a.byteOffset ?? 0) + ((a.count as number) > 0 ? ((a.count as number) - 1) * stride + size : 0);
    if (!v || end > (v.byteLength ?? 0)) throw bad('accessor', `Accessor ${i} claims ${a.count} values; its data ends before that.`);
  }
  if (!json.meshes?.length) throw bad('no-mesh', 'The glTF holds no mesh.');
}
