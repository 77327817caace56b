import { kits } from '../node/kit';
import { encodePng } from '../src/image/png';
import type { AssetDocument } from '../src/pipeline/document';
import { composedMaterials } from '../src/pipeline/document';
import { formAsset } from '../src/pipeline/form';
import { openPrints, setPrints } from '../src/pipeline/printed';
import { composePrepared, groundInput, prepareSurface } from '../src/pipeline/surface';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { INK, type Print } from '../src/print/print';
import { KeptSet } from '../src/surface/compose';
import { QUIET } from '../src/task';
import { bottle } from '../test/bottle';
import { calibrate, median } from './calibrate';

/** How soon a label that is dragged over a bottle is there, and an artwork of 12 000 px is opened and placed. */
export async function printTable(): Promise<void> {
  const none = () => {
    throw new Error('The bottle needs no stored mesh.');
  };
  await Promise.all((['drawings', 'font'] as const).map((what) => kits.load(what)));
  const kit = kits.loaded;
  const loop = median([calibrate(), calibrate(), calibrate()]);
  const ms = (x: number) => `${x.toFixed(0)} ms, ${(x / 1000 / loop).toFixed(2)} × calibration`;
  const plain = bottle(36);
  const laid = unwrap(formAsset(plain, 'low', none).parts, unwrapSettings(plain)).parts;
  const label = (artwork: Print['artwork'], across: number): Print => ({
    id: 'label',
    name: 'Label',
    on: true,
    part: 'body',
    artwork,
    width: 90,
    height: 60,
    at: { point: [0, 66, 35], normal: [0, 0, 1] },
    across: { from: 'middle', mm: across },
    up: { from: 'middle', mm: 0 },
    turn: 0,
    ink: { ...INK, roughness: 0.4 },
  });
  const text: Print['artwork'] = {
    kind: 'text',
    text: 'LAMP OIL',
    capital: 12,
    tracking: 0,
    leading: 1.6,
    align: 'middle',
    arc: 0,
    colour: [0, 0, 0],
  };
  const picture = (width: number, height: number): { artwork: Print['artwork']; bytes: Uint8Array } => ({
    artwork: { kind: 'picture', blob: 'a'.repeat(64), fileName: 'label.png', mime: 'image/png', widthPx: width, heightPx: height },
    bytes: encodePng({
      width,
      height,
      channels: 3,
      depth: 8,
      data: Uint8Array.from({ length: 3 * width * height }, (_, i) => ((i / 3) % width) >> 4),
    }),
  });
  const { artwork, bytes } = picture(2126, 1417);
  const materials = composedMaterials(plain);
  for (const size of [512, 1024]) {
    const prepared = prepareSurface(groundInput(plain, laid, {}, size));
    for (const [what, on] of [
      ['a text', text],
      ['a picture of 2126 px', artwork],
    ] as const) {
      const kept = new KeptSet();
      const at = (n: number): AssetDocument => ({ ...plain, prints: [label(on, n)] });
      const pictures = await openPrints(at(0), laid, size, { kit, read: () => bytes });
      const times = Array.from({ length: 15 }, (_, n) => {
        const began = performance.now();
        composePrepared(prepared, materials, QUIET, kept, setPrints(at(2 * n), laid, pictures, size));
        return performance.now() - began;
      }).slice(1);
      console.log(`${what} of 90 × 60 mm dragged round a bottle, at ${size}²: ${ms(median(times))} (wanted ≤ 50 ms at 1024²)`);
    }
  }
  const large = picture(12_000, 4000);
  const began = performance.now();
  const document = { ...plain, prints: [label(large.artwork, 0)] };
  const pictures = await openPrints(document, laid, 1024, { kit, read: () => large.bytes });
  const opened = performance.now() - began;
  const prepared = prepareSurface(groundInput(plain, laid, {}, 1024));
  const from = performance.now();
  composePrepared(prepared, materials, QUIET, undefined, setPrints(document, laid, pictures, 1024));
  console.log(
    `an artwork of 12 000 × 4 000 px: opened in ${ms(opened)}, placed in ${ms(performance.now() - from)} (wanted ≤ 2 s together)`,
  );
}
