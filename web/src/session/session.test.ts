import { solveAsset } from '@wellmorph/core/pipeline/solve';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type Bench, formed, openBench, stored as saved, until } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import type { AssetSession } from './session';
import type { Workbench } from './workbench';

/** Things that overlap in time: each of these once mixed something up. Real routes, database, workers; several pages at once. */
let bench: Bench;
let page: Workbench;
let assets: typeof import('@/server/db/assets');
let trials: typeof import('@/server/db/trials');
const load = async () => ({
  ...(await import('./state')),
  ...(await import('@/stages/form/run')),
  ...(await import('@/stages/unwrap/run')),
  ...(await import('@/stages/surface/run')),
  ...(await import('@/stages/surface/give')),
  ...(await import('@/stages/render/run')),
  ...(await import('@/stages/hand-off/run')),
});
let run: Awaited<ReturnType<typeof load>>;
let seed = 1;

beforeAll(async () => {
  bench = await openBench();
  run = await load();
  assets = await import('@/server/db/assets');
  trials = await import('@/server/db/trials');
});
afterAll(() => bench.close());
beforeEach(async () => {
  bench.offline = false;
  bench.answer = null;
  await page?.close();
  page = await bench.page();
});

async function make(name = 'Piece'): Promise<string> {
  return assets.createAsset(smallPiece(name, seed++));
}
async function open(id: string, on = page): Promise<AssetSession> {
  const s = on.open(id);
  await formed(s);
  return s;
}
const stored = async (id: string) => (await assets.assetState(id)).document;
const said = (words: RegExp, on = page) => on.store.getState().notices.some((n) => words.test(n.text));
const fresh = (s: AssetSession, kind: 'form' | 'unwrap' | 'bake' | 'surface' | 'render') => run.isFresh(s.document, s.state[kind], kind);
const laidOut = (s: AssetSession) => s.state.unwrap?.figures.parts.map((p) => p.id);

describe('work runs on what it began with', () => {
  it('a part removed before the layout begins: the layout is the old piece’s, under the old piece’s name', async () => {
    const s = await open(await make());
    s.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 1.5 } });
    const going = run.runUnwrap(s);
    s.dispatch({ type: 'part.remove', part: 'lid' });
    expect(await going).toBe(true);
    await formed(s);
    expect(fresh(s, 'unwrap')).toBe(false);
    expect(laidOut(s)).toEqual(['cup', 'lid']);
    expect(await run.runUnwrap(s)).toBe(true);
    expect([fresh(s, 'unwrap'), laidOut(s)]).toEqual([true, ['cup']]);
    await s.stepHistory('undo');
    await until(() => fresh(s, 'unwrap'), 'the layout of before');
    expect(laidOut(s)).toEqual(['cup', 'lid']);
  });
  it('the same while the form is being made, and when its worker dies', async () => {
    const s = await open(await make());
    s.dispatch({ type: 'part.set', part: 'cup', patch: { move: [0, 0, 5] } });
    const going = run.runUnwrap(s);
    await until(() => bench.killWorker('form') || !s.state.forming, 'the form’s worker');
    s.dispatch({ type: 'part.remove', part: 'lid' });
    // Done or said in a sentence; never the old form under the new name.
    const done = await going;
    if (done) expect(laidOut(s)).toEqual(['cup', 'lid']);
    else expect(said(/stopped unexpectedly/)).toBe(true);
    await formed(s);
    expect(fresh(s, 'unwrap')).toBe(false);
    expect(s.state.form?.ledger.parts.map((p) => p.id)).toEqual(['cup']);
    expect(await run.runUnwrap(s)).toBe(true);
    expect([fresh(s, 'unwrap'), laidOut(s)]).toEqual([true, ['cup']]);
  });
  it('a picture changed while it is drawn is the picture of before', async () => {
    const s = await open(await make());
    run.giveMaterial(s, ['cup', 'lid'], 'new:polished-brass');
    s.dispatch({ type: 'render.set', patch: { maps: false, samples: 256 } });
    const going = run.runRender(s);
    await until(() => (s.state.job?.share ?? 0) > 0.02, 'the picture to be under way');
    s.dispatch({ type: 'rig.set', patch: { surround: 0.9 } });
    expect(await going).toBe(true);
    expect(fresh(s, 'render')).toBe(false);
    s.dispatch({ type: 'rig.set', patch: { surround: 0.3 } });
    await until(() => fresh(s, 'render'), 'the picture to be of the piece again');
  });
});

