import 'reflect-metadata';
import { plainToInstance } from 'class-transformer';
import { type ValidationError, validateSync } from 'class-validator';

/** The first thing that is wrong, as a sentence that names where it is. */
export function firstSentence(errors: readonly ValidationError[], path = ''): string {
  const [first] = errors;
  const at = path ? `${path}.${first.property}` : first.property;
  if (first.constraints) return sentenceOf(Object.values(first.constraints)[0], first.property, at);
  return first.children?.length ? firstSentence(first.children, at) : `The field “${at}” is not as expected.`;
}

/** What the checks say begins with the bare name of a property, or is words of our own. */
function sentenceOf(said: string, property: string, at: string): string {
  if (said === `property ${property} should not exist`) return `The field “${at}” is not known here.`;
  const about = said.replace(/^each value in /, '');
  const must = /^(must|should) /.test(about.slice(property.length + 1)) && about.startsWith(`${property} `);
  if (must) return `The field “${at}” ${about.slice(property.length + 1)}.`;
  return `In the field “${at}”: ${said}.`;
}

/** As deep as anything of ours goes, and again. */
const DEEPEST = 64;
/** What can't be gone through safely: fields of names that JavaScript keeps for itself, since reading goes by those, and endless depth. */
function strange(plain: unknown, depth = 0): string | null {
  if (typeof plain !== 'object' || plain === null) return null;
  if (depth > DEEPEST) return 'It goes deeper than anything that is known here.';
  for (const name of ['constructor', '__proto__', 'prototype'])
    if (Object.hasOwn(plain, name)) return `A field is called “${name}”, which none is.`;
  for (const x of Object.values(plain)) {
    const found = strange(x, depth + 1);
    if (found !== null) return found;
  }
  return null;
}

/**
 * A plain value checked against a class; what the class doesn't name is left out, unless nothing unknown is allowed.
 *
 * @param wrong makes the error from what is wrong, a sentence
 */
export function checkedAs<T extends object>(plain: unknown, kind: new () => T, wrong: (sentence: string) => Error, unknown = false): T {
  const found = strange(plain);
  if (found !== null) throw wrong(found);
  const made = plainToInstance(kind, plain);
  const errors = validateSync(made, { whitelist: true, forbidNonWhitelisted: unknown, forbidUnknownValues: true });
  if (errors.length > 0) throw wrong(firstSentence(errors));
  return made;
}
