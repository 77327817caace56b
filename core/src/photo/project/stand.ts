import type { Vec3 } from '../../maths/vec3';
import { RayQuery } from '../../rays/query';
import type { ProjectJob } from './job';
import { type Place, standing } from './places';

/** Where to stand for another photograph. */
export interface StandHere {
  /** Round the piece from its front, towards its right side, degrees. */
  azimuth: number;
  /** How far from the middle of the piece, and how far above its lowest point, mm. */
  distanceMm: number;
  heightMm: number;
  /** Share of what is unseen now that is seen from there, straight enough. */
  share: number;
  /** Share of the surface that nobody standing on the ground can see. */
  never: number;
}

/** Directions tried round the piece, and heights above the middle of it, degrees. */
const ROUND = 24;
const ABOVE = [0, 20, 45, 70];
/** Surfaces seen flatter than 70° are hardly worth a photograph. */
const LEAST_COS = Math.cos((70 * Math.PI) / 180);
/** Places that it is tried with. */
const MOST = 4000;

/** The place round the piece, as far off as the photographs are, from which most of what no photograph sees is seen. Null where nothing is unseen. */
export function whereToStand(job: ProjectJob, places: readonly Place[]): StandHere | null {
  const unseen = places.filter((p) => p.seen === 0);
  if (unseen.length === 0) return null;
  const step = Math.ceil(unseen.length / MOST);
  const tried = unseen.filter((_, i) => i % step === 0).map((p) => standing(job, p));
  const [min, max] = boundsOf(job);
  const centre = min.map((x, k) => (x + max[k]) / 2) as unknown as Vec3;
  const distance = mean(job.photos.map(({ camera: { position } }) => Math.hypot(...position.map((x, k) => x - centre[k]))));
  const query = new RayQuery(job.tree);
  const ever = new Uint8Array(tried.length);
  let best: StandHere | null = null;
  for (const up of ABOVE)
    for (let i = 0; i < ROUND; i++) {
      const azimuth = (360 * i) / ROUND;
      const [a, e] = [(azimuth * Math.PI) / 180, (up * Math.PI) / 180];
      const eye: Vec3 = [
        centre[0] + distance * Math.cos(e) * Math.sin(a),
        centre[1] + distance * Math.sin(e),
        centre[2] + distance * Math.cos(e) * Math.cos(a),
      ];
      let seen = 0;
      for (const [n, p] of tried.entries()) {
        if (!sees(query, eye, p, job.extentMm)) continue;
        ever[n] = 1;
        seen++;
      }
      const share = seen / tried.length;
      if (!best || share > best.share + 1e-9) best = { azimuth, distanceMm: distance, heightMm: eye[1] - min[1], share, never: 0 };
    }
  const never = ever.reduce((n, x) => n + (1 - x), 0) / tried.length;
  return best && { ...best, never: (never * unseen.length) / places.length };
}

function sees(query: RayQuery, eye: Vec3, [x, y, z, nx, ny, nz]: readonly number[], extent: number): boolean {
  const [dx, dy, dz] = [eye[0] - x, eye[1] - y, eye[2] - z];
  const cos = (nx * dx + ny * dy + nz * dz) / Math.hypot(dx, dy, dz);
  if (cos < LEAST_COS) return false;
  const out = 1e-5 * extent;
  return !query.any(x + out * nx, y + out * ny, z + out * nz, dx, dy, dz, 1e-7, 1);
}

function boundsOf({ parts }: ProjectJob): [number[], number[]] {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const { corners } of parts)
    for (let i = 0; i < corners.length; i++) {
      min[i % 3] = Math.min(min[i % 3], corners[i]);
      max[i % 3] = Math.max(max[i % 3], corners[i]);
    }
  return [min, max];
}

const mean = (x: readonly number[]): number => x.reduce((n, v) => n + v, 0) / Math.max(1, x.length);
