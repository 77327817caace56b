import { InputError } from '../errors';
import { IDENTITY } from '../maths/mat4';
import { type Attribute, makeMesh, triangleCount } from '../mesh/polymesh';
import { Records } from '../mesh/records';
import { dropRepeats } from '../mesh/weld';
import { droppedWords } from './left-out';
import type { Model, ModelPart } from './model';
import { readMtl } from './mtl';

/** Faces gathered under one object and material. */
interface Group {
  name: string;
  material: string | null;
  faceStart: number[];
  v: number[];
  vt: number[];
  vn: number[];
}

/**
 * Reads a Wavefront OBJ (the published text format: v, vt, vn, f, o, g, usemtl, mtllib). Objects, or groups where there
 * are no objects, become parts; an object with several materials becomes one part for each.
 *
 * @param mmPerUnit what one unit of the file is
 * @throws InputError naming the line
 */
export function readObj(bytes: Uint8Array, mmPerUnit: number, companions: Record<string, Uint8Array> = {}): Model {
  const text = new TextDecoder('utf-8').decode(bytes);
  if (text.includes('\0')) throw new InputError('obj/binary', 'The file is named OBJ but is not text.');
  const positions: number[] = [];
  const uvs: number[] = [];
  const normals: number[] = [];
  const groups = new Map<string, Group>();
  const notes: string[] = [];
  let object = '';
  let group = '';
  let material: string | null = null;
  let library: string | null = null;
  let strange = 0;
  let current: Group | undefined;
  let at = 0;
  /** The next line of the text, which is not cut into all its lines at once. */
  const nextLine = (): string => {
    const end = text.indexOf('\n', at);
    const line = text.slice(at, end < 0 ? text.length : end);
    at = end < 0 ? text.length + 1 : end + 1;
    return line;
  };
  const fail = (n: number, what: string): never => {
    throw new InputError('obj/line', `Line ${n + 1} of the OBJ ${what}`);
  };
  const numbers = (fields: string[], count: number, into: number[], n: number) => {
    if (fields.length < count + 1) fail(n, 'ends before all its numbers.');
    for (let k = 1; k <= count; k++) {
      const x = Number(fields[k]);
      if (!Number.isFinite(x)) fail(n, `has “${fields[k].slice(0, 20)}” where a number should be.`);
      into.push(x);
    }
  };
  const index = (text: string, count: number, n: number): number => {
    const i = Number(text);
    if (!Number.isInteger(i) || i === 0) fail(n, `has “${text.slice(0, 20)}” where an index should be.`);
    const at = i < 0 ? count + i : i - 1;
    if (at < 0 || at >= count) fail(n, `refers to element ${i} of ${count}.`);
    return at;
  };
  for (let n = 0; at <= text.length; n++) {
    let line = nextLine();
    if (line.endsWith('\\') || line.endsWith('\\\r')) {
      const pieces: string[] = [];
      for (; line.endsWith('\\') || line.endsWith('\\\r'); n++) {
        pieces.push(line.replace(/\\\r?$/, ' '));
        line = at <= text.length ? nextLine() : '';
      }
      line = pieces.join('') + line;
    }
    if (current && plainFace(line, current, positions.length / 3, uvs.length / 2, normals.length / 3)) continue;
    if (plainPoint(line, positions)) continue;
    const fields = line.trim().split(/\s+/);
    switch (fields[0]) {
      case '':
      case '#':
      case 's':
      case 'l':
      case 'p':
        break;
      case 'v':
        numbers(fields, 3, positions, n);
        break;
      case 'vt':
        numbers(fields.length < 3 ? [...fields, '0'] : fields, 2, uvs, n);
        break;
      case 'vn':
        numbers(fields, 3, normals, n);
        break;
      case 'o':
        object = fields.slice(1).join(' ');
        group = '';
        current = undefined;
        break;
      case 'g':
        group = fields.slice(1).join(' ');
        current = undefined;
        break;
      case 'usemtl':
        material = fields.slice(1).join(' ');
        current = undefined;
        break;
      case 'mtllib':
        library = fields.slice(1).join(' ');
        break;
      case 'f': {
        if (fields.length < 4) fail(n, 'is a face of fewer than three corners.');
        if (!current) {
          const name = object || group || 'Part';
          const key = `${name}\n${material ?? ''}`;
          current = groups.get(key) ?? { name, material, faceStart: [0], v: [], vt: [], vn: [] };
          groups.set(key, current);
        }
        for (let k = 1; k < fields.length; k++) {
          const [v, vt, vn] = fields[k].split('/');
          current.v.push(index(v, positions.length / 3, n));
          current.vt.push(vt ? index(vt, uvs.length / 2, n) : -1);
          current.vn.push(vn ? index(vn, normals.length / 3, n) : -1);
        }
        current.faceStart.push(current.v.length);
        break;
      }
      default:
        if (!/^[\x20-\x7e\t\r]*$/.test(fields[0]) || /[{}<>;]/.test(fields[0]))
          fail(n, 'is not OBJ; the file is another format under that name.');
        strange++;
    }
  }
  if (strange > 0) notes.push(`${strange} lines of kinds that are not read here were left out.`);
  const scaled = positions.map((x) => x * mmPerUnit);
  const named = new Set([...groups.values()].map((g) => g.material).filter((m) => m !== null));
  const { materials, textures, notes: said } = readMtl(library, companions, [...named]);
  notes.push(...said);
  const several = new Map<string, number>();
  for (const g of groups.values()) several.set(g.name, (several.get(g.name) ?? 0) + 1);
  // Where a point of the file stands in the part at hand; most parts have few of all points.
  const local = new Int32Array(positions.length / 3).fill(-1);
  let [brought, dropped] = [0, 0];
  const parts = [...groups.values()].map((g): ModelPart => {
    const attributes: Attribute[] = [];
    if (g.vt.every((i) => i >= 0)) {
      const data = new Float64Array(2 * g.vt.length);
      for (const [c, i] of g.vt.entries()) for (let k = 0; k < 2; k++) data[2 * c + k] = uvs[2 * i + k];
      attributes.push({ name: 'uv', domain: 'corner', size: 2, data });
    }
    const length = (i: number): number => Math.hypot(normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]);
    if (g.vn.every((i) => i >= 0 && length(i) > 1e-6)) {
      const data = new Float64Array(3 * g.vn.length);
      for (const [c, i] of g.vn.entries()) {
        const l = length(i);
        for (let k = 0; k < 3; k++) data[3 * c + k] = normals[3 * i + k] / l;
      }
      attributes.push({ name: 'normal', domain: 'corner', size: 3, data });
    }
    const own: number[] = [];
    // Points that lie in the very same place are one, as many programs write each face with points of its own.
    const places = new Records(6, Math.min(g.v.length, positions.length / 3));
    const faceVert = Uint32Array.from(g.v, (v) => {
      if (local[v] < 0) {
        for (let k = 0; k < 3; k++) {
          const x = scaled[3 * v + k];
          places.set(2 * k, x);
          places.set(2 * k + 1, x - Math.fround(x));
        }
        local[v] = places.number();
        if (3 * local[v] === own.length) own.push(scaled[3 * v], scaled[3 * v + 1], scaled[3 * v + 2]);
      }
      return local[v];
    });
    for (const v of g.v) local[v] = -1;
    const name = (several.get(g.name) ?? 0) > 1 && g.material ? `${g.name}, ${g.material}` : g.name;
    const whole = makeMesh({ positions: own, faceStart: g.faceStart, faceVert, attributes });
    const mesh = dropRepeats(whole);
    brought += triangleCount(whole);
    dropped += triangleCount(whole) - triangleCount(mesh);
    return {
      name,
      mesh,
      placements: [IDENTITY],
      material: g.material === null ? -1 : materials.findIndex((m) => m.name === g.material),
    };
  });
  if (dropped > 0) notes.push(droppedWords(dropped, brought));
  return { parts, materials, textures, notes };
}

