import 'reflect-metadata';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { IDENTITY, translation } from '@wellmorph/core/maths/mat4';
import { boundsOf } from '@wellmorph/core/mesh/measures';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { intoPartSpace } from '@wellmorph/core/pipeline/import';
import { afterAll, describe, expect, it } from 'vitest';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-high-'));
process.env.WELLMORPH_DATA = dir;

const { smallPiece } = await import('../../../test/pieces');
const { assetState, createAsset, editAsset, StaleError, stepHistory } = await import('../db/assets');
const { closeDatabase } = await import('../db/client');
const { giveHigh, pairByHand } = await import('./import');
const { openMeshes } = await import('./meshes');

afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

const SOURCE = { fileName: 'dense.glb', licence: 'CC0', note: '' };
let seed = 1;
/** An asset as it is when a dense file for it begins to be read, and what the file brings: its parts from a finer tolerance, in place. */
async function begun() {
  const before = await assetState(await createAsset(smallPiece('Cup', seed++)));
  const { parts } = formAsset(before.document, 'high', await openMeshes(before.document));
  return { before, model: { parts: parts.map((p) => ({ name: p.name, mesh: p.mesh, placements: p.placements, material: -1 })) } };
}
const highs = async (id: string) => (await assetState(id)).document.parts.map((p) => [p.id, p.high?.name ?? null]);

describe('a high mesh for a piece', () => {
  it('is paired by name, kept in its part’s own space, and is one change with its source', async () => {
    const { before, model } = await begun();
    expect(await giveHigh(before, model, SOURCE)).toEqual({ paired: 2, of: 2 });
    const { document, version, history } = await assetState(before.id);
    expect([version, history.length]).toEqual([before.version + 1, 1]);
    expect(document.sources).toContainEqual(SOURCE);
    const open = await openMeshes(document);
    for (const [i, part] of document.parts.entries()) {
      const stored = boundsOf(open(part.high?.blob as string));
      const made = boundsOf(model.parts[i].mesh);
      for (const k of [0, 1, 2]) expect(stored.max[k]).toBeCloseTo(made.max[k], 3);
      // The list by hand holds it where it stands in the scene.
      const scene = boundsOf(intoPartSpace(model.parts[i], IDENTITY));
      expect(document.highParts[i].centre[0]).toBeCloseTo((scene.min[0] + scene.max[0]) / 2, 3);
    }
    await stepHistory(before.id, version, 'undo');
    expect(await highs(before.id)).toEqual([
      ['cup', null],
      ['lid', null],
    ]);
  });
  it('what is changed while it is read stands, and is no reason to have read it for nothing', async () => {
    const { before, model } = await begun();
    await editAsset(before.id, before.version, { type: 'rename', name: 'Mug' });
    await editAsset(before.id, before.version + 1, { type: 'part.set', part: 'cup', patch: { name: 'Mug’s body' } });
    expect(await giveHigh(before, model, SOURCE)).toEqual({ paired: 2, of: 2 });
    const { document } = await assetState(before.id);
    expect([document.name, document.parts[0].name]).toEqual(['Mug', 'Mug’s body']);
    expect((await highs(before.id)).map(([, high]) => high)).toEqual(['cup', 'lid']);
  });
  it('a part that has gone meanwhile is left out; the rest is paired', async () => {
    const { before, model } = await begun();
    await editAsset(before.id, before.version, { type: 'part.remove', part: 'lid' });
    expect(await giveHigh(before, model, SOURCE)).toEqual({ paired: 1, of: 1 });
    expect(await highs(before.id)).toEqual([['cup', 'cup']]);
  });
  it('others may change things again and again while it is stored', async () => {
    const { before, model } = await begun();
    const others = (async () => {
      let { version } = before;
      for (let i = 0; i < 5; i++)
        ({ version } = await editAsset(before.id, version, { type: 'rename', name: `Name ${i}` }).catch(() => assetState(before.id)));
    })();
    const [given] = await Promise.all([giveHigh(before, model, SOURCE), others]);
    expect(given).toEqual({ paired: 2, of: 2 });
    expect((await highs(before.id)).every(([, high]) => high !== null)).toBe(true);
  });
  it('given up before it is stored, it changes nothing', async () => {
    const { before, model } = await begun();
    await expect(giveHigh(before, model, SOURCE, AbortSignal.abort())).rejects.toMatchObject({ code: 'import/stopped' });
    expect((await assetState(before.id)).version).toBe(before.version);
  });
  it('an asset that has gone meanwhile is said', async () => {
    const { before, model } = await begun();
    const { setDeleted } = await import('../db/assets');
    await setDeleted(before.id, true);
    await expect(giveHigh(before, model, SOURCE)).rejects.toMatchObject({ code: 'asset/missing' });
  });
  it('a pair chosen by hand brings another of them into the part’s space, or none', async () => {
    const { before, model } = await begun();
    await giveHigh(before, model, SOURCE);
    const { document, version } = await assetState(before.id);
    const lid = document.highParts.find((h) => h.name === 'lid')?.blob as string;
    await pairByHand(before.id, version, 'cup', [lid]);
    expect(await highs(before.id)).toEqual([
      ['cup', 'lid'],
      ['lid', 'lid'],
    ]);
    await expect(pairByHand(before.id, version, 'cup', [])).rejects.toBeInstanceOf(StaleError);
    await pairByHand(before.id, version + 1, 'cup', []);
    expect((await highs(before.id))[0]).toEqual(['cup', null]);
    await expect(pairByHand(before.id, version + 2, 'cup', ['f'.repeat(64)])).rejects.toThrow('not there any more');
  });
  it('several are one that a part is baked from, and it is known which; by their names they are found by themselves', async () => {
    const { before, model } = await begun();
    // They lie on the cup; what is only named after it may be another cup.
    const bolts = { ...model.parts[1], name: 'Cup_bolts_high', placements: model.parts[0].placements };
    const other = { ...bolts, name: 'Cup_002', placements: [translation([900, 0, 0])] };
    expect(await giveHigh(before, { parts: [model.parts[0], bolts, other] }, SOURCE)).toEqual({ paired: 1, of: 2 });
    const { document, version } = await assetState(before.id);
    const [cup, bolted, third] = document.highParts;
    expect(document.parts[0].high).toMatchObject({ name: 'cup + Cup_bolts_high', of: [cup.blob, bolted.blob], pairedBy: 'name' });
    expect(document.parts[0].high?.triangles).toBe(cup.triangles + bolted.triangles);
    await pairByHand(before.id, version, 'cup', [third.blob]);
    const alone = (await assetState(before.id)).document.parts[0].high;
    expect(alone).toMatchObject({ name: 'Cup_002', pairedBy: 'hand' });
    expect(alone).not.toHaveProperty('of');
    await pairByHand(before.id, version + 1, 'cup', [cup.blob, third.blob]);
    const after = (await assetState(before.id)).document;
    expect(after.parts[0].high).toMatchObject({ name: 'cup + Cup_002', of: [cup.blob, third.blob], pairedBy: 'hand' });
    const open = await openMeshes(after);
    const far = boundsOf(intoPartSpace(other, IDENTITY));
    expect(boundsOf(open(after.parts[0].high?.blob as string)).max[0] + model.parts[0].placements[0][12]).toBeCloseTo(far.max[0], 3);
  });
});
