import { InputError } from '../errors';
import { srgbToLinear } from '../image/srgb';
import { IDENTITY } from '../maths/mat4';
import { type Attribute, makeMesh, triangleCount } from '../mesh/polymesh';
import { dropRepeats } from '../mesh/weld';
import { droppedWords } from './left-out';
import type { Model } from './model';

type Kind = 'int8' | 'uint8' | 'int16' | 'uint16' | 'int32' | 'uint32' | 'float32' | 'float64';
const KINDS: Record<string, Kind> = {
  char: 'int8',
  int8: 'int8',
  uchar: 'uint8',
  uint8: 'uint8',
  short: 'int16',
  int16: 'int16',
  ushort: 'uint16',
  uint16: 'uint16',
  int: 'int32',
  int32: 'int32',
  uint: 'uint32',
  uint32: 'uint32',
  float: 'float32',
  float32: 'float32',
  double: 'float64',
  float64: 'float64',
};
const BYTES: Record<Kind, number> = { int8: 1, uint8: 1, int16: 2, uint16: 2, int32: 4, uint32: 4, float32: 4, float64: 8 };

interface Property {
  name: string;
  kind: Kind;
  /** Of a list: what its length is written as. */
  count?: Kind;
}
interface Element {
  name: string;
  count: number;
  properties: Property[];
}

/** Gives the numbers of the body one after the other. */
type Source = (kind: Kind) => number;

/** Corners a face may have; a longer list is a damaged file. */
const MOST_CORNERS = 65_536;
/** Bytes of a head at most. */
const HEAD = 65_536;

/**
 * Reads a PLY (Turk 1994), as text or binary in either order of bytes: places, normals, colours and a layout of its vertices, faces of any
 * number of corners, a layout of their corners. Other elements and properties are gone over. One part.
 *
 * @param mmPerUnit what one unit of the file is
 * @throws InputError in one sentence
 */
export function readPly(bytes: Uint8Array, mmPerUnit: number): Model {
  const { format, elements, body } = readHead(bytes);
  const source = format === 'ascii' ? fromText(bytes.subarray(body)) : fromBytes(bytes.subarray(body), format === 'binary_little_endian');
  const columns = new Map<string, Float64Array>();
  let vertices = 0;
  const faceStart: number[] = [0];
  const faceVert: number[] = [];
  const cornerUv: number[] = [];
  for (const element of elements) {
    const { name, properties, count } = element;
    // What has no properties takes no bytes, however many of it there are said to be.
    if (properties.length === 0) continue;
    // What one of them takes at least, so that a count that can't be true is refused before anything is made for it.
    const least = properties.reduce((n, p) => n + (format === 'ascii' ? 2 : BYTES[p.count ?? p.kind]), 0);
    if (count * least > bytes.length - body + 1)
      throw new InputError('ply/count', `The PLY says it has ${count} of “${name}” and is too short for them.`);
    const kept = name === 'vertex' ? properties.filter((p) => !p.count).map((p) => [p.name, new Float64Array(count)] as const) : [];
    if (name === 'vertex') {
      vertices = count;
      for (const [key, column] of kept) columns.set(key, column);
    }
    for (let i = 0; i < count; i++) {
      let uv: number[] | null = null;
      const before = faceVert.length;
      for (const p of properties) {
        if (!p.count) {
          const x = source(p.kind);
          if (name === 'vertex') (columns.get(p.name) as Float64Array)[i] = x;
          continue;
        }
        const length = source(p.count);
        if (!(Number.isInteger(length) && length >= 0 && length <= MOST_CORNERS))
          throw new InputError('ply/list', `A list of “${name}” ${i + 1} of the PLY says it has ${length} entries.`);
        const values = Array.from({ length }, () => source(p.kind));
        if (name !== 'face') continue;
        if (p.name === 'vertex_indices' || p.name === 'vertex_index') {
          for (const v of values)
            if (!(Number.isInteger(v) && v >= 0 && v < vertices))
              throw new InputError('ply/index', `Face ${i + 1} of the PLY refers to vertex ${v} of ${vertices}.`);
          // Edges and points are no faces.
          if (length < 3) continue;
          for (const v of values) faceVert.push(v);
          faceStart.push(faceVert.length);
        } else if (p.name === 'texcoord') uv = values;
      }
      if (uv && faceVert.length > before) cornerUv.push(...uv);
    }
  }
  const [x, y, z] = ['x', 'y', 'z'].map((k) => columns.get(k));
  if (!x || !y || !z) throw new InputError('ply/vertices', 'The PLY has no vertices with x, y and z.');
  const positions = new Float64Array(3 * vertices);
  for (let i = 0; i < vertices; i++) {
    if (!Number.isFinite(x[i] + y[i] + z[i])) throw new InputError('ply/number', `Vertex ${i + 1} of the PLY is no place.`);
    positions[3 * i] = x[i] * mmPerUnit;
    positions[3 * i + 1] = y[i] * mmPerUnit;
    positions[3 * i + 2] = z[i] * mmPerUnit;
  }
  const attributes = [...cornerAttributes(columns, faceVert)];
  if (cornerUv.length === 2 * faceVert.length && cornerUv.length > 0 && !attributes.some((a) => a.name === 'uv'))
    attributes.push({ name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(cornerUv) });
  const whole = makeMesh({ positions, faceStart, faceVert, attributes });
  const mesh = dropRepeats(whole);
  const dropped = triangleCount(whole) - triangleCount(mesh);
  const notes = dropped > 0 ? [droppedWords(dropped, triangleCount(whole))] : [];
  if (attributes.some((a) => a.name === 'colour'))
    notes.push('Colours of vertices are kept and written again; traced pictures are drawn without them.');
  if (faceVert.length === 0 && vertices > 0) throw new InputError('ply/points', `The PLY holds ${vertices} points and no faces.`);
  return { parts: [{ name: '', mesh, placements: [IDENTITY], material: -1 }], materials: [], textures: [], notes };
}

