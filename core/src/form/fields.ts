import { InputError } from '../errors';
import { figure, millimetres } from '../units/lengths';
import { checkLines, checkSpot } from './places';

/**
 * What a step is made of, described once: the sheet draws its form from this, requests and files are checked by it, and
 * formulas find the dimensions they may drive in it.
 */
export type Field = NumberDescription | ChoiceField | SwitchField | TextField | ListField | GroupField | PickField;

interface Common {
  key: string;
  label: string;
  hint?: string;
  /** Left out where it isn't there; otherwise a step without it is refused. */
  optional?: boolean;
  /** Only shown while this holds; kept whatever it says. `of` is the record the field belongs to. */
  when?(of: Record<string, unknown>): boolean;
}
/** Lengths in mm, angles in degrees, plain numbers, whole numbers. */
export interface NumberDescription extends Common {
  type: 'length' | 'angle' | 'number' | 'whole';
  min: number;
  max: number;
  /** What an optional figure is while nothing was said; 0 when absent. */
  standing?: number;
}
/** One of a few choices, by key. */
export interface ChoiceField extends Common {
  type: 'choice';
  choices: readonly (readonly [string, string])[];
}
/** On or off. */
export interface SwitchField extends Common {
  type: 'switch';
}
/** A text of at most so many characters. */
export interface TextField extends Common {
  type: 'text';
  most: number;
  /** It holds the id of something: another part, a region of that part (`of` names the field with its id), one of the part's own regions, a step of it. */
  names?: 'part' | 'region' | 'own region' | 'step';
  /** What it means when nothing is named: `everywhere`. */
  none?: string;
}
/** Places picked on the piece: edges as lines of patches, or one place. */
export interface PickField extends Common {
  type: 'edges' | 'spot';
}
/** Records with ids of their own, addressed by them. */
export interface ListField extends Common {
  type: 'list';
  /** What one of them is called: `Point`. */
  one: string;
  fields: readonly Field[];
  least: number;
  most: number;
  /** A record to add after those there are, without its id. */
  fresh?(list: readonly Record<string, unknown>[]): Record<string, unknown>;
  /** Items without an id (engraved rings), addressed by their place. */
  anonymous?: boolean;
  /** Edited on the plate, not as rows of a form. */
  drawn?: boolean;
}
/** Fields that are kept in an object of their own. */
export interface GroupField extends Common {
  type: 'group';
  fields: readonly Field[];
  drawn?: boolean;
}

/** Bounds of anything a bench could hold, mm. */
export const FAR = 1e5;
type Rest<T> = Partial<Omit<T, 'type' | 'key' | 'label'>>;
export const length = (key: string, label: string, rest: Rest<NumberDescription> = {}): NumberDescription => ({
  type: 'length',
  key,
  label,
  min: 0,
  max: FAR,
  ...rest,
});
/** A length that may be negative: a place or an offset. */
export const place = (key: string, label: string, rest: Rest<NumberDescription> = {}): NumberDescription =>
  length(key, label, { min: -FAR, ...rest });
/** A dimension that can't be nothing. */
export const size = (key: string, label: string, rest: Rest<NumberDescription> = {}): NumberDescription =>
  length(key, label, { min: 0.01, ...rest });
export const angle = (key: string, label: string, rest: Rest<NumberDescription> = {}): NumberDescription => ({
  type: 'angle',
  key,
  label,
  min: -360,
  max: 360,
  ...rest,
});
export const plain = (key: string, label: string, min: number, max: number, rest: Rest<NumberDescription> = {}): NumberDescription => ({
  type: 'number',
  key,
  label,
  min,
  max,
  ...rest,
});
export const whole = (key: string, label: string, min: number, max: number, rest: Rest<NumberDescription> = {}): NumberDescription => ({
  type: 'whole',
  key,
  label,
  min,
  max,
  ...rest,
});
export const choice = (
  key: string,
  label: string,
  choices: readonly (readonly [string, string])[],
  rest: Rest<ChoiceField> = {},
): ChoiceField => ({ type: 'choice', key, label, choices, ...rest });
export const toggle = (key: string, label: string, rest: Rest<SwitchField> = {}): SwitchField => ({ type: 'switch', key, label, ...rest });
export const words = (key: string, label: string, rest: Rest<TextField> = {}): TextField => ({
  type: 'text',
  key,
  label,
  most: 80,
  ...rest,
});

export const edgesPicked = (key: string, label: string, rest: Rest<PickField> = {}): PickField => ({ type: 'edges', key, label, ...rest });
export const spotPicked = (key: string, label: string, rest: Rest<PickField> = {}): PickField => ({ type: 'spot', key, label, ...rest });

type Plain = Record<string, unknown>;
const isRecord = (x: unknown): x is Plain => typeof x === 'object' && x !== null && !Array.isArray(x);

/**
 * A record checked against its description; what the description doesn't name is left out.
 *
 * @param where how a sentence calls the record: `the bar “Bail”`
 * @throws InputError `field/…` naming the field and what it may be
 */
