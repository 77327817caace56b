import type { Command } from './index';

/** Changes as one: made and taken back together. One alone stays what it is. */
export const several = (what: string, commands: readonly Command[]): Command =>
  commands.length === 1 ? commands[0] : { type: 'several', what, commands: [...commands] };
