import { Document, WebIO } from '@gltf-transform/core';
import fc from 'fast-check';
import validator from 'gltf-validator';
import { type Mesh, type Object3D, Vector3 } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { WellmorphError } from '../errors';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { IDENTITY, placement, transformPoint } from '../maths/mat4';
import { gpuMesh } from '../mesh/gpu';
import { boundsOf, volumeOf } from '../mesh/measures';
import { attribute, faceCount, triangleCount } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { fromLibrary } from '../surface/library';
import { type Material, PLAIN } from '../surface/material';
import { writeGlb } from './glb-write';
import { formatOf, readModel } from './read';

const text = (s: string) => new TextEncoder().encode(s);
const glbOf = (mesh = cube(100), placements = [IDENTITY]) =>
  writeGlb([{ name: 'Cube', gpu: gpuMesh(mesh, { hardAngle: 30 }), placements, material: null }], { name: 'Scene', materials: [] });
const inThree = async (glb: Uint8Array): Promise<Object3D> =>
  new Promise((ok, no) => new GLTFLoader().parse(glb.slice().buffer as ArrayBuffer, '', (g) => ok(g.scene), no));

const CUBE_OBJ = `o Cube
v -50 0 -50
v 50 0 -50
v 50 0 50
v -50 0 50
v -50 100 -50
v 50 100 -50
v 50 100 50
v -50 100 50
f 1 2 3 4
f 5 8 7 6
f 1 5 6 2
f 2 6 7 3
f 3 7 8 4
f -5 -1 -4 -8
`;

describe('units and axes', () => {
  it('a 100 mm cube is ±0.05 m in the GLB and 100 mm again when read', async () => {
    const glb = await glbOf();
    const p = (await new WebIO().readBinary(glb)).getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('POSITION');
    expect(p?.getMin([])[0]).toBeCloseTo(-0.05, 7);
    expect(p?.getMax([])[1]).toBeCloseTo(0.1, 7);
    const back = await readModel('cube.glb', glb);
    expect(boundsOf(back.parts[0].mesh).max[1]).toBeCloseTo(100, 4);
    expect(volumeOf(back.parts[0].mesh)).toBeCloseTo(1e6, 0);
  });
  it.each([
    ['mm', 1],
    ['cm', 10],
    ['m', 1000],
    ['in', 25.4],
  ] as const)('an OBJ in %s', async (unit, k) => {
    const { parts } = await readModel('cube.obj', text(CUBE_OBJ), { unit });
    expect(boundsOf(parts[0].mesh).max[1]).toBeCloseTo(100 * k, 6);
    expect(volumeOf(parts[0].mesh)).toBeCloseTo(1e6 * k ** 3, -2);
  });
  it('sRGB 188 is 0.503 in linear light (IEC 61966-2-1), and back', () => {
    expect(srgbToLinear(188 / 255)).toBeCloseTo(0.503, 3);
    for (let i = 0; i < 256; i++) expect(linearToSrgb(srgbToLinear(i / 255)) * 255).toBeCloseTo(i, 6);
  });
});

