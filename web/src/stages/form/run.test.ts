import { briefFor } from '@wellmorph/core/brief/brief';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { readModel } from '@wellmorph/core/io/read';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { SALVAGED_MTL, salvagedGoods } from '@wellmorph/demo/salvage';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { AssetSession } from '@/session/session';
import type { Workbench } from '@/session/workbench';
import { type Bench, formed, openBench, stored as saved } from '../../../test/bench';
import { smallPiece } from '../../../test/pieces';

/** What the Form stage sets going: mending, simplifying, the high mesh; with changes made while it runs. */
let bench: Bench;
let page: Workbench;
const load = async () => ({
  ...(await import('@/server/db/assets')),
  ...(await import('@/session/state')),
  ...(await import('./run')),
  ...(await import('./look')),
});
let run: Awaited<ReturnType<typeof load>>;
let seed = 900;

beforeAll(async () => {
  bench = await openBench();
  run = await load();
});
afterAll(() => bench.close());
beforeEach(async () => {
  await page?.close();
  page = await bench.page();
  heard = [];
  page.store.subscribe((s) => heard.push(...s.notices.map((n) => n.text).filter((text) => !heard.includes(text))));
});

/** Everything that was told: on a slow machine a notice is gone before the form is made. */
let heard: string[] = [];
const said = (words: RegExp) => heard.some((text) => words.test(text));
const found = (s: AssetSession, kind: Finding['kind'], part: string) =>
  s.state.findings?.findings.find((f) => f.kind === kind && f.partName === part);
const blobOf = (s: AssetSession, name: string) => {
  const shape = s.document?.parts.find((p) => p.name === name)?.shape;
  return shape?.kind === 'mesh' ? shape.low.blob : undefined;
};

/** Open boxes in a row; the rim of the last is bent, so that it can't be filled. */
function buckets(n: number): string {
  const lines: string[] = [];
  for (let i = 0; i < n; i++) {
    lines.push(`o Bucket ${i + 1}`);
    for (const [x, y, z] of [
      [0, 0, 0],
      [20, 0, 0],
      [20, 0, 20],
      [0, 0, 20],
      [0, 20, 0],
      [20, i === n - 1 ? 34 : 20, 0],
      [20, 20, 20],
      [0, 20, 20],
    ])
      lines.push(`v ${x + 40 * i} ${y} ${z}`);
    for (const f of ['1 2 3 4', '1 5 6 2', '2 6 7 3', '3 7 8 4', '4 8 5 1'])
      lines.push(
        `f ${f
          .split(' ')
          .map((v) => Number(v) + 8 * i)
          .join(' ')}`,
      );
  }
  return `${lines.join('\n')}\n`;
}

/** The goods that were washed ashore, as they are when they were imported. */
const openGoods = () => openText(salvagedGoods());
async function openText(obj: string): Promise<AssetSession> {
  const { keepBlob } = await import('@/server/blobs/store');
  const bytes = (text: string) => new TextEncoder().encode(text);
  const model = await readModel('goods.obj', bytes(obj), {
    unit: 'mm',
    companions: { 'salvaged-goods.mtl': bytes(SALVAGED_MTL) },
  });
  const kept = new Map<unknown, string>();
  for (const p of model.parts) kept.set(p.mesh, await keepBlob(encodeMesh(p.mesh), 'mesh'));
  const document = documentFromModel(
    `Goods ${seed++}`,
    model,
    { fileName: 'goods.obj', licence: 'own', note: '' },
    (m) => kept.get(m) as string,
  );
  const s = page.open(await run.createAsset({ ...document, brief: { ...document.brief, limits: briefFor('game').limits } }));
  await formed(s);
  return s;
}
/** A finding with a fix, among those that are there. */
function withFix(s: AssetSession, fix: string): Finding {
  const f = s.state.findings?.findings.find((x) => x.fixes.includes(fix as never));
  if (!f) throw new Error(`nothing is found that ${fix} would mend`);
  return f;
}

describe('mending what was found', () => {
  it('is one change that is stored, leaves nothing to mend there, and can be taken back to the same mesh', async () => {
    const s = await openGoods();
    const finding = withFix(s, 'weld');
    const before = blobOf(s, finding.partName);
    await run.applyFixTo(s, [finding], 'weld');
    await saved(s);
    await formed(s);
    expect(blobOf(s, finding.partName)).not.toBe(before);
    expect(found(s, finding.kind, finding.partName)).toBeUndefined();
    expect((await run.assetState(s.id)).document.parts).toEqual(s.document?.parts);
    await s.stepHistory('undo');
    await saved(s);
    await formed(s);
    expect(blobOf(s, finding.partName)).toBe(before);
    expect(found(s, finding.kind, finding.partName)).toBeDefined();
  });

  it('is let be, with a sentence, where the mesh was changed while it ran', async () => {
    const s = await openGoods();
    const finding = withFix(s, 'weld');
    const mending = run.applyFixTo(s, [finding], 'weld');
    // Meanwhile somebody else puts another mesh there.
    const other = s.document?.parts.find((p) => p.name !== finding.partName && p.shape.kind === 'mesh')?.shape;
    if (other?.kind !== 'mesh' || !finding.part) throw new Error('the goods are several meshes');
    s.dispatch({ type: 'mesh.replace', part: finding.part, low: other.low, what: 'put another there' });
    await mending;
    await saved(s);
    expect(said(/was changed while it was being mended; look at the finding again/)).toBe(true);
    expect(blobOf(s, finding.partName)).toBe(other.low.blob);
  });

  it('is let be where the part is gone by then, and stopping it changes nothing', async () => {
    const s = await openGoods();
    const finding = withFix(s, 'weld');
    const mending = run.applyFixTo(s, [finding], 'weld');
    s.dispatch({ type: 'part.remove', part: finding.part as string });
    await mending;
    await saved(s);
    expect(s.document?.parts.some((p) => p.id === finding.part)).toBe(false);
    expect(said(/was changed while it was being mended/)).toBe(true);

    await s.stepHistory('undo');
    await saved(s);
    await formed(s);
    const again = withFix(s, 'weld');
    const before = s.document;
    const stopped = run.applyFixTo(s, [again], 'weld');
    s.state.job?.cancel();
    await stopped;
    expect(said(/Stopped, as asked/)).toBe(true);
    expect(s.document).toEqual(before);
  });
});

