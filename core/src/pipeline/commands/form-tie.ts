import { Equals, IsString, Length } from 'class-validator';
import { OrNull } from './checks';
import type { CommandKind } from './command';

/** Groups of tied counts after one was tied to another, or let go; groups of one are none. */
function tied(groups: readonly string[][], key: string, to: string | null): string[][] {
  const rest = groups.map((g) => g.filter((k) => k !== key));
  if (to === null) return rest.filter((g) => g.length > 1);
  const with_ = rest.find((g) => g.includes(to));
  return (with_ ? rest.map((g) => (g === with_ ? [...g, key] : g)) : [...rest, [to, key]]).filter((g) => g.length > 1);
}

class FormTie {
  @Equals('form.tie') type!: 'form.tie';
  @IsString() @Length(1, 200) key!: string;
  @IsString() @Length(1, 200) label!: string;
  /** The count it stays equal to, or null to let it go. */
  @OrNull() @IsString() @Length(1, 200) to!: string | null;
}

export const formTie: CommandKind<FormTie> = {
  type: 'form.tie',
  shape: FormTie,
  apply(d, { key, to }) {
    d.form.ties = tied(d.form.ties ?? [], key, to);
  },
  words: ({ label, to }) => (to === null ? `let ${label} go` : `tied ${label}`),
  touches: () => ['form/ties'],
};
