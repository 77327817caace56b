import bunny from 'bunny';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { random } from '../maths/random';
import { soupOf } from '../mesh/soup';
import { RayQuery } from './query';
import { buildTree } from './tree';

const soup = new Float32Array(bunny.cells.flat().flatMap((i: number) => bunny.positions[i]));

/** The readable twin: every triangle, one after the other (Möller & Trumbore 1997). */
function bruteForce(s: ArrayLike<number>, o: number[], d: number[]): number {
  let best = Infinity;
  for (let i = 0; i < s.length; i += 9) {
    const e1 = [0, 1, 2].map((k) => s[i + 3 + k] - s[i + k]);
    const e2 = [0, 1, 2].map((k) => s[i + 6 + k] - s[i + k]);
    const p = [d[1] * e2[2] - d[2] * e2[1], d[2] * e2[0] - d[0] * e2[2], d[0] * e2[1] - d[1] * e2[0]];
    const det = e1[0] * p[0] + e1[1] * p[1] + e1[2] * p[2];
    if (Math.abs(det) < 1e-14) continue;
    const t0 = [0, 1, 2].map((k) => o[k] - s[i + k]);
    const u = (t0[0] * p[0] + t0[1] * p[1] + t0[2] * p[2]) / det;
    const q = [t0[1] * e1[2] - t0[2] * e1[1], t0[2] * e1[0] - t0[0] * e1[2], t0[0] * e1[1] - t0[1] * e1[0]];
    const v = (d[0] * q[0] + d[1] * q[1] + d[2] * q[2]) / det;
    const t = (e2[0] * q[0] + e2[1] * q[1] + e2[2] * q[2]) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && t > 0 && t < best) best = t;
  }
  return best;
}

describe('rays', () => {
  it('agree with three-mesh-bvh on 100 000 random rays through the bunny, hit or miss and how far', () => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(soup.slice(), 3));
    const bvh = new MeshBVH(geometry);
    const query = new RayQuery(buildTree(soup));
    const next = random(1);
    const ray = new Ray(new Vector3(), new Vector3());
    geometry.computeBoundingBox();
    const box = geometry.boundingBox as NonNullable<typeof geometry.boundingBox>;
    const [low, high] = [box.min.toArray(), box.max.toArray()];
    let different = 0;
    let hits = 0;
    for (let i = 0; i < 100_000; i++) {
      const o = [0, 1, 2].map((k) => low[k] + (high[k] - low[k]) * next());
      const d = [next() - 0.5, next() - 0.5, next() - 0.5];
      const l = Math.hypot(...d);
      ray.origin.fromArray(o);
      ray.direction.fromArray(d.map((x) => x / l));
      const theirs = bvh.raycastFirst(ray, DoubleSide)?.distance ?? -1;
      const mine = query.closest(o[0], o[1], o[2], d[0] / l, d[1] / l, d[2] / l, 0, Infinity) ? query.t : -1;
      if (theirs >= 0) hits++;
      if (Math.abs(theirs - mine) > 1e-4) different++;
    }
    expect(hits).toBeGreaterThan(20_000);
    // The library is not watertight: a handful of rays slip between its triangles.
    expect(different).toBeLessThanOrEqual(3);
  });

  it('agree with every triangle tried in turn', () => {
    const query = new RayQuery(buildTree(soup));
    const next = random(2);
    for (let i = 0; i < 300; i++) {
      const o = [0, 1, 2].map(() => -12 + 24 * next());
      const d = [next() - 0.5, next() - 0.5, next() - 0.5];
      const expected = bruteForce(soup, o, d);
      const hit = query.closest(o[0], o[1], o[2], d[0], d[1], d[2], 0, Infinity);
      expect(hit).toBe(expected < Infinity);
      if (hit) expect(query.t).toBeCloseTo(expected, 3);
      expect(query.any(o[0], o[1], o[2], d[0], d[1], d[2], 0, Infinity)).toBe(hit);
      if (hit) expect(query.any(o[0], o[1], o[2], d[0], d[1], d[2], 0, query.t * 0.99)).toBe(false);
    }
  });

  it('let nothing through: rays aimed exactly at edges and corners of a closed cube (Woop et al. 2013)', () => {
    const query = new RayQuery(buildTree(soupOf(cube(2))));
    for (let i = 0; i <= 20; i++)
      for (let j = 0; j <= 20; j++) {
        // Interior origin; targets include corners, edges and the diagonals of every face.
        const to = [-1 + i / 10, j / 10, 1];
        expect(query.closest(0, 1, 0, to[0], to[1] - 1, to[2], 0, Infinity)).toBe(true);
        expect(query.t).toBeCloseTo(1, 12);
      }
    expect(query.closest(0, 1, 0, 0, 1, 0, 0, Infinity)).toBe(true);
    expect(query.closest(5, 1, 0, 0, 1, 0, 0, Infinity)).toBe(false);
  });

  it('find the nearest point (brute force over samples of every triangle)', () => {
    const query = new RayQuery(buildTree(soup));
    const next = random(3);
    for (let i = 0; i < 60; i++) {
      const p = [0, 1, 2].map(() => -10 + 20 * next());
      expect(query.nearest(p[0], p[1], p[2], Infinity)).toBe(true);
      let best = Infinity;
      for (let t = 0; t < soup.length; t += 9)
        for (let a = 0; a <= 4; a++)
          for (let b = 0; a + b <= 4; b++) {
            const q = [0, 1, 2].map(
              (k) => soup[t + k] + (a / 4) * (soup[t + 3 + k] - soup[t + k]) + (b / 4) * (soup[t + 6 + k] - soup[t + k]),
            );
            best = Math.min(best, Math.hypot(q[0] - p[0], q[1] - p[1], q[2] - p[2]));
          }
      expect(query.t).toBeLessThanOrEqual(best + 1e-5);
      expect(query.t).toBeGreaterThan(best - 0.3);
      expect(query.nearest(p[0], p[1], p[2], query.t * 0.99)).toBe(false);
    }
  });

  it('an empty or one-triangle tree answers too', () => {
    expect(new RayQuery(buildTree([])).closest(0, 0, 0, 0, 0, 1, 0, Infinity)).toBe(false);
    const one = new RayQuery(buildTree([-1, -1, 5, 1, -1, 5, 0, 1, 5]));
    expect(one.closest(0, 0, 0, 0, 0, 1, 0, Infinity)).toBe(true);
    expect(one.t).toBeCloseTo(5, 6);
    expect(one.nearest(0, 0, 0, Infinity)).toBe(true);
    expect(one.t).toBeCloseTo(5, 6);
  });
});
