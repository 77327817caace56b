import { Records } from './records';

/**
 * Tangent frames after MikkTSpace (Mikkelsen 2008, "Simulation of Wrinkled Surfaces Revisited", and its reference code),
 * with its default angular threshold of 180°. The npm build of the reference is the oracle in the tests.
 *
 * Corners with equal position, normal and uv are one vertex; triangles round a vertex that share an edge through it and
 * have the same uv orientation form a group, and a group gets one tangent: the triangles' uv directions, projected on
 * the vertex's plane and weighted by the corner's angle. Triangles without uv area join whichever group they touch.
 *
 * @param position 9 per triangle @param normal 9 per triangle, unit @param uv 6 per triangle, v up
 * @returns 12 per triangle: x, y, z and the sign w of the bitangent cross(n, t) · w
 */
export function mikkTangents(position: ArrayLike<number>, normal: ArrayLike<number>, uv: ArrayLike<number>): Float32Array {
  const corners = position.length / 3;
  const triangles = corners / 3;
  const vertex = weldCorners(position, normal, uv);
  const os = new Float64Array(3 * triangles);
  const orientation = new Uint8Array(triangles);
  const any = new Uint8Array(triangles);
  const dead = new Uint8Array(triangles);
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = [3 * t, 3 * t + 1, 3 * t + 2];
    dead[t] = samePlace(position, a, b) || samePlace(position, b, c) || samePlace(position, c, a) ? 1 : 0;
    const [x1, y1] = [uv[2 * b] - uv[2 * a], uv[2 * b + 1] - uv[2 * a + 1]];
    const [x2, y2] = [uv[2 * c] - uv[2 * a], uv[2 * c + 1] - uv[2 * a + 1]];
    const area = x1 * y2 - y1 * x2;
    orientation[t] = area > 0 ? 1 : 0;
    any[t] = 1;
    if (Math.abs(area) <= FLOAT_MIN) continue;
    const sign = area > 0 ? 1 : -1;
    let l = 0;
    for (let k = 0; k < 3; k++) {
      const d1 = position[3 * b + k] - position[3 * a + k];
      const d2 = position[3 * c + k] - position[3 * a + k];
      os[3 * t + k] = y2 * d1 - y1 * d2;
      l += os[3 * t + k] ** 2;
    }
    l = Math.sqrt(l);
    if (l > FLOAT_MIN) for (let k = 0; k < 3; k++) os[3 * t + k] *= sign / l;
    any[t] = l / Math.abs(area) > FLOAT_MIN ? 0 : 1;
  }
  const neighbour = neighbours(vertex, triangles, dead);
  inheritOrientation(neighbour, orientation, any, triangles);

  const out = new Float32Array(4 * corners);
  const groupOf = new Int32Array(corners).fill(-1);
  for (let start = 0; start < corners; start++) {
    const t0 = Math.floor(start / 3);
    if (groupOf[start] >= 0 || dead[t0] || any[t0]) continue;
    const members = spread(start, vertex, neighbour, orientation, any, groupOf);
    const tangent = average(members, position, normal, os, any, dead);
    for (const c of members) out.set([tangent[0], tangent[1], tangent[2], orientation[t0] ? 1 : -1], 4 * c);
  }
  // What belongs to no group takes the frame of a corner on the same vertex, or the reference's fallback.
  const known = new Map<number, number>();
  for (let c = 0; c < corners; c++) if (groupOf[c] >= 0 && !known.has(vertex[c])) known.set(vertex[c], c);
  for (let c = 0; c < corners; c++) {
    if (groupOf[c] >= 0) continue;
    const from = known.get(vertex[c]);
    if (from !== undefined) out.set(out.subarray(4 * from, 4 * from + 4), 4 * c);
    else out.set([1, 0, 0, -1], 4 * c);
  }
  return out;
}

const FLOAT_MIN = 1.17549435e-38;

function samePlace(p: ArrayLike<number>, a: number, b: number): boolean {
  return p[3 * a] === p[3 * b] && p[3 * a + 1] === p[3 * b + 1] && p[3 * a + 2] === p[3 * b + 2];
}

/** Corner → number shared by the corners with the very same position, normal and uv (compared as 32-bit floats). */
function weldCorners(position: ArrayLike<number>, normal: ArrayLike<number>, uv: ArrayLike<number>): Uint32Array {
  const corners = position.length / 3;
  const records = new Records(8, Math.ceil(corners / 4));
  const first: number[] = [];
  const out = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) {
    for (let k = 0; k < 3; k++) {
      records.set(k, position[3 * c + k]);
      records.set(3 + k, normal[3 * c + k]);
    }
    records.set(6, uv[2 * c]);
    records.set(7, uv[2 * c + 1]);
    const r = records.number();
    if (r === first.length) first.push(c);
    out[c] = first[r];
  }
  return out;
}

