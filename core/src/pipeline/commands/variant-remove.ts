import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class VariantRemove {
  @Equals('variant.remove') type!: 'variant.remove';
  @IsId() variant!: string;
}

/** Lets a variant go, with prints that it alone had. */
export const variantRemove: CommandKind<VariantRemove> = {
  type: 'variant.remove',
  shape: VariantRemove,
  apply(d, { variant }) {
    const gone = d.variants?.find((v) => v.id === variant);
    const left = (d.variants ?? []).filter((v) => v.id !== variant);
    const isOrphan = (id: string, on: boolean) => !on && gone?.prints?.[id]?.on === true && !left.some((v) => v.prints?.[id]);
    const prints = (d.prints ?? []).filter((p) => !isOrphan(p.id, p.on));
    if (prints.length > 0) d.prints = prints;
    else delete d.prints;
    if (left.length > 0) d.variants = left;
    else delete d.variants;
  },
  words: ({ variant }, before) => `removed the variant ${before.variants?.find((v) => v.id === variant)?.name ?? ''}`.trimEnd(),
  touches: ({ variant }) => [`variant/${variant}`],
};
