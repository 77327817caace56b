import { decodePng } from '@wellmorph/core/image/png';
import { solveAsset } from '@wellmorph/core/pipeline/solve';
import { aneroidGauge } from '@wellmorph/demo/gauge';
import { unzipSync } from 'fflate';
import validator from 'gltf-validator';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AssetSession } from '@/session/session';
import type { Workbench } from '@/session/workbench';
import { type Bench, idleThread, openBench, until } from '../../test/bench';

/** The second half of the way on the bench: real routes, database and worker code. */
let bench: Bench;
let page: Workbench;
let session: AssetSession;
const load = async () => ({
  ...(await import('@/session/state')),
  ...(await import('@/stages/surface/run')),
  ...(await import('@/stages/surface/give')),
  ...(await import('@/stages/light/run')),
  ...(await import('@/stages/render/run')),
  ...(await import('@/stages/hand-off/run')),
});
let store: Awaited<ReturnType<typeof load>>;
let assets: typeof import('@/server/db/assets');
let id = '';
const state = () => session.state;
const document = () => {
  const d = state().document;
  if (!d) throw new Error('no document is open');
  return d;
};
const saved = () => until(() => state().saving === 'saved' && !state().forming, 'everything to be saved');
/** As if a result had never been made. */
const forget = (name: string) => bench.forget(name, page);
const said = (words: RegExp) => page.store.getState().notices.some((n) => words.test(n.text));

beforeAll(async () => {
  bench = await openBench();
  page = await bench.page();
  store = await load();
  assets = await import('@/server/db/assets');
  // Case, dial and pane: at 128 px there is no room for the islands of a knurled rim.
  // Without its print: what that is drawn with the worker fetches, and Node fetches no files.
  const { prints: _, ...whole } = aneroidGauge();
  const gauge = { ...whole, parts: whole.parts.slice(0, 3) };
  const small = {
    ...gauge,
    brief: { ...gauge.brief, limits: { ...gauge.brief.limits, textureSize: 128 } },
    bake: { ...gauge.bake, samples: 1 as const, occlusionRays: 2 },
    shot: { ...gauge.shot, widthPx: 64, heightPx: 48 },
    render: { ...gauge.render, samples: 8 },
  };
  id = await assets.createAsset({ ...small, form: { ...small.form, counts: solveAsset(small).counts } });
  session = page.open(id);
  await until(() => state().form !== null && !state().forming, 'the form');
}, 120_000);
afterAll(() => bench.close());

describe('surface', () => {
  it('makes what it stands on first, composes, keeps its textures and a trial with the picture of them', async () => {
    expect(await store.runSurface(session)).toBe(true);
    const { surface, bake, unwrap: layout, trials } = state();
    expect(store.isFresh(document(), layout, 'unwrap')).toBe(true);
    expect(store.isFresh(document(), bake, 'bake')).toBe(true);
    expect(store.isFresh(document(), surface, 'surface')).toBe(true);
    expect(surface?.figures).toMatchObject({ size: 128, curvature: true, occlusion: true });
    const png = decodePng(await page.blobs.get(surface?.baseColour as string));
    expect([png.width, png.height, png.channels]).toEqual([128, 128, 3]);
    const trial = trials.find((t) => t.stage === 'surface');
    expect(trial?.thumbnail).toBe(surface?.baseColour);
    expect(trial?.settings).toHaveProperty('Aged brass: roughness');
  }, 120_000);
  it('previews at a small size from shared memory, and a moved slider only composes again', async () => {
    const { unwrap: layout } = state();
    const prepared = await page.pool.run('ground', {
      document: document(),
      laid: layout?.parts as never,
      maps: await store.bakedMaps(session),
      size: 64,
    });
    expect(prepared.ground.owner.buffer).toBeInstanceOf(SharedArrayBuffer);
    const materials = document().materials.filter((m) => document().parts.some((p) => p.material === m.id));
    const held = page.pool.hold(prepared);
    const before = await page.pool.run('look', { materials, printing: null }, undefined, undefined, held);
    const after = await page.pool.run(
      'look',
      { materials: materials.map((m) => ({ ...m, roughness: 1, layers: [] })), printing: null },
      undefined,
      undefined,
      held,
    );
    expect(before.orm).toHaveLength(4 * 64 * 64);
    const covered = Array.from({ length: 64 * 64 }, (_, i) => i).filter((i) => prepared.ground.owner[i] > 0);
    expect(covered.length).toBeGreaterThan(500);
    for (const i of covered) expect(after.orm[4 * i + 1]).toBe(255);
    expect(covered.some((i) => before.orm[4 * i + 1] < 200)).toBe(true);
  }, 60_000);
  it('a changed material makes the set stale and is stored; one material goes to many parts as one change', async () => {
    const brass = document().materials[0];
    session.dispatch({ type: 'material.set', material: brass.id, patch: { roughness: 0.33 } });
    expect(store.isFresh(document(), state().surface, 'surface')).toBe(false);
    expect(store.isFresh(document(), state().bake, 'bake')).toBe(true);
    const [a, b] = document().parts.map((p) => p.id);
    expect(store.materialChoices(document()).map(([, name]) => name)).toContain('Rubber');
    store.giveMaterial(session, [a, b], 'new:rubber');
    await saved();
    const stored = (await assets.assetState(id)).document;
    expect(stored.materials.find((m) => m.id === brass.id)).toMatchObject({ roughness: 0.33, touched: true });
    const rubber = stored.materials.find((m) => m.base === 'rubber')?.id;
    expect(stored.parts.filter((p) => p.material === rubber).map((p) => p.id)).toEqual([a, b]);
    expect(store.materialChoices(document()).some(([value]) => value === 'new:rubber')).toBe(false);
    await session.stepHistory('undo');
    await until(() => !document().materials.some((m) => m.base === 'rubber'), 'the change to be taken back');
    expect(document().parts[0].material).not.toBe(rubber);
  }, 60_000);
});

