import { FormError, InputError } from '../errors';
import { NO_KIT } from '../kit';
import { IDENTITY, type Mat4, multiply } from '../maths/mat4';
import { mergeLaid } from '../mesh/merge';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { weld } from '../mesh/weld';
import type { Lookup } from '../units/formula';
import { resolveStep } from './dimensions';
import { byHand, type Hand, leftOf } from './hand';
import { followed } from './sketch/trace';
import {
  type Adaptive,
  allowedCount,
  type Changed,
  countOf,
  type Detail,
  evened,
  type Plan,
  type StepBase,
  type StepFigure,
  type StepNote,
  type Surroundings,
} from './step';
import { kindOf, type Step } from './steps';

/** What a step could not do, said where the others still stand. */
export interface StepProblem {
  step: string;
  code: string;
  message: string;
}

/** What a step came to: its own triangles (of one copy), figures it measured, what it did otherwise than asked. */
export interface StepResult {
  step: string;
  /** What it makes, or adds to what stands above it; negative where it takes away. */
  triangles: number;
  figures: StepFigure[];
  notes: StepNote[];
}

/** What a part’s steps came to. */
export interface Formed {
  /** undefined when no step makes anything. */
  mesh?: PolyMesh;
  /** Copies of the mesh, in the part's own space. */
  placements: Mat4[];
  problems: StepProblem[];
  steps: StepResult[];
}

/** What steps may refer to outside themselves. */
export interface FormContext {
  lookup?: Lookup;
  surroundings?: Surroundings;
  /** What the regions and parts that a step looks at are made from, for the cache. */
  key?(step: StepBase): string;
  /** Meshes of steps as they were last built. */
  cache?: StepCache;
  /** What the steps work on when it isn't made by one of them: an import. */
  base?: { mesh: PolyMesh; key: string };
}

/**
 * What steps came to by exactly what it was made from, so that only what an edit touches is done again. Last used, last to go:
 * so many results are kept, and so many triangles in all, as a dense mesh after each of ten steps is no small thing.
 */
export class StepCache {
  private readonly made = new Map<string, Changed>();
  private triangles = 0;
  constructor(
    private readonly most = 400,
    private readonly mostTriangles = 3_000_000,
  ) {}
  get(key: string, make: () => Changed): Changed {
    const found = this.made.get(key);
    if (found) {
      this.made.delete(key);
      this.made.set(key, found);
      return found;
    }
    const made = make();
    this.made.set(key, made);
    this.triangles += triangleCount(made.mesh);
    for (const [old, gone] of this.made) {
      if (old === key || (this.made.size <= this.most && this.triangles <= this.mostTriangles)) break;
      this.made.delete(old);
      this.triangles -= triangleCount(gone.mesh);
    }
    return made;
  }
}

/** For parts that stand alone. */
export const NOWHERE: Surroundings = {
  region() {
    throw new FormError('step/part', 'The part it refers to is not there.');
  },
  own() {
    throw new FormError('step/region', 'The region it refers to is not there.');
  },
  kit: NO_KIT,
};

/** The mesh so far, in pieces as its makers made them, each with what it was made from. */
interface Piece {
  mesh: PolyMesh;
  key: string;
}

