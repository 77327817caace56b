import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class RelationRemove {
  @Equals('relation.remove') type!: 'relation.remove';
  @IsId() relation!: string;
}

export const relationRemove: CommandKind<RelationRemove> = {
  type: 'relation.remove',
  shape: RelationRemove,
  apply(d, { relation }) {
    d.relations = (d.relations ?? []).filter((r) => r.id !== relation);
  },
  words: () => 'dropped a wanted relation',
  touches: ({ relation }) => [`relation/${relation}`],
};
