import type { Vec3 } from '../maths/vec3';
import { attribute, type PolyMesh } from '../mesh/polymesh';

/** A place of a layout on the surface: the face, and where on it, part space. */
export interface TilePlace {
  face: number;
  point: Vec3;
}

/**
 * The place on the surface that a place of the tile shows, or the nearest one that is shown.
 *
 * @param tile u and v, v up
 * @param island only of this one
 * @returns null for a mesh without a layout
 */
export function placeAtTile(mesh: PolyMesh, [u, v]: readonly [number, number], island?: number): TilePlace | null {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const of = attribute(mesh, 'island', 'face')?.data;
  if (!uv) return null;
  let best: { t: number; w: Vec3; apart: number } | null = null;
  for (let t = 0; 3 * t < mesh.triangles.length; t++) {
    if (island !== undefined && of && of[mesh.triangleFace[t]] !== island) continue;
    const corner = (k: number): [number, number] => {
      const c = 2 * mesh.triangles[3 * t + k];
      return [uv[c], uv[c + 1]];
    };
    const [a, b, c] = [corner(0), corner(1), corner(2)];
    const { w, apart } = nearestOn(a, b, c, u, v);
    if (!best || apart < best.apart) best = { t, w, apart };
    if (apart === 0) break;
  }
  if (!best) return null;
  const { t, w } = best;
  const point = [0, 1, 2].map((k) =>
    [0, 1, 2].reduce((s, i) => s + w[i] * mesh.positions[3 * mesh.faceVert[mesh.triangles[3 * t + i]] + k], 0),
  ) as unknown as Vec3;
  return { face: mesh.triangleFace[t], point };
}

type Pair = readonly [number, number];

/** Weights of the corners at the point of a triangle that is nearest, and how far that is. */
function nearestOn(a: Pair, b: Pair, c: Pair, u: number, v: number): { w: Vec3; apart: number } {
  const area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  if (area !== 0) {
    const w1 = ((u - a[0]) * (c[1] - a[1]) - (v - a[1]) * (c[0] - a[0])) / area;
    const w2 = ((b[0] - a[0]) * (v - a[1]) - (b[1] - a[1]) * (u - a[0])) / area;
    if (w1 >= 0 && w2 >= 0 && w1 + w2 <= 1) return { w: [1 - w1 - w2, w1, w2], apart: 0 };
  }
  const sides = [
    [a, b, 0, 1],
    [b, c, 1, 2],
    [c, a, 2, 0],
  ] as const;
  let best = { w: [1, 0, 0] as Vec3, apart: Infinity };
  for (const [p, q, i, j] of sides) {
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const along = Math.min(1, Math.max(0, ((u - p[0]) * dx + (v - p[1]) * dy) / (dx * dx + dy * dy || 1)));
    const apart = Math.hypot(u - p[0] - along * dx, v - p[1] - along * dy);
    if (apart >= best.apart) continue;
    const w: [number, number, number] = [0, 0, 0];
    w[i] += 1 - along;
    w[j] += along;
    best = { w, apart };
  }
  return best;
}
