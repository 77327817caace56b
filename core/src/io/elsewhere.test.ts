import { Document, getBounds, type Node, WebIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRMaterialsSheen,
  KHRMeshQuantization,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import draco3d from 'draco3d';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { describe, expect, it } from 'vitest';
import { cube, sheet, torusMesh } from '../../test/shapes';
import { InputError } from '../errors';
import { encodePng } from '../image/png';
import { inspectPart } from '../inspect/inspect';
import { type IDENTITY, isRigid, translation } from '../maths/mat4';
import { apart, isEven, stretchWords } from '../maths/polar';
import { random } from '../maths/random';
import { keepFaces } from '../mesh/edit';
import { areaOf, boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { flip, transform } from '../mesh/transform';
import { formAsset } from '../pipeline/form';
import { documentFromModel } from '../pipeline/import';
import { inspectAsset, ledgerOf } from '../pipeline/inspect';
import { MeshCache } from '../pipeline/mesh-cache';
import type { Model } from './model';
import { readModel } from './read';

/** Files as other programs write them. Made with the open standard's general-purpose library, counted by it as well. */

/** A mesh of a shape in metres. */
function meshOf(document: Document, shape: PolyMesh, perMetre = 1000) {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  const index: number[] = [];
  for (let t = 0; t < triangleCount(shape); t++) for (let k = 0; k < 3; k++) index.push(shape.faceVert[shape.triangles[3 * t + k]]);
  const positions = Float32Array.from(shape.positions, (x) => x / perMetre);
  return document.createMesh('Ring').addPrimitive(
    document
      .createPrimitive()
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(positions).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(index)).setBuffer(buffer)),
  );
}
const ring = () => torusMesh(30, 8, 24, 12);
async function written(build: (document: Document, add: (node: Node) => void) => void): Promise<{ model: Model; document: Document }> {
  const document = new Document();
  document.createBuffer();
  const scene = document.createScene('All');
  build(document, (node) => scene.addChild(node));
  return {
    model: await readModel('from-elsewhere.glb', await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document)),
    document,
  };
}
const boxOf = (model: Model) => {
  const all = model.parts.flatMap((p) => p.placements.map((m) => boundsOf(transform(p.mesh, m))));
  return [0, 1, 2].map((k) => [Math.min(...all.map((b) => b.min[k])), Math.max(...all.map((b) => b.max[k]))]);
};
/** What the library says the scene's box is, mm. */
function asCounted(document: Document): number[][] {
  const { min, max } = getBounds(document.getRoot().listScenes()[0]);
  return [0, 1, 2].map((k) => [1000 * min[k], 1000 * max[k]]);
}
function sameBox(a: number[][], b: number[][]): void {
  const size = Math.max(...b.map(([x, y]) => y - x));
  a.forEach((side, k) => side.forEach((x, i) => expect(Math.abs(x - b[k][i])).toBeLessThan(1e-5 * size)));
}
/** The asset a model becomes, with its ledger and what is found about it. */
function inspected(model: Model) {
  const kept: PolyMesh[] = [];
  const document = documentFromModel('Elsewhere', model, { fileName: 'x.glb', licence: '', note: '' }, (m) => String(kept.push(m) - 1));
  const memory = new MeshCache();
  const formed = formAsset(document, 'low', (blob) => kept[Number(blob)], memory);
  const ledger = ledgerOf(formed.parts, memory);
  return { document, ledger, findings: inspectAsset(document, formed, ledger, undefined, memory) };
}

