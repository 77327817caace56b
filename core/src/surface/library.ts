import type { Purpose } from '../brief/brief';
import { linearToSrgb } from '../image/srgb';
import { EFFICACY } from '../light/exposure';
import type { Field } from './layers/fields';
import { copyLayers, type Layer, layersFrom } from './layers/layer';
import { type Material, PLAIN } from './material';

/** A material as the library ships it. */
export type LibraryMaterial = Omit<Material, 'id' | 'touched'> & { key: string };

const srgb = (r: number, g: number, b: number): [number, number, number] =>
  [r, g, b].map((x) => Math.round(linearToSrgb(x) * 1000) / 1000) as [number, number, number];
const hex = (s: string): [number, number, number] =>
  [0, 2, 4].map((i) => Math.round((Number.parseInt(s.slice(i, i + 2), 16) / 255) * 1000) / 1000) as [number, number, number];

const DUST = { colour: hex('5b5144'), roughness: 0.9, cover: 0.75 };

/** A layer on one field. */
const layer = (id: string, name: string, look: Layer['look'], opacity: number, field: Field, inverted = false): Layer => ({
  id,
  name,
  on: true,
  opacity,
  look,
  mask: [{ join: 'times', inverted, field }],
});

/**
 * Materials to begin with. Every one says where its values come from; amounts of wear and dirt are set so that the first
 * picture is believable, and all of it can be changed.
 */
