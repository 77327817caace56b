import bunny from 'bunny';
import { afterEach, describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { IDENTITY, type Mat4, multiply, rotation, scaling, transformPoint, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { soupOf } from '../mesh/soup';
import { type Instance, InstanceQuery, instancedTree } from './instances';
import { ownMemory, useReference } from './kernel/host';
import { RayQuery } from './query';
import { buildTree, sharedRoom } from './tree';

const BUNNY = new Float32Array(bunny.cells.flat().flatMap((i: number) => bunny.positions[i]));
/** Sideways by half its height. */
const SHEAR: Mat4 = [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
/** Turned, mirrored, sheared, squeezed, enlarged, far away, and one in another. */
const PLACES: Mat4[] = [
  IDENTITY,
  multiply(translation([30, 0, 0]), rotation([0.6, 0.8, 0], 1)),
  multiply(translation([-30, 5, 0]), scaling([-1, 1, 1])),
  multiply(translation([0, 0, 30]), SHEAR),
  multiply(translation([0, 40, 0]), scaling([2, 0.25, 1])),
  multiply(translation([5, 0, 0]), scaling([0.5, 0.5, -0.5])),
  translation([4000, 0, 0]),
];

/** The same copies as triangles of one mesh; which copy a triangle is of is its number over theirs. */
function flat(soup: ArrayLike<number>, places: readonly Mat4[]): Float64Array {
  const out = new Float64Array(soup.length * places.length);
  for (const [i, m] of places.entries())
    for (let j = 0; j < soup.length; j += 3) out.set(transformPoint(m, [soup[j], soup[j + 1], soup[j + 2]]), i * soup.length + j);
  return out;
}

function* rays(count: number, seed: number): Generator<[number, number, number, number, number, number]> {
  const next = random(seed);
  for (let i = 0; i < count; i++) {
    const o = [100 * next() - 50, 80 * next() - 30, 80 * next() - 30];
    const copy = PLACES[Math.floor(next() * PLACES.length)];
    const c = 3 * Math.floor((next() * BUNNY.length) / 3);
    const to = transformPoint(copy, [BUNNY[c] + next() - 0.5, BUNNY[c + 1] + next() - 0.5, BUNNY[c + 2] + next() - 0.5]);
    yield [o[0], o[1], o[2], to[0] - o[0], to[1] - o[1], to[2] - o[2]];
  }
}

afterEach(() => useReference(false));

describe('copies in many places', () => {
  const tree = buildTree(BUNNY);
  const instances: Instance[] = PLACES.map((place) => ({ tree, place }));

  it('mirrored, sheared and scaled ones too, are met where the same triangles laid flat are', () => {
    const query = new InstanceQuery(instancedTree(instances));
    const one = new RayQuery(buildTree(flat(BUNNY, PLACES)));
    const each = BUNNY.length / 9;
    let [hits, apart, others] = [0, 0, 0];
    for (const ray of rays(20_000, 1)) {
      const met = one.closest(...ray, 0, 4);
      const got = query.closest(...ray, 0, 4);
      expect(query.any(...ray, 0, 4)).toBe(got);
      if (got) query.closest(...ray, 0, 4);
      if (got !== met || (met && Math.abs(query.t - one.t) > 1e-4)) apart++;
      else if (met) {
        hits++;
        // Where a ray runs along an edge, the two may name its two sides.
        if (query.instance * each + query.triangle !== one.triangle) others++;
      }
    }
    expect(hits).toBeGreaterThan(5000);
    expect(apart).toBeLessThan(0.0005 * hits);
    expect(others).toBeLessThan(0.001 * hits);
  });

  it('are the same by the kernel, by its twin and in shared memory', () => {
    const room = sharedRoom();
    const kept = buildTree(BUNNY, room);
    const shared = instancedTree(
      PLACES.map((place) => ({ tree: kept, place })),
      room,
    );
    expect(shared.recordsAt).toBeGreaterThan(0);
    const made = instancedTree(instances);
    const queries = [new InstanceQuery(made), new InstanceQuery(shared)];
    useReference(true);
    queries.push(new InstanceQuery(made));
    useReference(false);
    let hits = 0;
    for (const ray of rays(3000, 2)) {
      const [a, b, c] = queries.map((q) => (q.closest(...ray, 0, 4) ? [q.instance, q.triangle, q.t, q.u, q.v] : null));
      expect(b).toEqual(a);
      expect(c).toEqual(a);
      if (a) hits++;
      expect(queries.map((q) => q.any(...ray, 0, 4))).toEqual([a !== null, a !== null, a !== null]);
    }
    expect(hits).toBeGreaterThan(800);
  });

  it('one on the other: the lower instance is met', () => {
    const box = buildTree(soupOf(cube(2)));
    for (const seat of [false, true]) {
      useReference(seat);
      const query = new InstanceQuery(instancedTree([IDENTITY, IDENTITY, IDENTITY].map((place) => ({ tree: box, place }))));
      expect(query.closest(0.1, 1.2, 5, 0, 0, -1, 0, 9)).toBe(true);
      expect([query.instance, query.t]).toEqual([0, 4]);
    }
  });

  it('none, an empty one, and one that is flat', () => {
    expect(new InstanceQuery(instancedTree([])).closest(0, 0, 0, 0, 0, 1, 0, 9)).toBe(false);
    const empty = new InstanceQuery(instancedTree([{ tree: buildTree([]), place: IDENTITY }]));
    expect(empty.closest(0, 0, 5, 0, 0, -1, 0, 9)).toBe(false);
    expect(() => instancedTree([{ tree, place: scaling([1, 0, 1]) }])).toThrow('Place 1 of 1 has no volume.');
  });

  it('are found again after a thread’s memory was used for other things', () => {
    const query = new InstanceQuery(instancedTree(instances));
    expect(query.closest(0, 5, 50, 0, 0, -1, 0, 99)).toBe(true);
    const { t, instance } = query;
    const before = ownMemory()?.generation;
    for (let i = 0; i < 40; i++) {
      const other = new RayQuery(buildTree(Float32Array.from({ length: 9 * 40_000 }, (_, k) => BUNNY[k % BUNNY.length] + i)));
      other.nearest(0, 0, 0, Infinity);
    }
    expect(ownMemory()?.generation).not.toBe(before);
    expect(query.closest(0, 5, 50, 0, 0, -1, 0, 99)).toBe(true);
    expect([query.t, query.instance]).toEqual([t, instance]);
  });
});