describe('a scale on a node', () => {
  it('is in the mesh: size, area and volume are of what stands there, in the world’s millimetres', async () => {
    // Modelled in units a hundred times as large, as many programs do, with the node bringing it down.
    const { model, document } = await written((d, add) =>
      add(
        d
          .createNode('Ring')
          .setMesh(meshOf(d, ring(), 10))
          .setScale([0.01, 0.01, 0.01]),
      ),
    );
    expect(model.parts).toHaveLength(1);
    sameBox(boxOf(model), asCounted(document));
    const [part] = model.parts;
    expect(part.placements.every(isRigid)).toBe(true);
    expect(areaOf(part.mesh) / areaOf(ring())).toBeCloseTo(1, 5);
    expect(volumeOf(part.mesh) / volumeOf(ring())).toBeCloseTo(1, 5);
    expect(model.notes.join()).toMatch(/A scale on the nodes, of 0\.01, was applied/);
    const { ledger, findings } = inspected(model);
    expect(ledger.sizeMm.map((x) => Math.round(x))).toEqual([76, 16, 76]);
    // It is neither a fault nor seen as one: its points don't run into each other.
    expect(findings.filter((f) => f.kind === 'scaled' || f.kind === 'doubles' || f.kind === 'degenerate')).toEqual([]);
  });

  it('of groups within groups is all of theirs', async () => {
    const { model, document } = await written((d, add) => {
      const inner = d.createNode('Ring').setMesh(meshOf(d, ring())).setScale([3, 3, 3]).setTranslation([0.1, 0, 0]);
      add(
        d
          .createNode('Group')
          .addChild(d.createNode('Sub').addChild(inner).setScale([0.5, 0.5, 0.5]))
          .setScale([2, 2, 2])
          .setTranslation([0, 1, 0]),
      );
    });
    sameBox(boxOf(model), asCounted(document));
    expect(inspected(model).ledger.sizeMm[0]).toBeCloseTo(3 * 76, 3);
  });

  it('the same on copies leaves them one mesh; another one makes a mesh of its own', async () => {
    const { model, document } = await written((d, add) => {
      const mesh = meshOf(d, ring());
      for (const [x, s] of [
        [0, 2],
        [0.3, 2],
        [0.6, 1],
        [0.9, 0.5],
      ])
        add(
          d
            .createNode(`Ring ${x}`)
            .setMesh(mesh)
            .setTranslation([x, 0, 0])
            .setRotation([0, Math.SQRT1_2, 0, Math.SQRT1_2])
            .setScale([s, s, s]),
        );
    });
    expect(model.parts.map((p) => p.placements.length).sort()).toEqual([1, 1, 2]);
    sameBox(boxOf(model), asCounted(document));
    expect(model.notes.join()).toMatch(/from 0\.5 to 2, was applied/);
  });

  it('that is not the same in every direction, or a mirror, is a warning; faces look outward all the same', async () => {
    for (const scale of [
      [1, 2, 1],
      [-1, 1, 1],
      [2, -2, 2],
      [-1, 3, 0.5],
    ] as [number, number, number][]) {
      const { model, document } = await written((d, add) => add(d.createNode('Ring').setMesh(meshOf(d, ring())).setScale(scale)));
      sameBox(boxOf(model), asCounted(document));
      expect(volumeOf(model.parts[0].mesh)).toBeGreaterThan(0);
      expect(volumeOf(model.parts[0].mesh) / (volumeOf(ring()) * Math.abs(scale[0] * scale[1] * scale[2]))).toBeCloseTo(1, 4);
      const f = inspected(model).findings.find((x) => x.kind === 'scaled');
      expect([f?.severity, f?.fixes]).toEqual(['warning', []]);
      expect(f?.message).toMatch(scale.some((s) => s < 0) ? /mirror/ : /a scale of 1 × 2 × 1/);
      expect(inspected(model).findings.some((x) => x.kind === 'inward' || x.kind === 'winding')).toBe(false);
    }
  });

  it('turned between two scales is a shear: applied as well, and said', async () => {
    const { model, document } = await written((d, add) => {
      const inner = d
        .createNode('Ring')
        .setMesh(meshOf(d, ring()))
        .setRotation([0, 0, Math.sin(0.3), Math.cos(0.3)]);
      add(d.createNode('Group').addChild(inner).setScale([1, 3, 1]));
    });
    sameBox(boxOf(model), asCounted(document));
    expect(inspected(model).findings.some((f) => f.kind === 'scaled' && f.severity === 'warning')).toBe(true);
  });

  it('of nothing leaves the part out, and says so; another copy of it stays', async () => {
    const { model } = await written((d, add) => {
      const mesh = meshOf(d, ring());
      add(d.createNode('Hidden').setMesh(mesh).setScale([0, 0, 0]));
      add(d.createNode('Flat').setMesh(mesh).setScale([1, 0, 1]));
      add(d.createNode('Shown').setMesh(mesh));
    });
    expect(model.parts.map((p) => p.placements.length)).toEqual([1]);
    expect(model.notes.join()).toMatch(/Copies of “Ring” that nodes flatten to nothing were left out\./);
  });
});

