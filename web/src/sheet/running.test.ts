import { solveAsset } from '@wellmorph/core/pipeline/solve';
import { aneroidGauge } from '@wellmorph/demo/gauge';
import { TIN_MTL, tinHigh, tinLow } from '@wellmorph/demo/tin';
import validator from 'gltf-validator';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { AssetSession } from '@/session/session';
import type { Workbench } from '@/session/workbench';
import { type Bench, openBench, until } from '../../test/bench';

let bench: Bench;
let page: Workbench;
let session: AssetSession;
/** Everything the sheet's parts can do, loaded once the bench stands. */
const load = async () => ({
  ...(await import('@/session/state')),
  ...(await import('@/stages/form/run')),
  ...(await import('@/stages/unwrap/run')),
  ...(await import('@/stages/bake/run')),
  ...(await import('@/stages/hand-off/run')),
});
let store: Awaited<ReturnType<typeof load>>;
let assets: typeof import('@/server/db/assets');
const state = () => session.state;
const stored = async () => (await assets.assetState(session.id)).document;
const saved = () => until(() => state().saving === 'saved' && !state().forming, 'everything to be saved');
const said = (words: RegExp) => page.store.getState().notices.some((n) => words.test(n.text));
const formed = () => until(() => store.isFresh(state().document, state().form, 'form') && !state().forming, 'the form');

beforeAll(async () => {
  bench = await openBench();
  page = await bench.page();
  store = await load();
  assets = await import('@/server/db/assets');
});
afterAll(() => bench.close());

async function show(id: string): Promise<void> {
  session = page.open(id);
  await formed();
}

async function openGauge(): Promise<string> {
  // Case, dial and pane: at 128 px there is no room for the islands of a knurled rim.
  // Without its print: what that is drawn with the worker fetches, and Node fetches no files.
  const { prints: _, ...whole } = aneroidGauge();
  const gauge = { ...whole, parts: whole.parts.slice(0, 3) };
  const small = { ...gauge, brief: { ...gauge.brief, limits: { ...gauge.brief.limits, textureSize: 128 } } };
  const id = await assets.createAsset({ ...small, form: { ...small.form, counts: solveAsset(small).counts } });
  await show(id);
  return id;
}

/** The imported pair, small enough to bake in a test. */
/** @param reachMm of its occlusion: one that no other test asked for is baked anew */
async function openTin(reachMm = 30): Promise<string> {
  const { documentFromModel, intoPartSpace, pairHigh } = await import('@wellmorph/core/pipeline/import');
  const { readModel } = await import('@wellmorph/core/io/read');
  const { encodeMesh } = await import('@wellmorph/core/mesh/codec');
  const { triangleCount } = await import('@wellmorph/core/mesh/polymesh');
  const { inverse } = await import('@wellmorph/core/maths/mat4');
  const { keepBlob } = await import('@/server/blobs/store');
  const bytes = (text: string) => new TextEncoder().encode(text);
  const read = (text: string) => readModel('tin.obj', bytes(text), { unit: 'mm', companions: { 'biscuit-tin.mtl': bytes(TIN_MTL) } });
  const [low, high] = [await read(tinLow()), await read(tinHigh())];
  const kept = new Map<unknown, string>();
  for (const p of low.parts) kept.set(p.mesh, await keepBlob(encodeMesh(p.mesh), 'mesh'));
  const document = documentFromModel('Tin', low, { fileName: 'tin.obj', licence: 'own', note: '' }, (m) => kept.get(m) as string);
  document.brief.limits.textureSize = 128;
  document.bake = { ...document.bake, samples: 1, occlusionRays: 1, reachMm };
  const parts = low.parts.map((p, i) => ({ id: document.parts[i].id, ...p }));
  for (const pair of pairHigh(parts, high.parts)) {
    const part = document.parts.find((p) => p.id === pair.part);
    const own = parts.find((p) => p.id === pair.part);
    const h = high.parts[pair.high];
    if (part && own)
      part.high = {
        blob: await keepBlob(encodeMesh(intoPartSpace(h, inverse(own.placements[0]))), 'mesh'),
        triangles: triangleCount(h.mesh),
        name: h.name,
        pairedBy: pair.by,
      };
  }
  const id = await assets.createAsset(document);
  await show(id);
  return id;
}

