import { InputError } from '../errors';
import type { Attribute, AttributeData, PolyMesh } from './polymesh';

/**
 * A mesh as one blob: `WMM2`, the length of a JSON head (uint32, little-endian), the head, then the arrays one after the other, each
 * starting at a multiple of eight. The triangulation is stored, not made again; where every face is a triangle it says nothing new and is
 * left out, with the list of where faces start. Values at corners that repeat are kept once, with an index for each corner: a bare mesh of
 * triangles takes 24 bytes a triangle (12 of positions, 12 of corners), smooth normals another 24.
 *
 * `WMM1`, without either, is read too.
 */
const MAGIC = { plain: 0x314d4d57, indexed: 0x324d4d57 } as const;
const KINDS = { Float64Array, Float32Array, Int32Array, Uint32Array, Uint8Array } as const;
type Kind = keyof typeof KINDS;

interface Entry {
  name: string;
  kind: Kind;
  length: number;
  domain?: Attribute['domain'];
  size?: number;
  /** Elements the values are given to by an index, which is the next array. */
  elements?: number;
}
interface Head {
  arrays: Entry[];
  patches: readonly string[];
  /** Every face is the triangle of its three corners, in order. */
  triangles?: true;
}

const align = (n: number): number => (n + 7) & ~7;

/** Whether faces and triangles are the same thing, in the same order. */
function isOfTriangles({ faceStart, triangles, triangleFace }: PolyMesh): boolean {
  for (let f = 0; f < faceStart.length; f++) if (faceStart[f] !== 3 * f) return false;
  for (let c = 0; c < triangles.length; c++) if (triangles[c] !== c) return false;
  for (let t = 0; t < triangleFace.length; t++) if (triangleFace[t] !== t) return false;
  return true;
}

const counted = (n: number, each: number): Uint32Array => Uint32Array.from({ length: n }, (_, i) => each * i);

/** Each different value once, in the order they come, and which each element has; null where that would take no less room. */
function indexed(data: AttributeData, size: number): { values: AttributeData; index: Uint32Array } | null {
  const n = data.length / size;
  const KindOf = data.constructor as (typeof KINDS)[Kind];
  const width = size * KindOf.BYTES_PER_ELEMENT;
  if (width <= 4 || n < 64) return null;
  const words = new Uint32Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength));
  const each = width / 4;
  const slots = 2 ** Math.ceil(Math.log2(2 * n));
  const table = new Uint32Array(slots);
  const index = new Uint32Array(n);
  const first = new Uint32Array(n);
  const most = Math.floor((n * (width - 4)) / width);
  let count = 0;
  // Hot loop over every corner: open addressing on the values' own bits, FNV-1a.
  for (let i = 0; i < n; i++) {
    let h = 2166136261;
    for (let k = 0; k < each; k++) h = Math.imul(h ^ words[i * each + k], 16777619);
    let at = (h ^ (h >>> 15)) & (slots - 1);
    for (;;) {
      const known = table[at];
      if (known === 0) {
        if (count >= most) return null;
        table[at] = count + 1;
        first[count] = i;
        index[i] = count++;
        break;
      }
      let same = true;
      for (let k = 0; same && k < each; k++) same = words[first[known - 1] * each + k] === words[i * each + k];
      if (same) {
        index[i] = known - 1;
        break;
      }
      at = (at + 1) & (slots - 1);
    }
  }
  const values = new KindOf(count * size);
  for (let v = 0; v < count; v++) for (let k = 0; k < size; k++) values[v * size + k] = data[first[v] * size + k];
  return { values, index };
}

