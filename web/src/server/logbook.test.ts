import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { nameOf } from '@wellmorph/core/pipeline/results';
import Papa from 'papaparse';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ask, type Bench, openBench } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import { builtWorker } from '../../test/worker';
import type { Lesson } from './db/lessons';
import type { LoggedRun } from './db/runs';
import type { Snag } from './db/snags';
import type { SweepSheet } from './db/sweeps';

let bench: Bench;
let assets: typeof import('./db/assets');
let trials: typeof import('./db/trials');

beforeAll(async () => {
  bench = await openBench();
  assets = await import('./db/assets');
  trials = await import('./db/trials');
  const { drawing } = await import('./jobs/render-job');
  const code = await builtWorker(resolve(import.meta.dirname, 'jobs/render.worker.ts'));
  drawing.thread = (wanted) => new Worker(code, { workerData: wanted });
}, 120_000);
afterAll(() => bench.close());

const json = async <T>(path: string, method = 'GET', body?: object): Promise<T> => {
  const answer = await ask(path, { method, ...(body && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }) });
  return { status: answer.status, ...(await answer.json()) } as T;
};
const list = async <T>(path: string): Promise<T[]> => (await (await ask(path)).json()) as T[];
const runs = async (query = ''): Promise<LoggedRun[]> => (await json<{ runs: LoggedRun[] }>(`/api/runs?${query}`)).runs;
const once = () => ({ clientId: crypto.randomUUID(), seq: 0 });
let seed = 900;
/** A piece with its form stored, so that how large it is is known. */
async function piece(name: string, change: Partial<AssetDocument> = {}): Promise<{ id: string; document: AssetDocument }> {
  const { keepBlob } = await import('./blobs/store');
  const { keepResult } = await import('./db/results');
  const document = smallPiece(name, seed++, change);
  const id = await assets.createAsset(document);
  const none = () => {
    throw new Error('a recipe needs no stored mesh');
  };
  const formed = formAsset(document, 'low', none);
  const parts = await keepBlob(encodeParts(formed.parts), 'parts');
  const sizeMm = [120 + 90, 90, 90];
  await keepResult({
    name: nameOf(document, 'form'),
    stage: 'form',
    inputs: [],
    figures: { ledger: { sizeMm, triangles: 500 } },
    blobs: { parts },
  });
  return { id, document };
}
const trial = (id: string, document: AssetDocument, more: object = {}) =>
  trials.addTrial(id, {
    stage: 'bake',
    title: 'Measured, 1 × 1',
    settings: { samples: 1, reachMm: 12 },
    figures: { p95Degrees: 0.8 },
    milliseconds: 1500,
    thumbnail: null,
    resultName: null,
    snapshot: document,
    forecastSeconds: null,
    ...more,
  });

