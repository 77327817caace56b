import { ArrayMaxSize, Equals, IsArray, IsString, Length } from 'class-validator';
import { IsId } from './checks';
import { type CommandKind, partIn, withOne } from './command';

class GroupSet {
  @Equals('group.set') type!: 'group.set';
  @IsId() group!: string;
  @IsString() @Length(1, 80) name!: string;
  /** Ids of all parts that belong to it. */
  @IsArray() @ArrayMaxSize(10_000) @IsString({ each: true, message: 'the parts of a group are ids' }) parts!: string[];
}

export const groupSet: CommandKind<GroupSet> = {
  type: 'group.set',
  shape: GroupSet,
  apply(d, { group, name, parts }) {
    for (const id of parts) partIn(d, id);
    d.groups = withOne(d.groups, { id: group, name });
    for (const p of d.parts)
      if (parts.includes(p.id)) p.group = group;
      else if (p.group === group) delete p.group;
  },
  words: ({ name, parts }) => `set the group ${name}: ${parts.length} ${parts.length === 1 ? 'part' : 'parts'}`,
  // Which parts belong to it is decided on all of them.
  touches: ({ group }) => [`group/${group}`, 'part/*/group'],
};
