import { Document, WebIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRMeshQuantization,
} from '@gltf-transform/extensions';
import draco3d from 'draco3d';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { encodePng } from '../src/image/png';
import { random } from '../src/maths/random';
import { faceCount, type PolyMesh, triangleCount, vertexCount } from '../src/mesh/polymesh';
import { soupOf } from '../src/mesh/soup';
import type { AssetDocument } from '../src/pipeline/document';
import { asset, part } from '../test/assets';
import { randomStep, stepOf } from '../test/recipes';
import { cube, sheet, torusMesh } from '../test/shapes';
import { StepFile } from '../test/step-files';

/** A sound file that damage is done to. */
export type Original =
  | { kind: 'text'; format: 'obj' | 'ply' | 'stl' | 'step'; name: string; text: string }
  | { kind: 'binary'; format: 'ply' | 'stl'; name: string; bytes: Uint8Array }
  | { kind: 'glb'; name: string; bytes: Uint8Array }
  | { kind: 'gltf'; name: string; json: Record<string, unknown> }
  | { kind: 'asset'; name: string; document: AssetDocument; meshes: PolyMesh[] };

const dot = encodePng({ width: 1, height: 1, channels: 4, depth: 8, data: new Uint8Array([200, 40, 40, 255]) });
const ring = (): PolyMesh => torusMesh(30, 8, 12, 8, false);

const placesOf = (mesh: PolyMesh): number[][] =>
  Array.from({ length: vertexCount(mesh) }, (_, v) => [...mesh.positions.slice(3 * v, 3 * v + 3)]);
const facesOf = (mesh: PolyMesh): number[][] =>
  Array.from({ length: faceCount(mesh) }, (_, f) => [...mesh.faceVert.slice(mesh.faceStart[f], mesh.faceStart[f + 1])]);

/** The head of a PLY of a mesh with colours. */
const plyHead = (mesh: PolyMesh, format: string): string => `ply
format ${format} 1.0
comment made to be damaged
element vertex ${vertexCount(mesh)}
property float x
property float y
property float z
property uchar red
property uchar green
property uchar blue
element face ${faceCount(mesh)}
property list uchar int vertex_indices
end_header
`;
const plyText = (mesh: PolyMesh): string =>
  `${plyHead(mesh, 'ascii')}${placesOf(mesh)
    .map((p) => `${p.join(' ')} 200 40 40\n`)
    .join('')}${facesOf(mesh)
    .map((f) => `${f.length} ${f.join(' ')}\n`)
    .join('')}`;

function plyBytes(mesh: PolyMesh): Uint8Array {
  const head = new TextEncoder().encode(plyHead(mesh, 'binary_big_endian'));
  const faces = facesOf(mesh);
  const out = new Uint8Array(head.length + 15 * vertexCount(mesh) + faces.reduce((n, f) => n + 1 + 4 * f.length, 0));
  out.set(head);
  const view = new DataView(out.buffer);
  let at = head.length;
  for (const p of placesOf(mesh)) {
    for (const x of p) {
      view.setFloat32(at, x);
      at += 4;
    }
    out.set([200, 40, 40], at);
    at += 3;
  }
  for (const f of faces) {
    out[at++] = f.length;
    for (const v of f) {
      view.setInt32(at, v);
      at += 4;
    }
  }
  return out;
}

const stlText = (mesh: PolyMesh): string => {
  const soup = soupOf(mesh);
  const corner = (i: number) => `vertex ${soup[i]} ${soup[i + 1]} ${soup[i + 2]}\n`;
  const facets = Array.from(
    { length: soup.length / 9 },
    (_, t) => `facet normal 0 0 1\nouter loop\n${corner(9 * t)}${corner(9 * t + 3)}${corner(9 * t + 6)}endloop\nendfacet\n`,
  );
  return `solid one\n${facets.slice(0, 6).join('')}endsolid one\nsolid two\n${facets.slice(6).join('')}endsolid two\n`;
};