describe('runs of all pieces', () => {
  it('are counted on, know what their piece was like, and are filtered and put in order by the database', async () => {
    const a = await piece('Signal lamp');
    const b = await piece('Boat hook');
    const first = await trial(a.id, a.document, { figures: { p95Degrees: 2.5 }, title: '100 % sure_thing' });
    await trial(b.id, b.document, { figures: { p95Degrees: 0.4 } });
    await trial(b.id, b.document, { stage: 'unwrap', figures: { coverage: 0.6 }, title: 'Padding 8' });
    expect(first.number).toBeGreaterThan(0);
    const all = await runs();
    expect(all.map((r) => r.number)).toEqual([...all.map((r) => r.number)].sort((x, y) => y - x));
    expect(all[0].about).toMatchObject({ parts: 2, sizeMm: 210, triangles: 500, roles: ['body'] });
    expect((await runs('stage=bake&sort=figure.p95Degrees&order=asc')).map((r) => r.figures.p95Degrees)).toEqual([0.4, 2.5]);
    expect((await runs('stage=bake&sort=figure.p95Degrees&order=desc')).map((r) => r.figures.p95Degrees)).toEqual([2.5, 0.4]);
    // A figure that only some have: the others come last, either way.
    expect((await runs('sort=figure.coverage&order=desc'))[0].figures.coverage).toBe(0.6);
    expect((await runs('sort=figure.coverage&order=asc'))[0].figures.coverage).toBe(0.6);
    expect(await runs('minMm=211')).toEqual([]);
    expect(await runs('minMm=200&maxMm=220&role=body')).toHaveLength(3);
    expect(await runs('role=glass')).toEqual([]);
    expect((await runs(`search=${encodeURIComponent('boat padd')}`)).map((r) => r.title)).toEqual(['Padding 8']);
    // Signs that mean something to the database mean themselves.
    expect((await runs(`search=${encodeURIComponent('100 % sure_t')}`)).map((r) => r.id)).toEqual([first.id]);
    expect(await runs(`search=${encodeURIComponent('sure%thing')}`)).toEqual([]);
  });
  it('a column there isn’t, a page that is none, get one sentence', async () => {
    expect(await json(`/api/runs?sort=snapshot`)).toMatchObject({ status: 422, message: 'The logbook has no such column.' });
    expect(await json(`/api/runs?page=-1`)).toMatchObject({ status: 400 });
    expect(await json(`/api/runs?whatever=1`)).toMatchObject({ status: 400 });
    // What is asked for in a name is a name, whatever stands in it.
    expect((await json<{ status: number }>(`/api/runs?sort=${encodeURIComponent("figure.x' or 1=1 --")}`)).status).toBe(200);
  });
  it('go out as CSV that an independent reader reads back (RFC 4180), no cell of which is taken for a formula', async () => {
    const a = await piece('Tide “gauge”, left\n(old)');
    await trial(a.id, a.document, { title: '=HYPERLINK("x"), a "quoted" one\r\nover two lines', settings: { note: '+1', reachMm: -2 } });
    const text = await (await ask(`/api/runs/export?format=csv&asset=${a.id}`)).text();
    const { data, errors } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true });
    expect(errors).toEqual([]);
    expect(data).toHaveLength(1);
    expect(data[0]['piece']).toBe('Tide “gauge”, left\n(old)');
    expect(data[0]['title']).toBe('\'=HYPERLINK("x"), a "quoted" one\r\nover two lines');
    expect(data[0]['set: note']).toBe("'+1");
    expect(data[0]['set: reach of occlusion, mm']).toBe('-2');
    expect(data[0]['came to: 19 of 20 under, °']).toBe('0.8');
    expect(text.endsWith('\r\n')).toBe(true);
    const whole = JSON.parse(await (await ask(`/api/runs/export?format=json&asset=${a.id}`)).text()) as { runs: { settings: object }[] };
    expect(whole.runs[0].settings).toEqual({ note: '+1', reachMm: -2 });
  });
  it('those of a piece that was deleted stay, and say so', async () => {
    const a = await piece('Old bell');
    await trial(a.id, a.document);
    await assets.setDeleted(a.id, true);
    expect((await runs(`asset=${a.id}`))[0]).toMatchObject({ deleted: true, asset: 'Old bell' });
  });
});

