import { type Primitive, WebIO } from '@gltf-transform/core';
import { decodePng, type Pixels } from '../image/png';
import { fillTriangle } from '../image/raster';
import { RayQuery } from '../rays/query';
import { millimetres } from '../units/lengths';
import type { HighSide } from './prepare';

/** How well an exported map on an exported mesh stands for the high mesh. Degrees between normals. */
export interface Judgement {
  mean: number;
  p95: number;
  worst: number;
  /** Where the worst texel lies: part and place, mm, part space. */
  worstAt: { part: string; x: number; y: number; z: number };
  /** Normals decoded on the two sides of each seam, mean and worst of 20. */
  seamMean: number;
  seamP95: number;
  texels: number;
  parts: { name: string; mean: number; p95: number; texels: number }[];
}

/** A delivered model with its map, and the high surface it is held against. */
export interface JudgeInput {
  glb: Uint8Array;
  /** The delivered normal map. */
  png: Uint8Array;
  y: 'up' | 'down';
  /** High meshes by the exported mesh's name. */
  high: ReadonlyMap<string, HighSide>;
  /** About how many texels to look at. */
  budget?: number;
}

interface Corners {
  position: number[];
  normal: number[];
  tangent: number[];
  uv: number[];
}

/**
 * Judges a bake without its rays: reads the exported file as any viewer would, decodes the exported map in the frame a
 * viewer builds, and compares with the high mesh's normal at the nearest point.
 */
export async function judge(input: JudgeInput): Promise<Judgement> {
  const document = await new WebIO().readBinary(input.glb);
  const map = decodePng(input.png);
  const size = map.width;
  const errors: number[] = [];
  const parts: Judgement['parts'] = [];
  const seams: number[] = [];
  let worst = 0;
  let worstAt: Judgement['worstAt'] = { part: '', x: 0, y: 0, z: 0 };
  const meshes = document
    .getRoot()
    .listMeshes()
    .filter((m) => input.high.has(m.getName()));
  let total = 0;
  for (const mesh of meshes) for (const p of mesh.listPrimitives()) eachTexel(p, size, 1, () => total++);
  const stride = Math.max(1, Math.round(total / (input.budget ?? 60_000)));
  for (const mesh of meshes) {
    const high = input.high.get(mesh.getName()) as HighSide;
    const query = new RayQuery(high.tree);
    const own: number[] = [];
    for (const p of mesh.listPrimitives()) {
      eachTexel(p, size, stride, (x, y, corners, w) => {
        const at = blend(corners.position, 3, w).map((v) => v * 1000);
        if (!query.nearest(at[0], at[1], at[2], Infinity)) return;
        const error = angle(worldNormal(corners, w, texel(map, x, y, input.y)), highNormal(high, query));
        own.push(error);
        if (error > worst) {
          worst = error;
          worstAt = { part: mesh.getName(), x: at[0], y: at[1], z: at[2] };
        }
      });
      seams.push(...seamAngles(p, map, input.y));
    }
    own.sort((a, b) => a - b);
    parts.push({ name: mesh.getName(), mean: average(own), p95: quantile(own, 0.95), texels: own.length });
    for (const e of own) errors.push(e);
  }
  errors.sort((a, b) => a - b);
  seams.sort((a, b) => a - b);
  return {
    mean: average(errors),
    p95: quantile(errors, 0.95),
    worst,
    worstAt,
    seamMean: average(seams),
    seamP95: quantile(seams, 0.95),
    texels: errors.length,
    parts,
  };
}

const average = (a: number[]): number => (a.length > 0 ? a.reduce((s, x) => s + x, 0) / a.length : 0);
const quantile = (sorted: number[], q: number): number => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * q))] ?? 0;

