import type { Vec3 } from '../../maths/vec3';
import { boundsOf, triangleArea } from '../../mesh/measures';
import { type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { soupOf } from '../../mesh/soup';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';

/** Faces of two parts nearer than this and parallel flicker when drawn, mm. */
export const FLICKER_MM = 0.02;

/** Where two placed parts lie in one plane. */
export interface Coincidence {
  /** The overlapping area, mm². */
  area: number;
  /** Places on it. */
  where: Vec3[];
  /** The way the first part's faces there look, unit, when all look the same way. */
  facing: Vec3 | null;
  /** Whether the second part's look the other way: the two lie against each other. */
  against: boolean;
}

/** Where two surfaces lie in the same place: how much of them, mm², some places, and which way they face there. */
export function coincidentArea(a: PolyMesh, b: PolyMesh): Coincidence {
  const [box, other] = [boundsOf(a), boundsOf(b)];
  const apart = [0, 1, 2].some((k) => box.min[k] > other.max[k] + FLICKER_MM || box.max[k] < other.min[k] - FLICKER_MM);
  if (apart) return { area: 0, where: [], facing: null, against: false };
  const soup = soupOf(b);
  const query = new RayQuery(meshTree(b));
  let area = 0;
  const where: Vec3[] = [];
  let facing: Vec3 | null | undefined;
  let against = 0;
  const p = a.positions;
  for (let t = 0; t < triangleCount(a); t++) {
    const [i, j, k] = [0, 1, 2].map((c) => 3 * a.faceVert[a.triangles[3 * t + c]]);
    const u = [p[j] - p[i], p[j + 1] - p[i + 1], p[j + 2] - p[i + 2]];
    const v = [p[k] - p[i], p[k + 1] - p[i + 1], p[k + 2] - p[i + 2]];
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(n[0], n[1], n[2]);
    if (l === 0) continue;
    let hits = 0;
    for (const [wu, wv] of SAMPLES) {
      const at: Vec3 = [p[i] + wu * u[0] + wv * v[0], p[i + 1] + wu * u[1] + wv * v[1], p[i + 2] + wu * u[2] + wv * v[2]];
      if (!query.nearest(at[0], at[1], at[2], FLICKER_MM)) continue;
      const o = 9 * query.triangle;
      const e = [soup[o + 3] - soup[o], soup[o + 4] - soup[o + 1], soup[o + 5] - soup[o + 2]];
      const f = [soup[o + 6] - soup[o], soup[o + 7] - soup[o + 1], soup[o + 8] - soup[o + 2]];
      const m = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
      const cos = (n[0] * m[0] + n[1] * m[1] + n[2] * m[2]) / (l * (Math.hypot(m[0], m[1], m[2]) || 1));
      if (Math.abs(cos) < 0.999) continue;
      hits++;
      if (cos < 0) against++;
      const own: Vec3 = [n[0] / l, n[1] / l, n[2] / l];
      if (facing === undefined) facing = own;
      else if (facing && own[0] * facing[0] + own[1] * facing[1] + own[2] * facing[2] < 0.999) facing = null;
      where.push(at);
    }
    area += (triangleArea(a, t) * hits) / SAMPLES.length;
  }
  return { area, where, facing: facing ?? null, against: against * 2 > where.length };
}

/** Barycentric places that split a triangle into sixteen equal ones: their middles. */
const SAMPLES: [number, number][] = [];
for (let i = 0; i < 4; i++)
  for (let j = 0; i + j < 4; j++) {
    SAMPLES.push([(i + 1 / 3) / 4, (j + 1 / 3) / 4]);
    if (i + j < 3) SAMPLES.push([(i + 2 / 3) / 4, (j + 2 / 3) / 4]);
  }
