import { determinant3, type Mat4, normalMatrix } from '../maths/mat4';
import { type Attribute, makeMesh, type PolyMesh } from './polymesh';

/** Moves every vertex through a matrix. A mirror turns the faces round so that they keep facing outward. */
export function transform(mesh: PolyMesh, m: Mat4): PolyMesh {
  const p = mesh.positions;
  const positions = new Float64Array(p.length);
  for (let i = 0; i < p.length; i += 3)
    for (let k = 0; k < 3; k++) positions[i + k] = m[k] * p[i] + m[4 + k] * p[i + 1] + m[8 + k] * p[i + 2] + m[12 + k];
  const n = normalMatrix(m);
  const mirrored = determinant3(m) < 0;
  const attributes = mesh.attributes.map((a): Attribute => {
    // An island of a mirrored surface is laid out mirrored too, so that it isn't face down.
    if (a.name === 'flat' && mirrored) return { ...a, data: a.data.map((x, i) => (i % 2 === 0 ? -x : x)) as Attribute['data'] };
    if (a.name !== 'normal') return a;
    const data = new Float64Array(a.data.length);
    for (let i = 0; i < data.length; i += 3) {
      const x = n[0] * a.data[i] + n[4] * a.data[i + 1] + n[8] * a.data[i + 2];
      const y = n[1] * a.data[i] + n[5] * a.data[i + 1] + n[9] * a.data[i + 2];
      const z = n[2] * a.data[i] + n[6] * a.data[i + 1] + n[10] * a.data[i + 2];
      const l = Math.hypot(x, y, z) || 1;
      data.set([x / l, y / l, z / l], i);
    }
    return { ...a, data };
  });
  const moved = { ...mesh, positions, attributes };
  // The normals above already face outward; only the corners' order has to follow the mirror.
  return mirrored ? reverse(moved, undefined, 1) : moved;
}

/** Turns faces round (all, or those chosen): corners in the opposite order, edge values moved along, normals negated. */
export function flip(mesh: PolyMesh, chosen?: ArrayLike<number>): PolyMesh {
  return reverse(mesh, chosen, -1);
}

function reverse(mesh: PolyMesh, chosen: ArrayLike<number> | undefined, normalSign: 1 | -1): PolyMesh {
  const order = Uint32Array.from(mesh.faceVert, (_, c) => c);
  const flipped = new Uint8Array(mesh.faceVert.length);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (chosen && !chosen[f]) continue;
    const s = mesh.faceStart[f];
    const e = mesh.faceStart[f + 1];
    for (let c = s; c < e; c++) {
      order[c] = s + ((e - s - (c - s)) % (e - s));
      flipped[c] = 1;
    }
  }
  const attributes = mesh.attributes.map((a): Attribute => {
    if (a.domain !== 'corner') return a;
    const data = a.data.slice();
    const edgeValue = a.name === 'hard' || a.name === 'seam' || a.name === 'crease';
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const s = mesh.faceStart[f];
      const e = mesh.faceStart[f + 1];
      for (let c = s; c < e; c++) {
        // The edge that starts at corner c of the turned face is the one that ended there before.
        const from = edgeValue && flipped[c] ? (order[c] > s ? order[c] - 1 : e - 1) : order[c];
        for (let k = 0; k < a.size; k++)
          data[a.size * c + k] = a.data[a.size * from + k] * (a.name === 'normal' && flipped[c] ? normalSign : 1);
      }
    }
    return { ...a, data };
  });
  return makeMesh({
    positions: mesh.positions,
    faceStart: mesh.faceStart,
    faceVert: order.map((c) => mesh.faceVert[c]),
    attributes,
    patches: mesh.patches,
  });
}
