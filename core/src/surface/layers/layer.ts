import { InputError } from '../../errors';
import { BLENDS, type BlendMode } from '../blend';
import { FIELDS, type Field, type FieldKind } from './fields';
import { strokesFault } from './strokes';

type Rgb = [number, number, number];

/** What a layer changes where it lies; what it doesn’t name stays as it is below. Colour is sRGB, 0…1. */
export interface Look {
  colour?: Rgb;
  /** How its colour is laid over what is below. */
  blend?: BlendMode;
  roughness?: number;
  /** Added to the roughness below, −1…1. */
  rougher?: number;
  metallic?: number;
  /** Clear coat there, 0…1, and how rough it is. */
  coat?: number;
  coatRoughness?: number;
  /** Share of the light that goes through there, 0…1; only on what is clear: print on glass lets none through. */
  transmission?: number;
  /** How far it stands above what is below, µm; recessed where it is less than nothing. */
  relief?: number;
}
/** The highest and deepest a layer may be, µm. */
export const MOST_RELIEF = 3000;

const SHARES = [
  ['coat', 'clear coat'],
  ['coatRoughness', 'roughness of the coat'],
  ['transmission', 'the light let through'],
] as const;
const LOOK_KEYS = ['colour', 'blend', 'roughness', 'rougher', 'metallic', 'relief', ...SHARES.map(([k]) => k)];

/** How a field is joined to those before it. */
export const JOINS = { times: 'and', or: 'or', less: 'but not' } as const;
export type Join = keyof typeof JOINS;

/** One field of a mask. */
export interface Masked {
  join: Join;
  /** Where it is not. */
  inverted: boolean;
  field: Field;
  /** Contrast: nothing up to the first amount, whole from the second on, smooth between. */
  curve?: { from: number; to: number };
  /** Missing in patches of so many mm, by so much. */
  broken?: { size: number; by: number };
}
/** What a mask’s contrast and patches can be. */
export const CURVE = { least: 0.01 } as const;
export const PATCHES = { min: 0.1, max: 500, usual: 8 } as const;

/** A layer of a material: what it looks like, and where it lies. */
export interface Layer {
  id: string;
  name: string;
  on: boolean;
  /** How much of what is below it hides where it lies, 0…1. */
  opacity: number;
  look: Look;
  /** Empty: everywhere. */
  mask: Masked[];
}

/** So many layers a material may have, and fields a mask. */
export const MOST_LAYERS = 24;
export const MOST_FIELDS = 6;

/** Scratches a dm² times their length squared, mm²: every texel looks at twenty in each of nine cells; more would take minutes. */
const MOST_SCRATCHED = 200_000;

const isNumber = (x: unknown, low: number, high: number): x is number => typeof x === 'number' && x >= low && x <= high;
const isColour = (c: unknown): c is Rgb => Array.isArray(c) && c.length === 3 && c.every((x) => isNumber(x, 0, 1));
const record = (x: unknown): Record<string, unknown> | null =>
  typeof x === 'object' && x !== null && !Array.isArray(x) ? (x as Record<string, unknown>) : null;

/** What is wrong with something that should be a field; null where it is one. */
function fieldFault(x: unknown): string | null {
  const f = record(x);
  if (!f || typeof f.kind !== 'string' || !Object.hasOwn(FIELDS, f.kind)) return 'a field of a kind there is not';
  const { name, parameters } = FIELDS[f.kind as FieldKind];
  for (const [key, p] of Object.entries(parameters)) {
    const value = f[key];
    if ('choices' in p ? typeof value !== 'string' || !Object.hasOwn(p.choices, value) : !isNumber(value, p.min, p.max))
      return `${p.label} of ${name}`;
  }
  if (f.kind === 'scratches' && Number(f.count) * Number(f.length) ** 2 > MOST_SCRATCHED)
    return `how many scratches: ${f.length} mm long, up to ${Math.floor(MOST_SCRATCHED / Number(f.length) ** 2)} a dm² can be drawn,`;
  if (f.kind === 'layer' && (typeof f.of !== 'string' || f.of.length > 64)) return 'the layer that is followed';
  if (f.kind === 'strokes') {
    const fault = strokesFault(f.strokes);
    if (fault) return fault;
  }
  const known = ['kind', ...Object.keys(parameters), ...(f.kind === 'layer' ? ['of'] : f.kind === 'strokes' ? ['strokes'] : [])];
  return Object.keys(f).every((k) => known.includes(k)) ? null : `something ${name} has not`;
}

