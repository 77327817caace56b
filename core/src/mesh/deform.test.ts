import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { selfCrossings } from '../inspect/crossings';
import { bend, lengthen, looped, taper, twist } from './deform';
import { dent, dentsOn } from './dents';
import { areaOf, boundsOf, isWatertight, volumeOf } from './measures';
import type { PolyMesh } from './polymesh';
import { refine } from './refine';
import { shell } from './shell';
import { subdivide } from './subdivide';
import { transform } from './transform';

/** A slab 100 long, 10 high, 20 deep. */
const slab = (): PolyMesh => transform(cube(1), [100, 0, 0, 0, 0, 10, 0, 0, 0, 0, 20, 0, 50, -5, 0, 1]);

describe('changes of shape', () => {
  it('bend: the neutral line keeps its length, the sides grow and shrink as circles about one centre do', () => {
    for (const degrees of [30, 90, 170, -120]) {
      const angle = (degrees * Math.PI) / 180;
      const bent = bend(slab(), { axis: 'x', towards: 'y', from: 0, to: 100, pieces: 64, angle, neutral: 0 });
      expect(isWatertight(bent)).toBe(true);
      const line = (height: number) => {
        const flat = looped(slab(), { axis: 'x', from: 0, to: 100, pieces: 64 });
        const on: number[] = [];
        for (let v = 0; v < flat.positions.length / 3; v++)
          if (Math.abs(flat.positions[3 * v + 1] - height) < 1e-9 && flat.positions[3 * v + 2] > 0) on.push(v);
        on.sort((a, b) => flat.positions[3 * a] - flat.positions[3 * b]);
        let long = 0;
        for (let i = 1; i < on.length; i++)
          long += Math.hypot(...[0, 1, 2].map((k) => bent.positions[3 * on[i] + k] - bent.positions[3 * on[i - 1] + k]));
        return long;
      };
      // Chords of 64 pieces: short of the arc by (angle / 64)² / 24.
      const chord = Math.sin(Math.abs(angle) / 128) / (Math.abs(angle) / 128);
      expect(line(5) / chord).toBeCloseTo(100 - 5 * angle, 6);
      expect(line(-5) / chord).toBeCloseTo(100 + 5 * angle, 6);
      // Pappus: the middle of its section keeps its way, so the volume stays.
      expect(Math.abs(volumeOf(bent) / 20000 - 1)).toBeLessThan(2e-3);
    }
    expect(() => bend(slab(), { axis: 'x', towards: 'y', from: 0, to: 10, pieces: 8, angle: 3, neutral: 0 })).toThrow(
      /anything below 115°/,
    );
  });
  it('taper makes a frustum, twist keeps sections, stretch keeps what lies beyond', () => {
    const t = taper(slab(), { axis: 'x', from: 0, to: 100, pieces: 1, factor: 0.5, about: [0, 0] });
    // Frustum: h/3 (A + √(AB) + B).
    expect(volumeOf(t)).toBeCloseTo((100 / 3) * (200 + 100 + 50), 6);
    const w = twist(slab(), { axis: 'x', from: 0, to: 100, pieces: 200, angle: 1, about: [0, 0] });
    expect(isWatertight(w)).toBe(true);
    // Its sides are ruled; the shorter diagonal of each piece lies inside them.
    expect(Math.abs(volumeOf(w) / 20000 - 1)).toBeLessThan(3e-3);
    const l = lengthen(slab(), { axis: 'x', from: 20, to: 40, pieces: 1, factor: 3, keepVolume: false, about: [0, 0] });
    expect(boundsOf(l).max[0]).toBeCloseTo(140, 9);
    expect(volumeOf(l)).toBeCloseTo(28000, 6);
  });
  it('dents press both sides of a wall in without crossing them, however many there are', () => {
    const can = shell(subdivide(subdivide(cube(60), { smooth: false })), { thickness: 1.2 }).mesh;
    for (const seed of [1, 2, 3, 4]) {
      const dents = dentsOn(can, { count: 12, seed, smallest: 4, largest: 14, depth: 9 });
      const made = dent(can, dents, (d) => d.radius / 3);
      expect(isWatertight(made)).toBe(true);
      expect(selfCrossings(made, 1)).toEqual([]);
      expect(volumeOf(made)).toBeGreaterThan(0.6 * volumeOf(can));
    }
    expect(dentsOn(can, { count: 3, seed: 9, smallest: 2, largest: 5, depth: 1 })).toEqual(
      dentsOn(can, { count: 3, seed: 9, smallest: 2, largest: 5, depth: 1 }),
    );
  });
  it('refining divides edges without opening gaps or moving anything', () => {
    const m = cube(20);
    const fine = refine(
      m,
      (p, a, b) => Math.hypot(...[0, 1, 2].map((k) => p[3 * a + k] - p[3 * b + k])) > 4 && p[3 * a + 1] + p[3 * b + 1] > 20,
    );
    expect(isWatertight(fine)).toBe(true);
    expect(volumeOf(fine)).toBeCloseTo(8000, 6);
    expect(areaOf(fine)).toBeCloseTo(2400, 6);
  });
});
