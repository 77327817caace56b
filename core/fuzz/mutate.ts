import { concatBytes } from '@noble/hashes/utils.js';

/** Damage of the kinds that files come with: by hand, by a broken connection, by another program, by malice. Each is a pure function of the numbers drawn. */
export type Draw = () => number;

export const whole = (draw: Draw, below: number): number => Math.floor(draw() * below);
export const oneOf = <T>(draw: Draw, list: readonly T[]): T => list[whole(draw, list.length)];

const utf8 = new TextEncoder();

/** Bits turned, stretches overwritten, cut, doubled or left out. */
export function damagedBytes(bytes: Uint8Array, draw: Draw, from = 0): Uint8Array {
  let out: Uint8Array = bytes.slice();
  const times = 1 + whole(draw, 4);
  for (let i = 0; i < times && out.length > from; i++) {
    const at = from + whole(draw, out.length - from);
    const length = 1 + whole(draw, Math.min(64, out.length - at));
    switch (whole(draw, 7)) {
      case 0:
        out[at] ^= 1 << whole(draw, 8);
        break;
      case 1:
        out.fill(oneOf(draw, [0, 255, 128, 127, 63]), at, at + length);
        break;
      case 2:
        out = out.slice(0, at);
        break;
      case 3:
        out = concatBytes(out.subarray(0, at), out.subarray(at, at + length), out.subarray(at));
        break;
      case 4:
        out = concatBytes(out.subarray(0, at), out.subarray(at + length));
        break;
      case 5: {
        const to = from + whole(draw, out.length - from);
        out.copyWithin(at, to, to + length);
        break;
      }
      default: {
        const word = at & ~3;
        if (word >= from && word + 4 <= out.length)
          new DataView(out.buffer).setUint32(
            word,
            oneOf(draw, [0, 1, 2 ** 31 - 1, 2 ** 32 - 1, 0x7fc00000, 0x7f800000, 0xff7fffff, 65536, 0x00000001]),
            true,
          );
      }
    }
  }
  return out;
}

/** What may stand where a number should. */
const NUMBERS =
  'inf -inf nan NaN 1e308 -1e308 1e-400 --1 1,5 0x10 1e 9e9 -0 2147483648 4294967295 99999999999999999999 0.1.2 ① １ 1_000 + . e5'.split(
    ' ',
  );
/** Lines of the text format that are right, odd, or of something else. */
const LINES = [
  'f',
  'f 1',
  'f 1 1 1',
  'f 1 2 3 1 2 3',
  'f -1 -2 -3',
  'f 1/ 2/ 3/',
  'f 1//1 2 3//3',
  'f 1/1/1/1 2 3',
  'f 0 1 2',
  'v',
  'v 0 0 0 1 0.5 0.5 0.5',
  'vn 0 0 0',
  'vt 5',
  'vp 1 2 3',
  'o',
  'o constructor',
  'o __proto__',
  'g a b c',
  'g',
  'usemtl toString',
  'usemtl',
  'mtllib constructor',
  'mtllib __proto__',
  'mtllib ../../secret.mtl',
  'mtllib',
  's off',
  'l 1 2 3',
  'p 1',
  'curv 0 1 1 2',
  'cstype bezier',
  '# \u0000',
  '\\',
  'f 1 2 3 \\',
  '\ufeffv 1 2 3',
  '{"asset":{}}',
  '<html>',
  'constructor',
  'é',
];

/** A text of lines with words and lines changed. */
export function damagedLines(text: string, draw: Draw): Uint8Array {
  const lines = text.split('\n');
  const times = 1 + whole(draw, 5);
  for (let i = 0; i < times; i++) {
    const at = whole(draw, lines.length);
    switch (whole(draw, 8)) {
      case 0:
      case 1: {
        // Every other one is what parts them.
        const words = lines[at].split(/([ ,()=])/);
        words[2 * whole(draw, (words.length + 1) / 2)] = oneOf(draw, NUMBERS);
        lines[at] = words.join('');
        break;
      }
      case 2:
        lines.splice(at, 1 + whole(draw, 40));
        break;
      case 3:
        lines.splice(at, 0, oneOf(draw, LINES));
        break;
      case 4: {
        const to = whole(draw, lines.length);
        [lines[at], lines[to]] = [lines[to], lines[at]];
        break;
      }
      case 5:
        lines.splice(at, 0, ...lines.slice(at, at + 1 + whole(draw, 60)));
        break;
      case 6:
        lines[at] = lines[at].slice(0, whole(draw, lines[at].length + 1));
        break;
      default:
        // All that follows becomes one line, or none has an end any more.
        lines[at] = lines.splice(at, 1 + whole(draw, 50)).join(oneOf(draw, [' ', '\\\n', '\r', '\t']));
    }
    if (lines.length === 0) break;
  }
  return utf8.encode(lines.join(oneOf(draw, ['\n', '\n', '\n', '\r\n'])));
}

/** What may stand where something else should. */
const VALUES: readonly unknown[] = [
  null,
  true,
  '',
  'constructor',
  '__proto__',
  'text',
  -1,
  0,
  1,
  0.5,
  3,
  1e9,
  2 ** 31,
  2 ** 53,
  1e308,
  -1e308,
  1e-320,
  [],
  {},
  [1, 2, 3],
  [null],
  [[]],
  { length: 1e9 },
  'x'.repeat(5000),
];

type Json = Record<string, unknown> | unknown[];
const isJson = (x: unknown): x is Json => typeof x === 'object' && x !== null;

/** Every object and list of a description. */
function holders(root: Json): Json[] {
  const out = [root];
  for (let i = 0; i < out.length; i++) for (const x of Object.values(out[i])) if (isJson(x)) out.push(x);
  return out;
}

/** A description with values replaced, left out, swapped, repeated, named otherwise. */
export function damagedJson<T extends Json>(plain: T, draw: Draw): T {
  const out = structuredClone(plain);
  const times = 1 + whole(draw, 3);
  for (let i = 0; i < times; i++) {
    const all = holders(out);
    const holder = oneOf(draw, all) as Record<string, unknown>;
    const keys = Object.keys(holder);
    if (keys.length === 0) continue;
    const key = oneOf(draw, keys);
    const value = holder[key];
    switch (whole(draw, 8)) {
      case 0:
        if (Array.isArray(holder)) holder.splice(Number(key), 1);
        else delete holder[key];
        break;
      case 1:
        if (typeof value === 'number') holder[key] = oneOf(draw, [value + 1, value - 1, -value, value * 1000, value / 1000, value + 0.5]);
        else holder[key] = oneOf(draw, VALUES);
        break;
      case 2: {
        const other = oneOf(draw, all) as Record<string, unknown>;
        const names = Object.keys(other);
        // A copy of something from elsewhere; never the thing itself, which could hold itself.
        if (names.length > 0) holder[key] = structuredClone(other[oneOf(draw, names)]);
        break;
      }
      case 3:
        if (Array.isArray(holder)) for (let k = 0, n = 1 + whole(draw, 30); k < n; k++) holder.push(structuredClone(value));
        else {
          holder[oneOf(draw, ['constructor', 'hasOwnProperty', 'toString', 'kind', 'id', 'extra', 'length'])] = value;
        }
        break;
      default:
        holder[key] = oneOf(draw, VALUES);
    }
  }
  return out;
}
