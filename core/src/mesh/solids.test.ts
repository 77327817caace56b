import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { cube } from '../../test/shapes';
import type { Kit } from '../kit';
import { placement } from '../maths/mat4';
import { random } from '../maths/random';
import { isWatertight, volumeOf } from './measures';
import { faceCount, type PolyMesh } from './polymesh';
import { combine } from './solids';
import { transform } from './transform';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const solids = () => kit.solids as NonNullable<Kit['solids']>;

describe('solids', () => {
  it('cuts a window through a block: two C-shaped halves on each side of it, corners in their exact places', () => {
    const block = cube(20);
    const tool = transform(cube(1), [8, 0, 0, 0, 0, 6, 0, 0, 0, 0, 40, 0, 0, 7, 0, 1]);
    const { mesh, volume } = combine(solids(), block, tool, { how: 'cut' });
    expect(volumeOf(mesh)).toBeCloseTo(8000 - 8 * 6 * 20, 3);
    expect(volume).toBeCloseTo(8000 - 8 * 6 * 20, 2);
    expect(isWatertight(mesh)).toBe(true);
    expect(faceCount(mesh)).toBe(4 + 2 * 2 + 4);
    for (const x of [-10, 10]) expect([...mesh.positions]).toContain(x);
  });
  it('agrees with the library about volumes, and stays closed, for random turned blocks', () => {
    const next = random(17);
    for (let i = 0; i < 40; i++) {
      const a = cube(20);
      const turn = [next() * 90, next() * 90, next() * 90] as const;
      const b = transform(cube(8 + 10 * next()), placement([16 * next() - 8, 14 * next() - 4, 16 * next() - 8], turn));
      const found = (['join', 'cut', 'intersect'] as const).map((how) => combine(solids(), a, b, { how }));
      for (const { mesh, volume } of found) {
        expect(isWatertight(mesh)).toBe(true);
        expect(Math.abs(volumeOf(mesh) - volume)).toBeLessThan(0.02);
      }
      const [join, cut, meet] = found.map((f) => volumeOf(f.mesh));
      expect(join + meet).toBeCloseTo(volumeOf(a) + volumeOf(b), 1);
      expect(cut + meet).toBeCloseTo(volumeOf(a), 1);
    }
  });
  it('says what is no solid', () => {
    const open = { ...cube(10) } as PolyMesh;
    const half = {
      ...open,
      faceStart: open.faceStart.slice(0, 6),
      faceVert: open.faceVert.slice(0, 20),
      triangles: open.triangles.slice(0, 30),
      triangleFace: open.triangleFace.slice(0, 10),
    };
    expect(() => combine(solids(), half, cube(4), { how: 'cut', names: ['The can', 'The window'] })).toThrow(
      /The can is not a closed solid/,
    );
    expect(() => combine(solids(), cube(4), cube(10, [0, -1, 0]), { how: 'cut' })).toThrow(/takes all of it away/);
  });
});