export const LIBRARY: LibraryMaterial[] = [
  {
    ...PLAIN,
    key: 'polished-brass',
    name: 'Polished brass',
    base: 'polished-brass',
    source: 'reflectance at normal incidence 0.89 0.79 0.43, from memory; roughness by eye',
    colour: srgb(0.89, 0.79, 0.43),
    metallic: 1,
    roughness: 0.16,
    layers: layersFrom({
      wear: { share: 0.04, colour: srgb(0.93, 0.84, 0.52), metallic: 1, roughness: 0.1 },
      dirt: { share: 0.06, ...DUST, colour: hex('4a3a24') },
    }),
  },
  {
    ...PLAIN,
    key: 'aged-brass',
    name: 'Aged brass',
    base: 'aged-brass',
    source: 'polished brass darkened by a thin tarnish, by eye, kept within what metals reflect',
    colour: srgb(0.66, 0.5, 0.24),
    metallic: 1,
    roughness: 0.38,
    layers: layersFrom({
      wear: { share: 0.07, colour: srgb(0.89, 0.79, 0.43), metallic: 1, roughness: 0.18 },
      dirt: { share: 0.16, ...DUST, colour: hex('4b4331') },
    }),
  },
  {
    ...PLAIN,
    key: 'blackened-iron',
    name: 'Blackened iron',
    base: 'blackened-iron',
    source: 'the oxide is a dielectric, so not metallic; bare iron 0.56 0.57 0.58 shows at worn edges, from memory',
    colour: hex('2b2c2e'),
    roughness: 0.48,
    ior: 2,
    layers: layersFrom({
      wear: { share: 0.06, colour: srgb(0.56, 0.57, 0.58), metallic: 1, roughness: 0.34 },
      dirt: { share: 0.1, ...DUST },
    }),
  },
  {
    ...PLAIN,
    key: 'clear-glass',
    name: 'Clear glass',
    base: 'clear-glass',
    source: 'soda-lime glass, index 1.52, from memory; a faint green by eye',
    colour: srgb(0.97, 0.99, 0.975),
    roughness: 0.02,
    ior: 1.52,
    transmission: 1,
  },
  {
    ...PLAIN,
    key: 'enamel',
    name: 'Enamel',
    base: 'enamel',
    source: 'glassy coat on steel, index 1.55, from memory; colour by eye; chips show dark iron',
    colour: hex('c9c4b2'),
    roughness: 0.14,
    ior: 1.55,
    layers: layersFrom({ wear: { share: 0.03, colour: hex('3a3432'), metallic: 0, roughness: 0.6 }, dirt: { share: 0.05, ...DUST } }),
  },
  {
    ...PLAIN,
    key: 'oiled-wood',
    name: 'Oiled wood',
    base: 'oiled-wood',
    source: 'colours and roughness by eye; three rings a cm as slowly grown oak has, from memory; the oil is a thin coat of index 1.5',
    colour: hex('7a4f2d'),
    roughness: 0.55,
    coat: 0.35,
    coatRoughness: 0.3,
    layers: [
      layer('boards', 'Tone of each board', { colour: hex('5c3820') }, 0.8, { kind: 'boards', share: 0.5 }),
      layer('late', 'Late wood', { colour: hex('4d2d16'), rougher: -0.05 }, 0.85, {
        kind: 'rings',
        along: 'length',
        count: 3.2,
        wander: 5,
      }),
      layer('fibres', 'Fibres', { colour: hex('5f3b20'), rougher: 0.06 }, 0.5, {
        kind: 'strands',
        along: 'length',
        width: 0.35,
        length: 28,
        share: 0.3,
      }),
      layer('dirt', 'Dirt', { colour: DUST.colour, roughness: DUST.roughness, metallic: 0 }, DUST.cover, { kind: 'enclosed', share: 0.1 }),
      layer('wear', 'Worn edges', { colour: hex('a07a50'), roughness: 0.7 }, 1, { kind: 'edges', width: 1, broken: 0.6 }),
    ],
  },
  {
    ...PLAIN,
    key: 'brushed-aluminium',
    name: 'Brushed aluminium',
    base: 'brushed-aluminium',
    source: 'reflectance at normal incidence 0.91 0.92 0.92, from memory; streaks and roughness by eye',
    colour: srgb(0.91, 0.92, 0.92),
    metallic: 1,
    roughness: 0.3,
    layers: [
      layer('brushed', 'Brushed', { colour: srgb(0.82, 0.83, 0.83), rougher: 0.14 }, 1, {
        kind: 'strands',
        along: 'length',
        width: 0.15,
        length: 45,
        share: 0.5,
      }),
      layer('scratches', 'Scratches', { rougher: 0.15, relief: -20 }, 1, {
        kind: 'scratches',
        along: 'any',
        count: 12,
        length: 18,
        width: 0.12,
        spread: 90,
      }),
      layer('dirt', 'Dirt', { colour: DUST.colour, roughness: DUST.roughness, metallic: 0 }, DUST.cover, { kind: 'enclosed', share: 0.05 }),
    ],
  },
  {
    ...PLAIN,
    key: 'painted-steel',
    name: 'Painted steel',
    base: 'painted-steel',
    source: 'alkyd paint over a red-lead undercoat, index 1.5, from memory; chips and tone by eye',
    colour: hex('8f2f24'),
    roughness: 0.38,
    layers: [
      layer('faded', 'Faded', { colour: hex('a5564a'), rougher: 0.12 }, 0.45, { kind: 'clouds', size: 90, share: 0.35, soft: 0.9 }),
      layer('peel', 'Brush marks', { rougher: 0.04, relief: 12 }, 1, {
        kind: 'strands',
        along: 'length',
        width: 1.6,
        length: 60,
        share: 0.5,
      }),
      layer('dirt', 'Dirt', { colour: DUST.colour, roughness: DUST.roughness, metallic: 0 }, DUST.cover, { kind: 'enclosed', share: 0.08 }),
      layer('undercoat', 'Undercoat', { colour: hex('8a5a40'), roughness: 0.62, relief: -40 }, 1, {
        kind: 'edges',
        width: 1.3,
        broken: 0.9,
      }),
      layer('chips', 'Bare steel', { colour: hex('4a4643'), roughness: 0.5, relief: -40 }, 1, { kind: 'edges', width: 0.7, broken: 0.9 }),
    ],
  },
  {
    ...PLAIN,
    key: 'tinplate',
    name: 'Tinplate',
    base: 'tinplate',
    source: 'tin at normal incidence about 0.72 0.70 0.67, from memory; rolled and handled, by eye',
    colour: srgb(0.72, 0.7, 0.67),
    metallic: 1,
    roughness: 0.3,
    layers: [
      layer('rolled', 'Rolled', { rougher: 0.1 }, 1, { kind: 'strands', along: 'length', width: 0.4, length: 70, share: 0.45 }),
      layer('dull', 'Dulled', { colour: srgb(0.58, 0.565, 0.54), rougher: 0.12 }, 0.8, { kind: 'clouds', size: 45, share: 0.4, soft: 0.8 }),
      layer('scratches', 'Scratches', { rougher: 0.14, relief: -8 }, 1, {
        kind: 'scratches',
        along: 'any',
        count: 25,
        length: 16,
        width: 0.12,
        spread: 90,
      }),
      layer('dirt', 'Dirt', { colour: DUST.colour, roughness: DUST.roughness, metallic: 0 }, DUST.cover, { kind: 'enclosed', share: 0.07 }),
    ],
  },
  {
    ...PLAIN,
    key: 'weathered-copper',
    name: 'Weathered copper',
    base: 'weathered-copper',
    source: 'copper at normal incidence 0.955 0.638 0.538, from memory; its brown oxide and the green on it by eye',
    colour: srgb(0.955, 0.638, 0.538),
    metallic: 1,
    roughness: 0.28,
    layers: [
      layer('oxide', 'Brown oxide', { colour: srgb(0.62, 0.4, 0.33), rougher: 0.14 }, 0.9, {
        kind: 'clouds',
        size: 70,
        share: 0.6,
        soft: 0.9,
      }),
      layer('green', 'Green', { colour: hex('5f8a78'), roughness: 0.85, metallic: 0, relief: 15 }, 0.9, { kind: 'enclosed', share: 0.1 }),
      layer('worn', 'Bright edges', { colour: srgb(0.955, 0.638, 0.538), roughness: 0.18, metallic: 1 }, 1, {
        kind: 'edges',
        width: 0.9,
        broken: 0.6,
      }),
    ],
  },
  {
    ...PLAIN,
    key: 'glazed-ceramic',
    name: 'Glazed ceramic',
    base: 'glazed-ceramic',
    source: 'lead-free glaze, index 1.52, over a cream body, from memory; colour by eye',
    colour: hex('d8d0ba'),
    roughness: 0.1,
    ior: 1.52,
    layers: [
      layer('pool', 'Thicker glaze', { colour: hex('c2bda0') }, 0.7, { kind: 'clouds', size: 35, share: 0.4, soft: 1 }),
      layer('specks', 'Iron specks', { colour: hex('6b5136') }, 0.8, { kind: 'spots', size: 0.6, share: 0.012 }),
      layer('rim', 'Thin at the edges', { colour: hex('b08d62'), roughness: 0.22 }, 0.8, { kind: 'edges', width: 1.6, broken: 0.35 }),
    ],
  },
  {
    ...PLAIN,
    key: 'walnut',
    name: 'Walnut',
    base: 'walnut',
    source: 'colours and roughness by eye; two rings a cm, from memory; waxed',
    colour: hex('5d4030'),
    roughness: 0.45,
    coat: 0.2,
    coatRoughness: 0.35,
    layers: [
      layer('boards', 'Tone of each board', { colour: hex('45301f') }, 0.7, { kind: 'boards', share: 0.5 }),
      layer('late', 'Late wood', { colour: hex('3a281a'), rougher: -0.04 }, 0.7, {
        kind: 'rings',
        along: 'length',
        count: 2.1,
        wander: 11,
      }),
      layer('pores', 'Pores', { colour: hex('33241a'), rougher: 0.1, relief: -30 }, 0.8, {
        kind: 'strands',
        along: 'length',
        width: 0.25,
        length: 6,
        share: 0.12,
      }),
      layer('wear', 'Worn edges', { colour: hex('8a6a4e'), roughness: 0.6 }, 1, { kind: 'edges', width: 0.8, broken: 0.6 }),
    ],
  },
  {
    ...PLAIN,
    key: 'smudged-glass',
    name: 'Smudged glass',
    base: 'smudged-glass',
    source: 'soda-lime glass, index 1.52, from memory; what fingers and wiping leave on it by eye',
    colour: srgb(0.97, 0.99, 0.975),
    roughness: 0.02,
    ior: 1.52,
    transmission: 1,
    layers: [
      layer('wiped', 'Wiped', { rougher: 0.1 }, 1, { kind: 'strands', along: 'length', width: 2.5, length: 90, share: 0.3 }),
      layer('smudges', 'Smudges', { roughness: 0.28 }, 0.8, { kind: 'clouds', size: 26, share: 0.2, soft: 0.5 }),
    ],
  },
  {
    ...PLAIN,
    key: 'canvas',
    name: 'Canvas',
    base: 'canvas',
    source: 'undyed cotton duck of a thread a millimetre, by eye',
    colour: hex('c4b79a'),
    roughness: 0.9,
    layers: [
      layer(
        'hollows',
        'Hollows between threads',
        { colour: hex('8b7c5f'), rougher: 0.05 },
        0.8,
        { kind: 'weave', along: 'length', thread: 1 },
        true,
      ),
      layer('tone', 'Weathered', { colour: hex('a89a7c') }, 0.5, { kind: 'clouds', size: 60, share: 0.4, soft: 0.9 }),
      layer('dirt', 'Dirt', { colour: hex('6a6257'), roughness: DUST.roughness, metallic: 0 }, DUST.cover, {
        kind: 'enclosed',
        share: 0.1,
      }),
    ],
  },
  {
    ...PLAIN,
    key: 'rubber',
    name: 'Rubber',
    base: 'rubber',
    source: 'carbon-black rubber, by eye, kept above the darkest dielectrics',
    colour: hex('262626'),
    roughness: 0.75,
    layers: layersFrom({ dirt: { share: 0.12, ...DUST, colour: hex('6a6257') } }),
  },
  {
    ...PLAIN,
    key: 'flame',
    name: 'Flame',
    base: 'flame',
    source: 'an oil flame of about 10 000 cd/m², from memory; colour by eye',
    colour: srgb(1, 0.62, 0.22),
    roughness: 0.9,
    emission: Math.round(10000 / EFFICACY),
  },
];

/** Its layers that tell of use. */
const OF_USE = new Set(['wear', 'worn', 'dirt', 'undercoat', 'chips', 'scratches', 'faded', 'dull', 'green', 'wiped', 'smudges']);

/** A material of the library for a piece: for a product picture it starts clean, what tells of use is there and left off. */
export function fromLibraryFor(purpose: Purpose, key: string, id: string): Material {
  const m = fromLibrary(key, id);
  return purpose === 'product' ? { ...m, layers: m.layers.map((l) => (OF_USE.has(l.id) ? { ...l, on: false } : l)) } : m;
}

/** A material of the library under an id of its own. */
export function fromLibrary(key: string, id: string): Material {
  const found = LIBRARY.find((m) => m.key === key);
  if (!found) throw new Error(`there is no library material ${key}`);
  const { key: _, ...m } = found;
  return { ...m, colour: [...m.colour], layers: copyLayers(m.layers), id, touched: true };
}
