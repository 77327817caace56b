import { strToU8 } from 'fflate';
import validator from 'gltf-validator';
import { beforeAll, describe, expect, it } from 'vitest';
import { threeTextured } from '../../test/textured';
import { InputError } from '../errors';
import { hashBytes } from '../hash';
import type { CamePictures } from '../io/glb-came';
import { splitGlb } from '../io/glb-check';
import { readModel } from '../io/read';
import type { PolyMesh } from '../mesh/polymesh';
import type { LayoutFigures } from '../uv/measure';
import { openAsset, packAsset } from './asset-file';
import { picturesOfCame } from './came';
import { checkedAs } from './checked';
import { GatherPatch } from './commands/gather-set';
import { applyCommand } from './commands/index';
import { type AssetDocument, gatherOf } from './document';
import { formAsset, type PartMesh } from './form';
import { forecastPlaces, type GatherResult, gatherAsset } from './gather';
import { gatherChecks, gatheredDraws, gatherVerdict } from './gather-figures';
import { gatheredGlb } from './gathered';
import { documentFromModel, partsFromModel } from './import';
import { nameOf } from './results';
import { unwrap, unwrapSettings } from './unwrap';

const SIZE = 1024;
let unwrapFigures: LayoutFigures;

/** The three files as one piece, laid out twice. */
async function together(): Promise<{ document: AssetDocument; formed: PartMesh[]; laid: PartMesh[]; pictures: CamePictures }> {
  const meshes: PolyMesh[] = [];
  const kept = new Map<string, Uint8Array>();
  const keep = (m: PolyMesh) => String(meshes.push(m) - 1);
  const keepPicture = (b: Uint8Array) => {
    kept.set(hashBytes(b), b);
    return hashBytes(b);
  };
  const [first, ...more] = await Promise.all((await Promise.all(threeTextured())).map((b, i) => readModel(`${i}.glb`, b)));
  const document = documentFromModel('Stores', first, { fileName: '0.glb', licence: 'own', note: '' }, keep, undefined, keepPicture);
  for (const [i, model] of more.entries()) {
    const { parts, materials } = partsFromModel(model, keep, (kind, n) => `${kind}-${i}-${n}`, { fileName: `${i + 1}.glb` }, keepPicture);
    document.parts.push(...parts);
    document.materials.push(...materials);
  }
  document.unwrap = { ...document.unwrap, second: { on: true, size: SIZE, padding: 8 } };
  document.gather = { ...gatherOf(document), on: true, size: SIZE };
  const formed = formAsset(document, 'low', (blob) => meshes[Number(blob)]).parts;
  const { parts: laid, figures } = unwrap(formed, unwrapSettings(document));
  unwrapFigures = figures;
  return { document, formed, laid, pictures: await picturesOfCame(document, (b) => kept.get(b) as Uint8Array) };
}

