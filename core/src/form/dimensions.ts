import { InputError } from '../errors';
import { asLength, asNumber, evaluate, isName, type Lookup, namesIn } from '../units/formula';
import { figure } from '../units/lengths';
import { numbersOf, withNumber } from './fields';
import type { StepBase } from './step';
import { kindOf } from './steps';

/** A named figure that steps and other dimensions may refer to: `edge_radius = 1.2`, `tray = opening - 2*gap`. */
export interface Dimension {
  id: string;
  name: string;
  formula: string;
  /** What it is: a length in mm, or a plain number (a count, a share, degrees). */
  kind: 'length' | 'number';
  /** Where the figure comes from, when it was picked from a table. */
  source?: string;
}

/** What a named dimension works out to. */
export interface DimensionValue {
  id: string;
  /** mm or a plain number; undefined when it can't be worked out. */
  value?: number;
  /** Why not, in one sentence. */
  wrong?: string;
}

/** What all dimensions come to, and a lookup for formulas that use them. */
export interface Dimensions {
  values: DimensionValue[];
  lookup: Lookup;
}

/** Works out every dimension; each is read once, and a circle is named along its way. */
export function evaluateDimensions(dimensions: readonly Dimension[]): Dimensions {
  const byName = new Map(dimensions.map((d) => [d.name.toLowerCase(), d]));
  const done = new Map<string, number | Error>();
  const onWay: string[] = [];
  const worthOf = (d: Dimension): number => {
    const known = done.get(d.id);
    if (known instanceof Error) throw new InputError('dimension/depends', `“${d.name}” has no value: ${known.message}`);
    if (known !== undefined) return known;
    const at = onWay.indexOf(d.name);
    if (at >= 0) throw new InputError('dimension/cycle', `${[...onWay.slice(at), d.name].join(' → ')} goes round in a circle.`);
    onWay.push(d.name);
    try {
      const q = evaluate(d.formula, lookup, 'mm', d.kind === 'length' ? 'a length' : 'a plain number');
      const value = d.kind === 'length' ? asLength(q, d.formula) : asNumber(q, d.formula);
      done.set(d.id, value);
      return value;
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      done.set(d.id, error);
      throw error;
    } finally {
      onWay.pop();
    }
  };
  const lookup: Lookup = (name) => {
    const d = byName.get(name.toLowerCase());
    return d && { value: worthOf(d), power: d.kind === 'length' ? 1 : 0 };
  };
  return {
    values: dimensions.map((d) => {
      try {
        return { id: d.id, value: worthOf(d) };
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        return { id: d.id, wrong: error.message };
      }
    }),
    lookup,
  };
}

/** @throws InputError when a name can't be one, or is taken by another dimension */
export function checkDimension(d: Dimension, others: readonly Dimension[]): void {
  if (!isName(d.name))
    throw new InputError(
      'dimension/name',
      `“${d.name}” can’t be the name of a dimension; use letters, digits and _, starting with a letter.`,
    );
  if (others.some((o) => o.id !== d.id && o.name.toLowerCase() === d.name.toLowerCase()))
    throw new InputError('dimension/name', `There is a dimension called “${d.name}” already.`);
}

/**
 * A step with every number that follows a formula worked out. Formulas of what is no longer there do nothing.
 *
 * @throws InputError when one can't be worked out or lies outside of what its field may be
 */
export function resolveStep<S extends StepBase>(step: S, lookup: Lookup): S {
  if (!step.formulas) return step;
  const places = new Map(numbersOf(kindOf(step.kind).fields, step).map((p) => [p.path, p]));
  let out: S = step;
  for (const [path, formula] of Object.entries(step.formulas)) {
    const place = places.get(path);
    if (!place) continue;
    const { field, label } = place;
    const q = evaluate(formula, lookup, 'mm', field.type === 'length' ? 'a length' : 'a plain number');
    const exact = field.type === 'length' ? asLength(q, formula) : asNumber(q, formula);
    const value = field.type === 'whole' && Math.abs(exact - Math.round(exact)) < 1e-9 ? Math.round(exact) : exact;
    if (field.type === 'whole' && !Number.isInteger(value))
      throw new InputError('formula/whole', `${label} of “${step.name}” comes to ${figure(value)}; it has to be a whole number.`);
    if (value < field.min || value > field.max)
      throw new InputError(
        'formula/range',
        `${label} of “${step.name}” comes to ${figure(value)} by “${formula}”; it can be ${figure(field.min)} to ${figure(field.max)}.`,
      );
    out = withNumber(out, path, value);
  }
  return out;
}

/** Where a dimension is used: names of steps and of other dimensions. */
export function usesOf(name: string, dimensions: readonly Dimension[], steps: readonly StepBase[]): string[] {
  const uses = (formula: string) => namesIn(formula).some((n) => n.toLowerCase() === name.toLowerCase());
  return [
    ...dimensions.filter((d) => uses(d.formula)).map((d) => d.name),
    ...steps.filter((s) => Object.values(s.formulas ?? {}).some(uses)).map((s) => s.name),
  ];
}
