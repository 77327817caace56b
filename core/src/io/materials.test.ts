import type { MeshPhysicalMaterial, Object3D } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { srgbToLinear } from '../image/srgb';
import { IDENTITY } from '../maths/mat4';
import { gpuMesh } from '../mesh/gpu';
import { fromLibrary, LIBRARY } from '../surface/library';
import { FILE_GLOW, isMaterial, type Material, materialFrom, PLAIN } from '../surface/material';
import { writeGlb } from './glb-write';
import { readModel } from './read';

const glbOf = (m: Material, white?: number) =>
  writeGlb([{ name: 'Block', gpu: gpuMesh(cube(10)), placements: [IDENTITY], material: m.id }], { name: 'Block', materials: [m], white });

/** The material as three's loader, which is not ours, understands the file. */
async function inThree(glb: Uint8Array): Promise<MeshPhysicalMaterial> {
  const gltf = await new GLTFLoader().parseAsync(glb.buffer.slice(glb.byteOffset, glb.byteOffset + glb.byteLength) as ArrayBuffer, '');
  let found: MeshPhysicalMaterial | undefined;
  gltf.scene.traverse((o: Object3D) => {
    if ('material' in o) found = o.material as MeshPhysicalMaterial;
  });
  if (!found) throw new Error('three found no material');
  return found;
}

/** The same file without our own description in it, as any other program would write it. */
function bare(glb: Uint8Array): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
  for (const m of json.materials) delete m.extras;
  const text = JSON.stringify(json);
  const out = glb.slice();
  out.set(new TextEncoder().encode(text.padEnd(length)), 20);
  return out;
}

describe('materials in a GLB', () => {
  it.each(LIBRARY.map((l) => l.key))('%s is read by three’s loader with the numbers it was written with', async (key) => {
    const m = fromLibrary(key, 'm');
    const white = 3;
    const theirs = await inThree(await glbOf(m, white));
    expect(theirs.name).toBe(m.name);
    expect(theirs.roughness).toBeCloseTo(m.roughness, 6);
    expect(theirs.metalness).toBeCloseTo(m.metallic, 6);
    for (const [k, c] of [theirs.color.r, theirs.color.g, theirs.color.b].entries()) expect(c).toBeCloseTo(srgbToLinear(m.colour[k]), 5);
    if (m.transmission > 0) expect(theirs.transmission).toBe(m.transmission);
    if (m.ior !== 1.5) expect(theirs.ior).toBeCloseTo(m.ior, 6);
    if (m.coat > 0) {
      expect(theirs.clearcoat).toBeCloseTo(m.coat, 6);
      expect(theirs.clearcoatRoughness).toBeCloseTo(m.coatRoughness, 6);
    }
    expect(theirs.emissiveIntensity * theirs.emissive.r).toBeCloseTo(
      (m.emission / white) * (m.emission > 0 ? srgbToLinear(m.colour[0]) : 0),
      4,
    );
  });
  it('reading our own file again gives the whole material, layers and all', async () => {
    for (const { key } of LIBRARY) {
      const m = fromLibrary(key, 'm');
      const { id: _, ...own } = m;
      expect((await readModel('m.glb', await glbOf(m))).materials).toEqual([own]);
    }
  });
  it('another program’s file is read by the open extensions alone, and counts as untouched', async () => {
    for (const key of ['clear-glass', 'oiled-wood', 'flame', 'blackened-iron']) {
      const m = fromLibrary(key, 'm');
      const [got] = (await readModel('m.glb', bare(await glbOf(m, 10)))).materials;
      expect(got).toMatchObject({ name: m.name, touched: false, transmission: m.transmission, layers: [], base: null });
      expect(got.ior).toBeCloseTo(m.ior, 6);
      expect(got.coat).toBeCloseTo(m.coat, 6);
      expect(got.roughness).toBeCloseTo(m.roughness, 6);
      // Formats without a unit: their 1 is a screen's white.
      const brightest = Math.max(...m.colour.map(srgbToLinear));
      expect(got.emission).toBeCloseTo(m.emission > 0 ? (FILE_GLOW * brightest * m.emission) / 10 : 0, 3);
    }
  });
  it('a description that lies is not believed', async () => {
    const good = fromLibrary('enamel', 'm');
    expect(isMaterial(good)).toBe(true);
    for (const wrong of [
      null,
      'brass',
      {},
      { ...good, roughness: 2 },
      { ...good, roughness: '0.5' },
      { ...good, colour: [0, 0] },
      { ...good, colour: [0, 0, Number.NaN] },
      { ...good, ior: 0 },
      { ...good, emission: -1 },
      { ...good, layers: [{ id: 'a' }] },
      { ...good, layers: good.layers.map((l) => ({ ...l, opacity: 7 })) },
      { ...good, layers: 3 },
    ])
      expect(materialFrom(wrong)).toBeNull();
    // Files of ours from before there were layers.
    const { layers: _, ...older } = good;
    const wear = { share: 0.1, colour: [1, 1, 1], metallic: 1, roughness: 0.2 };
    expect(materialFrom({ ...older, wear, dirt: null })?.layers).toMatchObject([{ id: 'wear', mask: [{ field: { share: 0.1 } }] }]);
    for (const wrong of [
      { ...older, wear: 3, dirt: null },
      { ...older, wear: { share: 0.1 }, dirt: null },
      { ...older, wear, dirt: { share: 2 } },
    ])
      expect(materialFrom(wrong)).toBeNull();
    const lying = { ...PLAIN, id: 'm', name: 'Liar', roughness: 9, touched: true } as Material;
    const [got] = (await readModel('m.glb', await glbOf({ ...lying, roughness: 1 }))).materials;
    expect(got.roughness).toBe(1);
  });
});
