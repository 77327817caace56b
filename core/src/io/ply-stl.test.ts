import { BufferGeometry, Float32BufferAttribute, Mesh, MeshBasicMaterial, TorusKnotGeometry } from 'three';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { describe, expect, it, vi } from 'vitest';
import { isWatertight } from '../mesh/measures';
import { attribute, faceCount, type PolyMesh, triangleCount, vertexCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { readModel } from './read';

// The exporter waits for a frame before it hands over what it has made already.
vi.stubGlobal('requestAnimationFrame', (f: () => void) => f());

const text = (s: string) => new TextEncoder().encode(s);
const knot = () => new TorusKnotGeometry(20, 6, 120, 12);
const bufferOf = (bytes: Uint8Array) => bytes.slice().buffer as ArrayBuffer;
const meshOf = async (name: string, bytes: Uint8Array): Promise<PolyMesh> => (await readModel(name, bytes)).parts[0].mesh;

/** Corners of all triangles of a geometry in turn. */
function cornersOf(g: BufferGeometry): number[] {
  const flat = g.index ? g.toNonIndexed() : g;
  return [...flat.getAttribute('position').array];
}
const expectClose = (a: ArrayLike<number>, b: ArrayLike<number>, digits: number) => {
  expect(a.length).toBe(b.length);
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i] - b[i]));
  expect(most).toBeLessThan(10 ** -digits);
};

/** A cube’s head and body as PLY text. */
const CUBE = `ply
format ascii 1.0
comment eight corners, six sides
element vertex 8
property float x
property float y
property float z
property uchar red
property uchar green
property uchar blue
element face 6
property list uchar int vertex_indices
end_header
0 0 0 255 0 0
1 0 0 255 0 0
1 1 0 255 0 0
0 1 0 188 188 188
0 0 1 0 0 0
1 0 1 0 0 0
1 1 1 0 0 0
0 1 1 0 0 0
4 3 2 1 0
4 4 5 6 7
4 0 1 5 4
4 1 2 6 5
4 2 3 7 6
4 3 0 4 7
`;

describe('PLY', () => {
  it.each([
    ['text', {}],
    ['binary, small end first', { binary: true, littleEndian: true }],
    ['binary, large end first', { binary: true, littleEndian: false }],
  ] as const)('as three’s exporter writes it and its loader reads it: %s', async (_, options) => {
    const made = new PLYExporter().parse(new Mesh(knot(), new MeshBasicMaterial()), () => {}, options as { binary: boolean });
    const bytes = typeof made === 'string' ? text(made) : new Uint8Array(made as unknown as ArrayBuffer);
    const theirs = new PLYLoader().parse(bufferOf(bytes));
    const mesh = await meshOf('knot.ply', bytes);
    expectClose(soupOf(mesh), cornersOf(theirs), 5);
    const normals = attribute(mesh, 'normal', 'corner')?.data ?? [];
    const flat = theirs.toNonIndexed().getAttribute('normal').array;
    expectClose(normals, flat, 5);
    const layout = attribute(mesh, 'uv', 'corner')?.data ?? [];
    expectClose(layout, theirs.toNonIndexed().getAttribute('uv').array, 5);
  });

  it('faces of four stay faces of four, colours become light as three takes them', async () => {
    const bytes = text(CUBE);
    const { parts, notes } = await readModel('box.ply', bytes, { unit: 'cm' });
    expect([faceCount(parts[0].mesh), triangleCount(parts[0].mesh), vertexCount(parts[0].mesh)]).toEqual([6, 12, 8]);
    expect(parts[0].name).toBe('box');
    expect(isWatertight(parts[0].mesh)).toBe(true);
    expect(Math.max(...parts[0].mesh.positions)).toBe(10);
    expect(notes.join()).toMatch(/Colours of vertices are kept/);
    const colour = attribute(parts[0].mesh, 'colour', 'corner')?.data ?? [];
    const theirs = new PLYLoader().parse(bufferOf(bytes)).toNonIndexed().getAttribute('color').array;
    // The first face is 3 2 1 0: grey, of which half the light is left, then red.
    expect([...colour.slice(0, 8)].map((x) => Math.round(1000 * x) / 1000)).toEqual([0.503, 0.503, 0.503, 1, 1, 0, 0, 1]);
    // It keeps bytes of light: 188 of a screen's 255 are 128.
    expect([...theirs.slice(0, 3)]).toEqual([128, 128, 128]);
    expect(Math.round(255 * colour[0])).toBe(128);
  });

  it('a million million of what takes no bytes are gone over in no time', async () => {
    const endless = CUBE.replace('element face 6', 'element nothing 1000000000000\nelement face 6');
    expect(faceCount(await meshOf('e.ply', text(endless)))).toBe(6);
  });

  it('goes over what it does not know, and takes layouts of corners', async () => {
    const strange = CUBE.replace('element face 6', 'element camera 1\nproperty list uchar float lens\nproperty double zoom\nelement face 6')
      .replace(
        'property list uchar int vertex_indices',
        'property uchar flag\nproperty list uchar int vertex_index\nproperty list uchar float texcoord',
      )
      .replace('4 3 2 1 0\n', '3 1.5 2 3 9\n1 4 3 2 1 0 8 0 0 1 0 1 1 0 1\n')
      .replace(/^4 ([4-9]|[0-3] \d \d \d)(.*)$/gm, (line) => `0 ${line} 8 0 0 1 0 1 1 0 1`);
    const mesh = await meshOf('s.ply', text(strange));
    expect(faceCount(mesh)).toBe(6);
    expect([...(attribute(mesh, 'uv', 'corner')?.data ?? [])].slice(0, 8)).toEqual([0, 0, 1, 0, 1, 1, 0, 1]);
  });

  it.each([
    ['is no PLY', 'solid x', /does not begin as one/],
    ['says no format', CUBE.replace('format ascii 1.0\n', ''), /does not say how it is written/],
    ['has a head nobody can read', CUBE.replace('property float y', 'property strange y'), /can’t be read: “property strange y”/],
    ['has a list too long', CUBE.replace('4 3 2 1 0', '4000000 3 2 1 0'), /list of “face” 1 of the PLY says it has 4000000 entries/],
    ['has a list of minus one', CUBE.replace('4 3 2 1 0', '-1 3 2 1 0'), /says it has -1 entries/],
    [
      'counts more than it holds',
      CUBE.replace('element vertex 8', 'element vertex 80000000'),
      /says it has 80000000 of “vertex” and is too short/,
    ],
    ['ends early', CUBE.slice(0, -12), /ends before all it says/],
    ['refers to what isn’t there', CUBE.replace('4 3 2 1 0', '4 3 2 1 9'), /Face 1 of the PLY refers to vertex 9 of 8/],
    ['has a word among its numbers', CUBE.replace('1 1 1 0', '1 one 1 0'), /has “one” where a number should be/],
    ['has no depth', CUBE.replace('property float z', 'property float w'), /no vertices with x, y and z/],
    ['holds points alone', CUBE.replace('element face 6', 'element face 0').split('\n4 3')[0], /8 points and no faces/],
  ])('one that %s is refused in one sentence', async (_, file, sentence) => {
    await expect(readModel('bad.ply', text(file))).rejects.toThrow(sentence);
  });
});

