import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { AssetSession } from '@/session/session';
import type { Workbench } from '@/session/workbench';
import { STATIONS } from '@/shared/stations';
import { ask, type Bench, formed, openBench, stored } from '../../test/bench';
import { smallPiece } from '../../test/pieces';
import type { Card } from './workshop';

/** What the workshop says of a piece is what its sheet says, made of the same results by the same rules. */
let bench: Bench;
let page: Workbench;
const load = async () => ({
  ...(await import('./db/assets')),
  ...(await import('./db/results')),
  ...(await import('@/session/state')),
  ...(await import('@/session/statuses')),
  ...(await import('@/stages/unwrap/run')),
  ...(await import('@/stages/form/look')),
});
let run: Awaited<ReturnType<typeof load>>;
let seed = 500;

beforeAll(async () => {
  bench = await openBench();
  run = await load();
});
afterAll(() => bench.close());
beforeEach(async () => {
  await page?.close();
  page = await bench.page();
});

async function card(id: string): Promise<Card> {
  const list = (await (await ask('/api/assets')).json()) as Card[];
  return list.find((c) => c.id === id) as Card;
}
async function open(change = {}): Promise<AssetSession> {
  const s = page.open(await run.createAsset(smallPiece('Piece', seed++, change)));
  await formed(s);
  return s;
}
/** Both say the same, station by station, once what is shown is stored as well. */
async function agree(s: AssetSession): Promise<Card> {
  const names = ['form', 'findings'].map((kind) => nameOf(s.document as AssetDocument, kind as Kept));
  for (const name of names) while (!(await run.resultNamed(name))) await new Promise((go) => setTimeout(go, 10));
  const c = await card(s.id);
  const sheet = run.stationStatuses(s.state);
  for (const { id } of STATIONS) expect([id, c.stages[id]]).toEqual([id, sheet?.[id]]);
  return c;
}

describe('a card of the workshop', () => {
  it('of a piece that nobody opened yet says its brief and nothing else', async () => {
    const c = await card(await run.createAsset(smallPiece('Unopened', seed++)));
    expect([c.name, c.triangles, c.sizeMm, c.density, c.worst, c.findings]).toEqual(['Unopened', null, null, null, null, 0]);
    expect(c.triangleLimit).toBeGreaterThan(0);
    expect(c.stages).toMatchObject({ brief: 'ok', form: 'none', unwrap: 'none', bake: 'none', surface: 'none', render: 'none' });
  });

  it('says what was measured once it is formed and laid out, as the sheet does', async () => {
    const s = await open();
    const c = await agree(s);
    expect(c.triangles).toBe(s.state.form?.ledger.triangles);
    expect(c.sizeMm).toEqual(s.state.form?.ledger.sizeMm);
    await run.runUnwrap(s);
    expect(run.isFresh(s.document, s.state.unwrap, 'unwrap')).toBe(true);
    const laid = await agree(s);
    expect(laid.density).toBe(s.state.unwrap?.figures.density);
    expect(laid.stages.unwrap).not.toBe('stale');
  });

  it('shows a layout as stale after a change, and as it was after undo', async () => {
    const s = await open();
    await run.runUnwrap(s);
    const before = await agree(s);
    s.dispatch({ type: 'part.set', part: 'cup', patch: { move: [0, 3, 0] } });
    await stored(s);
    await formed(s);
    expect((await agree(s)).stages.unwrap).toBe('stale');
    await s.stepHistory('undo');
    await stored(s);
    await formed(s);
    expect((await agree(s)).stages).toEqual(before.stages);
  });

  it('names its worst finding and how many there are, and none that was waived', async () => {
    const s = await open({ parts: smallPiece('x', 1).parts.map((p) => ({ ...p, material: null })) });
    const open1 = await agree(s);
    const found = s.state.findings?.findings.filter((f) => !f.waived && f.severity !== 'information') ?? [];
    expect(open1.findings).toBe(found.length);
    expect(open1.worst).not.toBeNull();
    for (const f of found)
      s.dispatch({
        type: 'waive',
        waiver: { finding: f.id, reason: 'meant so', value: f.value, ...(f.covers && { covers: [...f.covers] }) },
      });
    await stored(s);
    const waived = await agree(s);
    expect([waived.findings, waived.worst]).toEqual([0, null]);
    expect(waived.stages.form).toBe('ok');
  });

  it('keeps lengths in mm, and says in which unit they are read', async () => {
    const s = await open();
    const { sizeMm } = await card(s.id);
    s.dispatch({ type: 'brief.set', patch: { unit: 'in' } });
    await stored(s);
    const c = await agree(s);
    expect([c.unit, c.sizeMm]).toEqual(['in', sizeMm]);
    // The unit is of the page alone: nothing was made anew.
    expect(run.isFresh(s.document, s.state.form, 'form')).toBe(true);
  });

  it('an empty piece is not formed, on the card as on the sheet', async () => {
    const s = await open({ parts: [], form: { counts: {}, locks: {}, highToleranceMm: 0.3 } });
    const c = await agree(s);
    expect([c.sizeMm, c.stages.form]).toEqual([null, 'none']);
  });
});
