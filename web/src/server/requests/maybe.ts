import { ValidateIf } from 'class-validator';

/** The value may be left out, but not be null: a null would be written over what stands. */
export const Maybe = (): PropertyDecorator => ValidateIf((_, value) => value !== undefined);