describe('STL', () => {
  it.each([true, false])(
    'as three’s exporter writes it and its loader reads it, binary %s: the same triangles, joined where they meet',
    async (binary) => {
      const made = new STLExporter().parse(new Mesh(knot(), new MeshBasicMaterial()), { binary });
      const bytes = typeof made === 'string' ? text(made) : new Uint8Array((made as DataView).buffer as ArrayBuffer);
      const theirs = new STLLoader().parse(bufferOf(bytes));
      const mesh = await meshOf('knot.stl', bytes);
      expectClose(soupOf(mesh), cornersOf(theirs), 5);
      // A tube of 120 × 12 quads closed on itself.
      expect([vertexCount(mesh), triangleCount(mesh)]).toEqual([1440, 2880]);
      expect(isWatertight(mesh)).toBe(true);
    },
  );

  it('a text of several solids is as many parts, called as they are; a head that says “solid” may be binary', async () => {
    const facet = (z: number) =>
      `facet normal 0 0 1\nouter loop\nvertex 0 0 ${z}\nvertex 1e0 0 ${z}\nvertex 0 +1.0 ${z}\nendloop\nendfacet\n`;
    const file = `solid lid of tin\n${facet(1)}endsolid lid of tin\nSOLID\n${facet(2).toUpperCase()}${facet(3)}ENDSOLID\n`;
    const { parts } = await readModel('tin.stl', text(file), { unit: 'in' });
    expect(parts.map((p) => [p.name, triangleCount(p.mesh)])).toEqual([
      ['lid of tin', 1],
      ['tin', 2],
    ]);
    expect(Math.max(...parts[0].mesh.positions)).toBeCloseTo(25.4, 9);
    const g = new BufferGeometry();
    g.setAttribute('position', new Float32BufferAttribute([0, 0, 0, 1, 0, 0, 0, 1, 0], 3));
    const made = new Uint8Array((new STLExporter().parse(new Mesh(g), { binary: true }) as unknown as DataView).buffer as ArrayBuffer);
    made.set(text('solid sheet'));
    expect((await readModel('x.stl', made)).parts[0].name).toBe('sheet');
  });

  it.each([
    ['counts wrong', new Uint8Array(84 + 50).fill(1, 80, 81), /says it has 1 triangles|no place|holds no faces|corners/],
    [
      'has room for fewer',
      Uint8Array.from({ length: 84 + 100 }, (_, i) => (i === 80 ? 3 : 0)),
      /says it has 3 triangles and has room for 2/,
    ],
    ['is too short', new Uint8Array(40), /ends before its head does/],
    ['stops in a triangle', text('solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n'), /ends in the middle of a triangle/],
    [
      'has a word for a number',
      text('solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 x 0\n'),
      /Line 4 of the STL has “x” where a number should be/,
    ],
    [
      'never ends its solid',
      text('solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\n'),
      /ends before its solid does/,
    ],
    ['holds nothing', text('solid a\nendsolid a\n'), /holds no faces/],
  ])('one that %s is refused in one sentence', async (_, file, sentence) => {
    await expect(readModel('bad.stl', file)).rejects.toThrow(sentence);
  });
});
