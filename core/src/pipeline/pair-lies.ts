import { cageOf } from '../bake/cage';
import { laidDabs } from '../bake/dabs';
import { type Distances, measureDistances } from '../bake/distances';
import { lieOf, type PairLie } from '../bake/lie';
import { highSide, lowShape } from '../bake/prepare';
import { faceCount } from '../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../task';
import type { BakeSettings } from './bake';
import { distancesOf } from './bake-sides';
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

/** Distances by part and direction of search, for cages of the same meshes with other settings. */
export type DistancesKept = Map<string, Distances>;

/** Where rays will begin round each part that is baked, as lines, by the settings as they are. No layout is needed. */
export function cagesOf(
  low: readonly PartMesh[],
  high: readonly PartMesh[],
  settings: BakeSettings,
  task: Task = QUIET,
  kept?: DistancesKept,
): (Pick<PartMesh, 'id' | 'placements'> & { lines: Float32Array })[] {
  return low
    .filter((l) => !settings.shares?.includes(l.id))
    .map((l, i, all) => {
      checkpoint(task);
      task.progress(i / all.length, `measuring ${l.name}`);
      const partner = high.find((h) => h.id === l.id);
      const key = `${settings.directions}/${l.id}`;
      const measured =
        kept?.get(key) ?? distancesOf(l.mesh, lowShape(l.mesh, undefined, settings.directions), partner && highSide(partner.mesh));
      kept?.set(key, measured);
      const uniform = settings.distances === 'uniform' && partner !== undefined;
      const front = uniform ? new Float64Array(measured.front.length).fill(settings.frontMm) : measured.front;
      return { id: l.id, placements: l.placements, lines: cageOf(l.mesh, front, laidDabs(settings.dabs, l.id), settings.directions) };
    });
}