/** A mesh as the bytes it is stored as; equal meshes give equal bytes. Read by {@link decodeMesh}. */
export function encodeMesh(mesh: PolyMesh): Uint8Array<ArrayBuffer> {
  const arrays: { entry?: Entry; data: AttributeData }[] = [];
  const put = (name: string, data: AttributeData, more = {}) =>
    arrays.push({ entry: { name, kind: data.constructor.name as Kind, length: data.length, ...more }, data });
  const bare = isOfTriangles(mesh);
  put('positions', mesh.positions);
  put('faceVert', mesh.faceVert);
  if (!bare) {
    put('faceStart', mesh.faceStart);
    put('triangles', mesh.triangles);
    put('triangleFace', mesh.triangleFace);
  }
  for (const { name, domain, size, data } of mesh.attributes) {
    const short = domain === 'corner' ? indexed(data, size) : null;
    put(name, short?.values ?? data, { domain, size, ...(short && { elements: short.index.length }) });
    if (short) arrays.push({ data: short.index });
  }
  const entries = arrays.flatMap((a) => (a.entry ? [a.entry] : []));
  const head = new TextEncoder().encode(
    JSON.stringify({ arrays: entries, patches: mesh.patches, ...(bare && { triangles: true }) } satisfies Head),
  );
  let total = align(8 + head.length);
  for (const a of arrays) total = align(total + a.data.byteLength);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC.indexed, true);
  view.setUint32(4, head.length, true);
  out.set(head, 8);
  let at = align(8 + head.length);
  for (const a of arrays) {
    out.set(new Uint8Array(a.data.buffer, a.data.byteOffset, a.data.byteLength), at);
    at = align(at + a.data.byteLength);
  }
  return out;
}

const damaged = () => new InputError('mesh/blob', 'A stored mesh is damaged: its bytes do not match its own description.');

const isCount = (x: unknown): x is number => Number.isSafeInteger(x) && (x as number) >= 0;
/** Numbers an element may have at most. */
const WIDEST = 16;

/** The head as it is believed: kinds and lengths that can be, names that are names. @throws InputError */
function headOf(bytes: Uint8Array): Head {
  let head: Partial<Record<keyof Head, unknown>> | null;
  try {
    // Out of shared memory where it lies there: text is not read from that.
    head = JSON.parse(new TextDecoder().decode(bytes.slice()));
  } catch {
    throw damaged();
  }
  if (!Array.isArray(head?.arrays) || !Array.isArray(head.patches)) throw damaged();
  if (!head.patches.every((p) => typeof p === 'string')) throw damaged();
  for (const a of head.arrays as Partial<Record<keyof Entry, unknown>>[]) {
    if (typeof a?.name !== 'string' || typeof a.kind !== 'string' || !Object.hasOwn(KINDS, a.kind) || !isCount(a.length)) throw damaged();
    if (a.domain !== undefined && !['vertex', 'corner', 'face'].includes(a.domain as string)) throw damaged();
    if (a.size !== undefined && !(isCount(a.size) && a.size >= 1 && a.size <= WIDEST)) throw damaged();
    if (a.elements !== undefined && !isCount(a.elements)) throw damaged();
  }
  return head as unknown as Head;
}

/** Attributes that are reckoned with: what they belong to, numbers of each. */
const KNOWN: Record<string, [Attribute['domain'], number]> = {
  uv: ['corner', 2],
  uv2: ['corner', 2],
  uv3: ['corner', 2],
  uv4: ['corner', 2],
  colour: ['corner', 4],
  patchUv: ['corner', 2],
  flat: ['corner', 2],
  normal: ['corner', 3],
  hard: ['corner', 1],
  seam: ['corner', 1],
  crease: ['corner', 1],
  patch: ['face', 1],
  island: ['face', 1],
  chart: ['face', 1],
  region: ['face', 1],
};

/** No mesh of ours reaches farther, mm: a hundred kilometres. */
const FAR_MM = 1e8;

