import { printRows } from '../print/ink';
import { type ComposedSet, copied, emptySet } from '../surface/compose';
import { type AssetDocument, composedMaterials } from './document';
import { layPrints, overOf, type PrintPictures, setPrints } from './printed';
import type { SetJob } from './surface';

/**
 * A set with all the prints of one of several pieces that share a ground: what lies under them is composed once, and copied.
 *
 * @param shared the set of `sharedBy`, composed with `overAny` of them all; it is not written into
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
