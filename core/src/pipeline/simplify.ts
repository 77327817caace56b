import { InputError } from '../errors';
import { findRegion } from '../form/regions';
import { type Deviation, deviation } from '../inspect/deviation';
import { type Kit, needed } from '../kit';
import { boundsOf } from '../mesh/measures';
import { faceCount, triangleCount } from '../mesh/polymesh';
import { Simplifiable } from '../mesh/simplify';
import { checkpoint, QUIET, type Task } from '../task';
import { figure } from '../units/lengths';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';

/** Simplified parts, and how far each lies from what it was, mm. */
export interface Simplified {
  parts: PartMesh[];
  /** Of each part, measured against what it was. */
  off: (Deviation & { id: string; from: number; to: number })[];
}

/** Errors that are tried at most; each comes nearer to the number. */
const TRIES = 16;
/** The share of the triangles that may stay unspent. */
const NEAR = 0.01;
/** No part is lost altogether: a tetrahedron is left of it. */
const FEWEST = 4;

const copiesOf = (p: PartMesh): number => Math.max(p.placements.length, 1);
const drawn = (parts: readonly PartMesh[]): number => parts.reduce((n, p) => n + triangleCount(p.mesh) * copiesOf(p), 0);

/**
 * Brings a whole model down to a number of triangles, copies counted each time: every part is simplified to one and the same
 * error, and that is the smallest with which the total fits. A bolt then loses as much as it can spare, and the body no more.
 *
 * @param keep faces of a part that stay as they are
 * @throws InputError `simplify/few` when even the coarsest form of the parts is over the number
 */
export function simplifyParts(
  kit: Kit,
  parts: readonly PartMesh[],
  triangles: number,
  task: Task = QUIET,
  keep: (p: PartMesh) => Uint8Array | undefined = () => undefined,
): Simplified {
  const simplifier = needed(kit, 'simplifier');
  const made = drawn(parts) <= triangles ? [...parts] : within(simplifier, parts, triangles, task, keep);
  task.progress(0.7, 'measuring how far off it is');
  return {
    parts: made,
    off: made.map((p, i) => {
      checkpoint(task);
      task.progress(0.7 + (0.3 * i) / made.length);
      const off =
        p.mesh === parts[i].mesh ? { most: 0, mean: 0 } : deviation(parts[i].mesh, p.mesh, Math.max(20_000, 1_000_000 / made.length));
      return { id: p.id, from: triangleCount(parts[i].mesh), to: triangleCount(p.mesh), ...off };
    }),
  };
}

function within(
  simplifier: NonNullable<Kit['simplifier']>,
  parts: readonly PartMesh[],
  triangles: number,
  task: Task,
  keep: (p: PartMesh) => Uint8Array | undefined,
): PartMesh[] {
  const ready = parts.map((p) => new Simplifiable(simplifier, p.mesh, keep(p)));
  const count = (left: readonly Uint32Array[]): number => left.reduce((n, l, i) => n + (l.length / 3) * copiesOf(parts[i]), 0);
  const at = (errorMm: number): Uint32Array[] =>
    ready.map((r) => {
      checkpoint(task);
      return r.to({ triangles: FEWEST, errorMm });
    });
  const built = (left: readonly Uint32Array[]): PartMesh[] => parts.map((p, i) => ({ ...p, mesh: ready[i].built(left[i]) }));

  // One part alone is brought to its number at once.
  if (parts.length === 1) {
    const left = [ready[0].to({ triangles: Math.floor(triangles / copiesOf(parts[0])) })];
    if (count(left) <= triangles) return built(left);
  }
  const whole = Math.max(...parts.map((p) => Math.hypot(...boundsOf(p.mesh).max.map((x, k) => x - boundsOf(p.mesh).min[k]))), 1e-6);
  // Counts fall with the error about as a power of it: between two errors the next is looked for on a straight line of logarithms.
  let best = at(whole);
  if (count(best) > triangles)
    throw new InputError(
      'simplify/few',
      `${figure(triangles, 0)} triangles are too few: the model takes ${figure(count(best), 0)} at its coarsest.`,
    );
  let low = { error: Math.log(1e-7 * whole), count: Math.log(drawn(parts)) };
  let high = { error: Math.log(whole), count: Math.log(Math.max(count(best), 1)) };
  const goal = Math.log(triangles * (1 - NEAR / 2));
  for (let i = 0; i < TRIES && count(best) < triangles * (1 - NEAR) && high.error - low.error > 1e-4; i++) {
    task.progress((0.7 * i) / TRIES, 'simplifying');
    const share = i % 3 === 2 ? 0.5 : (low.count - goal) / Math.max(low.count - high.count, 1e-9);
    const error = low.error + Math.min(0.95, Math.max(0.05, share)) * (high.error - low.error);
    const left = at(Math.exp(error));
    if (count(left) <= triangles) {
      best = left;
      high = { error, count: Math.log(Math.max(count(left), 1)) };
    } else low = { error, count: Math.log(count(left)) };
  }
  return built(filledUp(best, ready, parts.map(copiesOf), triangles));
}

/** What one error for all leaves unspent, where counts jump, goes to the largest parts. */
function filledUp(
  left: readonly Uint32Array[],
  ready: readonly Simplifiable[],
  copies: readonly number[],
  triangles: number,
): Uint32Array[] {
  const out = [...left];
  const weight = (i: number): number => (out[i].length / 3) * copies[i];
  let spare = triangles - out.reduce((n, _, i) => n + weight(i), 0);
  for (const i of [...out.keys()].sort((a, b) => weight(b) - weight(a))) {
    if (spare < triangles * NEAR) break;
    const more = ready[i].to({ triangles: Math.floor((weight(i) + spare) / copies[i]) });
    const taken = (more.length / 3) * copies[i] - weight(i);
    if (taken <= 0 || taken > spare) continue;
    out[i] = more;
    spare -= taken;
  }
  return out;
}

/** The asset without steps that simplify its imports: what they are simplified from. */
export const withoutSimplify = (document: AssetDocument): AssetDocument => ({
  ...document,
  parts: document.parts.map((p) =>
    p.shape.kind === 'mesh' && p.shape.steps
      ? { ...p, shape: { ...p.shape, steps: p.shape.steps.filter((s) => s.kind !== 'simplify') } }
      : p,
  ),
});

/** Faces that the parts' own steps keep from being simplified: regions they name. Parts made by steps stay as their counts say. */
export const protectedFaces =
  (document: AssetDocument) =>
  (p: PartMesh): Uint8Array | undefined => {
    const part = document.parts.find((d) => d.id === p.id);
    if (part?.shape.kind === 'recipe') return new Uint8Array(faceCount(p.mesh)).fill(1);
    const names = new Set(part?.shape.steps?.flatMap((s) => (s.kind === 'simplify' && s.region ? [s.region] : [])));
    const regions = (part?.regions ?? []).filter((r) => names.has(r.id));
    if (regions.length === 0) return undefined;
    const out = new Uint8Array(faceCount(p.mesh));
    for (const r of regions) for (const f of findRegion(p.mesh, r).faces) out[f] = 1;
    return out;
  };
