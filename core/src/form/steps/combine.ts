import { needed } from '../../kit';
import { combine as combined } from '../../mesh/solids';
import { choice, words } from '../fields';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Joins everything above it with another part, cuts that part out of it, or keeps what the two share. */
export interface CombineStep extends StepBase {
  kind: 'combine';
  how: 'join' | 'cut' | 'intersect';
  /** Id of the other part. */
  with: string;
}

const HOW = [
  ['cut', 'cut it out'],
  ['join', 'join it on'],
  ['intersect', 'keep what both fill'],
] as const;

export const combine = {
  kind: 'combine',
  name: 'with another part',
  about: 'Cuts another part out of everything above it, joins it on, or keeps only what both fill: windows, slots, holes, bosses.',
  fields: [choice('how', 'How', HOW), words('with', 'Part', { most: 60, names: 'part' })],
  fresh: () => ({ name: 'Cut out', how: 'cut' as const, with: '?' }),
  needs: ['solids'],
  words: (s: CombineStep) => HOW.find(([k]) => k === s.how)?.[1] ?? '',
  looksAt: (s: CombineStep) => [s.with],
  changer: {
    change(step: CombineStep, mesh, _detail, around) {
      const other = around.region(step.with, '');
      const { mesh: made, volume } = combined(needed(around.kit, 'solids'), mesh, other, {
        how: step.how,
        patch: (p) => ownPatch(step, p),
        names: ['What stands above', 'The other part'],
      });
      return { mesh: made, figures: [{ label: 'volume', value: volume / 1000, unit: 'ml' }] };
    },
  },
} satisfies StepKind<CombineStep>;
