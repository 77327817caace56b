import { Equals, IsDefined } from 'class-validator';
import { checkSeams } from '../../form/regions';
import type { PickedSeam } from '../../form/seam-paths';
import { CheckedBy, IsId } from './checks';
import { type CommandKind, partIn, partName } from './command';

class SeamsSet {
  @Equals('seams.set') type!: 'seams.set';
  @IsId() part!: string;
  @IsDefined() @CheckedBy(checkSeams) seams!: PickedSeam[];
}

export const seamsSet: CommandKind<SeamsSet> = {
  type: 'seams.set',
  shape: SeamsSet,
  cleaned: (c) => ({ ...c, seams: checkSeams(c.seams) }),
  apply(d, { part, seams }) {
    partIn(d, part).seams = seams;
  },
  words: ({ part, seams }, before) => `picked ${seams.length === 1 ? 'one seam' : `${seams.length} seams`} on ${partName(before, part)}`,
  touches: ({ part }) => [`part/${part}/seams`],
};
