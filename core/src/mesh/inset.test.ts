import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { inset } from './inset';
import { areaOf, eulerCharacteristic, isWatertight, volumeOf } from './measures';
import { attribute, faceCount } from './polymesh';
import { subdivide } from './subdivide';

describe('insets', () => {
  const top = (n: number) => (f: number) => (f === n ? 1 : 0);
  it('sinks a panel into one face: its walls stand upright, the rest stays', () => {
    const m = cube(20);
    const chosen = Uint8Array.from({ length: 6 }, (_, f) => top(1)(f));
    const { mesh, mostMm } = inset(m, chosen, {
      rings: [
        { inset: 3, push: 0, patch: 'border' },
        { inset: 3, push: -2, patch: 'wall' },
      ],
    });
    expect(volumeOf(mesh)).toBeCloseTo(8000 - 2 * 14 * 14, 9);
    expect(faceCount(mesh)).toBe(6 + 8);
    expect(isWatertight(mesh)).toBe(true);
    expect(mostMm).toBeCloseTo(10, 9);
  });
  it('takes a region of many faces as one, inner edges staying in their planes', () => {
    const m = subdivide(cube(20), { smooth: false });
    const chosen = Uint8Array.from({ length: faceCount(m) }, (_, f) => (f >= 4 && f < 8 ? 1 : 0));
    const whole = inset(m, chosen, {
      rings: [
        { inset: 3, push: 0, patch: 'border' },
        { inset: 3, push: 4, patch: 'wall' },
      ],
    }).mesh;
    expect(volumeOf(whole)).toBeCloseTo(8000 + 4 * 14 * 14, 9);
    expect(faceCount(whole)).toBe(24 + 16);
    const each = inset(m, chosen, {
      each: true,
      rings: [
        { inset: 1, push: 0, patch: 'border' },
        { inset: 1, push: -1, patch: 'wall' },
      ],
    }).mesh;
    expect(volumeOf(each)).toBeCloseTo(8000 - 4 * 8 * 8, 9);
    expect(eulerCharacteristic(each)).toBe(2);
  });
  it('goes round an edge of a solid: a region over two faces keeps its distance on both', () => {
    const m = cube(20);
    const chosen = Uint8Array.from([0, 1, 0, 1, 0, 0]);
    const { mesh } = inset(m, chosen, { rings: [{ inset: 2, push: 0, patch: 'border' }] });
    expect(areaOf(mesh)).toBeCloseTo(2400, 6);
    expect(volumeOf(mesh)).toBeCloseTo(8000, 6);
  });
  it('is held at its room, and never folds', () => {
    const { mesh, held, mostMm } = inset(cube(20), Uint8Array.from([0, 1, 0, 0, 0, 0]), {
      rings: [{ inset: 50, push: -1, patch: 'slope' }],
    });
    expect(mostMm).toBeCloseTo(10, 9);
    expect(50 * held).toBeCloseTo(9.8, 9);
    expect(isWatertight(mesh)).toBe(true);
  });
  it('reaches the open rim of a sheet and keeps what lay flat where it lay', () => {
    const m = sheet(4, 40, () => 0);
    const { mesh } = inset(m, new Uint8Array(16).fill(1), {
      rings: [
        { inset: 2, push: 0, patch: 'border' },
        { inset: 2, push: 1, patch: 'wall' },
      ],
    });
    expect(eulerCharacteristic(mesh)).toBe(1);
    const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
    let worst = 0;
    let raised = 0;
    for (let f = 0; f < faceCount(mesh); f++) {
      const corners = Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => mesh.faceStart[f] + i);
      if (corners.some((c) => mesh.positions[3 * mesh.faceVert[c] + 1] < 0.5)) continue;
      raised++;
      for (const c of corners) worst = Math.max(worst, Math.abs(mesh.positions[3 * mesh.faceVert[c]] - (uv[2 * c] - 0.5) * 40));
    }
    expect(areaOf(mesh)).toBeCloseTo(1600 + 4 * 36, 6);
    expect(raised).toBe(16);
    expect(worst).toBeLessThan(1e-9);
  });
});