describe('what is written', () => {
  it('passes the Khronos validator without error or warning, with and without materials, layout and maps', async () => {
    const laid = gpuMesh(sheet(4, 20, (x, z) => 0.1 * x * z));
    const material: Material = { ...fromLibrary('polished-brass', 'b'), name: 'Brass' };
    const glass: Material = { ...fromLibrary('clear-glass', 'g'), name: 'Glass' };
    for (const glb of [
      await glbOf(),
      await writeGlb(
        [
          { name: 'A', gpu: laid, placements: [placement([1, 2, 3], [10, 20, 30]), IDENTITY], material: 'b' },
          { name: 'B', gpu: laid, placements: [IDENTITY], material: 'g' },
        ],
        { name: 'Two', materials: [material, glass] },
      ),
    ]) {
      const report = await validator.validateBytes(glb);
      expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    }
  });
  it('is read by three’s loader with the same triangles and places', async () => {
    const m = placement([10, 20, 30], [20, -40, 70]);
    const scene = await inThree(await glbOf(cube(100), [m]));
    scene.updateWorldMatrix(true, true);
    let found: Mesh | undefined;
    scene.traverse((o) => {
      if ((o as Mesh).isMesh) found = o as Mesh;
    });
    expect(found?.geometry.index?.count).toBe(36);
    const at = new Vector3()
      .fromBufferAttribute(found?.geometry.getAttribute('position') as never, 0)
      .applyMatrix4((found as Mesh).matrixWorld);
    const corner =
      (await new WebIO().readBinary(await glbOf(cube(100), [m])))
        .getRoot()
        .listMeshes()[0]
        .listPrimitives()[0]
        .getAttribute('POSITION')
        ?.getElement(0, []) ?? [];
    const ours = transformPoint(m, corner.map((x) => x * 1000) as [number, number, number]);
    for (const [k, x] of at.toArray().entries()) expect(x * 1000).toBeCloseTo(ours[k], 3);
  });
  it('an F on a face keeps its way up: v is turned over once, not twice', async () => {
    const glb = await writeGlb([{ name: 'F', gpu: gpuMesh(sheet(1, 10, () => 0)), placements: [IDENTITY], material: null }], {
      name: 'F',
      materials: [],
    });
    const p = (await new WebIO().readBinary(glb)).getRoot().listMeshes()[0].listPrimitives()[0];
    // The sheet's v grows toward −z. glTF's v runs down, so the corner at −z has v = 0.
    for (let i = 0; i < 4; i++)
      expect(p.getAttribute('TEXCOORD_0')?.getElement(i, [])[1]).toBeCloseTo(
        (p.getAttribute('POSITION')?.getElement(i, [])[2] ?? 0) < 0 ? 0 : 1,
        6,
      );
    const back = (await readModel('f.glb', glb)).parts[0].mesh;
    const uv = attribute(back, 'uv')?.data ?? [];
    for (let c = 0; c < back.faceVert.length; c++)
      expect(uv[2 * c + 1]).toBeCloseTo(back.positions[3 * back.faceVert[c] + 2] < 0 ? 1 : 0, 6);
    const obj = 'v -5 0 5\nv 5 0 5\nv 5 0 -5\nv -5 0 -5\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n';
    const fromObj = (await readModel('f.obj', text(obj))).parts[0].mesh;
    const uvObj = attribute(fromObj, 'uv')?.data ?? [];
    for (let c = 0; c < 4; c++) expect(uvObj[2 * c + 1]).toBe(fromObj.positions[3 * fromObj.faceVert[c] + 2] < 0 ? 1 : 0);
  });
});

