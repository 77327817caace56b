import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { IDENTITY, placement } from '../maths/mat4';
import { shell } from '../mesh/shell';
import { cut } from '../mesh/slice';
import { transform } from '../mesh/transform';
import { followTravel, Placed, standing, type Travel } from './relations';

const at = (size: number, x: number, y: number, z: number) => new Placed(cube(size), [placement([x, y, z], [0, 0, 0])]);

describe('how parts stand to each other', () => {
  it('measures gaps, resting and how deep one is sunk', () => {
    const a = at(20, 0, 0, 0);
    expect(standing(a, at(10, 0, 20.4, 0))).toMatchObject({ gap: expect.closeTo(0.4, 9), sunk: 0 });
    expect(standing(a, at(10, 0, 20, 0))).toMatchObject({ gap: 0, sunk: 0 });
    expect(standing(a, at(6, 0, 17, 0))).toMatchObject({ gap: 0, sunk: expect.closeTo(3, 5) });
    // Wholly inside: as deep as the nearest wall of what it lies in lets it be.
    expect(standing(a, at(2, 0, 9, 0)).sunk).toBeGreaterThan(8);
    // A peg right through a board: as deep as half the board is thick.
    const board = new Placed(transform(cube(1), [60, 0, 0, 0, 0, 8, 0, 0, 0, 0, 60, 0, 0, 0, 0, 1]), [IDENTITY]);
    const peg = new Placed(transform(cube(1), [4, 0, 0, 0, 0, 40, 0, 0, 0, 0, 4, 0, 0, -16, 0, 1]), [IDENTITY]);
    expect(standing(board, peg).sunk).toBeGreaterThan(1.9);
  });
  it('finds an overlap of a tenth of a millimetre, two long, wherever it lies: the least way out', () => {
    const wall = new Placed(transform(cube(1), [60, 0, 0, 0, 0, 200, 0, 0, 0, 0, 60, 0, 0, 0, 0, 1]), [IDENTITY]);
    for (const y of [13.37, 101.9, 177.2]) {
      // The edge of a small block, two long, a tenth inside the wall.
      const block = new Placed(transform(cube(1), [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 30 + 1 - 0.1, y, 3, 1]), [IDENTITY]);
      expect(standing(wall, block)).toMatchObject({ gap: 0, sunk: expect.closeTo(0.1, 5) });
      expect(standing(block, wall).sunk).toBeCloseTo(0.1, 5);
    }
    // Half as deep again counts half as much again, and touching counts nothing.
    const touching = new Placed(transform(cube(1), [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 31, 50, 3, 1]), [IDENTITY]);
    expect(standing(wall, touching)).toMatchObject({ gap: 0, sunk: 0 });
  });
  it('counts every copy', () => {
    const row = new Placed(cube(4), [placement([0, 0, 0], [0, 0, 0]), placement([30, 0, 0], [0, 0, 0])]);
    expect(standing(row, at(4, 36, 0, 0)).gap).toBeCloseTo(2, 9);
  });
});

describe('travel', () => {
  const slide = (from: number, to: number, axis: Travel['axis'] = 'y'): Travel => ({ kind: 'slide', axis, from, to, x: 0, y: 0, z: 0 });
  /** A chest 40 wide, walls 2, open above. */
  const chest = new Placed(shell(cut(cube(40), { normal: [0, 1, 0], offset: 38 }, { keep: 'below' }), { thickness: 2 }).mesh, [IDENTITY]);
  it('a tray slides clear of its chest, with the clearance it has', () => {
    const tray = at(35, 0, 2.5, 0);
    const found = followTravel(tray, [{ name: 'chest', placed: chest }], slide(0, 60));
    expect(found.clash).toBeNull();
    expect(found.least).toMatchObject({ part: 'chest', gap: expect.closeTo(0.5, 6) });
  });
  it('runs into a wall where it is, to a thousandth of the way', () => {
    const drawer = at(10, 0, 5, 0);
    const found = followTravel(drawer, [{ name: 'chest', placed: chest }], slide(0, 40, 'x'));
    // Its side stands at 5, the wall's inside at 18.
    expect(found.clash?.part).toBe('chest');
    expect(found.clash?.at).toBeCloseTo(13, 2);
  });
  it('a lid turned about its hinge meets what stands behind it', () => {
    const lid = new Placed(transform(cube(1), [40, 0, 0, 0, 0, 2, 0, 0, 0, 0, 40, 0, 0, 40, 20, 1]), [IDENTITY]);
    const wall = at(20, 0, 40, -40);
    const turn: Travel = { kind: 'turn', axis: 'x', from: 0, to: -180, x: 0, y: 41, z: 0 };
    const found = followTravel(lid, [{ name: 'wall', placed: wall }], turn);
    expect(found.clash?.part).toBe('wall');
    expect(found.clash?.at).toBeLessThan(-90);
    expect(found.clash?.at).toBeGreaterThan(-180);
  });
});
