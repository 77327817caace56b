import { idleLoops, withoutLoops } from '../../mesh/idle';
import { length } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Takes edge loops away that bear no shape. Lengths in mm. */
export interface ClearStep extends StepBase {
  kind: 'clear';
  within: number;
}

export const clear = {
  kind: 'clear',
  name: 'remove idle loops',
  about: 'Takes away edge loops that bear no shape: the surface moves by less than you say, and no hard edge, seam or patch changes.',
  fields: [length('within', 'May move by', { max: 100 })],
  fresh: () => ({ name: 'Idle loops', within: 0.01 }),
  words: () => 'idle loops go',
  changer: {
    change(step: ClearStep, mesh) {
      const loops = idleLoops(mesh, step.within);
      return {
        mesh: withoutLoops(mesh, loops),
        figures: [
          { label: 'loops taken away', value: loops.length, unit: '' },
          { label: 'moved by at most', value: loops.reduce((m, l) => Math.max(m, l.moves), 0), unit: 'mm' },
        ],
      };
    },
  },
} satisfies StepKind<ClearStep>;
