import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { selfCrossings } from '../inspect/crossings';
import { random } from '../maths/random';
import { normalise, type Vec3 } from '../maths/vec3';
import { boundaryLoops, shellsOf } from './connectivity';
import { eulerCharacteristic, isWatertight, volumeOf } from './measures';
import { faceCount, type PolyMesh } from './polymesh';
import { shell } from './shell';
import { cut } from './slice';

describe('shells', () => {
  it('makes of a closed cube a hollow one: s³ − (s − 2t)³', () => {
    for (const t of [0.5, 2, 9]) {
      const { mesh, mostMm } = shell(cube(20), { thickness: t });
      expect(volumeOf(mesh)).toBeCloseTo(8000 - (20 - 2 * t) ** 3, 9);
      expect(mostMm).toBeCloseTo(10, 9);
      expect(shellsOf(mesh).count).toBe(2);
      const out = shell(cube(20), { thickness: t, side: 'out' }).mesh;
      expect(volumeOf(out)).toBeCloseTo((20 + 2 * t) ** 3 - 8000, 6);
      const middle = shell(cube(20), { thickness: t, side: 'middle' }).mesh;
      expect(volumeOf(middle)).toBeCloseTo((20 + t) ** 3 - (20 - t) ** 3, 6);
    }
  });
  it('gives an open box walls and a rim: one shell, closed', () => {
    const open = cut(cube(20), { normal: [0, 1, 0], offset: 16 }, { keep: 'below' });
    const { mesh } = shell(open, { thickness: 2 });
    expect(faceCount(mesh)).toBe(5 + 5 + 4);
    expect(isWatertight(mesh)).toBe(true);
    expect(volumeOf(mesh)).toBeCloseTo(20 * 20 * 16 - 16 * 16 * 14, 9);
    expect(shellsOf(mesh).count).toBe(1);
    expect(boundaryLoops(mesh)).toHaveLength(0);
  });
  it('moves every plane of random convex solids by its thickness, and doesn’t cross itself below the largest', () => {
    const next = random(8);
    for (let i = 0; i < 25; i++) {
      let m: PolyMesh = cube(40, [0, -20, 0]);
      for (let k = 0; k < 4; k++)
        m = cut(
          m,
          { normal: normalise([next() - 0.5, next() - 0.5, next() - 0.5] as Vec3), offset: 14 + 6 * next() },
          { keep: 'below', cap: 'c' },
        );
      const { mostMm } = shell(m, { thickness: 1e-6 });
      const made = shell(m, { thickness: 0.9 * mostMm }).mesh;
      expect(isWatertight(made)).toBe(true);
      expect(selfCrossings(made, 1)).toEqual([]);
      const fm = faceCount(m);
      for (let f = 0; f < fm; f++) {
        const [a, b] = [m.faceVert[m.faceStart[f]], made.faceVert[made.faceStart[fm + f]]];
        const n = normalOf(m, f);
        expect(Math.abs([0, 1, 2].reduce((s, k) => s + n[k] * (m.positions[3 * a + k] - made.positions[3 * b + k]), 0))).toBeCloseTo(
          0.9 * mostMm,
          6,
        );
      }
      expect(() => shell(m, { thickness: 1.01 * mostMm })).toThrow(/anything below/);
    }
  });
  it('thickens a sheet to a slab', () => {
    const { mesh } = shell(
      sheet(3, 30, () => 0),
      { thickness: 2 },
    );
    expect(volumeOf(mesh)).toBeCloseTo(1800, 6);
    expect(eulerCharacteristic(mesh)).toBe(2);
  });
});

function normalOf(m: PolyMesh, f: number): number[] {
  const [a, b, c] = [0, 1, 2].map((k) => 3 * m.faceVert[m.faceStart[f] + k]);
  const [u, v] = [b, c].map((x) => [0, 1, 2].map((k) => m.positions[x + k] - m.positions[a + k]));
  const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
  const l = Math.hypot(...n);
  return n.map((x) => x / l);
}
