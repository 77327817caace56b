import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import { form } from '../form/recipe';
import type { Step } from '../form/steps';
import { IDENTITY, type Mat4, placement, transformDirection } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import { boundsOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import type { PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { Placed, standing } from './relations';
import { comeToRest } from './rest';

/** A block of three sizes, its foot's middle at a place, turned. */
const block = (size: Vec3, at: Vec3 = [0, 0, 0], turn: Vec3 = [0, 0, 0]): PolyMesh =>
  transform(transform(cube(1), [size[0], 0, 0, 0, 0, size[1], 0, 0, 0, 0, size[2], 0, 0, 0, 0, 1]), placement(at, turn));
const upOf = (by: Mat4): Vec3 => transformDirection(by, [0, 1, 0]);
const tiltOf = (by: Mat4): number => (Math.acos(Math.min(1, upOf(by)[1])) * 180) / Math.PI;
/** Gap and overlap where it came to lie, by exact distances. */
const stands = (piece: PolyMesh, ground: PolyMesh, by: Mat4) =>
  standing(new Placed(transform(piece, by), [IDENTITY]), new Placed(ground, [IDENTITY]));

describe('coming to rest', () => {
  it('on a level floor: let down straight, standing as it stood', () => {
    const piece = block([20, 30, 10], [5, 37, 2]);
    const { by, gap, contacts, tipsAt } = comeToRest(piece, null, 0);
    expect(tiltOf(by)).toBeLessThan(1e-5);
    expect(boundsOf(transform(piece, by)).min[1]).toBeCloseTo(0, 3);
    expect(gap).toBeLessThan(0.01);
    expect(contacts.length).toBeGreaterThanOrEqual(4);
    // It tips over its narrow side: half of ten against half of thirty.
    expect(tipsAt).toBeCloseTo((Math.atan2(5, 15) * 180) / Math.PI, 3);
  });

  it('on a plate: a hundredth of a millimetre of gap at most, and none of overlap', () => {
    const plate = block([100, 6, 100]);
    for (const turn of [
      [0, 0, 0],
      [3, 10, -2],
      [-8, 40, 5],
    ] as const) {
      const piece = block([30, 20, 24], [4, 30, -6], turn);
      const { by, tipsAt } = comeToRest(piece, plate, 0);
      const found = stands(piece, plate, by);
      expect(found.sunk).toBe(0);
      expect(found.gap).toBeLessThanOrEqual(0.01);
      // Its foot lies flat on the plate.
      const foot = boundsOf(transform(piece, by));
      expect(foot.max[1] - foot.min[1]).toBeCloseTo(20, 2);
      expect(tipsAt).toBeGreaterThan(30);
    }
  });

  it('a box on an incline lies flush against it, whatever tilt it came with', () => {
    const slope = 12;
    const incline = block([200, 20, 200], [0, 0, 0], [0, 0, slope]);
    for (const start of [0, 6, 20]) {
      const piece = block([24, 12, 24], [0, 60, 0], [0, 0, start]);
      const { by } = comeToRest(piece, incline, -100);
      const normal = transformDirection(by, transformDirection(placement([0, 0, 0], [0, 0, start]), [0, 1, 0]));
      expect((Math.acos(normal[1]) * 180) / Math.PI).toBeCloseTo(slope, 2);
      const found = stands(piece, incline, by);
      expect(found.sunk).toBe(0);
      expect(found.gap).toBeLessThanOrEqual(0.01);
    }
  });

  it('a tripod touches in three places, on steps of three heights as on the level', () => {
    const feet: Vec3[] = [
      [30, 0, 0],
      [-15, 0, 26],
      [-15, 0, -26],
    ];
    const piece = transform(
      merge([...feet.map((f) => block([2, 40, 2], f)), block([70, 4, 60], [0, 40, 0])]),
      placement([0, 20, 0], [0, 0, 0]),
    );
    const stones = merge(feet.map((f, i) => block([14, 4 + 1.5 * i, 14], f)));
    const { by, contacts, tipsAt } = comeToRest(piece, stones, 0);
    const found = stands(piece, stones, by);
    expect(found.sunk).toBe(0);
    expect(found.gap).toBeLessThanOrEqual(0.01);
    // Every foot touches.
    for (const f of feet) expect(contacts.some((c) => Math.hypot(c[0] - f[0], c[2] - f[2]) < 6)).toBe(true);
    expect(tipsAt).toBeGreaterThan(5);
    expect(tiltOf(by)).toBeGreaterThan(1);
  });

  it('a bar laid across two rails lies on both', () => {
    const rails = merge([block([4, 10, 80], [-20, 0, 0]), block([4, 14, 80], [20, 0, 0])]);
    const bar = form(
      [
        stepOf('bar', {
          id: 'b',
          radius: 5,
          path: [
            { id: 'a', x: -45, y: 40, z: 0 },
            { id: 'c', x: 45, y: 40, z: 0 },
          ],
        }) as Step,
      ],
      {
        mesh: 'high',
        toleranceMm: 0.05,
      },
    ).mesh as PolyMesh;
    const { by, contacts } = comeToRest(bar, rails, 0);
    const found = stands(bar, rails, by);
    expect(found.sunk).toBe(0);
    expect(found.gap).toBeLessThanOrEqual(0.01);
    expect((Math.asin(transformDirection(by, [1, 0, 0])[1]) * 180) / Math.PI).toBeCloseTo((Math.atan2(4, 40) * 180) / Math.PI, 0);
    expect(contacts.some((c) => c[0] < -15) && contacts.some((c) => c[0] > 15)).toBe(true);
  });

  it('a plank beyond the edge of a table tips off it', () => {
    const table = block([100, 20, 100]);
    const over = comeToRest(block([60, 3, 10], [75, 30, 0]), table, 0);
    expect(tiltOf(over.by)).toBeGreaterThan(5);
    const on = comeToRest(block([60, 3, 10], [35, 30, 0]), table, 0);
    expect(tiltOf(on.by)).toBeLessThan(1e-3);
    expect(on.tipsAt).toBeGreaterThan(10);
  });
});
