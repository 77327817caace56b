import { Equals } from 'class-validator';
import { InputError } from '../../errors';
import { IsId } from './checks';
import { type CommandKind, partIn, partName } from './command';

class PartRemove {
  @Equals('part.remove') type!: 'part.remove';
  @IsId() part!: string;
}

export const partRemove: CommandKind<PartRemove> = {
  type: 'part.remove',
  shape: PartRemove,
  apply(d, { part }) {
    const copies = d.parts.filter((p) => p.shape.kind === 'copy' && p.shape.of === part);
    if (copies.length > 0)
      throw new InputError(
        'command/copies',
        `“${partIn(d, part).name}” has ${copies.length === 1 ? `a copy, “${copies[0].name}”` : `${copies.length} copies`}; remove ${copies.length === 1 ? 'it' : 'them'} first.`,
      );
    partIn(d, part);
    d.parts = d.parts.filter((p) => p.id !== part);
    if (d.form.shares) delete d.form.shares[part];
    const prints = d.prints?.filter((p) => p.part !== part);
    if (prints?.length) d.prints = prints;
    else delete d.prints;
    if (d.relations) d.relations = d.relations.filter((r) => r.a !== part && r.b !== part);
  },
  words: ({ part }, before) => `removed the part ${partName(before, part)}`,
  touches: ({ part }) => [`part/${part}`, `form/share/${part}`],
};
