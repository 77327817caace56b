import type { Material } from '@wellmorph/core/pipeline/document';
import { fromLibrary } from '@wellmorph/core/surface/library';

/** Materials of the demo, from the library, some in the workshop's own colours. */
export const BRASS = fromLibrary('aged-brass', 'brass');
export const IRON = fromLibrary('blackened-iron', 'iron');
export const GLASS = fromLibrary('clear-glass', 'glass');
export const FLAME = fromLibrary('flame', 'flame');
export const WOOD = fromLibrary('oiled-wood', 'wood');
export const RUBBER = fromLibrary('rubber', 'rubber');
/** A library material’s layers without what is worn. */
const unworn = (key: string) => fromLibrary(key, '').layers.filter((l) => l.id !== 'wear');
const enamel = (id: string, name: string, colour: [number, number, number]): Material => ({
  ...fromLibrary('enamel', id),
  name,
  colour,
  touched: true,
});
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
export const CREAM = paint('cream', 'Cream paint', [0.86, 0.81, 0.66]);
export const GREEN = paint('green', 'Harbour green paint', [0.24, 0.38, 0.33]);
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