describe('what is read', () => {
  it('nested turn × uneven size × mirror as three sees it: positions, volume, normals', async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const gpu = gpuMesh(cube(1000), { hardAngle: 30 });
    const accessor = (a: Float32Array | Uint16Array, type: 'VEC3' | 'SCALAR') =>
      document
        .createAccessor()
        .setType(type)
        .setArray(a.slice() as Float32Array<ArrayBuffer>)
        .setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setIndices(accessor(Uint16Array.from(gpu.index), 'SCALAR'))
      .setAttribute(
        'POSITION',
        accessor(
          gpu.position.map((x) => x / 1000),
          'VEC3',
        ),
      )
      .setAttribute('NORMAL', accessor(gpu.normal, 'VEC3'));
    const leaf = document
      .createNode('leaf')
      .setMesh(document.createMesh('M').addPrimitive(primitive))
      .setScale([-1, 2, 0.5])
      .setTranslation([0.3, 0, 0]);
    const middle = document
      .createNode('middle')
      .setRotation([0, Math.sin(0.4), 0, Math.cos(0.4)])
      .addChild(leaf);
    const top = document
      .createNode('top')
      .setScale([1, 1, 3])
      .setRotation([Math.sin(0.3), 0, 0, Math.cos(0.3)])
      .addChild(middle);
    document.createScene().addChild(top);
    const glb = await new WebIO().writeBinary(document);
    const part = (await readModel('m.glb', glb)).parts[0];
    const mesh = transform(part.mesh, part.placements[0]);
    const scene = await inThree(glb);
    scene.updateWorldMatrix(true, true);
    const corners: number[][] = [];
    scene.traverse((o) => {
      const g = (o as Mesh).isMesh && (o as Mesh).geometry.getAttribute('position');
      if (g)
        for (let i = 0; i < g.count; i++)
          corners.push(
            new Vector3()
              .fromBufferAttribute(g as never, i)
              .applyMatrix4(o.matrixWorld)
              .multiplyScalar(1000)
              .toArray(),
          );
    });
    for (let v = 0; v < mesh.positions.length; v += 3)
      expect(Math.min(...corners.map((c) => Math.hypot(...c.map((x, k) => x - mesh.positions[v + k]))))).toBeLessThan(0.01);
    expect(volumeOf(mesh)).toBeCloseTo(1e9 * 3, -4);
    const normals = attribute(mesh, 'normal')?.data ?? [];
    for (let f = 0; f < faceCount(mesh); f++) {
      const c = mesh.faceStart[f];
      const p = [0, 1, 2].map((k) => [0, 1, 2].map((j) => mesh.positions[3 * mesh.faceVert[c + k] + j]));
      const u = p[1].map((x, j) => x - p[0][j]);
      const w = p[2].map((x, j) => x - p[0][j]);
      const n = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
      expect(n.reduce((s, x, j) => s + x * normals[3 * c + j], 0) / Math.hypot(...n)).toBeCloseTo(1, 4);
    }
  });
  it('an OBJ as three’s loader counts it, with its objects, materials and MTL', async () => {
    const two = `mtllib a.mtl\n${CUBE_OBJ.replace('o Cube', 'o Left\nusemtl Red')}o Right\nusemtl Blue\nf 1 2 3\nf 1 3 4\n`;
    const model = await readModel('two.obj', text(two), {
      companions: { 'a.mtl': text('newmtl Red\nKd 1 0 0\nPm 1\nnewmtl Blue\nKd 0 0 1\nd 0.5\n') },
    });
    const three = new OBJLoader().parse(two);
    expect(model.parts.map((p) => p.name)).toEqual(['Left', 'Right']);
    const counts = three.children.map((c) => (c as Mesh).geometry.getAttribute('position').count / 3);
    expect(model.parts.map((p) => triangleCount(p.mesh))).toEqual(counts);
    expect(model.materials).toEqual([
      expect.objectContaining({ name: 'Red', colour: [1, 0, 0], metallic: 1 }),
      expect.objectContaining({ name: 'Blue', transmission: 0.5, touched: false }),
    ]);
    expect(model.parts[1].material).toBe(1);
  });
  it('names are text: control characters go, and what has no name is given one', async () => {
    const obj = (name: string) => `o ${name}\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n`;
    const named = async (name: string, file = 'a.obj') => (await readModel(file, new TextEncoder().encode(obj(name)))).parts[0].name;
    expect(await named('Li\u0002d\u0007')).toBe('Lid');
    expect(await named('Λάμπα 灯')).toBe('Λάμπα 灯');
    // That of its file, if that has one.
    expect(await named('\u0001', 'folder/spare wick.obj')).toBe('spare wick');
    expect(await named('\u0001', '.obj')).toBe('Part');
  });
  it('an import gets patches by connected smooth regions, largest first, the same every time', async () => {
    const names = (m: Awaited<ReturnType<typeof readModel>>['parts'][number]['mesh']) => {
      const p = attribute(m, 'patch', 'face')?.data ?? [];
      return [...p].map((i) => m.patches[i]);
    };
    const cubeParts = (await readModel('cube.obj', text(CUBE_OBJ))).parts[0].mesh;
    expect(new Set(names(cubeParts)).size).toBe(6);
    // A can of 24 sides: its smooth wall is one patch and the largest, each lid one of its own.
    const n = 24;
    const rings = [0, 60].flatMap((y) =>
      Array.from({ length: n }, (_, i) => `v ${20 * Math.cos((2 * Math.PI * i) / n)} ${y} ${-20 * Math.sin((2 * Math.PI * i) / n)}`),
    );
    const walls = Array.from({ length: n }, (_, i) => `f ${i + 1} ${((i + 1) % n) + 1} ${n + ((i + 1) % n) + 1} ${n + i + 1}`);
    const lids = [Array.from({ length: n }, (_, i) => n - i), Array.from({ length: n }, (_, i) => n + 1 + i)].map(
      (l) => `f ${l.join(' ')}`,
    );
    const can = text([...rings, ...walls, ...lids].join('\n'));
    const mesh = (await readModel('can.obj', can)).parts[0].mesh;
    expect(names(mesh)).toEqual([...new Array(n).fill('surface 1'), 'surface 2', 'surface 3']);
    expect(names((await readModel('can.obj', can)).parts[0].mesh)).toEqual(names(mesh));
    expect(volumeOf(mesh)).toBeCloseTo(0.5 * n * 400 * Math.sin((2 * Math.PI) / n) * 60, 6);
  });
  it('one material per name and look: slots that look the same stay apart', async () => {
    const gpu = gpuMesh(cube(10));
    const m = (id: string, r: number): Material => ({ ...PLAIN, id, name: id, touched: true, colour: [r, 0.5, 0.5] });
    const glb = await writeGlb(
      ['a', 'b', 'c'].map((id) => ({ name: id, gpu, placements: [IDENTITY], material: id })),
      { name: 's', materials: [m('a', 0.2), m('b', 0.2), m('c', 0.9)] },
    );
    const model = await readModel('s.glb', glb);
    expect(model.materials.map((x) => x.name)).toEqual(['a', 'b', 'c']);
    expect(model.parts.map((p) => p.material)).toEqual([0, 1, 2]);
  });
});

