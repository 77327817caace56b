import { removableFaces } from '../../inspect/unseen';
import { hiddenTriangles } from '../../inspect/visibility';
import { keepFaces } from '../../mesh/edit';
import { withoutDivisions } from '../../mesh/flats';
import { idleLoops, withoutLoops } from '../../mesh/idle';
import { type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { soupOf } from '../../mesh/soup';
import { length, toggle } from '../fields';
import type { StepBase, StepFigure, StepKind } from '../step';

/** Takes triangles away that bear no shape. Lengths in mm. */
export interface ClearStep extends StepBase {
  kind: 'clear';
  /** Loops go whose removal moves the surface by less than this; none at 0. */
  within: number;
  /** In the low mesh, faces that are never seen from outside this part go. */
  unseen?: boolean;
  /** In the low mesh, flats are made of their outlines alone. */
  flats?: boolean;
}

export const clear = {
  kind: 'clear',
  name: 'remove idle triangles',
  about:
    'Takes away edge loops that bear no shape: the surface moves by less than you say, and no hard edge, seam or patch changes. In the low mesh also faces nobody sees, and divisions of flats.',
  fields: [
    length('within', 'Loops may move it by', { max: 100, hint: '0: loops stay' }),
    toggle('unseen', 'Faces never seen, too', { optional: true }),
    toggle('flats', 'Divisions of flats, too', { optional: true }),
  ],
  fresh: () => ({ name: 'Idle triangles', within: 0.01, unseen: false, flats: false }),
  words: (s: ClearStep) =>
    [s.within > 0 && 'idle loops', s.unseen && 'what is never seen', s.flats && 'divisions of flats']
      .filter(Boolean)
      .join(', ')
      .concat(' go'),
  changer: {
    change(step: ClearStep, mesh, detail) {
      const figures: StepFigure[] = [];
      const low = detail.mesh === 'low';
      const seen = low && step.unseen ? withoutUnseen(mesh) : mesh;
      if (low && step.unseen) figures.push({ label: 'never seen', value: triangleCount(mesh) - triangleCount(seen), unit: '' });
      const loops = step.within > 0 ? idleLoops(seen, step.within) : [];
      const lean = withoutLoops(seen, loops);
      figures.push(
        { label: 'loops taken away', value: loops.length, unit: '' },
        { label: 'moved by at most', value: loops.reduce((m, l) => Math.max(m, l.moves), 0), unit: 'mm' },
      );
      const out = low && step.flats ? withoutDivisions(lean) : lean;
      if (low && step.flats) figures.push({ label: 'freed in flats', value: triangleCount(lean) - triangleCount(out), unit: '' });
      return { mesh: out, figures };
    },
  },
} satisfies StepKind<ClearStep>;

/** The mesh without faces that are never seen from outside it and can go. */
function withoutUnseen(mesh: PolyMesh): PolyMesh {
  const goes = removableFaces(mesh, hiddenTriangles([{ soup: soupOf(mesh), blocks: true }])[0]);
  return goes.includes(1) && goes.includes(0) ? keepFaces(mesh, (f) => goes[f] === 0) : mesh;
}