/** The ring as a file of every kind of packing, by the library’s own writers. */
async function packed(kind: 'draco' | 'meshopt' | 'quantised'): Promise<Uint8Array> {
  const document = new Document();
  document.createBuffer();
  const mesh = meshOf(document, ring());
  const [primitive] = mesh.listPrimitives();
  const position = primitive.getAttribute('POSITION');
  document.createScene('All').addChild(document.createNode('Ring').setMesh(mesh));
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  if (kind === 'quantised') {
    // Whole numbers of a 16384th of 76 mm: the node brings them to size (KHR_mesh_quantization).
    document.createExtension(KHRMeshQuantization).setRequired(true);
    const whole = Int16Array.from(position?.getArray() ?? [], (x: number) => Math.round((x / 0.038) * 16384));
    position?.setArray(whole).setNormalized(false);
    document
      .getRoot()
      .listNodes()[0]
      .setScale([0.038 / 16384, 0.038 / 16384, 0.038 / 16384]);
  } else if (kind === 'meshopt') {
    await MeshoptEncoder.ready;
    io.registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
    document.createExtension(EXTMeshoptCompression).setRequired(true);
  } else {
    io.registerDependencies({ 'draco3d.encoder': await draco3d.createEncoderModule() });
    document.createExtension(KHRDracoMeshCompression).setRequired(true);
  }
  return io.writeBinary(document);
}

describe('packed files', () => {
  it.each(['draco', 'meshopt', 'quantised'] as const)(
    '%s: the same triangles, as large, within the step they were packed with',
    async (kind) => {
      const bytes = await packed(kind);
      const model = await readModel('packed.glb', bytes);
      const placed = transform(model.parts[0].mesh, model.parts[0].placements[0]);
      expect(triangleCount(placed)).toBe(triangleCount(ring()));
      const [a, b] = [boundsOf(placed), boundsOf(ring())];
      for (const k of [0, 1, 2]) expect(Math.abs(a.max[k] - a.min[k] - (b.max[k] - b.min[k]))).toBeLessThan(0.05);
      expect(volumeOf(placed) / volumeOf(ring())).toBeCloseTo(1, 2);
      // Closed as it was: packing welds nothing and tears nothing.
      expect(isWatertight(placed)).toBe(true);
    },
  );
  it('cut short or with their packing turned to nonsense, they are refused in a sentence', async () => {
    const next = random(3);
    for (const kind of ['draco', 'meshopt'] as const) {
      const whole = await packed(kind);
      for (let i = 0; i < 60; i++) {
        const broken = whole.slice();
        for (let k = 0; k < 12; k++) broken[Math.floor(whole.length * (0.35 + 0.65 * next()))] = Math.floor(256 * next());
        await readModel('broken.glb', broken).catch((error) => expect(error).toBeInstanceOf(InputError));
      }
    }
  });
});

