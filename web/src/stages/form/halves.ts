import type { CutStep } from '@wellmorph/core/form/steps/cut';
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
