import { triangleCount } from '@wellmorph/core/mesh/polymesh';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { MeshCache } from '@wellmorph/core/pipeline/mesh-cache';
import { solveFormed } from '@wellmorph/core/pipeline/solve';
import { describe, expect, it } from 'vitest';
import { testKit } from '../../core/test/kit';
import { aneroidGauge } from './gauge';
import { stormLantern } from './lantern';
import { RECIPES } from './pieces';

const kit = await testKit();
const none = () => {
  throw new Error('recipes need no stored mesh');
};
const PIECES: Record<string, () => AssetDocument> = { lantern: stormLantern, gauge: aneroidGauge, ...RECIPES };

describe('a limit of triangles', () => {
  it.each(Object.keys(PIECES))('%s: more are never worse, and what is said is what is made', (name) => {
    const document = PIECES[name]();
    const memory = new MeshCache();
    const formed = (d: AssetDocument) => formAsset(d, 'low', none, memory, kit);
    const limit = document.brief.limits.triangles;
    let last = Infinity;
    for (const share of [0.8, 0.92, 1, 1.1]) {
      const most = Math.round(limit * share);
      const found = solveFormed(document, formed, most);
      if (!found.fits) continue;
      const { parts } = formed({ ...document, form: { ...document.form, counts: found.counts } });
      expect(parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0)).toBe(found.triangles);
      expect(found.triangles).toBeLessThanOrEqual(most);
      // Tolerances are tried a thousandth apart.
      expect(found.worstMm, `${name} at ${most}`).toBeLessThanOrEqual(last * 1.002);
      expect(found.outlineMm).toBeGreaterThanOrEqual(found.worstMm - 1e-12);
      expect(found.tenthMoreMm).toBeLessThanOrEqual(found.worstMm);
      last = found.worstMm;
    }
  });
});