describe('copies and coordinates by extension', () => {
  it('instances stand where they are said to, each counted (EXT_mesh_gpu_instancing)', async () => {
    const { model } = await written((d, add) => {
      const batch = d.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh();
      const at = (list: number[], type: 'VEC3' | 'VEC4') => d.createAccessor().setType(type).setArray(Float32Array.from(list));
      batch.setAttribute('TRANSLATION', at([0, 0, 0, 0.2, 0, 0, 0, 0.5, 0], 'VEC3'));
      batch.setAttribute('SCALE', at([1, 1, 1, 2, 2, 2, 1, 1, 1], 'VEC3'));
      add(d.createNode('Rings').setMesh(meshOf(d, ring())).setTranslation([0, 0, 1]).setExtension('EXT_mesh_gpu_instancing', batch));
    });
    expect(model.parts.map((p) => p.placements.length).sort()).toEqual([1, 2]);
    expect(boxOf(model)[1][1]).toBeCloseTo(508, 3);
    expect(boxOf(model)[0][1]).toBeCloseTo(276, 3);
    expect(inspected(model).ledger.triangles).toBe(3 * triangleCount(ring()));
  });
  it('a transform of a texture that has to be read is, and the model with it (KHR_texture_transform)', async () => {
    const { model } = await written((d, add) => {
      const mesh = meshOf(d, ring());
      const moved = d.createExtension(KHRTextureTransform).setRequired(true).createTransform().setScale([2, 2]);
      const material = d.createMaterial('Paint').setBaseColorTexture(d.createTexture('paint').setImage(dot()).setMimeType('image/png'));
      material.getBaseColorTextureInfo()?.setExtension('KHR_texture_transform', moved);
      mesh.listPrimitives()[0].setMaterial(material);
      add(d.createNode('Ring').setMesh(mesh));
    });
    expect(triangleCount(model.parts[0].mesh)).toBe(triangleCount(ring()));
    expect(model.textures).toHaveLength(1);
  });
});

const dot = () => encodePng({ width: 1, height: 1, channels: 4, depth: 8, data: new Uint8Array([200, 40, 40, 255]) });

describe('a glTF with its files beside it', () => {
  const split = async () => {
    const document = new Document();
    document.createBuffer('data').setURI('parts/ring data.bin');
    const mesh = meshOf(document, ring());
    const texture = document.createTexture('paint').setImage(dot()).setMimeType('image/png').setURI('paint.png');
    mesh.listPrimitives()[0].setMaterial(document.createMaterial('Paint').setBaseColorTexture(texture));
    document.createScene('All').addChild(document.createNode('Ring').setMesh(mesh));
    const { json, resources } = await new WebIO().writeJSON(document);
    const text = JSON.stringify(json).replaceAll('parts/ring data.bin', 'parts/ring%20data.bin');
    const bin = Object.values(resources).find((r) => r.length > 1000) as Uint8Array;
    return { bytes: new TextEncoder().encode(text), bin };
  };
  it('is read with them, by path or by name, percent signs and all', async () => {
    const { bytes, bin } = await split();
    for (const name of ['parts/ring data.bin', 'ring data.bin']) {
      const model = await readModel('ring.gltf', bytes, { companions: { [name]: bin, 'paint.png': dot() } });
      expect(triangleCount(model.parts[0].mesh)).toBe(triangleCount(ring()));
      expect(model.textures).toHaveLength(1);
      expect(model.notes).toEqual([]);
    }
  });
  it('without its data is refused by the name of what is missing; without a picture that is said', async () => {
    const { bytes, bin } = await split();
    await expect(readModel('ring.gltf', bytes)).rejects.toThrow(
      /lie in another file, “parts\/ring%20data\.bin”: it has to be brought along/,
    );
    await expect(readModel('ring.gltf', bytes, { companions: { 'ring data.bin': bin.slice(0, 500) } })).rejects.toThrow(
      /claims \d+ bytes; the file holds 500/,
    );
    const model = await readModel('ring.gltf', bytes, { companions: { 'ring data.bin': bin } });
    expect(model.notes.join()).toMatch(/The picture “paint\.png” was not brought along/);
    expect(model.textures).toEqual([]);
  });
});

