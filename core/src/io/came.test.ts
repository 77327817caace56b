import { KHRMaterialsClearcoat, KHRMaterialsSheen } from '@gltf-transform/extensions';
import validator from 'gltf-validator';
import type { MeshStandardMaterial, Object3D, Texture } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { bumps, crate, finish, move, painted, patchwork, texturedGlb, threeTextured } from '../../test/textured';
import { hashBytes } from '../hash';
import { attribute, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { picturesOfCame } from '../pipeline/came';
import type { AssetDocument } from '../pipeline/document';
import { exportGlb, exportOptions } from '../pipeline/export';
import { formAsset } from '../pipeline/form';
import { documentFromModel } from '../pipeline/import';
import { solveStage, stageScene } from '../pipeline/render';
import { placed, type TextureUse, textureIn } from '../surface/texturing';
import type { CamePictures } from './glb-came';
import { parseJson, splitGlb } from './glb-check';
import type { Model } from './model';
import { readModel } from './read';

/** A model as a document, its meshes and pictures at hand. */
function taken(model: Model): {
  document: AssetDocument;
  parts: ReturnType<typeof formAsset>['parts'];
  pictures: Promise<Map<string, never>>;
} {
  const meshes: PolyMesh[] = [];
  const kept = new Map<string, Uint8Array>();
  const document = documentFromModel(
    'taken',
    model,
    { fileName: 'taken.glb', licence: '', note: '' },
    (m) => String(meshes.push(m) - 1),
    undefined,
    (b) => {
      kept.set(hashBytes(b), b);
      return hashBytes(b);
    },
  );
  const { parts } = formAsset(document, 'low', (blob) => meshes[Number(blob)]);
  return { document, parts, pictures: picturesOfCame(document, (b) => kept.get(b) as Uint8Array) as never };
}

/** Read and written again, nothing changed. */
async function roundTrip(glb: Uint8Array): Promise<Uint8Array> {
  const { document, parts, pictures } = taken(await readModel('a.glb', glb));
  return exportGlb(parts, exportOptions(document, { pictures: await pictures }));
}

type Json = {
  materials: Record<string, unknown>[];
  images: { bufferView: number; mimeType: string }[];
  bufferViews: { byteOffset?: number; byteLength: number }[];
  extensionsUsed?: string[];
};
const jsonOf = (glb: Uint8Array): Json => splitGlb(glb).json as Json;
function imagesOf(glb: Uint8Array): string[] {
  const { json, binary } = splitGlb(glb);
  const { images, bufferViews } = json as Json;
  return images.map(({ bufferView }) => {
    const { byteOffset = 0, byteLength } = bufferViews[bufferView];
    return hashBytes(binary.slice(byteOffset, byteOffset + byteLength));
  });
}
async function inThree(glb: Uint8Array): Promise<{ material: MeshStandardMaterial; uvs: string[] }> {
  const gltf = await new GLTFLoader().parseAsync(glb.buffer.slice(glb.byteOffset, glb.byteOffset + glb.byteLength) as ArrayBuffer, '');
  let found: { material: MeshStandardMaterial; uvs: string[] } | undefined;
  gltf.scene.traverse((o: Object3D) => {
    if ('material' in o && 'geometry' in o)
      found = { material: o.material as MeshStandardMaterial, uvs: Object.keys((o.geometry as { attributes: object }).attributes) };
  });
  if (!found) throw new Error('three found no mesh');
  return found;
}

// Node decodes no pictures; what three does with them is all the same.
beforeAll(() => {
  vi.stubGlobal('self', globalThis);
  vi.stubGlobal('createImageBitmap', async () => ({ width: 1, height: 1, close() {} }));
});
afterAll(() => {
  vi.unstubAllGlobals();
});

/** A file with everything a material of glTF can name. */
const rich = (how: { rotation?: number; scale?: [number, number] } = {}) =>
  texturedGlb({
    name: 'Crate',
    mesh: crate(100),
    second: withAttribute(crate(100), {
      name: 'uv',
      domain: 'corner',
      size: 2,
      data: (attribute(crate(100), 'uv')?.data as Float64Array).map((x) => 0.5 * x),
    }),
    material(d, picture) {
      const m = d
        .createMaterial('Paint')
        .setBaseColorTexture(picture('colour', patchwork(64, 0.7)))
        .setBaseColorFactor([0.9, 0.8, 0.7, 0.6])
        .setMetallicRoughnessTexture(picture('finish', finish(32)))
        .setMetallicFactor(0.25)
        .setNormalTexture(picture('normal', bumps(64)))
        .setNormalScale(0.75)
        .setOcclusionTexture(
          picture(
            'shade',
            painted(16, 3, (x) => [x, 1, 1]),
          ),
        )
        .setOcclusionStrength(0.4)
        .setEmissiveTexture(
          picture(
            'glow',
            painted(16, 3, (x) => [x, 0, 0]),
          ),
        )
        .setEmissiveFactor([1, 0.5, 0.25])
        .setAlphaMode('MASK')
        .setAlphaCutoff(0.33)
        .setDoubleSided(true)
        .setExtras({ note: 'kept' });
      m.getBaseColorTextureInfo()?.setWrapS(33071).setWrapT(33648).setMagFilter(9728);
      move(d, m.getBaseColorTextureInfo(), { offset: [0.1, 0.2], rotation: how.rotation ?? 0.3, scale: how.scale ?? [2, 2] });
      m.getOcclusionTextureInfo()?.setTexCoord(1);
      const coat = d.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(0.5);
      coat.setClearcoatTexture(
        picture(
          'coat',
          painted(8, 3, () => [0.5, 0.5, 0.5]),
        ),
      );
      const sheen = d.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([0.1, 0.2, 0.3]);
      sheen.setSheenColorTexture(
        picture(
          'sheen',
          painted(8, 3, () => [0.1, 0.9, 0.5]),
        ),
      );
      return m.setExtension('KHR_materials_clearcoat', coat).setExtension('KHR_materials_sheen', sheen);
    },
  });

describe('textures that came with a glTF', () => {
  it('every slot is known, with its channel, layout, place, wrap and factors', async () => {
    const { materials, textures } = await readModel('a.glb', await rich());
    const t = materials[0].texturing;
    expect(textures).toHaveLength(7);
    expect(t?.uses.map((u) => [u.slot, u.channel, u.layout])).toEqual(
      expect.arrayContaining([
        ['baseColour', undefined, 0],
        ['alpha', 3, 0],
        ['roughness', 1, 0],
        ['metallic', 2, 0],
        ['normal', undefined, 0],
        ['occlusion', 0, 1],
        ['emission', undefined, 0],
        ['coat', 0, 0],
        ['other', undefined, 0],
      ]),
    );
    expect(t).toMatchObject({ metallic: 0.25, normalScale: 0.75, occlusionStrength: 0.4, alpha: 'mask', cutoff: 0.33, twoSided: true });
    expect(t?.baseColour).toEqual([0.9, 0.8, 0.7, 0.6]);
    expect(t && textureIn(t, 'baseColour')).toMatchObject({
      offset: [0.1, 0.2],
      turn: 0.3,
      scale: [2, 2],
      wrap: ['clamp', 'mirror'],
      nearest: true,
    });
  });
  it('handed over again, material and pictures are the same to the byte, and valid', async () => {
    const glb = await rich();
    const again = await roundTrip(glb);
    expect(new Set(imagesOf(again))).toEqual(new Set(imagesOf(glb)));
    const [a, b] = [jsonOf(glb), jsonOf(again)];
    const hashes = (json: Json, bytes: Uint8Array): unknown => {
      const images = imagesOf(bytes);
      const textures = (json as unknown as { textures: { source: number }[] }).textures;
      return JSON.parse(JSON.stringify(json.materials[0]), (key, v) => (key === 'index' ? images[textures[v].source] : v));
    };
    expect(hashes(b, again)).toEqual(hashes(a, glb));
    expect(b.extensionsUsed).toEqual(expect.arrayContaining(['KHR_texture_transform', 'KHR_materials_sheen', 'KHR_materials_clearcoat']));
    const report = await validator.validateBytes(again);
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity < 2)).toEqual([]);
    // And once more: what was written is read as what was read.
    expect(imagesOf(await roundTrip(again)).sort()).toEqual(imagesOf(again).sort());
  });
  // Independent: three’s GLTFLoader, on the file as it was and as it was handed over again.
  it.each([
    ['turned', { rotation: 0.7, scale: [1.5, 1.5] as [number, number] }],
    ['drawn out', { rotation: 0, scale: [3, 0.5] as [number, number] }],
  ])('three’s loader lays it on as we do, %s, on both layouts', async (_, how) => {
    const glb = await rich(how);
    const use = textureIn((await readModel('a.glb', glb)).materials[0].texturing as never, 'baseColour') as TextureUse;
    for (const file of [glb, await roundTrip(glb)]) {
      const { material, uvs } = await inThree(file);
      expect(uvs).toEqual(expect.arrayContaining(['uv', 'uv1']));
      const map = material.map as Texture;
      expect([map.channel, material.aoMap?.channel]).toEqual([0, 1]);
      expect([map.wrapS, map.wrapT]).toEqual([1001, 1002]);
      map.updateMatrix();
      const e = map.matrix.elements;
      for (const [u, v] of [
        [0, 0],
        [1, 0],
        [0.3, 0.9],
      ]) {
        // Theirs runs down, and is looked up as it is: its pictures are not turned over.
        const [x, y] = [e[0] * u + e[3] * (1 - v) + e[6], e[1] * u + e[4] * (1 - v) + e[7]];
        const [ours, up] = placed(use, u, v);
        expect([ours, 1 - up].map((n) => n.toFixed(6))).toEqual([x, y].map((n) => n.toFixed(6)));
      }
    }
  });
  // KHR_texture_transform’s own example: the matrix T · R · S, v down, from memory. Three scales after turning, which differs when both are uneven.
  it('a use that is turned and drawn out is T · R · S', () => {
    const use = { picture: '', slot: 'baseColour', layout: 0, offset: [0.1, 0.2], turn: 0.5, scale: [2, 3] } as TextureUse;
    const [c, s] = [Math.cos(0.5), Math.sin(0.5)];
    const [x, y] = [2 * 0.25, 3 * 0.75];
    const [u, v] = placed(use, 0.25, 0.25);
    expect(u).toBeCloseTo(0.1 + c * x + s * y, 12);
    expect(1 - v).toBeCloseTo(0.2 - s * x + c * y, 12);
  });
  it('three textured files keep their pictures, whatever their nodes did', async () => {
    for (const file of await Promise.all(threeTextured())) {
      const again = await roundTrip(file);
      expect(imagesOf(again).sort()).toEqual(imagesOf(file).sort());
      expect((await validator.validateBytes(again)).issues.numErrors).toBe(0);
    }
  });
  it('a picture that is missing is left out of the material, and said', async () => {
    const { json, binary } = splitGlb(await rich());
    const gltf = structuredClone(json) as { images: Record<string, unknown>[]; buffers: Record<string, unknown>[] };
    gltf.images[0] = { uri: 'nowhere.png', name: 'colour' };
    gltf.buffers[0].uri = 'data.bin';
    const bytes = new TextEncoder().encode(JSON.stringify(gltf));
    const model = await readModel('a.gltf', bytes, { companions: { 'data.bin': binary } });
    expect(model.notes.join(' ')).toMatch(/“nowhere.png” was not brought along/);
    expect(model.materials[0].texturing?.uses.some((u) => u.slot === 'baseColour')).toBe(false);
    const { document, parts, pictures } = taken(model);
    const again = await exportGlb(parts, exportOptions(document, { pictures: await pictures }));
    expect((await validator.validateBytes(again)).issues.numErrors).toBe(0);
    expect(parseJson(new TextEncoder().encode(JSON.stringify(jsonOf(again).materials[0])))).not.toHaveProperty(
      'pbrMetallicRoughness.baseColorTexture',
    );
  });
  it('laid out anew, its pictures don’t fit and don’t go along', async () => {
    const { document, parts, pictures } = taken(await readModel('a.glb', await rich()));
    document.unwrap = { ...document.unwrap, filed: 'anew' };
    const again = jsonOf(await exportGlb(parts, exportOptions(document, { pictures: await pictures })));
    expect(again.images).toBeUndefined();
    expect(again.materials[0]).toHaveProperty('extras.wellmorph');
  });
});

