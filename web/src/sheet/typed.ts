import { asNumber, evaluate, type Lookup, namesIn, parseLength } from '@wellmorph/core/units/formula';
import { figure, type LengthUnit, MM_PER } from '@wellmorph/core/units/lengths';

/** Lengths accept arithmetic and units; plain numbers accept arithmetic only. */
export type TypedKind = 'length' | 'number' | 'whole';

/** What a field takes. */
export interface Typed {
  kind: TypedKind;
  /** The unit a length is shown in, and read in where none is typed. */
  unit: LengthUnit;
  /** In that unit. */
  min: number;
  max: number;
  /** Named dimensions that may be typed. */
  names?: Lookup;
}

/**
 * The figure somebody typed, in the field's unit: `2*3.5cm` is 70 where mm are shown.
 *
 * @throws Error with the sentence that says what is wrong; nothing is clamped
 */
export function readTyped(text: string, { kind, unit, min, max, names }: Typed): number {
  // Names stand for millimetres, and so do bare numbers beside them: the formula is kept as it is typed.
  const follows = names !== undefined && namesIn(text).length > 0;
  const n =
    kind === 'length'
      ? parseLength(text, follows ? 'mm' : unit, names) / MM_PER[unit]
      : asNumber(evaluate(text.replace(/,/g, '.'), names, 'mm', 'a number'), text);
  if (kind === 'whole' && !Number.isInteger(n)) throw new Error('It has to be a whole number.');
  const tail = kind === 'length' ? ` ${unit}` : '';
  // A limit that is typed in inches is not met to the last bit.
  const slack = 1e-9 * Math.max(1, Math.abs(n));
  if (n < min - slack) throw new Error(`It can’t be less than ${figure(min)}${tail}.`);
  if (n > max + slack) throw new Error(`It can’t be more than ${figure(max)}${tail}.`);
  return Math.min(max, Math.max(min, n));
}

/**
 * The figure an arrow key makes of another: one on or back, ten with Shift; a tenth of that where a length or number is small.
 * Lengths go by millimetres, whatever they are shown in.
 *
 * @param per of the field's unit, mm
 */
export function stepped(value: number, { up, far, kind, per }: { up: boolean; far: boolean; kind: TypedKind; per: number }): number {
  const small = kind !== 'whole' && Math.abs(value * per) < 10;
  const by = (up ? 1 : -1) * (far ? 10 : 1) * (small ? 0.1 : 1);
  return Math.round((value + by / per) * 1e6) / 1e6;
}