describe('mending findings of one kind on many parts', () => {
  it('is one change; what can’t be mended is said and left, and one undo takes all of it back', async () => {
    const s = await openText(buckets(5));
    const rims = () => s.state.findings?.findings.filter((f) => f.kind === 'open-rim') ?? [];
    expect(rims()).toHaveLength(5);
    const before = s.document?.parts;
    await run.applyFixTo(s, rims(), 'fill-rims');
    await saved(s);
    await formed(s);
    expect(rims().map((f) => f.partName)).toEqual(['Bucket 5']);
    expect(said(/^1 of 5 could not be mended: No rim lies in a plane/)).toBe(true);
    expect((await run.assetState(s.id)).document.parts).toEqual(s.document?.parts);
    expect(new Set(s.document?.parts.map((p) => (p.shape.kind === 'mesh' ? p.shape.low.blob : '')))).toHaveLength(5);
    await s.stepHistory('undo');
    await saved(s);
    await formed(s);
    expect(s.document?.parts).toEqual(before);
    expect(rims()).toHaveLength(5);
  });

  it('lets be what was changed meanwhile, and mends the others', async () => {
    const s = await openText(buckets(4));
    const rims = (s.state.findings?.findings ?? []).filter((f) => f.kind === 'open-rim');
    const mending = run.applyFixTo(s, rims, 'fill-rims');
    s.dispatch({ type: 'part.remove', part: rims[0].part as string });
    await mending;
    await saved(s);
    await formed(s);
    expect(said(/was changed while it was being mended/)).toBe(true);
    const left = (s.state.findings?.findings ?? []).filter((f) => f.kind === 'open-rim').map((f) => f.partName);
    expect([s.document?.parts.length, left]).toEqual([3, ['Bucket 4']]);
  });
});

describe('simplifying to a limit', () => {
  it('is a step of each mesh that can be changed, keeps the limit, and says how far the worst is off', async () => {
    const s = await openGoods();
    const all = s.state.form?.ledger.triangles as number;
    const limit = Math.round(all * 0.5);
    await run.simplifyTo(s, limit);
    await saved(s);
    await formed(s);
    expect(s.state.form?.ledger.triangles).toBeLessThanOrEqual(limit);
    expect(said(/^Simplified; .+ is at most [\d.]+\u00a0mm off\.$/)).toBe(true);
    const steps = () => s.document?.parts.flatMap((p) => p.shape.steps?.filter((x) => x.kind === 'simplify') ?? []) ?? [];
    const first = steps().length;
    expect(first).toBeGreaterThan(0);
    // Once more, farther down: the steps that are there are changed, none is added beside them.
    await run.simplifyTo(s, Math.round(all * 0.35));
    await saved(s);
    const names = s.document?.parts.map((p) => p.shape.steps?.filter((x) => x.kind === 'simplify').length ?? 0) ?? [];
    expect(Math.max(...names)).toBe(1);
  });
});

describe('the high mesh on the plate', () => {
  it('changed while it is formed, the one of before never takes the place of the one that is', async () => {
    const s = page.open(await run.createAsset(smallPiece('Cup', seed++)));
    await formed(s);
    const first = run.showHigh(s);
    s.dispatch({ type: 'part.set', part: 'cup', patch: { move: [0, 11, 0] } });
    const second = run.showHigh(s);
    // The same that is under way is not begun again.
    const third = run.showHigh(s);
    await Promise.all([first, second, third]);
    const cup = s.state.high?.gpu.find((g) => g.id === 'cup');
    expect(cup?.placements[0][13]).toBe(11);
    const shown = s.state.high;
    await run.showHigh(s);
    expect(s.state.high).toBe(shown);
  });
});

describe('a view that is measured', () => {
  it('is the one asked for last, whichever ends last', async () => {
    const s = page.open(await run.createAsset(smallPiece('Cup', seed++)));
    await formed(s);
    await Promise.all([run.showView(s, 'thickness'), run.showView(s, 'curvature'), run.showView(s, 'chord')]);
    expect(s.state.view?.view.kind).toBe('chord');
    expect(page.store.getState().notices.filter((n) => n.level === 'error')).toEqual([]);
    const shown = s.state.view;
    await run.showView(s, 'chord');
    expect(s.state.view).toBe(shown);
  });
});