describe('textures that came with an MTL', () => {
  const obj = `mtllib a.mtl
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl Paint
f 1/1 2/2 3/3 4/4
`;
  const mtl = `newmtl Paint
Kd 1 1 1
Pm 0.3
map_Kd -s 2 3 1 -o 0.25 0.5 my colour.png
map_Pr -imfchan g finish.png
map_Pm -imfchan b finish.png
map_Bump -bm 0.4 -clamp on bump.png
norm missing.png
`;
  const text = (s: string) => new TextEncoder().encode(s);
  const read = (more: Record<string, Uint8Array> = {}) =>
    readModel('a.obj', text(obj), {
      unit: 'cm',
      companions: { 'a.mtl': text(mtl), 'my colour.png': patchwork(32), 'finish.png': finish(32), 'bump.png': patchwork(8), ...more },
    });
  it('pictures are named with spaces, moved, scaled, clamped, by channel; what is missing is said', async () => {
    const model = await read();
    const t = model.materials[0].texturing;
    expect(model.textures.map((x) => x.name)).toEqual(['my colour.png', 'finish.png', 'bump.png']);
    expect(t?.uses.map((u) => [u.slot, u.picture, u.channel])).toEqual([
      ['baseColour', 0, undefined],
      ['roughness', 1, 1],
      ['metallic', 1, 2],
      ['height', 2, 0],
    ]);
    expect(t?.uses[3].wrap).toEqual(['clamp', 'clamp']);
    // MTL: a place of the layout times the scale, plus the offset, v up.
    const [u, v] = placed(t?.uses[0] as never, 0.2, 0.7);
    expect([u, v].map((x) => x.toFixed(9))).toEqual([(2 * 0.2 + 0.25).toFixed(9), (3 * 0.7 + 0.5).toFixed(9)]);
    expect(model.notes.join(' ')).toMatch(/The picture “missing.png” was not brought along/);
  });
  it('goes out as a GLB with the very pictures, as three’s loader reads it', async () => {
    const { document, parts, pictures } = taken(await read());
    const glb = await exportGlb(parts, exportOptions(document, { pictures: await pictures }));
    expect(new Set(imagesOf(glb))).toEqual(new Set([hashBytes(patchwork(32)), hashBytes(finish(32))]));
    expect((await validator.validateBytes(glb)).issues.numErrors).toBe(0);
    const { material } = await inThree(glb);
    expect(material.map?.repeat.toArray()).toEqual([2, 3]);
    expect(material.roughnessMap).toBe(material.metalnessMap);
  });
  it('roughness and metallic in two grey pictures are packed into one for glTF', async () => {
    const grey = (level: number, side: number) => painted(side, 3, () => [level, level, level]);
    const apart = mtl.replace('map_Pr -imfchan g finish.png', 'map_Pr r.png').replace('map_Pm -imfchan b finish.png', 'map_Pm m.png');
    const model = await read({ 'a.mtl': text(apart), 'r.png': grey(0.8, 16), 'm.png': grey(0.2, 8) });
    const { document, parts, pictures } = taken(model);
    const glb = await exportGlb(parts, exportOptions(document, { pictures: await pictures }));
    const back = await readModel('b.glb', glb);
    const orm = back.textures[back.materials[0].texturing?.uses.find((u) => u.slot === 'roughness')?.picture as number];
    const { decodeTexture } = await import('./textures');
    const p = decodeTexture('orm', orm.bytes);
    expect([p.width, p.height, ...p.data.slice(0, 3)]).toEqual([16, 16, 255, 204, 51]);
  });
});

