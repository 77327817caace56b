import type { Command } from './index';

/** Changes of labels, colours and finishes: made while a variant is looked at, they are made to it. */
const OF_LOOKS: readonly Command['type'][] = [
  'print.set',
  'print.remove',
  'material.add',
  'material.set',
  'material.stroke',
  'material.follow',
  'region.set',
];

const isOfLooks = (command: Command): boolean => {
  if (command.type === 'part.set') return command.patch.material !== undefined;
  if (command.type === 'several') return command.commands.some((c) => isOfLooks(c as Command));
  return OF_LOOKS.includes(command.type);
};

/** A change as it is made while the piece is looked at as a variant: to that where it is of labels, colours or finishes, else to the piece. */
export const madeIn = (command: Command, variant: string | null): Command =>
  variant && isOfLooks(command) ? { type: 'variant.edit', variant, edit: command } : command;
