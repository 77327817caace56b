import { describe, expect, it } from 'vitest';
import { briefFor } from '../brief/brief';
import { random } from '../maths/random';
import { applyCommand } from '../pipeline/commands/index';
import { newDocument } from '../pipeline/document';
import { PLANNED } from './forecast';
import { makePlan, noiseExponent, type PlanPiece } from './plan';
import { HOURS, type Hours, schedule } from './schedule';

/** A run of so many minutes that doesn’t say what it was set to: it counts as set as the piece is. */
const ran = (minutes: number) => ({ minutes, settings: {}, figures: {} });
const FROM = { day: '2026-12-02' };
const BUSY: Hours = { week: [8, 8, 8, 8, 8, 0, 0], off: [], machine: 1 };

function piece(id: string, change: Partial<PlanPiece> = {}): PlanPiece {
  const document = structuredClone(newDocument(id, briefFor('game')));
  document.brief.limits.textureSize = 4096;
  document.render.samples = 256;
  return {
    id,
    document,
    due: null,
    parts: 4,
    sizeMm: 200,
    ready: ['brief'],
    spent: {},
    lastRun: {},
    snagMinutes: 0,
    density: 24,
    noisePercent: 0.6,
    ...change,
  };
}
const UP_TO_LIGHT: PlanPiece['ready'] = ['brief', 'form', 'unwrap'];

describe('the plan', () => {
  it('of a piece that is ready in all of it nothing is left; snags are work all the same', () => {
    const [a, b] = makePlan(
      [piece('a', { ready: [...PLANNED] }), piece('b', { ready: [...PLANNED], snagMinutes: 45 })],
      HOURS,
      ['a', 'b'],
      FROM,
    ).rows;
    expect(a).toMatchObject({ work: 0, machine: 0, ready: FROM.day });
    expect(b).toMatchObject({ work: 45, machine: 0, ready: FROM.day });
  });
  it('what was spent is done already, but never all of what isn’t ready', () => {
    const of = (minutes: number) =>
      makePlan([piece('a', { spent: { form: minutes } })], HOURS, [], FROM).rows[0].stages.find((s) => s.stage === 'form')!;
    const whole = of(0).left;
    expect(of(20).left).toBeCloseTo(whole - 20, 9);
    expect(of(10_000).left).toBeCloseTo(whole / 10, 9);
  });
  it('the machine’s minutes are those of the piece’s own last run, where it has one', () => {
    const [row] = makePlan(
      [piece('a', { lastRun: { render: ran(12.5) } }), piece('b', { lastRun: { bake: ran(7) } })],
      HOURS,
      [],
      FROM,
    ).rows;
    expect(row.stages.find((s) => s.stage === 'render')?.machine).toEqual({ minutes: 12.5, runs: 1, by: 'own' });
    expect(row.stages.find((s) => s.stage === 'bake')?.machine?.by).toBe('default');
  });
  it('a run at other settings is reckoned to the present ones: texels, places in them, samples', () => {
    const left = (change: Partial<PlanPiece>, stage: string) =>
      makePlan([piece('a', change)], HOURS, [], FROM).rows[0].stages.find((s) => s.stage === stage)?.machine?.minutes;
    const at = (settings: object, figures = {}) => ({ minutes: 10, settings: settings as Record<string, unknown>, figures });
    expect(left({ lastRun: { bake: at({ size: 2048, samples: 2 }) } }, 'bake')).toBeCloseTo(40, 9);
    expect(left({ lastRun: { surface: at({ size: 8192 }) } }, 'surface')).toBeCloseTo(2.5, 9);
    expect(left({ lastRun: { render: at({ width: 960, height: 1200 }, { samples: 64 }) } }, 'render')).toBeCloseTo(40, 9);
    const quiet = piece('q').document;
    const document = { ...quiet, render: { ...quiet.render, until: 'noise' as const, noise: 0.005 } };
    // Half the noise is four times the samples.
    expect(
      left({ document, lastRun: { render: at({ width: 960, height: 1200 }, { samples: 64, noisePercent: 1 }) } }, 'render'),
    ).toBeCloseTo(40, 9);
  });
  it('learns from five that were finished, not from the piece itself', () => {
    const done = [1, 2, 3, 4, 5].map((n) => piece(`d${n}`, { ready: ['brief', 'form'], spent: { form: 100 + n } }));
    const { rows, estimates } = makePlan([...done, piece('new')], HOURS, [], FROM);
    const form = rows.find((r) => r.id === 'new')!.stages.find((s) => s.stage === 'form')!;
    expect(form.work).toMatchObject({ runs: 5, by: 'median' });
    expect(form.left).toBeCloseTo(103, 0);
    expect(rows.find((r) => r.id === 'd1')!.stages.find((s) => s.stage === 'form')!.work.runs).toBe(4);
    expect(estimates.map((e) => e.truth)).toEqual([101, 102, 103, 104, 105]);
    // Each as it would have been made then: the first is the guess, and they come nearer.
    const off = estimates.map((e) => Math.abs(Math.log(e.estimate / e.truth)));
    expect(off[4]).toBeLessThan(off[0]);
  });
});

