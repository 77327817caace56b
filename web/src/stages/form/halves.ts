import type { Hand } from '@wellmorph/core/form/hand';
import { isApplied } from '@wellmorph/core/form/recipe';
import type { CutStep } from '@wellmorph/core/form/steps/cut';
import { kindOf, type Step } from '@wellmorph/core/form/steps/index';
import { anglesOf, type Mat4 } from '@wellmorph/core/maths/mat4';
import { mapVec } from '@wellmorph/core/maths/vec3';
import { type Part, stepsOf } from '@wellmorph/core/pipeline/document';

/**
 * A part like another one, its steps under ids of their own: regions, seams and picks, which call surfaces after those ids,
 * go with them.
 */
export function partLike(part: Part, id: string, name: string, newId: () => string): Part {
  const ids = new Map(stepsOf(part).map((s) => [s.id, newId()]));
  // A surface is called `step/patch`, one between two others by both of them.
  const renamed = (patch: string) =>
    patch.replace(/(^| )([^ /]+)\//g, (all, before: string, step: string) => (ids.has(step) ? `${before}${ids.get(step)}/` : all));
  const next = (key: string, value: unknown): unknown => {
    if (typeof value !== 'string') return value;
    if (key === 'patch') return renamed(value);
    return key === 'id' || key === 'step' ? (ids.get(value) ?? value) : value;
  };
  return { ...(JSON.parse(JSON.stringify(part), next) as Part), id, name };
}

/** The half that a cut takes away, as a part of its own; null where the cut takes nothing away. */
export function otherHalf(part: Part, cut: CutStep, id: string, newId: () => string): Part | null {
  if (cut.keep !== 'above' && cut.keep !== 'below') return null;
  const at = stepsOf(part).findIndex((s) => s.id === cut.id);
  const other = partLike(part, id, `${part.name}, other half`.slice(0, 80), newId);
  const steps = stepsOf(other).map((s, i) => (i === at ? { ...s, keep: cut.keep === 'above' ? 'below' : 'above' } : s));
  return { ...other, shape: { ...other.shape, steps } as Part['shape'] };
}

/** Whether single copies of a step can be taken out of it: no other step makes more of them, and they are not one mesh. */
export const hasHand = (part: Part, step: Step): boolean =>
  kindOf(step.kind).fields.some((f) => f.key === 'own' && f.type === 'list' && f.one === 'Single copy') &&
  !isApplied(step) &&
  stepsOf(part).filter((s) => s.enabled && s.kind !== 'place' && kindOf(s.kind).copies).length === 1;

/** Where copy `number`, from 1, is among those that are left; −1 when it is left out. */
export function placeAmong(step: Step, number: number): number {
  const dropped = ((step as Hand).own ?? []).filter((o) => o.drop).map((o) => o.copy);
  return dropped.includes(number) ? -1 : number - 1 - new Set(dropped.filter((n) => n < number)).size;
}

/**
 * One copy of a step as a part of its own, to be changed or to have another put in its place: the part without what places and copies it,
 * where the copy stood; and the step without that copy. A copy that was larger or smaller has its size again.
 *
 * @param at where the copy stands, mm, in the asset's space
 */
export function ownPart(
  part: Part,
  step: Step,
  number: number,
  at: Mat4,
  id: string,
  entry: string,
  newId: () => string,
): { part: Part; step: Step } {
  const tidy = (x: number) => Math.round(x * 1e9) / 1e9 + 0;
  const size = Math.hypot(at[0], at[1], at[2]) || 1;
  const turned = at.map((x, k) => (k < 12 ? x / size : x)) as unknown as Mat4;
  const alone = { ...part, shape: { ...part.shape, steps: stepsOf(part).filter((s) => !kindOf(s.kind).copies || isApplied(s)) } } as Part;
  const own = (step as Hand).own ?? [];
  const left = own.some((o) => o.copy === number)
    ? own.map((o) => (o.copy === number ? { ...o, drop: true } : o))
    : [...own, { id: entry, copy: number, dx: 0, dy: 0, dz: 0, drop: true }];
  return {
    part: {
      ...partLike(alone, id, `${part.name} ${number}`.slice(0, 80), newId),
      move: [tidy(at[12]), tidy(at[13]), tidy(at[14])],
      turnDegrees: mapVec(anglesOf(turned), tidy),
    },
    step: { ...step, own: left } as Step,
  };
}
