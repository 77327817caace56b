import { InputError } from '../errors';
import { isLengthUnit, type LengthUnit, MM_PER } from './lengths';

/** A value with its power of length: 2 * 3.5 cm is {70, 1}; 3 cm * 2 cm would be {600, 2}. Lengths are in mm. */
export interface Quantity {
  value: number;
  power: number;
  /** Nothing in it had a unit: in a sum with a length it takes the unit of the field. */
  bare?: boolean;
}

/** What a name stands for, or undefined when there is no such name. May throw to name a cycle. */
export type Lookup = (name: string) => Quantity | undefined;

const FUNCTIONS: Record<string, (...x: number[]) => number> = {
  min: Math.min,
  max: Math.max,
  abs: Math.abs,
  round: Math.round,
  floor: Math.floor,
  ceil: Math.ceil,
  sqrt: Math.sqrt,
  sin: (x) => Math.sin((x * Math.PI) / 180),
  cos: (x) => Math.cos((x * Math.PI) / 180),
  tan: (x) => Math.tan((x * Math.PI) / 180),
};
/** Functions whose result has the unit of what goes in; the others take and give plain numbers, `sqrt` halves the power. */
const KEEPS_UNIT = new Set(['min', 'max', 'abs', 'round', 'floor', 'ceil']);

const NAME = /^[a-z_][a-z_0-9]*$/i;
export const isName = (text: string): boolean => NAME.test(text) && !isLengthUnit(text.toLowerCase()) && !(text in FUNCTIONS);

const TOKENS = /\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[a-z_][a-z_0-9]*|"|[-+*/(),]|\S/gi;

/** The names a formula uses, units and functions left out, each once. */
export function namesIn(text: string): string[] {
  const tokens = text.match(TOKENS) ?? [];
  return [...new Set(tokens.filter((t) => isName(t) && !/^e[+-]?\d/.test(t)))];
}

/**
 * Evaluates a formula: arithmetic, units, names and a few functions (angles in degrees).
 *
 * Grammar: sum of products of numbers, names, `f(x, …)` and brackets; a number may carry mm, cm, m or in. A number without a
 * unit is a factor in a product and takes `unit` when it is added to a length.
 *
 * @throws InputError `formula/…` in one sentence that quotes the formula
 */
