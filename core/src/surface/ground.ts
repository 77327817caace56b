import { fillTriangle } from '../image/raster';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../task';
import { twinFaces } from '../uv/twins';
import { smoothEdge } from './layers/draw';
import { dirtDriver } from './masks/dirt';
import { wearDriver } from './masks/wear';

/** One baked value per texel, top row first, any square size. */
export interface BakedField {
  size: number;
  data: Uint8Array;
  /** Channels of `data`; the first is read. */
  channels: number;
}

/** What masks are drawn from. */
export interface GroundInput {
  parts: readonly {
    id: string;
    mesh: PolyMesh;
    material: number;
    /** Of each face, where regions have materials of their own. */
    ofFace?: Uint8Array;
  }[];
  /** Of each material whether its masks ask how soon it wears and how soon it dirties; all do when absent. */
  asks?: readonly { wear: boolean; dirt: boolean }[];
  size: number;
  /** 128 is flat, 1 … 255 is −1 … 1 of curvature · radius; null where it wasn't baked. */
  curvature: BakedField | null;
  occlusion: BakedField | null;
  seed: number;
}

/**
 * What composing needs to know of every texel, worked out once for a layout and its bake: whose it is, and how soon it wears
 * and dirties. Sliders then only move thresholds.
 */
export interface Ground {
  size: number;
  /** Material number + 1, 0 outside the islands. */
  owner: Uint8Array;
  wear: Float32Array;
  dirt: Float32Array;
}

/** Reads a field at a place of the tile (0…1, v down), between its texels. */
function readField(field: BakedField, u: number, v: number): number {
  const { size, channels, data } = field;
  const x = Math.min(size - 1.001, Math.max(0, u * size - 0.5));
  const y = Math.min(size - 1.001, Math.max(0, v * size - 0.5));
  const i = x | 0;
  const j = y | 0;
  const fx = x - i;
  const fy = y - j;
  const right = i + 1 < size ? channels : 0;
  const down = j + 1 < size ? channels * size : 0;
  const o = channels * (j * size + i);
  return (1 - fy) * ((1 - fx) * data[o] + fx * data[o + right]) + fy * ((1 - fx) * data[o + down] + fx * data[o + down + right]);
}

/** Rows `from` … `to` of the ground; every row by itself, so that workers can share them out. */
export function fillGround(input: GroundInput, ground: Ground, from: number, to: number, task: Task = QUIET): void {
  const { size, seed } = input;
  for (const { mesh, material, ofFace } of input.parts) {
    checkpoint(task);
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    if (!uv) continue;
    const twins = twinFaces(mesh);
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      const face = mesh.triangleFace[t / 3];
      if (twins?.[face]) continue;
      const owner = (ofFace ? ofFace[face] : material) + 1;
      const asks = input.asks?.[owner - 1];
      const a = mesh.triangles[t];
      const b = mesh.triangles[t + 1];
      const c = mesh.triangles[t + 2];
      const highest = (1 - Math.max(uv[2 * a + 1], uv[2 * b + 1], uv[2 * c + 1])) * size;
      const lowest = (1 - Math.min(uv[2 * a + 1], uv[2 * b + 1], uv[2 * c + 1])) * size;
      if (lowest < from || highest > to) continue;
      const [va, vb, vc] = [3 * mesh.faceVert[a], 3 * mesh.faceVert[b], 3 * mesh.faceVert[c]];
      const p = mesh.positions;
      fillTriangle(
        uv[2 * a] * size,
        (1 - uv[2 * a + 1]) * size,
        uv[2 * b] * size,
        (1 - uv[2 * b + 1]) * size,
        uv[2 * c] * size,
        (1 - uv[2 * c + 1]) * size,
        size,
        to,
        (x, y, w0, w1, w2) => {
          const i = y * size + x;
          ground.owner[i] = owner;
          const u = (x + 0.5) / size;
          const v = (y + 0.5) / size;
          const bend = input.curvature ? (readField(input.curvature, u, v) - 128) / 127 : 0;
          const open = input.occlusion ? readField(input.occlusion, u, v) / 255 : 1;
          const px = w0 * p[va] + w1 * p[vb] + w2 * p[vc];
          const py = w0 * p[va + 1] + w1 * p[vb + 1] + w2 * p[vc + 1];
          const pz = w0 * p[va + 2] + w1 * p[vb + 2] + w2 * p[vc + 2];
          if (asks?.wear !== false) ground.wear[i] = wearDriver(bend, px, py, pz, seed);
          if (asks?.dirt !== false) ground.dirt[i] = dirtDriver(open, bend, px, py, pz, seed + 500);
        },
        from,
      );
    }
  }
}

export const emptyGround = (size: number, allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n)): Ground => ({
  size,
  owner: new Uint8Array(allocate(size * size)),
  wear: new Float32Array(allocate(4 * size * size)),
  dirt: new Float32Array(allocate(4 * size * size)),
});

/** The whole ground on this thread. */
export function makeGround(input: GroundInput, task: Task = QUIET): Ground {
  const ground = emptyGround(input.size);
  fillGround(input, ground, 0, input.size, task);
  return ground;
}

const BINS = 1024;
const [LOW, HIGH] = [-0.5, 3.5];

/**
 * Where each material's mask has to begin so that, soft edge and all, it touches the share it is asked for: by bisection on
 * the material's own distribution.
 *
 * @returns one number per material; Infinity for a share of nothing
 */
export function thresholds(driver: Float32Array, owner: Uint8Array, shares: readonly number[], soft: number): number[] {
  const counts = shares.map(() => new Uint32Array(BINS));
  const totals = shares.map(() => 0);
  for (let i = 0; i < owner.length; i++) {
    const m = owner[i] - 1;
    if (m < 0 || !counts[m]) continue;
    totals[m]++;
    counts[m][Math.min(BINS - 1, Math.max(0, Math.floor(((driver[i] - LOW) / (HIGH - LOW)) * BINS)))]++;
  }
  return shares.map((share, m) => {
    if (share <= 0 || totals[m] === 0) return Infinity;
    let [low, high] = [LOW - soft, HIGH + soft];
    for (let k = 0; k < 20; k++) {
      const middle = (low + high) / 2;
      let touched = 0;
      for (let b = 0; b < BINS; b++)
        if (counts[m][b] > 0) touched += counts[m][b] * smoothEdge(LOW + ((b + 0.5) / BINS) * (HIGH - LOW), middle, soft);
      if (touched > share * totals[m]) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  });
}
