import { STEP_KINDS } from '@wellmorph/core/form/steps/index';
import { describe, expect, it } from 'vitest';
import { stepOf } from '../../../../core/test/recipes';
import { drawingsOf } from './drawings';

const of = (...args: Parameters<typeof stepOf>) => drawingsOf(stepOf(...args));

describe('what of a step is drawn', () => {
  it('a turned one has its profile of corners, or the sketch it was made into, with the axis at 0', () => {
    const [profile] = of('turned');
    expect([profile.key, profile.sketch, profile.about]).toEqual(['profile', undefined, expect.stringMatching(/^\d+ corners$/)]);
    const sketch = { points: [], curves: [], constraints: [] };
    const [drawn] = of('turned', { sketch });
    expect([drawn.key, drawn.turned, drawn.view, drawn.about]).toEqual(['sketch', true, 'front', '0 curves, 0 constraints']);
  });
  it('a plate is drawn in the view it lies in, so that a picture behind it fits', () => {
    expect(of('plate', { lies: 'flat' })[0].view).toBe('top');
    expect(of('plate', { lies: 'upright' } as never)[0].view).toBe('front');
  });
  it('a bar has what it was given by drawing: its path, its section, both or neither', () => {
    const keys = (...args: Parameters<typeof stepOf>) => of(...args).map((d) => d.key);
    expect(keys('bar')).toEqual([]);
    expect(keys('bar', { along: 'sketch' } as never)).toEqual(['route']);
    expect(keys('bar', { section: 'sketch' } as never)).toEqual(['outline']);
    expect(keys('bar', { along: 'sketch', section: 'sketch' } as never)).toEqual(['route', 'outline']);
    // Nothing drawn yet is an empty drawing, not none.
    expect(of('bar', { section: 'sketch' } as never)[0].sketch).toEqual({ points: [], curves: [], constraints: [] });
  });
  it('a blade has its plan from above and its side from the front', () => {
    expect(of('blade').map((d) => [d.key, d.view])).toEqual([
      ['plan', 'top'],
      ['side', 'front'],
    ]);
  });
  it('a sweep has its path, the plan that cuts it, and a drawing for every section, by its id', () => {
    expect(of('sweep').map((d) => [d.key, d.label])).toEqual([
      ['route', 'Path'],
      ['stations.s1.sketch', 'Section 1'],
      ['stations.s2.sketch', 'Section 2'],
    ]);
    expect(of('sweep', { along: 'points', cut: 'plan' }).map((d) => [d.key, d.view])).toEqual([
      ['plan', 'top'],
      ['stations.s1.sketch', undefined],
      ['stations.s2.sketch', undefined],
    ]);
  });
  it('guides are no curves of it', () => {
    const [plate] = of('plate');
    const curves = plate.sketch?.curves ?? [];
    const guided = { ...plate.sketch, curves: curves.map((c, i) => ({ ...c, guide: i === 0 })) };
    expect(of('plate', { sketch: guided } as never)[0].about).toMatch(new RegExp(`^${curves.length - 1} curves, `));
  });
  it('every kind says what it has, each under a key of its own', () => {
    for (const kind of STEP_KINDS) {
      const drawings = of(kind);
      expect(new Set(drawings.map((d) => d.key)).size).toBe(drawings.length);
      for (const d of drawings) expect([d.label.length > 2, d.about.length > 2]).toEqual([true, true]);
    }
  });
});
