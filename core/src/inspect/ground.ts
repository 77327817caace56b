import { type Mat4, transformPoint } from '../maths/mat4';
import { sobolRow, turnCos, turnSin } from '../maths/random';
import { MOST, RayBatch } from '../rays/batch';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';
import { checkpoint, QUIET, type Task } from '../task';

/** Triangles that stand on the ground, mm, and where their copies are. */
export interface Standing {
  position: ArrayLike<number>;
  index: ArrayLike<number>;
  placements: readonly Mat4[];
}

/** How much of an even sky a piece hides from the ground it stands on. */
export interface GroundShade {
  /** Texels a side. */
  size: number;
  /** The corner with the least x and z, the side of the square, and how high it lies, mm. */
  x: number;
  z: number;
  side: number;
  y: number;
  /** The share of the sky that is hidden, 0…255, weighted as a matt ground takes it in: size², rows along z. */
  hidden: Uint8Array<ArrayBuffer>;
}

/** Texels a side, and directions each: with the smoothing after them the noise stays under 2 %. */
const SIZE = 64;
const RAYS = 48;
/** The square, in widths of the piece. */
const WIDTHS = 2;
/** How far the ground lies below the lowest point, in sizes of the piece: what stands on it flat is not cut by it. */
const BELOW = 0.002;
/** 5 texels of a row weighed by the binomial. */
const BLUR = [1, 4, 6, 4, 1];

/**
 * The shade of a piece on the ground under an even sky, by rays from the ground weighted with the cosine. A dark line means contact, a soft
 * one a gap.
 *
 * @returns null where nothing stands
 */
export function groundShade(parts: readonly Standing[], task: Task = QUIET): GroundShade | null {
  const soup = soupStanding(parts);
  if (soup.length === 0) return null;
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < soup.length; i++) {
    low[i % 3] = Math.min(low[i % 3], soup[i]);
    high[i % 3] = Math.max(high[i % 3], soup[i]);
  }
  const size = Math.hypot(...low.map((l, k) => high[k] - l));
  if (!(size > 0)) return null;
  const side = WIDTHS * Math.max(high[0] - low[0], high[2] - low[2], 0.05 * size);
  const at = { x: (low[0] + high[0] - side) / 2, z: (low[2] + high[2] - side) / 2, y: low[1] - BELOW * size, side, size: SIZE };
  return { ...at, hidden: blurred(hiddenFrom(soup, at, 4 * (side + size), task)) };
}

function hiddenFrom(soup: Float64Array, at: Omit<GroundShade, 'hidden'>, far: number, task: Task): Float32Array {
  const batch = new RayBatch(new RayQuery(buildTree(soup)));
  const out = new Float32Array(SIZE * SIZE);
  const points = new Float64Array(2 * RAYS);
  const together = Math.floor(MOST / RAYS);
  for (let first = 0; first < out.length; first += together) {
    checkpoint(task);
    const last = Math.min(out.length, first + together);
    for (let i = first; i < last; i++) {
      sobolRow(RAYS, i, points);
      const x = at.x + (((i % SIZE) + 0.5) / SIZE) * at.side;
      const z = at.z + ((Math.floor(i / SIZE) + 0.5) / SIZE) * at.side;
      for (let k = 0; k < RAYS; k++) {
        // A disc lifted onto the half sphere: directions by the cosine (Malley).
        const r = Math.sqrt(points[2 * k]);
        const turn = points[2 * k + 1];
        batch.put(x, at.y, z, r * turnCos(turn), Math.sqrt(1 - points[2 * k]), r * turnSin(turn), 0, far);
      }
    }
    const hits = batch.run(true);
    for (let i = first; i < last; i++) for (let k = 0; k < RAYS; k++) if (hits[(i - first) * RAYS + k] >= 0) out[i] += 1 / RAYS;
    task.progress(last / out.length, 'shading the ground');
  }
  return out;
}

function soupStanding(parts: readonly Standing[]): Float64Array {
  const out = new Float64Array(parts.reduce((n, p) => n + 3 * p.index.length * p.placements.length, 0));
  let o = 0;
  for (const { position, index, placements } of parts)
    for (const m of placements)
      for (let i = 0; i < index.length; i++, o += 3) {
        const v = 3 * index[i];
        out.set(transformPoint(m, [position[v], position[v + 1], position[v + 2]]), o);
      }
  return out;
}

/** Smoothed both ways, as bytes. Beyond the edge it goes on as at the edge. */
function blurred(field: Float32Array): Uint8Array<ArrayBuffer> {
  const pass = (from: Float32Array, along: (i: number, d: number) => number) =>
    from.map((_, i) => BLUR.reduce((sum, w, k) => sum + (w / 16) * from[along(i, k - 2)], 0));
  const inside = (v: number) => Math.min(SIZE - 1, Math.max(0, v));
  const rows = pass(field, (i, d) => i - (i % SIZE) + inside((i % SIZE) + d));
  const both = pass(rows, (i, d) => (i % SIZE) + SIZE * inside(Math.floor(i / SIZE) + d));
  return Uint8Array.from(both, (v) => Math.round(255 * v));
}