/** Edge k of triangle t (from corner 3t + k) → the triangle across it, −1 at a rim. */
function neighbours(vertex: Uint32Array, triangles: number, dead: Uint8Array): Int32Array {
  const across = new Int32Array(3 * triangles).fill(-1);
  const open = new Map<number, number[]>();
  const n = vertex.length;
  for (let t = 0; t < triangles; t++) {
    if (dead[t]) continue;
    for (let k = 0; k < 3; k++) {
      const a = vertex[3 * t + k];
      const b = vertex[3 * t + ((k + 1) % 3)];
      const waiting = open.get(b * n + a);
      const mate = waiting?.shift();
      if (mate !== undefined) {
        across[3 * t + k] = Math.floor(mate / 3);
        across[mate] = t;
      } else {
        const list = open.get(a * n + b);
        if (list) list.push(3 * t + k);
        else open.set(a * n + b, [3 * t + k]);
      }
    }
  }
  return across;
}

/** A triangle without uv area takes the orientation of a neighbour that has one. */
function inheritOrientation(across: Int32Array, orientation: Uint8Array, any: Uint8Array, triangles: number): void {
  for (let t = 0; t < triangles; t++) {
    if (!any[t]) continue;
    for (let k = 0; k < 3; k++) {
      const m = across[3 * t + k];
      if (m >= 0 && !any[m]) {
        orientation[t] = orientation[m];
        break;
      }
    }
  }
}

/** The corners on one vertex reached from `start` across edges, through triangles of the same orientation. */
function spread(
  start: number,
  vertex: Uint32Array,
  across: Int32Array,
  orientation: Uint8Array,
  any: Uint8Array,
  groupOf: Int32Array,
): number[] {
  const v = vertex[start];
  const side = orientation[Math.floor(start / 3)];
  const members = [start];
  groupOf[start] = start;
  for (let i = 0; i < members.length; i++) {
    const t = Math.floor(members[i] / 3);
    const k = members[i] % 3;
    for (const edge of [3 * t + k, 3 * t + ((k + 2) % 3)]) {
      const m = across[edge];
      if (m < 0) continue;
      const c = vertex[3 * m] === v ? 3 * m : vertex[3 * m + 1] === v ? 3 * m + 1 : 3 * m + 2;
      if (groupOf[c] >= 0 || orientation[m] !== side) continue;
      if (any[m] && orientation[m] !== side) continue;
      groupOf[c] = start;
      members.push(c);
    }
  }
  return members;
}

function average(
  members: number[],
  p: ArrayLike<number>,
  normal: ArrayLike<number>,
  os: Float64Array,
  any: Uint8Array,
  dead: Uint8Array,
): number[] {
  const sum = [0, 0, 0];
  for (const c of members) {
    const t = Math.floor(c / 3);
    if (any[t] || dead[t]) continue;
    const n = [normal[3 * c], normal[3 * c + 1], normal[3 * c + 2]];
    const project = (x: number[]): number[] => {
      const d = x[0] * n[0] + x[1] * n[1] + x[2] * n[2];
      const y = [x[0] - d * n[0], x[1] - d * n[1], x[2] - d * n[2]];
      const l = Math.hypot(y[0], y[1], y[2]);
      return l > FLOAT_MIN ? [y[0] / l, y[1] / l, y[2] / l] : y;
    };
    const s = project([os[3 * t], os[3 * t + 1], os[3 * t + 2]]);
    const k = c % 3;
    const before = 3 * t + ((k + 2) % 3);
    const after = 3 * t + ((k + 1) % 3);
    const e1 = project([0, 1, 2].map((i) => p[3 * before + i] - p[3 * c + i]));
    const e2 = project([0, 1, 2].map((i) => p[3 * after + i] - p[3 * c + i]));
    const angle = Math.acos(Math.max(-1, Math.min(1, e1[0] * e2[0] + e1[1] * e2[1] + e1[2] * e2[2])));
    for (let i = 0; i < 3; i++) sum[i] += angle * s[i];
  }
  const l = Math.hypot(sum[0], sum[1], sum[2]);
  return l > FLOAT_MIN ? sum.map((x) => x / l) : sum;
}