describe('files that lie are refused in one sentence', () => {
  const refused = async (name: string, bytes: Uint8Array, words: RegExp) => {
    await expect(readModel(name, bytes)).rejects.toThrow(words);
    await expect(readModel(name, bytes)).rejects.toBeInstanceOf(WellmorphError);
  };
  it.each([
    ['truncated.obj', 'v 0 0', /Line 1 .* ends before/],
    ['range.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n', /element 9 of 3/],
    ['nan.obj', 'v 0 nan 0\n', /where a number should be/],
    ['empty.obj', 'v 0 0 0\n', /no faces/],
    ['other.obj', '{"asset": {}}', /another format|not OBJ/],
    ['zero.obj', 'v 0 0 0\nf 0 0 0\n', /where an index should be/],
    ['short.obj', 'v 0 0 0\nf 1 1\n', /fewer than three/],
    ['model.fbx', 'x', /not a kind of file/],
  ])('%s', async (name, content, words) => {
    await refused(name, text(content), words);
  });
  it('a GLB cut off anywhere', async () => {
    const glb = await glbOf();
    for (const at of [0, 3, 11, 15, 19, 21, 60, glb.length >> 1, glb.length - 1])
      await expect(readModel('a.glb', glb.slice(0, at))).rejects.toBeInstanceOf(WellmorphError);
  });
  it('counts past the end, a 4 GiB claim in a small file, indices out of range, NaN positions, files elsewhere', async () => {
    const base = {
      asset: { version: '2.0' },
      buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${btoa(String.fromCharCode(...new Uint8Array(36)))}` }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      nodes: [{ mesh: 0 }],
      scenes: [{ nodes: [0] }],
    };
    const gltf = (change: object) => text(JSON.stringify({ ...base, ...change }));
    await refused(
      'a.gltf',
      gltf({ accessors: [{ bufferView: 0, componentType: 5126, count: 300, type: 'VEC3' }] }),
      /its data ends before/,
    );
    await refused(
      'a.gltf',
      gltf({ buffers: [{ byteLength: 4294967296, uri: 'data:application/octet-stream;base64,AAAA' }] }),
      /claims 4294967296 bytes/,
    );
    await refused('a.gltf', gltf({ accessors: [{ componentType: 5126, count: 400000000, type: 'VEC3' }] }), /data that it doesn’t hold/);
    await refused('a.gltf', gltf({ buffers: [{ byteLength: 36, uri: '../secret.bin' }] }), /another file/);
    await refused('a.gltf', gltf({ buffers: [{ byteLength: 36, uri: 'http://example.invalid/x.bin' }] }), /another file/);
    await refused(
      'a.gltf',
      gltf({ extensionsRequired: ['EXT_packed_elsewhere'] }),
      /needs the extension EXT_packed_elsewhere, which is not read here/,
    );
    await refused('a.gltf', text('[1, 2'), /not whole JSON/);
    const nan = new Uint8Array(new Float32Array(9).fill(Number.NaN).buffer);
    await refused(
      'a.gltf',
      gltf({ buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${btoa(String.fromCharCode(...nan))}` }] }),
      /not a number/,
    );
    const withIndex = {
      buffers: [
        {
          byteLength: 44,
          uri: `data:application/octet-stream;base64,${btoa(String.fromCharCode(...new Uint8Array(36), 0, 0, 1, 0, 99, 0, 0, 0))}`,
        },
      ],
      bufferViews: [
        { buffer: 0, byteLength: 36 },
        { buffer: 0, byteOffset: 36, byteLength: 6 },
      ],
      accessors: [base.accessors[0], { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
    };
    await refused('a.gltf', gltf(withIndex), /vertex 99/);
  });
  it('any bytes at all: a sentence or a model, never a crash', async () => {
    const glb = await glbOf(cube(10));
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(glb.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }), async (changes) => {
        const bytes = glb.slice();
        for (const [at, value] of changes) bytes[at] = value;
        try {
          await readModel('x.glb', bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(WellmorphError);
        }
      }),
      { numRuns: 150 },
    );
    expect(formatOf('A.GLB')).toBe('glb');
  });
});
