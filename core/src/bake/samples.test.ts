import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { merge } from '../mesh/merge';
import type { PolyMesh } from '../mesh/polymesh';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { firstSamples } from './samples';
import type { Texels } from './texels';

const SIZE = 96;
const part = (mesh: PolyMesh) => ({ id: 'p', name: 'p', mesh, placements: [IDENTITY] });
/** Baked with as many samples as change something, and with all of them. */
function both(high: PolyMesh, samples: BakeSettings['samples']): [few: Texels, all: Texels] {
  const settings: BakeSettings = {
    ...BAKE_DEFAULTS,
    size: SIZE,
    samples,
    occlusion: false,
    curvature: false,
    further: ['height', 'opacity'],
  };
  const { prepared } = prepareBake([part(sheet(3, 10, () => 0))], [part(high)], new Map(), settings);
  return [bakeTexels(prepared), bakeTexels({ ...prepared, everySample: true })];
}
/** Degrees between two maps, the worst and the mean. */
function apart(a: Texels, b: Texels): { worst: number; mean: number } {
  let [worst, sum] = [0, 0];
  for (let i = 0; i < a.state.length; i++) {
    const [x, y] = [a.normal, b.normal].map((n) => n.subarray(3 * i, 3 * i + 3));
    const cross = Math.hypot(x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0]);
    const degrees = (Math.atan2(cross, x[0] * y[0] + x[1] * y[1] + x[2] * y[2]) * 180) / Math.PI;
    worst = Math.max(worst, degrees);
    sum += degrees;
  }
  return { worst, mean: sum / a.state.length };
}

describe('texels that two places of a layout use', () => {
  it.each([1, 4] as const)('are counted, %i samples along a side', (samples) => {
    const two = merge([sheet(3, 10, () => 0), sheet(3, 10, () => 2)]);
    const settings: BakeSettings = { ...BAKE_DEFAULTS, size: SIZE, samples, occlusion: false, curvature: false };
    const doubled = (mesh: PolyMesh) => bakeTexels(prepareBake([part(mesh)], [part(mesh)], new Map(), settings).prepared).counts.doubled;
    expect(doubled(two)).toEqual([SIZE * SIZE]);
    expect(doubled(sheet(3, 10, () => 0))).toEqual([0]);
  });
});

describe('samples of a texel', () => {
  it.each([1, 2, 4, 8])('of %i × %i the first lie in every row and column, about the middle', (s) => {
    const first = firstSamples(s);
    const rows = new Set<number>();
    const columns = new Set<number>();
    let [x, y, n] = [0, 0, 0];
    for (const [i, is] of first.entries()) {
      if (!is) continue;
      rows.add(Math.floor(i / s));
      columns.add(i % s);
      x += (i % s) + 0.5;
      y += Math.floor(i / s) + 0.5;
      n++;
    }
    expect([rows.size, columns.size]).toEqual([s, s]);
    expect([x / n, y / n]).toEqual([s / 2, s / 2]);
  });
  it('on what bends evenly the first stand for all: less than half the rays, and the same to a fiftieth of a degree', () => {
    const [few, all] = both(
      sheet(60, 10, (x, z) => 0.3 * Math.sin(x / 2) * Math.cos(z / 2)),
      4,
    );
    expect(few.counts.rays).toBeLessThan(0.45 * all.counts.rays);
    expect(apart(few, all).worst).toBeLessThan(0.02);
    expect(few.state).toEqual(all.state);
    for (let i = 0; i < few.height.length; i++) expect(Math.abs(few.height[i] - all.height[i])).toBeLessThan(1e-3);
  });
  it.each([4, 8] as const)(
    'where it breaks all are cast, %i along a side: a ridge half a texel wide, and no texel off by a degree',
    (s) => {
      const texel = 10 / SIZE;
      const [few, all] = both(
        sheet(400, 10, (x) => (Math.abs(x - 5.02) < texel / 4 ? 0.05 : 0)),
        s,
      );
      expect(apart(few, all).worst).toBeLessThan(1);
      expect(few.counts.rays).toBeLessThan(0.6 * all.counts.rays);
      // The ridge is there at all.
      expect(
        apart(
          all,
          both(
            sheet(4, 10, () => 0),
            s,
          )[1],
        ).worst,
      ).toBeGreaterThan(5);
    },
  );
  it('on a rough high mesh they agree to a tenth of a degree on average, and what misses is counted alike', () => {
    const next = random(7);
    const [few, all] = both(
      sheet(24, 10, () => 0.4 * next()),
      4,
    );
    expect(apart(few, all).mean).toBeLessThan(0.1);
    expect(few.opacity).toEqual(all.opacity);
    expect(few.counts.samples).toEqual(all.counts.samples);
    expect(few.counts.missed).toEqual(all.counts.missed);
  });
});
