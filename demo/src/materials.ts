import type { Material } from '@wellmorph/core/pipeline/document';
import type { Field } from '@wellmorph/core/surface/layers/fields';
import type { Layer } from '@wellmorph/core/surface/layers/layer';
import { fromLibrary } from '@wellmorph/core/surface/library';

/** Materials of the demo, from the library, some in the workshop's own colours. */
export const BRASS = fromLibrary('aged-brass', 'brass');
export const IRON = fromLibrary('blackened-iron', 'iron');
export const GLASS = fromLibrary('clear-glass', 'glass');
export const FLAME = fromLibrary('flame', 'flame');
export const WOOD = fromLibrary('oiled-wood', 'wood');
export const RUBBER = fromLibrary('rubber', 'rubber');
const on = (id: string, name: string, look: Layer['look'], opacity: number, field: Field): Layer => ({
  id,
  name,
  on: true,
  opacity,
  look,
  mask: [{ join: 'times', inverted: false, field }],
});
/** Brass that is handled every day: dull where nobody polishes, bright along its edges. */
export const HANDLED_BRASS: Material = {
  ...BRASS,
  layers: [
    on('dull', 'Tarnish', { colour: [0.72, 0.62, 0.42], rougher: 0.16 }, 0.8, { kind: 'clouds', size: 28, share: 0.45, soft: 0.8 }),
    on('turned', 'Turned', { rougher: 0.06 }, 1, { kind: 'strands', along: 'y', width: 0.4, length: 30, share: 0.4 }),
    ...BRASS.layers.filter((l) => l.id !== 'wear'),
    on('bright', 'Polished edges', { colour: [0.95, 0.9, 0.68], roughness: 0.16 }, 1, { kind: 'edges', width: 1.2, broken: 0.5 }),
  ],
};
/** A library material’s layers without what is worn. */
const unworn = (key: string) => fromLibrary(key, '').layers.filter((l) => l.id !== 'wear');
/** Glass melted on steel, in a colour: thicker in places, chipped to the dark ground at its edges. */
export const enamel = (id: string, name: string, colour: [number, number, number]): Material => {
  const plain = fromLibrary('enamel', id);
  const thick = colour.map((c) => Math.round(860 * c) / 1000) as [number, number, number];
  return {
    ...plain,
    name,
    colour,
    layers: [
      on('thick', 'Thicker', { colour: thick, rougher: 0.03 }, 0.7, { kind: 'clouds', size: 55, share: 0.4, soft: 0.9 }),
      ...plain.layers.filter((l) => l.id !== 'wear'),
      on('chips', 'Chips', { colour: [0.2, 0.18, 0.17], roughness: 0.6, relief: -60 }, 1, { kind: 'edges', width: 1, broken: 1 }),
    ],
    touched: true,
  };
};
/** Paint in a colour over steel; what of it has faded goes with the colour. */
const paint = (id: string, name: string, colour: [number, number, number]): Material => {
  const steel = fromLibrary('painted-steel', id);
  const faded = colour.map((c) => Math.round(1000 * (c + 0.28 * (0.8 - c))) / 1000) as [number, number, number];
  return {
    ...steel,
    name,
    colour,
    layers: steel.layers.map((l) => (l.id === 'faded' ? { ...l, look: { ...l.look, colour: faded } } : l)),
    touched: true,
  };
};
export const CREAM = enamel('cream', 'Cream enamel', [0.86, 0.81, 0.66]);
export const GREEN = enamel('green', 'Harbour green enamel', [0.24, 0.38, 0.33]);
export const WHITE = paint('white', 'White paint', [0.88, 0.87, 0.83]);
export const DIAL: Material = { ...enamel('dial', 'Enamelled dial', [0.92, 0.9, 0.84]), roughness: 0.4, layers: unworn('enamel') };
/** Cloth in a colour, of threads so thick; its hollows and its weathering go with the colour. */
const cloth = (id: string, name: string, colour: [number, number, number], thread: number): Material => {
  const canvas = fromLibrary('canvas', id);
  const darker = (by: number) => colour.map((c) => Math.round(1000 * c * by) / 1000) as [number, number, number];
  return {
    ...canvas,
    name,
    colour,
    roughness: 0.95,
    layers: canvas.layers.map((l) =>
      l.id === 'hollows'
        ? {
            ...l,
            look: { ...l.look, colour: darker(0.62) },
            mask: [{ join: 'times', inverted: true, field: { kind: 'weave', along: 'length', thread } }],
          }
        : l.id === 'tone'
          ? { ...l, look: { colour: darker(0.85) } }
          : l,
    ),
    touched: true,
  };
};
export const CANVAS = cloth('canvas', 'Canvas', [0.78, 0.42, 0.2], 1);
export const WEBBING = cloth('webbing', 'Webbing', [0.72, 0.68, 0.56], 1.6);
export const TIN: Material = { ...fromLibrary('tinplate', 'tin'), name: 'Soft tin', touched: true };
export const RED = paint('red', 'Day-mark red', [0.62, 0.12, 0.09]);
export const JUTE = cloth('jute', 'Tarred jute', [0.34, 0.25, 0.15], 2.2);
export const COPPER: Material = { ...fromLibrary('weathered-copper', 'copper'), name: 'Copper', touched: true };
export const SPIRIT: Material = { ...fromLibrary('clear-glass', 'spirit'), name: 'Spirit', colour: [0.93, 0.9, 0.78], touched: true };
export const WATER: Material = { ...fromLibrary('clear-glass', 'water'), name: 'Water', ior: 1.333, touched: true };