const [SPACE, RETURN, SLASH, ZERO, NINE] = [...' \r/09'].map((c) => c.charCodeAt(0));

/**
 * A line `v x y z` as nearly all are: three numbers, one space between them. Read without taking the line apart.
 *
 * @returns false where it is anything else; nothing was read then
 */
function plainPoint(line: string, into: number[]): boolean {
  if (!line.startsWith('v ')) return false;
  const a = line.indexOf(' ', 2);
  const b = line.indexOf(' ', a + 1);
  if (a <= 2 || b <= a + 1) return false;
  const c = line.indexOf(' ', b + 1);
  const [x, y, z] = [line.slice(2, a), line.slice(a + 1, b), line.slice(b + 1, c < 0 ? undefined : c)].map(Number);
  // What begins with a blank may be blank, which would count as nought.
  if ([2, a + 1, b + 1].some((i) => !(line.charCodeAt(i) > SPACE)) || !Number.isFinite(x + y + z)) return false;
  into.push(x, y, z);
  return true;
}

/**
 * A line `f 1/2/3 …` as nearly all are: whole numbers that count from the first, slashes, spaces. Read number by number.
 *
 * @returns false where it is anything else, or names what isn't there; nothing was read then
 */
function plainFace(line: string, into: Group, points: number, uvs: number, normals: number): boolean {
  if (!line.startsWith('f ')) return false;
  const before = into.v.length;
  const most = [points, uvs, normals];
  const lists = [into.v, into.vt, into.vn];
  let at = 2;
  let good = true;
  while (good) {
    while (line.charCodeAt(at) === SPACE || line.charCodeAt(at) === RETURN) at++;
    if (at >= line.length) break;
    let known = 0;
    for (; good && known < 3; known++) {
      const from = at;
      let n = 0;
      for (let code = line.charCodeAt(at); code >= ZERO && code <= NINE; code = line.charCodeAt(++at)) n = 10 * n + (code - ZERO);
      // Between two slashes there may be nothing, which is no index.
      if (at === from && known !== 1) good = false;
      else if (at > from && (n < 1 || n > most[known])) good = false;
      else lists[known].push(at > from ? n - 1 : -1);
      if (line.charCodeAt(at) !== SLASH) break;
      at++;
    }
    if (known === 3) good = false;
    for (let k = known + 1; k < 3; k++) lists[k].push(-1);
    const code = line.charCodeAt(at);
    if (at < line.length && code !== SPACE && code !== RETURN) good = false;
  }
  if (good && into.v.length >= before + 3) {
    into.faceStart.push(into.v.length);
    return true;
  }
  for (const list of lists) list.length = before;
  return false;
}
