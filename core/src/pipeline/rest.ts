import { InputError } from '../errors';
import { comeToRest, type Resting } from '../inspect/rest';
import { anglesOf, type Mat4, multiply, placement } from '../maths/mat4';
import { mapVec } from '../maths/vec3';
import { boundsOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { transform } from '../mesh/transform';
import { QUIET, type Task } from '../task';
import type { Command } from './commands';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';

const tidy = (x: number): number => Math.round(x * 1e9) / 1e9 + 0;

/** What moves parts by a rigid movement of the asset's space; one change for each. */
export function movedBy(document: AssetDocument, ids: readonly string[], by: Mat4): Command[] {
  return document.parts
    .filter((p) => ids.includes(p.id))
    .map((p) => {
      const m = multiply(by, placement(p.move, p.turnDegrees));
      return {
        type: 'part.set' as const,
        part: p.id,
        patch: { move: [tidy(m[12]), tidy(m[13]), tidy(m[14])] as const, turnDegrees: mapVec(anglesOf(m), tidy) },
      };
    });
}

/**
 * Lets parts down together onto whatever of the piece is under them, or onto the floor the piece stands on.
 *
 * @throws InputError when there is nothing to be let down
 */
export function setDown(parts: readonly PartMesh[], ids: readonly string[], task: Task = QUIET): Resting {
  const placed = (list: readonly PartMesh[]) => merge(list.flatMap((p) => p.placements.map((m) => transform(p.mesh, m))));
  const mine = parts.filter((p) => ids.includes(p.id));
  const others = parts.filter((p) => !ids.includes(p.id));
  if (mine.length === 0) throw new InputError('rest/none', 'There is no surface to be set down.');
  const ground = others.length > 0 ? placed(others) : null;
  return comeToRest(placed(mine), ground, ground ? boundsOf(ground).min[1] : 0, task);
}