/** Runs a part's steps in order. A step that can't be built is named and left out; the rest stands. */
export function form(steps: readonly Step[], detail: Detail, context: FormContext = {}): Formed {
  const around = context.surroundings ?? NOWHERE;
  const remembered = (key: string, make: () => Changed): Changed => (context.cache ? context.cache.get(key, make) : make());
  let pieces: Piece[] = context.base ? [context.base] : [];
  let placements: Mat4[] = [IDENTITY];
  const out: Formed = { placements, problems: [], steps: [] };
  const whole = (list: readonly Piece[] = pieces): Piece => {
    if (list.length <= 1) return list[0];
    const key = `(${list.map((p) => p.key).join('+')})`;
    return { key, mesh: remembered(key, () => ({ mesh: mergeLaid(list.map((p) => p.mesh)) })).mesh };
  };
  const mine = steps.filter((s) => isIn(s, detail.mesh));
  for (const [i, step] of mine.entries()) {
    try {
      const resolved: StepBase = resolveStep<StepBase>(followed<StepBase>(step, steps), context.lookup ?? (() => undefined));
      const kind = kindOf(step.kind);
      const result = (made: Changed, before: number) =>
        out.steps.push({
          step: step.id,
          triangles: triangleCount(made.mesh) - before,
          figures: made.figures ?? [],
          notes: made.notes ?? [],
        });
      if (kind.copies) {
        const above = () => reference(steps, step, context);
        const copies = byHand(kind.copies(resolved, around, above), resolved, above);
        if (!isApplied(resolved)) {
          placements = copies.flatMap((c) => placements.map((p) => multiply(c, p)));
          continue;
        }
        if (pieces.length === 0) continue;
        const from = whole();
        const all = copies.flatMap((c) => placements.map((p) => multiply(c, p)));
        const key = `${from.key} as ${JSON.stringify([all, (resolved as Applied).weld])}`;
        const made = remembered(key, () => ({ mesh: welded(copied(from.mesh, all), resolved) }));
        result(made, triangleCount(from.mesh) * placements.length);
        pieces = [{ mesh: made.mesh, key }];
        placements = [IDENTITY];
      } else if (kind.maker) {
        const { maker } = kind;
        const own = isJoined(mine, i) ? { ...detail, even: true } : detail;
        const key = context.cache ? keyOf(resolved, own) : '';
        const made = remembered(key, () => ({ mesh: owned(maker.build(resolved, own), step.id), notes: maker.notes?.(resolved) }));
        pieces.push({ mesh: made.mesh, key });
        result(made, 0);
      } else if (kind.fitter) {
        const { fitter } = kind;
        const key = context.cache ? `${keyOf(resolved, detail)} ${context.key?.(resolved) ?? ''}` : '';
        const made = remembered(key, () => fitter.fit(resolved, detail, around));
        pieces.push({ mesh: made.mesh, key });
        result(made, 0);
      } else if (kind.changer) {
        if (pieces.length === 0)
          throw new FormError('step/nothing', `“${step.name}” has nothing to work on: no step above it makes a surface.`);
        const { changer } = kind;
        const last = changer.apart && pieces.length > 1 ? pieces[pieces.length - 1] : undefined;
        const from = whole(last ? pieces.slice(0, -1) : pieces);
        const key = context.cache ? `${from.key} ${last?.key ?? ''} ${keyOf(resolved, detail)} ${context.key?.(resolved) ?? ''}` : '';
        const made = remembered(key, () => changer.change(resolved, from.mesh, detail, around, last?.mesh));
        result(made, triangleCount(from.mesh) + (last ? triangleCount(last.mesh) : 0));
        pieces = [{ mesh: made.mesh, key }];
      }
    } catch (error) {
      if (!(error instanceof FormError || error instanceof InputError)) throw error;
      out.problems.push({ step: step.id, code: error.code, message: error.message });
    }
  }
  return { ...out, placements, ...(pieces.length > 0 && { mesh: whole().mesh }) };
}

/** How closely what is copied is made where copies are arranged by it, mm. */
const ARRANGED_BY: Detail = { mesh: 'low', count: (a) => a.countFor(0.2) };

/**
 * What stands above a step, made alike whatever the counts and the mesh: copies arranged by it stand in the same places, and are as many,
 * in low and high and after every solving.
 */
function reference(steps: readonly Step[], step: Step, context: FormContext): PolyMesh | undefined {
  return form(steps.slice(0, steps.indexOf(step)), ARRANGED_BY, context).mesh;
}

/** Whether what a step makes is joined to a body by the one right after it: its counts are even then, so that quads can do it. */
const isJoined = (steps: readonly Step[], i: number): boolean => steps[i + 1]?.kind === 'join';

