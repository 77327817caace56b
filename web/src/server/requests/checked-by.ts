import { WellmorphError } from '@wellmorph/core/errors';
import { registerDecorator } from 'class-validator';

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
