/** Units of length a person may type or a file may be in. */
export const MM_PER = { mm: 1, cm: 10, m: 1000, in: 25.4 } as const;
/** Units that lengths are shown and read in; inside everything is mm. */
export type LengthUnit = keyof typeof MM_PER;
export const LENGTH_UNITS = Object.keys(MM_PER) as LengthUnit[];

/** Whether a text names a unit of length. */
export function isLengthUnit(text: string): text is LengthUnit {
  return Object.hasOwn(MM_PER, text);
}

/** Decimals that a unit needs more than mm to say as much. */
const MORE: Record<LengthUnit, number> = { mm: 0, cm: 1, m: 3, in: 2 };
export const decimalsIn = (unit: LengthUnit, digitsOfMm: number): number => digitsOfMm + MORE[unit];

/** Lengths in mm as they are shown in a unit: `11.2 × 26.7 cm`. At most as exact as `digits` decimals of a millimetre. */
export const inUnit = (mm: number | readonly number[], unit: LengthUnit = 'mm', digits = 2): string =>
  `${(typeof mm === 'number' ? [mm] : mm).map((x) => figure(x / MM_PER[unit], decimalsIn(unit, digits))).join(' × ')}\u00a0${unit}`;

/**
 * A length inside a sentence that is kept, filed or printed: always in mm. Its space doesn't break, which is how
 * {@link sentenceIn} tells it from everything else that is followed by “mm”, a lens or what a person wrote.
 */
export const millimetres = (mm: number, digits = 2): string => inUnit(mm, 'mm', digits);

const FIGURE = '-?\\d[\\d\\u202f]*(?:\\.\\d+)?';
const IN_MM = new RegExp(`(${FIGURE}(?: × ${FIGURE})*)\\u00a0mm(?![²³\\w])`, 'g');

/**
 * A sentence with its lengths in a unit, as exact as it gave them, and never coarser than a tenth of a millimetre. What was
 * measured is kept in mm, so that a result doesn't depend on the unit it is read in.
 */
export function sentenceIn(sentence: string, unit: LengthUnit = 'mm'): string {
  if (unit === 'mm') return sentence;
  return sentence.replace(IN_MM, (_, said: string) => {
    const figures = said.split(' × ');
    const decimals = Math.max(1, ...figures.map((x) => x.split('.')[1]?.length ?? 0));
    return inUnit(
      figures.map((x) => Number(x.replaceAll('\u202f', ''))),
      unit,
      decimals,
    );
  });
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
