import { type Attribute, cornerCount, makeMesh, type PolyMesh, vertexCount } from './polymesh';

/** The mesh without some faces; vertices nobody uses any more go too. */
export function keepFaces(mesh: PolyMesh, keep: (face: number) => boolean): PolyMesh {
  const used = new Int32Array(vertexCount(mesh)).fill(-1);
  const positions: number[] = [];
  const vertexFrom: number[] = [];
  const faceStart = [0];
  const faceVert: number[] = [];
  const faces: number[] = [];
  const corners: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (!keep(f)) continue;
    faces.push(f);
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const v = mesh.faceVert[c];
      if (used[v] < 0) {
        used[v] = vertexFrom.push(v) - 1;
        positions.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      }
      faceVert.push(used[v]);
      corners.push(c);
    }
    faceStart.push(faceVert.length);
  }
  const from = { vertex: vertexFrom, corner: corners, face: faces };
  return makeMesh({
    positions,
    faceStart,
    faceVert,
    patches: mesh.patches,
    attributes: mesh.attributes.map((a) => gather(a, from[a.domain])),
  });
}

/** The values of an attribute for a new list of elements, each taken from an old one. */
export function gather(a: Attribute, from: readonly number[]): Attribute {
  const Kind = a.data.constructor as new (n: number) => Attribute['data'];
  const data = new Kind(from.length * a.size);
  for (let i = 0; i < from.length; i++) for (let k = 0; k < a.size; k++) data[a.size * i + k] = a.data[a.size * from[i] + k];
  return { ...a, data };
}

/** The same faces on other vertices: `to[v]` is where vertex v goes. Unused vertices are dropped by {@link keepFaces}. */
export function reindex(mesh: PolyMesh, to: ArrayLike<number>): PolyMesh {
  const faceVert = new Uint32Array(cornerCount(mesh));
  for (let c = 0; c < faceVert.length; c++) faceVert[c] = to[mesh.faceVert[c]];
  return makeMesh({ ...mesh, faceVert });
}
