import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type Bench, openBench, until } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import { get } from './api';
import { fold } from './fold';
import { Lane, type Server } from './lane';
import { LaneStore, type Refused } from './lane-store';

/** One lane by itself, on real routes and a real database; what the server can answer, one after the other. */
let bench: Bench;
let assets: typeof import('@/server/db/assets');
beforeAll(async () => {
  bench = await openBench();
  assets = await import('@/server/db/assets');
});
afterAll(() => bench.close());

interface Shown {
  lane: Lane;
  store: LaneStore;
  names: string[];
  saving: string[];
  refused: readonly Refused[];
  said: string[];
}
const open: Shown[] = [];
let count = 0;
async function start(id: string, database: string, page = `page-${count++}-of-lanes`): Promise<Shown> {
  const store = new LaneStore(page, database);
  const shown: Shown = { store, names: [], saving: [], refused: [], said: [], lane: null as unknown as Lane };
  const read = (): Promise<Server> => get<Server>(`/api/assets/${id}`);
  shown.lane = new Lane(id, store, {
    shown: (d) => shown.names.push(d.name),
    saving: (s) => shown.saving.push(s),
    refused: (list) => {
      shown.refused = [...list];
    },
    said: (sentence) => shown.said.push(sentence),
    read,
  });
  shown.lane.take(await read());
  open.push(shown);
  return shown;
}
/** The page goes as pages go: without a word. */
async function end(shown: Shown): Promise<void> {
  shown.lane.close();
  await shown.store.close();
}

const rename = (name: string) => ({ kind: 'edit', command: { type: 'rename', name } }) as const;
const closest = (closestMm: number) => ({ kind: 'edit', command: { type: 'brief.set', patch: { closestMm } } as Command }) as const;
const stored = async (id: string) => (await assets.assetState(id)).document;
const words = async (id: string) => (await assets.assetState(id)).history.map((h) => h.words);

let id: string;
let database: string;
beforeEach(async () => {
  bench.offline = false;
  bench.answer = null;
  id = await assets.createAsset(smallPiece('Lane', count));
  database = `lanes ${count}`;
});
afterEach(async () => {
  for (const s of open.splice(0)) await end(s);
});

