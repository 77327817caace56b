import { between } from '@wellmorph/core/plan/sweep';

/** A figure as it is typed: `1.5`, `−0.2`, `f/8`. */
const FIGURE = /^(?:f\/)?[−-]?\d+(?:\.\d+)?$/;
const read = (text: string): number => Number(text.replace(/^f\//, '').replace('−', '-'));

/**
 * Values as they are typed: `4, 5.6, 8`, or a range, `1.3 to 1.6 in 4`.
 *
 * @returns a sentence where they can’t be read
 */
export function typedValues(text: string, key: string): number[] | string {
  const range = /^\s*(\S+)\s*(?:to|–|…|\.\.)\s*(\S+)\s+in\s+(\d{1,2})\s*$/.exec(text);
  if (range && FIGURE.test(range[1]) && FIGURE.test(range[2])) {
    const count = Number(range[3]);
    if (count < 2) return 'A range has two values or more.';
    const made = between(read(range[1]), read(range[2]), count, key);
    return made.every(Number.isFinite) ? made : 'Between these there are no such values.';
  }
  const words = text.split(/[\s,;]+/).filter(Boolean);
  if (words.length === 0) return 'Type the values it takes: 4, 5.6, 8, or 1.3 to 1.6 in 4.';
  const bad = words.find((w) => !FIGURE.test(w));
  return bad === undefined ? words.map(read) : `“${bad.slice(0, 20)}” is no figure; write values as 4, 5.6, 8, or as 1.3 to 1.6 in 4.`;
}