/** Everything that indexes something does so within it, and every figure is one: the rest reckons with that. @throws InputError */
function checkWhole(mesh: PolyMesh): void {
  const { positions, faceStart, faceVert, triangles, triangleFace, attributes, patches } = mesh;
  const [vertices, corners, faces] = [positions.length / 3, faceVert.length, faceStart.length - 1];
  const sizes = { vertex: vertices, corner: corners, face: faces };
  const within = (list: ArrayLike<number>, below: number): boolean => {
    for (let i = 0; i < list.length; i++) if (!(list[i] >= 0 && list[i] < below)) return false;
    return true;
  };
  const finite = (list: ArrayLike<number>): boolean => {
    for (let i = 0; i < list.length; i++) if (!Number.isFinite(list[i])) return false;
    return true;
  };
  let isWhole = Number.isInteger(vertices) && faces >= 0 && faceStart[0] === 0 && faceStart[faces] === corners;
  for (let f = 0; isWhole && f < faces; f++) isWhole = faceStart[f + 1] >= faceStart[f] + 3;
  isWhole &&= triangles.length === 3 * triangleFace.length;
  isWhole &&=
    within(faceVert, vertices) &&
    within(triangles, corners) &&
    within(triangleFace, faces) &&
    positions.every((x) => Math.abs(x) <= FAR_MM);
  for (const { name, domain, size, data } of attributes) {
    const known = Object.hasOwn(KNOWN, name) ? KNOWN[name] : undefined;
    isWhole &&= data.length === size * sizes[domain] && finite(data);
    isWhole &&= known === undefined || (known[0] === domain && known[1] === size);
    if (name === 'patch') isWhole &&= patches.length === 0 || within(data, patches.length);
  }
  if (!isWhole) throw damaged();
}

/** @throws InputError `mesh/blob` when the bytes are not a whole mesh blob */
export function decodeMesh(bytes: Uint8Array): PolyMesh {
  if (bytes.length < 8) throw damaged();
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const magic = view.getUint32(0, true);
  if (magic !== MAGIC.plain && magic !== MAGIC.indexed) throw damaged();
  const headLength = view.getUint32(4, true);
  if (8 + headLength > bytes.length) throw damaged();
  const head = headOf(bytes.subarray(8, 8 + headLength));
  let at = align(8 + headLength);
  const next = (kind: Kind, length: number): AttributeData => {
    const KindOf = KINDS[kind];
    const size = length * KindOf.BYTES_PER_ELEMENT;
    if (at + size > bytes.length) throw damaged();
    const own = new Uint8Array(size);
    own.set(bytes.subarray(at, at + size));
    at = align(at + size);
    return new KindOf(own.buffer);
  };
  const found = new Map<string, AttributeData>();
  const attributes: Attribute[] = [];
  for (const a of head.arrays) {
    let data = next(a.kind, a.length);
    const size = a.size ?? 1;
    if (a.elements !== undefined) {
      const index = next('Uint32Array', a.elements);
      const spread = new KINDS[a.kind](a.elements * size);
      for (let i = 0; i < a.elements; i++) {
        if (index[i] * size + size > data.length) throw damaged();
        for (let k = 0; k < size; k++) spread[i * size + k] = data[index[i] * size + k];
      }
      data = spread;
    }
    if (a.domain) attributes.push({ name: a.name, domain: a.domain, size, data });
    else found.set(a.name, data);
  }
  const positions = found.get('positions');
  const faceVert = found.get('faceVert');
  if (head.triangles && faceVert) {
    if (faceVert.length % 3 !== 0) throw damaged();
    found.set('faceStart', counted(faceVert.length / 3 + 1, 3));
    found.set('triangles', counted(faceVert.length, 1));
    found.set('triangleFace', counted(faceVert.length / 3, 1));
  }
  const [faceStart, triangles, triangleFace] = ['faceStart', 'triangles', 'triangleFace'].map((n) => found.get(n));
  if (!(positions instanceof Float64Array)) throw damaged();
  for (const list of [faceStart, faceVert, triangles, triangleFace]) if (!(list instanceof Uint32Array)) throw damaged();
  const mesh = { positions, faceStart, faceVert, triangles, triangleFace, attributes, patches: head.patches } as PolyMesh;
  checkWhole(mesh);
  return mesh;
}
