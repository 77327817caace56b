/** Units of length a person may type or a file may be in. */
export const MM_PER = { mm: 1, cm: 10, m: 1000, in: 25.4 } as const;
export type LengthUnit = keyof typeof MM_PER;
export const LENGTH_UNITS = Object.keys(MM_PER) as LengthUnit[];

export function isLengthUnit(text: string): text is LengthUnit {
  return Object.hasOwn(MM_PER, text);
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
