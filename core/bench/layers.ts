import { keepersChest } from '@wellmorph/demo/lamp-room';
import { formAsset } from '../src/pipeline/form';
import { composeAsset, composePrepared, groundInput, prepareSurface } from '../src/pipeline/surface';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { BEGINNINGS } from '../src/surface/layers/presets';
import type { Material } from '../src/surface/material';
import { calibrate, median } from './calibrate';

/** The stack that is timed, bottom to top: what layers begin as, by their keys. */
const STACK = ['boards', 'rings', 'fibres', 'tone', 'spots', 'brushed', 'weave', 'dents', 'scratches', 'dirt', 'dust', 'edges'];

/** Sets of the chest, whose wood has none, three and twelve layers, on this thread; and how soon a preview answers. */
export function layerTable(): void {
  const none = () => {
    throw new Error('The chest needs no stored mesh.');
  };
  const loop = median([calibrate(), calibrate(), calibrate()]);
  const chest = keepersChest();
  const wood = chest.materials.find((m) => m.base === 'oiled-wood') as Material;
  const stacked = (keys: readonly string[]): Material[] =>
    chest.materials.map((m) =>
      m.id === wood.id ? { ...m, layers: BEGINNINGS.filter((b) => keys.includes(b.key)).map((b) => ({ id: b.key, ...b.make(m) })) } : m,
    );
  const laid = unwrap(formAsset(chest, 'low', none).parts, unwrapSettings(chest)).parts;
  const clock = () => performance.now() / 1000;
  for (const [what, keys, wanted] of [
    ['no layers on its wood', [], ''],
    ['three', STACK.slice(0, 3), ' (wanted ≤ 5 s on two cores)'],
    ['twelve', STACK, ' (wanted ≤ 10 s on two cores)'],
  ] as const) {
    const document = { ...chest, materials: stacked(keys) };
    const { figures } = composeAsset(document, laid, {}, 2048, clock);
    console.log(
      `the chest at 2048², ${what}: ${figures.seconds.toFixed(1)} s, ${(figures.seconds / loop).toFixed(1)} × calibration${wanted}; a preview at 512² ${previewed(document, 512).toFixed(0)} ms, at 256² ${previewed(document, 256).toFixed(0)} ms (wanted ≤ 100 at 512²)`,
    );
  }

  /** ms that a preview takes once its ground is laid: the middle of five. */
  function previewed(document: typeof chest, size: number): number {
    const prepared = prepareSurface(groundInput(document, laid, {}, size));
    return median(
      Array.from({ length: 5 }, () => {
        const start = performance.now();
        composePrepared(prepared, document.materials);
        return performance.now() - start;
      }),
    );
  }
}