export function evaluate(text: string, lookup: Lookup = () => undefined, unit: LengthUnit = 'mm', what = 'a formula'): Quantity {
  const tokens = text.trim().replace(/[−–]/g, '-').match(TOKENS) ?? [];
  const fail = (why: string): never => {
    throw new InputError('formula/unreadable', `“${text}” is not ${what}: ${why}`);
  };
  const slip = (why: string): never => {
    throw new InputError('formula/unit', `“${text}” is not ${what}: ${why}`);
  };
  if (tokens.length === 0) fail('type a number, such as 12.5 or 2*3.5cm.');
  let i = 0;
  const adopt = (q: Quantity): Quantity => ({ value: q.value * MM_PER[unit], power: 1 });
  /** Two quantities as one kind; a bare number follows the other. */
  const alike = (a: Quantity, b: Quantity, doing: string): [Quantity, Quantity] => {
    if (a.power === b.power) return [a, b];
    if (a.bare && b.power === 1) return [adopt(a), b];
    if (b.bare && a.power === 1) return [a, adopt(b)];
    return slip(`it ${doing} ${kindOf(a)} and ${kindOf(b)}.`);
  };
  const call = (name: string): Quantity => {
    const list: Quantity[] = [sum()];
    while (tokens[i] === ',') {
      i++;
      list.push(sum());
    }
    if (tokens[i++] !== ')') fail('a bracket is not closed.');
    const f = FUNCTIONS[name];
    if (KEEPS_UNIT.has(name)) {
      let same = list[0];
      const values = [same];
      for (const q of list.slice(1)) {
        const [a, b] = alike(same, q, `compares`);
        if (a !== same) for (let k = 0; k < values.length; k++) values[k] = adopt(values[k]);
        same = a;
        values.push(b);
      }
      return { ...same, value: f(...values.map((q) => q.value)) };
    }
    if (list.length !== 1) fail(`${name} takes one number.`);
    const [q] = list;
    if (name === 'sqrt') return { value: f(q.value), power: q.power / 2, bare: q.bare };
    if (q.power !== 0) slip(`${name} takes an angle in degrees, not ${kindOf(q)}.`);
    return { value: f(q.value), power: 0 };
  };
  const primary = (): Quantity => {
    const t = tokens[i++];
    if (t === undefined) return fail('something is missing at the end.');
    if (t === '-' || t === '+') {
      const q = primary();
      return { ...q, value: t === '-' ? -q.value : q.value };
    }
    if (t === '(') {
      const q = sum();
      if (tokens[i++] !== ')') fail('a bracket is not closed.');
      return q;
    }
    if (NAME.test(t)) {
      if (tokens[i] === '(' && Object.hasOwn(FUNCTIONS, t.toLowerCase())) {
        i++;
        return call(t.toLowerCase());
      }
      const found = lookup(t);
      if (found) return found;
      return fail(isLengthUnit(t.toLowerCase()) ? `“${t}” needs a number in front of it.` : `there is no dimension called “${t}”.`);
    }
    const n = Number(t);
    if (!Number.isFinite(n)) return fail(`“${t}” is neither a number nor a name.`);
    const next = tokens[i] === '"' ? 'in' : tokens[i]?.toLowerCase();
    if (next !== undefined && /^[a-z_]/.test(next)) {
      if (!isLengthUnit(next)) return fail(`“${tokens[i]}” is not one of mm, cm, m, in.`);
      i++;
      return { value: n * MM_PER[next], power: 1 };
    }
    return { value: n, power: 0, bare: true };
  };
  const product = (): Quantity => {
    let a = primary();
    while (tokens[i] === '*' || tokens[i] === '/') {
      const times = tokens[i++] === '*';
      const b = primary();
      if (!times && b.value === 0) fail('it divides by zero.');
      a = {
        value: times ? a.value * b.value : a.value / b.value,
        power: times ? a.power + b.power : a.power - b.power,
        bare: a.bare && b.bare,
      };
    }
    return a;
  };
  const sum = (): Quantity => {
    let a = product();
    while (tokens[i] === '+' || tokens[i] === '-') {
      const sign = tokens[i++] === '+' ? 1 : -1;
      const [x, y] = alike(a, product(), 'adds');
      a = { value: x.value + sign * y.value, power: x.power, bare: x.bare && y.bare };
    }
    return a;
  };
  const q = sum();
  if (i < tokens.length) fail(`“${tokens[i]}” is not expected there.`);
  if (!Number.isFinite(q.value)) fail('it has no finite value.');
  return q;
}

/** A quantity as a length: a bare number takes the unit. @throws InputError `formula/unit` for areas, volumes and plain numbers */
export function asLength(q: Quantity, text: string, unit: LengthUnit = 'mm'): number {
  if (q.power === 1) return q.value;
  if (q.power === 0 && q.bare) return q.value * MM_PER[unit];
  throw new InputError('formula/unit', `“${text}” is not a length: it is ${kindOf(q)}.`);
}

/** A quantity as a plain number, an angle in degrees or a count. @throws InputError `formula/unit` for lengths, areas and volumes */
export function asNumber(q: Quantity, text: string): number {
  if (q.power === 0) return q.value;
  throw new InputError('formula/unit', `“${text}” is not a plain number: it is ${kindOf(q)}.`);
}

function kindOf(q: Quantity): string {
  const names: Record<string, string> = { '0': 'a plain number', '1': 'a length', '2': 'an area (mm²)', '3': 'a volume (mm³)' };
  return names[String(q.power)] ?? `mm to the power ${q.power}`;
}

/**
 * Reads what a person types into a length field: arithmetic and units, `2*3.5cm` → 70.
 *
 * @param unit what a bare number means
 * @returns mm
 * @throws InputError `length/unreadable` in one sentence
 */
export function parseLength(text: string, unit: LengthUnit = 'mm', lookup?: Lookup): number {
  try {
    return asLength(evaluate(text.replace(/,/g, '.'), lookup, unit, 'a length'), text, unit);
  } catch (error) {
    if (error instanceof InputError) throw new InputError('length/unreadable', error.message);
    throw error;
  }
}