/** What is wrong with something that should be a material’s layers, as words; null where all is well. */
export function layersFault(x: unknown): string | null {
  if (!Array.isArray(x)) return 'layers';
  if (x.length > MOST_LAYERS) return `more than ${MOST_LAYERS} layers`;
  const ids = new Set<string>();
  for (const l of x) {
    const layer = record(l);
    if (!layer || typeof layer.id !== 'string' || !/^[\w-]{1,64}$/.test(layer.id)) return 'a layer’s id';
    if (ids.has(layer.id)) return 'two layers of one id';
    ids.add(layer.id);
    if (typeof layer.name !== 'string' || layer.name.length < 1 || layer.name.length > 80) return 'a layer’s name';
    const at = ` of ${layer.name}`;
    if (typeof layer.on !== 'boolean' || !isNumber(layer.opacity, 0, 1)) return `opacity${at}`;
    const look = record(layer.look);
    if (!look || Object.keys(look).some((k) => !LOOK_KEYS.includes(k))) return `the look${at}`;
    if (look.colour !== undefined && !isColour(look.colour)) return `colour${at}`;
    if (look.blend !== undefined && (typeof look.blend !== 'string' || !Object.hasOwn(BLENDS, look.blend))) return `the blending${at}`;
    if (look.roughness !== undefined && !isNumber(look.roughness, 0, 1)) return `roughness${at}`;
    if (look.rougher !== undefined && !isNumber(look.rougher, -1, 1)) return `how much rougher${at}`;
    if (look.metallic !== undefined && !isNumber(look.metallic, 0, 1)) return `metal${at}`;
    for (const [key, name] of SHARES) if (look[key] !== undefined && !isNumber(look[key], 0, 1)) return `${name}${at}`;
    if (look.relief !== undefined && !isNumber(look.relief, -MOST_RELIEF, MOST_RELIEF)) return `relief${at}`;
    if (!Array.isArray(layer.mask) || layer.mask.length > MOST_FIELDS) return `the mask${at}`;
    for (const m of layer.mask) {
      const masked = record(m);
      if (!masked || typeof masked.join !== 'string' || !Object.hasOwn(JOINS, masked.join) || typeof masked.inverted !== 'boolean')
        return `the mask${at}`;
      if (masked.curve !== undefined) {
        const { from, to } = record(masked.curve) ?? {};
        if (!isNumber(from, 0, 1) || !isNumber(to, 0, 1) || to - from < CURVE.least - 1e-9) return `the contrast${at}`;
      }
      if (masked.broken !== undefined) {
        const { size, by } = record(masked.broken) ?? {};
        if (!isNumber(size, PATCHES.min, PATCHES.max) || !isNumber(by, 0, 1)) return `how it is broken up${at}`;
      }
      if (Object.keys(masked).some((k) => !['join', 'inverted', 'field', 'curve', 'broken'].includes(k))) return `the mask${at}`;
      const fault = fieldFault(masked.field);
      if (fault) return `${fault}${at}`;
    }
  }
  return null;
}

/** Whether something read from a file is a material’s layers. */
export const isLayers = (x: unknown): x is Layer[] => layersFault(x) === null;

/** A copy that shares nothing. */
export const copyLayers = (layers: readonly Layer[]): Layer[] => structuredClone(layers) as Layer[];

/** The first field of a kind in a layer’s mask. */
export const fieldOf = <K extends FieldKind>(layer: Pick<Layer, 'mask'>, kind: K): Extract<Field, { kind: K }> | undefined =>
  layer.mask.find((m) => m.field.kind === kind)?.field as Extract<Field, { kind: K }> | undefined;

/** Wear and dirt as materials had them before they had layers. */
export interface OlderWear {
  wear?: { share: number; colour: Rgb; metallic: number; roughness: number } | null;
  dirt?: { share: number; colour: Rgb; roughness: number; cover: number } | null;
}

/** The same as layers: what gathered first, what is rubbed through it above. */
export const layersFrom = ({ wear, dirt }: OlderWear): Layer[] => [
  ...(dirt
    ? [
        {
          id: 'dirt',
          name: 'Dirt',
          on: true,
          opacity: dirt.cover,
          look: { colour: dirt.colour, roughness: dirt.roughness, metallic: 0 },
          mask: [{ join: 'times', inverted: false, field: { kind: 'enclosed', share: dirt.share } }],
        } satisfies Layer,
      ]
    : []),
  ...(wear
    ? [
        {
          id: 'wear',
          name: 'Worn',
          on: true,
          opacity: 1,
          look: { colour: wear.colour, roughness: wear.roughness, metallic: wear.metallic },
          mask: [{ join: 'times', inverted: false, field: { kind: 'worn', share: wear.share } }],
        } satisfies Layer,
      ]
    : []),
];

/** @throws InputError with what is wrong with a material’s layers */
export function checkLayers(x: unknown): void {
  const fault = layersFault(x);
  if (fault) throw new InputError('material/layers', `What can’t be used: ${fault}.`);
}