describe('a date that doesn’t fit', () => {
  const late = (change: Partial<PlanPiece> = {}) =>
    piece('a', { due: '2026-12-02', ready: UP_TO_LIGHT, lastRun: { bake: ran(50), surface: ran(10), render: ran(60) }, ...change });
  const plan = (p: PlanPiece, hours = BUSY) => makePlan([p], hours, [], FROM).rows[0];
  it('says what is missing, and offers the changes that win most, three of them', () => {
    const row = plan(late());
    expect(row.fits).toBe(false);
    // An archive is still to be packed too: half a minute is guessed for it.
    expect(row.missingMachine).toBeCloseTo(60.5, 6);
    expect(row.cuts).toHaveLength(3);
    for (const cut of row.cuts) expect(cut.work + cut.machine).toBeGreaterThan(0);
    const size = row.cuts.find((c) => c.id === 'size')!;
    expect(size).toMatchObject({
      what: 'Textures of 2\u202f048 px instead of 4\u202f096',
      costs: '24 px/cm becomes 12',
      machine: 45,
      fits: false,
    });
    expect(row.cuts.find((c) => c.id === 'night')).toMatchObject({ fits: true, hours: { machine: 9 } });
  });
  it('a cut that is said to make it fit does, once it is taken; the change is one that can be made', () => {
    const row = plan(late({ lastRun: { bake: ran(50), surface: ran(10), render: ran(30) } }));
    const alone = row.cuts.filter((c) => c.fits);
    expect(alone.length).toBeGreaterThan(0);
    for (const cut of alone) {
      if (cut.command) expect(applyCommand(late().document, cut.command).patches.length).toBeGreaterThan(0);
      const machine = row.machine - (cut.command ? cut.machine : 0);
      const [then] = schedule([{ id: 'a', work: row.work, machine, due: row.due }], cut.hours ?? BUSY, FROM);
      expect([cut.id, then.fits]).toEqual([cut.id, true]);
    }
  });
  it('fewer samples cost the noise that was measured of samples', () => {
    const row = makePlan([late({ lastRun: { render: ran(110) } })], BUSY, [], FROM, -0.7).rows[0];
    expect(row.cuts.find((c) => c.id === 'samples')).toMatchObject({
      what: '128 samples instead of 256',
      costs: 'noise of 0.6 % becomes 0.97 %',
      machine: 55,
    });
  });
  it('one further level less wins what a level took, measured on the piece or on others', () => {
    const packed = { minutes: 60, settings: { furtherLevels: 3 }, figures: { levelSeconds: 3 * 18 * 60 } };
    const levels = (p: PlanPiece, count: number) => {
      p.document.handoff.include.levels = count > 0;
      p.document.handoff.levels = count || undefined;
      return p;
    };
    const row = plan(levels(late({ lastRun: { 'hand-off': packed, bake: ran(5), surface: ran(1), render: ran(5) } }), 3));
    expect(row.cuts.find((c) => c.id === 'level')).toMatchObject({
      what: '2 further levels instead of 3',
      machine: 18,
      fits: true,
      command: { type: 'handoff.set', patch: { levels: 2 } },
    });
    // Taken, the machine has that much less to do.
    const then = plan(levels(late({ lastRun: { 'hand-off': packed, bake: ran(5), surface: ran(1), render: ran(5) } }), 2));
    expect(row.machine - then.machine).toBeCloseTo(18, 9);
    // None was made of this piece: the middle of what others took.
    const other = piece('b', { lastRun: { 'hand-off': packed }, ready: [...PLANNED] });
    const mine = levels(late({ lastRun: { bake: ran(5), surface: ran(1), render: ran(60) } }), 1);
    const first = makePlan([mine, other], BUSY, [], FROM).rows.find((r) => r.id === 'a')!;
    expect(first.cuts.find((c) => c.id === 'level')).toMatchObject({ what: 'No further level', machine: 18, fits: true });
    // Where nothing tells what one takes, nothing is said of it.
    expect(plan(mine).cuts.map((c) => c.id)).not.toContain('level');
  });
  it('a date that is past can’t be met by any of them, and nothing is said to do', () => {
    expect(plan(late({ due: '2026-11-01' })).cuts.every((c) => !c.fits)).toBe(true);
  });
  it('what fits is offered nothing', () => {
    expect(plan(late({ due: '2027-12-02' }))).toMatchObject({ fits: true, cuts: [] });
  });
});

describe('noise against samples over pictures', () => {
  it('is the exponent they were made with; pictures that tell of something else are not believed', () => {
    const r = random(3);
    const made = (b: number) => [32, 64, 128, 256, 64, 128].map((samples) => ({ samples, noise: 5 * samples ** b * (0.97 + 0.06 * r()) }));
    expect(noiseExponent(made(-0.6))).toBeCloseTo(-0.6, 1);
    expect(noiseExponent(made(0.4))).toBe(-0.5);
    expect(noiseExponent(made(-0.6).slice(0, 2))).toBe(-0.5);
    expect(noiseExponent([])).toBe(-0.5);
  });
});