describe('a run taken up again', () => {
  const use = (run: string, body: object) =>
    json<{ status: number; message?: string; reasons?: string[]; version?: number }>(`/api/runs/${run}/use`, 'POST', {
      ...once(),
      ...body,
    });
  it('on its own piece names the very results it named then', async () => {
    const { id, document } = await piece('Anchor');
    const run = await trial(id, document);
    await assets.editAsset(id, 1, { type: 'bake.set', patch: { reachMm: 77, samples: 2 } });
    await assets.editAsset(id, 2, { type: 'unwrap.set', patch: { padding: 2 } });
    expect(await use(run.id, { asset: id, baseVersion: 3 })).toMatchObject({ status: 200, version: 4 });
    expect(nameOf((await assets.assetState(id)).document, 'bake')).toBe(nameOf(document, 'bake'));
    expect(await use(run.id, { asset: id, baseVersion: 3 })).toMatchObject({ status: 409 });
  });
  it('on another piece its lengths go with the size, and each setting says why', async () => {
    const a = await piece('Small crate', {
      bake: { ...smallPiece('x', 1).bake, distances: 'uniform', frontMm: 1, rearMm: 2, reachMm: 10 },
    });
    const b = await piece('Large crate');
    const { keepResult, resultNamed } = await import('./db/results');
    // Twice as large.
    const form = await resultNamed(nameOf(b.document, 'form'));
    const big = await assets.createAsset({
      ...b.document,
      name: 'Twice as large',
      form: { ...b.document.form, counts: { ...b.document.form.counts, 'cup-turned.sides': 14 } },
    });
    const bigDocument = (await assets.assetState(big)).document;
    await keepResult({
      name: nameOf(bigDocument, 'form'),
      stage: 'form',
      inputs: [],
      figures: { ledger: { sizeMm: [420, 180, 180], triangles: 500 } },
      blobs: form?.blobs ?? {},
    });
    const run = await trial(a.id, a.document);
    const used = await use(run.id, { asset: big, baseVersion: 1 });
    expect(used.status).toBe(200);
    expect((await assets.assetState(big)).document.bake).toMatchObject({ distances: 'uniform', frontMm: 2, rearMm: 4, reachMm: 20 });
    expect(used.reasons?.[0]).toMatch(/× 2\b/);
    const form1 = await trial(a.id, a.document, { stage: 'form' });
    expect(await use(form1.id, { asset: big, baseVersion: 2 })).toMatchObject({
      status: 422,
      message: 'A form is a piece’s own; another piece can’t take it up.',
    });
    expect((await assets.assetState(big)).version).toBe(2);
  });
  it('with one setting of another run: the run that would tell two apart', async () => {
    const { id, document } = await piece('Wrench');
    const other = { ...document, bake: { ...document.bake, reachMm: 31, occlusionRays: 4 } };
    const [a, b] = [await trial(id, document), await trial(id, other)];
    expect(await use(a.id, { asset: id, baseVersion: 1, other: { run: b.id, key: 'reachMm' } })).toMatchObject({ status: 200 });
    expect((await assets.assetState(id)).document.bake).toMatchObject({ reachMm: 31, occlusionRays: document.bake.occlusionRays });
    expect(await use(a.id, { asset: id, baseVersion: 2, other: { run: b.id, key: 'islands' } })).toMatchObject({ status: 422 });
  });
  it('a trial of another piece is none of this one’s', async () => {
    const [a, b] = [await piece('Chart'), await piece('Table')];
    const run = await trial(a.id, a.document);
    expect(await json(`/api/assets/${b.id}/trials/${run.id}/take`, 'POST', { ...once(), baseVersion: 1 })).toMatchObject({ status: 404 });
  });
});

