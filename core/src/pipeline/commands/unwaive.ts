import { Equals, IsString, Length } from 'class-validator';
import type { CommandKind } from './command';

class Unwaive {
  @Equals('unwaive') type!: 'unwaive';
  @IsString() @Length(1, 300) finding!: string;
}

export const unwaive: CommandKind<Unwaive> = {
  type: 'unwaive',
  shape: Unwaive,
  apply(d, { finding }) {
    d.waivers = d.waivers.filter((w) => w.finding !== finding);
  },
  words: () => 'took a waiver back',
  touches: ({ finding }) => [`waiver/${finding}`],
};