function triangleOf(p: Primitive, t: number): Corners {
  const index = p.getIndices();
  const out: Corners = { position: [], normal: [], tangent: [], uv: [] };
  for (let k = 0; k < 3; k++) {
    const v = index ? index.getScalar(3 * t + k) : 3 * t + k;
    out.position.push(...(p.getAttribute('POSITION')?.getElement(v, []) ?? []));
    out.normal.push(...(p.getAttribute('NORMAL')?.getElement(v, []) ?? []));
    out.tangent.push(...(p.getAttribute('TANGENT')?.getElement(v, []) ?? []));
    out.uv.push(...(p.getAttribute('TEXCOORD_0')?.getElement(v, []) ?? []));
  }
  return out;
}

const trianglesIn = (p: Primitive): number => (p.getIndices()?.getCount() ?? p.getAttribute('POSITION')?.getCount() ?? 0) / 3;

function eachTexel(p: Primitive, size: number, stride: number, visit: (x: number, y: number, corners: Corners, w: number[]) => void): void {
  if (!p.getAttribute('TEXCOORD_0') || !p.getAttribute('TANGENT')) return;
  for (let t = 0; t < trianglesIn(p); t++) {
    const c = triangleOf(p, t);
    const s = c.uv.map((v) => v * size);
    fillTriangle(s[0], s[1], s[2], s[3], s[4], s[5], size, size, (x, y, w0, w1, w2) => {
      if ((x * 7 + y * 13) % stride === 0) visit(x, y, c, [w0, w1, w2]);
    });
  }
}

function blend(values: number[], size: number, w: readonly number[]): number[] {
  return Array.from({ length: size }, (_, k) => w[0] * values[k] + w[1] * values[size + k] + w[2] * values[2 * size + k]);
}

const unit = (v: number[]): number[] => {
  const l = Math.hypot(v[0], v[1], v[2]) || 1;
  return v.map((x) => x / l);
};

function texel(map: Pixels, x: number, y: number, up: 'up' | 'down'): number[] {
  const full = map.depth === 8 ? 255 : 65535;
  const i = map.channels * (Math.min(map.height - 1, Math.max(0, y)) * map.width + Math.min(map.width - 1, Math.max(0, x)));
  const [r, g, b] = [map.data[i], map.data[i + 1], map.data[i + 2]].map((v) => (v / full) * 2 - 1);
  return [r, up === 'up' ? g : -g, b];
}

/** Bilinear, as a viewer filters. u, v in the file's own sense (v down). */
function filtered(map: Pixels, u: number, v: number, up: 'up' | 'down'): number[] {
  const x = u * map.width - 0.5;
  const y = v * map.height - 0.5;
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - x0, y - y0];
  const [a, b, c, d] = [texel(map, x0, y0, up), texel(map, x0 + 1, y0, up), texel(map, x0, y0 + 1, up), texel(map, x0 + 1, y0 + 1, up)];
  return [0, 1, 2].map((k) => (a[k] * (1 - fx) + b[k] * fx) * (1 - fy) + (c[k] * (1 - fx) + d[k] * fx) * fy);
}

function worldNormal(c: Corners, w: readonly number[], n: number[]): number[] {
  const N = unit(blend(c.normal, 3, w));
  const T = unit(blend(c.tangent, 4, w).slice(0, 3));
  const s = c.tangent[3];
  const B = unit([N[1] * T[2] - N[2] * T[1], N[2] * T[0] - N[0] * T[2], N[0] * T[1] - N[1] * T[0]]).map((x) => x * s);
  return unit([0, 1, 2].map((k) => n[0] * T[k] + n[1] * B[k] + n[2] * N[k]));
}

function highNormal(high: HighSide, q: RayQuery): number[] {
  const o = 9 * q.triangle;
  const w = 1 - q.u - q.v;
  return unit([0, 1, 2].map((k) => w * high.normals[o + k] + q.u * high.normals[o + 3 + k] + q.v * high.normals[o + 6 + k]));
}

function angle(a: number[], b: number[]): number {
  const cross = Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]);
  return (Math.atan2(cross, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) * 180) / Math.PI;
}

