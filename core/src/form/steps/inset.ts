import { FormError } from '../../errors';
import { type InsetRing, inset as insetIn } from '../../mesh/inset';
import { figure, millimetres } from '../../units/lengths';
import { regionField } from '../changers';
import { choice, length, place, toggle } from '../fields';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Moves a region's outline inward and the region in or out: panels, slopes, grooves. Lengths in mm. */
export interface InsetStep extends StepBase {
  kind: 'inset';
  region?: string;
  shape: 'panel' | 'slope' | 'groove';
  inset: number;
  /** Out of the surface; inward when negative. */
  push: number;
  /** Width of a groove's floor. */
  width: number;
  /** Every face for itself. */
  each: boolean;
}

function ringsOf(step: InsetStep): InsetRing[] {
  const ring = (inset: number, push: number, patch: string): InsetRing => ({ inset, push, patch: ownPatch(step, patch) });
  const border = step.inset > 0 ? [ring(step.inset, 0, 'border')] : [];
  if (step.shape === 'slope') return [ring(step.inset, step.push, 'slope')];
  if (step.shape === 'panel') return step.push === 0 ? [ring(step.inset, 0, 'border')] : [...border, ring(step.inset, step.push, 'wall')];
  const inner = step.inset + step.width;
  return [...border, ring(step.inset, step.push, 'outer wall'), ring(inner, step.push, 'floor'), ring(inner, 0, 'inner wall')];
}

export const inset = {
  kind: 'inset',
  name: 'panel or groove',
  about: 'Moves the outline of a region inward over the surface, and the region in or out: panels, recesses, bosses, grooves.',
  fields: [
    regionField('Region', { none: 'choose a region' }),
    choice('shape', 'Shape', [
      ['panel', 'panel with upright walls'],
      ['slope', 'panel with a slope'],
      ['groove', 'groove round it'],
    ]),
    length('inset', 'Moved in by'),
    place('push', 'Pushed out by', { hint: 'inward −' }),
    length('width', 'Groove width', { when: (s) => s.shape === 'groove' }),
    toggle('each', 'Every face for itself'),
  ],
  fresh: () => ({ name: 'Panel', shape: 'panel' as const, inset: 4, push: -1, width: 1.5, each: false }),
  words: (s: InsetStep, length) => `${s.shape} in ${length(s.inset, 1)}, ${s.push < 0 ? 'sunk' : 'raised'} ${length(Math.abs(s.push), 1)}`,
  changer: {
    change(step: InsetStep, mesh, _detail, around) {
      if (!step.region) throw new FormError('inset/region', `“${step.name}” needs a region: make one on this part, and name it here.`);
      if (step.inset === 0 && step.push === 0) throw new FormError('inset/nothing', `“${step.name}” moves nothing: neither in nor out.`);
      if (step.shape === 'groove' && (step.width === 0 || step.push === 0))
        throw new FormError('inset/groove', `A groove needs a width and a depth; “${step.name}” lacks one.`);
      const made = insetIn(mesh, around.own(step.region, mesh), { rings: ringsOf(step), each: step.each });
      const wanted = step.shape === 'groove' ? step.inset + step.width : step.inset;
      return {
        mesh: made.mesh,
        figures: Number.isFinite(made.mostMm) ? [{ label: 'most it can move in', value: made.mostMm, unit: 'mm' }] : [],
        ...(made.held < 1 && {
          notes: [
            {
              code: 'inset/held',
              message: `“${step.name}” has ${millimetres(made.mostMm)} of room to move in, not ${figure(wanted)}; ${millimetres(wanted * made.held)} are taken.`,
              value: wanted,
              limit: made.mostMm,
              unit: 'mm',
            },
          ],
        }),
      };
    },
  },
} satisfies StepKind<InsetStep>;