describe('what the server says', () => {
  it('is asked for anew once it has taken something back, whatever answer of before is still on its way', async () => {
    const s = await open(await make());
    const before = s.document?.brief.closestMm;
    s.dispatch({ type: 'brief.set', patch: { closestMm: 777 } });
    await until(() => s.lane.unsent === 0, 'the change to be stored');
    const real = globalThis.fetch;
    let [read, taken, go] = [false, false, () => {}];
    const held = new Promise<void>((resolve) => {
      go = resolve;
    });
    globalThis.fetch = (async (input: string, init?: RequestInit) => {
      const answer = await real(input, init);
      if (!read && (init?.method ?? 'GET') === 'GET' && String(input).endsWith(s.id)) {
        read = true;
        await held;
      }
      if (String(input).endsWith('/history')) taken = true;
      return answer;
    }) as typeof fetch;
    try {
      const refreshed = s.refresh();
      await until(() => read, 'the answer of before');
      const undone = s.stepHistory('undo');
      await until(() => taken, 'it to be taken back');
      await new Promise((r) => setTimeout(r, 50));
      go();
      await Promise.all([refreshed, undone]);
      await until(() => s.document?.brief.closestMm === before, 'the page to show it', 5);
      expect(s.document).toEqual(await stored(s.id));
    } finally {
      globalThis.fetch = real;
    }
  });
});

describe('advice that is taken', () => {
  it('is kept with the changes its button makes, and not with others; taken back it counts no more', async () => {
    const s = await open(await make());
    s.advised('16 px of padding is usual.', () => void s.dispatch({ type: 'unwrap.set', patch: { padding: 16 } }));
    s.dispatch({ type: 'unwrap.set', patch: { seamAngle: 50 } });
    // A change that can’t be made leaves nothing behind either.
    s.advised('Take the lamp away.', () => void s.dispatch({ type: 'part.remove', part: 'nothing' }));
    s.dispatch({ type: 'unwrap.set', patch: { fewer: 0.3 } }, 'Fewer seams did well.');
    await s.readHistory();
    expect(s.state.history.map((h) => h.advice)).toEqual(['16 px of padding is usual.', null, 'Fewer seams did well.']);
    expect((await run.keptBeside(s)).advice.map((a) => a.said)).toEqual(['16 px of padding is usual.', 'Fewer seams did well.']);
    await s.stepHistory('undo');
    expect((await run.keptBeside(s)).advice.map((a) => a.said)).toEqual(['16 px of padding is usual.']);
  });
});

describe('with maps or without is a choice', () => {
  it('a plain picture stays one when a set is composed, and is not the picture with maps', async () => {
    const s = await open(await make());
    run.giveMaterial(s, ['cup', 'lid'], 'new:polished-brass');
    s.dispatch({ type: 'render.set', patch: { maps: false } });
    expect(await run.runRender(s)).toBe(true);
    const plain = s.state.render;
    expect(await run.runSurface(s)).toBe(true);
    expect([fresh(s, 'render'), s.state.render?.png]).toEqual([true, plain?.png]);
    s.dispatch({ type: 'render.set', patch: { maps: true } });
    expect(fresh(s, 'render')).toBe(false);
    expect(await run.runRender(s)).toBe(true);
    expect(s.state.render?.png).not.toBe(plain?.png);
    s.dispatch({ type: 'render.set', patch: { maps: false } });
    await until(() => fresh(s, 'render'), 'the plain picture');
    expect(s.state.render?.png).toBe(plain?.png);
  });
  it('with maps, what is missing is made first; nothing is left out in silence', async () => {
    const s = await open(await make());
    run.giveMaterial(s, ['cup', 'lid'], 'new:polished-brass');
    expect(await run.runRender(s)).toBe(true);
    expect((['form', 'unwrap', 'bake', 'surface', 'render'] as const).map((k) => fresh(s, k))).toEqual([true, true, true, true, true]);
    expect(s.state.trials.map((t) => t.stage)).toEqual(['render', 'surface', 'bake', 'unwrap']);
  });
});