/** At the middle of every edge where the layout is cut, the angle between what its two sides show. */
function seamAngles(p: Primitive, map: Pixels, y: 'up' | 'down'): number[] {
  if (!p.getAttribute('TEXCOORD_0') || !p.getAttribute('TANGENT')) return [];
  const sides = new Map<string, { corners: Corners; w: number[] }>();
  const out: number[] = [];
  for (let t = 0; t < trianglesIn(p); t++) {
    const corners = triangleOf(p, t);
    const key = (k: number) =>
      corners.position
        .slice(3 * k, 3 * k + 3)
        .map((x) => Math.round(x * 1e7))
        .join();
    for (let k = 0; k < 3; k++) {
      const j = (k + 1) % 3;
      const w = [0, 0, 0];
      w[k] = w[j] = 0.5;
      const other = sides.get(`${key(j)}|${key(k)}`);
      if (!other) {
        sides.set(`${key(k)}|${key(j)}`, { corners, w });
        continue;
      }
      const [a, b] = [blend(corners.uv, 2, w), blend(other.corners.uv, 2, other.w)];
      if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 1e-6) continue;
      out.push(
        angle(worldNormal(corners, w, filtered(map, a[0], a[1], y)), worldNormal(other.corners, other.w, filtered(map, b[0], b[1], y))),
      );
    }
  }
  return out;
}

/** What a judgement comes to: a verdict and the one change that helps most. */
export interface Verdict {
  level: 'ok' | 'near' | 'over';
  sentence: string;
  change: string | null;
}

/** 8-bit maps can't say better than this: (128, 128, 255) itself decodes to 0.32°. */
export const EIGHT_BIT_FLOOR = 0.32;

/** Limits of the verdict, degrees and shares: common practice, no source. */
export function verdictOf(
  j: Judgement,
  figures: {
    missedShare: number;
    backShare: number;
    bits: 8 | 16;
    samples: number;
    distances: 'measured' | 'uniform';
    neededFront: number;
    neededRear: number;
  },
): Verdict {
  const n = (x: number, d = 1) => x.toFixed(d);
  if (figures.missedShare > 0.002 && figures.distances === 'uniform')
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing.`,
      change: `Search ${millimetres(figures.neededFront)} outward and ${millimetres(figures.neededRear)} inward: the meshes are never further apart.`,
    };
  if (figures.missedShare > 0.002)
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing even at the measured distances.`,
      change: 'The high mesh has no surface there: check the pairs, or close the high mesh.',
    };
  if (figures.backShare > 0.005)
    return {
      level: 'over',
      sentence: `${n(100 * figures.backShare)} % of the rays meet the back of the high mesh.`,
      change:
        figures.distances === 'uniform'
          ? 'Use the measured distances: the search reaches through thin walls.'
          : 'Turn the high mesh outward, or pull the two meshes closer.',
    };
  const level = j.mean > 6 || j.p95 > 30 ? 'over' : j.mean > 3 || j.p95 > 15 ? 'near' : 'ok';
  const sentence = `${n(j.mean)}° off on average, 19 of 20 texels under ${n(j.p95)}°.`;
  if (figures.bits === 8 && j.mean < 2 * EIGHT_BIT_FLOOR)
    return { level, sentence, change: 'Nothing but 16 bits would bring it closer: 8 bits alone cost 0.32°.' };
  const worstPart = [...j.parts].sort((a, b) => b.mean * b.texels - a.mean * a.texels)[0];
  if (figures.samples < 4 && j.p95 > 4 * j.mean)
    return {
      level,
      sentence,
      change: `Most of it lies in thin details: ${figures.samples === 1 ? '2 × 2' : '4 × 4'} samples would even them out, most on ${worstPart?.name ?? 'the piece'}.`,
    };
  if (level === 'ok') return { level, sentence, change: null };
  return {
    level,
    sentence,
    change: `${worstPart?.name ?? 'The piece'} carries most of it: give it more texels (weight 1.5) or a larger texture.`,
  };
}