describe('drawn in a traced picture', () => {
  it('as it lies; a picture of a kind that can’t be read leaves plain numbers, and the rest is drawn', async () => {
    const { document, parts, pictures } = taken(await readModel('a.glb', await rich()));
    const solved = solveStage(document, parts);
    const own: CamePictures = await pictures;
    const drawn = stageScene(document, parts, { pictures: own }, solved);
    const material = (scene: typeof drawn) => scene.materials[scene.material[0]];
    expect(material(drawn)).toMatchObject({ metallic: 0.25 });
    for (const map of ['colourMap', 'ormMap', 'normalMap'] as const) expect(material(drawn)[map]).toBeGreaterThanOrEqual(0);
    expect(drawn.textures[material(drawn).colourMap].wrap).toEqual(['clamp', 'mirror']);
    // Its layout is the one its pictures lie on: twice as far, moved by 0.1.
    const use = textureIn(document.materials[0].texturing as never, 'baseColour') as TextureUse;
    const uv = attribute(parts[0].mesh, 'uv', 'corner')?.data ?? [];
    const c = parts[0].mesh.triangles[0];
    expect(drawn.uvs[0]).toBeCloseTo(placed(use, uv[2 * c], uv[2 * c + 1])[0], 5);
    const words = new Map([...own].map(([blob, p]) => [blob, { ...p, bytes: new TextEncoder().encode('words in place of a picture') }]));
    const plain = material(stageScene(document, parts, { pictures: words }, solved));
    expect([plain.colourMap, plain.ormMap, plain.normalMap]).toEqual([-1, -1, -1]);
  });
});
