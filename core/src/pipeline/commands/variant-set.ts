import { Equals, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import { MOST_VARIANTS } from '../variants';
import { IsId, Maybe } from './checks';
import { type CommandKind, withOne } from './command';

class VariantSet {
  @Equals('variant.set') type!: 'variant.set';
  @IsId() variant!: string;
  @IsString() @Length(1, 80) name!: string;
  /** A new one begins as this one is; as the piece is when absent. */
  @Maybe() @IsId() from?: string;
}

/** A new variant, or another name for one that is there. */
export const variantSet: CommandKind<VariantSet> = {
  type: 'variant.set',
  shape: VariantSet,
  apply(d, { variant, name, from }) {
    const known = d.variants?.find((v) => v.id === variant);
    const base = known ?? (from ? d.variants?.find((v) => v.id === from) : undefined);
    if (from && !base) throw new InputError('variant/gone', 'The variant this change is for is no longer there.');
    const variants = withOne(d.variants, { ...(base && plain(base)), id: variant, name });
    if (variants.length > MOST_VARIANTS) throw new InputError('variant/many', `A piece can have up to ${MOST_VARIANTS} variants.`);
    d.variants = variants;
  },
  words({ variant, name }, before) {
    const known = before.variants?.find((v) => v.id === variant);
    return known ? `called the variant ${known.name} ${name}` : `made the variant ${name}`;
  },
  touches: ({ variant }) => [`variant/${variant}`],
};
const plain = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T;
