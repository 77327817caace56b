import 'reflect-metadata';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { stormLantern } from '@wellmorph/demo/lantern';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-server-'));
process.env.WELLMORPH_DATA = dir;

const { assetState, createAsset, duplicateAsset, editAsset, listAssets, setDeleted, StaleError, stepHistory } = await import('./db/assets');
const { closeDatabase } = await import('./db/client');
const { keepBlob, readBlob } = await import('./blobs/store');
const { keepResult, resultNamed, resultsNamed, resultsOf, resultsOfAll } = await import('./db/results');
const { addTrial, judgeTrial, trialsOf } = await import('./db/trials');
const { ownerOf, OwnedError, releaseOwnership, takeOwnership } = await import('./ownership');
const { checkedCommand } = await import('./requests/command');
const { bodyBytes, checkOrigin, RequestError } = await import('./requests/route');
const { workshopCards } = await import('./workshop');

beforeAll(async () => {
  await listAssets();
});
afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

const make = () => createAsset(newDocument('Biscuit tin', briefFor('game')));

describe('assets', () => {
  it('edits raise the version, are logged in words, and can be taken back and forth across reloads', async () => {
    const id = await make();
    await editAsset(id, 1, { type: 'rename', name: 'Tin' });
    await editAsset(id, 2, { type: 'brief.set', patch: { closestMm: 450 } });
    let state = await assetState(id);
    expect(state.version).toBe(3);
    expect(state.document.brief.closestMm).toBe(450);
    expect(state.history.map((h) => h.words)).toEqual(['named it “Tin”', 'set the brief: closest view']);
    expect((await stepHistory(id, 3, 'undo')).words).toBe('set the brief: closest view');
    await stepHistory(id, 4, 'undo');
    state = await assetState(id);
    expect(state.document.name).toBe('Biscuit tin');
    expect(state.document.brief.closestMm).toBe(600);
    await stepHistory(id, 5, 'redo');
    expect((await assetState(id)).document.name).toBe('Tin');
    // A new change cuts off what had been taken back.
    await editAsset(id, 6, { type: 'unwrap.set', patch: { padding: 4 } });
    await expect(stepHistory(id, 7, 'redo')).rejects.toThrow(/nothing to bring back/);
    await stepHistory(id, 7, 'undo');
    await stepHistory(id, 8, 'undo');
    await expect(stepHistory(id, 9, 'undo')).rejects.toThrow(/nothing to take back/);
  });
  it('a change made on an older version is refused, says what happened since, and changes nothing', async () => {
    const id = await make();
    await editAsset(id, 1, { type: 'rename', name: 'First' });
    await expect(editAsset(id, 1, { type: 'rename', name: 'Second' })).rejects.toBeInstanceOf(StaleError);
    await expect(editAsset(id, 1, { type: 'rename', name: 'Second' })).rejects.toThrow(/named it “First”/);
    expect((await assetState(id)).document.name).toBe('First');
  });
  it('of two changes at once on one version exactly one is kept', async () => {
    const id = await make();
    const both = await Promise.allSettled([1, 2].map((n) => editAsset(id, 1, { type: 'rename', name: `N${n}` })));
    expect(both.map((r) => r.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect((await assetState(id)).version).toBe(2);
  });
  it('can be duplicated, deleted and brought back', async () => {
    const id = await make();
    const copy = await duplicateAsset(id);
    expect((await assetState(copy)).document.name).toBe('Biscuit tin, copy');
    await setDeleted(id, true);
    await expect(assetState(id)).rejects.toThrow(/not there any more/);
    expect((await listAssets()).some((a) => a.id === id)).toBe(false);
    await setDeleted(id, false);
    expect((await assetState(id)).id).toBe(id);
  });
});

describe('blobs, results and trials', () => {
  it('the same bytes are kept once, under their SHA-256 (FIPS 180-4 example: “abc”)', async () => {
    const name = await keepBlob(new TextEncoder().encode('abc'), 'png');
    expect(name).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
    expect(await keepBlob(new TextEncoder().encode('abc'), 'png')).toBe(name);
    expect(new TextDecoder().decode(await readBlob(name))).toBe('abc');
    expect(readdirSync(join(dir, 'blobs', 'ba'))).toEqual([name]);
    await expect(readBlob('../../etc/passwd')).rejects.toThrow(/not the name/);
    await expect(readBlob('0'.repeat(64))).rejects.toThrow(/not there/);
  });
  it('a result is found by name; an older state’s is shown as stale, and the first under a name stands', async () => {
    const lantern = stormLantern();
    const id = await createAsset(lantern);
    const figures = (islands: number) => ({ islands, folds: 0, overlapTexels: 0, stretchL2: 1, coverage: 0.6, density: 20 });
    const result = (document: typeof lantern, islands: number) => ({
      name: nameOf(document, 'unwrap'),
      stage: 'unwrap' as const,
      inputs: [nameOf(document, 'form')],
      figures: figures(islands),
      blobs: {},
    });
    await editAsset(id, 1, { type: 'unwrap.set', patch: { padding: 3 } });
    await editAsset(id, 2, { type: 'unwrap.set', patch: { padding: 4 } });
    const present = (await assetState(id)).document;
    const before = { ...present, unwrap: { ...present.unwrap, padding: 3 } };
    // Stored late, it is no newer for that: what counts is the order of the states.
    await keepResult(result(before, 3));
    expect(await resultsOf(id, present)).toEqual([expect.objectContaining({ figures: figures(3) })]);
    expect((await workshopCards()).find((c) => c.id === id)?.stages.unwrap).toBe('stale');
    await keepResult(result(present, 4));
    await keepResult(result(lantern, 8));
    expect(await resultsOf(id, present)).toEqual([expect.objectContaining({ figures: figures(4) })]);
    // Asked for together, each piece has its own.
    const other = await createAsset({ ...lantern, name: 'Another lantern' });
    const both = await resultsOfAll([
      { id, document: present },
      { id: other, document: (await assetState(other)).document },
    ]);
    expect([id, other].map((a) => both.get(a)?.map((r) => r.figures))).toEqual([[figures(4)], [figures(8)]]);
    // However many names are asked for: more than a question to the database has places.
    const many = Array.from({ length: 70_000 }, (_, i) => i.toString(16).padStart(64, '0'));
    expect(await resultsNamed([...many, nameOf(present, 'unwrap')])).toEqual([expect.objectContaining({ figures: figures(4) })]);
    expect(await keepResult({ ...result(present, 5) })).toMatchObject({ figures: figures(4) });
    expect(await resultNamed(nameOf(present, 'unwrap'))).toMatchObject({ figures: figures(4) });
    const card = (await workshopCards()).find((c) => c.id === id);
    expect(card?.stages).toMatchObject({ brief: 'ok', form: 'none', bake: 'none', surface: 'none', light: 'near', 'hand-off': 'none' });
    expect(card?.density).toBe(20);
    await expect(
      keepResult({ ...result({ ...present, name: '' }, 1), name: 'c'.repeat(64), blobs: { parts: 'd'.repeat(64) } }),
    ).rejects.toThrow(/not stored here/);
    expect(await resultNamed('c'.repeat(64))).toBeUndefined();
  });
  it('trials are kept with their verdict and note', async () => {
    const id = await make();
    const t = await addTrial(id, {
      stage: 'bake',
      title: 'Measured',
      settings: { samples: 2 },
      figures: { meanDegrees: 1.2 },
      milliseconds: 900,
      thumbnail: null,
    });
    await judgeTrial(id, t.id, { verdict: 'kept', note: 'good rims' });
    expect(await trialsOf(id)).toEqual([expect.objectContaining({ verdict: 'kept', note: 'good rims', figures: { meanDegrees: 1.2 } })]);
    await expect(judgeTrial(id, 'nothing', { verdict: 'kept' })).rejects.toThrow(/not there/);
  });
});

describe('who owns the data', () => {
  const other = mkdtempSync(join(tmpdir(), 'wellmorph-owner-'));
  afterAll(() => rmSync(other, { recursive: true, force: true }));
  it('a living owner is refused in a sentence, a dead one is taken over', () => {
    // Process 1 lives as long as the machine does.
    writeFileSync(join(other, 'owner.json'), JSON.stringify({ pid: 1, started: '' }));
    expect(() => takeOwnership(other)).toThrow(OwnedError);
    expect(() => takeOwnership(other)).toThrow(/already open in another Wellmorph \(process 1\)/);
    // The same number, but of a process that started at another time.
    writeFileSync(join(other, 'owner.json'), JSON.stringify({ pid: 1, started: '999999999999' }));
    expect(ownerOf(other)).toBe(null);
    takeOwnership(other);
    expect(ownerOf(other)?.pid).toBe(process.pid);
    takeOwnership(other);
    releaseOwnership(other);
    expect(ownerOf(other)).toBe(null);
  });
  it('of many that want it at one moment exactly one gets it, and the lock never stands empty', async () => {
    const code = `
      const { workerData, parentPort } = require('node:worker_threads');
      const { readFileSync } = require('node:fs');
      let empty = 0;
      for (const end = Date.now() + 600; Date.now() < end; ) {
        try { if (readFileSync(workerData + '/owner.json', 'utf8').length === 0) empty++; } catch {}
      }
      parentPort.postMessage(empty);`;
    const { Worker } = await import('node:worker_threads');
    const watching = new Promise((resolve, reject) =>
      new Worker(code, { eval: true, workerData: other }).once('message', resolve).once('error', reject),
    );
    for (const end = Date.now() + 500; Date.now() < end; ) {
      takeOwnership(other);
      releaseOwnership(other);
    }
    expect(await watching).toBe(0);
    expect(readdirSync(other)).toEqual([]);
  });
});

describe('requests', () => {
  const request = (headers: Record<string, string>) => new Request('http://127.0.0.1:4310/api/assets', { headers });
  it('from other pages or under other names are refused', () => {
    expect(() => checkOrigin(request({ host: '127.0.0.1:4310' }))).not.toThrow();
    expect(() => checkOrigin(request({ host: 'localhost:4310', origin: 'http://localhost:4310' }))).not.toThrow();
    const foreign: Record<string, string>[] = [
      { host: 'example.invalid' },
      { host: '127.0.0.1:4310', origin: 'http://example.invalid' },
      { host: '127.0.0.1:4310', origin: 'null' },
      { host: '127.0.0.1:4310', 'sec-fetch-site': 'cross-site' },
    ];
    for (const bad of foreign) expect(() => checkOrigin(request(bad))).toThrow(RequestError);
  });
  it('larger than allowed are cut off, whatever they claim', async () => {
    const large = new Request('http://127.0.0.1/', { method: 'POST', body: new Uint8Array(1000) });
    await expect(bodyBytes(large, 100)).rejects.toMatchObject({ status: 413 });
  });
  it('each kind of change is checked by its own class', async () => {
    const lantern = stormLantern();
    const part = lantern.parts[0];
    const step = part.shape.kind === 'recipe' ? part.shape.steps[0] : null;
    expect(await checkedCommand({ type: 'step.set', part: 'font', step } as never)).toEqual({ type: 'step.set', part: 'font', step });
    expect(await checkedCommand({ type: 'part.add', part } as never)).toEqual({ type: 'part.add', part: JSON.parse(JSON.stringify(part)) });
    const refused: [object, RegExp][] = [
      [{ type: 'format disk' }, /not a change/],
      [{ type: 'rename' }, /name/],
      [{ type: 'rename', name: 'x', extra: 1 }, /extra/],
      [{ type: 'brief.set', patch: { lensMm: 'long' } }, /lensMm/],
      [{ type: 'brief.set', patch: { closestMm: -5 } }, /closestMm/],
      [{ type: 'step.set', part: 'font', step: { ...step, edgeRadius: Number.NaN } }, /Edge radius of the turned profile/],
      [{ type: 'step.set', part: 'font', step: { ...step, kind: 'lathe' } }, /./],
      [
        {
          type: 'step.set',
          part: 'font',
          step: {
            ...step,
            profile: {
              points: [
                { id: 'a', r: -3, y: 0 },
                { id: 'b', r: 1, y: 1 },
              ],
              segments: [],
            },
          },
        },
        /Radius of point 1 of profile of the turned profile “Font and base” is -3\u00a0mm; it can be 0\u00a0mm to/,
      ],
      [{ type: 'step.add', part: 'font' }, /step/],
      [{ type: 'dimension.set', dimension: { id: 'a', name: 'gap', formula: '', kind: 'length' } }, /formula/],
      [{ type: 'region.set', part: 'font', region: { id: 'r', name: 'label', weight: 99, rules: [] } }, /weight of the region “label”/],
      [{ type: 'seams.set', part: 'font', seams: [{ id: 's' }] }, /edge picked on the part/],
      [{ type: 'travel.set', part: 'font', travel: { kind: 'fly', axis: 'y', from: 0, to: 1, x: 0, y: 0, z: 0 } }, /kind/],
      [
        { type: 'travel.set', part: 'font', travel: { kind: 'slide', axis: 'y', from: 0, to: 1e9, x: 0, y: 0, z: 0 } },
        /“travel\.to” must not be greater/,
      ],
      [{ type: 'relation.set', relation: { id: 'r', a: 'x', b: 'y', wanted: 'near', mm: 1, tolerance: 0.1 } }, /wanted/],
      [{ type: 'relation.set', relation: { id: 'r', a: 'x', b: 'y', wanted: 'gap', mm: -1, tolerance: 0.1 } }, /mm/],
      [{ type: 'parts.move', by: [0, 1] }, /by/],
      [{ type: 'step.add', part: 'font', step: { kind: 'bevel', id: 'b', name: 'B', enabled: true } }, /the bevel “B” lacks its edges/],
      [{ type: 'mesh.replace', part: 'font', low: { blob: 'f'.repeat(64), triangles: 1 }, what: 'x' }, /not stored/],
      [
        {
          type: 'mesh.replace',
          part: 'font',
          low: { blob: 'f'.repeat(64), triangles: 1 },
          placements: [[1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]],
          what: 'x',
        },
        /sixteen numbers that can be undone/,
      ],
      [{ type: 'form.counts', counts: { a: 1.5 }, triangles: 3 }, /whole numbers/],
      [{ type: 'form.share', part: 'font', triangles: 0 }, /triangles/],
      [{ type: 'form.share', part: 'font', triangles: 12.5 }, /triangles/],
      [{ type: 'form.tie', key: '', label: 'x', to: null }, /key/],
      [{ type: 'brief.set', patch: { origin: 'there' } }, /origin/],
      [{ type: 'brief.set', patch: { wallMm: -1 } }, /wallMm/],
      [{ type: 'waive', waiver: { finding: 'x', reason: 'no', value: 1 } }, /reason/],
      [{ type: 'waive', waiver: { finding: 'x', reason: 'it is so', value: 1, covers: [1, 2, 3] } }, /covers/],
    ];
    for (const [plain, words] of refused) await expect(checkedCommand(plain as never), JSON.stringify(plain)).rejects.toThrow(words);
  });
});