describe('what was learned and left', () => {
  it('a lesson is pinned with its run, said anew, taken away and brought back', async () => {
    const { id, document } = await piece('Compass');
    const run = await trial(id, document);
    const made = await json<{ status: number; id: string }>('/api/lessons', 'POST', {
      sentence: 'It looks like plastic.',
      kind: 'material',
      subject: 'Aged brass',
      trial: run.id,
    });
    expect(made.status).toBe(201);
    expect((await list<Lesson>('/api/lessons'))[0]).toMatchObject({
      sentence: 'It looks like plastic.',
      run: { number: run.number, asset: 'Compass' },
    });
    await json(`/api/lessons/${made.id}`, 'PATCH', { removed: true });
    expect((await list<Lesson>('/api/lessons')).some((l) => l.id === made.id)).toBe(false);
    await json(`/api/lessons/${made.id}`, 'PATCH', { removed: false, sentence: 'So it does.' });
    expect((await list<Lesson>('/api/lessons')).find((l) => l.id === made.id)?.sentence).toBe('So it does.');
    expect(await json('/api/lessons', 'POST', { sentence: 'x', kind: 'material', subject: 'y', trial: 'nothing-like-it' })).toMatchObject({
      status: 404,
    });
    expect(await json(`/api/lessons/${made.id}`, 'PATCH', {})).toMatchObject({ status: 400 });
  });
  it('snags are noted with a place, ticked off, and those of a deleted piece are not in the way', async () => {
    const { id } = await piece('Barrel');
    const made = await json<{ id: string }>(`/api/assets/${id}/snags`, 'POST', {
      words: 'Hoop is crooked',
      minutes: 12,
      place: { at: [1, 2, 3], part: 'cup' },
    });
    await json(`/api/assets/${id}/snags`, 'POST', { words: 'Bung', minutes: 3 });
    expect((await list<Snag>(`/api/assets/${id}/snags`)).map((s) => [s.words, s.minutes, s.place, s.doneAt])).toEqual([
      ['Hoop is crooked', 12, { at: [1, 2, 3], part: 'cup' }, null],
      ['Bung', 3, null, null],
    ]);
    await json(`/api/snags/${made.id}`, 'PATCH', { done: true });
    expect((await list<Snag>('/api/snags')).filter((s) => s.assetId === id && !s.doneAt)).toHaveLength(1);
    expect(await json(`/api/assets/${id}/snags`, 'POST', { words: 'x', minutes: -1 })).toMatchObject({ status: 400 });
    expect(await json(`/api/assets/${id}/snags`, 'POST', { words: 'x', minutes: 1, place: { at: [1, 2], part: null } })).toMatchObject({
      status: 400,
    });
    await assets.setDeleted(id, true);
    expect((await list<Snag>('/api/snags')).some((s) => s.assetId === id)).toBe(false);
  });
  it('a named state can be gone back to, is a root for collection, and its name is its own', async () => {
    const { id, document } = await piece('Ladder');
    const made = await json<{ status: number; id: string }>(`/api/assets/${id}/states`, 'POST', {
      name: 'Before the rungs',
      baseVersion: 1,
    });
    expect(made.status).toBe(201);
    expect(await json(`/api/assets/${id}/states`, 'POST', { name: 'Before the rungs', baseVersion: 1 })).toMatchObject({ status: 422 });
    await assets.editAsset(id, 1, { type: 'part.remove', part: 'lid' });
    await assets.editAsset(id, 2, { type: 'handoff.set', patch: { unit: 'cm' } });
    await assets.editAsset(id, 3, { type: 'brief.set', patch: { deadline: '2027-01-01' } });
    await assets.editAsset(id, 4, { type: 'rename', name: 'Rope ladder' });
    expect(await json(`/api/assets/${id}/states`, 'POST', { name: 'Now', baseVersion: 1 })).toMatchObject({ status: 409 });
    const { reachable } = await import('./blobs/collect');
    const { database } = await import('./db/client');
    expect((await reachable(await database())).results.has(nameOf(document, 'form'))).toBe(true);
    expect(await json(`/api/assets/${id}/states/${made.id}/take`, 'POST', { ...once(), baseVersion: 5 })).toMatchObject({ status: 200 });
    const back = (await assets.assetState(id)).document;
    expect(nameOf(back, 'render')).toBe(nameOf(document, 'render'));
    // All of it is as it was, but what it is called and when it is due.
    expect({ ...back, name: 'Ladder', brief: { ...back.brief, deadline: document.brief.deadline } }).toEqual(document);
    expect([back.name, back.brief.deadline]).toEqual(['Rope ladder', '2027-01-01']);
    await json(`/api/assets/${id}/states/${made.id}`, 'PATCH', { forget: true });
    expect(await list(`/api/assets/${id}/states`)).toEqual([]);
    expect(await json(`/api/assets/${id}/states/${made.id}/take`, 'POST', { ...once(), baseVersion: 6 })).toMatchObject({ status: 404 });
    // Had back, unless its name is another’s by then.
    await json(`/api/assets/${id}/states/${made.id}`, 'PATCH', { forget: false });
    expect(await list(`/api/assets/${id}/states`)).toHaveLength(1);
    await json(`/api/assets/${id}/states/${made.id}`, 'PATCH', { forget: true });
    await json(`/api/assets/${id}/states`, 'POST', { name: 'Before the rungs', baseVersion: 6 });
    expect(await json(`/api/assets/${id}/states/${made.id}`, 'PATCH', { forget: false })).toMatchObject({ status: 422 });
    expect(await json(`/api/assets/${id}/states/${made.id}/take`, 'POST', { ...once(), baseVersion: 6 })).toMatchObject({ status: 404 });
  });
  it('filters are saved under names, and what is none is refused whole', async () => {
    const put = (filters: object) =>
      ask('/api/filters', { method: 'PUT', body: JSON.stringify({ filters }), headers: { 'content-type': 'application/json' } });
    expect((await put({ 'Kept bakes': { stage: 'bake', verdict: 'kept' } })).status).toBe(200);
    expect((await put({ a: { stage: 'bake', nonsense: 1 } })).status).toBe(400);
    expect(await (await ask('/api/filters')).json()).toEqual({ 'Kept bakes': { stage: 'bake', verdict: 'kept' } });
  });
  it('the nearest judged runs suggest what was kept, with how often; taken, it is suggested no more', async () => {
    const near = await Promise.all(['A', 'B', 'C'].map((n) => piece(`Near ${n}`)));
    for (const p of near)
      for (let k = 0; k < 2; k++) {
        const t = await trial(p.id, p.document, { settings: { occlusionRays: 48 } });
        await trials.judgeTrial(p.id, t.id, { verdict: 'kept' });
      }
    const { id } = await piece('New one');
    type Suggested = { key: string; value: unknown; sentence: string; command: { type: string } }[];
    const ask1 = async () => (await list(`/api/runs/suggestions?asset=${id}&stage=bake`)) as Suggested;
    const [s] = await ask1();
    expect(s).toMatchObject({ key: 'occlusionRays', value: 48, sentence: 'kept 6 of 6 times, on 3 pieces' });
    await assets.editAsset(id, 1, s.command as never);
    expect((await assets.assetState(id)).document.bake.occlusionRays).toBe(48);
    expect(await ask1()).toEqual([]);
  });
});

