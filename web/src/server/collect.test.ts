import 'reflect-metadata';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { random } from '@wellmorph/core/maths/random';
import { type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { afterAll, describe, expect, it } from 'vitest';
import { smallPiece } from '../../test/pieces';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-collect-'));
process.env.WELLMORPH_DATA = dir;
const { assetState, createAsset, editAsset, stepHistory } = await import('./db/assets');
const { closeDatabase, database } = await import('./db/client');
const { keepBlob, readBlob } = await import('./blobs/store');
const { collect, storedSizes } = await import('./blobs/collect');
const { keepResult, resultNamed } = await import('./db/results');
const { addTrial } = await import('./db/trials');
const { addJob } = await import('./db/jobs');
const { leases } = await import('./db/schema');

afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

const DAYS = 24 * 3600 * 1000;
let n = 0;
const file = () => keepBlob(new TextEncoder().encode(`file ${n++}`), 'parts');
const isThere = async (hash: string) => (await readBlob(hash).catch(() => null)) !== null;
type Document = ReturnType<typeof smallPiece>;
async function result(document: Document, kind: Kept, inputs: (string | null)[] = []): Promise<{ name: string; parts: string }> {
  const parts = await file();
  const kept = await keepResult({ name: nameOf(document, kind), stage: kind, inputs, figures: {}, blobs: { parts } });
  return { name: kept.name, parts: kept.blobs.parts };
}

describe('what nothing refers to', () => {
  it('goes a day after it was last handed in, and not before; its file with it', async () => {
    const hash = await file();
    expect((await collect()).files).toBe(0);
    expect((await collect(Date.now() + 0.9 * DAYS)).files).toBe(0);
    expect(await isThere(hash)).toBe(true);
    const gone = await collect(Date.now() + 1.1 * DAYS);
    expect([gone.files, gone.bytes]).toEqual([1, `file ${n - 1}`.length]);
    expect(await isThere(hash)).toBe(false);
    expect(existsSync(join(dir, 'blobs', hash.slice(0, 2), hash))).toBe(false);
  });
  it('stays where it is leased, and where a result, a trial, a job or a state that undo reaches names it', async () => {
    const id = await createAsset(smallPiece('Kept', 1));
    const states = [(await assetState(id)).document];
    for (const padding of [3, 4, 5]) {
      await editAsset(id, states.length, { type: 'unwrap.set', patch: { padding } });
      states.push((await assetState(id)).document);
    }
    await stepHistory(id, 4, 'undo');
    const form = await result(states[0], 'form');
    const layouts = await Promise.all(states.map((d) => result(d, 'unwrap', [form.name])));
    // Of no asset: a trial's, with what it stands on; a job's; nobody's.
    const tried = smallPiece('Tried', 2);
    const base = await result(tried, 'form');
    const attempt = await result(tried, 'unwrap', [base.name, null]);
    await addTrial(id, {
      stage: 'unwrap',
      title: 't',
      settings: {},
      figures: {},
      milliseconds: 1,
      thumbnail: await file(),
      resultName: attempt.name,
    });
    const queued = smallPiece('Queued', 3);
    const picture = await result(queued, 'render');
    await addJob({ assetId: id, kind: 'render', document: queued, resultName: picture.name, forecastSeconds: null });
    const idle = await result(smallPiece('Nobody’s', 4), 'form');
    const leased = await file();
    await (await database()).insert(leases).values({ blob: leased, owner: 'test', until: new Date(Date.now() + 5 * DAYS) });
    const before = await storedSizes();
    expect(before.idleBytes).toBeGreaterThan(0);
    const gone = await collect(Date.now() + 2 * DAYS);
    expect([gone.results, gone.files]).toEqual([1, 1]);
    for (const kept of [form, ...layouts, base, attempt, picture]) {
      expect(await resultNamed(kept.name)).toBeDefined();
      expect(await isThere(kept.parts)).toBe(true);
    }
    expect(await isThere(leased)).toBe(true);
    expect([await resultNamed(idle.name), await isThere(idle.parts)]).toEqual([undefined, false]);
    expect((await storedSizes()).idleBytes).toBe(0);
    // A change that cuts off what was taken back: nobody can come to that state again.
    await editAsset(id, 5, { type: 'rename', name: 'Cut off' });
    expect((await collect(Date.now() + 2 * DAYS)).results).toBe(1);
    expect(await resultNamed(layouts[3].name)).toBeUndefined();
    expect(await resultNamed(layouts[2].name)).toBeDefined();
  });
  it('is kept while it is being handed in, taken into a result or made part of a piece, however often it is collected meanwhile', async () => {
    const next = random(5);
    const kept: string[] = [];
    let running = true;
    // As if every file were a day and a half old the moment it is there.
    const collecting = (async () => {
      while (running) {
        await collect(Date.now() + 1.5 * DAYS);
        await new Promise((r) => setImmediate(r));
      }
    })();
    try {
      for (let i = 0; i < 40; i++) {
        const document = smallPiece('Race', 100 + i);
        const bytes = new TextEncoder().encode(`race ${i}`);
        const parts = await keepBlob(bytes, 'parts');
        if (next() < 0.5) await keepBlob(bytes, 'parts');
        try {
          await keepResult({ name: nameOf(document, 'form'), stage: 'form', inputs: [], figures: {}, blobs: { parts } });
        } catch (error) {
          // Collected before it was referred to, which a day's grace prevents outside of this test: said, and nothing half kept.
          expect(String(error)).toMatch(/not stored here/);
          expect(await resultNamed(nameOf(document, 'form'))).toBeUndefined();
          continue;
        }
        await createAsset(document);
        kept.push(nameOf(document, 'form'));
      }
    } finally {
      running = false;
      await collecting;
    }
    for (const name of kept) {
      const found = await resultNamed(name);
      // Either both are there, or neither: a result never outlives its files.
      if (found) expect(await isThere(found.blobs.parts)).toBe(true);
    }
    expect(kept.length).toBeGreaterThan(5);
  });
});
