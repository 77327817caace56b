import { InputError } from '../errors';
import type { Mat4 } from '../maths/mat4';
import { decodeMesh, encodeMesh } from '../mesh/codec';
import type { PartMesh } from './form';

/** All parts of a result as one blob: `WMB1`, length of a JSON head, the head, then mesh blobs at multiples of eight. */
const MAGIC = 0x31424d57;
interface Head {
  /** `same`: it has the mesh of the part at that place, and no bytes of its own. */
  parts: { id: string; name: string; placements: Mat4[]; length: number; same?: number }[];
}
const align = (n: number): number => (n + 7) & ~7;

/** Formed parts as the bytes they are kept as; equal parts give equal bytes. Read by {@link decodeParts}. */
export function encodeParts(parts: readonly PartMesh[]): Uint8Array<ArrayBuffer> {
  const first = parts.map((p) => parts.findIndex((q) => q.mesh === p.mesh));
  const meshes = parts.map((p, i) => (first[i] === i ? encodeMesh(p.mesh) : new Uint8Array()));
  const head = new TextEncoder().encode(
    JSON.stringify({
      parts: parts.map((p, i) => ({
        id: p.id,
        name: p.name,
        placements: p.placements,
        length: meshes[i].length,
        ...(first[i] !== i && { same: first[i] }),
      })),
    } satisfies Head),
  );
  let total = align(8 + head.length);
  for (const m of meshes) total += align(m.length);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, head.length, true);
  out.set(head, 8);
  let at = align(8 + head.length);
  for (const m of meshes) {
    out.set(m, at);
    at += align(m.length);
  }
  return out;
}

/** @throws InputError `parts/blob` when the bytes are not a whole bundle */
export function decodeParts(bytes: Uint8Array): PartMesh[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = () => new InputError('parts/blob', 'A stored result is damaged: its bytes do not match its own description.');
  if (bytes.length < 8 || view.getUint32(0, true) !== MAGIC) throw fail();
  const headLength = view.getUint32(4, true);
  if (8 + headLength > bytes.length) throw fail();
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(8, 8 + headLength))) as Head;
  let at = align(8 + headLength);
  const out: PartMesh[] = [];
  for (const p of head.parts) {
    if (p.same !== undefined) {
      const known = out[p.same];
      if (!known) throw fail();
      out.push({ id: p.id, name: p.name, placements: p.placements, mesh: known.mesh });
      continue;
    }
    if (at + p.length > bytes.length) throw fail();
    const mesh = decodeMesh(bytes.slice(at, at + p.length));
    at += align(p.length);
    out.push({ id: p.id, name: p.name, placements: p.placements, mesh });
  }
  return out;
}
