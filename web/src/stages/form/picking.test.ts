import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { AssetSession } from '@/session/session';
import type { Workbench } from '@/session/workbench';
import { stepOf } from '../../../../core/test/recipes';
import { type Bench, openBench, until } from '../../../test/bench';
import { withValue } from './field-form';
import { otherHalf, partLike } from './halves';
import { withFormula } from './step-fields';

let bench: Bench;
let page: Workbench;
let session: AssetSession;
const load = async () => ({
  ...(await import('@/session/state')),
  ...(await import('./picking')),
  ...(await import('./run')),
});
let store: Awaited<ReturnType<typeof load>>;
let assets: typeof import('@/server/db/assets');
const state = () => session.state;
const settled = () => until(() => state().saving === 'saved' && !state().forming, 'everything to be saved');
const part = () => state().document?.parts[0];
const found = () => state().form?.marks[0]?.regions[0];
const region = { id: 'r', name: 'Label', weight: 1, rules: [] };

beforeAll(async () => {
  bench = await openBench();
  page = await bench.page();
  store = await load();
  assets = await import('@/server/db/assets');
});
afterAll(() => bench.close());

/** A turned part of 24 sides with a wall, open on the sheet. */
async function open(): Promise<void> {
  const document = {
    ...newDocument('Bollard', briefFor('game')),
    form: { counts: {}, locks: { 'body.sides': 24 }, highToleranceMm: 0.05 },
    parts: [
      {
        id: 'p',
        name: 'Bollard',
        role: 'body' as const,
        material: null,
        move: [0, 0, 0] as [number, number, number],
        turnDegrees: [0, 0, 0] as [number, number, number],
        shape: { kind: 'recipe' as const, steps: [stepOf('turned', { id: 'body' })] },
        weight: 1,
        declaredOpen: false,
      },
    ],
  };
  const id = await assets.createAsset(document);
  session = page.open(id);
  await until(() => state().form !== null && state().findings !== null && !state().forming, 'the form');
}

/** A face of the wall: the first band of faces after the foot's. */
const WALL_FACE = 30;

describe('picking on the piece', () => {
  beforeEach(async () => {
    await open();
    session.dispatch({ type: 'region.set', part: 'p', region });
    await settled();
  });
  it('one face, then its loop, then one taken away: kept as places, found again after other counts', async () => {
    store.setPicking(session, { part: 'p', what: 'r', reach: 'face', remove: false });
    await store.pickAt(session, 'p', WALL_FACE, [0, 0, 0]);
    await settled();
    expect(found()?.faces).toEqual([WALL_FACE]);
    store.setPicking(session, { reach: 'round' });
    await store.pickAt(session, 'p', WALL_FACE, [0, 0, 0]);
    await settled();
    expect(found()?.faces).toHaveLength(24);
    const rule = part()?.regions?.[0].rules;
    expect(rule).toHaveLength(1);
    expect(rule?.[0].rule).toMatchObject({ kind: 'picked', places: [{ u: [0, 1] }] });
    session.dispatch({ type: 'form.lock', key: 'body.sides', label: 'sides', count: 40 });
    await settled();
    expect(found()?.faces).toHaveLength(40);
    store.setPicking(session, { reach: 'face', remove: true });
    const one = found()?.faces[7] as number;
    await store.pickAt(session, 'p', one, [0, 0, 0]);
    await settled();
    expect(found()?.faces).toHaveLength(39);
    expect(found()?.faces).not.toContain(one);
    expect((await assets.assetState(state().id as string)).document.parts[0].regions).toEqual(part()?.regions);
  });
  it('another part’s face, or nothing being picked, changes nothing', async () => {
    store.stopPicking(session);
    await store.pickAt(session, 'p', WALL_FACE, [0, 0, 0]);
    store.setPicking(session, { part: 'other', what: 'r', reach: 'face' });
    await store.pickAt(session, 'p', WALL_FACE, [0, 0, 0]);
    await settled();
    expect(part()?.regions?.[0].rules).toEqual([]);
  });
  it('a seam is picked by the edge nearest to the place, and taken back by a second click', async () => {
    store.setPicking(session, { part: 'p', what: 'seam', whole: true });
    const gpu = state().form?.gpu[0];
    const t = gpu?.face.indexOf(WALL_FACE) ?? 0;
    const corner = [0, 1, 2].map((k) => gpu?.position[3 * (gpu?.index[3 * t] ?? 0) + k] ?? 0) as [number, number, number];
    // A little above the corner, so that the upright edge is the nearest.
    const place: [number, number, number] = [corner[0], corner[1] + (corner[1] > 15 ? -8 : 8), corner[2]];
    await store.pickAt(session, 'p', WALL_FACE, place);
    await settled();
    expect(part()?.seams).toHaveLength(1);
    expect(part()?.seams?.[0]).toMatchObject({ patch: 'body/s0', constant: 'u', from: 0, to: 1 });
    // Its edges are drawn on the piece: two ends of three numbers each.
    expect((state().form?.gpu[0].seams?.length ?? 0) % 6).toBe(0);
    expect(state().form?.gpu[0].seams?.length).toBeGreaterThan(0);
    await store.pickAt(session, 'p', WALL_FACE, place);
    await settled();
    expect(part()?.seams).toEqual([]);
  });
  it('picks can be undone one by one', async () => {
    store.setPicking(session, { part: 'p', what: 'r', reach: 'face', remove: false });
    await store.pickAt(session, 'p', WALL_FACE, [0, 0, 0]);
    await settled();
    await store.pickAt(session, 'p', WALL_FACE + 2, [0, 0, 0]);
    await settled();
    expect(found()?.faces).toHaveLength(2);
    await session.stepHistory('undo');
    await settled();
    await until(() => found()?.faces.length === 1, 'the first pick alone');
    await session.stepHistory('undo');
    await settled();
    await until(() => found()?.faces.length === 0, 'no pick');
  });
});