function stlBytes(mesh: PolyMesh): Uint8Array {
  const soup = soupOf(mesh);
  const out = new Uint8Array(84 + (50 * soup.length) / 9);
  const view = new DataView(out.buffer);
  view.setUint32(80, soup.length / 9, true);
  for (let t = 0; t < soup.length / 9; t++) for (let k = 0; k < 9; k++) view.setFloat32(84 + 50 * t + 12 + 4 * k, soup[9 * t + k], true);
  return out;
}

const stepText = (): string =>
  new TextDecoder().decode(
    new StepFile()
      .box('Foot', [0, 0, 0], [20, 10, 30], [0.8, 0.1, 0.1], [0, 0, 1])
      .cone('Pin', 4, 2, 12)
      .boredBlock('Block', [40, 0, 0], [60, 30, 10], [50, 12], 3)
      .bytes(),
  );

/** A text model with everything that is read of it: layout, normals, objects, groups, materials, faces of many corners, counting back. */
function objText(mesh: PolyMesh, name: string): string {
  const lines = [`mtllib ${name}.mtl`, `o ${name}`, 'usemtl paint', 's 1'];
  for (let v = 0; v < mesh.positions.length; v += 3)
    lines.push(`v ${Array.from(mesh.positions.slice(v, v + 3), (x) => x.toFixed(4)).join(' ')}`);
  lines.push('vt 0 0', 'vt 1 0', 'vt 1 1', 'vn 0 1 0', 'vn 1 0 0');
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const corners = Array.from(
      mesh.faceVert.slice(mesh.faceStart[f], mesh.faceStart[f + 1]),
      (v, k) => `${v + 1}/${1 + (k % 3)}/${1 + (k % 2)}`,
    );
    lines.push(`f ${corners.join(' ')}`);
  }
  lines.push('g lid', 'usemtl glass', 'v 0 90 0', 'v 20 90 0', 'v 20 90 20', 'v 0 90 20', 'f -4 -3 -2 -1', '');
  return lines.join('\n');
}

function gltf(build: (document: Document) => void = () => {}): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const shape = ring();
  const index: number[] = [];
  for (let t = 0; t < 3 * triangleCount(shape); t++) index.push(shape.faceVert[shape.triangles[t]]);
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', data: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(data).setBuffer(buffer);
  const vertices = shape.positions.length / 3;
  const primitive = document
    .createPrimitive()
    .setAttribute(
      'POSITION',
      accessor(
        'VEC3',
        Float32Array.from(shape.positions, (x) => x / 1000),
      ),
    )
    .setAttribute(
      'NORMAL',
      accessor(
        'VEC3',
        Float32Array.from({ length: 3 * vertices }, (_, i) => (i % 3 === 1 ? 1 : 0)),
      ),
    )
    .setAttribute(
      'TEXCOORD_0',
      accessor(
        'VEC2',
        Float32Array.from({ length: 2 * vertices }, (_, i) => (i % 17) / 17),
      ),
    )
    .setIndices(accessor('SCALAR', Uint16Array.from(index)))
    .setMaterial(
      document
        .createMaterial('Paint')
        .setEmissiveFactor([0.1, 0, 0])
        .setBaseColorTexture(document.createTexture('paint').setImage(dot).setMimeType('image/png')),
    );
  const mesh = document.createMesh('Ring').addPrimitive(primitive);
  const inner = document.createNode('Inner').setMesh(mesh).setScale([2, 2, 2]).setRotation([0, 0.6, 0, 0.8]);
  const outer = document.createNode('Group').setTranslation([0.1, 0, 0]).addChild(inner);
  document
    .createScene('All')
    .addChild(outer)
    .addChild(document.createNode('Second').setMesh(mesh).setScale([1, 3, -1]));
  build(document);
  return document;
}

