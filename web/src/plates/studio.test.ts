import { DataUtils } from 'three';
import { describe, expect, it } from 'vitest';
import { directionOf, LEVELS, roughnessOf, SIDE, studioLevels } from './studio-levels';
import { LIGHT } from './studio-light';

describe('the studio’s light', () => {
  it('is what is kept', () => {
    const kept = new Uint16Array(Uint8Array.from(atob(LIGHT), (c) => c.charCodeAt(0)).buffer);
    const made = studioLevels().flatMap((l) => [...l]);
    expect(kept).toHaveLength(made.length);
    for (const [i, v] of made.entries()) expect(Math.abs(DataUtils.fromHalfFloat(kept[i]) / v - 1)).toBeLessThan(1e-3);
  });

  it('of an even sky is even, whatever the roughness', () => {
    for (const level of studioLevels(() => 0.7)) for (const v of level) expect(v).toBeCloseTo(0.7, 6);
  });

  /** A sky that is as bright as it is high, 0 below. */
  const above = (_: number, v: number) => Math.max(0, Math.sin(Math.PI * (v - 0.5)));
  it('at roughness 1 is what a matt surface gathers: ⅔ looking up at a sky as bright as it is high', () => {
    // ∫ cos² dω / ∫ cos dω over the half sphere = (2π/3) / π.
    const last = studioLevels(above)[LEVELS - 1];
    const side = SIDE >> (LEVELS - 1);
    for (let k = 0; k < last.length; k++) {
      const n = directionOf(Math.floor(k / (side * side)), k % side, Math.floor(k / side) % side, side);
      // The closed form is for straight up; from straight below nothing of it is seen.
      if (n[1] > 0.95) expect(last[k]).toBeCloseTo(2 / 3, 1);
      expect(last[k]).toBeLessThanOrEqual(2 / 3 + 1e-3);
      if (n[1] < -0.95) expect(last[k]).toBeLessThan(0.02);
    }
    expect(roughnessOf(0)).toBe(0);
    expect(roughnessOf(LEVELS - 1)).toBe(1);
  });

  it('is the right way round: what is brightest lies where the window is drawn', () => {
    const [sharp] = studioLevels();
    const brightest = [...sharp.keys()].sort((a, b) => sharp[b] - sharp[a])[0];
    const [x, y, z] = directionOf(Math.floor(brightest / SIDE ** 2), brightest % SIDE, Math.floor(brightest / SIDE) % SIDE, SIDE);
    const column = 64 * (Math.atan2(z, x) / (2 * Math.PI) + 0.5);
    expect(column).toBeGreaterThan(9);
    expect(column).toBeLessThan(17);
    expect((2 * Math.asin(y)) / Math.PI).toBeGreaterThan(0.1);
  });
});
