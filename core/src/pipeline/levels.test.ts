import { beforeAll, describe, expect, it } from 'vitest';
import { RECIPES } from '../../../demo/src/pieces';
import { none } from '../../test/assets';
import { testKit } from '../../test/kit';
import { pixelMm } from '../brief/advice';
import { silhouettesApart } from '../inspect/silhouette';
import type { Kit } from '../kit';
import { attribute, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import type { AssetDocument } from './document';
import { fallbackTolerance, formAsset, type PartMesh } from './form';
import { looksAt, makeLevels } from './levels';
import { Memory } from './memory';
import { solveFormed, trianglesAtTolerance } from './solve';
import { unwrap, unwrapSettings } from './unwrap';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const soup = (parts: readonly PartMesh[]) =>
  Float64Array.from(parts.flatMap((p) => p.placements.flatMap((m) => [...soupOf(transform(p.mesh, m))])));
const formed = (d: AssetDocument) => formAsset(d, 'low', none, new Memory(), kit).parts;

describe('outlines at the brief’s view', () => {
  // A blade, turned and wrapped parts, bars along bends: round both ways, so that the errors of two counts meet.
  it.each(['gig oar', 'octagonal ventilator', 'gallery ladder'])(
    'of the %s differ from a dense reference by no more than stated',
    (name) => {
      const raw = RECIPES[name]();
      const budget = solveFormed(raw, (d) => formAsset(d, 'low', none, new Memory(), kit));
      const solved = formed({ ...raw, form: { ...raw.form, counts: budget.counts } });
      const fine = trianglesAtTolerance(raw, budget.worstMm / 40).counts;
      const dense = formed({ ...raw, form: { ...raw.form, counts: fine, locks: {} } });
      expect(soup(dense).length).toBeGreaterThan(2 * soup(solved).length);
      const stated = budget.outlineMm / pixelMm(raw.brief);
      expect(silhouettesApart(soup(solved), soup(dense), looksAt(raw, dense))).toBeLessThanOrEqual(stated + 0.1);
    },
  );
});

describe('further levels', () => {
  it('have fewer triangles each, keep within what may show, and keep their layout', () => {
    const raw = RECIPES['octagonal ventilator']();
    const budget = solveFormed(raw, (d) => formAsset(d, 'low', none, new Memory(), kit));
    const document = { ...raw, form: { ...raw.form, counts: budget.counts } };
    const { parts } = unwrap(formed(document), unwrapSettings(document));
    const levels = makeLevels(document, parts, kit);
    let last = parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
    expect(levels.map((l) => l.share)).toEqual([0.5, 0.25, 0.125]);
    for (const l of levels) {
      expect(l.triangles).toBeLessThanOrEqual(last);
      last = l.triangles;
      expect(l.measuredPx).toBeLessThanOrEqual(l.allowedPx);
      expect(silhouettesApart(soup(parts), soup(l.parts), looksAt(document, parts, l.share))).toBeCloseTo(l.measuredPx, 6);
      expect(l.parts.every((p) => attribute(p.mesh, 'uv', 'corner'))).toBe(true);
    }
    expect(last).toBeLessThan(0.6 * budget.triangles);
    expect(fallbackTolerance(document)).toBeGreaterThan(0);
  });
});