describe('several assets', () => {
  it('work goes on when another is opened, can be seen and stopped there, and is filed where it began', async () => {
    const [a, b] = [await open(await make('A')), await open(await make('B'))];
    page.open(a.id);
    const first = run.runUnwrap(a);
    page.leave(a);
    page.open(b.id);
    expect(page.store.getState().jobs.map((j) => j.assetName)).toEqual(['A']);
    // One's work is none of the other's.
    const second = run.runUnwrap(b);
    expect(page.store.getState().jobs).toHaveLength(2);
    expect(await Promise.all([first, second])).toEqual([true, true]);
    expect([a.state.job, b.state.job, page.store.getState().jobs]).toEqual([null, null, []]);
    expect([a.state.trials.length, b.state.trials.length]).toEqual([1, 1]);
    expect((await trials.trialsOf(a.id)).map((t) => t.resultName)).toEqual([a.state.unwrap?.name]);
    expect(a.state.unwrap?.name).not.toBe(b.state.unwrap?.name);
  });
  it('it is stopped from wherever its bar is shown', async () => {
    const [a, b] = [await open(await make('A')), await open(await make('B'))];
    run.giveMaterial(a, ['cup', 'lid'], 'new:polished-brass');
    a.dispatch({ type: 'render.set', patch: { maps: false, samples: 4096 } });
    const going = run.runRender(a);
    page.open(b.id);
    await until(() => (page.store.getState().jobs[0]?.share ?? 0) > 0, 'the picture to be under way');
    page.store.getState().jobs[0].cancel();
    expect(await going).toBe(false);
    expect(said(/^A: Stopped, as asked/)).toBe(true);
    expect(b.state.job).toBeNull();
  });
  it('a budget solved for one is not offered for another', async () => {
    const [a, b] = [await open(await make('A')), await open(await make('B'))];
    const going = run.solve(a, 900);
    page.open(b.id);
    await going;
    expect(a.state.budget?.triangles).toBeLessThanOrEqual(900);
    expect(b.state.budget).toBeNull();
    expect(b.state.trials).toEqual([]);
    expect(solveAsset(smallPiece('x', 1), {}, 900).triangles).toBe(a.state.budget?.triangles);
  });
  it('twenty opened in turn leave two at most', async () => {
    for (let i = 0; i < 20; i++) {
      const s = page.open(await make(`N${i}`));
      await until(() => s.document !== null, 'the document');
      page.leave(s);
    }
    await until(() => (page as unknown as { sessions: Map<string, unknown> }).sessions.size <= 1, 'the sheets to be let go', 10);
    expect(page.blobs.size).toBeLessThan(192e6);
  });
});

