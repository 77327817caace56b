import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../../test/shapes';
import { IDENTITY } from '../../maths/mat4';
import { random } from '../../maths/random';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { layIslands, placeIslands, type UnwrapSettings, unwrap } from '../../pipeline/unwrap';
import { FARTHEST, gapField, gapsAt } from './gaps';
import { checkIslandPlaces, findPlaces, type IslandPlace, islandPlaces, shiftBetween, shifted, UNMOVED } from './places';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const part = (mesh: PolyMesh) => [{ id: 'p', name: 'p', mesh, placements: [IDENTITY] }];
const uvOf = (mesh: PolyMesh): ArrayLike<number> => attribute(mesh, 'uv', 'corner')?.data as ArrayLike<number>;
const islandOf = (mesh: PolyMesh): ArrayLike<number> => attribute(mesh, 'island', 'face')?.data as ArrayLike<number>;
const all = (places: readonly { place: IslandPlace }[]): IslandPlace[] => places.map((p) => p.place);

/** A dome over a square: one curved island, no two triangles of which are alike. */
const dome = (n: number): PolyMesh => sheet(n, 40, (x, y) => 6 * Math.cos(x / 18) * Math.cos(y / 15));

describe('islands placed by hand', () => {
  it('all places of a layout give the same layout again, curved and stretched islands too', () => {
    for (const mesh of [cube(10), dome(12)]) {
      const made = unwrap(part(mesh), settings);
      const again = unwrap(part(mesh), { ...settings, places: all(islandPlaces(made.parts)) });
      const [a, b] = [uvOf(made.parts[0].mesh), uvOf(again.parts[0].mesh)];
      for (let i = 0; i < a.length; i++) expect(b[i]).toBeCloseTo(a[i], 5);
      expect(again.figures).toMatchObject({ placed: made.figures.islands, lostPlaces: 0, overlapTexels: 0 });
    }
  });

  it('one is moved, turned and made larger about a point as told; the others stay to the bit', () => {
    const made = unwrap(part(cube(10)), settings);
    const places = all(islandPlaces(made.parts));
    const by = { x: 0.03, y: -0.02, turn: 0.3, scale: 1.1 };
    const about: [number, number] = [0.4, 0.6];
    const moved = places.map((p, i) => (i === 2 ? shifted(p, about, by) : p));
    const between = shiftBetween(places[2], moved[2]);
    expect(shifted(places[2], places[2].at, between)).toEqual(moved[2]);
    const again = unwrap(part(cube(10)), { ...settings, places: moved });
    const [a, b] = [uvOf(made.parts[0].mesh), uvOf(again.parts[0].mesh)];
    const [c, s] = [1.1 * Math.cos(0.3), 1.1 * Math.sin(0.3)];
    for (let f = 0; f < 6; f++)
      for (let corner = 4 * f; corner < 4 * f + 4; corner++) {
        const [x, y] = [a[2 * corner] - 0.4, a[2 * corner + 1] - 0.6];
        const wanted =
          islandOf(made.parts[0].mesh)[f] === 2 ? [0.4 + c * x - s * y + 0.03, 0.6 + s * x + c * y - 0.02] : [x + 0.4, y + 0.6];
        expect(b[2 * corner]).toBeCloseTo(wanted[0], 5);
        expect(b[2 * corner + 1]).toBeCloseTo(wanted[1], 5);
      }
    const density = (f: typeof made.figures) => f.parts[0].density;
    expect(density(again.figures) ** 2 / density(made.figures) ** 2).toBeCloseTo((5 + 1.21) / 6, 3);
  });

  it('the rest is packed round what is locked: it stays, nothing lies on it, the padding is kept, nobody is denser than it', () => {
    const mesh = dome(12);
    const two = [...part(mesh), ...part(cube(12)).map((p) => ({ ...p, id: 'q' }))];
    const made = unwrap(two, settings);
    const cubes = all(islandPlaces(made.parts)).filter((p) => p.part === 'q');
    const [first] = cubes;
    // Right in the middle, askew and at three quarters of its size.
    const middle = shifted(first, first.at, { x: 0.5 - first.at[0], y: 0.5 - first.at[1], turn: 0.4, scale: 0.75 });
    const again = unwrap(two, { ...settings, places: [{ ...middle, locked: true }] });
    expect(again.figures).toMatchObject({ overlapTexels: 0, placed: 1, islands: made.figures.islands });
    expect(again.figures.gutter).toBeGreaterThanOrEqual(8);
    expect(again.figures.outside).toBeUndefined();
    const densities = again.figures.parts.map((p) => p.density);
    expect(Math.max(...densities)).toBeLessThan(made.figures.density * 0.7501);
    const back = all(islandPlaces(again.parts)).find((p) => p.from.every((x, k) => x === first.from[k]) && p.part === 'q');
    expect(back?.at[0]).toBeCloseTo(0.5, 5);
    expect(back?.scale).toBeCloseTo(middle.scale, 7);
  });

  it('when a tile is full, what is left over is said in a sentence; out of the tile is said, not clipped', () => {
    const made = unwrap(part(cube(10)), settings);
    const places = all(islandPlaces(made.parts));
    const huge = shifted(places[0], places[0].at, { x: 0.5 - places[0].at[0], y: 0.5 - places[0].at[1], turn: 0, scale: 20 });
    expect(() => unwrap(part(cube(10)), { ...settings, places: [huge] })).toThrow(/^There is no room left beside the islands/);
    const out = places.map((p, i) => (i === 0 ? shifted(p, p.at, { ...UNMOVED, x: 1 - p.at[0] }) : p));
    const { figures, parts } = unwrap(part(cube(10)), { ...settings, places: out });
    expect(figures.outside).toBe(1);
    expect(Math.max(...Array.from(uvOf(parts[0].mesh)))).toBeGreaterThan(1.05);
  });

  it('they are found again on other counts, and not on the other side of a thin plate; what is gone is counted', () => {
    const coarse = unwrap(part(dome(12)), settings);
    const [place] = all(islandPlaces(coarse.parts));
    const turned = shifted(place, [0.5, 0.5], { x: 0, y: 0, turn: Math.PI / 2, scale: 0.5 });
    const fine = unwrap(part(dome(31)), { ...settings, places: [turned] });
    expect(fine.figures).toMatchObject({ placed: 1, lostPlaces: 0, islands: 1 });
    const there = all(islandPlaces(fine.parts))[0];
    expect(there.scale / turned.scale).toBeCloseTo(1, 2);
    // Both sides of a plate of nothing: faces at the same place that look either way.
    const plate = makeMesh({
      positions: [0, 0, 0, 10, 0, 0, 10, 10, 0, 0, 10, 0],
      faceStart: [0, 4, 8],
      faceVert: [0, 1, 2, 3, 3, 2, 1, 0],
      attributes: [],
    });
    const side = (z: number): IslandPlace => ({
      part: 'p',
      from: [5, 5, 0],
      facing: [0, 0, z],
      along: [1, 0, 0],
      at: [0.5, 0.5],
      angle: 0,
      scale: 0.01,
    });
    const both = [{ id: 'p', mesh: plate, island: [7, 8] }];
    expect([...findPlaces(both, [side(-1), side(1)]).island]).toEqual([8, 7]);
    // The locked one has it, though it is said later.
    expect([...findPlaces(both, [side(1), { ...side(1), locked: true }]).island]).toEqual([-1, 7]);
    expect([
      ...findPlaces(both, [
        { ...side(1), from: [5, 5, 3] },
        { ...side(1), part: 'gone' },
      ]).island,
    ]).toEqual([-1, -1]);
  });

  it('laid flat once, it is placed as if it had been laid anew', () => {
    const laid = layIslands(part(dome(12)), settings);
    const first = placeIslands(laid, settings);
    const places = all(islandPlaces(first.parts)).map((p) => shifted(p, [0.5, 0.5], { ...UNMOVED, turn: 1, scale: 0.6 }));
    expect(placeIslands(laid, { ...settings, places })).toEqual(unwrap(part(dome(12)), { ...settings, places }));
    expect(placeIslands(laid, settings)).toEqual(first);
  });

  it('places from elsewhere are checked', () => {
    const [good] = all(islandPlaces(unwrap(part(cube(10)), settings).parts));
    expect(checkIslandPlaces([{ ...good, more: 1 }])).toEqual([good]);
    for (const bad of [
      null,
      {},
      [null],
      [{ ...good, part: 3 }],
      [{ ...good, from: [0, 0] }],
      [{ ...good, at: [Number.NaN, 0] }],
      [{ ...good, scale: 0 }],
      [{ ...good, angle: '1' }],
      new Array(20_001).fill(good),
    ])
      expect(() => checkIslandPlaces(bad)).toThrow(/^[A-Z].*\.$/);
  });
});

