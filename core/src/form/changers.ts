import { FormError } from '../errors';
import type { Edges } from '../mesh/connectivity';
import type { PolyMesh } from '../mesh/polymesh';
import { faceCount } from '../mesh/polymesh';
import { choice, type TextField, words } from './fields';
import { edgesAt, type PickedLine, patchIndex } from './places';
import type { StepBase, Surroundings } from './step';

/** What several steps that change a surface share: where they work, and along which axis. */

/** The region a step works in; everywhere when none is named. */
export const regionField = (label = 'Where', rest: Partial<TextField> = {}): TextField =>
  words('region', label, { most: 60, optional: true, names: 'own region', none: 'everywhere', ...rest });

/** 1 for every face a step works on. */
export const facesOf = (step: { region?: string }, mesh: PolyMesh, around: Surroundings): Uint8Array =>
  step.region ? around.own(step.region, mesh) : new Uint8Array(faceCount(mesh)).fill(1);

/**
 * 1 for every edge that was picked for a step.
 *
 * @throws FormError `picked/none`, `picked/lost` naming the patch that is gone
 */
export function pickedEdges(step: StepBase & { edges?: PickedLine[] }, mesh: PolyMesh, edges: Edges): Uint8Array {
  const out = new Uint8Array(edges.count);
  const index = patchIndex(mesh);
  for (const line of step.edges ?? []) {
    const corners = edgesAt(mesh, index, line);
    if (!corners)
      throw new FormError(
        'picked/lost',
        `An edge that “${step.name}” was picked on is no longer there (${line.patch.split('/').pop()}); pick it again.`,
      );
    for (const c of corners) out[edges.ofCorner[c]] = 1;
  }
  if (!step.edges?.length) throw new FormError('picked/none', `No edge is picked for “${step.name}” yet.`);
  return out;
}

const AXES = [
  ['x', 'x'],
  ['y', 'y'],
  ['z', 'z'],
] as const;
export const axisField = (key: string, label: string) => choice(key, label, AXES);
