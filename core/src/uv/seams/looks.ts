import { determinant3, type Mat4, normalMatrix, transformDirection, transformPoint } from '../../maths/mat4';
import { normalise } from '../../maths/vec3';
import { boundsOf } from '../../mesh/measures';
import { faceNormals } from '../../mesh/normals';
import { faceCount, type PolyMesh } from '../../mesh/polymesh';
import { type Instance, InstanceQuery, instancedTree } from '../../rays/instances';
import { meshTree } from '../../rays/of-mesh';
import { checkpoint, QUIET, type Task } from '../../task';
import { centresOf } from './regions';

/** A mesh and where it stands. */
export interface Standing {
  mesh: PolyMesh;
  placements: readonly Mat4[];
  /** Whether it hides what lies behind it; glass doesn’t. */
  blocks?: boolean;
  /** Whether it moves: it hides nothing then, and nothing hides it. */
  moves?: boolean;
}

/**
 * From how high people look and how often, degrees above the horizon: mostly level or a little from above, seldom from below. How often is
 * common practice, no source.
 */
const HEIGHTS: readonly (readonly [degrees: number, often: number])[] = [
  [-50, 0.15],
  [-15, 0.5],
  [10, 1],
  [35, 1],
  [65, 0.7],
];
/** How much less often the back is looked at than the front, which faces z. */
const BACK = 0.5;
/** Flatter than this along a face nothing is seen of it, cosine. */
const GRAZING = 0.05;
/** Faces of all parts up to which sixteen directions a height are asked; beyond it eight, and beyond the second four. */
const MANY = [15_000, 100_000];
/** A part’s copies that are asked. */
const COPIES = 3;

/** Directions to look from, mirrored left and right, and how often each is taken. 3 numbers and 1. */
function looksFrom(round: number): { from: Float64Array; often: Float64Array } {
  const from: number[] = [];
  const often: number[] = [];
  for (const [degrees, much] of HEIGHTS)
    for (let i = 0; i < round; i++) {
      const [up, turn] = [(degrees * Math.PI) / 180, (2 * Math.PI * (i + 0.5)) / round];
      from.push(Math.cos(up) * Math.sin(turn), Math.sin(up), Math.cos(up) * Math.cos(turn));
      // A ring near the pole stands for less of the sphere.
      often.push(much * Math.cos(up) * ((1 + BACK) / 2 + ((1 - BACK) / 2) * Math.cos(turn)));
    }
  return { from: Float64Array.from(from), often: Float64Array.from(often) };
}

/**
 * What share of the looks at each face arrives there: 1 for one that lies open towards the front and a little upwards, less underneath and at
 * the back, 0 inside.
 *
 * @returns for each part a number per face, 0 … 1
 */
export function looksAt(parts: readonly Standing[], task: Task = QUIET): Float32Array[] {
  const out = parts.map((p) => new Float32Array(faceCount(p.mesh)));
  const instances = parts
    .filter((p) => p.blocks !== false && !p.moves)
    .flatMap((p) => p.placements.filter(hasVolume).map((place): Instance => ({ tree: meshTree(p.mesh), place })));
  const query = instances.length > 0 ? new InstanceQuery(instancedTree(instances)) : null;
  const all = out.reduce((n, x) => n + x.length, 0);
  const { from, often } = looksFrom(all <= MANY[0] ? 16 : all <= MANY[1] ? 8 : 4);
  const most = bestOf(from, often);
  let size = 0;
  for (const p of parts) {
    const b = boundsOf(p.mesh);
    for (const place of p.placements)
      for (const corner of [b.min, b.max])
        size = Math.max(size, ...transformPoint(place, corner).map((x) => (Number.isFinite(x) ? Math.abs(x) : 0)));
  }
  const [off, far] = [Math.max(size * 2e-6, 1e-9), 4 * size];
  let done = 0;
  for (const [i, p] of parts.entries()) {
    const [centres, normals] = [centresOf(p.mesh), faceNormals(p.mesh)];
    const places = p.placements.filter(hasVolume).slice(0, COPIES);
    for (const place of places) {
      const turn = normalMatrix(place);
      for (let f = 0; f < out[i].length; f++) {
        if ((++done & 1023) === 0) {
          checkpoint(task);
          task.progress(Math.min(1, done / (all * COPIES)), 'looking for where seams hide');
        }
        const n = normalise(transformDirection(turn, [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]]));
        if (!(n[0] * n[0] + n[1] * n[1] + n[2] * n[2] > 0.5)) continue;
        const c = transformPoint(place, [centres[3 * f], centres[3 * f + 1], centres[3 * f + 2]]);
        let sum = 0;
        for (let d = 0; d < often.length; d++) {
          const [x, y, z] = [from[3 * d], from[3 * d + 1], from[3 * d + 2]];
          const straight = x * n[0] + y * n[1] + z * n[2];
          if (straight < GRAZING) continue;
          if (p.moves || !query?.any(c[0] + off * n[0], c[1] + off * n[1], c[2] + off * n[2], x, y, z, 0, far)) sum += often[d] * straight;
        }
        out[i][f] += Math.min(1, sum / most) / places.length;
      }
    }
  }
  return out;
}

const hasVolume = (m: Mat4): boolean => Math.abs(determinant3(m)) > 0;

/** What the most looked-at direction a face can have comes to. */
function bestOf(from: Float64Array, often: Float64Array): number {
  let best = 0;
  for (let up = 0; up <= 90; up += 5) {
    const [y, z] = [Math.sin((up * Math.PI) / 180), Math.cos((up * Math.PI) / 180)];
    let sum = 0;
    for (let d = 0; d < often.length; d++) sum += often[d] * Math.max(0, from[3 * d + 1] * y + from[3 * d + 2] * z);
    best = Math.max(best, sum);
  }
  return best;
}
