import { InputError } from '../errors';
import { findRegion } from '../form/regions';
import { type Deviation, deviation } from '../inspect/deviation';
import { type Kit, needed } from '../kit';
import { boundsOf } from '../mesh/measures';
import { faceCount, triangleCount } from '../mesh/polymesh';
import { simplify } from '../mesh/simplify';
import { checkpoint, QUIET, type Task } from '../task';
import { figure } from '../units/lengths';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';

export interface Simplified {
  parts: PartMesh[];
  /** Of each part, measured against what it was. */
  off: (Deviation & { id: string; from: number; to: number })[];
}

/** Halvings of the error; the count is then within what one collapse changes. */
const HALVINGS = 18;
/** No part is lost altogether: a tetrahedron is left of it. */
const FEWEST = 4;

const drawn = (parts: readonly PartMesh[]): number => parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);

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
  const whole = Math.max(...parts.map((p) => Math.hypot(...boundsOf(p.mesh).max.map((x, k) => x - boundsOf(p.mesh).min[k]))), 1e-6);
  const at = (errorMm: number): PartMesh[] =>
    parts.map((p, i) => ({ ...p, mesh: simplify(simplifier, p.mesh, { triangles: FEWEST, errorMm, ...(kept[i] && { keep: kept[i] }) }) }));
  const kept = parts.map(keep);
  let best = drawn(parts) <= triangles ? [...parts] : null;
  if (!best) {
    let [low, high] = [Math.log(1e-7 * whole), Math.log(whole)];
    for (let i = 0; i < HALVINGS; i++) {
      checkpoint(task);
      task.progress(i / HALVINGS, 'simplifying');
      const middle = i === 0 ? high : (low + high) / 2;
      const made = at(Math.exp(middle));
      if (drawn(made) <= triangles) {
        best = made;
        high = middle;
      } else if (i === 0)
        throw new InputError(
          'simplify/few',
          `${figure(triangles, 0)} triangles are too few: the model takes ${figure(drawn(made), 0)} at its coarsest.`,
        );
      else low = middle;
    }
  }
  const made = best ?? [...parts];
  return {
    parts: made,
    off: made.map((p, i) => ({
      id: p.id,
      from: triangleCount(parts[i].mesh),
      to: triangleCount(p.mesh),
      ...deviation(parts[i].mesh, p.mesh),
    })),
  };
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