describe('a sweep', () => {
  it('makes a run of every place, knows each again by name, and one of them can be gone back to', async () => {
    const { id, document } = await piece('Bell buoy', { render: { ...smallPiece('x', 1).render, maps: false } });
    const axes = [
      { key: 'aperture', values: [4, 8] },
      { key: 'fill.ratio', values: [1, 2, 3] },
    ];
    const begun = await json<{ status: number; sweep: string; runs: number }>(`/api/assets/${id}/sweeps`, 'POST', { baseVersion: 1, axes });
    expect(begun).toMatchObject({ status: 201, runs: 6 });
    let sheet = await json<SweepSheet>(`/api/sweeps/${begun.sweep}`);
    for (const end = Date.now() + 90_000; sheet.runs < 6 && Date.now() < end; await new Promise((r) => setTimeout(r, 100)))
      sheet = await json<SweepSheet>(`/api/sweeps/${begun.sweep}`);
    expect(sheet.places.map((p) => p.run?.title)).toEqual([
      'f/4 · fill 1',
      'f/8 · fill 1',
      'f/4 · fill 2',
      'f/8 · fill 2',
      'f/4 · fill 3',
      'f/8 · fill 3',
    ]);
    // The piece stays as it was set.
    expect((await assets.assetState(id)).version).toBe(1);
    const names = sheet.places.map((p) => p.run?.resultName);
    expect(new Set(names).size).toBe(6);
    const third = sheet.places[3].run as LoggedRun;
    await json(`/api/runs/${third.id}/use`, 'POST', { ...once(), asset: id, baseVersion: 1 });
    const now = (await assets.assetState(id)).document;
    expect(nameOf(now, 'render')).toBe(third.resultName);
    expect(now.shot.aperture).toBe(8);
    expect(nameOf(now, 'render')).not.toBe(nameOf(document, 'render'));
    expect(await runs(`sweep=${begun.sweep}`)).toHaveLength(6);
  }, 120_000);
  it('what can’t be swept is one sentence, and nothing is queued', async () => {
    const { id } = await piece('Fog bell', { render: { ...smallPiece('x', 1).render, maps: false } });
    const begin = (axes: object[], baseVersion = 1) =>
      json<{ status: number; message: string }>(`/api/assets/${id}/sweeps`, 'POST', { baseVersion, axes });
    expect(await begin([{ key: 'aperture', values: [0.1] }])).toMatchObject({
      status: 422,
      message: '“aperture, f/” goes from 0.7 to 128; 0.1 is none of them.',
    });
    expect(await begin([{ key: 'aperture', values: [4, 4] }])).toMatchObject({ status: 422 });
    expect(await begin([{ key: 'nothing', values: [4] }])).toMatchObject({ status: 422 });
    expect(
      await begin([
        { key: 'aperture', values: [4] },
        { key: 'aperture', values: [8] },
      ]),
    ).toMatchObject({ status: 422, message: 'Both settings are the same one.' });
    expect(
      (
        await begin([
          { key: 'aperture', values: [1, 2, 3, 4, 5, 6, 7] },
          { key: 'samples', values: [2, 3, 4, 5, 6, 7] },
        ])
      ).message,
    ).toBe('42 runs are more than the 36 a sheet has room for.');
    expect((await begin([{ key: 'aperture', values: [4] }], 7)).status).toBe(409);
    // Without the composed set there is nothing to draw a picture with maps of.
    await assets.editAsset(id, 1, { type: 'render.set', patch: { maps: true } });
    expect(await list(`/api/assets/${id}/sweeps`)).toEqual([]);
  });
});