describe('light', () => {
  it('is solved for the piece in a worker, with its outline from above and the checks', async () => {
    await store.runSurface(session);
    const view = await store.solveLight(session);
    expect(view?.rig.cardReading).toBeCloseTo(0.18, 6);
    expect(view?.checks.every((c) => c.level === 'ok')).toBe(true);
    // A round gauge of 180 mm seen from above: a convex outline about as long as a circle’s.
    const outline = view?.outline ?? [];
    expect(outline.length).toBeGreaterThan(12);
    const around = outline.reduce(
      (s, p, i) => s + Math.hypot(p[0] - outline[(i + 1) % outline.length][0], p[1] - outline[(i + 1) % outline.length][1]),
      0,
    );
    expect(around / (Math.PI * 180)).toBeGreaterThan(0.95);
    expect(around / (Math.PI * 180)).toBeLessThan(1.1);
  }, 120_000);
  it('an accepted shot is locked and kept as a trial; changing it is refused in a sentence until it is unlocked', async () => {
    // Coarse pixels are sharp at a wide aperture, which asks for weaker lamps: the watts kept are those of the shot as it is by then.
    session.dispatch({ type: 'rig.set', patch: { power: null } });
    const wide = document().shot;
    session.dispatch({ type: 'shot.set', patch: { widthPx: 32 } });
    const locking = store.acceptShot(session);
    session.dispatch({ type: 'shot.set', patch: { heightPx: 24 } });
    await locking;
    expect(document().shot.locked).toBe(true);
    expect((await store.solveLight(session))?.rig.cardReading).toBeCloseTo(0.18, 6);
    session.dispatch({ type: 'shot.set', patch: { locked: false } });
    session.dispatch({ type: 'shot.set', patch: { widthPx: wide.widthPx, heightPx: wide.heightPx } });
    session.dispatch({ type: 'rig.set', patch: { power: null } });
    await store.acceptShot(session);
    expect(state().trials[0]).toMatchObject({ stage: 'light' });
    expect(session.dispatch({ type: 'shot.set', patch: { azimuth: 5 } })).toBe(false);
    expect(said(/locked; unlock it/)).toBe(true);
    await saved();
  }, 60_000);
});