describe('a sheet', () => {
  beforeEach(async () => {
    await openGauge();
  });

  it('is formed once; opened again it only reads what was stored', async () => {
    const { id, form } = state();
    expect(form?.ledger.triangles).toBeGreaterThan(100);
    await saved();
    bench.asked.length = 0;
    // Another page, that has nothing at hand.
    const other = await bench.page();
    const again = other.open(id);
    await until(() => again.state.form !== null && again.state.findings !== null, 'the form');
    expect(again.state.form?.name).toBe(form?.name);
    expect(again.state.findings).toEqual(session.state.findings === null ? null : again.state.findings);
    expect(bench.asked.filter((a) => !a.startsWith('GET'))).toEqual([]);
    await other.close();
  });
  it('stores every change in order, and says saved only then', async () => {
    session.dispatch({ type: 'rename', name: 'Barometer' });
    session.dispatch({ type: 'brief.set', patch: { closestMm: 321 } });
    session.dispatch({ type: 'unwrap.set', patch: { padding: 3 } });
    expect(state().document?.name).toBe('Barometer');
    expect(state().saving).toBe('saving');
    expect(page.hasUnsent).toBe(true);
    await saved();
    expect(page.hasUnsent).toBe(false);
    expect(session.version).toBe(4);
    const document = await stored();
    expect([document.name, document.brief.closestMm, document.unwrap.padding]).toEqual(['Barometer', 321, 3]);
  });
  it('a change that can’t be applied says why and does nothing', async () => {
    const before = state().document;
    expect(session.dispatch({ type: 'step.remove', part: 'nowhere', step: 'x' })).toBe(false);
    expect(state().document).toBe(before);
    expect(said(/no longer there/)).toBe(true);
    expect(session.version).toBe(1);
  });
  it('a change the server refuses is taken back, with its sentence', async () => {
    session.dispatch({ type: 'unwrap.set', patch: { padding: 4096 } });
    expect(state().document?.unwrap.padding).toBe(4096);
    await until(() => said(/padding/), 'the refusal');
    await saved();
    expect(state().document?.unwrap.padding).not.toBe(4096);
    expect((await stored()).unwrap.padding).toBe(state().document?.unwrap.padding);
  });
  it('changed elsewhere meanwhile: nothing is overwritten, the newer state is shown', async () => {
    await saved();
    await assets.editAsset(session.id, session.version, { type: 'rename', name: 'Theirs' });
    session.dispatch({ type: 'rename', name: 'Ours' });
    await until(() => said(/named it “Theirs”/), 'what changed');
    await saved();
    expect(state().document?.name).toBe('Theirs');
    expect((await stored()).name).toBe('Theirs');
  });
  it('without a server it keeps the change, says so, and stores it when the server is back', async () => {
    await saved();
    bench.offline = true;
    session.dispatch({ type: 'rename', name: 'Kept in the page' });
    await until(() => state().saving === 'unsaved', 'saying that it is not saved');
    expect(page.hasUnsent).toBe(true);
    bench.offline = false;
    await saved();
    expect((await stored()).name).toBe('Kept in the page');
  });
  it('undo and redo go through the server and say what they did', async () => {
    const name = state().document?.name;
    session.dispatch({ type: 'rename', name: 'Weather glass' });
    await session.stepHistory('undo');
    expect(state().document?.name).toBe(name);
    expect(said(/Taken back: named it “Weather glass”/)).toBe(true);
    await session.stepHistory('redo');
    expect(state().document?.name).toBe('Weather glass');
    await session.stepHistory('redo');
    expect(said(/nothing to bring back/)).toBe(true);
    await session.readHistory();
    expect(state().history.map((h) => h.words)).toContain('named it “Weather glass”');
  });
  it('the solver offers its counts; they are only taken when accepted, and the attempt is kept', async () => {
    await store.solve(session);
    const budget = state().budget;
    expect(budget?.triangles).toBeLessThanOrEqual(state().document?.brief.limits.triangles ?? 0);
    const before = state().document?.form.counts;
    store.dropBudget(session);
    expect(state().document?.form.counts).toBe(before);
    await store.solve(session);
    store.acceptBudget(session);
    expect(state().budget).toBeNull();
    expect(state().document?.form.counts).toEqual(budget?.counts);
    expect(state().trials.filter((t) => t.stage === 'form')).toHaveLength(2);
    await saved();
  });
  it('a layout is fresh until something it was made from changes; its trial says what was set', async () => {
    expect(await store.runUnwrap(session)).toBe(true);
    const { document, unwrap: layout } = state();
    expect(store.isFresh(document, layout, 'unwrap')).toBe(true);
    expect(layout?.figures.folds).toBe(0);
    expect(layout?.figures.overlapTexels).toBe(0);
    expect(state().trials[0]).toMatchObject({ stage: 'unwrap', settings: { padding: document?.unwrap.padding, size: 128 } });
    session.dispatch({ type: 'rename', name: 'Another name' });
    expect(store.isFresh(state().document, state().unwrap, 'unwrap')).toBe(true);
    session.dispatch({ type: 'unwrap.set', patch: { padding: 5 } });
    expect(store.isFresh(state().document, state().unwrap, 'unwrap')).toBe(false);
    await saved();
  });
  it('one thing at a time: a second job is refused in a sentence', async () => {
    const first = store.runUnwrap(session);
    expect(await store.runUnwrap(session)).toBe(false);
    expect(said(/being computed already/)).toBe(true);
    await first;
    expect(state().job).toBeNull();
  });
  it('a verdict and a note stay with their trial', async () => {
    await store.solve(session);
    const [trial] = state().trials;
    await session.judgeTrial(trial.id, { verdict: 'kept', note: 'rim is calm' });
    expect(state().trials[0]).toMatchObject({ verdict: 'kept', note: 'rim is calm' });
    await session.judgeTrial('nothing', { verdict: 'kept' });
    expect(said(/not there any more/)).toBe(true);
  });
  it('a waiver made elsewhere shows at once, without looking anything over again', async () => {
    session.dispatch({ type: 'part.set', part: state().document?.parts[0].id ?? '', patch: { material: null } });
    await saved();
    const finding = state().findings?.findings.find((f) => f.kind === 'no-material');
    expect(finding).toBeDefined();
    if (!finding) return;
    // A waiver lies over what was found: nothing has to be looked over again for it, on whichever page.
    bench.asked.length = 0;
    await assets.editAsset(session.id, session.version, {
      type: 'waive',
      waiver: { finding: finding.id, reason: 'painted later', value: finding.value },
    });
    await until(() => state().document?.waivers.length === 1, 'news of the waiver');
    const { allFindings } = await import('@wellmorph/core/pipeline/all-findings');
    const document = state().document as NonNullable<ReturnType<typeof state>['document']>;
    expect(allFindings(document, state()).find((f) => f.id === finding.id)?.waived).toBe('painted later');
    expect(bench.asked.filter((a) => a.startsWith('PUT'))).toEqual([]);
  });
  it('an asset that is gone gives a sentence', async () => {
    const gone = page.open('not-an-asset');
    await until(() => gone.state.missing !== null, 'the sentence');
    expect(gone.state.missing).toMatch(/not there any more/);
  });
});