describe('edits', () => {
  it('made without a server and then another asset opened: they are stored when it is back', async () => {
    const [a, b] = [await open(await make('A')), await open(await make('B'))];
    bench.offline = true;
    a.dispatch({ type: 'rename', name: 'Not lost' });
    page.leave(a);
    page.open(b.id);
    b.dispatch({ type: 'rename', name: 'Nor this' });
    await until(() => a.state.saving === 'unsaved' && b.state.saving === 'unsaved', 'saying so');
    bench.offline = false;
    await Promise.all([saved(a), saved(b)]);
    expect([(await stored(a.id)).name, (await stored(b.id)).name]).toEqual(['Not lost', 'Nor this']);
  });
  it('and when the page is closed before: the next page sends them, each once', async () => {
    const id = await make('A');
    const a = await open(id);
    bench.offline = true;
    a.dispatch({ type: 'rename', name: 'Kept by the browser' });
    a.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 2 } });
    await until(() => a.state.saving === 'unsaved', 'saying so');
    await page.close();
    bench.offline = false;
    page = await bench.page();
    // Nobody opens that asset: what was left behind is sent all the same.
    let now = await assets.assetState(id);
    for (let i = 0; i < 400 && now.version < 3; i++) {
      await new Promise((r) => setTimeout(r, 20));
      now = await assets.assetState(id);
    }
    expect([now.version, now.document.name, now.document.parts[0].weight]).toEqual([3, 'Kept by the browser', 2]);
  });
  it('an answer that is lost is no change lost, and none made twice', async () => {
    const s = await open(await make());
    const real = globalThis.fetch;
    let drop = true;
    globalThis.fetch = (async (input: string, init?: RequestInit) => {
      const answer = await real(input, init);
      if (String(input).endsWith('/edits') && drop) {
        drop = false;
        throw new TypeError('the answer was lost on the way');
      }
      return answer;
    }) as typeof fetch;
    try {
      s.dispatch({ type: 'step.add', part: 'cup', step: { kind: 'bend', id: 'b1', name: 'Bend', enabled: false } as never });
      s.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 3 } });
      await saved(s);
    } finally {
      globalThis.fetch = real;
    }
    const now = await assets.assetState(s.id);
    expect(now.history.map((h) => h.words).filter((w) => /weight/.test(w))).toHaveLength(1);
    expect(now.document.parts[0].weight).toBe(3);
    expect(s.document).toEqual(now.document);
  });
  it('an edit the server fails on, with everything else failing too: nothing is shown as stored, and it is stored in the end', async () => {
    const s = await open(await make());
    const failing = () => Response.json({ code: 'server/unforeseen', message: 'Something went wrong.' }, { status: 500 });
    bench.answer = () => failing();
    s.dispatch({ type: 'rename', name: 'After the storm' });
    await until(() => s.state.saving === 'unsaved', 'saying so');
    expect(page.hasUnsent).toBe(true);
    bench.answer = null;
    await saved(s);
    expect((await stored(s.id)).name).toBe('After the storm');
  });
  it('two quick undos take two changes back, and as many redos bring them again', async () => {
    const s = await open(await make('Nought'));
    s.dispatch({ type: 'rename', name: 'One' });
    s.dispatch({ type: 'rename', name: 'Two' });
    await Promise.all([s.stepHistory('undo'), s.stepHistory('undo')]);
    expect([s.document?.name, (await stored(s.id)).name]).toEqual(['Nought', 'Nought']);
    await Promise.all([s.stepHistory('redo'), s.stepHistory('redo'), s.stepHistory('redo')]);
    expect([s.document?.name, (await stored(s.id)).name]).toEqual(['Two', 'Two']);
    expect(said(/nothing to bring back/)).toBe(true);
    expect(said(/Someone else/)).toBe(false);
  });
  it('undo of a change that still waits shows at once', async () => {
    const s = await open(await make('Nought'));
    bench.offline = true;
    s.dispatch({ type: 'rename', name: 'One' });
    const going = s.stepHistory('undo');
    expect(s.document?.name).toBe('Nought');
    bench.offline = false;
    await going;
    expect((await stored(s.id)).name).toBe('Nought');
  });
});