describe('what is not carried on', () => {
  it('is said, each kind once', async () => {
    const { model } = await written((d, add) => {
      const mesh = meshOf(d, ring());
      const [primitive] = mesh.listPrimitives();
      const n = primitive.getAttribute('POSITION')?.getCount() ?? 0;
      const zeros = (type: 'VEC2' | 'VEC3' | 'VEC4', width: number) =>
        d
          .createAccessor()
          .setType(type)
          .setArray(new Float32Array(width * n));
      primitive
        .setAttribute('COLOR_0', zeros('VEC4', 4))
        .setAttribute('TEXCOORD_0', zeros('VEC2', 2))
        .setAttribute('TEXCOORD_1', zeros('VEC2', 2));
      primitive.addTarget(d.createPrimitiveTarget('Bulge').setAttribute('POSITION', zeros('VEC3', 3)));
      const sheen = d.createExtension(KHRMaterialsSheen).createSheen().setSheenRoughnessFactor(0.4);
      const glow = d.createTexture('glow').setImage(dot()).setMimeType('image/png');
      // What has a picture is handed on word for word, sheen and all: only of the other one is anything lost.
      primitive.setMaterial(d.createMaterial('Lit').setEmissiveFactor([1, 1, 1]).setEmissiveTexture(glow));
      const cloth = d.createMaterial('Cloth').setDoubleSided(true).setExtension('KHR_materials_sheen', sheen);
      mesh.addPrimitive(primitive.clone().setMaterial(cloth));
      const joint = d.createNode('Joint');
      const node = d.createNode('Ring').setMesh(mesh).setSkin(d.createSkin('Rig').addJoint(joint));
      add(d.createNode('Group').addChild(node).addChild(joint));
    });
    const notes = model.notes.join('\n');
    for (const words of [
      /skeleton with its joints/,
      /Morphs/,
      /A group was dissolved/,
      /Colours of vertices are kept/,
      /Layouts beside the first/,
      /seen from both sides/,
      /sheen was left out/,
      /picture says what glows/,
    ])
      expect(notes).toMatch(words);
    for (const n of model.notes) expect(n).toMatch(/^[A-Z].*\.$/);
    expect(new Set(model.notes).size).toBe(model.notes.length);
    // A white factor under a picture would have made all of it shine.
    expect(model.materials[0].emission).toBe(0);
  });
  it('of an ordinary file is nothing', async () => {
    const { model } = await written((d, add) => add(d.createNode('Ring').setMesh(meshOf(d, ring()))));
    expect(model.notes).toEqual([]);
  });
});

describe('files that are not what they say', () => {
  it('whatever a field holds instead of what it should, there is one sentence, and nothing hangs', async () => {
    const { document } = await written((d, add) => add(d.createNode('Ring').setMesh(meshOf(d, ring())).setScale([2, 2, 2])));
    const { json, resources } = await new WebIO().writeJSON(document);
    const uri = `data:application/octet-stream;base64,${Buffer.from(Object.values(resources)[0]).toString('base64')}`;
    const plain = JSON.parse(JSON.stringify(json));
    plain.buffers[0].uri = uri;
    plain.materials = [
      { name: 'm', pbrMetallicRoughness: { baseColorFactor: [1, 1, 1, 1], metallicFactor: 1 }, emissiveFactor: [0, 0, 0] },
    ];
    const read = (x: unknown) => readModel('odd.gltf', new TextEncoder().encode(JSON.stringify(x)));
    expect(triangleCount((await read(plain)).parts[0].mesh)).toBe(triangleCount(ring()));
    // Every place of the description in turn, with everything that might stand there.
    const places: (string | number)[][] = [];
    const walk = (x: unknown, at: (string | number)[]) => {
      if (at.length > 0) places.push(at);
      if (typeof x === 'object' && x !== null) for (const [k, v] of Object.entries(x)) walk(v, [...at, Array.isArray(x) ? Number(k) : k]);
    };
    walk(plain, []);
    let refused = 0;
    for (const at of places)
      for (const odd of [null, 'text', -1, 1e9, 0.5, [], {}, [1, 2, 3], true, '__proto__', 1e308]) {
        const copy = structuredClone(plain);
        const holder = at.slice(0, -1).reduce((x: Record<string | number, unknown>, k) => x[k] as Record<string | number, unknown>, copy);
        holder[at[at.length - 1]] = odd;
        await read(copy).then(
          (model) => {
            for (const p of model.parts) for (const m of p.placements) expect(m.every(Number.isFinite)).toBe(true);
          },
          (error) => {
            refused++;
            expect(error, `${at.join('.')} = ${JSON.stringify(odd)}: ${error.stack}`).toBeInstanceOf(InputError);
            expect(error.message).toMatch(/^[^\n]{8,240}\.$/);
          },
        );
      }
    expect(refused).toBeGreaterThan(places.length);
  });
  it('a few hundred bytes can’t claim gigabytes: zeros without data, replacements, packing', async () => {
    const lie = (more: object) =>
      new TextEncoder().encode(
        JSON.stringify({
          asset: { version: '2.0' },
          meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
          nodes: [{ mesh: 0 }],
          scenes: [{ nodes: [0] }],
          ...more,
        }),
      );
    const accessor = (count: number, rest = {}) => ({ componentType: 5126, type: 'VEC3', count, ...rest });
    for (const more of [
      { accessors: [accessor(1e9)] },
      { accessors: Array.from({ length: 500 }, () => accessor(1e6)) },
      {
        buffers: [{ byteLength: 1e9, extensions: { EXT_meshopt_compression: { fallback: true } } }],
        bufferViews: [{ buffer: 0, byteLength: 1e9 }],
        accessors: [accessor(8e7, { bufferView: 0 })],
      },
    ])
      await expect(readModel('lie.gltf', lie(more))).rejects.toThrow(/claims more than 64 MB of data that it doesn’t hold/);
    const sparse = accessor(10, { sparse: { count: 1e9, indices: { bufferView: 0, componentType: 5125 }, values: { bufferView: 0 } } });
    await expect(readModel('lie.gltf', lie({ accessors: [sparse] }))).rejects.toThrow(/replacements that are not all there/);
  });
});