describe('an imported pair', () => {
  it('bakes in several workers, is judged, and leaves a GLB without a complaint', async () => {
    await openTin();
    await store.runBake(session);
    const { document, bake, trials } = state();
    expect(store.isFresh(document, bake, 'bake')).toBe(true);
    expect(bake?.figures.missedShare).toBeLessThan(0.02);
    expect(bake?.figures.judgement?.mean).toBeLessThan(15);
    expect(trials.map((t) => t.stage)).toEqual(['bake', 'unwrap']);
    const files = await store.exportFiles(session);
    expect(files?.map((f) => f.name)).toEqual(['tin.glb', 'tin_normal.png', 'tin_occlusion.png', 'tin_layout.png', 'tin_layout.svg']);
    // Parts are called in it as they are on the sheet.
    const layout = new TextDecoder().decode(files?.[4].bytes);
    expect([...layout.matchAll(/<g id="([^"]*)"/g)].map((m) => m[1])).toEqual(document?.parts.map((p) => p.name));
    const report = await validator.validateBytes(files?.[0].bytes as Uint8Array);
    expect([report.issues.numErrors, report.issues.numWarnings]).toEqual([0, 0]);
  });
  it('says before a bake how long it takes, files that with it, and learns from it', async () => {
    await openTin(32);
    expect(store.bakeForecast(state(), page)).toBeGreaterThan(0);
    await store.runUnwrap(session);
    for (const reachMm of [33, 34, 35]) {
      session.dispatch({ type: 'bake.set', patch: { reachMm } });
      await saved();
      const said = store.bakeForecast(state(), page) as number;
      expect(await store.runBake(session)).toBe(true);
      const trial = state().trials.find((t) => t.stage === 'bake' && t.settings.reachMm === reachMm);
      expect(trial?.forecastSeconds).toBeCloseTo(said, 2);
      // The next is moved towards what this one took, whichever way that is.
      const took = (trial?.milliseconds ?? 0) / 1000;
      const next = store.bakeForecast(state(), page) as number;
      if (Math.abs(Math.log(took / said)) > 0.1) expect(Math.sign(next - said)).toBe(Math.sign(took - said));
    }
    // More rays are said to take longer; nothing to bake is no time at all.
    const now = store.bakeForecast(state(), page) as number;
    session.dispatch({ type: 'bake.set', patch: { occlusionRays: 256 } });
    expect(store.bakeForecast(state(), page)).toBeGreaterThan(now);
    expect(store.bakeForecast({ ...state(), form: null }, page)).toBeNull();
  });
  it('a bake that is stopped changes nothing', async () => {
    await openTin(31);
    await store.runUnwrap(session);
    const running = store.runBake(session);
    await until(() => state().job?.cancel !== undefined && state().job?.what === 'bake', 'something to stop');
    state().job?.cancel?.();
    await running;
    expect(state().bake).toBeNull();
    expect(said(/Stopped, as asked/)).toBe(true);
    expect(state().trials.filter((t) => t.stage === 'bake')).toHaveLength(0);
  });
  it('the high mesh is formed when it is first looked at, and not twice', async () => {
    await openTin();
    await store.showHigh(session);
    const high = state().high;
    expect(high?.triangles).toBeGreaterThan(state().form?.ledger.triangles ?? 0);
    await store.showHigh(session);
    expect(state().high).toBe(high);
  });
});
