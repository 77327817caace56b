import { hardenCreases } from '../../inspect/mend';
import { edgesOf } from '../../mesh/connectivity';
import { markHard, weightedNormals } from '../../mesh/normals';
import { attribute, withAttribute, withoutAttribute } from '../../mesh/polymesh';
import { figure } from '../../units/lengths';
import { angle, choice, toggle } from '../fields';
import type { StepBase, StepKind } from '../step';

/** How light runs over everything above it: which edges are hard, and what faces weigh in the normals between. */
export interface ShadeStep extends StepBase {
  kind: 'shade';
  /** `add`, `creases`: those by angle, or kinks between flats, beside the ones that are there. */
  hard: 'keep' | 'add' | 'creases' | 'angle' | 'none';
  degrees: number;
  weighted: boolean;
}

export const shade = {
  kind: 'shade',
  name: 'hard edges and normals',
  about: 'Marks edges hard by angle, and weighs normals by the area of faces, so that large flats stay flat beside bevels.',
  fields: [
    choice('hard', 'Hard edges', [
      ['keep', 'as they are'],
      ['add', 'as they are, and by angle'],
      ['creases', 'as they are, and kinks between flats'],
      ['angle', 'by angle'],
      ['none', 'none'],
    ]),
    angle('degrees', 'Sharper than', { min: 1, max: 179, when: (s) => s.hard === 'angle' || s.hard === 'add' }),
    toggle('weighted', 'Weighed by area'),
  ],
  fresh: () => ({ name: 'Shading', hard: 'angle' as const, degrees: 40, weighted: true }),
  words: (s: ShadeStep) =>
    `${s.hard === 'angle' || s.hard === 'add' ? `hard over ${figure(s.degrees, 0)}°` : s.hard === 'none' ? 'all smooth' : 'edges as they are'}${s.weighted ? ', by area' : ''}`,
  changer: {
    change(step: ShadeStep, mesh) {
      let out = withoutAttribute(mesh, 'normal');
      if (step.hard === 'angle' || step.hard === 'none') out = withoutAttribute(out, 'hard');
      if (step.hard === 'angle' || step.hard === 'add') out = markHard(out, step.degrees);
      if (step.hard === 'creases') out = hardenCreases(out);
      if (step.weighted) out = withAttribute(out, { name: 'normal', domain: 'corner', size: 3, data: weightedNormals(out) });
      const hard = attribute(out, 'hard', 'corner')?.data;
      const edges = edgesOf(out);
      const marked = new Uint8Array(edges.count);
      for (let c = 0; c < edges.ofCorner.length; c++) if (hard?.[c]) marked[edges.ofCorner[c]] = 1;
      return { mesh: out, figures: [{ label: 'hard edges', value: marked.reduce((n, x) => n + x, 0), unit: '' }] };
    },
  },
} satisfies StepKind<ShadeStep>;
