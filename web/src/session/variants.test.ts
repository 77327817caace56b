import { nameOf } from '@wellmorph/core/pipeline/results';
import { asVariant } from '@wellmorph/core/pipeline/variants';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type Bench, formed, openBench, until } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import type { AssetSession } from './session';
import type { Workbench } from './workbench';

/** A piece looked at as one of its variants while other things happen. Real routes, database, workers; several pages at once. */
let bench: Bench;
let page: Workbench;
let assets: typeof import('@/server/db/assets');
const load = async () => ({
  ...(await import('./state')),
  ...(await import('@/stages/surface/run')),
  ...(await import('@/stages/surface/give')),
  ...(await import('@/stages/variants/run')),
});
let run: Awaited<ReturnType<typeof load>>;
let seed = 7000;

beforeAll(async () => {
  bench = await openBench();
  run = await load();
  assets = await import('@/server/db/assets');
});
afterAll(() => bench.close());
beforeEach(async () => {
  bench.offline = false;
  await page?.close();
  page = await bench.page();
});

const open = async (id: string, on = page): Promise<AssetSession> => {
  const s = on.open(id);
  await formed(s);
  return s;
};
/** A piece of brass with a dull variant of it, which is looked at. */
async function dull(): Promise<AssetSession> {
  const s = await open(await assets.createAsset(smallPiece('Cup', seed++)));
  run.giveMaterial(s, ['cup', 'lid'], 'new:polished-brass');
  s.dispatch({ type: 'variant.set', variant: 'dull', name: 'Dull' });
  s.showVariant('dull');
  s.dispatch({ type: 'material.set', material: brass(s).id, patch: { roughness: 0.9 } });
  await until(() => s.lane.unsent === 0, 'all to be stored');
  return s;
}
const brass = (s: AssetSession) => (s.document as NonNullable<typeof s.document>).materials[0];
const fresh = (s: AssetSession) => run.isFresh(s.document, s.state.surface, 'surface');
const stored = async (s: AssetSession) => (await assets.assetState(s.id)).document;

describe('a variant that is looked at', () => {
  it('is what looks are changed of; the piece, and what the server has of it, stay as they were', async () => {
    const s = await dull();
    const own = s.state.piece?.materials[0].roughness;
    expect([brass(s).roughness, own !== 0.9]).toEqual([0.9, true]);
    const document = await stored(s);
    expect(document.materials[0].roughness).toBe(own);
    expect([asVariant(document, 'dull').materials[0].roughness, document.as]).toEqual([0.9, undefined]);
    s.dispatch({ type: 'part.set', part: 'cup', patch: { weight: 2 } });
    await until(() => s.lane.unsent === 0, 'the weight to be stored');
    s.showVariant(null);
    expect([brass(s).roughness, s.document?.parts[0].weight]).toEqual([own, 2]);
    await s.stepHistory('undo');
    await s.stepHistory('undo');
    expect((await stored(s)).variants).toEqual([{ id: 'dull', name: 'Dull' }]);
  });

  it('gets its set though the piece is looked at when it is done; neither is taken for an older state of the other', async () => {
    const s = await dull();
    const going = run.runSurface(s);
    await until(() => (s.state.job?.share ?? 0) > 0.05, 'the set to be under way');
    s.showVariant(null);
    expect(await going).toBe(true);
    expect([s.state.surface, fresh(s)]).toEqual([null, false]);
    s.showVariant('dull');
    await until(() => fresh(s), 'the variant’s set to be found');
    const its = s.state.surface;
    s.showVariant(null);
    expect(s.state.surface).toBeNull();
    expect(await run.runSurface(s)).toBe(true);
    expect(s.state.surface?.baseColour).toBeDefined();
    expect(s.state.surface?.orm).not.toBe(its?.orm);
    s.showVariant('dull');
    expect(s.state.surface).toBe(its);
  }, 120_000);

  it('that somebody else removes is the piece again, and what is changed then is changed of that', async () => {
    const s = await dull();
    const other = await bench.page();
    const o = await open(s.id, other);
    o.dispatch({ type: 'variant.remove', variant: 'dull' });
    await until(() => o.lane.unsent === 0, 'its removal to be stored');
    await until(() => s.document?.as === undefined, 'news of it');
    s.dispatch({ type: 'material.set', material: brass(s).id, patch: { roughness: 0.7 } });
    await until(() => s.lane.unsent === 0, 'the change to be stored');
    expect((await stored(s)).materials[0].roughness).toBe(0.7);
    expect(s.state.refused).toEqual([]);
    await other.close();
  });

  it('changed while it was being removed elsewhere is refused in a sentence, and kept to be tried again', async () => {
    const s = await dull();
    const other = await bench.page();
    const o = await open(s.id, other);
    bench.offline = true;
    s.dispatch({ type: 'material.set', material: brass(s).id, patch: { roughness: 0.5 } });
    await assets.editAsset(s.id, (await assets.assetState(s.id)).version, { type: 'variant.remove', variant: 'dull' });
    bench.offline = false;
    s.lane.poke();
    await until(() => s.state.refused.length === 1, 'the change to be refused');
    expect(s.state.refused[0].why).toMatch(/removed the variant Dull/);
    expect((await stored(s)).variants).toBeUndefined();
    expect(o.id).toBe(s.id);
    await other.close();
  });

  it('takes up a trial for itself', async () => {
    const s = await dull();
    expect(await run.runSurface(s)).toBe(true);
    const trial = s.state.trials.find((t) => t.stage === 'surface');
    expect(trial?.title).toMatch(/^Dull: /);
    s.dispatch({ type: 'material.set', material: brass(s).id, patch: { roughness: 0.2 } });
    await s.takeTrial(trial as NonNullable<typeof trial>);
    expect(brass(s).roughness).toBe(0.9);
    expect((await stored(s)).materials[0].roughness).not.toBe(0.9);
  }, 120_000);
});

describe('all looks in one run', () => {
  it('leave the set of each under its own name, and a second run makes none anew', async () => {
    const s = await dull();
    s.dispatch({ type: 'variant.set', variant: 'plain', name: 'Plain' });
    expect(await run.runSets(s)).toMatchObject({ sets: 3 });
    const piece = s.state.piece as NonNullable<typeof s.state.piece>;
    const names = new Set(run.looksOf(piece).map((d) => nameOf(d, 'surface')));
    // One is as the piece is.
    expect(names.size).toBe(2);
    const before = s.state.trials.length;
    expect(await run.runSets(s)).toMatchObject({ sets: 3 });
    expect(s.state.trials.length).toBe(before);
    await until(() => fresh(s), 'the one that is looked at');
  }, 120_000);

  it('stopped in the middle keep nothing half made, and say so', async () => {
    const s = await dull();
    const going = run.runSets(s);
    await until(() => (s.state.job?.share ?? 0) > 0.05, 'the run to be under way');
    s.state.job?.cancel();
    expect(await going).toBeNull();
    expect(s.state.job).toBeNull();
    expect(page.store.getState().notices.some((n) => n.text === 'Stopped, as asked. Nothing was changed.')).toBe(true);
  }, 120_000);
});
