import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class ReferenceRemove {
  @Equals('reference.remove') type!: 'reference.remove';
  @IsId() reference!: string;
}

export const referenceRemove: CommandKind<ReferenceRemove> = {
  type: 'reference.remove',
  shape: ReferenceRemove,
  apply(d, { reference }) {
    d.references = d.references.filter((r) => r.id !== reference);
  },
  words: () => 'removed a picture behind the piece',
  touches: ({ reference }) => [`reference/${reference}`],
};
