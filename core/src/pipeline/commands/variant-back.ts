import { Equals, IsIn, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import { VARIED, type Varied } from '../variants';
import { IsId } from './checks';
import type { CommandKind } from './command';

class VariantBack {
  @Equals('variant.back') type!: 'variant.back';
  @IsId() variant!: string;
  @IsIn([...VARIED]) of!: Varied;
  /** Id of the print, material or part, or `part/region`. */
  @IsString() @Length(1, 130) key!: string;
}

/** One thing of a variant as it is on the piece. */
export const variantBack: CommandKind<VariantBack> = {
  type: 'variant.back',
  shape: VariantBack,
  apply(d, { variant, of, key }) {
    const found = d.variants?.find((v) => v.id === variant);
    if (!found) throw new InputError('variant/gone', 'The variant this change is for is no longer there.');
    const list = found[of];
    if (!list) return;
    delete list[key];
    if (Object.keys(list).length === 0) delete found[of];
  },
  words({ variant, of, key }, before) {
    const name = before.variants?.find((v) => v.id === variant)?.name ?? 'a variant';
    const thing = of === 'regions' ? undefined : before[of]?.find((x) => x.id === key);
    return `made ${thing?.name ?? 'a region'} of ${name} as it is on the piece`;
  },
  touches: ({ variant, of, key }) => [`variant/${variant}/${of}/${key}`],
};