describe('picture', () => {
  it('a preview grows, is measured pass by pass, and gives way to a newer one', async () => {
    await store.runPreview(session);
    const preview = state().preview;
    expect(preview?.done).toBe(true);
    expect(preview?.measured.map((m) => m.samples)).toEqual([2, 4, 8, 16]);
    expect(preview?.rgba).toHaveLength(4 * (preview?.width ?? 0) * (preview?.height ?? 0));
    expect(preview?.width).toBe(320);
    const first = store.runPreview(session);
    const second = store.runPreview(session);
    await Promise.all([first, second]);
    expect(state().preview?.done).toBe(true);
  }, 180_000);
  it('is traced to its samples, kept whole with its figures and a trial, and is stale when the light changes', async () => {
    expect(await store.runRender(session)).toBe(true);
    const { render, trials } = state();
    expect(render?.figures).toMatchObject({ width: 64, height: 48, samples: 8 });
    expect(render?.figures.noise).toBeGreaterThan(0);
    const png = decodePng(await page.blobs.get(render?.png as string));
    expect([png.width, png.height, png.channels]).toEqual([64, 48, 4]);
    expect(trials[0]).toMatchObject({ stage: 'render', thumbnail: render?.png });
    expect(store.isFresh(document(), render, 'render')).toBe(true);
    // From cold it is the same bytes.
    await forget(render?.name as string);
    expect(await store.runRender(session)).toBe(true);
    expect(state().render?.png).toBe(render?.png);
  }, 180_000);
  it('a worker that dies mid-picture is replaced, its tiles traced again: the same bytes', async () => {
    session.dispatch({ type: 'render.set', patch: { samples: 64 } });
    expect(await store.runRender(session)).toBe(true);
    const whole = state().render?.png;
    await forget(state().render?.name as string);
    const going = store.runRender(session);
    await until(() => (state().job?.share ?? 0) > 0.05, 'the picture to be under way');
    // One that traces a tile: what only one worker does (the development of the picture) isn't done twice.
    await until(() => bench.killWorker('tile'), 'a worker at a tile');
    expect(await going).toBe(true);
    expect(state().render?.png).toBe(whole);
    session.dispatch({ type: 'render.set', patch: { samples: 8 } });
    await store.runRender(session);
    await saved();
  }, 240_000);
  it('ends at a noise when that is asked for', async () => {
    session.dispatch({ type: 'render.set', patch: { until: 'noise', noise: 0.2 } });
    expect(await store.runRender(session)).toBe(true);
    expect(state().render?.figures.noise).toBeLessThanOrEqual(0.2);
    expect(state().render?.figures.samples).toBeLessThan(512);
    session.dispatch({ type: 'render.set', patch: { until: 'samples' } });
    expect(await store.runRender(session)).toBe(true);
    await saved();
  }, 180_000);
  it('stops when asked and leaves the last picture as it was', async () => {
    const before = state().render?.png;
    session.dispatch({ type: 'render.set', patch: { samples: 4096 } });
    const going = store.runRender(session);
    await until(() => (state().job?.share ?? 0) > 0 && (state().growing?.measured.length ?? 0) > 0, 'the picture to grow');
    state().job?.cancel?.();
    expect(await going).toBe(false);
    expect(said(/Stopped, as asked/)).toBe(true);
    expect(state().render?.png).toBe(before);
    session.dispatch({ type: 'render.set', patch: { samples: 8 } });
    await saved();
  }, 180_000);
});

