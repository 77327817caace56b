import { Equals } from 'class-validator';
import { IsId, IsPlaces } from './checks';
import { type CommandKind, moved, movedWords, partIn, partName } from './command';

class PartMove {
  @Equals('part.move') type!: 'part.move';
  @IsId() part!: string;
  /** Places further down; up when negative. It goes no further than the list. */
  @IsPlaces() by!: number;
}

export const partMove: CommandKind<PartMove> = {
  type: 'part.move',
  shape: PartMove,
  apply(d, { part, by }) {
    moved(d.parts, d.parts.indexOf(partIn(d, part)), by);
  },
  words: ({ part, by }, before) => `moved the part ${partName(before, part)} ${movedWords(by)} in the list`,
  touches: () => ['parts/order'],
};
