import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import validator from 'gltf-validator';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { hashBytes } from '../../core/src/hash';
import { decodePng } from '../../core/src/image/png';
import { readModel } from '../../core/src/io/read';
import { packedCrate } from '../../core/test/packed';
import { drum, painted, texturedGlb, threeTextured } from '../../core/test/textured';
import { ranIn } from '../test/run';

let dir: string;
const at = (name: string) => join(dir, name);
const ran = ranIn(() => dir);
const imagesOf = async (bytes: Uint8Array): Promise<string[]> =>
  (await readModel('a.glb', bytes)).textures.map((t) => hashBytes(t.bytes)).sort();

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'wellmorph-textured-'));
  const [crate, , pane] = await Promise.all(threeTextured());
  await writeFile(at('crate.glb'), crate);
  await writeFile(at('pane.glb'), pane);
  // Red over green, round a fine drum.
  const two = painted(64, 3, (_, y) => (y < 0.5 ? [0.8, 0.05, 0.05] : [0.05, 0.6, 0.05]));
  await writeFile(
    at('drum.glb'),
    await texturedGlb({
      name: 'Drum',
      mesh: drum(60, 150, 96, 1),
      material: (d, picture) => d.createMaterial('Paint').setMetallicFactor(0).setBaseColorTexture(picture('two', two)),
    }),
  );
}, 30_000);
afterAll(() => rm(dir, { recursive: true, force: true }));

describe('files that come with pictures', () => {
  it('simplify keeps them byte for byte', async () => {
    const { code, out } = await ran(['simplify', 'drum.glb', '--triangles', '96', '-o', 'fewer.glb']);
    expect([code, out]).toEqual([0, expect.stringMatching(/96 triangles in/)]);
    expect(await imagesOf(await readFile(at('fewer.glb')))).toEqual(await imagesOf(await readFile(at('drum.glb'))));
  });
  it('export puts them into the GLB and beside the OBJ as they were, and composes nothing in their place', async () => {
    const { code } = await ran(['export', 'crate.glb', '-o', 'crate.zip']);
    expect(code).toBe(0);
    const files = unzipSync(await readFile(at('crate.zip')));
    const glb = files['crate.glb'];
    expect(await imagesOf(glb)).toEqual(await imagesOf(await readFile(at('crate.glb'))));
    expect((await validator.validateBytes(glb)).issues.numErrors).toBe(0);
    const came = Object.keys(files).filter((n) => n.startsWith('textures/'));
    expect(came.sort()).toEqual(['textures/came/crate_colour.png', 'textures/came/crate_finish.png', 'textures/came/crate_normal.png']);
    const mtl = new TextDecoder().decode(files['crate.mtl']);
    expect(mtl).toMatch(/map_Kd textures\/came\/crate_colour.png/);
    expect(mtl).toMatch(/map_Pr -imfchan g textures\/came\/crate_finish.png/);
    // The pair is read again with the same pictures in the same places.
    const back = await readModel('crate.obj', files['crate.obj'], {
      unit: 'mm',
      companions: { 'crate.mtl': files['crate.mtl'], ...Object.fromEntries(came.map((n) => [n, files[n]])) },
    });
    expect(back.textures.map((t) => hashBytes(t.bytes)).sort()).toEqual(await imagesOf(glb));
  });
  it('render draws them: red above green', async () => {
    const { code } = await ran(['render', 'drum.glb', '--size', '64x64', '--samples', '8', '-o', 'drum.png']);
    expect(code).toBe(0);
    const p = decodePng(await readFile(at('drum.png')));
    const mean = (from: number, to: number, k: number) => {
      let sum = 0;
      for (let y = from; y < to; y++) for (let x = 28; x < 36; x++) sum += p.data[p.channels * (y * p.width + x) + k];
      return sum / (8 * (to - from));
    };
    expect(mean(20, 28, 0)).toBeGreaterThan(1.5 * mean(20, 28, 1));
    expect(mean(38, 46, 1)).toBeGreaterThan(1.5 * mean(38, 46, 0));
  });
  it('WebP and KTX2 are kept, drawn and gathered like any other', async () => {
    const { file, pictures } = await packedCrate('Crate', 120, 128);
    await writeFile(at('packed.glb'), file);
    expect((await ran(['export', 'packed.glb', '-o', 'packed.zip'])).code).toBe(0);
    const glb = unzipSync(await readFile(at('packed.zip')))['packed.glb'];
    expect(await imagesOf(glb)).toEqual(pictures.map(hashBytes).sort());
    expect((await validator.validateBytes(glb)).issues.numErrors).toBe(0);
    expect((await ran(['render', 'packed.glb', '--size', '48x48', '--samples', '4', '-o', 'packed.png'])).code).toBe(0);
    const { code, out } = await ran(['unwrap', 'packed.glb', '--size', '512', '--json', '-o', 'packed-laid.glb']);
    expect(code).toBe(0);
    const { comparison } = JSON.parse(out).gathered;
    expect(comparison.meanColourOff).toBeLessThan(2);
    expect(comparison.channels.normal.p95).toBeLessThan(1.5);
  });
  it('unwrap draws them anew on the layout it makes', async () => {
    const { code, out } = await ran(['unwrap', 'crate.glb', '--size', '512', '--json', '-o', 'laid.glb']);
    expect(code).toBe(0);
    const { gathered } = JSON.parse(out);
    expect(gathered.comparison.meanColourOff).toBeLessThan(2);
    expect(gathered.comparison.channels.normal.p95).toBeLessThan(1);
    const glb = await readFile(at('laid.glb'));
    expect((await validator.validateBytes(new Uint8Array(glb))).issues.numErrors).toBe(0);
    const model = await readModel('laid.glb', glb);
    expect(model.parts.map((p) => p.name)).toEqual(['Crate']);
    expect(model.textures).toHaveLength(3);
  });
});
