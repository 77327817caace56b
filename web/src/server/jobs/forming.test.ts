import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Bench, openBench } from '../../../test/bench';
import { smallPiece } from '../../../test/pieces';
import { builtWorker } from '../../../test/worker';

let bench: Bench;
let forming: typeof import('./forming');
let assets: typeof import('../db/assets');
let results: typeof import('../db/results');
let cards: typeof import('../workshop');
let code: string;

beforeAll(async () => {
  bench = await openBench();
  forming = await import('./forming');
  assets = await import('../db/assets');
  results = await import('../db/results');
  cards = await import('../workshop');
  code = await builtWorker(resolve(import.meta.dirname, 'form.worker.ts'));
  forming.forge.thread = () => new Worker(code);
}, 120_000);
afterAll(() => bench.close());

const formOf = async (id: string) => results.resultNamed(nameOf((await assets.assetState(id)).document, 'form'));

describe('pieces that were never formed', () => {
  it('are formed by the server one after the other, their cards say how far they are, and an empty one is left alone', async () => {
    const [first, second] = [await assets.createAsset(smallPiece('First', 1)), await assets.createAsset(smallPiece('Second', 2))];
    const empty = await assets.createAsset({ ...smallPiece('Empty', 3), parts: [] });
    const going = forming.formTheUnformed();
    await expect.poll(() => forming.formingNow().get(first)).toBe('now');
    const state = (list: Awaited<ReturnType<typeof cards.workshopCards>>, id: string) => list.find((c) => c.id === id)?.forming;
    const meanwhile = await cards.workshopCards();
    expect([state(meanwhile, second), state(meanwhile, empty)]).toEqual(['waits', null]);
    await going;
    const after = await cards.workshopCards();
    for (const id of [first, second]) {
      const card = after.find((c) => c.id === id);
      expect([card?.forming, card?.triangles === null, card?.thumbnail === null]).toEqual([null, false, false]);
    }
    expect(after.find((c) => c.id === empty)?.thumbnail).toBeNull();
  });
  it('one that is changed while it waits is formed as it is then; the picture of another state is not put on its card', async () => {
    const [first, changed] = [await assets.createAsset(smallPiece('Third', 4)), await assets.createAsset(smallPiece('Changed', 5))];
    const before = nameOf((await assets.assetState(changed)).document, 'form');
    const going = forming.formTheUnformed();
    await expect.poll(() => forming.formingNow().get(first)).toBe('now');
    const part = (await assets.assetState(changed)).document.parts[0].id;
    await assets.editAsset(changed, 1, { type: 'part.set', part, patch: { move: [5, 0, 0] } });
    await going;
    expect(await formOf(changed)).toBeDefined();
    expect(await results.resultNamed(before)).toBeUndefined();
  });
  it('a thread that dies over one leaves the others to the next thread', async () => {
    const [, , third] = [
      await assets.createAsset(smallPiece('Dies', 6)),
      await assets.createAsset(smallPiece('Goes on', 7)),
      await assets.createAsset(smallPiece('And this', 8)),
    ];
    let hired = 0;
    forming.forge.thread = () => {
      const thread = new Worker(code);
      if (hired++ === 0) void thread.terminate();
      return thread;
    };
    await forming.formTheUnformed();
    expect(hired).toBe(2);
    expect(await formOf(third)).toBeDefined();
  });
});
