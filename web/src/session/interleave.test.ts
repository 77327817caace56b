import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Bench, openBench, until } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import type { AssetSession } from './session';
import type { Workbench } from './workbench';

/** Whatever overlaps, it ends as one after the other would have. */
let bench: Bench;
let assets: typeof import('@/server/db/assets');
let page: Workbench;
beforeAll(async () => {
  bench = await openBench();
  assets = await import('@/server/db/assets');
  page = await bench.page();
});
afterAll(() => bench.close());

type Act = { do: 'edit'; value: number } | { do: 'undo' | 'redo' | 'offline' | 'online' | 'lose' | 'reload' | 'switch' | 'wait' };
const acts: fc.Arbitrary<Act> = fc.oneof(
  { weight: 5, arbitrary: fc.integer({ min: 100, max: 9999 }).map((value): Act => ({ do: 'edit', value })) },
  { weight: 3, arbitrary: fc.constantFrom<Act>({ do: 'undo' }, { do: 'redo' }) },
  {
    weight: 3,
    arbitrary: fc.constantFrom<Act>(
      { do: 'offline' },
      { do: 'online' },
      { do: 'lose' },
      { do: 'reload' },
      { do: 'switch' },
      { do: 'wait' },
    ),
  },
);

const opened = (s: AssetSession) => until(() => s.document !== null, 'the document', 30);

describe('any interleaving', () => {
  it('of edits, undo, redo, breaks, lost answers, reloads and switches ends as the sequence would', async () => {
    const real = globalThis.fetch;
    let lose = 0;
    globalThis.fetch = (async (input: string, init?: RequestInit) => {
      const answer = await real(input, init);
      if (lose > 0 && init?.method === 'POST' && /\/(edits|history)$/.test(String(input))) {
        lose--;
        throw new TypeError('the answer was lost on the way');
      }
      return answer;
    }) as typeof fetch;
    let seed = 1000;
    const other = await assets.createAsset(smallPiece('Other', seed++));
    try {
      await fc.assert(
        fc.asyncProperty(fc.array(acts, { minLength: 4, maxLength: 14 }), async (row) => {
          const id = await assets.createAsset(smallPiece('Walk', seed++));
          let s = page.open(id);
          await opened(s);
          // What a person would expect: a stack with a place in it.
          const stack = [(s.document as NonNullable<typeof s.document>).brief.closestMm];
          let at = 0;
          for (const act of row) {
            switch (act.do) {
              case 'edit':
                expect(s.dispatch({ type: 'brief.set', patch: { closestMm: act.value } })).toBe(true);
                stack.length = ++at;
                stack.push(act.value);
                break;
              case 'undo':
                void s.stepHistory('undo');
                at = Math.max(0, at - 1);
                break;
              case 'redo':
                void s.stepHistory('redo');
                at = Math.min(stack.length - 1, at + 1);
                break;
              case 'offline':
                bench.offline = true;
                break;
              case 'online':
                bench.offline = false;
                s.lane.poke();
                break;
              case 'lose':
                lose++;
                break;
              case 'reload':
                // The page goes at once, whatever it had under way; what it was asked for stays with the browser.
                await page.close();
                bench.offline = false;
                page = await bench.page();
                s = page.open(id);
                await opened(s);
                break;
              case 'switch': {
                bench.offline = false;
                page.leave(s);
                await opened(page.open(other));
                s = page.open(id);
                await opened(s);
                break;
              }
              case 'wait':
                await new Promise((r) => setTimeout(r, 25));
            }
          }
          bench.offline = false;
          lose = 0;
          s.lane.poke();
          await until(() => s.lane.unsent === 0 && s.state.saving === 'saved', 'everything to be stored', 30);
          const stored = await assets.assetState(id);
          expect(stored.document.brief.closestMm).toBe(stack[at]);
          await until(() => s.document?.brief.closestMm === stack[at], 'the page to show it', 30);
          expect(s.document).toEqual(stored.document);
          expect(s.state.refused).toEqual([]);
          expect(stored.history.filter((h) => !h.undone)).toHaveLength(at);
        }),
        { numRuns: 25, seed: 20261127 },
      );
    } finally {
      globalThis.fetch = real;
    }
  }, 200_000);
  it('a request sent again gets the answer it got, from whatever version it says it was made on', async () => {
    const id = await assets.createAsset(smallPiece('Again', 1));
    const origin = { clientId: 'a-page-of-ours', seq: 7 };
    const first = await assets.editAsset(id, 1, { type: 'rename', name: 'Once' }, origin);
    await assets.editAsset(id, 2, { type: 'rename', name: 'Twice' }, { ...origin, seq: 8 });
    for (const base of [1, 2, 3, 99]) {
      const again = await assets.editAsset(id, base, { type: 'rename', name: 'Once' }, origin);
      expect([again.version, again.words]).toEqual([first.version, first.words]);
    }
    const back = await assets.stepHistory(id, 3, 'undo', { ...origin, seq: 9 });
    expect((await assets.stepHistory(id, 3, 'undo', { ...origin, seq: 9 })).version).toBe(back.version);
    const state = await assets.assetState(id);
    expect([state.version, state.document.name]).toEqual([4, 'Once']);
  });
});