describe('a lane', () => {
  it('shows at once, sends in order, and says of each what came of it', async () => {
    const { lane, names, saving } = await start(id, database);
    const asked = ['A', 'B', 'C'].map((n) => lane.ask(rename(n)));
    expect([lane.document?.name, lane.unsent, lane.version]).toEqual(['C', 3, 1]);
    expect(await Promise.all(asked)).toEqual(['A', 'B', 'C'].map((n) => ({ done: true, words: `named it “${n}”` })));
    await lane.flushed();
    expect([(await stored(id)).name, lane.version, lane.unsent]).toEqual(['C', 4, 0]);
    // Never back to an earlier name while the later ones wait.
    expect(names.filter((n, i) => n !== names[i - 1])).toEqual(['Lane', 'A', 'B', 'C']);
    await until(() => saving.at(-1) === 'saved', 'that it is stored', 10);
  });
  it('what can’t be applied here is said here, and nothing is asked', async () => {
    const { lane } = await start(id, database);
    const before = bench.asked.length;
    expect(() => lane.ask({ kind: 'edit', command: { type: 'part.remove', part: 'nobody' } })).toThrow();
    expect([lane.unsent, bench.asked.length]).toEqual([0, before]);
  });
  it.each([500, 502, 503, 429])('an answer of %i decides nothing: it is sent again, and done once', async (status) => {
    const { lane, saving, refused } = await start(id, database);
    let fails = 2;
    bench.answer = (path) => (path.endsWith('/edits') && fails-- > 0 ? new Response('no JSON at all', { status }) : null);
    const outcome = lane.ask(rename('Kept'));
    await until(() => saving.includes('unsaved'), 'that it is not stored');
    lane.poke();
    expect(await outcome).toMatchObject({ done: true });
    expect([refused, await words(id)]).toEqual([[], ['named it “Kept”']]);
  });
  it('a success whose words are cut off is asked again, and done once', async () => {
    const { lane } = await start(id, database);
    const real = globalThis.fetch;
    let cut = 1;
    globalThis.fetch = async (...given) => {
      const answer = await real(...given);
      return String(given[0]).endsWith('/edits') && cut-- > 0 ? new Response('{"vers', { status: 200 }) : answer;
    };
    const outcome = lane.ask(rename('Once'));
    await until(() => cut <= 0, 'the first answer');
    lane.poke();
    expect(await outcome).toMatchObject({ done: true });
    globalThis.fetch = real;
    expect([await words(id), lane.version]).toEqual([['named it “Once”'], 2]);
  });
  it('what the server calls wrong is taken back, said, and not kept; what follows goes on', async () => {
    const { lane, said, refused } = await start(id, database);
    let wrongs = 1;
    bench.answer = (path) =>
      path.endsWith('/edits') && wrongs-- > 0
        ? Response.json({ code: 'request/shape', message: 'That is no name.' }, { status: 400 })
        : null;
    const [wrong, right] = [lane.ask(rename('Wrong')), lane.ask(closest(700))];
    expect(await wrong).toEqual({ done: false, why: 'That is no name.', code: 'request/shape' });
    expect(await right).toMatchObject({ done: true });
    await lane.flushed();
    expect([lane.document?.name, lane.document?.brief.closestMm, said, refused]).toEqual(['Lane', 700, ['That is no name.'], []]);
  });
  it('what can’t be done as things stand is kept, and can be asked again or let go', async () => {
    const shown = await start(id, database);
    const { lane } = shown;
    bench.answer = (path) => (path.endsWith('/edits') ? Response.json({ code: 'x/no', message: 'Not now.' }, { status: 422 }) : null);
    await lane.ask(rename('Later'));
    await lane.ask(closest(800));
    expect(shown.refused.map((r) => r.why)).toEqual(['Not now.', 'Not now.']);
    bench.answer = null;
    const [first, second] = shown.refused;
    expect(await lane.retry(first)).toMatchObject({ done: true });
    expect(lane.forget(second)).toBe(true);
    // Twice is not twice.
    expect([lane.retry(first), lane.forget(second)]).toEqual([null, false]);
    await lane.flushed();
    expect([(await stored(id)).name, (await stored(id)).brief.closestMm, shown.refused]).toEqual(['Later', 600, []]);
  });
  it('an older word of the server never takes the place of a newer one', async () => {
    const { lane, names } = await start(id, database);
    const old = await get<Server>(`/api/assets/${id}`);
    await lane.ask(rename('New'));
    await lane.flushed();
    lane.take(old);
    expect([lane.document?.name, lane.version, names.at(-1)]).toEqual(['New', 2, 'New']);
  });
});

describe('somebody else was first', () => {
  it('with something else: both stand, without a question', async () => {
    const { lane, said } = await start(id, database);
    await assets.editAsset(id, 1, { type: 'brief.set', patch: { closestMm: 900 } });
    expect(await lane.ask(rename('Mine'))).toMatchObject({ done: true });
    await lane.flushed();
    expect([lane.document?.name, lane.document?.brief.closestMm, said]).toEqual(['Mine', 900, []]);
  });
  it('with the same: theirs stands, mine is said and kept; what of mine meets nothing goes on', async () => {
    const shown = await start(id, database);
    await assets.editAsset(id, 1, { type: 'rename', name: 'Theirs' });
    const [mine, other] = [shown.lane.ask(rename('Mine')), shown.lane.ask(closest(500))];
    expect(await mine).toMatchObject({ done: false, code: 'asset/stale' });
    expect(await other).toMatchObject({ done: true });
    await shown.lane.flushed();
    expect([shown.lane.document?.name, shown.lane.document?.brief.closestMm]).toEqual(['Theirs', 500]);
    expect(shown.said.join()).toContain('named it “Theirs”');
    expect(await shown.lane.retry(shown.refused[0])).toMatchObject({ done: true });
    expect((await stored(id)).name).toBe('Mine');
  });
  it('and this is known before mine could be sent: it is still said, and theirs is not written over', async () => {
    const shown = await start(id, database);
    bench.answer = (path) => (path.endsWith('/edits') ? new Response(null, { status: 503 }) : null);
    const [mine, other] = [shown.lane.ask(rename('Mine')), shown.lane.ask(closest(500))];
    await until(() => shown.saving.includes('unsaved'), 'that it is not stored');
    await assets.editAsset(id, 1, { type: 'rename', name: 'Theirs' });
    shown.lane.take(await get<Server>(`/api/assets/${id}`));
    bench.answer = null;
    shown.lane.poke();
    expect(await mine).toMatchObject({ done: false, code: 'asset/stale' });
    expect(await other).toMatchObject({ done: true });
    expect([(await stored(id)).name, (await stored(id)).brief.closestMm]).toEqual(['Theirs', 500]);
  });
  it('with an undo: what it takes back counts as changed', async () => {
    await assets.editAsset(id, 1, { type: 'rename', name: 'Before' });
    const shown = await start(id, database);
    await assets.stepHistory(id, 2, 'undo');
    expect(await shown.lane.ask(rename('Mine'))).toMatchObject({ done: false, code: 'asset/stale' });
    expect(shown.said.join()).toContain('took back');
    expect([(await stored(id)).name, shown.refused.length]).toEqual(['Lane', 1]);
  });
});