export const isIn = (step: StepBase, mesh: 'low' | 'high'): boolean => step.enabled && (step.in ?? mesh) === mesh;
/** Copies that are made part of the mesh, so that later steps work on all of them. */
interface Applied extends StepBase {
  applied?: boolean;
  /** Points nearer than this become one, mm. */
  weld?: number;
}
export const isApplied = (step: StepBase): boolean => (step as Applied).applied === true;
const welded = (mesh: PolyMesh, { weld: within = 0 }: Applied): PolyMesh => (within > 0 ? weld(mesh, { within }) : mesh);

/** The counts a step leaves to the solver, whatever it does. */
export function adaptiveOf(step: StepBase): Adaptive[] {
  const kind = kindOf(step.kind);
  return kind.maker?.plan(step).adaptive ?? (kind.changer ?? kind.fitter)?.adaptive?.(step) ?? [];
}

/** Exactly what a step is made from: its dimensions, and the counts or the tolerance. */
function keyOf(step: StepBase, detail: Detail): string {
  const { name: _, enabled: __, in: ___, formulas: ____, same: _____, ...own } = step;
  const counts = detail.mesh === 'low' ? adaptiveOf(step).map((a) => countOf(detail, a)) : detail.toleranceMm;
  return JSON.stringify([detail.mesh, counts, own, ...(detail.even ? ['even'] : [])]);
}

/** Patches carry the id of the step that made them: `bail-bar/side a`. */
const owned = (mesh: PolyMesh, step: string): PolyMesh => ({ ...mesh, patches: mesh.patches.map((p) => `${step}/${p}`) });

/** Copies as one mesh. The patches of the first keep their names, so that what was picked stays; the others' are numbered. */
function copied(mesh: PolyMesh, copies: readonly Mat4[]): PolyMesh {
  return mergeLaid(
    copies.map((m, i) => {
      const moved = transform(mesh, m);
      return i === 0 ? moved : { ...moved, patches: moved.patches.map((p) => `${p} (${i + 1})`) };
    }),
  );
}

/** The counts a part's steps leave to the solver, and the triangles of its makers as a function of them, copies included. */
export interface PartPlan extends Plan {
  /** The same for every step that makes something, copies included. */
  steps: { id: string; triangles: Plan['triangles'] }[];
}

/**
 * What is known of a part without building it. Steps that change what stands above them are not in it: what they make of it is
 * measured where the part is formed.
 *
 * @param copies of the whole part, where a step strews them and they are known; the most it may strew otherwise
 */
export function budgetOf(steps: readonly Step[], lookup: Lookup = () => undefined, copies?: number): PartPlan {
  let times = 1;
  const plans: { id: string; plan: Plan }[] = [];
  const changing: Adaptive[] = [];
  const mine = steps.filter((s) => isIn(s, 'low'));
  for (const [i, step] of mine.entries()) {
    try {
      const resolved = resolveStep(followed(step, steps), lookup);
      const kind = kindOf(step.kind);
      if (resolved.kind === 'scatter') times *= resolved.most;
      else if (kind.copies) times *= leftOf(resolved as Hand, kind.copies(resolved, NOWHERE).length);
      else if (kind.maker) plans.push({ id: step.id, plan: allowed(kind.maker.plan(resolved), isJoined(mine, i)) });
      else changing.push(...adaptiveOf(resolved));
    } catch (error) {
      // A step that can't be built costs nothing; what is wrong with it is said where it is formed.
      if (!(error instanceof FormError || error instanceof InputError)) throw error;
    }
  }
  const all = copies ?? times;
  return {
    adaptive: [...plans.flatMap((p) => p.plan.adaptive), ...changing],
    triangles: (count) => all * plans.reduce((n, p) => n + p.plan.triangles(count), 0),
    steps: plans.map(({ id, plan }) => ({ id, triangles: (count) => all * plan.triangles(count) })),
  };
}

/** A plan whose triangles are counted with the counts a mesh would really get. */
const allowed = (plan: Plan, even: boolean): Plan => ({
  adaptive: even ? plan.adaptive.map(evened) : plan.adaptive,
  triangles: (count) => plan.triangles((a: Adaptive) => allowedCount(even ? evened(a) : a, count(a))),
});