describe('figures that are no places', () => {
  const obj = (x: string) => new TextEncoder().encode(`v 0 0 0\nv ${x} 0 0\nv 0 0 5\nf 1 3 2\n`);
  it.each(['inf', 'nan', '--1', '1,5', '0x', '1e'])('“%s” in an OBJ is no number, and its line is named', async (x) => {
    await expect(readModel('odd.obj', obj(x))).rejects.toThrow(/^Line 2 of the OBJ has “.+” where a number should be\.$/);
  });
  it.each(['1e308', '-1e200', '3e7'])('“%s” is too far away to be measured', async (x) => {
    await expect(readModel('far.obj', obj(x))).rejects.toThrow(/“Part” of “far\.obj” has points more than ten kilometres away/);
  });
  it('what is smaller than can be told from nothing is nothing', async () => {
    await expect(readModel('tiny.obj', obj('1e-400'))).rejects.toThrow(/holds no faces/);
    const model = await readModel('tiny.obj', new TextEncoder().encode('v 0 0 1e-400\nv 4 0 0\nv 0 0 5\nf 1 3 2\n'));
    expect(boundsOf(model.parts[0].mesh).min[2]).toBe(0);
  });
  it('neither can a node put a part there, nor a point be none', async () => {
    const build = (x: number, at: number) =>
      written((d, add) => {
        const mesh = meshOf(d, ring());
        const position = mesh.listPrimitives()[0].getAttribute('POSITION');
        position?.setElement(3, [x, 0, 0]);
        add(d.createNode('Ring').setMesh(mesh).setTranslation([at, 0, 0]));
      });
    await expect(build(Number.NaN, 0)).rejects.toThrow(/position that is not a number/);
    await expect(build(0.1, 2e4)).rejects.toThrow(/ten kilometres/);
    await expect(build(1e30, 0)).rejects.toThrow(/ten kilometres/);
    expect((await build(0.1, 9000)).model.parts).toHaveLength(1);
  });
});

