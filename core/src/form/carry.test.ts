import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { translation } from '../maths/mat4';
import { areaOf } from '../mesh/measures';
import { faceCount, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { carried } from './carry';
import { patchIndex, placesOf } from './places';
import { centreOf, findRegion, type Region } from './regions';

/** A sheet of n × n squares of a side in all, with a bump: as an import has it, without patch coordinates. */
function sheet(n: number, side = 100, bump = 0): PolyMesh {
  const positions: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const [x, y] = [(side * i) / n, (side * j) / n];
      positions.push(x, y, bump * Math.exp(-((x - side / 2) ** 2 + (y - side / 2) ** 2) / 200));
    }
  const faceVert: number[] = [];
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i;
      faceVert.push(a, a + 1, a + n + 2, a + n + 1);
    }
  return makeMesh({ positions, faceStart: Array.from({ length: n * n + 1 }, (_, f) => 4 * f), faceVert, attributes: [] });
}
const pick = (mesh: PolyMesh, inside: (x: number, y: number) => boolean): Region => {
  const faces = Array.from({ length: faceCount(mesh) }, (_, f) => f).filter((f) => inside(centreOf(mesh, f)[0], centreOf(mesh, f)[1]));
  return {
    id: 'r',
    name: 'Corner',
    weight: 1,
    rules: [{ id: 'a', how: 'add', rule: { kind: 'picked', places: placesOf(mesh, patchIndex(mesh), faces) } }],
  };
};
const areaIn = (mesh: PolyMesh, region: Region): number => findRegion(mesh, region).area;

describe('regions on a newer mesh', () => {
  it('are found again where its faces are others: the same place, the same area', () => {
    const [old, now] = [sheet(10), sheet(20, 100, 1)];
    const corner = pick(old, (x, y) => x < 40 && y < 40);
    expect(areaIn(old, corner)).toBeCloseTo(1600, 6);
    // On the newer mesh it means nothing until it is carried over.
    expect(findRegion(now, corner).lost).toHaveLength(1);
    const { regions, lost } = carried([corner], old, now);
    expect(lost).toEqual([]);
    expect(areaIn(now, regions[0])).toBeCloseTo(1600, 0);
    expect(findRegion(now, regions[0]).faces.every((f) => centreOf(now, f)[0] < 40 && centreOf(now, f)[1] < 40)).toBe(true);
  });
  it('are lost where what they lay on is gone, and say so', () => {
    const old = sheet(10);
    const away = transform(sheet(10), translation([0, 0, 30]));
    const corner = pick(old, (x, y) => x < 40 && y < 40);
    const { regions, lost } = carried([corner], old, away);
    expect(lost).toEqual(['Corner']);
    expect(regions).toEqual([corner]);
  });
  it('a face that looks the other way is another', () => {
    const old = cube(10);
    const top = { ...pick(old, () => true), name: 'All' };
    const inside = { ...old, ...makeMesh({ ...old, faceVert: Uint32Array.from(old.faceVert).reverse() }) };
    expect(carried([top], old, inside).lost).toEqual(['All']);
    expect(areaIn(old, carried([top], old, cube(10)).regions[0])).toBeCloseTo(areaOf(old), 6);
  });
  it('rules hold as they are', () => {
    const side: Region = {
      id: 's',
      name: 'Above',
      weight: 1,
      rules: [{ id: 'a', how: 'add', rule: { kind: 'side', axis: 'x', way: 'above', beyond: 50 } }],
    };
    expect(carried([side], sheet(10), sheet(14)).regions).toEqual([side]);
  });
});
