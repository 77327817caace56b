import { canonical } from '../hash';
import { printRows } from '../print/ink';
import type { Print } from '../print/print';
import { type ComposedSet, copied, emptySet, type Over } from '../surface/compose';
import { type AssetDocument, composedMaterials } from './document';
import { layPrints, overOf, type PrintPictures, setPrints } from './printed';
import { overBy, printsOf } from './prints';
import { nameOf } from './results';
import type { SetJob } from './surface';

const withPrints = (document: AssetDocument, prints: readonly Print[]): AssetDocument => {
  const { prints: _, ...rest } = document;
  return prints.length > 0 ? { ...rest, prints: [...prints] } : rest;
};

/** What sets lie on, as one word: those that differ in prints alone, if at all, have the same. */
export const groundOf = (document: AssetDocument): string => nameOf(withPrints(document, []), 'surface');

/** Several pieces on one ground with only those prints that all have, from the surface up: what is composed once for all of them. */
export function sharedBy(documents: readonly AssetDocument[]): AssetDocument {
  const [first, ...others] = documents;
  const lists = others.map((d) => printsOf(d).map((p) => canonical(p)));
  const own = printsOf(first);
  const differs = own.findIndex((p, i) => lists.some((list) => list[i] !== canonical(p)));
  return withPrints(first, differs < 0 ? own : own.slice(0, differs));
}

/** Which maps any of several sets asks for. */
export function overAny(documents: readonly AssetDocument[]): Over {
  const all = documents.map(overBy);
  return { relief: all.some((o) => o.relief), coat: all.some((o) => o.coat), clear: all.some((o) => o.clear) };
}

/**
 * A set with all the prints of one of several pieces that share a ground: what lies under them is composed once, and copied.
 *
 * @param shared the set of {@link sharedBy}, composed with {@link overAny} of them all; it is not written into
 * @param pictures the piece’s artworks, opened
 */
export function printedSet(shared: SetJob, document: AssetDocument, pictures: PrintPictures): SetJob {
  const { size } = shared.set;
  const prints = setPrints(document, shared.parts, pictures, size);
  const set = withMaps(copied(shared.set), emptySet(1, composedMaterials(document), undefined, overOf(prints)));
  for (const p of layPrints(prints.slice(shared.prints.length), shared.parts))
    if (p.wrong === undefined) printRows(p.ready, set, shared.prepared.ground.owner, 0, size, 4);
  return { ...shared, prints, set };
}

/** A set with only those maps that another has. */
const withMaps = (set: ComposedSet, like: ComposedSet): ComposedSet => ({
  ...set,
  height: like.height && set.height,
  coat: like.coat && set.coat,
  clear: like.clear && set.clear,
});
