import { describe, expect, it } from 'vitest';
import { polygon, stepOf } from '../../../test/recipes';
import { boundsOf } from '../../mesh/measures';
import type { PolyMesh } from '../../mesh/polymesh';
import { form } from '../recipe';
import { checkStep, type Step } from '../steps';
import type { Sketch } from './sketch';
import { followed, sketchesOf, withoutTrace, withTrace } from './trace';

const rectangle = (w: number, h: number): Sketch =>
  polygon([
    [0, 0],
    [w, 0],
    [w, h],
    [0, h],
  ]);
const base = (w: number) => stepOf('plate', { id: 'base', name: 'Base', sketch: rectangle(w, 30), thickness: 4, lies: 'upright' });
/** A lid on the base: its right side held to stand on the base’s. */
const lid = (from: Step): Step => {
  const traced = withTrace(rectangle(20, 10), 'base/sketch', (from as { sketch: Sketch }).sketch, 'Lid');
  const right = traced.curves.find((c) => c.id.startsWith('t1.') && c.name === 'side 2')?.id as string;
  const sketch: Sketch = {
    ...traced,
    points: traced.points.map((p) => (p.id === 'p0' ? { ...p, fixed: true } : p)),
    constraints: [
      { id: 'k1', kind: 'coincident', one: 'p1', two: right },
      { id: 'k2', kind: 'horizontal', one: 'l0' },
      { id: 'k3', kind: 'vertical', one: 'l1' },
    ],
  };
  return stepOf('plate', { id: 'lid', name: 'Lid', sketch, thickness: 2, lies: 'upright' });
};
const low = { mesh: 'low', count: () => 4 } as const;

describe('edges of another sketch', () => {
  it('are shown as guides that nothing moves, and are no part of the outline', () => {
    const step = lid(base(50));
    const guides = (step as { sketch: Sketch }).sketch.curves.filter((c) => c.id.startsWith('t1.'));
    expect(guides).toHaveLength(4);
    expect(guides.every((c) => c.guide)).toBe(true);
    const mesh = form([step, base(50)], low).mesh as PolyMesh;
    expect(boundsOf(mesh).max[0]).toBeCloseTo(50, 6);
  });
  it('are followed: the base made wider, what was held to its side goes along', () => {
    const step = lid(base(50));
    for (const w of [50, 64, 90]) {
      const made = form([base(w), { ...step, id: 'lid' } as Step], low);
      expect(made.problems).toEqual([]);
      const [own] = sketchesOf(followed(step, [base(w), step]));
      expect(own.sketch.points.find((p) => p.id === 't1.p1')?.x).toBe(w);
      const alone = form([step], { ...low }, {}).problems[0];
      expect(alone?.message).toMatch(/^What a sketch of “Lid” follows is gone/);
    }
    const [wide] = [form([base(90), step], low).mesh as PolyMesh].map((m) => boundsOf(m).max[0]);
    expect(wide).toBeCloseTo(90, 6);
  });
  it('an edge that something holds on to and that is gone is said by name; others come and go', () => {
    const step = lid(base(50));
    const round = stepOf('plate', {
      id: 'base',
      name: 'Base',
      lies: 'upright',
      thickness: 4,
      sketch: {
        points: [{ id: 'm', x: 0, y: 0 }],
        curves: [{ id: 'c', name: 'rim', kind: 'circle', centre: 'm', radius: 20 }],
        constraints: [],
      },
    });
    expect(form([round, step], low).problems[0].message).toBe('A sketch of “Lid” holds on to “side 2” of “Base”, which is gone there.');
    const free = { ...step, sketch: { ...(step as { sketch: Sketch }).sketch, constraints: [] } } as Step;
    expect(form([round, free], low).problems).toEqual([]);
  });
  it('can be let go, and two that follow each other come to rest', () => {
    const step = lid(base(50)) as Extract<Step, { kind: 'plate' }>;
    const let_ = withoutTrace(step.sketch, 't1');
    expect([let_.traces, let_.curves.length, let_.constraints.map((k) => k.id)]).toEqual([[], 4, ['k2', 'k3']]);
    const back = { ...base(50), sketch: withTrace(rectangle(50, 30), 'lid/sketch', step.sketch, 'Base') } as Step;
    expect(form([back, step], low).problems).toEqual([]);
  });
  it('go through a file and a request as they are', () => {
    const step = lid(base(50));
    expect(checkStep(JSON.parse(JSON.stringify(step)))).toEqual(step);
  });
});
