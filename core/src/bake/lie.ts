import { ON_TRIANGLE } from '../inspect/deviation';
import { cageNormals } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import { RayQuery } from '../rays/query';
import type { Distances } from './distances';
import type { HighSide } from './prepare';

/** How the two meshes of a pair lie to each other: found before any ray of the bake is sent. */
export interface PairLie {
  /** How far the low mesh lies inside the high one all over, mm; 0 where it doesn’t. */
  insideMm: number;
  /** Share of the low surface whose nearest high surface faces the other way. */
  againstShare: number;
  /** Diagonal of the high mesh’s box by that of the low one’s. */
  scale: number;
}

/** What is smaller than this is no shortfall, mm and as a share of the part’s size. */
const LEAST_MM = 0.02;
const LEAST_SHARE = 5e-4;
/**
 * Chords lie inside curves by nothing at their ends and by the sagitta in their middle, so nineteen of twenty places then lie far less
 * deep than the middle one; on a mesh that is too small all over they lie nearly as deep. Common practice, no source.
 */
const ALL_OVER = 0.4;
const OFTEN = 0.05;
/** Where this share faces the other way one of the two is inside out. */
export const INSIDE_OUT = 0.6;
/** Beyond these the two are not of one size. */
export const SCALES = { least: 0.6, most: 1.7 };

/** @param distances measured between the two, positive where the high mesh lies outside */
export function lieOf(low: PolyMesh, high: HighSide, highMesh: PolyMesh, distances: Distances): PairLie {
  const size = diagonal(low);
  return {
    insideMm: insideOf(distances, size),
    againstShare: againstOf(low, high),
    scale: size > 0 ? diagonal(highMesh) / size : 1,
  };
}

function insideOf({ signed, lost }: Distances, size: number): number {
  if (signed.length === 0 || lost > signed.length) return 0;
  const sorted = signed.slice().sort();
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  const least = at(OFTEN);
  return least > Math.max(LEAST_MM, LEAST_SHARE * size) && least > ALL_OVER * at(0.5) ? least : 0;
}

/** Places asked about at most. */
const MOST = 4000;

function againstOf(mesh: PolyMesh, high: HighSide): number {
  const query = new RayQuery(high.tree);
  const cage = cageNormals(mesh);
  const triangles = mesh.triangles.length / 3;
  const every = Math.max(1, Math.floor(triangles / MOST));
  let [against, asked] = [0, 0];
  const w = ON_TRIANGLE[6];
  for (let t = 0; t < triangles; t += every) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const mix = (of: ArrayLike<number>, at: (c: number) => number, k: number) =>
      corners.reduce((s, c, i) => s + w[i] * of[3 * at(c) + k], 0);
    const [x, y, z] = [0, 1, 2].map((k) => mix(mesh.positions, (c) => mesh.faceVert[c], k));
    if (!query.nearest(x, y, z, Infinity)) continue;
    const o = 9 * query.triangle;
    let dot = 0;
    for (let k = 0; k < 3; k++) dot += high.normals[o + k] * mix(cage, (c) => c, k);
    asked++;
    if (dot < -0.2) against++;
  }
  return asked > 0 ? against / asked : 0;
}

function diagonal(mesh: PolyMesh): number {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const v of mesh.faceVert)
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k], mesh.positions[3 * v + k]);
      max[k] = Math.max(max[k], mesh.positions[3 * v + k]);
    }
  return mesh.faceVert.length > 0 ? Math.hypot(...max.map((x, k) => x - min[k])) : 0;
}

/** Factors that a wrong unit makes: metres, centimetres and inches taken for millimetres, and back. */
const UNITS: readonly [number, string][] = [
  [1000, 'metres and millimetres'],
  [100, 'metres and centimetres'],
  [10, 'centimetres and millimetres'],
  [25.4, 'inches and millimetres'],
  [2.54, 'inches and centimetres'],
];

/** What is wrong with a pair, in one sentence, and what helps; null where nothing is. */
export function lieWords(name: string, lie: PairLie): { sentence: string; help: string } | null {
  const { scale, againstShare } = lie;
  if (scale > SCALES.most || scale < SCALES.least) {
    const factor = scale > 1 ? scale : 1 / scale;
    const unit = UNITS.find(([f]) => Math.abs(factor / f - 1) < 0.03);
    return {
      sentence: `The high mesh of “${name}” is ${factor >= 10 ? factor.toFixed(0) : factor.toFixed(1)} times as ${scale > 1 ? 'large' : 'small'} as the part.`,
      help: unit ? `${unit[1]} seem mixed up: bring it in again in the right unit.` : 'Pair the part with another high mesh.',
    };
  }
  if (againstShare > INSIDE_OUT)
    return {
      sentence: `“${name}” and its high mesh face opposite ways on ${(100 * againstShare).toFixed(0)} % of the surface.`,
      help: 'One of the two is inside out: turn its faces outward.',
    };
  return null;
}
