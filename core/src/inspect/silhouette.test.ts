import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { balancedError, balancedScale, inscribedError } from '../form/budget/chord';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { type OutlineView, outlines, silhouettesApart } from './silhouette';

const look = (more: Partial<OutlineView> = {}): OutlineView => ({
  eye: [0, 0, 1000],
  at: [0, 0, 0],
  fieldOfView: 2 * Math.atan(0.1),
  heightPx: 1000,
  ...more,
});
/** A disk of n sides facing the camera at z = 0, mm. */
function disk(n: number, r: number): Float64Array {
  const out: number[] = [];
  for (let i = 0; i < n; i++) {
    const [a, b] = [(2 * Math.PI * i) / n, (2 * Math.PI * (i + 1)) / n];
    out.push(0, 0, 0, r * Math.cos(a), r * Math.sin(a), 0, r * Math.cos(b), r * Math.sin(b), 0);
  }
  return Float64Array.from(out);
}
// At 1 000 mm, 0.2 mm are a pixel: 200 mm over 1 000 px.
const PX = 0.2;

describe('outlines', () => {
  it('of a square cover as many squares as it is pixels large', () => {
    const { masks, finer } = outlines([soupOf(transform(cube(1), [40, 0, 0, 0, 0, 40, 0, 0, 0, 0, 1e-6, 0, 0, -20, 0, 1]))], look());
    expect(finer).toBe(10);
    expect(masks[0].data.reduce((a, b) => a + b, 0)).toBe((40 / PX) ** 2 * 100);
  });
  it('moved sideways lie apart by as much, in pixels', () => {
    for (const by of [0.1, 0.37, 1.3, 2.2]) {
      const a = disk(720, 30);
      const b = a.map((x, i) => (i % 3 === 0 ? x + by : x));
      expect(Math.abs(silhouettesApart(a, b, [look()]) - by / PX)).toBeLessThan(0.1);
    }
  });
  it('of a circle and its polygon differ by the sagitta, inscribed and balanced', () => {
    const round = disk(800, 40);
    for (const n of [12, 24, 40]) {
      expect(Math.abs(silhouettesApart(round, disk(n, 40), [look()]) - inscribedError(40, n) / PX)).toBeLessThan(0.1);
      const balanced = disk(n, 40 * balancedScale(n));
      expect(Math.abs(silhouettesApart(round, balanced, [look()]) - balancedError(40, n) / PX)).toBeLessThan(0.1);
    }
  });
});
