import 'reflect-metadata';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { stormLantern } from '@wellmorph/demo/lantern';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { StepFile } from '../../../../core/test/step-files';
import { builtWorker } from '../../../test/worker';
import type { Upload } from './limits';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-pieces-'));
process.env.WELLMORPH_DATA = dir;
const { briefFor } = await import('@wellmorph/core/brief/brief');
const { adaptiveOf } = await import('@wellmorph/core/form/recipe');
const { newDocument, stepsOf } = await import('@wellmorph/core/pipeline/document');
const { keptOf } = await import('@wellmorph/core/pipeline/stored');
const { closeDatabase } = await import('../db/client');
const { assetState, createAsset, editAsset, setDeleted, stepHistory } = await import('../db/assets');
const { hasBlob } = await import('../blobs/store');
const { bringParts } = await import('./import');
const { cutAnew } = await import('./anew');
const { bringPiece, materialsElsewhere, otherPieces, takePiece, workbench } = await import('./pieces');
const { threads } = await import('./parse');

beforeAll(async () => {
  const [piece, parse] = await Promise.all(
    ['../jobs/piece.worker.ts', 'parse.worker.ts'].map((place) => builtWorker(resolve(import.meta.dirname, place))),
  );
  workbench.thread = () => new Worker(piece);
  threads.reader = () => new Worker(parse);
});
afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

const empty = () => createAsset(newDocument('Shelf', briefFor('game')));
/** A lantern without its recipe’s dearest parts. */
const small = () => {
  const lantern = stormLantern();
  const parts = lantern.parts.filter((p) => ['font', 'cap'].includes(p.id));
  return createAsset({ ...lantern, name: 'Small lantern', parts, relations: [] });
};
const fileAt = (name: string, bytes: Uint8Array): Upload => {
  const path = join(dir, name);
  writeFileSync(path, bytes);
  return { fileName: name, path, unit: null, up: null, licence: 'own work', replaces: null, sure: false, companions: {} };
};

describe('a piece brought into another', () => {
  it('comes with its meshes, low and high, and its materials; its newer state is one change that can be taken back', async () => {
    const [shelf, lantern] = [await empty(), await small()];
    expect((await otherPieces(shelf)).map((p) => [p.name, p.parts])).toEqual([['Small lantern', 2]]);
    const { parts } = await bringPiece(shelf, lantern, false);
    const { document, version } = await assetState(shelf);
    expect(document.parts.map((p) => p.id)).toEqual(parts);
    expect(document.parts.every((p) => p.high && p.shape.kind === 'mesh' && p.material !== null)).toBe(true);
    expect(document.materials.length).toBeGreaterThan(0);
    const [{ state }] = await otherPieces(shelf);
    expect(document.parts[0].origin).toMatchObject({ kind: 'piece', asset: lantern, state, frozen: false });
    // Moved and renamed here, changed there.
    await editAsset(shelf, version, { type: 'part.set', part: parts[0], patch: { name: 'Mine', move: [100, 0, 0] } });
    const there = await assetState(lantern);
    await editAsset(lantern, there.version, {
      type: 'form.lock',
      key: adaptiveOf(stepsOf(there.document.parts[0])[0])[0].key,
      label: 'sides',
      count: 40,
    });
    const [{ state: newer }] = await otherPieces(shelf);
    expect(newer).not.toBe(state);
    const before = (await assetState(shelf)).document;
    await takePiece(shelf, lantern);
    const after = await assetState(shelf);
    expect(after.document.parts[0]).toMatchObject({ name: 'Mine', move: [100, 0, 0], origin: { state: newer } });
    const blobs = (d: typeof before) => d.parts.map((p) => p.shape.kind === 'mesh' && p.shape.low.blob);
    expect(blobs(after.document)).not.toEqual(blobs(before));
    await stepHistory(shelf, after.version, 'undo');
    expect((await assetState(shelf)).document).toEqual(before);
  });

  it('that is gone, or is the piece itself, is one sentence and changes nothing; a frozen one is never taken anew', async () => {
    const [shelf, lantern] = [await empty(), await small()];
    await expect(bringPiece(shelf, shelf, false)).rejects.toThrow('A piece can’t be brought into itself.');
    await bringPiece(shelf, lantern, true);
    await expect(takePiece(shelf, lantern)).rejects.toThrow('No part of this piece is linked to that one any more.');
    await bringPiece(shelf, lantern, false);
    const before = await assetState(shelf);
    await setDeleted(lantern, true);
    await expect(takePiece(shelf, lantern)).rejects.toThrow(
      '“Small lantern” is not in the Workshop any more; what was taken from it stays.',
    );
    await expect(bringPiece(shelf, lantern, false)).rejects.toThrow('That piece is not in the Workshop any more');
    expect((await assetState(shelf)).document).toEqual(before.document);
    expect((await assetState(shelf)).version).toBe(before.version);
  });
});