describe('queue', () => {
  it('takes the picture as everything is stored, says so, and refuses the same one twice', async () => {
    // Nothing draws here: only the putting in is looked at.
    const { drawing } = await import('@/server/jobs/render-job');
    const { putInQueue } = await import('@/session/queued');
    drawing.thread = idleThread;
    session.dispatch({ type: 'render.set', patch: { seed: 77 } });
    expect(await putInQueue(session, 'render', 12.4)).toBe(true);
    expect(said(/drawn on the server, also when this page is closed/)).toBe(true);
    const { queueNow, stopJob } = await import('@/server/jobs/queue');
    const [job] = await queueNow();
    expect(job).toMatchObject({ assetId: id, forecastSeconds: 12 });
    expect(await putInQueue(session, 'render', null)).toBe(false);
    expect(said(/in the queue already/)).toBe(true);
    await stopJob(job.id);
    session.dispatch({ type: 'render.set', patch: { seed: 1 } });
    await saved();
  }, 60_000);
  it('changed while what it is made of is got ready, it is not another picture that is queued', async () => {
    const { queueNow } = await import('@/server/jobs/queue');
    const waiting = async () =>
      (await queueNow()).filter((j) => j.assetId === id && (j.state === 'waiting' || j.state === 'running')).length;
    const { putInQueue } = await import('@/session/queued');
    const before = await waiting();
    session.dispatch({ type: 'render.set', patch: { seed: 79 } });
    const going = putInQueue(session, 'render', null);
    expect(session.dispatch({ type: 'rig.set', patch: { surround: 0.61 } })).toBe(true);
    expect(await going).toBe(false);
    expect(said(/changed while its picture was got ready/)).toBe(true);
    expect(await waiting()).toBe(before);
    await session.stepHistory('undo');
    session.dispatch({ type: 'render.set', patch: { seed: 1 } });
    await saved();
  }, 60_000);
  it('a picture drawn elsewhere comes into view by its name, without being asked for', async () => {
    const [{ keepResult }, { inputsOf, nameOf }] = [await import('@/server/db/results'), await import('@wellmorph/core/pipeline/results')];
    const { png, figures } = state().render as NonNullable<ReturnType<typeof state>['render']>;
    session.dispatch({ type: 'render.set', patch: { seed: 78 } });
    await saved();
    expect(store.isFresh(document(), state().render, 'render')).toBe(false);
    const inputs = inputsOf(document(), 'render').map((kind) => kind && nameOf(document(), kind));
    const kept = {
      name: nameOf(document(), 'render'),
      stage: 'render' as const,
      inputs,
      figures: { ...figures, samples: 4711 },
      blobs: { png },
    };
    await keepResult(kept);
    await until(() => state().render?.figures.samples === 4711, 'the picture to come');
    session.dispatch({ type: 'render.set', patch: { seed: 1 } });
    // And the one of before is found again by its own.
    await until(() => store.isFresh(document(), state().render, 'render'), 'the picture of before');
    expect(state().render?.figures.samples).toBe(figures.samples);
    await saved();
  }, 60_000);
});

describe('hand-off', () => {
  it('packs what is fresh into one archive whose GLB the validator has nothing against', async () => {
    const made = await store.makeArchive(session);
    expect(made?.name).toBe('brass-aneroid-gauge.zip');
    await until(() => state().trials.some((t) => t.stage === 'hand-off'), 'the archive among the trials');
    expect(state().trials[0]).toMatchObject({
      stage: 'hand-off',
      settings: { furtherLevels: 0, goesIn: 'GLB, OBJ and MTL, textures, layout, picture, spec sheet' },
      figures: { files: made?.files.length },
      canTake: true,
    });
    const files = unzipSync(made?.zip as Uint8Array);
    expect(Object.keys(files).sort()).toEqual(made?.files.map((f) => f.name).sort());
    for (const name of [
      'brass-aneroid-gauge.glb',
      'brass-aneroid-gauge.obj',
      'brass-aneroid-gauge_picture.png',
      'brass-aneroid-gauge_spec-sheet.html',
      'textures/brass-aneroid-gauge_orm.png',
    ])
      expect(files[name], name).toBeDefined();
    const report = await validator.validateBytes(files['brass-aneroid-gauge.glb']);
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    expect(new TextDecoder().decode(files['brass-aneroid-gauge_spec-sheet.html'])).toContain('Brass aneroid gauge');
  }, 120_000);
  it('leaves out what is stale', async () => {
    session.dispatch({ type: 'rig.set', patch: { surround: 0.5 } });
    const made = await store.makeArchive(session);
    expect(made?.files.some((f) => f.name.endsWith('_picture.png'))).toBe(false);
    expect(made?.files.some((f) => f.name.endsWith('_orm.png'))).toBe(true);
    expect(store.assetState(state())?.fresh).toMatchObject({ surface: true, render: false });
    await saved();
  }, 120_000);
  it('everything made is there again when the sheet is opened anew', async () => {
    const before = state();
    const other = await bench.page();
    const again = other.open(id);
    await until(() => again.state.render !== null, 'the results');
    expect(again.state.surface).toEqual(before.surface);
    // The picture was made before the light was changed: it is shown, and known to be stale.
    expect(again.state.render).toEqual(before.render);
    expect(store.isFresh(again.document, again.state.render, 'render')).toBe(false);
    expect(again.state.bake?.files.curvature).toBe(before.bake?.files.curvature);
    await other.close();
  }, 60_000);
});