describe('two pages on one asset', () => {
  it('changes to different things both stand, in whatever order they came', async () => {
    const id = await make();
    const other = await bench.page();
    const [a, b] = [await open(id), await open(id, other)];
    a.dispatch({ type: 'rename', name: 'Of the first' });
    b.dispatch({ type: 'part.set', part: 'lid', patch: { weight: 4 } });
    await Promise.all([saved(a), saved(b)]);
    const now = await stored(id);
    expect([now.name, now.parts[1].weight]).toEqual(['Of the first', 4]);
    await until(() => a.document?.parts[1].weight === 4 && b.document?.name === 'Of the first', 'both to show both');
    expect(a.document).toEqual(b.document);
    await other.close();
  });
  it('a change to the same thing is said, kept, and made when that is wanted', async () => {
    const id = await make();
    const a = await open(id);
    bench.offline = true;
    a.dispatch({ type: 'rename', name: 'Ours' });
    a.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 2.5 } });
    await until(() => a.state.saving === 'unsaved', 'it to wait');
    await assets.editAsset(id, 1, { type: 'rename', name: 'Theirs' });
    bench.offline = false;
    await saved(a);
    // What is about something else is made all the same.
    expect((await stored(id)).parts[0].weight).toBe(2.5);
    expect((await stored(id)).name).toBe('Theirs');
    expect(said(/Someone else changed this in the meantime \(named it “Theirs”\)/)).toBe(true);
    expect(a.document?.name).toBe('Theirs');
    expect(a.state.refused).toHaveLength(1);
    // It outlives the page.
    await page.close();
    page = await bench.page();
    const again = await open(id);
    await until(() => again.state.refused.length === 1, 'what was refused');
    again.retryRefused(again.state.refused[0]);
    await saved(again);
    expect([(await stored(id)).name, again.state.refused.length]).toEqual(['Ours', 0]);
  });
  it('an older result made elsewhere never displaces a fresh one', async () => {
    const id = await make();
    const other = await bench.page();
    const [a, b] = [await open(id), await open(id, other)];
    a.dispatch({ type: 'unwrap.set', patch: { padding: 3 } });
    await saved(a);
    await until(() => b.document?.unwrap.padding === 3, 'the news');
    expect(await run.runUnwrap(a)).toBe(true);
    await until(() => fresh(b, 'unwrap'), 'the layout to come into view of the other page');
    const name = b.state.unwrap?.name;
    // The other page makes one of a state that is past by the time it is there.
    b.dispatch({ type: 'unwrap.set', patch: { padding: 5 } });
    const going = run.runUnwrap(b);
    b.dispatch({ type: 'unwrap.set', patch: { padding: 3 } });
    await going;
    await Promise.all([saved(a), saved(b)]);
    await until(() => a.document?.unwrap.padding === 3 && fresh(a, 'unwrap') && fresh(b, 'unwrap'), 'both to be fresh');
    expect([a.state.unwrap?.name, b.state.unwrap?.name]).toEqual([name, name]);
    // And from the start.
    const third = await bench.page();
    const c = await open(id, third);
    await until(() => c.state.unwrap !== null, 'the layout');
    expect(fresh(c, 'unwrap')).toBe(true);
    await Promise.all([other.close(), third.close()]);
  });
});

