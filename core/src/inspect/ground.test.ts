import { describe, expect, it } from 'vitest';
import { IDENTITY, translation } from '../maths/mat4';
import { type GroundShade, groundShade } from './ground';

/** A flat disc of n sides about the upright axis, a height above the ground, with a speck on the ground that says where that is. */
function disc(radius: number, height: number, n = 96) {
  const position = [0, height, 0];
  for (let i = 0; i < n; i++) {
    const a = (2 * Math.PI * i) / n;
    position.push(radius * Math.cos(a), height, radius * Math.sin(a));
  }
  const index = Array.from({ length: n }, (_, i) => [0, 1 + i, 1 + ((i + 1) % n)]).flat();
  const speck = { position: [0, 0, 0, 1e-4, 0, 0, 0, 0, 1e-4], index: [0, 1, 2], placements: [IDENTITY] };
  return [{ position, index, placements: [IDENTITY] }, speck];
}

function at(shade: GroundShade, x: number, z: number): number {
  const texel = (v: number, from: number) => Math.min(shade.size - 1, Math.max(0, Math.floor(((v - from) / shade.side) * shade.size)));
  return shade.hidden[texel(z, shade.z) * shade.size + texel(x, shade.x)] / 255;
}

/**
 * From a small flat place to a disc parallel to it, `a` beside its axis: J. R. Howell, A Catalog of Radiation Heat Transfer Configuration
 * Factors, "differential planar element to circular disk in plane parallel to element" (the formula from memory).
 */
function factor(radius: number, height: number, a: number): number {
  if (a === 0) return radius ** 2 / (radius ** 2 + height ** 2);
  const [h, r] = [height / a, radius / a];
  const z = 1 + h * h + r * r;
  return (1 - (z - 2 * r * r) / Math.sqrt(z * z - 4 * r * r)) / 2;
}

describe('the shade on the ground', () => {
  for (const height of [20, 50, 100])
    it(`is the view factor of a disc ${height} mm above it`, () => {
      const shade = groundShade(disc(50, height)) as GroundShade;
      const half = shade.side / shade.size / 2;
      // A texel's middle lies half a texel beside both axes.
      const off = [0, 20, 40, 60, 80].map((a) => at(shade, a + half, half) - factor(50, height, Math.hypot(a + half, half)));
      expect(Math.hypot(...off) / Math.sqrt(off.length)).toBeLessThan(0.03);
    });

  it('is whole under what lies on it, and goes with every copy', () => {
    const [flat] = disc(10, 0);
    const shade = groundShade([{ ...flat, placements: [translation([-40, 0, 0]), translation([40, 0, 0])] }]) as GroundShade;
    expect(at(shade, -40, 0)).toBeGreaterThan(0.97);
    expect(at(shade, 40, 0)).toBeGreaterThan(0.97);
    expect(at(shade, 0, 0)).toBeLessThan(0.01);
    expect(shade.y).toBeLessThan(0);
    expect(shade.y).toBeGreaterThan(-0.3);
  });

  it('is none where nothing stands', () => {
    expect(groundShade([])).toBeNull();
    expect(groundShade([{ position: [1, 1, 1], index: [0, 0, 0], placements: [IDENTITY] }])).toBeNull();
  });
});
