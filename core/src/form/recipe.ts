import { FormError } from '../errors';
import { IDENTITY, type Mat4, multiply } from '../maths/mat4';
import { merge } from '../mesh/merge';
import type { PolyMesh } from '../mesh/polymesh';
import { figure } from '../units/lengths';
import type { Detail, Maker, Plan } from './step';
import { type ArrayStep, arrayPlacements } from './steps/array';
import { type BarStep, bar } from './steps/bar';
import { type TurnedStep, turned } from './steps/turned';

export type MakerStep = TurnedStep | BarStep;
export type Step = MakerStep | ArrayStep;
export type StepKind = Step['kind'];

export const STEP_NAMES: Record<StepKind, string> = {
  turned: 'turned profile',
  bar: 'bar along a path',
  array: 'array round an axis',
};

function makerOf(step: MakerStep): Maker<MakerStep> {
  return (step.kind === 'turned' ? turned : bar) as Maker<MakerStep>;
}

export const isMaker = (step: Step): step is MakerStep => step.kind !== 'array';

/** What a step could not do, said where the others still stand. */
export interface StepProblem {
  step: string;
  code: string;
  message: string;
}

export interface Formed {
  /** undefined when no step makes anything. */
  mesh?: PolyMesh;
  /** Copies of the mesh, in the part's own space. */
  placements: Mat4[];
  problems: StepProblem[];
}

/** Runs a part's steps in order. A step that can't be built is named and left out; the rest stands. */
export function form(steps: readonly Step[], detail: Detail): Formed {
  const meshes: PolyMesh[] = [];
  let placements: Mat4[] = [IDENTITY];
  const problems: StepProblem[] = [];
  for (const step of steps) {
    if (!step.enabled) continue;
    try {
      if (step.kind === 'array') {
        const copies = checkedPlacements(step);
        placements = copies.flatMap((c) => placements.map((p) => multiply(c, p)));
      } else meshes.push(makerOf(step).build(step, detail));
    } catch (error) {
      if (!(error instanceof FormError)) throw error;
      problems.push({ step: step.id, code: error.code, message: error.message });
    }
  }
  return { mesh: meshes.length > 0 ? mergeCharts(meshes) : undefined, placements, problems };
}

function checkedPlacements(step: ArrayStep): Mat4[] {
  if (!Number.isInteger(step.count) || step.count < 1 || step.count > 500)
    throw new FormError('array/count', `“${step.name}” asks for ${figure(step.count)} copies; it can be a whole number from 1 to 500.`);
  return arrayPlacements(step);
}

/** Several makers in a part keep islands of their own. */
function mergeCharts(meshes: PolyMesh[]): PolyMesh {
  let next = 0;
  const renumbered = meshes.map((m) => {
    const base = next;
    return {
      ...m,
      attributes: m.attributes.map((a) => {
        if (a.name !== 'chart') return a;
        const data = Int32Array.from(a.data, (c) => c + base);
        for (const c of data) next = Math.max(next, c + 1);
        return { ...a, data };
      }),
    };
  });
  return merge(renumbered);
}

/** The counts a part's steps leave to the solver, and its triangles as a function of them, copies included. */
export function budgetOf(steps: readonly Step[]): Plan {
  const plans = steps.filter(isMaker).flatMap((s) => {
    if (!s.enabled) return [];
    try {
      return [makerOf(s).plan(s)];
    } catch (error) {
      // A step that can't be built costs nothing; what is wrong with it is said where it is formed.
      if (error instanceof FormError) return [];
      throw error;
    }
  });
  const copies = steps.reduce((n, s) => (s.kind === 'array' && s.enabled && s.count >= 1 ? n * Math.floor(s.count) : n), 1);
  return {
    adaptive: plans.flatMap((p) => p.adaptive),
    triangles: (count) => copies * plans.reduce((n, p) => n + p.triangles(count), 0),
  };
}
