import { Equals, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import type { CommandKind } from './command';

class Rename {
  @Equals('rename') type!: 'rename';
  @IsString() @Length(1, 120) name!: string;
}

export const rename: CommandKind<Rename> = {
  type: 'rename',
  shape: Rename,
  apply(d, { name }) {
    if (!name.trim()) throw new InputError('command/name', 'A name needs at least one letter.');
    d.name = name.trim().slice(0, 120);
  },
  words: ({ name }) => `named it “${name}”`,
  touches: () => ['name'],
};
