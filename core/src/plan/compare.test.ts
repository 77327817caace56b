import { describe, expect, it } from 'vitest';
import { compareRuns, isProposed } from './compare';

const run = (settings: object, figures: object = {}) => ({ settings, figures }) as Parameters<typeof compareRuns>[0][number];

describe('runs side by side', () => {
  const a = run({ aperture: 8, ratio: '4 : 1 : 2', samples: 64 }, { noisePercent: 1.2 });
  it('one setting that differs is the cause', () => {
    const c = compareRuns([a, run({ ...a.settings, samples: 128 }, { noisePercent: 0.9 })]);
    expect(c.settings).toEqual([['samples', 64, 128]]);
    expect(c.figures).toEqual([['noisePercent', 1.2, 0.9]]);
    expect(c.sentence).toBe('Only “samples” was changed, so the difference is due to it.');
    expect(c.wouldTell).toBeNull();
  });
  it('what came out as it was set is told once, and of different pieces no setting is the only cause', () => {
    const b = run({ ...a.settings, samples: 128 }, { noisePercent: 0.9, samples: 128 });
    expect(compareRuns([run(a.settings, { ...a.figures, samples: 64 }), b]).figures.map(([k]) => k)).toEqual(['noisePercent']);
    const c = compareRuns([
      { ...a, assetId: 'lantern' },
      { ...b, assetId: 'chest' },
    ]);
    expect(c).toMatchObject({
      wouldTell: null,
      sentence: 'They are of 2 pieces, and a setting differs besides: what differs can come from the piece itself.',
    });
  });
  it('of several the cause can’t be told, and the run that would tell is the one’s with one setting of the other’s', () => {
    const b = run({ aperture: 16, ratio: '2 : 1 : 1', samples: 64 });
    const c = compareRuns([a, b]);
    expect(c.sentence).toBe('2 settings differ, so it can’t be told which of them made the difference.');
    expect(c.wouldTell).toMatchObject({ from: 0, like: 1, key: 'aperture', value: 16, settings: { aperture: 16, ratio: '4 : 1 : 2' } });
    const told = run(c.wouldTell!.settings as object);
    expect(isProposed(c.wouldTell!, told)).toBe(true);
    expect(isProposed(c.wouldTell!, b)).toBe(false);
    // With it among them everything can be told.
    expect(compareRuns([a, b, told])).toMatchObject({
      wouldTell: null,
      sentence: '“aperture, f/” and “key : fill : rim” were changed one at a time, so it can be told what each of them did.',
    });
  });
  it('proposes nothing that nobody can set', () => {
    expect(compareRuns([run({ materials: 'a', layers: 3 }), run({ materials: 'b', layers: 4 })]).wouldTell).toBeNull();
  });
  it('of three that differ in several the pair that differs in the fewest is asked about', () => {
    const c = compareRuns([run({ a: 1, b: 1, c: 1 }), run({ a: 2, b: 2, c: 2 }), run({ a: 2, b: 3, c: 3 })]);
    expect(c.wouldTell).toMatchObject({ from: 1, like: 2, key: 'b' });
  });
});
