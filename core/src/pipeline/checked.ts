import 'reflect-metadata';
import { plainToInstance } from 'class-transformer';
import { type ValidationError, validateSync } from 'class-validator';

/** The first thing that is wrong, with the path of where it is. */
export function firstSentence(errors: readonly ValidationError[], path = ''): string {
  const [first] = errors;
  const name = path ? `${path}.${first.property}` : first.property;
  if (first.constraints) return `${name}: ${Object.values(first.constraints)[0]}.`;
  return first.children?.length ? firstSentence(first.children, name) : `${name} is not as expected.`;
}

/**
 * A plain value checked against a class; what the class doesn't name is left out, unless nothing unknown is allowed.
 *
 * @param wrong makes the error from what is wrong, a sentence
 */
export function checkedAs<T extends object>(plain: unknown, kind: new () => T, wrong: (sentence: string) => Error, unknown = false): T {
  const made = plainToInstance(kind, plain);
  const errors = validateSync(made, { whitelist: true, forbidNonWhitelisted: unknown, forbidUnknownValues: true });
  if (errors.length > 0) throw wrong(firstSentence(errors));
  return made;
}
