import { type Vec3, vec3 } from '../../maths/vec3';
import { sphereThrough } from './profile';

/** What a cap needs of the mesh it is put into. */
export interface CapMesh {
  position(v: number): Vec3;
  vertex(p: Vec3): number;
  /** @param loop counter-clockwise from outside */
  face(loop: readonly number[]): void;
}

/** Boundaries that lie this much off their sphere, in radii, are not taken to be on one. */
const ROUND = 0.15;

/**
 * Fills the place where k ≥ 3 bevels meet with quads: k square patches round a middle vertex for an even number of segments,
 * round a k-sided face for an odd one. On three equal edges at right angles it is an eighth of a sphere.
 *
 * @param corners where the patch touches a face between two bevels
 * @param sides n − 1 inner vertices from corner i to corner i + 1
 */
export function fillCorner(mesh: CapMesh, corners: readonly number[], sides: readonly (readonly number[])[], round: boolean): void {
  const k = corners.length;
  const n = sides[0].length + 1;
  if (n === 1) {
    mesh.face(corners);
    return;
  }
  const rim = corners.flatMap((c, i) => [c, ...sides[i]]);
  const lift = round ? lifted(rim.map((v) => mesh.position(v))) : (p: Vec3) => p;
  const put = (p: Vec3) => mesh.vertex(lift(p));
  const along = (i: number, j: number): number => (j === 0 ? corners[i] : j === n ? corners[(i + 1) % k] : sides[i][j - 1]);
  const half = Math.floor(n / 2);
  const middle = mean(rim.map((v) => mesh.position(v)));
  // The inner corner of each patch: the middle itself, or a place on the way to it.
  const even = n % 2 === 0;
  const centre = even ? put(middle) : -1;
  const inner = corners.map((_, i) => {
    if (even) return centre;
    const [a, b] = [mesh.position(along(i, half)), mesh.position(along((i + k - 1) % k, n - half))];
    const edge = mean([a, b]);
    return put(mix(middle, edge, 1 / n + 0.12));
  });
  // Vertices from the middle of each side inward, shared by the patches (or the strips) beside it.
  const spokes = corners.map((_, i) => {
    const line = (from: number, to: number) =>
      Array.from({ length: half + 1 }, (__, s) =>
        s === 0 ? from : s === half ? to : put(mix(mesh.position(from), mesh.position(to), s / half)),
      );
    const left = line(along(i, half), inner[i]);
    return { left, right: even ? left : line(along(i, n - half), inner[(i + 1) % k]) };
  });
  for (let i = 0; i < k; i++) {
    const before = (i + k - 1) % k;
    // Rows from the corner along side i, columns along the side before it backwards.
    const grid: number[][] = Array.from({ length: half + 1 }, () => new Array<number>(half + 1).fill(-1));
    for (let s = 0; s <= half; s++) {
      grid[s][0] = along(i, s);
      grid[0][s] = along(before, n - s);
      grid[half][s] = spokes[i].left[s];
      grid[s][half] = spokes[before].right[s];
    }
    const at = (s: number, t: number): Vec3 => mesh.position(grid[s][t]);
    for (let s = 1; s < half; s++)
      for (let t = 1; t < half; t++) {
        // Coons 1967.
        const [u, v] = [s / half, t / half];
        const p = vec3(
          (x) =>
            (1 - u) * at(0, t)[x] +
            u * at(half, t)[x] +
            (1 - v) * at(s, 0)[x] +
            v * at(s, half)[x] -
            ((1 - u) * (1 - v) * at(0, 0)[x] + u * (1 - v) * at(half, 0)[x] + (1 - u) * v * at(0, half)[x] + u * v * at(half, half)[x]),
        );
        grid[s][t] = put(p);
      }
    for (let s = 0; s < half; s++)
      for (let t = 0; t < half; t++) mesh.face([grid[s][t], grid[s + 1][t], grid[s + 1][t + 1], grid[s][t + 1]]);
    if (!even)
      for (let s = 0; s < half; s++) mesh.face([spokes[i].left[s], spokes[i].right[s], spokes[i].right[s + 1], spokes[i].left[s + 1]]);
  }
  if (!even) mesh.face(inner);
}

/** Fills any loop round a middle vertex, with quads as far as they go. */
export function fillLoop(mesh: CapMesh, loop: readonly number[], round: boolean): void {
  const places = loop.map((v) => mesh.position(v));
  const lift = round ? lifted(places) : (p: Vec3) => p;
  const centre = mesh.vertex(lift(mean(places)));
  const n = loop.length;
  for (let i = 0; i < n; i += 2) {
    if (i + 1 === n) mesh.face([loop[i], loop[0], centre]);
    else mesh.face([loop[i], loop[i + 1], loop[(i + 2) % n], centre]);
  }
}

/** Moves a place between the points of a rim out to the sphere they lie on, its radius that of the points near it. */
function lifted(rim: readonly Vec3[]): (p: Vec3) => Vec3 {
  const sphere = sphereThrough(rim);
  if (!sphere || sphere.off > ROUND) return (p) => p;
  const { centre } = sphere;
  const radii = rim.map((p) => Math.hypot(p[0] - centre[0], p[1] - centre[1], p[2] - centre[2]));
  return (p) => {
    let [sum, weight] = [0, 0];
    for (const [i, q] of rim.entries()) {
      const w = 1 / Math.max((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2 + (p[2] - q[2]) ** 2, 1e-18);
      sum += w * radii[i];
      weight += w;
    }
    const d: Vec3 = [p[0] - centre[0], p[1] - centre[1], p[2] - centre[2]];
    const l = Math.hypot(...d);
    if (l < 1e-9 * sphere.radius) return p;
    const k = sum / weight / l;
    return [centre[0] + k * d[0], centre[1] + k * d[1], centre[2] + k * d[2]];
  };
}

const mix = (a: Vec3, b: Vec3, t: number): Vec3 => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
function mean(points: readonly Vec3[]): Vec3 {
  const out: [number, number, number] = [0, 0, 0];
  for (const p of points) for (let k = 0; k < 3; k++) out[k] += p[k] / points.length;
  return out;
}
