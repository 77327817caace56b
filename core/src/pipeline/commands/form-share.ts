import { Equals, IsInt, Max, Min } from 'class-validator';
import { figure } from '../../units/lengths';
import { IsId, OrNull } from './checks';
import { type CommandKind, partIn, partName } from './command';

class FormShare {
  @Equals('form.share') type!: 'form.share';
  @IsId() part!: string;
  /** Pinned, or left to the solver. */
  @OrNull() @IsInt() @Min(1) @Max(1e8) triangles!: number | null;
}

export const formShare: CommandKind<FormShare> = {
  type: 'form.share',
  shape: FormShare,
  apply(d, { part, triangles }) {
    partIn(d, part);
    const shares = { ...d.form.shares };
    if (triangles === null) delete shares[part];
    else shares[part] = triangles;
    d.form.shares = shares;
  },
  words: ({ part, triangles }, before) =>
    triangles === null
      ? `left the triangles of ${partName(before, part)} to the solver`
      : `pinned ${figure(triangles, 0)} triangles to ${partName(before, part)}`,
  touches: ({ part }) => [`form/share/${part}`],
};
