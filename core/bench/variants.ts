import { kits } from '../node/kit';
import { applyCommand } from '../src/pipeline/commands/index';
import type { AssetDocument } from '../src/pipeline/document';
import { formAsset } from '../src/pipeline/form';
import { openPrints } from '../src/pipeline/printed';
import { printedSet } from '../src/pipeline/printed-set';
import { overAny, sharedBy } from '../src/pipeline/series';
import { composeAsset, finishSet, prepareSet, SetComposer, SetPacker, stripsOf } from '../src/pipeline/surface';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { variantsOf } from '../src/pipeline/variants';
import { QUIET } from '../src/task';
import { bottle, bottleLabel } from '../test/bottle';
import { median } from './calibrate';

/** Sets of ten variants of a bottle of which only one of two labels differs, beside the set of one, on one thread. */
export async function variantTable(): Promise<void> {
  const none = () => {
    throw new Error('The bottle needs no stored mesh.');
  };
  await Promise.all((['drawings', 'font'] as const).map((what) => kits.load(what)));
  const kit = kits.loaded;
  const label = (id: string, text: string, side: 1 | -1) => bottleLabel(id, text, side, { width: 90, height: 45 });
  let piece: AssetDocument = { ...bottle(24), prints: [label('back', 'KEEP DRY', -1), label('front', 'OIL 0', 1)] };
  for (let i = 1; i < 10; i++) {
    piece = applyCommand(piece, { type: 'variant.set', variant: `v${i}`, name: `V ${i}` }).document;
    const edit = { type: 'print.set', print: label('front', `OIL ${i}`, 1) };
    piece = applyCommand(piece, { type: 'variant.edit', variant: `v${i}`, edit }).document;
  }
  const looks = [piece, ...variantsOf(piece)];
  const laid = unwrap(formAsset(piece, 'low', none).parts, unwrapSettings(piece)).parts;
  for (const size of [1024, 2048]) {
    const open = (d: AssetDocument) => openPrints(d, laid, size, { kit, read: () => undefined });
    const timed = async (work: () => Promise<unknown>): Promise<number> => {
      const began = performance.now();
      await work();
      return performance.now() - began;
    };
    const alone = () => timed(async () => composeAsset(piece, laid, {}, size, () => 0, QUIET, await open(piece)));
    const several = (of: readonly AssetDocument[]) =>
      timed(async () => {
        const shared = prepareSet(sharedBy(of), laid, {}, size, QUIET, undefined, await open(sharedBy(of)), overAny(of));
        const composer = new SetComposer(shared);
        const strips = Array.from({ length: stripsOf(size) }, (_, s) => composer.draw(s));
        const packer = new SetPacker();
        for (const d of of) finishSet(printedSet(shared, d, await open(d)), strips, {}, () => 0, QUIET, packer);
      });
    await alone();
    const one = median([await alone(), await alone(), await alone()]);
    const three = median([await several(looks.slice(0, 3)), await several(looks.slice(0, 3)), await several(looks.slice(0, 3))]);
    const ten = median([await several(looks), await several(looks), await several(looks)]);
    console.log(
      `sets of variants that differ in a label, ${size}²: three in ${(three / one).toFixed(2)} × the time of one (wanted < 1.5), ten in ${(ten / one).toFixed(2)} × (wanted < 3)`,
    );
  }
}
