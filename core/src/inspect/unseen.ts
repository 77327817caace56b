import { edgesOf, Groups, shellsOf } from '../mesh/connectivity';
import { faceCount, type PolyMesh, triangleCount, vertexCount } from '../mesh/polymesh';

/** Fewer faces than this in one place are left: a hole that small frees nothing, and may be a look that fell between. */
const FEWEST = 4;
/** Rounds in which faces are put back where taking them would leave surfaces that meet in a point. */
const ROUNDS = 20;

/**
 * Faces nobody sees that can go without leaving a mesh worse than it was: all their triangles are hidden, enough of them lie
 * together or they are a whole shell, and what stays meets nowhere in a mere point.
 *
 * @param hidden 1 for every triangle that is never seen
 * @returns 1 for every face that can go
 */
export function removableFaces(mesh: PolyMesh, hidden: ArrayLike<number>): Uint8Array {
  const goes = new Uint8Array(faceCount(mesh)).fill(1);
  for (let t = 0; t < triangleCount(mesh); t++) if (!hidden[t]) goes[mesh.triangleFace[t]] = 0;
  if (!goes.includes(1)) return goes;
  const edges = edgesOf(mesh);
  const { ofFace, count } = shellsOf(mesh);
  const whole = new Uint8Array(count).fill(1);
  for (let f = 0; f < goes.length; f++) if (!goes[f]) whole[ofFace[f]] = 0;
  keepSmall();
  for (let round = 0; round < ROUNDS; round++) {
    // Sides that would be open, at each vertex: more than two of them, and what stays falls apart there.
    const open = new Uint8Array(vertexCount(mesh));
    for (let e = 0; e < edges.count; e++) {
      let [stay, go] = [0, 0];
      for (let k = edges.start[e]; k < edges.start[e + 1]; k++) {
        if (goes[edges.faceOf[edges.corners[k]]]) go++;
        else stay++;
      }
      if (stay !== 1 || go === 0) continue;
      for (const v of [edges.ends[2 * e], edges.ends[2 * e + 1]]) open[v] = Math.min(9, open[v] + 1);
    }
    let changed = false;
    for (let f = 0; f < goes.length; f++) {
      if (!goes[f]) continue;
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1] && goes[f]; c++)
        if (open[mesh.faceVert[c]] > 2) {
          goes[f] = 0;
          changed = true;
        }
    }
    if (!changed) break;
    keepSmall();
  }
  return goes;

  /** Leaves faces that would go in too small a group. */
  function keepSmall(): void {
    const groups = new Groups(goes.length);
    for (let e = 0; e < edges.count; e++) {
      const first = edges.faceOf[edges.corners[edges.start[e]]];
      if (!goes[first]) continue;
      for (let k = edges.start[e] + 1; k < edges.start[e + 1]; k++) {
        const other = edges.faceOf[edges.corners[k]];
        if (goes[other]) groups.join(first, other);
      }
    }
    const size = new Uint32Array(goes.length);
    for (let f = 0; f < goes.length; f++) if (goes[f]) size[groups.find(f)]++;
    for (let f = 0; f < goes.length; f++) if (goes[f] && !whole[ofFace[f]] && size[groups.find(f)] < FEWEST) goes[f] = 0;
  }
}

/** Triangles of chosen faces. */
export function trianglesOf(mesh: PolyMesh, faces: ArrayLike<number>): number {
  let n = 0;
  for (let t = 0; t < triangleCount(mesh); t++) if (faces[mesh.triangleFace[t]]) n++;
  return n;
}
