import validator from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import type { Step } from '../form/steps';
import { readModel } from '../io/read';
import { boundsOf, volumeOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';
import { exportGlb, exportOptions } from './export';
import { formAsset, type PartMesh } from './form';
import { unwrap, unwrapSettings } from './unwrap';

/** A wedge, so that a mirror image can be told from a turned one. */
const wedge = (more: Step[]) =>
  asset([
    part('wedge', [
      stepOf('box', { id: 'b', width: 20, height: 10, depth: 30, corner: 0 }),
      stepOf('cut', { id: 'c', at: 5, leanA: 20, leanB: 15 }),
      stepOf('place', { id: 'p', x: 25 }),
      ...more,
    ]),
  ]);
const whole = (parts: readonly PartMesh[]) => merge(parts.flatMap((p) => p.placements.map((m) => transform(p.mesh, m))));
const live = { ...stepOf('mirror', { id: 'm' }), applied: false } as Step;

describe('a mirror image that shares its mesh', () => {
  it('stands where an applied one does, facing outward', () => {
    const one = formAsset(wedge([]), 'low', none).parts;
    const shared = formAsset(wedge([live]), 'low', none).parts;
    const applied = formAsset(wedge([{ ...live, applied: true } as Step]), 'low', none).parts;
    expect(shared[0].placements).toHaveLength(2);
    expect(applied[0].placements).toHaveLength(1);
    const volume = volumeOf(whole(one));
    for (const parts of [shared, applied]) {
      expect(volumeOf(whole(parts))).toBeCloseTo(2 * volume, 6);
      const { min, max } = boundsOf(whole(parts));
      expect(min[0]).toBeCloseTo(-max[0], 9);
    }
    // A ray from outside meets the front of a face on both of them.
    for (const x of [25, -25]) {
      const soup = soupOf(whole(shared));
      const query = new RayQuery(buildTree(soup));
      expect(query.closest(x, -20, 0, 0, 1, 0, 0, 1e3)).toBe(true);
      const t = 9 * query.triangle;
      const [u, v] = [3, 6].map((k) => [0, 1, 2].map((i) => soup[t + k + i] - soup[t + i]));
      expect(u[2] * v[0] - u[0] * v[2]).toBeLessThan(0);
    }
  });
  it('goes into a valid file and comes back the same', async () => {
    const document = wedge([live]);
    const { parts } = unwrap(formAsset(document, 'low', none).parts, unwrapSettings(document));
    const glb = await exportGlb(parts, exportOptions(document, {}));
    const report = await validator.validateBytes(glb);
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
    const back = await readModel('wedge.glb', glb, {});
    const again = merge(back.parts.flatMap((p) => p.placements.map((m) => transform(p.mesh, m))));
    expect(volumeOf(again) / volumeOf(whole(parts))).toBeCloseTo(1, 4);
    const [a, b] = [boundsOf(again), boundsOf(whole(parts))];
    for (const k of [0, 1, 2]) expect(a.min[k]).toBeCloseTo(b.min[k], 3);
  });
});
