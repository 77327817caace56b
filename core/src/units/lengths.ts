import { InputError } from '../errors';

/** Units of length a person may type or a file may be in. */
export const MM_PER = { mm: 1, cm: 10, m: 1000, in: 25.4 } as const;
export type LengthUnit = keyof typeof MM_PER;
export const LENGTH_UNITS = Object.keys(MM_PER) as LengthUnit[];

export function isLengthUnit(text: string): text is LengthUnit {
  return Object.hasOwn(MM_PER, text);
}

/** A value with its power of length: 2 * 3.5 cm is {70, 1}; 3 cm * 2 cm would be {600, 2}. */
interface Quantity {
  value: number;
  power: number;
}

/**
 * Reads what a person types into a length field: arithmetic and units, `2*3.5cm` → 70.
 *
 * Grammar: + − * / and brackets; a number may carry mm, cm, m or in; a bare number is in `unit` when the whole
 * expression has no unit, and a plain factor otherwise.
 *
 * @param unit what a bare number means
 * @returns mm
 * @throws InputError `length/…` in one sentence
 */
export function parseLength(text: string, unit: LengthUnit = 'mm'): number {
  const tokens =
    text
      .trim()
      .replace(/,/g, '.')
      .replace(/[−–]/g, '-')
      .match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[a-z"]+|[-+*/()]|\S/gi) ?? [];
  const fail = (why: string): never => {
    throw new InputError('length/unreadable', `“${text}” is not a length: ${why}`);
  };
  if (tokens.length === 0) fail('type a number, such as 12.5 or 2*3.5cm.');
  let i = 0;
  const primary = (): Quantity => {
    const t = tokens[i++];
    if (t === undefined) return fail('something is missing at the end.');
    if (t === '-') {
      const q = primary();
      return { value: -q.value, power: q.power };
    }
    if (t === '+') return primary();
    if (t === '(') {
      const q = sum();
      if (tokens[i++] !== ')') fail('a bracket is not closed.');
      return q;
    }
    const n = Number(t);
    if (!Number.isFinite(n)) return fail(`“${t}” is neither a number nor mm, cm, m or in.`);
    const next = tokens[i]?.toLowerCase() === '"' ? 'in' : tokens[i]?.toLowerCase();
    if (next !== undefined && /^[a-z]/.test(next)) {
      if (!isLengthUnit(next)) return fail(`“${next}” is not one of mm, cm, m, in.`);
      i++;
      return { value: n * MM_PER[next], power: 1 };
    }
    return { value: n, power: 0 };
  };
  const product = (): Quantity => {
    let a = primary();
    while (tokens[i] === '*' || tokens[i] === '/') {
      const times = tokens[i++] === '*';
      const b = primary();
      if (!times && b.value === 0) fail('it divides by zero.');
      a = times ? { value: a.value * b.value, power: a.power + b.power } : { value: a.value / b.value, power: a.power - b.power };
    }
    return a;
  };
  const sum = (): Quantity => {
    let a = product();
    while (tokens[i] === '+' || tokens[i] === '-') {
      const sign = tokens[i++] === '+' ? 1 : -1;
      let b = product();
      if (a.power !== b.power) {
        if (a.power === 0) a = { value: a.value * MM_PER[unit], power: b.power };
        else if (b.power === 0) b = { value: b.value * MM_PER[unit], power: a.power };
        else fail('it adds a length to something that is not one.');
      }
      a = { value: a.value + sign * b.value, power: a.power };
    }
    return a;
  };
  const q = sum();
  if (i < tokens.length) fail(`“${tokens[i]}” is not expected there.`);
  if (q.power !== 0 && q.power !== 1) fail('it is not a single length.');
  const mm = q.power === 0 ? q.value * MM_PER[unit] : q.value;
  if (!Number.isFinite(mm)) fail('it is too large.');
  return mm;
}

/** A number as the sheet prints it: at most `digits` decimals, narrow spaces that don't break between thousands. */
export function figure(value: number, digits = 2): string {
  if (!Number.isFinite(value)) return '–';
  const fixed = value.toFixed(digits);
  const trimmed = digits > 0 ? fixed.replace(/\.?0+$/, '') : fixed;
  const [whole, rest] = (trimmed === '-0' ? '0' : trimmed).split('.');
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f');
  return rest ? `${grouped}.${rest}` : grouped;
}
