import { measureDistances } from '../bake/distances';
import { lieOf, type PairLie } from '../bake/lie';
import { highSide, lowShape } from '../bake/prepare';
import { faceCount } from '../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../task';
import type { PartMesh } from './form';

/** How far the meshes of a part lie apart, and how they lie to each other. */
export interface MeasuredPair {
  id: string;
  frontMm: number;
  rearMm: number;
  lie: PairLie;
}

/**
 * Measures pairs before anything is baked: no layout is needed.
 *
 * @param brought ids of the parts whose high mesh was brought: those a recipe makes fit by themselves
 */
export function measurePairs(
  low: readonly PartMesh[],
  high: readonly PartMesh[],
  brought: ReadonlySet<string>,
  task: Task = QUIET,
): MeasuredPair[] {
  const pairs = low.flatMap((l) => {
    const partner = brought.has(l.id) ? high.find((h) => h.id === l.id) : undefined;
    return partner && faceCount(partner.mesh) > 0 && faceCount(l.mesh) > 0 ? [{ l, partner }] : [];
  });
  return pairs.map(({ l, partner }, i) => {
    checkpoint(task);
    task.progress(i / pairs.length, `measuring ${l.name}`);
    const side = highSide(partner.mesh);
    const distances = measureDistances(l.mesh, lowShape(l.mesh), side);
    return {
      id: l.id,
      frontMm: distances.uniform.front,
      rearMm: distances.uniform.rear,
      lie: lieOf(l.mesh, side, partner.mesh, distances),
    };
  });
}