describe('results by name', () => {
  it('a form asked for again while it is made is kept all the same', async () => {
    const s = await open(await make());
    const { resultNamed } = await import('@/server/db/results');
    const { nameOf } = await import('@wellmorph/core/pipeline/results');
    s.dispatch({ type: 'part.set', part: 'cup', patch: { move: [0, 7, 0] } });
    await until(() => s.state.forming, 'it to be forming');
    // A name is no reason to form it anew, but it asks whether what is there is fresh.
    s.dispatch({ type: 'part.set', part: 'cup', patch: { name: 'Beaker' } });
    await formed(s);
    await saved(s);
    const name = nameOf(s.document as NonNullable<AssetSession['document']>, 'form');
    for (let i = 0; i < 500 && !(await resultNamed(name)); i++) await new Promise((go) => setTimeout(go, 10));
    expect(await resultNamed(name)).toBeDefined();
  });
  it('a form made of a state that was taken back at once never stays in view', async () => {
    const s = await open(await make());
    const before = s.state.form;
    // Again and again, at every moment of its making: undo comes before, while and after it is formed.
    for (let i = 0; i < 12; i++) {
      s.dispatch({ type: 'part.remove', part: 'lid' });
      await new Promise((go) => setTimeout(go, 6 * i));
      await s.stepHistory('undo');
      await saved(s);
      await formed(s);
      await until(() => !s.state.forming && run.isFresh(s.document, s.state.form, 'form'), 'the form of before');
      expect(s.state.form?.ledger.triangles).toBe(before?.ledger.triangles);
    }
  });
  it('are fresh after undo and a new opening, and renaming makes none stale', async () => {
    const s = await open(await make());
    expect(await run.runUnwrap(s)).toBe(true);
    s.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 1.7 } });
    expect(await run.runUnwrap(s)).toBe(true);
    await s.stepHistory('undo');
    await saved(s);
    await page.close();
    page = await bench.page();
    const again = await open(s.id);
    await until(() => again.state.unwrap !== null, 'the layout');
    expect(fresh(again, 'unwrap')).toBe(true);
    const before = again.state.unwrap;
    bench.asked.length = 0;
    again.dispatch({ type: 'part.set', part: 'cup', patch: { name: 'Beaker' } });
    again.dispatch({ type: 'rename', name: 'Goblet' });
    await saved(again);
    expect(fresh(again, 'unwrap') && fresh(again, 'form')).toBe(true);
    expect(again.state.unwrap?.png).toBe(before?.png);
    expect(again.state.form?.gpu.map((g) => g.name)).toEqual(['Beaker', 'lid']);
    // Nothing was made again for a name.
    expect(bench.asked.filter((x) => x.startsWith('PUT'))).toEqual([]);
  });
  it('a trial’s settings taken up again come to the same bytes, from what is kept and from cold', async () => {
    const s = await open(await make());
    s.dispatch({ type: 'unwrap.set', patch: { padding: 2 } });
    expect(await run.runUnwrap(s)).toBe(true);
    const [first] = s.state.trials;
    const { png, parts } = s.state.unwrap as NonNullable<typeof s.state.unwrap>;
    s.dispatch({ type: 'unwrap.set', patch: { padding: 11 } });
    s.dispatch({ type: 'part.remove', part: 'lid' });
    s.dispatch({ type: 'rename', name: 'A later name' });
    expect(await run.runUnwrap(s)).toBe(true);
    expect(first.canTake).toBe(true);
    await s.takeTrial(first);
    await until(() => fresh(s, 'unwrap'), 'the layout of that trial');
    expect([s.document?.unwrap.padding, s.document?.parts.length, s.document?.name]).toEqual([2, 2, 'A later name']);
    expect(s.state.unwrap?.png).toBe(png);
    await bench.forget(first.resultName as string, page);
    expect(await run.runUnwrap(s)).toBe(true);
    expect(s.state.unwrap?.png).toBe(png);
    expect(s.state.unwrap?.parts).toEqual(parts);
    await s.stepHistory('undo');
    expect([s.document?.unwrap.padding, s.document?.parts.length]).toEqual([11, 1]);
  });
  it('files at hand are bounded by their bytes', async () => {
    const { BlobCache } = await import('./blobs');
    const cache = new BlobCache(5000);
    const names: string[] = [];
    for (let i = 0; i < 12; i++) names.push(await cache.put(new Uint8Array(1000).fill(i), 'parts'));
    expect(cache.size).toBeLessThanOrEqual(5000);
    for (const [i, name] of names.entries()) expect((await cache.get(name))[0]).toBe(i);
    expect(cache.size).toBeLessThanOrEqual(5000);
    await expect(cache.get('f'.repeat(64))).rejects.toThrow(/not there/);
  });
});
