import { Equals } from 'class-validator';
import { InputError } from '../../errors';
import { IsId } from './checks';
import type { CommandKind } from './command';

class GroupRemove {
  @Equals('group.remove') type!: 'group.remove';
  @IsId() group!: string;
}

export const groupRemove: CommandKind<GroupRemove> = {
  type: 'group.remove',
  shape: GroupRemove,
  apply(d, { group }) {
    if (!d.groups?.some((g) => g.id === group)) throw new InputError('command/group', 'The group this change is for is no longer there.');
    d.groups = d.groups.filter((g) => g.id !== group);
    for (const p of d.parts) if (p.group === group) delete p.group;
  },
  words: ({ group }, before) => `dissolved the group ${before.groups?.find((g) => g.id === group)?.name ?? ''}`,
  touches: ({ group }) => [`group/${group}`, 'part/*/group'],
};
