import { InputError } from '../errors';
import { IDENTITY } from '../maths/mat4';
import { makeMesh, triangleCount } from '../mesh/polymesh';
import { Records } from '../mesh/records';
import { dropRepeats } from '../mesh/weld';
import { droppedWords } from './left-out';
import type { Model, ModelPart } from './model';

/** Head, number of triangles, and what each takes: normal, three corners, two bytes more. */
const HEAD = 80;
const EACH = 50;

/**
 * Reads an STL (3D Systems 1988), binary or as text. The format knows triangles only, each with points of its own: those that lie in the
 * very same place are one. Every solid of a text becomes a part; a binary file is one. The normals it states follow from the corners and
 * are not read.
 *
 * @param mmPerUnit what one unit of the file is
 * @throws InputError in one sentence
 */
export function readStl(bytes: Uint8Array, mmPerUnit: number): Model {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const counted = bytes.length >= HEAD + 4 ? view.getUint32(HEAD, true) : -1;
  // A binary head may begin with “solid” like a text; its length tells.
  const binary = counted >= 0 && bytes.length === HEAD + 4 + EACH * counted;
  const solids = binary
    ? [binarySolid(bytes, view, counted, mmPerUnit)]
    : isText(bytes)
      ? textSolids(bytes, mmPerUnit)
      : wrongCount(bytes, counted);
  let [brought, dropped] = [0, 0];
  const parts = solids
    .filter((s) => s.points.length > 0)
    .map(({ name, points }): ModelPart => {
      const whole = joined(points);
      const mesh = dropRepeats(whole);
      brought += triangleCount(whole);
      dropped += triangleCount(whole) - triangleCount(mesh);
      return { name, mesh, placements: [IDENTITY], material: -1 };
    });
  return { parts, materials: [], textures: [], notes: dropped > 0 ? [droppedWords(dropped, brought)] : [] };
}

interface Solid {
  name: string;
  /** 9 numbers a triangle, mm. */
  points: ArrayLike<number>;
}

const isText = (bytes: Uint8Array): boolean => /^\s*solid\b/.test(new TextDecoder('latin1').decode(bytes.subarray(0, 256)));

function wrongCount(bytes: Uint8Array, counted: number): never {
  if (counted < 0) throw new InputError('stl/short', 'The STL ends before its head does.');
  const there = Math.floor((bytes.length - HEAD - 4) / EACH);
  throw new InputError('stl/count', `The STL says it has ${counted} triangles and has room for ${there}.`);
}

function binarySolid(bytes: Uint8Array, view: DataView, count: number, mmPerUnit: number): Solid {
  const points = new Float64Array(9 * count);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 9; k++) {
      const x = view.getFloat32(HEAD + 4 + EACH * t + 12 + 4 * k, true);
      if (!Number.isFinite(x)) throw new InputError('stl/number', `Triangle ${t + 1} of the STL has a corner that is no place.`);
      points[9 * t + k] = x * mmPerUnit;
    }
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, HEAD)).split('\0')[0];
  return { name: head.replace(/^solid\s*/i, '').trim(), points };
}

/** Words of a text one after the other, with the line each stands in and where it begins. */
function* words(text: string): Generator<{ word: string; line: number; from: number }> {
  let line = 1;
  for (const { 0: word, index: from } of text.matchAll(/\n|[^\s]+/g)) {
    if (word === '\n') line++;
    else yield { word, line, from };
  }
}

function textSolids(bytes: Uint8Array, mmPerUnit: number): Solid[] {
  const text = new TextDecoder('utf-8').decode(bytes);
  const solids: { name: string; points: number[] }[] = [];
  const reader = words(text);
  let at = { word: '', line: 1, from: text.length };
  const next = (): string => {
    const step = reader.next();
    at = step.done ? { word: '', line: at.line, from: text.length } : step.value;
    return at.word.toLowerCase();
  };
  const fail = (what: string): never => {
    throw new InputError('stl/line', `Line ${at.line} of the STL ${what}`);
  };
  const expect = (...wanted: string[]) => {
    for (const w of wanted)
      if (next() !== w)
        fail(at.word === '' ? 'ends in the middle of a triangle.' : `has “${at.word.slice(0, 20)}” where “${w}” should be.`);
  };
  const number = (): number => {
    const x = Number(next() || Number.NaN);
    if (!Number.isFinite(x)) fail(`has “${at.word.slice(0, 20)}” where a number should be.`);
    return x;
  };
  let word = next();
  while (word !== '') {
    if (word !== 'solid') fail(`has “${at.word.slice(0, 20)}” where “solid” should be.`);
    const { line, from } = at;
    const end = text.indexOf('\n', from);
    const name = text.slice(from + 'solid'.length, end < 0 ? text.length : end).trim();
    const solid = { name, points: [] as number[] };
    // Its name is the rest of the line, however many words.
    word = next();
    while (word !== '' && at.line === line) word = next();
    while (word === 'facet') {
      expect('normal');
      for (let k = 0; k < 3; k++) next();
      expect('outer', 'loop');
      for (let corner = 0; corner < 3; corner++) {
        expect('vertex');
        for (let k = 0; k < 3; k++) solid.points.push(number() * mmPerUnit);
      }
      expect('endloop', 'endfacet');
      word = next();
    }
    if (word !== 'endsolid')
      fail(word === '' ? 'ends before its solid does.' : `has “${at.word.slice(0, 20)}” where a facet or the end should be.`);
    const last = at.line;
    word = next();
    while (word !== '' && at.line === last) word = next();
    solids.push(solid);
  }
  return solids;
}

/** Triangles whose corners in the very same place are one point. */
function joined(points: ArrayLike<number>) {
  const places = new Records(6, points.length / 3);
  const positions: number[] = [];
  const faceVert = Uint32Array.from({ length: points.length / 3 }, (_, c) => {
    for (let k = 0; k < 3; k++) {
      const x = points[3 * c + k] + 0;
      places.set(2 * k, x);
      places.set(2 * k + 1, x - Math.fround(x));
    }
    const v = places.number();
    if (3 * v === positions.length) positions.push(points[3 * c], points[3 * c + 1], points[3 * c + 2]);
    return v;
  });
  return makeMesh({ positions, faceStart: Array.from({ length: faceVert.length / 3 + 1 }, (_, i) => 3 * i), faceVert, attributes: [] });
}