function assets(): Original[] {
  const next = random(5);
  const made = Array.from({ length: 6 }, (_, i) => part(`p${i}`, [{ ...randomStep(next), id: `s${i}` }], { move: [90 * i, 0, 0] }));
  const meshes = [cube(10), ring(), sheet(4, 30, (x) => x / 5)];
  const stored = meshes.map((_, i) => ({
    ...part(`m${i}`, [], { high: { blob: `mesh ${i}`, triangles: 1, level: 1 } as never }),
    shape: {
      kind: 'mesh' as const,
      low: { blob: `mesh ${i}`, triangles: 1 },
      placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 50 * i, 80, 0, 1]] as never,
    },
  }));
  for (const p of stored) delete p.high;
  return [
    { kind: 'asset', name: 'steps', document: asset(made), meshes: [] },
    { kind: 'asset', name: 'meshes', document: asset(stored), meshes },
    {
      kind: 'asset',
      name: 'changers',
      document: asset([
        part('a', [stepOf('box', { id: 'b' }), stepOf('bevel', { id: 'c' }), stepOf('shell', { id: 'd' })]),
        part('b', [stepOf('turned', { id: 'e' }), stepOf('twist', { id: 'f' }), stepOf('array', { id: 'g' })], { move: [200, 0, 0] }),
      ]),
      meshes: [],
    },
  ];
}

/** Everything that is damaged; small, so that many can be tried. */
export async function originals(): Promise<Original[]> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
    'draco3d.encoder': await draco3d.createEncoderModule(),
    'meshopt.encoder': MeshoptEncoder,
  });
  await MeshoptEncoder.ready;
  const glb = async (name: string, build?: (document: Document) => void): Promise<Original> => ({
    kind: 'glb',
    name,
    bytes: await io.writeBinary(gltf(build)),
  });
  const { json, resources } = await new WebIO().writeJSON(gltf());
  const plain = JSON.parse(JSON.stringify(json)) as Record<string, unknown> & { buffers: { uri: string }[]; images?: { uri?: string }[] };
  const inline = (uri: string, type: string) => `data:${type};base64,${btoa(String.fromCharCode(...resources[uri]))}`;
  for (const b of plain.buffers) b.uri = inline(b.uri, 'application/octet-stream');
  for (const i of plain.images ?? []) if (i.uri) i.uri = inline(i.uri, 'image/png');
  return [
    { kind: 'text', format: 'obj', name: 'cube', text: objText(cube(20), 'cube') },
    { kind: 'text', format: 'obj', name: 'ring', text: objText(ring(), 'ring') },
    { kind: 'text', format: 'ply', name: 'ring', text: plyText(ring()) },
    { kind: 'text', format: 'stl', name: 'cube', text: stlText(cube(20)) },
    { kind: 'text', format: 'step', name: 'solids', text: stepText() },
    { kind: 'binary', format: 'ply', name: 'cube', bytes: plyBytes(cube(20)) },
    { kind: 'binary', format: 'stl', name: 'ring', bytes: stlBytes(ring()) },
    { kind: 'gltf', name: 'plain', json: plain },
    await glb('plain'),
    await glb('draco', (d) => d.createExtension(KHRDracoMeshCompression).setRequired(true)),
    await glb('meshopt', (d) => {
      d.createExtension(KHRMeshQuantization).setRequired(true);
      d.createExtension(EXTMeshoptCompression)
        .setRequired(true)
        .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
    }),
    await glb('copies', (d) => {
      const at = d
        .createAccessor()
        .setType('VEC3')
        .setArray(Float32Array.from([0, 0, 0, 0.2, 0, 0, 0, 0.5, 0]))
        .setBuffer(d.getRoot().listBuffers()[0]);
      const batch = d.createExtension(EXTMeshGPUInstancing).createInstancedMesh().setAttribute('TRANSLATION', at);
      d.getRoot().listNodes()[0].setExtension('EXT_mesh_gpu_instancing', batch);
    }),
    ...assets(),
  ];
}
