import { beforeAll, describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import { applyCommand } from '../pipeline/commands/index';
import type { AssetDocument } from '../pipeline/document';
import { formAsset, type PartMesh } from '../pipeline/form';
import { renderPicture, solveStage, stageScene } from '../pipeline/render';
import { blurDisc, magnification } from '../shot/lens';
import { carried, equalBlur, equalFraming } from './carried';

const apply = (document: AssetDocument, { commands }: { commands: Parameters<typeof applyCommand>[1][] }): AssetDocument =>
  commands.reduce((d, c) => applyCommand(d, c).document, document);

describe('equal blur', () => {
  it('a point beside the focus is blurred by the same share of a picture that shows as much (thin lens, written out in shot/lens)', () => {
    for (const [n, f, s, k] of [
      [8, 90, 600, 2],
      [5.6, 50, 900, 0.5],
      [11, 100, 1500, 10],
    ]) {
      const [other, t] = [equalBlur(n, f, s, k), equalFraming(f, s, k)];
      expect(magnification(f, t)).toBeCloseTo(magnification(f, s) / k, 12);
      for (const off of [-0.01, 0.004, 0.01])
        expect(blurDisc(f, other, t, t + k * off * s) / blurDisc(f, n, s, s + off * s)).toBeCloseTo(1, 2);
      // As much light comes through in a k²-th of the time.
      expect((n * (1 + magnification(f, s))) / (other * (1 + magnification(f, t)))).toBeCloseTo(k, 10);
    }
    expect(equalBlur(8, 90, 600, 1)).toBe(8);
    // Far from a thing that is large against the lens, k times the size takes a k-th of the f-number.
    expect(equalBlur(16, 50, 50_000, 4)).toBeCloseTo(4, 1);
  });
});

describe('a run’s settings on a piece of another size', () => {
  const small = asset([part('cup', [stepOf('turned', { id: 'cup-turned' })])], {});
  const shotAt = (d: AssetDocument, aperture: number | null): AssetDocument => ({
    ...d,
    shot: { ...d.shot, aperture, widthPx: 48, heightPx: 60 },
  });
  const wide = shotAt(small, 2);
  let parts: PartMesh[];
  let large: PartMesh[];
  beforeAll(() => {
    parts = formAsset(small, 'low', none).parts;
    large = parts.map((p) => ({ ...p, mesh: { ...p.mesh, positions: p.mesh.positions.map((x) => 3 * x) as Float64Array } }));
  });

  it('lengths of a bake go with it, texels, rays and angles don’t', () => {
    const from = { ...small, bake: { ...small.bake, frontMm: 0.5, reachMm: 12, occlusionRays: 96, spreadDegrees: 80 } };
    const { commands, reasons } = carried('bake', from, small, 3, null);
    const { bake } = apply(small, { commands });
    expect(bake).toMatchObject({ frontMm: 1.5, reachMm: 36, occlusionRays: 96, spreadDegrees: 80, samples: from.bake.samples });
    expect(reasons[0]).toMatch(/× 3/);
    expect(carried('bake', from, small, 1, null).reasons).toEqual(['Both are of one size: distances, reach and radii stay.']);
  });
  it('watts go with the square, so that as much light falls on it', () => {
    const solved = solveStage(wide, parts);
    const from = { ...wide, rig: { ...wide.rig, power: solved.rig.power } };
    const to = apply(wide, carried('light', from, wide, 3, solved.shot.camera.focus));
    expect(to.rig.power?.key).toBeCloseTo(9 * (from.rig.power?.key ?? 0), 2);
    const there = solveStage(to, large);
    for (const [i, lamp] of there.rig.figures.entries()) expect(lamp.arriving / solved.rig.figures[i].arriving).toBeCloseTo(1, 3);
    // The shutter makes up for the aperture: the grey card reads what it read.
    expect(there.rig.cardReading / solved.rig.cardReading).toBeCloseTo(1, 2);
  });
  it('a solved aperture is solved there too; a fixed one whose focus isn’t known stays, and says so', () => {
    expect(apply(small, carried('light', shotAt(small, null), small, 3, 500)).shot.aperture).toBeNull();
    const { reasons, commands } = carried('light', wide, small, 3, null);
    expect(apply(small, { commands }).shot.aperture).toBe(2);
    expect(reasons.join(' ')).toContain('isn’t known');
    // One that no lens has is not set.
    const far = carried('light', wide, small, 40, 500);
    expect(apply(small, far).shot.aperture).toBe(2);
    expect(far.reasons.join(' ')).toContain('no lens has');
  });
  it('materials of the same name take the look; with none there is nothing to take', () => {
    const m = { ...small.materials[0], roughness: 0.11 };
    const has = small.materials.length > 0;
    if (has) expect(apply(small, carried('surface', { ...small, materials: [m] }, small, 3, null)).materials[0].roughness).toBe(0.11);
    expect(carried('surface', { ...small, materials: [] }, small, 3, null).commands).toEqual([]);
  });
  it('a traced picture of the larger one is blurred as the smaller one’s was; with the aperture left as it is, it is not', async () => {
    // Focused on the front, so that what stands behind is out of focus.
    const picture = async (document: AssetDocument, of: PartMesh[]) => {
      const solved = solveStage(document, of);
      const scene = stageScene(document, of, {}, solved);
      const out = await renderPicture(scene, solved.development, { width: 48, height: 60, samples: 48, seed: 1 }, () => 0);
      return { solved, data: out.picture.data };
    };
    // The lens’s opening is what blurs: as a share of the piece it has to be the same.
    const from = { ...wide, shot: { ...wide.shot, aperture: 8, lensMm: 180, margin: 0.02, sharpShare: 0.05 } };
    const lit = { ...from, rig: { ...from.rig, power: solveStage(from, parts).rig.power } };
    const a = await picture(lit, parts);
    const to = apply(lit, carried('light', lit, lit, 3, a.solved.shot.camera.focus));
    const b = await picture(to, large);
    // The light is carried, the aperture and the shutter are left.
    const left = await picture({ ...lit, rig: { ...lit.rig, power: to.rig.power } }, large);
    const off = (x: Uint8Array, y: Uint8Array) => Math.sqrt(x.reduce((s, v, i) => s + (v - y[i]) ** 2, 0) / x.length);
    expect(off(a.data, b.data)).toBeLessThan(0.5 * off(a.data, left.data));
    // The cone of light that meets in the focus is as wide.
    const cone = ({ lensRadius, focus }: { lensRadius: number; focus: number }) => lensRadius / focus;
    expect(cone(b.solved.shot.camera) / cone(a.solved.shot.camera)).toBeCloseTo(1, 1);
  });
});
