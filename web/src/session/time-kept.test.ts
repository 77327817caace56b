import { describe, expect, it } from 'vitest';
import { IDLE, TIME_BEAT, TimeKeeper } from './time-kept';

function desk() {
  const clock = { ticks: 1_000_000, day: '2026-12-02' };
  const handed: [string, string, string, number][] = [];
  const state = { answers: true };
  const keeper = new TimeKeeper({
    ticks: () => clock.ticks,
    day: () => clock.day,
    hand: async (asset, stage, day, seconds) => {
      if (!state.answers) return false;
      handed.push([asset, stage, day, Math.round(seconds)]);
      return true;
    },
  });
  const settle = () => new Promise((r) => setTimeout(r, 0));
  /** Minutes go by; touched, or only looked at. */
  const minutes = (count: number, touched: boolean) => {
    for (let ms = 0; ms < count * 60_000; ms += TIME_BEAT) {
      clock.ticks += TIME_BEAT;
      if (touched) keeper.touch();
      keeper.beat();
    }
  };
  const total = (stage?: string) => handed.filter((h) => !stage || h[1] === stage).reduce((s, h) => s + h[3], 0);
  return { clock, handed, state, keeper, minutes, settle, total };
}

describe('time that is kept by itself', () => {
  it('is what a stage was worked on, handed in as it grows and when it is left', async () => {
    const d = desk();
    d.keeper.look('chest', 'form');
    d.minutes(12, true);
    await d.settle();
    expect(d.total()).toBeGreaterThanOrEqual(660);
    d.keeper.look('chest', 'unwrap');
    await d.settle();
    expect(d.total('form')).toBe(720);
    d.minutes(3, true);
    d.keeper.leave();
    await d.settle();
    expect(d.total('unwrap')).toBe(180);
  });
  it('ends five minutes after the last touch, and goes on with the next', async () => {
    const d = desk();
    d.keeper.look('chest', 'form');
    d.minutes(2, true);
    d.minutes(60, false);
    d.keeper.touch();
    d.minutes(1, true);
    d.keeper.leave();
    await d.settle();
    expect(d.total()).toBe(120 + IDLE / 1000 + 60);
  });
  it('a machine that slept has not worked, and neither has a page that was behind another', async () => {
    const d = desk();
    d.keeper.look('chest', 'form');
    d.minutes(1, true);
    d.clock.ticks += 3 * 60_000;
    d.keeper.touch();
    d.minutes(1, true);
    d.keeper.leave();
    d.clock.ticks += 3600_000;
    d.keeper.beat();
    await d.settle();
    expect(d.total()).toBe(120);
  });
  it('is of the day it was worked on, whatever the clock on the wall is set to, and never negative', async () => {
    const d = desk();
    d.keeper.look('chest', 'form');
    d.minutes(1, true);
    d.clock.day = '2026-12-03';
    d.minutes(1, true);
    d.clock.day = '2026-12-01';
    d.minutes(1, true);
    d.keeper.leave();
    await d.settle();
    expect(d.handed.map(([, , day, s]) => [day, s])).toEqual([
      ['2026-12-02', 60],
      ['2026-12-03', 60],
      ['2026-12-01', 60],
    ]);
  });
  it('what can’t be handed in is kept and handed in later, once', async () => {
    const d = desk();
    d.state.answers = false;
    d.keeper.look('chest', 'form');
    d.minutes(3, true);
    await d.settle();
    expect(d.handed).toEqual([]);
    d.state.answers = true;
    d.minutes(1, true);
    await d.settle();
    d.keeper.leave();
    await d.settle();
    expect(d.total()).toBe(240);
  });
});