describe('what a step is given by picking', () => {
  const stepNamed = (id: string) => part()?.shape.steps?.find((s) => s.id === id) as unknown as Record<string, unknown>;
  beforeEach(open);
  it('edges of a bevel: the first makes it possible, a second click takes one back; the surface keeps its names', async () => {
    session.dispatch({ type: 'step.add', part: 'p', step: stepOf('bevel', { id: 'v', where: 'picked', size: 0.8 }) });
    await settled();
    expect(state().findings?.findings.find((f) => f.id === 'step:v')?.message).toMatch(/No edge is picked/);
    store.setPicking(session, { part: 'p', what: 'edges', step: 'v', wants: 'edges', whole: true });
    const gpu = state().form?.gpu[0];
    const t = gpu?.face.indexOf(WALL_FACE) ?? 0;
    const corner = [0, 1, 2].map((k) => gpu?.position[3 * (gpu?.index[3 * t] ?? 0) + k] ?? 0) as [number, number, number];
    // Near the rim of the wall, half way between two of its corners: the level edge is the nearest.
    const middle: [number, number, number] = [0, 1, 2].map((k) => {
      const all = [0, 1, 2].map((i) => gpu?.position[3 * (gpu?.index[3 * t + i] ?? 0) + k] ?? 0);
      return k === 1 ? corner[1] : (Math.min(...all) + Math.max(...all)) / 2;
    }) as [number, number, number];
    await store.pickAt(session, 'p', WALL_FACE, middle);
    await settled();
    expect(stepNamed('v').edges).toMatchObject([{ patch: 'body/s0', constant: 'v', from: 0, to: 1 }]);
    const result = () => state().form?.steps.find((s) => s.step === 'v');
    expect(result()?.figures[0]).toMatchObject({ label: 'edges', value: 24 });
    expect(state().findings?.findings.filter((f) => f.id === 'step:v')).toEqual([]);
    store.stopPicking(session);
    await store.pickAt(session, 'p', WALL_FACE, middle);
    await settled();
    expect(stepNamed('v').edges).toHaveLength(1);
  });
  it('the place of an engraving: one click, and picking ends', async () => {
    session.dispatch({ type: 'step.add', part: 'p', step: stepOf('engrave', { id: 't', text: 'A' }) });
    await settled();
    store.setPicking(session, { part: 'p', what: 'at', step: 't', wants: 'spot' });
    const gpu = state().form?.gpu[0];
    const t = gpu?.face.indexOf(WALL_FACE) ?? 0;
    const middle = [0, 1, 2].map((k) =>
      [0, 1, 2].reduce((s, i) => s + (gpu?.position[3 * (gpu?.index[3 * t + i] ?? 0) + k] ?? 0) / 3, 0),
    ) as [number, number, number];
    await store.pickAt(session, 'p', WALL_FACE, middle);
    await settled();
    const at = stepNamed('t').at as { patch: string; u: number; v: number };
    expect(at.patch).toBe('body/s0');
    for (const x of [at.u, at.v]) {
      expect(x).toBeGreaterThan(0);
      expect(x).toBeLessThan(1);
    }
    expect(state().picking.what).toBeNull();
    // The typeface can't be fetched here: the step says so, and the piece is formed all the same.
    expect(state().form?.gpu).toHaveLength(1);
    // What was picked for a step isn't taken for a region afterwards.
    store.setPicking(session, { part: 'p', what: 'r' });
    expect(state().picking).toMatchObject({ step: null, wants: null });
    store.stopPicking(session);
  });
});

