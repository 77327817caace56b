import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { type Bench, openBench, until } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import { type Heard, NewsFeed } from './news';

/** News of the real server, heard by several pages of one browser. */
let bench: Bench;
let assets: typeof import('@/server/db/assets');
beforeAll(async () => {
  bench = await openBench();
  assets = await import('@/server/db/assets');
});
afterAll(() => bench.close());

const pages: { feed: NewsFeed; heard: Heard[] }[] = [];
function page() {
  const heard: Heard[] = [];
  const feed = new NewsFeed((news) => heard.push(news));
  feed.start();
  pages.push({ feed, heard });
  return { feed, heard };
}
afterEach(() => {
  for (const { feed } of pages.splice(0)) feed.close();
  bench.offline = false;
});
const listening = async (heard: Heard[]) => until(() => heard.some((h) => h.kind === 'again'), 'the stream to be open');
/** How many streams the server has open. */
const streams = (): number => (globalThis as { wellmorphListeners?: Set<unknown> }).wellmorphListeners?.size ?? 0;
/** Changes something until it is heard: a stream that is just being opened may miss the first. */
async function changed(heard: Heard[]): Promise<string> {
  const id = await assets.createAsset(smallPiece('News', pages.length));
  let version = 1;
  const mine = (h: Heard) => h.kind === 'asset' && h.asset === id;
  for (let i = 0; i < 50 && !heard.some(mine); i++) {
    ({ version } = await assets.editAsset(id, version, { type: 'rename', name: `News ${i}` }));
    await new Promise((r) => setTimeout(r, 20));
  }
  await until(() => heard.some(mine), 'the news', 10);
  return id;
}

describe('the news', () => {
  it('come to every page of a browser by one stream', async () => {
    const before = streams();
    const list = [page(), page(), page()];
    await listening(list[0].heard);
    const id = await changed(list[0].heard);
    for (const { heard } of list) await until(() => heard.some((h) => h.kind === 'asset' && h.asset === id), 'the news on every page', 10);
    expect(streams() - before).toBe(1);
  });
  it('another page takes over when the one that listens goes, and asks again for what may have been missed', async () => {
    const [first, second] = [page(), page()];
    await changed(first.heard);
    second.heard.length = 0;
    first.feed.close();
    await listening(second.heard);
    await changed(second.heard);
    const known = first.heard.length;
    await changed(second.heard);
    expect(first.heard.length).toBe(known);
  });
  it('after a break everything is asked for again, once for each break', async () => {
    bench.offline = true;
    const { heard } = page();
    await new Promise((r) => setTimeout(r, 150));
    // Whoever begins to listen knows nothing yet; the tries that fail tell nothing.
    expect(heard).toEqual([{ kind: 'again' }]);
    bench.offline = false;
    await until(() => heard.length > 1, 'the stream to be open', 10);
    await changed(heard);
    expect(heard.filter((h) => h.kind === 'again')).toHaveLength(2);
  });
  it('a page that goes before it was its turn never listens', async () => {
    const [first, second] = [page(), page()];
    await changed(first.heard);
    second.feed.close();
    const before = streams();
    first.feed.close();
    await new Promise((r) => setTimeout(r, 150));
    expect(streams()).toBe(before - 1);
  });
});
