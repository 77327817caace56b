import { type Vec3, vec3 } from '../../maths/vec3';
import { type Edges, twin } from '../connectivity';
import type { PolyMesh } from '../polymesh';

/**
 * The faces round a vertex in order, counter-clockwise seen from outside. Face i lies between spoke i and spoke i + 1; a closed
 * fan has as many spokes as faces, an open one (at a rim) one more.
 */
export interface Fan {
  vertex: number;
  /** The corner of each face at the vertex; it starts spoke i. */
  corners: number[];
  closed: boolean;
  /** Edge of each spoke. */
  spokes: number[];
  /** Unit vector along each spoke, away from the vertex. */
  ways: Vec3[];
  /** The angle of each face at the vertex, radians; over π where its outline turns inward. */
  angles: number[];
}

/** Corner → the corner before it round its face. */
export function previousCorners(edges: Edges): Uint32Array {
  const out = new Uint32Array(edges.next.length);
  for (let c = 0; c < out.length; c++) out[edges.next[c]] = c;
  return out;
}

/** The fans of vertices that are asked for; a vertex where surfaces only touch has several. */
export function fansAt(mesh: PolyMesh, edges: Edges, normals: Float64Array, wanted: Uint8Array): Fan[] {
  const previous = previousCorners(edges);
  const done = new Uint8Array(mesh.faceVert.length);
  const out: Fan[] = [];
  // A twin that runs the same way (inconsistent winding) is no neighbour.
  const across = (c: number): number => {
    const t = twin(edges, c);
    return t >= 0 && mesh.faceVert[edges.next[t]] === mesh.faceVert[c] ? t : -1;
  };
  for (let c = 0; c < done.length; c++) {
    const vertex = mesh.faceVert[c];
    if (done[c] || !wanted[vertex]) continue;
    // Clockwise to a rim, if there is one; the corner at which it starts otherwise.
    let first = c;
    for (let t = across(first); t >= 0; t = across(first)) {
      first = edges.next[t];
      if (first === c) break;
    }
    const corners: number[] = [];
    let at = first;
    let closed = false;
    for (;;) {
      corners.push(at);
      done[at] = 1;
      const t = across(previous[at]);
      if (t < 0) break;
      if (t === first) {
        closed = true;
        break;
      }
      at = t;
    }
    const spokes = corners.map((x) => edges.ofCorner[x]);
    const ways = corners.map((x) => way(mesh, vertex, mesh.faceVert[edges.next[x]]));
    if (!closed) {
      const last = previous[corners[corners.length - 1]];
      spokes.push(edges.ofCorner[last]);
      ways.push(way(mesh, vertex, mesh.faceVert[last]));
    }
    const angles = corners.map((x, i) => {
      const [a, b] = [ways[i], ways[(i + 1) % ways.length]];
      const f = 3 * edges.faceOf[x];
      const cross: Vec3 = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
      const sine = Math.hypot(...cross);
      const turn = Math.atan2(sine, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]);
      return cross[0] * normals[f] + cross[1] * normals[f + 1] + cross[2] * normals[f + 2] < -1e-9 ? 2 * Math.PI - turn : turn;
    });
    out.push({ vertex, corners, closed, spokes, ways, angles });
  }
  return out;
}

function way(mesh: PolyMesh, a: number, b: number): Vec3 {
  const p = mesh.positions;
  const [x, y, z] = [p[3 * b] - p[3 * a], p[3 * b + 1] - p[3 * a + 1], p[3 * b + 2] - p[3 * a + 2]];
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}

/** A unit vector in the plane of a face, turned from its first spoke towards its second. */
export function turnedWay(fan: Fan, face: number, angle: number): Vec3 {
  const [u, w] = [fan.ways[face], fan.ways[(face + 1) % fan.ways.length]];
  const whole = fan.angles[face];
  const cos = u[0] * w[0] + u[1] * w[1] + u[2] * w[2];
  let side: Vec3 = [w[0] - cos * u[0], w[1] - cos * u[1], w[2] - cos * u[2]];
  const l = Math.hypot(...side) || 1;
  // Past a half turn the second spoke lies on the other side.
  const sign = (whole > Math.PI ? -1 : 1) / l;
  side = [side[0] * sign, side[1] * sign, side[2] * sign];
  return vec3((k) => Math.cos(angle) * u[k] + Math.sin(angle) * side[k]);
}
