import { edgesOf } from './connectivity';
import { faceCount, type PolyMesh } from './polymesh';
import { type NewCorner, Rework, triangleStarts } from './rework';

/** Passes after which an edge is as short as it gets. */
const PASSES = 10;

/**
 * Divides edges that are wanted shorter, and the faces beside them, until none is left: both faces of an edge see the same
 * place, so no gap opens. Faces that are touched come apart into triangles, all others stay as they are.
 *
 * @param wanted whether an edge from a to b (indices of positions) is too long still
 * @param most faces; it stops before there are more
 */
export function refine(mesh: PolyMesh, wanted: (positions: Float64Array, a: number, b: number) => boolean, most = 400_000): PolyMesh {
  let now = mesh;
  for (let pass = 0; pass < PASSES && faceCount(now) < most; pass++) {
    const next = once(now, wanted);
    if (!next) break;
    now = next;
  }
  return now;
}

function once(mesh: PolyMesh, wanted: (positions: Float64Array, a: number, b: number) => boolean): PolyMesh | null {
  const edges = edgesOf(mesh);
  const middle = new Int32Array(edges.count).fill(-1);
  const rework = new Rework(mesh);
  const p = mesh.positions;
  let any = false;
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
    if (!wanted(p, a, b)) continue;
    middle[e] = rework.vertex((p[3 * a] + p[3 * b]) / 2, (p[3 * a + 1] + p[3 * b + 1]) / 2, (p[3 * a + 2] + p[3 * b + 2]) / 2);
    any = true;
  }
  const starts = triangleStarts(mesh);
  let diagonal = false;
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let touched = false;
    for (let c = from; c < to && !touched; c++) touched = middle[edges.ofCorner[c]] >= 0;
    // A face whose own diagonals are too long comes apart as well, and is divided in the next pass.
    const inner = to - from > 3 && tooWide(mesh, starts, f, wanted);
    if (!touched && !inner) {
      rework.keep(f);
      continue;
    }
    if (inner) diagonal = true;
    for (let t = starts[f]; t < starts[f + 1]; t++) triangle(mesh, edges, rework, middle, f, t);
  }
  return any || diagonal ? rework.build().mesh : null;
}

function tooWide(mesh: PolyMesh, starts: Uint32Array, f: number, wanted: (p: Float64Array, a: number, b: number) => boolean): boolean {
  for (let t = starts[f]; t < starts[f + 1]; t++)
    for (let k = 0; k < 3; k++)
      if (wanted(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]], mesh.faceVert[mesh.triangles[3 * t + ((k + 1) % 3)]]))
        return true;
  return false;
}

/** A triangle of a face, divided at the middles its sides have. */
function triangle(mesh: PolyMesh, edges: ReturnType<typeof edgesOf>, rework: Rework, middle: Int32Array, f: number, t: number): void {
  const c = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
  // A side of the triangle is a side of the face when its corners follow each other; a diagonal has no middle yet.
  const mid = c.map((x, k) => (edges.next[x] === c[(k + 1) % 3] ? middle[edges.ofCorner[x]] : -1));
  const own = c.map((x, k) => (edges.next[x] === c[(k + 1) % 3] ? x : undefined));
  const corner = (k: number, edge: number | undefined): NewCorner => ({ vertex: mesh.faceVert[c[k]], from: c[k], edge });
  const half = (k: number, edge: number | undefined): NewCorner => ({
    vertex: mid[k],
    from: [
      [c[k], 0.5],
      [c[(k + 1) % 3], 0.5],
    ],
    edge,
  });
  const count = mid.filter((m) => m >= 0).length;
  if (count === 0) rework.face([corner(0, own[0]), corner(1, own[1]), corner(2, own[2])], f);
  else if (count === 1) {
    const k = mid.findIndex((m) => m >= 0);
    const [a, b] = [(k + 1) % 3, (k + 2) % 3];
    rework.face([corner(k, own[k]), half(k, undefined), corner(b, own[b])], f);
    rework.face([half(k, own[k]), corner(a, own[a]), corner(b, undefined)], f);
  } else if (count === 2) {
    // The corner between the two divided sides is cut off; the rest comes apart along one diagonal.
    const k = mid.findIndex((m) => m < 0);
    const [a, b] = [(k + 1) % 3, (k + 2) % 3];
    rework.face([half(a, own[a]), corner(b, own[b]), half(b, undefined)], f);
    rework.face([corner(k, own[k]), corner(a, own[a]), half(a, undefined)], f);
    rework.face([corner(k, undefined), half(a, undefined), half(b, own[b])], f);
  } else {
    for (let k = 0; k < 3; k++) rework.face([corner(k, own[k]), half(k, undefined), half((k + 2) % 3, own[(k + 2) % 3])], f);
    rework.face([half(0, undefined), half(1, undefined), half(2, undefined)], f);
  }
}