/** What vertices carry, at the corners that use them. */
function* cornerAttributes(columns: ReadonlyMap<string, Float64Array>, faceVert: readonly number[]): Generator<Attribute> {
  const of = (...names: string[]) => {
    const found = names.map((n) => columns.get(n));
    return found.every((c) => c !== undefined) ? (found as Float64Array[]) : null;
  };
  const spread = (size: number, value: (v: number, k: number) => number): Float64Array => {
    const data = new Float64Array(size * faceVert.length);
    for (let c = 0; c < faceVert.length; c++) for (let k = 0; k < size; k++) data[size * c + k] = value(faceVert[c], k);
    return data;
  };
  const normals = of('nx', 'ny', 'nz');
  if (normals) {
    const length = (v: number) => Math.hypot(normals[0][v], normals[1][v], normals[2][v]);
    if (faceVert.every((v) => length(v) > 1e-6))
      yield { name: 'normal', domain: 'corner', size: 3, data: spread(3, (v, k) => normals[k][v] / length(v)) };
  }
  const layout = of('u', 'v') ?? of('s', 't') ?? of('texture_u', 'texture_v');
  if (layout) yield { name: 'uv', domain: 'corner', size: 2, data: spread(2, (v, k) => layout[k][v]) };
  const colours = of('red', 'green', 'blue');
  if (colours) {
    // Bytes of a screen’s colours (common practice, no source); kept as light, as glTF keeps them.
    const full = colours.some((c) => c.some((x) => x > 1)) ? 255 : 1;
    const alpha = columns.get('alpha');
    const data = spread(4, (v, k) =>
      k === 3 ? (alpha ? alpha[v] / full : 1) : srgbToLinear(Math.min(1, Math.max(0, colours[k][v] / full))),
    );
    yield { name: 'colour', domain: 'corner', size: 4, data };
  }
}

function readHead(bytes: Uint8Array): { format: string; elements: Element[]; body: number } {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, HEAD));
  const end = /^end_header\r?\n/m.exec(text);
  if (!/^ply\r?\n/.test(text) || !end) throw new InputError('ply/head', 'The file is named PLY but does not begin as one.');
  let format = '';
  const elements: Element[] = [];
  const fail = (line: string): never => {
    throw new InputError('ply/head', `The PLY’s head has a line that can’t be read: “${line.slice(0, 60)}”.`);
  };
  for (const line of text.slice(0, end.index).split(/\r?\n/)) {
    const [word, ...rest] = line.trim().split(/\s+/);
    if (word === 'format') {
      format = rest[0];
      if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format)) fail(line);
    } else if (word === 'element') {
      const count = Number(rest[1]);
      if (!rest[0] || !Number.isInteger(count) || count < 0) fail(line);
      elements.push({ name: rest[0], count, properties: [] });
    } else if (word === 'property') {
      const list = rest[0] === 'list';
      const [count, kind] = list ? [KINDS[rest[1]], KINDS[rest[2]]] : [undefined, KINDS[rest[0]]];
      const name = rest[list ? 3 : 1];
      const element = elements.at(-1);
      if (!kind || !name || !element || (list && !count)) fail(line);
      element?.properties.push({ name, kind, ...(count && { count }) });
    } else if (!['ply', 'comment', 'obj_info', ''].includes(word)) fail(line);
  }
  if (format === '') throw new InputError('ply/head', 'The PLY does not say how it is written.');
  return { format, elements, body: end.index + end[0].length };
}

const ended = (): never => {
  throw new InputError('ply/short', 'The PLY ends before all it says it holds.');
};

function fromBytes(bytes: Uint8Array, little: boolean): Source {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 0;
  return (kind) => {
    const from = at;
    at += BYTES[kind];
    if (at > bytes.length) ended();
    switch (kind) {
      case 'int8':
        return view.getInt8(from);
      case 'uint8':
        return view.getUint8(from);
      case 'int16':
        return view.getInt16(from, little);
      case 'uint16':
        return view.getUint16(from, little);
      case 'int32':
        return view.getInt32(from, little);
      case 'uint32':
        return view.getUint32(from, little);
      case 'float32':
        return view.getFloat32(from, little);
      case 'float64':
        return view.getFloat64(from, little);
    }
  };
}

function fromText(bytes: Uint8Array): Source {
  const text = new TextDecoder('latin1').decode(bytes);
  let at = 0;
  return () => {
    while (at < text.length && text.charCodeAt(at) <= 32) at++;
    if (at >= text.length) ended();
    const from = at;
    while (at < text.length && text.charCodeAt(at) > 32) at++;
    const word = text.slice(from, at);
    const x = Number(word);
    if (Number.isNaN(x)) throw new InputError('ply/number', `The PLY has “${word.slice(0, 20)}” where a number should be.`);
    return x;
  };
}
