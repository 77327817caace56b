import { keepersChest } from '@wellmorph/demo/lamp-room';
import { formAsset } from '../src/pipeline/form';
import { composeAsset, composePrepared, groundInput, prepareSurface, previewNormals } from '../src/pipeline/surface';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { KeptSet } from '../src/surface/compose';
import type { Field } from '../src/surface/layers/fields';
import type { Layer } from '../src/surface/layers/layer';
import { BEGINNINGS } from '../src/surface/layers/presets';
import type { Material } from '../src/surface/material';
import { QUIET } from '../src/task';
import { calibrate, median } from './calibrate';
import { composedBy } from './thread';

/** The stack that is timed, bottom to top: what layers begin as, by their keys. */
const STACK = ['boards', 'rings', 'fibres', 'tone', 'spots', 'brushed', 'weave', 'dents', 'scratches', 'dirt', 'dust', 'edges'];

/** Sets of the chest, whose wood has none, three and twelve layers, on this thread; and how soon a preview answers. */
export async function layerTable(): Promise<void> {
  const none = () => {
    throw new Error('The chest needs no stored mesh.');
  };
  const loop = median([calibrate(), calibrate(), calibrate()]);
  const { prints: _, ...chest } = keepersChest();
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
    const two = await composedBy(2, document, laid, 2048);
    console.log(
      `the chest at 2048², ${what}: ${figures.seconds.toFixed(1)} s on one thread, ${two.toFixed(1)} s by two, ${(two / loop).toFixed(1)} × calibration${wanted}; a preview at 512² the first time ${previewed(document, false).toFixed(0)} ms, with one layer of it changed ${previewed(document, true).toFixed(0)} ms (wanted ≤ 100)`,
    );
  }

  const wood3 = { ...chest, materials: stacked(STACK.slice(0, 3)) };
  console.log(
    `a dab of a brush over the chest, three layers under it: at 512² ${dabbed(wood3, 512).toFixed(0)} ms, at 1024² ${dabbed(wood3, 1024).toFixed(0)} ms (wanted ≤ 30)`,
  );

  /** ms that one more place under a brush takes to be composed: the middle of fifteen. */
  function dabbed(document: typeof chest, size: number): number {
    const prepared = prepareSurface(groundInput(document, laid, {}, size));
    const kept = new KeptSet();
    const points: number[] = [];
    return median(
      Array.from({ length: 15 }, (_, n) => {
        points.push(-150 + 8 * n, 60 + 2 * n, 140, 0, 0, 1, 1);
        const strokes = [{ part: 'body', erases: false, radius: 8, points: [...points] }];
        const painted: Layer = {
          id: 'painted',
          name: 'Painted',
          on: true,
          opacity: 1,
          look: { roughness: 0.9 },
          mask: [{ join: 'times', inverted: false, field: { kind: 'strokes', soft: 0.4, strokes } }],
        };
        const materials = document.materials.map((m) => (m.id === wood.id ? { ...m, layers: [...m.layers, painted] } : m));
        const start = performance.now();
        composePrepared(prepared, materials, QUIET, kept);
        return performance.now() - start;
      }),
    );
  }

  /** ms that a preview takes once its ground is laid: the middle of seven. @param again another layer of it has changed before each, and what the others came to is kept */
  function previewed(document: typeof chest, again: boolean): number {
    const prepared = prepareSurface(groundInput(document, laid, {}, 512));
    const kept = again ? new KeptSet() : undefined;
    composePrepared(prepared, document.materials, QUIET, kept);
    return median(
      Array.from({ length: 7 }, (_, turn) => {
        const materials = document.materials.map((m) => ({
          ...m,
          layers: m.layers.map((l, n) => (n === turn % m.layers.length ? moved(l) : l)),
        }));
        const start = performance.now();
        const { set } = composePrepared(prepared, materials, QUIET, kept);
        previewNormals(prepared, set);
        return performance.now() - start;
      }),
    );
  }
}

/** A layer with the first number of its first field a little larger: what a slider on its way does. */
function moved(l: Layer): Layer {
  const [first, ...rest] = l.mask;
  const key = first && Object.keys(first.field).find((k) => typeof (first.field as unknown as Record<string, unknown>)[k] === 'number');
  if (!key) return { ...l, opacity: 0.9 * l.opacity };
  const field = { ...first.field, [key]: 1.01 * (first.field as unknown as Record<string, number>)[key] } as Field;
  return { ...l, mask: [{ ...first, field }, ...rest] };
}