describe('triangles that are none', () => {
  it('are left out, counted, and said with how many there were', async () => {
    const { model } = await written((d, add) => {
      const mesh = meshOf(d, ring());
      const indices = mesh.listPrimitives()[0].getIndices();
      const list = Uint32Array.from(indices?.getArray() ?? []);
      for (let t = 0; t < 30; t++) list[3 * t + 1] = list[3 * t];
      indices?.setArray(list);
      add(d.createNode('Ring').setMesh(mesh));
    });
    expect(triangleCount(model.parts[0].mesh)).toBe(triangleCount(ring()) - 30);
    expect(model.notes.join()).toMatch(/^30 of its 576 triangles have corners in one place and were left out\.$/);
  });
});

describe('shells that seem to face inward', () => {
  const found = (mesh: PolyMesh) =>
    inspectPart({ id: 'a', name: 'A', mesh, declaredOpen: true, hasMaterial: true, fixable: true }).find((f) => f.kind === 'inward');
  const dish = (depth: number) => sheet(12, 60, (x, z) => depth * ((x / 30) ** 2 + (z / 30) ** 2));
  it('a ring turned inside out is an error; the same the right way round is none', () => {
    expect(found(flip(ring()))?.severity).toBe('error');
    expect(found(ring())).toBeUndefined();
  });
  it('a box that lacks a side, turned inside out, is one too: what is before its faces is itself', () => {
    const box = keepFaces(cube(20), (f) => f !== 0);
    expect(found(box)).toBeUndefined();
    expect(found(flip(box))?.severity).toBe('error');
  });
  it('a shallow dish is open either way: at most something to know, whichever way it looks', () => {
    for (const depth of [3, 8, -3, -8])
      for (const mesh of [dish(depth), flip(dish(depth))]) expect(found(mesh)?.severity ?? 'information').toBe('information');
  });
  it('a thing that lies inside a closed shell is no error, one turned over beside it is', () => {
    const inside = merge([cube(60), transform(cube(10), translation([0, 25, 0]))]);
    expect(found(inside)?.severity ?? 'information').toBe('information');
    expect(found(merge([cube(60), transform(flip(cube(10)), translation([90, 0, 0]))]))?.severity).toBe('error');
    // The wall of a hollow looks into it.
    expect(found(merge([cube(60), transform(flip(cube(40)), translation([0, 10, 0]))]))).toBeUndefined();
  });
});

describe('a placement taken apart', () => {
  it('is a turn and a stretch that make it again, for any placement that doesn’t flatten', () => {
    const next = random(7);
    for (let i = 0; i < 400; i++) {
      const m = [0, 1, 2, 3].flatMap((c) => [...[0, 1, 2].map(() => 10 * (next() - 0.5)), c === 3 ? 1 : 0]) as unknown as typeof IDENTITY;
      const taken = apart(m);
      if (!taken) continue;
      expect(isRigid(taken.turn)).toBe(true);
      const { turn, stretch } = taken;
      for (let c = 0; c < 3; c++)
        for (let r = 0; r < 3; r++) {
          const again = [0, 1, 2].reduce((s, k) => s + turn[4 * k + r] * stretch[4 * c + k], 0);
          expect(again).toBeCloseTo(m[4 * c + r], 8);
        }
    }
  });
  it('says what it is', () => {
    const scale = (x: number, y: number, z: number) => [x, 0, 0, 0, 0, y, 0, 0, 0, 0, z, 0, 0, 0, 0, 1] as unknown as typeof IDENTITY;
    expect([
      stretchWords(scale(2, 2, 2)),
      stretchWords(scale(1, 2, 1)),
      stretchWords(scale(-1, 1, 1)),
      stretchWords(scale(-2, 2, 2)),
    ]).toEqual(['a scale of 2', 'a scale of 1 × 2 × 1', 'a mirror', 'a scale of 2 and a mirror']);
    expect([isEven(scale(0.01, 0.01, 0.01)), isEven(scale(1, 1, 1.001)), isEven(scale(-1, -1, -1))]).toEqual([true, false, false]);
    expect(apart(scale(1, 0, 1))).toBeNull();
    // Very small and very large ones are scales like others.
    for (const s of [1e-6, 1e6]) expect(isEven(apart(scale(s, s, s))?.stretch as typeof IDENTITY)).toBe(true);
  });
});
