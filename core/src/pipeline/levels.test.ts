import { PerspectiveCamera, Vector3 } from 'three';
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
import { MeshCache } from './mesh-cache';
import { solveFormed, trianglesAtTolerance } from './solve';
import { unwrap, unwrapSettings } from './unwrap';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const soup = (parts: readonly PartMesh[]) =>
  Float64Array.from(parts.flatMap((p) => p.placements.flatMap((m) => [...soupOf(transform(p.mesh, m))])));
const formed = (d: AssetDocument) => formAsset(d, 'low', none, new MeshCache(), kit).parts;

describe('outlines at the brief’s view', () => {
  // A blade, turned and wrapped parts, bars along bends: round both ways, so that the errors of two counts meet.
  it.each(['gig oar', 'octagonal ventilator', 'gallery ladder'])(
    'of the %s differ from a dense reference by no more than stated',
    (name) => {
      const raw = RECIPES[name]();
      const budget = solveFormed(raw, (d) => formAsset(d, 'low', none, new MeshCache(), kit));
      const solved = formed({ ...raw, form: { ...raw.form, counts: budget.counts } });
      const fine = trianglesAtTolerance(raw, budget.worstMm / 40).counts;
      const dense = formed({ ...raw, form: { ...raw.form, counts: fine, locks: {} } });
      expect(soup(dense).length).toBeGreaterThan(2 * soup(solved).length);
      const stated = budget.outlineMm / pixelMm(raw.brief);
      expect(silhouettesApart(soup(solved), soup(dense), looksAt(raw, dense))).toBeLessThanOrEqual(stated + 0.1);
    },
  );
});

/** A black shape of triangles, by three's camera and a plain scan over pixel centres; true where something is. */
function shape(triangles: Float64Array, look: ReturnType<typeof looksAt>[number]): { mask: Uint8Array; size: number } {
  const camera = new PerspectiveCamera((look.fieldOfView * 180) / Math.PI, 1, 1, 1e7);
  camera.position.set(...look.eye);
  camera.lookAt(new Vector3(...look.at));
  camera.updateMatrixWorld();
  const size = look.heightPx;
  const mask = new Uint8Array(size * size);
  const v = new Vector3();
  const px = new Float64Array(6);
  for (let t = 0; t < triangles.length; t += 9) {
    for (let k = 0; k < 3; k++) {
      v.set(triangles[t + 3 * k], triangles[t + 3 * k + 1], triangles[t + 3 * k + 2]).project(camera);
      px[2 * k] = ((v.x + 1) / 2) * size;
      px[2 * k + 1] = ((1 - v.y) / 2) * size;
    }
    const side = (a: number, b: number, x: number, y: number) =>
      (px[2 * b] - px[2 * a]) * (y - px[2 * a + 1]) - (px[2 * b + 1] - px[2 * a + 1]) * (x - px[2 * a]);
    const [xs, ys] = [
      [px[0], px[2], px[4]],
      [px[1], px[3], px[5]],
    ];
    for (let y = Math.max(0, Math.floor(Math.min(...ys))); y <= Math.min(size - 1, Math.ceil(Math.max(...ys))); y++)
      for (let x = Math.max(0, Math.floor(Math.min(...xs))); x <= Math.min(size - 1, Math.ceil(Math.max(...xs))); x++) {
        const s = [side(0, 1, x + 0.5, y + 0.5), side(1, 2, x + 0.5, y + 0.5), side(2, 0, x + 0.5, y + 0.5)];
        if (s.every((n) => n >= 0) || s.every((n) => n <= 0)) mask[y * size + x] = 1;
      }
  }
  return { mask, size };
}

/** How many pixels the farthest pixel of one shape lies from the other (largest of both ways; up to 40), over all looks. */
function pixelsApart(a: Float64Array, b: Float64Array, document: AssetDocument, parts: readonly PartMesh[], share: number): number {
  let most = 0;
  for (const look of looksAt(document, parts, share)) {
    const [p, q] = [shape(a, look), shape(b, look)];
    const { size } = p;
    for (const [from, to] of [
      [p.mask, q.mask],
      [q.mask, p.mask],
    ])
      for (let i = 0; i < from.length; i++) {
        if (!from[i] || to[i]) continue;
        const [x, y] = [i % size, Math.floor(i / size)];
        let r = 1;
        const near = () => {
          for (let dy = -r; dy <= r; dy++)
            for (let dx = -r; dx <= r; dx++) if (dx * dx + dy * dy <= r * r && to[(y + dy) * size + x + dx]) return true;
          return false;
        };
        while (r < 40 && !near()) r++;
        most = Math.max(most, r);
      }
  }
  return most;
}

describe('further levels', () => {
  it('have fewer triangles each, keep within what may show, and keep their layout', () => {
    const raw = RECIPES['octagonal ventilator']();
    const budget = solveFormed(raw, (d) => formAsset(d, 'low', none, new MeshCache(), kit));
    const document = { ...raw, form: { ...raw.form, counts: budget.counts } };
    const { parts } = unwrap(formed(document), unwrapSettings(document));
    const levels = makeLevels(document, parts, kit);
    let last = parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
    expect(levels.map((l) => l.share)).toEqual([0.5, 0.25, 0.125]);
    for (const l of levels) {
      expect(l.triangles).toBeLessThanOrEqual(last);
      last = l.triangles;
      expect(l.measuredPx).toBeLessThanOrEqual(l.allowedPx);
      // Drawn by three's own camera, no pixel of one lies farther from the other than may show, rounding to pixels aside.
      expect(pixelsApart(soup(parts), soup(l.parts), document, parts, l.share)).toBeLessThanOrEqual(Math.ceil(l.allowedPx) + 1);
      expect(l.parts.every((p) => attribute(p.mesh, 'uv', 'corner'))).toBe(true);
    }
    expect(last).toBeLessThan(0.6 * budget.triangles);
    // The leanest level seen from as near as the piece itself is plainly off: the measure tells them apart.
    expect(pixelsApart(soup(parts), soup(levels[2].parts), document, parts, 1)).toBeGreaterThan(Math.ceil(levels[2].allowedPx) + 1);
    expect(fallbackTolerance(document)).toBeGreaterThan(0);
  });
});
