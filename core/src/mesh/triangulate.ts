import earcut from 'earcut';

/** Squared length of an edge. */
function squared(p: Float64Array, a: number, b: number): number {
  const x = p[3 * a] - p[3 * b];
  const y = p[3 * a + 1] - p[3 * b + 1];
  const z = p[3 * a + 2] - p[3 * b + 2];
  return x * x + y * y + z * z;
}

function crossOf(p: Float64Array, a: number, b: number, c: number): [number, number, number] {
  const ux = p[3 * b] - p[3 * a];
  const uy = p[3 * b + 1] - p[3 * a + 1];
  const uz = p[3 * b + 2] - p[3 * a + 2];
  const vx = p[3 * c] - p[3 * a];
  const vy = p[3 * c + 1] - p[3 * a + 1];
  const vz = p[3 * c + 2] - p[3 * a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}
const facing = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Newell's normal of a polygon, not normalised: its length is twice the area. */
export function newell(p: ArrayLike<number>, verts: ArrayLike<number>, from: number, to: number): [number, number, number] {
  let x = 0;
  let y = 0;
  let z = 0;
  for (let c = from; c < to; c++) {
    const a = 3 * verts[c];
    const b = 3 * verts[c + 1 < to ? c + 1 : from];
    x += (p[a + 1] - p[b + 1]) * (p[a + 2] + p[b + 2]);
    y += (p[a + 2] - p[b + 2]) * (p[a] + p[b]);
    z += (p[a] - p[b]) * (p[a + 1] + p[b + 1]);
  }
  return [x, y, z];
}

/**
 * Cuts every face into triangles of its own corners: F faces of n corners give Σ(n − 2) triangles.
 *
 * A quad is cut along the shorter diagonal that leaves both halves facing the same way; ties (within one part in 10⁶, so
 * that rounding to metres can't flip them) by the lower corner. Larger faces go through earcut in the plane of their
 * Newell normal; a face it doesn't cover with n − 2 triangles (points in a line, no area) is clipped ear by ear here.
 */
export function triangulate(
  positions: Float64Array,
  faceStart: Uint32Array,
  faceVert: Uint32Array,
): { triangles: Uint32Array; triangleFace: Uint32Array } {
  const faces = faceStart.length - 1;
  let total = 0;
  for (let f = 0; f < faces; f++) total += Math.max(0, faceStart[f + 1] - faceStart[f] - 2);
  const triangles = new Uint32Array(3 * total);
  const triangleFace = new Uint32Array(total);
  let t = 0;
  const put = (f: number, a: number, b: number, c: number) => {
    triangles[3 * t] = a;
    triangles[3 * t + 1] = b;
    triangles[3 * t + 2] = c;
    triangleFace[t++] = f;
  };
  for (let f = 0; f < faces; f++) {
    const s = faceStart[f];
    const n = faceStart[f + 1] - s;
    if (n === 3) put(f, s, s + 1, s + 2);
    else if (n === 4) {
      const [a, b, c, d] = [faceVert[s], faceVert[s + 1], faceVert[s + 2], faceVert[s + 3]];
      const first = facing(crossOf(positions, a, b, c), crossOf(positions, a, c, d)) > 0;
      const second = facing(crossOf(positions, b, c, d), crossOf(positions, b, d, a)) > 0;
      const shorter = squared(positions, b, d) < squared(positions, a, c) * (1 - 1e-6);
      if (second && (!first || shorter)) {
        put(f, s, s + 1, s + 3);
        put(f, s + 1, s + 2, s + 3);
      } else {
        put(f, s, s + 1, s + 2);
        put(f, s, s + 2, s + 3);
      }
    } else if (n > 4) {
      const normal = newell(positions, faceVert, s, s + n);
      const major = [0, 1, 2].sort((i, j) => Math.abs(normal[j]) - Math.abs(normal[i]))[0];
      const [i, j] = normal[major] >= 0 ? [(major + 1) % 3, (major + 2) % 3] : [(major + 2) % 3, (major + 1) % 3];
      const flat: number[] = [];
      for (let c = s; c < s + n; c++) flat.push(positions[3 * faceVert[c] + i], positions[3 * faceVert[c] + j]);
      const ears = earcut(flat);
      if (ears.length === 3 * (n - 2)) for (let k = 0; k < ears.length; k += 3) put(f, s + ears[k], s + ears[k + 1], s + ears[k + 2]);
      else {
        // Points in line with their neighbours, which earcut leaves out, belong to other faces too: no corner may be lost.
        const own = clipEars(flat);
        for (let k = 0; k < own.length; k += 3) put(f, s + own[k], s + own[k + 1], s + own[k + 2]);
      }
    }
  }
  return { triangles, triangleFace };
}

/** Points this near to a side, as a share of the area they would span, are in line with it. */
const IN_LINE = 1e-12;

/**
 * Ears clipped one by one, the roundest first, so that points in line with their neighbours become corners of proper triangles
 * wherever there are any. What can't be clipped (a figure without area) is made a fan.
 *
 * @param flat x, y of a polygon, counter-clockwise
 * @returns n − 2 triangles of its corners
 */
export function clipEars(flat: readonly number[]): number[] {
  const left = Array.from({ length: flat.length / 2 }, (_, i) => i);
  const out: number[] = [];
  const cross = (a: number, b: number, c: number) =>
    (flat[2 * b] - flat[2 * a]) * (flat[2 * c + 1] - flat[2 * a + 1]) - (flat[2 * b + 1] - flat[2 * a + 1]) * (flat[2 * c] - flat[2 * a]);
  const long = (a: number, b: number) => (flat[2 * a] - flat[2 * b]) ** 2 + (flat[2 * a + 1] - flat[2 * b + 1]) ** 2;
  const size = left.reduce((m, i) => Math.max(m, long(i, left[0])), 0);
  while (left.length > 3) {
    let best = { at: -1, round: 0 };
    for (let i = 0; i < left.length; i++) {
      const [a, b, c] = [left[(i + left.length - 1) % left.length], left[i], left[(i + 1) % left.length]];
      const area = cross(a, b, c);
      if (area <= IN_LINE * size) continue;
      const round = area / Math.max(long(a, b), long(b, c), long(c, a));
      if (round <= best.round) continue;
      const holds = left.some(
        (p) => p !== a && p !== b && p !== c && cross(a, b, p) >= 0 && cross(b, c, p) >= 0 && cross(c, a, p) >= -IN_LINE * size,
      );
      if (!holds) best = { at: i, round };
    }
    if (best.at < 0) break;
    const i = best.at;
    out.push(left[(i + left.length - 1) % left.length], left[i], left[(i + 1) % left.length]);
    left.splice(i, 1);
  }
  for (let k = 1; k < left.length - 1; k++) out.push(left[0], left[k], left[k + 1]);
  return out;
}