describe('three textured models gathered on one set', () => {
  let made: Awaited<ReturnType<typeof together>>;
  let result: GatherResult;
  beforeAll(async () => {
    made = await together();
    result = gatherAsset(made.document, made.formed, made.laid, made.pictures, {}, () => 0);
  }, 300_000);

  it('colour means agree to 2 of 255, normals to 1° in 95 of 100 places, mirrored and repeated ones too', () => {
    const { comparison, lostShare, parts } = result.figures;
    expect(lostShare).toBe(0);
    expect(comparison.meanColourOff).toBeLessThan(2);
    expect(comparison.channels.normal?.p95).toBeLessThan(1);
    expect(comparison.channels.roughness?.mean).toBeLessThan(1);
    expect(comparison.channels.opacity?.mean).toBeLessThan(1);
    expect(parts.map((p) => [p.name, p.group])).toEqual([
      ['Crate', 'opaque'],
      ['Drum', 'opaque'],
      ['Pane', 'clear'],
    ]);
  });
  it('how many places are read is known before any picture is unpacked, to a third', () => {
    const { second } = unwrapFigures;
    const told = forecastPlaces(made.document, made.formed, second?.density ?? null);
    expect(told / result.figures.samples).toBeGreaterThan(0.67);
    expect(told / result.figures.samples).toBeLessThan(1.5);
    expect(forecastPlaces(made.document, made.formed, null)).toBeGreaterThan(0);
  });
  it('says what it would need to keep everything, and what it keeps', () => {
    for (const p of result.figures.parts) {
      expect(p.neededPx).toBeGreaterThan(0.3 * SIZE);
      // Needed and kept say the same.
      if (p.neededPx <= SIZE) expect(p.keepsShare).toBeCloseTo(1, 1);
      expect(p.keepsShare).toBeGreaterThan(0.2);
      expect(p.keepsShare).toBeLessThanOrEqual(1);
      // A mean of shares is never less than the share of the mean (Jensen’s inequality).
      expect(p.keepsShare).toBeGreaterThanOrEqual(1 / p.averaged - 1e-9);
    }
    expect(gatherVerdict(result.figures).sentence).toMatch(/shows what it came from|would need [\d\s]+ px; at 1024 it keeps/);
  });
  it('goes out as two draws with two materials, valid, its pictures in it once, and nothing of the old ones', async () => {
    const glb = await gatheredGlb(made.document, made.laid, { figures: result.figures, files: result.files }, 'stores');
    const report = await validator.validateBytes(glb);
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    expect((report.info as unknown as { drawCallCount: number }).drawCallCount).toBe(2);
    expect(gatheredDraws(made.document, result.figures)).toBe(2);
    const json = splitGlb(glb).json as {
      images: unknown[];
      materials: { alphaMode?: string }[];
      meshes: { primitives: { attributes: object }[] }[];
    };
    expect(json.images).toHaveLength(3);
    expect(json.materials.map((m) => m.alphaMode ?? 'OPAQUE')).toEqual(['OPAQUE', 'BLEND']);
    for (const m of json.meshes)
      expect(Object.keys(m.primitives[0].attributes).sort()).toEqual(['NORMAL', 'POSITION', 'TANGENT', 'TEXCOORD_0']);
    // Read again by ourselves, it stands where it stood.
    const back = await readModel('stores.glb', glb);
    expect(back.parts).toHaveLength(2);
    expect(back.textures).toHaveLength(3);
  });
  it('drawn apart, every part is a draw of its own', async () => {
    const apart = { ...made.document, gather: { ...gatherOf(made.document), apart: true } };
    expect(gatheredDraws(apart, result.figures)).toBe(3);
    // How it goes out changes nothing of the set.
    expect(nameOf(apart, 'gather')).toBe(nameOf(made.document, 'gather'));
  });
  it('looks for the three usual mistakes first, each with what mends it', () => {
    const check = (change: Partial<AssetDocument>) => gatherChecks({ ...made.document, ...change }, null, null);
    expect(check({}).map((c) => c.level)).toEqual(['ok', 'ok', 'ok']);
    const without = check({ unwrap: { ...made.document.unwrap, second: undefined } })[1];
    expect(without).toMatchObject({ level: 'over', fix: 'second-on' });
    const onto = check({ gather: { ...gatherOf(made.document), to: 'first' } })[1];
    expect(onto).toMatchObject({ level: 'over', fix: 'to-second' });
    expect(onto.sentence).toMatch(/the very layouts the pictures are read from/);
    const left = check({ gather: { ...gatherOf(made.document), left: [made.document.parts[1].id] } })[0];
    expect(left).toMatchObject({ level: 'near', fix: 'take-all', sentence: 'Left as it is: Drum.' });
    expect(check({ gather: { ...gatherOf(made.document), size: 512 } })[2]).toMatchObject({ level: 'near', fix: 'second-on' });
    const low = gatherChecks(made.document, 12, 20)[2];
    expect(low.sentence).toBe('At 1024 px it has 12 px/cm; the closest view wants 20.');
    const onFirst = { ...made.document, gather: { ...gatherOf(made.document), to: 'first' as const } };
    expect(() => gatherAsset(onFirst, made.formed, made.laid, made.pictures, {}, () => 0)).toThrow(/the very layouts/);
  });
  it('onto a layout that was laid anew: old artwork on a new unwrap', async () => {
    const document: AssetDocument = {
      ...made.document,
      unwrap: { ...made.document.unwrap, filed: 'anew', second: undefined },
      gather: { ...gatherOf(made.document), to: 'first' },
    };
    const laid = unwrap(made.formed, { ...unwrapSettings(document), size: SIZE }).parts;
    const { figures } = gatherAsset(document, made.formed, laid, made.pictures, {}, () => 0);
    expect(figures.comparison.meanColourOff).toBeLessThan(2);
    expect(figures.comparison.channels.normal?.p95).toBeLessThan(1.5);
  });
  it('is set by a command, and a bad size is refused', () => {
    const set = (patch: object) => applyCommand(made.document, { type: 'gather.set', patch } as never);
    expect(set({ size: 512 }).document.gather).toMatchObject({ size: 512, on: true });
    const checked = (patch: object) => checkedAs(patch, GatherPatch, (said) => new InputError('gather/patch', said));
    expect(() => checked({ size: 3 })).toThrow(/size/);
    expect(() => checked({ to: 'third' })).toThrow(/to/);
    expect(checked({ size: 2048, to: 'first' })).toMatchObject({ size: 2048 });
  });
});

it('a textured piece goes into its file and out again the same, pictures and all; without them it has its plain numbers', async () => {
  const { document, pictures } = await together();
  const bare = { ...document, parts: document.parts.map((p) => ({ ...p, shape: { kind: 'recipe' as const, steps: [] } })) };
  const file = packAsset(bare, (blob) => pictures.get(blob)?.bytes ?? expect.fail('a blob that is none of its pictures'));
  const opened = openAsset('stores.zip', file);
  expect(opened.notes).toEqual([]);
  expect(opened.document.materials).toEqual(JSON.parse(JSON.stringify(bare.materials)));
  expect(opened.document.gather).toEqual(bare.gather);
  for (const [blob, { bytes }] of pictures) expect(opened.bytes(blob)).toEqual(bytes);
  const lost = openAsset('stores.json', strToU8(JSON.stringify(bare)));
  expect(lost.document.materials.every((m) => m.texturing === undefined)).toBe(true);
  expect(lost.notes.join()).toMatch(/textures, photographs, artworks or STEP files it was made from did not come with it/);
});
