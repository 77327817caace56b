import type { PolyMesh } from '../mesh/polymesh';
import { faceCount } from '../mesh/polymesh';
import { choice, type TextField, words } from './fields';
import type { Surroundings } from './step';

/** What several steps that change a surface share: where they work, and along which axis. */

/** The region a step works in; everywhere when none is named. */
export const regionField = (label = 'Where', rest: Partial<TextField> = {}): TextField =>
  words('region', label, { most: 60, optional: true, names: 'own region', none: 'everywhere', ...rest });

/** 1 for every face a step works on. */
export const facesOf = (step: { region?: string }, mesh: PolyMesh, around: Surroundings): Uint8Array =>
  step.region ? around.own(step.region, mesh) : new Uint8Array(faceCount(mesh)).fill(1);

const AXES = [
  ['x', 'x'],
  ['y', 'y'],
  ['z', 'z'],
] as const;
export const axisField = (key: string, label: string) => choice(key, label, AXES);
