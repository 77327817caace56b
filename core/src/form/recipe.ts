import { FormError, InputError } from '../errors';
import { IDENTITY, type Mat4, multiply } from '../maths/mat4';
import { merge } from '../mesh/merge';
import type { PolyMesh } from '../mesh/polymesh';
import type { Lookup } from '../units/formula';
import { resolveStep } from './dimensions';
import { UNLAID } from './loft';
import { type Adaptive, allowedCount, type Detail, type Plan, type StepBase, type Surroundings } from './step';
import { kindOf, makerOf, type Step } from './steps';

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

/** What steps may refer to outside themselves. */
export interface FormContext {
  lookup?: Lookup;
  surroundings?: Surroundings;
  /** Meshes of steps as they were last built. */
  cache?: StepCache;
}

/** Meshes by exactly what they were made from, so that only what an edit touches is built again. */
export class StepCache {
  private readonly meshes = new Map<string, PolyMesh>();
  constructor(private readonly most = 400) {}
  get(key: string, build: () => PolyMesh): PolyMesh {
    const found = this.meshes.get(key);
    if (found) {
      // Last used, last to go.
      this.meshes.delete(key);
      this.meshes.set(key, found);
      return found;
    }
    const mesh = build();
    this.meshes.set(key, mesh);
    if (this.meshes.size > this.most) this.meshes.delete(this.meshes.keys().next().value as string);
    return mesh;
  }
}

const NOWHERE: Surroundings = {
  region() {
    throw new FormError('scatter/part', 'The part it should lie on is not there.');
  },
};

/** Runs a part's steps in order. A step that can't be built is named and left out; the rest stands. */
export function form(steps: readonly Step[], detail: Detail, context: FormContext = {}): Formed {
  const meshes: PolyMesh[] = [];
  const keys: string[] = [];
  let placements: Mat4[] = [IDENTITY];
  const problems: StepProblem[] = [];
  for (const step of steps) {
    if (!isIn(step, detail.mesh)) continue;
    try {
      const resolved: StepBase = resolveStep<StepBase>(step, context.lookup ?? (() => undefined));
      const kind = kindOf(step.kind);
      if (kind.copies) {
        const copies = kind.copies(resolved, context.surroundings ?? NOWHERE);
        placements = copies.flatMap((c) => placements.map((p) => multiply(c, p)));
      } else if (kind.maker) {
        const { maker } = kind;
        const make = () => owned(maker.build(resolved, detail), step.id);
        const key = context.cache ? keyOf(resolved, detail) : '';
        meshes.push(context.cache ? context.cache.get(key, make) : make());
        keys.push(key);
      }
    } catch (error) {
      if (!(error instanceof FormError || error instanceof InputError)) throw error;
      problems.push({ step: step.id, code: error.code, message: error.message });
    }
  }
  const whole = () => mergeCharts(meshes);
  const mesh = meshes.length > 1 && context.cache ? context.cache.get(keys.join('+'), whole) : meshes.length > 0 ? whole() : undefined;
  return { mesh, placements, problems };
}

export const isIn = (step: StepBase, mesh: 'low' | 'high'): boolean => step.enabled && (step.in ?? mesh) === mesh;

/** Exactly what a step's mesh is made from: its dimensions, and the counts or the tolerance. */
function keyOf(step: StepBase, detail: Detail): string {
  const { name: _, enabled: __, in: ___, formulas: ____, ...own } = step;
  const counts =
    detail.mesh === 'low'
      ? (makerOf(step)
          ?.plan(step)
          .adaptive.map((a) => allowedCount(a, detail.count(a))) ?? [])
      : detail.toleranceMm;
  return JSON.stringify([detail.mesh, counts, own]);
}

/** Patches carry the id of the step that made them: `bail-bar/side a`. */
const owned = (mesh: PolyMesh, step: string): PolyMesh => ({ ...mesh, patches: mesh.patches.map((p) => `${step}/${p}`) });

/** Several makers in a part keep islands of their own; what a maker leaves to the flattening stays so. */
function mergeCharts(meshes: PolyMesh[]): PolyMesh {
  if (meshes.length === 1) return meshes[0];
  let next = 0;
  const renumbered = meshes.map((m) => {
    const base = next;
    return {
      ...m,
      attributes: m.attributes.map((a) => {
        if (a.name !== 'chart') return a;
        const data = Int32Array.from(a.data, (c) => (c === UNLAID ? UNLAID : c + base));
        for (const c of data) next = Math.max(next, c + 1);
        return { ...a, data };
      }),
    };
  });
  return merge(renumbered);
}

/** The counts a part's steps leave to the solver, and its triangles as a function of them, copies included. */
export interface PartPlan extends Plan {
  /** The same for every step that makes something, copies included. */
  steps: { id: string; triangles: Plan['triangles'] }[];
}

/** @param copies of the whole part, where a step strews them and they are known; the most it may strew otherwise */
export function budgetOf(steps: readonly Step[], lookup: Lookup = () => undefined, copies?: number): PartPlan {
  let times = 1;
  const plans: { id: string; plan: Plan }[] = [];
  for (const step of steps) {
    if (!isIn(step, 'low')) continue;
    try {
      const resolved = resolveStep(step, lookup);
      const kind = kindOf(step.kind);
      if (resolved.kind === 'scatter') times *= resolved.most;
      else if (kind.copies) times *= kind.copies(resolved, NOWHERE).length;
      else if (kind.maker) plans.push({ id: step.id, plan: allowed(kind.maker.plan(resolved)) });
    } catch (error) {
      // A step that can't be built costs nothing; what is wrong with it is said where it is formed.
      if (!(error instanceof FormError || error instanceof InputError)) throw error;
    }
  }
  const all = copies ?? times;
  return {
    adaptive: plans.flatMap((p) => p.plan.adaptive),
    triangles: (count) => all * plans.reduce((n, p) => n + p.plan.triangles(count), 0),
    steps: plans.map(({ id, plan }) => ({ id, triangles: (count) => all * plan.triangles(count) })),
  };
}

/** A plan whose triangles are counted with the counts a mesh would really get. */
const allowed = (plan: Plan): Plan => ({
  adaptive: plan.adaptive,
  triangles: (count) => plan.triangles((a: Adaptive) => allowedCount(a, count(a))),
});