describe('equal names, equal bytes', () => {
  it('on the page, on the server and from cold', async () => {
    const { keepBlob } = await import('@/server/blobs/store');
    const { unlabelled } = await import('@wellmorph/core/pipeline/labels');
    const { formAndInspect } = await import('@wellmorph/core/pipeline/forming');
    const { MeshCache } = await import('@wellmorph/core/pipeline/mesh-cache');
    const { nameOf } = await import('@wellmorph/core/pipeline/results');
    const { unwrap, unwrapSettings } = await import('@wellmorph/core/pipeline/unwrap');
    const { aboutParts, bakeSettings } = await import('@wellmorph/core/pipeline/bake');
    const { bake } = await import('@wellmorph/core/pipeline/bake-finish');
    const { formAsset } = await import('@wellmorph/core/pipeline/form');
    const { encodeParts } = await import('@wellmorph/core/pipeline/bundle');
    const { composeAsset } = await import('@wellmorph/core/pipeline/surface');
    const { fromLibrary } = await import('@wellmorph/core/surface/library');
    const { runSurface } = await import('@/stages/surface/run');
    const brass = fromLibrary('polished-brass', 'brass');
    const piece = smallPiece('Bytes', 31, { materials: [brass] });
    const document = { ...piece, parts: piece.parts.map((p) => ({ ...p, material: 'brass' })) };
    const s = page.open(await assets.createAsset(document));
    await opened(s);
    expect(await runSurface(s)).toBe(true);
    const onPage = await Promise.all((['form', 'unwrap', 'bake', 'surface'] as const).map((k) => page.results.named(nameOf(document, k))));
    // The same in this process, on one thread, as the server and the command line do it.
    const bare = unlabelled(document);
    const none = () => {
      throw new Error('a recipe needs no stored mesh');
    };
    const formed = formAndInspect(document, none, new MeshCache(), {});
    const laid = unwrap(formed.result.parts, unwrapSettings(bare)).parts;
    const baked = await bake(laid, formAsset(bare, 'high', none).parts, aboutParts(bare), bakeSettings(bare), () => 0);
    const set = composeAsset(bare, laid, baked.files, 128, () => 0);
    const hash = (b: Uint8Array | undefined) => (b ? keepBlob(b, 'png') : Promise.resolve(undefined));
    expect(onPage[0]?.blobs.parts).toBe(await hash(formed.parts));
    expect(onPage[1]?.blobs.parts).toBe(await hash(encodeParts(laid)));
    expect(onPage[2]?.blobs).toMatchObject({
      normal: await hash(baked.files.normal),
      occlusion: await hash(baked.files.occlusion),
      curvature: await hash(baked.files.curvature),
    });
    expect(onPage[3]?.blobs).toMatchObject({ baseColour: await hash(set.files.baseColour), orm: await hash(set.files.orm) });
    expect(onPage[0]?.figures).toEqual(JSON.parse(JSON.stringify(formed.figures)));
  }, 120_000);
});