describe('a page that is gone', () => {
  it('leaves what it had not sent to the next, before that one’s own, in order', async () => {
    const first = await start(id, database);
    bench.offline = true;
    for (const n of ['A', 'B']) void first.lane.ask(rename(n));
    await until(() => first.saving.includes('unsaved'), 'that it is not stored');
    await end(first);
    bench.offline = false;
    const second = await start(id, database);
    expect(await second.store.orphaned()).toEqual([id]);
    await second.lane.adopt();
    const own = second.lane.ask(closest(650));
    expect(await own).toMatchObject({ done: true });
    expect(await words(id)).toEqual(['named it “A”', 'named it “B”', 'set the brief: closest view']);
    expect(await second.store.orphaned()).toEqual([]);
  });
  it('and what was changed by others while nobody was there is not written over', async () => {
    const first = await start(id, database);
    bench.offline = true;
    void first.lane.ask(rename('Mine'));
    void first.lane.ask(closest(444));
    await until(() => first.saving.includes('unsaved'), 'that it is not stored');
    await end(first);
    bench.offline = false;
    await assets.editAsset(id, 1, { type: 'rename', name: 'Theirs' });
    const second = await start(id, database);
    await second.lane.adopt();
    await second.lane.flushed();
    expect([(await stored(id)).name, (await stored(id)).brief.closestMm]).toEqual(['Theirs', 444]);
    expect(second.refused.map((r) => r.wish)).toEqual([rename('Mine')]);
  });
  it('what it had refused goes over as well; a page that lives keeps its own', async () => {
    const first = await start(id, database);
    bench.answer = (path) => (path.endsWith('/edits') ? Response.json({ code: 'x/no', message: 'Not now.' }, { status: 422 }) : null);
    await first.lane.ask(rename('Later'));
    const second = await start(id, database);
    await second.lane.adopt();
    expect([second.refused, first.refused.length]).toEqual([[], 1]);
    await end(first);
    await second.lane.adopt();
    expect(second.refused.map((r) => [r.why, r.wish])).toEqual([['Not now.', rename('Later')]]);
  });
});

describe('what waits, laid over what is stored', () => {
  const base = smallPiece('Base', 1);
  const names = (list: AssetDocument[]) => list.map((d) => d.name);
  const entries = (...wishes: Parameters<Lane['ask']>[0][]) => wishes.map((wish, seq) => ({ clientId: 'somebody-1', seq, wish }));

  it('undo and redo go through what waits; beyond it the server will say', () => {
    const all = entries(rename('A'), rename('B'), { kind: 'undo' }, { kind: 'undo' }, { kind: 'undo' }, { kind: 'redo' }, { kind: 'redo' });
    expect(names(fold(base, all))).toEqual(['A', 'B', 'A', 'Base', 'Base', 'A', 'B']);
  });
  it('a new change cuts off what was taken back; one that can’t be applied changes nothing', () => {
    const gone: Command = { type: 'part.remove', part: 'nobody' };
    const all = entries(rename('A'), { kind: 'undo' }, rename('C'), { kind: 'redo' }, { kind: 'edit', command: gone }, { kind: 'undo' });
    expect(names(fold(base, all))).toEqual(['A', 'Base', 'C', 'C', 'C', 'Base']);
  });
});
