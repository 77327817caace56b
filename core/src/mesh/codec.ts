import { InputError } from '../errors';
import type { Attribute, AttributeData, PolyMesh } from './polymesh';

/**
 * A mesh as one blob: `WMM1`, the length of a JSON head (uint32, little-endian), the head, then the arrays one after the
 * other, each starting at a multiple of eight. The triangulation is stored, not made again.
 */
const MAGIC = 0x314d4d57;
const KINDS = { Float64Array, Float32Array, Int32Array, Uint32Array, Uint8Array } as const;
type Kind = keyof typeof KINDS;

interface Head {
  arrays: { name: string; kind: Kind; length: number; domain?: Attribute['domain']; size?: number }[];
  patches: readonly string[];
}

const align = (n: number): number => (n + 7) & ~7;

export function encodeMesh(mesh: PolyMesh): Uint8Array {
  const arrays: { entry: Head['arrays'][number]; data: AttributeData }[] = [];
  const put = (name: string, data: AttributeData, more = {}) =>
    arrays.push({ entry: { name, kind: data.constructor.name as Kind, length: data.length, ...more }, data });
  put('positions', mesh.positions);
  put('faceStart', mesh.faceStart);
  put('faceVert', mesh.faceVert);
  put('triangles', mesh.triangles);
  put('triangleFace', mesh.triangleFace);
  for (const a of mesh.attributes) put(a.name, a.data, { domain: a.domain, size: a.size });
  const head = new TextEncoder().encode(JSON.stringify({ arrays: arrays.map((a) => a.entry), patches: mesh.patches } satisfies Head));
  let total = align(8 + head.length);
  for (const a of arrays) total = align(total + a.data.byteLength);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, head.length, true);
  out.set(head, 8);
  let at = align(8 + head.length);
  for (const a of arrays) {
    out.set(new Uint8Array(a.data.buffer, a.data.byteOffset, a.data.byteLength), at);
    at = align(at + a.data.byteLength);
  }
  return out;
}

/** @throws InputError `mesh/blob` when the bytes are not a whole mesh blob */
export function decodeMesh(bytes: Uint8Array): PolyMesh {
  const fail = () => new InputError('mesh/blob', 'A stored mesh is damaged: its bytes do not match its own description.');
  if (bytes.length < 8) throw fail();
  const whole = bytes.byteOffset % 8 === 0 ? bytes : bytes.slice();
  const view = new DataView(whole.buffer, whole.byteOffset, whole.byteLength);
  if (view.getUint32(0, true) !== MAGIC) throw fail();
  const headLength = view.getUint32(4, true);
  if (8 + headLength > whole.length) throw fail();
  const head = JSON.parse(new TextDecoder().decode(whole.subarray(8, 8 + headLength))) as Head;
  let at = align(8 + headLength);
  const found = new Map<string, AttributeData>();
  const attributes: Attribute[] = [];
  for (const a of head.arrays) {
    const KindOf = KINDS[a.kind];
    const bytesLong = a.length * KindOf.BYTES_PER_ELEMENT;
    if (at + bytesLong > whole.length) throw fail();
    const data = new KindOf(whole.buffer.slice(whole.byteOffset + at, whole.byteOffset + at + bytesLong) as ArrayBuffer);
    if (a.domain) attributes.push({ name: a.name, domain: a.domain, size: a.size ?? 1, data });
    else found.set(a.name, data);
    at = align(at + bytesLong);
  }
  const [positions, faceStart, faceVert, triangles, triangleFace] = ['positions', 'faceStart', 'faceVert', 'triangles', 'triangleFace'].map(
    (n) => found.get(n),
  );
  if (!positions || !faceStart || !faceVert || !triangles || !triangleFace) throw fail();
  return { positions, faceStart, faceVert, triangles, triangleFace, attributes, patches: head.patches } as PolyMesh;
}
