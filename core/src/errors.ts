/** Figures that belong to an error or a finding, by name; units are part of the name (`widthMm`). */
export type Figures = Record<string, number | string>;

/** Names and words that are quoted, not longer than a line. */
const clipped = (message: string): string => message.replace(/“([^”]{100})[^”]+”/g, '“$1…”');

/** The root of every error the core throws on purpose: a stable code and one sentence a person can act on. */
export class WellmorphError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly figures: Figures = {},
  ) {
    super(clipped(message));
    this.name = new.target.name;
  }
}

/** A file, a value or a body that cannot be used as it is. Nothing has been changed. */
export class InputError extends WellmorphError {}

/** A recipe step that cannot be built with its present dimensions. */
export class FormError extends WellmorphError {}

/** A layout or a bake that cannot be made from what it was given. */
export class StageError extends WellmorphError {}

/** The person asked for it to stop. */
export class CancelledError extends WellmorphError {
  constructor() {
    super('cancelled', 'Stopped, as asked. Nothing was changed.');
  }
}
