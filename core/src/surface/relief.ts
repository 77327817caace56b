import { packNormals } from '../bake/maps/normal';
import { spread } from '../bake/spread';
import type { Pixels } from '../image/png';
import { fillTriangle } from '../image/raster';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../task';
import { twinFaces } from '../uv/twins';

/** What a relief came to. */
export interface ReliefFigures {
  /** Highest and lowest of it, µm from the surface. */
  highestUm: number;
  lowestUm: number;
  /** The steepest it gets from one texel to the next, degrees. */
  steepest: number;
}

/**
 * Heights on a surface as directions in its tangent frame (glTF 2.0, Y up), laid over a baked normal map.
 *
 * The slope is taken in millimetres on the surface itself, so that a stretched island is no steeper: with P_x and P_y how far a texel’s step
 * right and down goes on its triangle and G their products, ∇h = (P_x P_y)·G⁻¹·(h_x, h_y); the normal is then (−∇h·t, −∇h·b, 1). It is laid
 * over the other as reoriented normal mapping does (Barré-Brisebois and Hill 2012): turned by what turns straight up into the other.
 *
 * @param parts by their `uv` @param height mm, one per texel, top row first @param owner 0 outside the islands
 * @param over a normal map of the same size, Y up; null where nothing is baked
 * @returns 3 per texel, unit; straight up or as baked where there is no relief
 */
export function reliefNormals(
  parts: readonly { mesh: PolyMesh }[],
  size: number,
  height: Float32Array,
  owner: Uint8Array,
  over: Pixels | null,
  task: Task = QUIET,
): { normals: Float32Array; figures: ReliefFigures } {
  const normals = new Float32Array(3 * size * size);
  for (let i = 0; i < size * size; i++) {
    if (over) {
      const full = over.depth === 16 ? 65535 : 255;
      for (let k = 0; k < 3; k++) normals[3 * i + k] = (2 * over.data[over.channels * i + k]) / full - 1;
    } else normals[3 * i + 2] = 1;
  }
  const figures = { highestUm: 0, lowestUm: 0, steepest: 0 };
  let steepest = 0;
  for (const { mesh } of parts) {
    checkpoint(task);
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    if (!uv) continue;
    const twins = twinFaces(mesh);
    const p = mesh.positions;
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      if (twins?.[mesh.triangleFace[t / 3]]) continue;
      const [a, b, c] = [mesh.triangles[t], mesh.triangles[t + 1], mesh.triangles[t + 2]];
      const [ax, ay] = [uv[2 * a] * size, (1 - uv[2 * a + 1]) * size];
      const [bx, by] = [uv[2 * b] * size, (1 - uv[2 * b + 1]) * size];
      const [cx, cy] = [uv[2 * c] * size, (1 - uv[2 * c + 1]) * size];
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (area === 0) continue;
      const [va, vb, vc] = [3 * mesh.faceVert[a], 3 * mesh.faceVert[b], 3 * mesh.faceVert[c]];
      // How far a step of one texel goes, right and down: the affine map of this triangle.
      const [x0, y0] = [(cy - ay) / area, (by - ay) / area];
      const [x1, y1] = [(bx - ax) / area, (cx - ax) / area];
      const [ex, ey, ez] = [p[vb] - p[va], p[vb + 1] - p[va + 1], p[vb + 2] - p[va + 2]];
      const [fx, fy, fz] = [p[vc] - p[va], p[vc + 1] - p[va + 1], p[vc + 2] - p[va + 2]];
      const [rx, ry, rz] = [ex * x0 - fx * y0, ey * x0 - fy * y0, ez * x0 - fz * y0];
      const [dx, dy, dz] = [fx * x1 - ex * y1, fy * x1 - ey * y1, fz * x1 - ez * y1];
      const xx = rx * rx + ry * ry + rz * rz;
      const xy = rx * dx + ry * dy + rz * dz;
      const yy = dx * dx + dy * dy + dz * dz;
      const det = xx * yy - xy * xy;
      if (!(det > 1e-18)) continue;
      // The frame: along u, and across it towards growing v, which is up.
      const tl = Math.sqrt(xx);
      const [tx, ty, tz] = [rx / tl, ry / tl, rz / tl];
      const across = dx * tx + dy * ty + dz * tz;
      const [ox, oy, oz] = [dx - across * tx, dy - across * ty, dz - across * tz];
      const ol = Math.sqrt(ox * ox + oy * oy + oz * oz) || 1;
      const [btx, bty, btz] = [-ox / ol, -oy / ol, -oz / ol];
      fillTriangle(ax, ay, bx, by, cx, cy, size, size, (x, y) => {
        const i = y * size + x;
        const h = height[i];
        if (1000 * h > figures.highestUm) figures.highestUm = 1000 * h;
        if (1000 * h < figures.lowestUm) figures.lowestUm = 1000 * h;
        const hx = difference(height, owner, i, x > 0 ? -1 : 0, x + 1 < size ? 1 : 0);
        const hy = difference(height, owner, i, y > 0 ? -size : 0, y + 1 < size ? size : 0);
        if (hx === 0 && hy === 0) return;
        const u = (yy * hx - xy * hy) / det;
        const v = (xx * hy - xy * hx) / det;
        const gx = u * rx + v * dx;
        const gy = u * ry + v * dy;
        const gz = u * rz + v * dz;
        const slope = gx * gx + gy * gy + gz * gz;
        if (slope > steepest) steepest = slope;
        lay(normals, 3 * i, -(gx * tx + gy * ty + gz * tz), -(gx * btx + gy * bty + gz * btz));
      });
    }
  }
  figures.steepest = (Math.atan(Math.sqrt(steepest)) * 180) / Math.PI;
  return { normals, figures };
}

/** From one texel to the next, over those of its own that there are. */
function difference(height: Float32Array, owner: Uint8Array, i: number, before: number, after: number): number {
  const own = owner[i];
  const back = before !== 0 && owner[i + before] === own;
  const on = after !== 0 && owner[i + after] === own;
  if (back && on) return (height[i + after] - height[i + before]) / 2;
  return on ? height[i + after] - height[i] : back ? height[i] - height[i + before] : 0;
}

/** Lays a direction (x, y, 1) over the one that is there. */
function lay(normals: Float32Array, o: number, x: number, y: number): void {
  const l = Math.sqrt(x * x + y * y + 1);
  const [ux, uy, uz] = [-x / l, -y / l, 1 / l];
  const [bx, by, bz] = [normals[o], normals[o + 1], normals[o + 2]];
  const bl = Math.sqrt(bx * bx + by * by + bz * bz) || 1;
  const [tx, ty, tz] = [bx / bl, by / bl, bz / bl + 1];
  // A baked direction straight into the surface can't be turned about.
  if (tz < 1e-3) return;
  const d = (tx * ux + ty * uy + tz * uz) / tz;
  normals[o] = tx * d - ux;
  normals[o + 1] = ty * d - uy;
  normals[o + 2] = tz * d - uz;
}

/** Directions as a picture to deliver, carried over the padding. @param from see core/bake/spread */
export function reliefPixels(normals: Float32Array, size: number, from: Int32Array): Pixels {
  const p = packNormals(normals, size, { y: 'up', bits: 8 });
  return { ...p, data: spread(p.data as Uint8Array, 3, from) };
}
