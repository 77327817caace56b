import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Day, dayNumber, dayOf, HOURS, type Hours, inOrder, schedule, type Task, weekday, workOn } from './schedule';

const everyDay = (hours: number, machine = 0): Hours => ({ week: [hours, hours, hours, hours, hours, hours, hours], off: [], machine });
const task = (id: string, work: number, due: Day | null = null, machine = 0): Task => ({ id, work, machine, due });

describe('days', () => {
  it('are those of the calendar: weekdays that are on record, leap years by the Gregorian rule', () => {
    // 1 January 2000 was a Saturday, 29 February 2024 a Thursday (common knowledge, no source).
    expect(weekday('2000-01-01')).toBe(5);
    expect(weekday('2024-02-29')).toBe(3);
    expect(() => dayNumber('2026-02-29')).toThrow('“2026-02-29” is no day of the calendar.');
    expect(() => dayNumber('2100-02-29')).toThrow();
    expect(() => dayNumber('tomorrow')).toThrow();
    // None is lost or doubled where clocks are changed.
    for (let n = dayNumber('2026-01-01'); n < dayNumber('2027-01-01'); n++) expect(dayNumber(dayOf(n))).toBe(n);
  });
  it('have the hours of their weekday, and none where they are off', () => {
    expect(workOn('2026-12-04', HOURS)).toBe(360);
    expect(workOn('2026-12-05', HOURS)).toBe(0);
    expect(workOn('2026-12-04', { ...HOURS, off: ['2026-12-04'] })).toBe(0);
  });
});

describe('work laid into days', () => {
  it('goes on where the day before ended, over days without work', () => {
    // Friday has its six hours; Saturday and Sunday none; what is left is Monday’s.
    const [p] = schedule([task('a', 400, '2026-12-07')], HOURS, { day: '2026-12-04' });
    expect(p).toMatchObject({ ready: '2026-12-07', fits: true, missingWork: 0 });
    expect(p.shares).toEqual([
      { day: '2026-12-04', work: 360, machine: 0 },
      { day: '2026-12-07', work: 40, machine: 0 },
    ]);
  });
  it('of today only what is left of it is there', () => {
    const [p] = schedule([task('a', 100)], HOURS, { day: '2026-12-04', minutesLeft: 30 });
    expect(p.shares.map((s) => s.work)).toEqual([30, 70]);
  });
  it('the machine runs once the work is done, and for the first that waits', () => {
    const list = schedule([task('a', 60, null, 300), task('b', 60, null, 100)], everyDay(2, 4), { day: '2026-12-04' });
    expect(list[0].shares).toEqual([
      { day: '2026-12-04', work: 60, machine: 240 },
      { day: '2026-12-05', work: 0, machine: 60 },
    ]);
    expect(list[1].shares).toEqual([
      { day: '2026-12-04', work: 60, machine: 0 },
      { day: '2026-12-05', work: 0, machine: 100 },
    ]);
  });
  it('says what is missing of what isn’t ready in time', () => {
    const [a, b] = schedule([task('a', 300, '2026-12-04'), task('b', 200, '2026-12-04', 30)], everyDay(6, 4), { day: '2026-12-04' });
    expect(a.fits).toBe(true);
    expect(b).toMatchObject({ fits: false, ready: '2026-12-05', missingWork: 140, missingMachine: 30 });
  });
  it('a day that is past is late by all of it; without hours nothing is ever ready; no date fits nothing and misses nothing', () => {
    expect(schedule([task('a', 60, '2020-01-01')], HOURS, { day: '2026-12-04' })[0]).toMatchObject({ fits: false, missingWork: 60 });
    expect(schedule([task('a', 60, '2027-01-01')], everyDay(0), { day: '2026-12-04' })[0]).toMatchObject({
      ready: null,
      fits: false,
      missingWork: 60,
    });
    expect(schedule([task('a', 60)], everyDay(0), { day: '2026-12-04' })[0]).toMatchObject({ ready: null, fits: null, missingWork: 0 });
    expect(schedule([task('a', 0, '2026-12-04')], everyDay(0), { day: '2026-12-04' })[0]).toMatchObject({
      ready: '2026-12-04',
      fits: true,
    });
  });
  it('hours that no day has are refused in a sentence', () => {
    expect(() => schedule([], { ...HOURS, machine: 25 }, { day: '2026-12-04' })).toThrow('from 0 to 24');
    expect(() => schedule([], { ...HOURS, off: ['2026-13-01'] }, { day: '2026-12-04' })).toThrow('no day of the calendar');
  });
  it('nothing is lost or made more: what is laid down is what there was, and no day holds more than it has', () => {
    const minutes = fc.integer({ min: 0, max: 2000 });
    fc.assert(
      fc.property(fc.array(fc.tuple(minutes, minutes), { maxLength: 8 }), fc.integer({ min: 1, max: 9 }), (sizes, hours) => {
        const tasks = sizes.map(([work, machine], i) => task(`${i}`, work, null, machine));
        const list = schedule(tasks, { ...HOURS, week: [hours, hours, 0, hours, hours, 0, 1] }, { day: '2026-12-02' });
        const days = new Map<string, { work: number; machine: number }>();
        list.forEach((p, i) => {
          expect(p.shares.reduce((s, x) => s + x.work, 0)).toBeCloseTo(sizes[i][0], 6);
          expect(p.shares.reduce((s, x) => s + x.machine, 0)).toBeCloseTo(sizes[i][1], 6);
          for (const s of p.shares) {
            const d = days.get(s.day) ?? { work: 0, machine: 0 };
            days.set(s.day, { work: d.work + s.work, machine: d.machine + s.machine });
          }
        });
        for (const [day, d] of days) {
          expect(d.work).toBeLessThanOrEqual(workOn(day, { ...HOURS, week: [hours, hours, 0, hours, hours, 0, 1] }) + 1e-6);
          expect(d.machine).toBeLessThanOrEqual(240 + 1e-6);
        }
      }),
    );
  });
});

describe('order of work', () => {
  const orders = <T>(list: T[]): T[][] =>
    list.length < 2 ? [list] : list.flatMap((x, i) => orders(list.filter((_, j) => j !== i)).map((rest) => [x, ...rest]));
  const worst = (list: Task[]): number => {
    let at = 0;
    return Math.max(
      ...list.map((t) => {
        at += t.work;
        return at - dayNumber(t.due as Day) * 60;
      }),
    );
  };
  it('is as good as the best of all orders there are (brute force, up to six): the worst lateness is the least', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 0, max: 20 })), { minLength: 1, maxLength: 6 }),
        (list) => {
          const tasks = list.map(([work, day], i) => task(`${i}`, work, dayOf(20_000 + day)));
          const best = Math.min(...orders(tasks).map(worst));
          expect(worst(inOrder(tasks))).toBe(best);
        },
      ),
      { numRuns: 60 },
    );
  });
  it('what was put in order by hand comes first, as it was put; what has no date comes last', () => {
    const tasks = [task('none', 1), task('late', 1, '2027-01-01'), task('soon', 1, '2026-12-05'), task('hand', 1, '2028-01-01')];
    expect(inOrder(tasks).map((t) => t.id)).toEqual(['soon', 'late', 'hand', 'none']);
    expect(inOrder(tasks, ['hand', 'gone', 'none']).map((t) => t.id)).toEqual(['hand', 'none', 'soon', 'late']);
  });
});