export function checkFields(fields: readonly Field[], value: unknown, where: string): Plain {
  if (!isRecord(value)) throw new InputError('field/record', `${where} is not described as expected.`);
  const out: Plain = {};
  for (const f of fields) {
    const x = value[f.key];
    if (x === undefined) {
      if (f.optional) continue;
      throw new InputError('field/missing', `${where} lacks its ${f.label.toLowerCase()}.`);
    }
    out[f.key] = checkField(f, x, where);
  }
  return out;
}

function checkField(f: Field, x: unknown, where: string): unknown {
  const no = (why: string) => new InputError('field/value', `${f.label} of ${where} ${why}.`);
  switch (f.type) {
    case 'length':
    case 'angle':
    case 'number':
    case 'whole':
      return checkNumber(f, x, no);
    case 'choice':
      if (!f.choices.some(([v]) => v === x)) throw no(`has to be one of ${f.choices.map(([, name]) => name).join(', ')}`);
      return x;
    case 'switch':
      if (typeof x !== 'boolean') throw no('has to be on or off');
      return x;
    case 'text':
      if (typeof x !== 'string' || x.length === 0 || x.length > f.most) throw no(`needs 1 to ${f.most} letters`);
      return x;
    case 'edges':
      return checkLines(x, where);
    case 'spot':
      return checkSpot(x, where);
    case 'group':
      return checkFields(f.fields, x, `${f.label.toLowerCase()} of ${where}`);
    case 'list':
      return checkList(f, x, where, no);
  }
}

function checkNumber(f: NumberDescription, x: unknown, no: (why: string) => InputError): number {
  if (typeof x !== 'number' || !Number.isFinite(x)) throw no('has to be a number');
  const said = (n: number) => (f.type === 'length' ? millimetres(n) : `${figure(n)}${f.type === 'angle' ? '°' : ''}`);
  if (f.type === 'whole' && !Number.isInteger(x)) throw no('has to be a whole number');
  if (x < f.min || x > f.max) throw no(`is ${said(x)}; it can be ${said(f.min)} to ${said(f.max)}`);
  return x;
}

function checkList(f: ListField, x: unknown, where: string, no: (why: string) => InputError): Plain[] {
  if (!Array.isArray(x)) throw no('has to be a list');
  if (x.length < f.least || x.length > f.most) throw no(`has ${x.length} entries; it can have ${f.least} to ${f.most}`);
  const seen = new Set<string>();
  return x.map((item, i) => {
    const checked = checkFields(f.fields, item, `${f.one.toLowerCase()} ${i + 1} of ${where}`);
    if (f.anonymous) return checked;
    const id = (item as Plain).id;
    if (typeof id !== 'string' || id.length === 0 || id.length > 60 || seen.has(id))
      throw new InputError('field/id', `${f.one} ${i + 1} of ${where} needs an id of its own.`);
    seen.add(id);
    return { id, ...checked };
  });
}

/** A number a formula may drive, and where it stands: `path.q2.bend`. */
export interface NumberPlace {
  path: string;
  field: NumberDescription;
  value: number;
  /** For people: `Bend radius, point 3`. */
  label: string;
}

const isNumber = (f: Field): f is NumberDescription =>
  f.type === 'length' || f.type === 'angle' || f.type === 'number' || f.type === 'whole';

/** Every number of a record, in order. */
export function numbersOf(fields: readonly Field[], value: unknown, prefix = '', about = ''): NumberPlace[] {
  if (!isRecord(value)) return [];
  return fields.flatMap((f): NumberPlace[] => {
    const x = value[f.key];
    const path = prefix + f.key;
    const label = about ? `${f.label}, ${about}` : f.label;
    if (f.type === 'group') return numbersOf(f.fields, x, `${path}.`, about);
    if (f.type === 'list')
      return Array.isArray(x)
        ? x.flatMap((item, i) =>
            numbersOf(
              f.fields,
              item,
              `${path}.${f.anonymous ? i : (item as Plain).id}.`,
              `${f.one.toLowerCase()} ${i + 1}${about && ` of ${about}`}`,
            ),
          )
        : [];
    if (typeof x !== 'number' || !isNumber(f)) return [];
    return [{ path, field: f, value: x, label }];
  });
}

/** The record with one number set; records and lists on the way are copied, nothing else. */
export function withNumber<T>(record: T, path: string, value: number): T {
  const [head, ...rest] = path.split('.');
  const set = (of: unknown, key: string, tail: string[]): unknown => {
    if (Array.isArray(of)) {
      const at = of.findIndex((item, i) => (isRecord(item) && item.id === key) || String(i) === key);
      if (at < 0) return of;
      return of.map((item, i) => (i === at ? deeper(item, tail) : item));
    }
    if (!isRecord(of)) return of;
    return { ...of, [key]: tail.length === 0 ? value : deeper(of[key], tail) };
  };
  const deeper = (of: unknown, tail: string[]): unknown => (tail.length === 0 ? value : set(of, tail[0], tail.slice(1)));
  return set(record, head, rest) as T;
}

/** What a thing holds, by the names its fields describe. */
export const valuesOf = (thing: object): Readonly<Record<string, unknown>> => thing as Record<string, unknown>;
