import { Equals, IsObject } from 'class-validator';
import { current, isDraft, produce } from 'immer';
import { InputError } from '../../errors';
import type { AssetDocument } from '../document';
import { asVariant, takenIn } from '../variants';
import { CheckedBy, IsId } from './checks';
import type { CommandKind } from './command';
import { checkedInside, kindInside, type Plain } from './inner';

/** What isn't done to a variant but to the piece. */
const NOT = ['variant.set', 'variant.edit', 'variant.back', 'variant.remove'];
const inside = (edit: unknown) => checkedInside(edit, NOT);
const kindOfOne = (edit: Plain) => kindInside(edit, NOT);

class VariantEdit {
  @Equals('variant.edit') type!: 'variant.edit';
  @IsId() variant!: string;
  /** The change, as it would be made to the piece. */
  @IsObject() @CheckedBy(inside) edit!: Plain;
}

type Fields = Record<string, unknown>;
const isFields = (x: unknown): x is Fields => typeof x === 'object' && x !== null && !Array.isArray(x);

/** Puts what changed into a draft, as deep as it goes, so that patches hold no more than that: of a list that grew, what is new. */
function settle(into: Fields, before: Fields, after: Fields): void {
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
    const [a, b] = [before[key], after[key]];
    if (a === b) continue;
    if (b === undefined) delete into[key];
    else if (isFields(a) && isFields(b)) settle(into[key] as Fields, a, b);
    else if (Array.isArray(a) && Array.isArray(b) && b.length >= a.length) settleList(into[key] as unknown[], a, b);
    else into[key] = b;
  }
}
function settleList(into: unknown[], before: readonly unknown[], after: readonly unknown[]): void {
  for (const [i, b] of after.entries()) {
    const a = before[i];
    if (i >= before.length) into.push(b);
    else if (a !== b && isFields(a) && isFields(b)) settle(into[i] as Fields, a, b);
    else if (a !== b) into[i] = b;
  }
}

/** A change made while the piece is looked at as one of its variants: see {@link takenIn} for what of it is whose. */
export const variantEdit: CommandKind<VariantEdit> = {
  type: 'variant.edit',
  shape: VariantEdit,
  cleaned: ({ type, variant, edit }) => ({ type, variant, edit: inside(edit) }),
  blobs: ({ edit }) => kindOfOne(edit).blobs?.(edit) ?? [],
  apply(d, { variant, edit }) {
    const piece = isDraft(d) ? (current(d) as AssetDocument) : d;
    if (!piece.variants?.some((v) => v.id === variant))
      throw new InputError('variant/gone', 'The variant this change is for is no longer there.');
    const look = asVariant(piece, variant);
    const after = produce(look, (draft) => {
      kindOfOne(edit).apply(draft as AssetDocument, edit);
    });
    settle(d as unknown as Fields, piece as unknown as Fields, takenIn(piece, look, after) as unknown as Fields);
  },
  words({ variant, edit }, before) {
    const name = before.variants?.find((v) => v.id === variant)?.name ?? 'a variant';
    return `in ${name}: ${kindOfOne(edit).words(edit, asVariant(before, variant))}`;
  },
  // What of it is the piece's own is only known when it is made.
  touches({ variant, edit }) {
    const paths = kindOfOne(edit).touches(edit);
    return [...paths, ...paths.map((p) => (p === '' ? `variant/${variant}` : `variant/${variant}/${p}`))];
  },
};
