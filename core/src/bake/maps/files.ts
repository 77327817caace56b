import { encodeExr } from '../../image/exr';
import type { Pixels } from '../../image/png';
import { dilate, type Rings } from '../dilate';
import { nearestKnown } from '../spread';
import type { Texels } from '../texels';
import type { FurtherMap } from './further';
import { packNormals } from './normal';

/** What the values of a map stand for: black and white of each channel, mm. */
export interface MapRange {
  from: number[];
  to: number[];
}

/** A further map as it is delivered. */
export interface MapFile {
  png: Pixels;
  /** The values themselves, mm, where the picture only holds them within a range. */
  exr?: Uint8Array;
  range?: MapRange;
}

/** What files depend on beside the texels. */
export interface FileOptions {
  bits: 8 | 16;
  thicknessMm: number;
  /** Colours of the id map. */
  legend: readonly { colour: string }[];
}

/** Values of a map that are carried outward, as its picture: `bits` for directions; lengths have 16 always. */
export function furtherFile(map: FurtherMap, texels: Texels, rings: Rings, { bits, thicknessMm: reachMm, legend }: FileOptions): MapFile {
  const { size, state } = texels;
  switch (map) {
    case 'objectNormal':
      return { png: packNormals(carried(texels.objectNormal, 3, rings), size, { y: 'up', bits }) };
    case 'bentNormal':
      return { png: packNormals(carried(texels.bentNormal, 3, rings), size, { y: 'up', bits }) };
    case 'thickness': {
      const values = carried(texels.thickness, 1, rings);
      return {
        png: ranged(values, 1, size, [0], [reachMm]),
        exr: encodeExr(size, size, { Y: values }),
        range: { from: [0], to: [reachMm] },
      };
    }
    case 'height': {
      const values = carried(texels.height, 1, rings);
      let most = 1e-3;
      for (let i = 0; i < state.length; i++) if (state[i] === 1) most = Math.max(most, Math.abs(values[i]));
      return {
        png: ranged(values, 1, size, [-most], [most]),
        exr: encodeExr(size, size, { Y: values }),
        range: { from: [-most], to: [most] },
      };
    }
    case 'position':
      return positionFile(texels, rings);
    case 'opacity': {
      const values = carried(texels.opacity, 1, rings);
      return { png: ranged(values, 1, size, [0], [1], 8) };
    }
    case 'id':
      return { png: idPicture(texels, legend, rings) };
  }
}

function carried(values: Float32Array, channels: number, rings: Rings): Float32Array {
  dilate(values, channels, rings);
  return values;
}

/** The box of what was found, its longest side the whole range on all three axes, so that shapes keep their proportions. */
function positionFile(texels: Texels, rings: Rings): MapFile {
  const { size, state } = texels;
  const values = carried(texels.position, 3, rings);
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < state.length; i++)
    if (state[i] === 1)
      for (let k = 0; k < 3; k++) {
        min[k] = Math.min(min[k], values[3 * i + k]);
        max[k] = Math.max(max[k], values[3 * i + k]);
      }
  const from = min.map((x) => (Number.isFinite(x) ? x : 0));
  const side = Math.max(...max.map((x, k) => (Number.isFinite(x) ? x - from[k] : 0)), 1e-3);
  const to = from.map((x) => x + side);
  const channel = (k: number) => Float32Array.from({ length: size * size }, (_, i) => values[3 * i + k]);
  return {
    png: ranged(values, 3, size, from, to),
    exr: encodeExr(size, size, { R: channel(0), G: channel(1), B: channel(2) }),
    range: { from, to },
  };
}

function ranged(
  values: Float32Array,
  channels: 1 | 3,
  size: number,
  from: readonly number[],
  to: readonly number[],
  depth: 8 | 16 = 16,
): Pixels {
  const full = depth === 8 ? 255 : 65535;
  const data = depth === 8 ? new Uint8Array(values.length) : new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const k = i % channels;
    data[i] = Math.round(Math.min(1, Math.max(0, (values[i] - from[k]) / (to[k] - from[k]))) * full);
  }
  return { width: size, height: size, channels, depth, data };
}

/** Colours of the legend: hues a golden section of the circle apart, in turns of brightness, so that neighbours in the list differ most. */
export function idColour(entry: number): [number, number, number] {
  const hue = ((entry - 1) * 0.6180339887498949) % 1;
  const [sat, value] = [
    [0.75, 0.95],
    [0.55, 0.75],
    [0.85, 0.6],
  ][(entry - 1) % 3];
  const at = (n: number) => {
    const k = (n + hue * 6) % 6;
    return Math.round(255 * value * (1 - sat * Math.max(0, Math.min(k, 4 - k, 1))));
  };
  return [at(5), at(3), at(1)];
}
export const hex = (c: readonly number[]): string => `#${c.map((x) => x.toString(16).padStart(2, '0')).join('')}`;

/** Ids are never mixed: beyond the islands stands the nearest one. */
function idPicture({ size, id }: Texels, legend: readonly { colour: string }[], { blank }: Rings): Pixels {
  const colours = legend.map((l) => [1, 3, 5].map((i) => Number.parseInt(l.colour.slice(i, i + 2), 16)));
  const from = nearestKnown(id, size);
  const data = new Uint8Array(3 * size * size);
  for (let i = 0; i < size * size; i++) {
    const entry = from[i] < 0 ? 0 : id[from[i]];
    if (entry > 0) data.set(colours[entry - 1], 3 * i);
  }
  if (blank) for (const i of blank) data.fill(0, 3 * i, 3 * i + 3);
  return { width: size, height: size, channels: 3, depth: 8, data };
}
