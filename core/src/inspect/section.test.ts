import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { IDENTITY, translation } from '../maths/mat4';
import { keepFaces } from '../mesh/edit';
import { mergeLaid } from '../mesh/merge';
import { makeMesh, type PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { sectionThrough, wallAt } from './section';

const part = (mesh: PolyMesh, placements = [IDENTITY]) => ({ id: 'p', name: 'P', mesh, placements });
const LEVEL = { normal: [0, 1, 0] as const, offset: 0 };
/** A cube about the origin. */
const block = (side: number): PolyMesh => transform(cube(side), translation([0, -side / 2, 0]));
/** A closed box with a hollow in it. */
const hollow = (): PolyMesh => {
  const inner = block(6);
  return mergeLaid([block(10), makeMesh({ ...inner, faceVert: Uint32Array.from(inner.faceVert).reverse() })]);
};

describe('a section', () => {
  it('of a block is its side’s area, of each copy', () => {
    const [one] = sectionThrough([part(block(10), [translation([0, 0, 0]), translation([30, 0, 0])])], LEVEL);
    expect(one.area).toBeCloseTo(2 * 100, 9);
    expect(one.closed).toBe(true);
    for (let i = 1; i < one.triangles.length; i += 3) expect(one.triangles[i]).toBeCloseTo(0, 9);
  });
  it('beside the piece there is none', () => {
    expect(sectionThrough([part(block(10))], { normal: [0, 1, 0], offset: 80 })).toEqual([]);
  });
  it('of an open surface has outlines and no face', () => {
    const open = keepFaces(block(10), (f) => f !== 2);
    const [one] = sectionThrough([part(open)], { normal: [0.3, 0.9, Math.sqrt(1 - 0.9)], offset: 1 });
    expect([one.closed, one.area, one.triangles.length, one.lines.length > 0]).toEqual([false, 0, 0, true]);
  });
  it('of a hollow body shows its wall: as thick as it was made, wherever it is asked', () => {
    const [section] = sectionThrough([part(hollow())], LEVEL);
    expect(section.closed).toBe(true);
    expect(section.area).toBeCloseTo(100 - 36, 9);
    for (const place of [
      [4, 0, 0.5],
      [-4.5, 0, 1],
      [1, 0, 3.2],
      [0.2, 0, -4.9],
    ] as const)
      expect(wallAt(section.lines, place, LEVEL.normal)?.mm).toBeCloseTo(2, 9);
    // In the hollow the nearest side is a wall's inner one, and what lies across is the hollow.
    expect(wallAt(section.lines, [1, 0, 0], LEVEL.normal)?.mm).toBeCloseTo(6, 9);
  });
});

describe('a wall of a section', () => {
  /** Two squares one in the other, as a box 2 mm thick is cut. */
  const ring = (outer: number, inner: number): number[] => {
    const square = (s: number): number[][] => [
      [-s, 0, -s],
      [s, 0, -s],
      [s, 0, s],
      [-s, 0, s],
    ];
    const sides = (q: number[][]) => q.flatMap((p, i) => [...p, ...q[(i + 1) % 4]]);
    return [...sides(square(outer)), ...sides([...square(inner)].reverse())];
  };
  it('is as thick as it was made, from either side', () => {
    for (const x of [8.2, 9, 9.9]) {
      const wall = wallAt(ring(10, 8), [x, 0, 1], [0, 1, 0]);
      expect(wall?.mm).toBeCloseTo(2, 9);
      expect([wall?.from[0], wall?.to[0]].map(Number).sort((a, b) => a - b)).toEqual([8, 10]);
    }
  });
  it('is none on the outline itself or where nothing lies across', () => {
    expect(wallAt(ring(10, 8), [10, 0, 1], [0, 1, 0])).toBeNull();
    expect(wallAt([0, 0, 0, 1, 0, 0], [0.5, 0, 1], [0, 1, 0])).toBeNull();
  });
});
