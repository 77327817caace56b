import { describe, expect, it } from 'vitest';
import { Pace } from './pace';

const shelf = () => {
  const kept = new Map<string, string>();
  return { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) };
};

describe('the pace of a machine', () => {
  it('after a few runs a forecast that was always a third too low is within a twentieth, and outlives the page', () => {
    const store = shelf();
    for (let run = 0; run < 4; run++) {
      const pace = new Pace(store);
      const said = pace.corrected('render', 40);
      if (run === 3) expect(said / 60).toBeCloseTo(1, 1);
      pace.learn('render', said, 60);
    }
    expect(Math.abs(new Pace(store).corrected('render', 40) / 60 - 1)).toBeLessThan(0.05);
    expect(new Pace(store).corrected('bake', 40)).toBe(40);
  });
  it('a stray run moves it little for long, and nothing makes it absurd', () => {
    const pace = new Pace(shelf());
    for (let i = 0; i < 20; i++) pace.learn('render', 1, 1000);
    expect(pace.corrected('render', 1)).toBeLessThanOrEqual(3);
    pace.learn('render', 0, 5);
    pace.learn('render', Number.NaN, 5);
    expect(Number.isFinite(pace.corrected('render', 1))).toBe(true);
  });
  it('of a piece that was seen is its own; of one that was not it is that of the last ones', () => {
    const store = shelf();
    const pace = new Pace(store);
    pace.learn('bake', 10, 20, 'gauge');
    pace.learn('bake', 10, 10, 'oar');
    const [gauge, oar, other] = ['gauge', 'oar', 'lantern'].map((of) => pace.corrected('bake', 10, of));
    expect(gauge).toBeGreaterThan(14);
    expect(oar).toBe(other);
    expect(new Pace(store).corrected('bake', 10, 'gauge')).toBe(gauge);
    // What was seen long ago makes room, and the machine's own pace stays.
    for (let i = 0; i < 150; i++) pace.learn('bake', 10, 10, `piece-${i}`);
    const kept = Object.keys(JSON.parse(store.getItem('wellmorph-pace') as string).factors);
    expect(kept.length).toBeLessThanOrEqual(101);
    expect(kept).toContain('bake');
    expect(kept).not.toContain('bake gauge');
  });
  it('progress goes by where the time went, and what can’t be read is learned again', () => {
    const store = shelf();
    const pace = new Pace(store);
    expect(pace.parts('bake', [1, 3])).toEqual([
      [0, 0.25],
      [0.25, 1],
    ]);
    pace.learnParts('bake', [6, 2]);
    expect(new Pace(store).parts('bake', [1, 3])).toEqual([
      [0, 0.75],
      [0.75, 1],
    ]);
    // Another number of parts is another thing.
    expect(pace.parts('bake', [1, 1, 2])[2]).toEqual([0.5, 1]);
    store.setItem('wellmorph-pace', '{ broken');
    expect(new Pace(store).corrected('render', 7)).toBe(7);
    expect(new Pace(undefined).corrected('render', 7)).toBe(7);
  });
});
