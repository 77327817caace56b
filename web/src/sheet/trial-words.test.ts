import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { compareRuns } from '@wellmorph/core/plan/compare';
import { figure } from '@wellmorph/core/units/lengths';
import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import type { Trial } from '@/server/db/trials';
import { inFigures, shownValue, took } from './trial-words';

const trial = (settings: object, figures: object) => ({ settings, figures }) as Pick<Trial, 'settings' | 'figures'>;

describe('a trial in words', () => {
  it('its card says the first figures, lengths in the unit of the brief', () => {
    const solved = trial({}, { triangles: 7996, worstMm: 0.254, worst: 'a rim' });
    expect(inFigures(solved, 'mm')).toBe('7\u202f996 tri · 0.25\u00a0mm worst');
    expect(inFigures(solved, 'in')).toBe('7\u202f996 tri · 0.01\u00a0in worst');
    expect(inFigures(trial({}, { coverage: 0.713, density: 27.94 }), 'mm')).toBe('71 % covered · 27.9 px/cm');
  });
  it('lengths of settings are shown in that unit too, and a lens stays in millimetres', () => {
    expect(shownValue('reachMm', 50.8, 'in')).toBe('2\u00a0in');
    expect(shownValue('lens', 90, 'in')).toBe('90');
    expect(shownValue('worst', 'sides round Ø 25.4\u00a0mm', 'in')).toBe('sides round Ø 1\u00a0in');
    expect(shownValue('rotate', true, 'in')).toBe('yes');
    expect(shownValue('bits', undefined, 'in')).toBe('–');
  });
  it('says what made the difference only where one thing was changed', () => {
    const a = trial({ padding: 4, rotate: true, size: 1024 }, { islands: 30, density: 20 });
    expect(compareRuns([a, a]).sentence).toMatch(/^The settings are the same/);
    expect(compareRuns([a, trial({ ...a.settings, padding: 8 }, {})]).sentence).toBe(
      'Only “padding, px” was changed, so the difference is due to it.',
    );
    expect(compareRuns([a, trial({ padding: 8, rotate: false, size: 1024 }, {})]).sentence).toMatch(
      /^2 settings differ, so it can’t be told/,
    );
  });
  it('shows what only one of the two has, and lists that are equal are no difference', () => {
    const { settings, figures } = compareRuns([
      trial({ move: [1, 2, 3], size: 512 }, { islands: 30 }),
      trial({ move: [1, 2, 3], bits: 8 }, { density: 9 }),
    ]);
    expect(settings).toEqual([
      ['size', 512, undefined],
      ['bits', undefined, 8],
    ]);
    expect(figures.map(([k]) => k)).toEqual(['islands', 'density']);
  });
  it('every setting of a stage has a name, and none is called by its field', () => {
    const { unwrap, bake } = stormLantern();
    for (const key of [...Object.keys(unwrap), ...Object.keys(bake)]) expect(fieldName(key), key).not.toMatch(/[A-Z]|mm$/);
    expect(new Set(Object.keys({ ...unwrap, ...bake }).map(fieldName)).size).toBe(Object.keys({ ...unwrap, ...bake }).length);
    // One that nobody named is told by its words.
    expect(fieldName('someNewSetting')).toBe('some new setting');
  });
  it('says how long it took and how long it was thought to, in a unit that suits', () => {
    expect(took({ milliseconds: 4230, forecastSeconds: null })).toBe('4.2 s');
    expect(took({ milliseconds: 63_000, forecastSeconds: 38 })).toBe('63 s (forecast 38 s)');
    expect(took({ milliseconds: 754_000, forecastSeconds: 600 })).toBe(`${figure(12.6, 1)} min (forecast 10 min)`);
  });
});
