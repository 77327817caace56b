import 'reflect-metadata';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsInt,
  IsNumber,
  IsString,
  Length,
  Matches,
  Max,
  Min,
  registerDecorator,
  ValidateIf,
} from 'class-validator';
import { WellmorphError } from '../../errors';

/** Lengths are those of anything a bench could hold, mm. */
export const FAR = 1e5;
export const finite = { allowNaN: false, allowInfinity: false };

const all =
  (...checks: PropertyDecorator[]): PropertyDecorator =>
  (target, key) => {
    for (const check of checks) check(target, key);
  };

/** The value may be left out, but not be null: a null would be written over what stands. */
export const Maybe = (): PropertyDecorator => ValidateIf((_, value) => value !== undefined);
/** The value may be null, but not be left out. */
export const OrNull = (): PropertyDecorator => ValidateIf((_, value) => value !== null);
/** An id of the document. */
export const IsId = (): PropertyDecorator => all(IsString(), Length(1, 60));
/** The name of a stored file. */
export const IsBlob = (): PropertyDecorator => all(Matches(/^[0-9a-f]{64}$/));
/** A finite number between two others. */
export const Between = (least: number, most: number): PropertyDecorator => all(IsNumber(finite), Min(least), Max(most));
/** So many places in a list, up when negative. */
export const IsPlaces = (): PropertyDecorator => all(IsInt(), Min(-10_000), Max(10_000));
/** A share, 0 … 1. */
export const IsShare = (): PropertyDecorator => Between(0, 1);
/** So many finite numbers, each between two others. */
export const IsNumbers = (count: number, least = -Infinity, most = Infinity): PropertyDecorator =>
  all(
    IsArray(),
    ArrayMinSize(count),
    ArrayMaxSize(count),
    IsNumber(finite, { each: true }),
    Min(least, { each: true }),
    Max(most, { each: true }),
  );
/** Three numbers of 0 … 1, sRGB. */
export const IsColour = (): PropertyDecorator => IsNumbers(3, 0, 1);

/** The core checks the value by its own description; what it says is what the person reads. */
export function CheckedBy(check: (value: unknown) => unknown): PropertyDecorator {
  const said = (value: unknown): string | null => {
    try {
      check(value);
      return null;
    } catch (error) {
      if (error instanceof WellmorphError) return error.message.replace(/\.$/, '');
      throw error;
    }
  };
  return (target, key) =>
    registerDecorator({
      name: 'checkedBy',
      target: target.constructor,
      propertyName: key as string,
      validator: { validate: (value) => said(value) === null, defaultMessage: (args) => said(args?.value) ?? '' },
    });
}