describe('what a form sets', () => {
  const bar = stepOf('bar');
  it('a value by its path, in lists by id or by place', () => {
    expect(withValue(bar, 'path.b.bend', 12).path[1].bend).toBe(12);
    expect(withValue({ rings: [{ at: 1 }, { at: 2 }] }, 'rings.1.at', 5)).toEqual({ rings: [{ at: 1 }, { at: 5 }] });
    expect(withValue({ a: 1, b: 2 }, 'b', undefined)).toEqual({ a: 1 });
    expect(bar.path[1].bend).toBe(10);
  });
  it('a formula with it, and takes it away again; others stay', () => {
    const one = withFormula(bar, 'radius', 'gap * 2');
    const two = withFormula(one, 'path.b.bend', 'gap');
    expect(two.formulas).toEqual({ radius: 'gap * 2', 'path.b.bend': 'gap' });
    expect(withFormula(two, 'radius', null).formulas).toEqual({ 'path.b.bend': 'gap' });
    expect(withFormula(one, 'radius', null).formulas).toBeUndefined();
    expect(withFormula(two, 'name', undefined).formulas).toEqual(two.formulas);
  });
  it('formulas of points that are gone go with them', () => {
    const two = withFormula(bar, 'path.b.bend', 'gap');
    const shorter = withValue(
      two,
      'path',
      bar.path.filter((p) => p.id !== 'b'),
    );
    expect(withFormula(shorter, 'path', undefined).formulas).toBeUndefined();
  });
});

describe('a part like another', () => {
  const ids = () => {
    let n = 0;
    return () => `new${n++}`;
  };
  const cut = stepOf('cut', { id: 'half', at: 20 });
  const whole = () => {
    const steps = [stepOf('turned', { id: 'body' }), cut, stepOf('bevel', { id: 'v', where: 'region', region: 'r' })];
    return {
      ...(part() as NonNullable<ReturnType<typeof part>>),
      shape: { kind: 'recipe' as const, steps },
      regions: [
        {
          id: 'r',
          name: 'Label',
          weight: 1,
          rules: [
            {
              id: '1',
              how: 'add' as const,
              rule: { kind: 'picked' as const, places: [{ patch: 'body/s0', u: [0, 1] as const, v: [0, 1] as const }] },
            },
          ],
        },
      ],
    };
  };
  beforeEach(open);
  it('has steps and places under ids of its own', () => {
    const copy = partLike(whole(), 'q', 'Copy', ids());
    expect(copy.shape.steps?.map((s) => s.id)).toEqual(['new0', 'new1', 'new2']);
    expect(JSON.stringify(copy.regions)).toContain('new0/s0');
    expect(JSON.stringify(copy)).not.toContain('body/');
  });
  it('the other half of a cut keeps what the first one lost; both can be added and formed', async () => {
    const first = whole();
    const other = otherHalf(first, cut, 'q', ids());
    expect(other?.name).toBe('Bollard, other half');
    expect(other?.shape.steps?.[1]).toMatchObject({ kind: 'cut', keep: 'above', at: 20 });
    expect(otherHalf(first, { ...cut, keep: 'both' }, 'q', ids())).toBeNull();
    for (const s of first.shape.steps.slice(1, 2)) session.dispatch({ type: 'step.add', part: 'p', step: s });
    if (other)
      session.dispatch({ type: 'part.add', part: { ...other, shape: { kind: 'recipe', steps: other.shape.steps?.slice(0, 2) ?? [] } } });
    await settled();
    const tall = state().form?.ledger.sizeMm[1] ?? 0;
    expect(tall).toBeCloseTo(40, 3);
    expect(state().form?.parts).toBeDefined();
    expect(state().form?.ledger.parts.map((p) => p.id)).toEqual(['p', 'q']);
  });
});