/** Two squares of a texture of 64: 16 texels, and the other 10 texels to its right. */
const two = withAttribute(
  withAttribute(
    makeMesh({
      positions: [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0, 3, 0, 0, 3, 1, 0, 2, 1, 0],
      faceStart: [0, 4, 8],
      faceVert: [0, 1, 2, 3, 4, 5, 6, 7],
      attributes: [],
    }),
    {
      name: 'uv',
      domain: 'corner',
      size: 2,
      data: Float64Array.from([8, 8, 24, 8, 24, 24, 8, 24, 34, 8, 50, 8, 50, 24, 34, 24].map((x) => x / 64)),
    },
  ),
  { name: 'island', domain: 'face', size: 1, data: Int32Array.from([0, 1]) },
);

describe('gaps while an island is moved', () => {
  const field = gapField([{ id: 'a', mesh: two }], 'a', 0, 64);
  const about: [number, number] = [16 / 64, 16 / 64];
  const right = (texels: number) => ({ ...UNMOVED, x: texels / 64 });

  it.each([
    [0, 10, 0],
    [4, 6, 0],
    [10, 0, 0],
    [13, 0, 3 * 16],
    [26, 0, 16 * 16],
  ])('%i texels to the right leave %i free and %i twice (counted by hand)', (by, gap, overlap) => {
    expect(gapsAt(field, about, right(by), 8)).toMatchObject({ gap, overlap, outside: false });
  });
  it('lines are drawn only where fewer are free than wanted, and lead to the other one', () => {
    expect(gapsAt(field, about, right(0), 8).close).toHaveLength(0);
    const { close } = gapsAt(field, about, right(4), 8);
    expect(close.length / 4).toBeGreaterThanOrEqual(16);
    // Six free are seven from middle to middle; along the upper and lower rims the texels behind are eight off.
    const across = Array.from({ length: close.length / 4 }, (_, i) => Math.round(64 * (close[4 * i + 2] - close[4 * i])));
    expect([...new Set(across)].sort()).toEqual([7, 8]);
  });
  it('of a large texture not every texel is drawn: gaps and overlaps are in its texels all the same', () => {
    const large = gapField([{ id: 'a', mesh: two }], 'a', 0, 4096);
    // 64 times as fine as above: ten texels between are 640, to the two that a cell is wide; where they meet as many more.
    expect(large).toMatchObject({ size: 2048, per: 2 });
    expect(Math.abs(gapsAt(large, about, right(9.5), 16).gap - 32)).toBeLessThanOrEqual(2);
    const twice = gapsAt(large, about, right(13), 16).overlap;
    expect(twice / (3 * 16 * 64 * 64)).toBeCloseTo(1, 1);
  });
  it('out of the tile is said; alone in a tile nothing is near; another island is none', () => {
    expect(gapsAt(field, about, { ...UNMOVED, y: 45 / 64 }, 8).outside).toBe(true);
    const alone = makeMesh({ ...two, faceStart: [0, 4], faceVert: [0, 1, 2, 3], attributes: [] });
    const laid = unwrap(part(alone), settings);
    expect(gapsAt(gapField(laid.parts, 'p', 0, 64), about, UNMOVED, 8)).toMatchObject({ gap: FARTHEST, overlap: 0 });
    expect(() => gapField(laid.parts, 'p', 5, 64)).toThrow(/^That island is not there/);
  });
  it('is what the layout’s own figures say, wherever an island is put (to a texel along each axis)', () => {
    const made = unwrap(part(cube(10)), { ...settings, padding: 16 });
    const places = all(islandPlaces(made.parts));
    const next = random(3);
    for (let i = 0; i < 6; i++) {
      const k = Math.floor(next() * places.length);
      const by = { ...UNMOVED, x: (next() - 0.5) * 0.3, y: (next() - 0.5) * 0.3 };
      const { figures } = unwrap(part(cube(10)), {
        ...settings,
        padding: 16,
        places: places.map((p, j) => (j === k ? shifted(p, p.at, by) : p)),
      });
      const around = gapField(made.parts, 'p', k, 512);
      const said = gapsAt(around, places[k].at, by, 16);
      expect(said.outside).toBe(figures.outside === 1);
      if (said.outside) continue;
      expect(Math.abs(Math.min(said.gap, made.figures.gutter) - figures.gutter)).toBeLessThanOrEqual(1);
      // Half a texel more or less along its rim.
      expect(Math.abs(said.overlap - figures.overlapTexels)).toBeLessThanOrEqual(around.rim.length / 4);
    }
  });
});