describe('a file of an unlikely size', () => {
  it('is asked about before anything is stored, and taken all the same when that is said', async () => {
    const shelf = await empty();
    const facet = (a: string, b: string, c: string) =>
      `facet normal 0 0 0\nouter loop\nvertex ${a}\nvertex ${b}\nvertex ${c}\nendloop\nendfacet\n`;
    const stl = new TextEncoder().encode(
      `solid slab\n${facet('0 0 0', '120 0 0', '0 90 0')}${facet('0 0 0', '0 90 0', '120 0 5')}endsolid\n`,
    );
    const inMetres = { ...fileAt('slab.stl', stl), unit: 'm' };
    await expect(bringParts(shelf, inMetres)).rejects.toThrow('“slab.stl” would be 120 m long: choose another unit');
    expect((await assetState(shelf)).document.parts).toEqual([]);
    expect((await bringParts(shelf, { ...inMetres, sure: true })).parts).toHaveLength(1);
    expect((await bringParts(shelf, { ...inMetres, unit: 'mm' })).parts).toHaveLength(1);
  });
});

describe('a STEP file in a piece', () => {
  it('is kept, cut anew without being brought in again, and replaced by a newer one', async () => {
    const shelf = await empty();
    const first = new StepFile().cone('Pin', 5, 5, 20, [1, 0, 0]).boredBlock('Block', [0, 0, 0], [20, 30, 10], [8, 12], 4).bytes();
    await bringParts(shelf, fileAt('holder.step', first));
    const { document } = await assetState(shelf);
    const [pin] = document.parts;
    expect(pin.high?.triangles).toBeGreaterThan(0);
    expect(keptOf(document)).toHaveLength(1);
    expect(await hasBlob(keptOf(document)[0])).toBe(true);
    await cutAnew(shelf, 'holder.step', 0.01);
    const finer = (await assetState(shelf)).document;
    expect(finer.parts[0].high?.triangles).toBeGreaterThan(1.5 * (pin.high?.triangles ?? 0));
    expect(finer.parts[0].id).toBe(pin.id);
    expect(finer.parts[0].material).toBe(pin.material);
    await expect(cutAnew(shelf, 'holder.step', 0)).rejects.toThrow('Surfaces can be cut to 0.001 to');
    const second = new StepFile().cone('Pin', 6, 6, 22, [1, 0, 0]).sphere('Knob', 8).bytes();
    const { notes } = await bringParts(shelf, { ...fileAt('holder-2.step', second), replaces: 'holder.step' });
    expect(notes).toEqual(['New in it: Knob.', 'No longer in it, and left as before: Block.']);
    const newer = (await assetState(shelf)).document;
    expect(newer.parts.map((p) => p.name)).toEqual(['Pin', 'Block', 'Knob']);
    // As fine as the older one was cut.
    expect(newer.parts[0].origin).toMatchObject({ fileName: 'holder-2.step', exact: { toleranceMm: 0.01 } });
    const broken = { ...fileAt('holder-3.step', second.slice(0, 2000)), replaces: 'holder-2.step' };
    await expect(bringParts(shelf, broken)).rejects.toThrow('The STEP file ends before its data does.');
    expect((await assetState(shelf)).document).toEqual(newer);
    await expect(bringParts(shelf, { ...fileAt('x.step', second), replaces: 'never.step' })).rejects.toThrow(
      'came from “never.step” any more',
    );
  });
});

describe('materials of other pieces', () => {
  it('are those that somebody chose there, as they are now, without strokes, links and pictures; not one’s own', async () => {
    const [shelf, lantern] = [await empty(), await small()];
    const { document, version } = await assetState(lantern);
    const [brass] = document.materials;
    const strokes = {
      kind: 'strokes' as const,
      soft: 0.4,
      strokes: [{ part: 'font', erases: false, radius: 4, points: [0, 0, 0, 0, 1, 0, 1] }],
    };
    const painted = {
      id: 'p',
      name: 'Painted',
      on: true,
      opacity: 1,
      look: {},
      mask: [{ join: 'times' as const, inverted: false, field: strokes }],
    };
    await editAsset(lantern, version, { type: 'material.set', material: brass.id, patch: { name: 'My brass', layers: [painted] } });
    const found = (await materialsElsewhere(shelf)).find((p) => p.id === lantern);
    expect(found?.name).toBe('Small lantern');
    const mine = found?.materials.find((m) => m.name === 'My brass');
    expect(mine?.layers[0].mask[0].field).toEqual({ ...strokes, strokes: [] });
    expect((await materialsElsewhere(lantern)).some((p) => p.id === lantern)).toBe(false);
    await expect(materialsElsewhere('nowhere')).rejects.toThrow(/not there any more/);
  });
});
