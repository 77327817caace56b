import { keepersChest } from '@wellmorph/demo/lamp-room';
import { spread } from '../../core/src/bake/spread';
import { formAsset } from '../../core/src/pipeline/form';
import { composePrepared, groundInput, prepareSurface, previewNormals } from '../../core/src/pipeline/surface';
import { unwrap, unwrapSettings } from '../../core/src/pipeline/unwrap';
import { RecentAmounts } from '../../core/src/surface/compose';
import { BEGINNINGS } from '../../core/src/surface/layers/presets';
import { QUIET } from '../../core/src/task';

const chest = keepersChest();
const none = () => {
  throw new Error('');
};
const wood = chest.materials[0];
const bowls = BEGINNINGS.find((b) => b.key === 'dents')!;
const d = {
  ...chest,
  materials: chest.materials.map((m) => (m.id === wood.id ? { ...m, layers: [...m.layers, { id: 'b', ...bowls.make(m) }] } : m)),
};
const laid = unwrap(formAsset(d, 'low', none).parts, unwrapSettings(d)).parts;
const prepared = prepareSurface(groundInput(d, laid, {}, 512), QUIET, (n) => new SharedArrayBuffer(n));
const kept = new RecentAmounts();
for (let i = 0; i < 6; i++) {
  const materials = d.materials.map((m) => ({ ...m, layers: m.layers.map((l, n) => (n === 4 ? { ...l, opacity: 1 - i / 100 } : l)) }));
  const a = performance.now();
  const { set } = composePrepared(prepared, materials, QUIET, kept);
  const b = performance.now();
  const n = previewNormals(prepared, set);
  const c = performance.now();
  spread(set.baseColour, 3, prepared.spread);
  const e = performance.now();
  console.log('compose', (b - a).toFixed(0), 'normals', (c - b).toFixed(0), 'spread', (e - c).toFixed(0), n?.length);
}
