import { describe, expect, it } from 'vitest';
import { cube, torusMesh } from '../../test/shapes';
import { random } from '../maths/random';
import { merge } from '../mesh/merge';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { soupOf } from '../mesh/soup';
import { subdivide } from '../mesh/subdivide';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';
import { hiddenTriangles, Outside, seenShares } from './visibility';

const standing = (m: PolyMesh, blocks = true) => ({ soup: soupOf(m), blocks });

describe('what is seen from outside', () => {
  it('of a convex body is everything; of the inside wall of a closed hollow nothing', () => {
    expect(hiddenTriangles([standing(cube(20))])[0].reduce((a, b) => a + b)).toBe(0);
    const hollow = shell(cube(40), { thickness: 2 }).mesh;
    expect(hiddenTriangles([standing(hollow)])[0].reduce((a, b) => a + b)).toBe(triangleCount(hollow) / 2);
  });
  it('a smaller body in a larger one is hidden, and seen when the larger one is of glass', () => {
    const [inner, outer] = [cube(10, [0, 10, 0]), cube(40)];
    const count = (blocks: boolean) => hiddenTriangles([standing(inner), standing(outer, blocks)])[0].reduce((a, b) => a + b);
    expect(count(true)).toBe(12);
    expect(count(false)).toBe(0);
  });
  it('agrees with dense sampling of rays through random heaps of bodies', () => {
    const next = random(17);
    let [hidden, seen] = [0, 0];
    for (let i = 0; i < 3; i++) {
      const bodies = [
        subdivide(cube(60, [0, -30, 0])),
        torusMesh(25, 6, 24, 10),
        cube(14, [20 * next() - 10, 20 * next() - 10, 20 * next() - 10]),
      ];
      for (let k = 0; k < 3; k++) bodies.push(cube(10 + 20 * next(), [60 * next() - 30, 60 * next() - 30, 60 * next() - 30]));
      const heap = merge(bodies);
      const soup = soupOf(heap);
      const found = hiddenTriangles([{ soup, blocks: true }])[0];
      const query = new RayQuery(buildTree(soup));
      for (let t = 0; t < found.length; t++) {
        // 2 000 random places and directions on the front of the triangle.
        let free = false;
        const c = soup.slice(9 * t, 9 * t + 9);
        const u = [0, 1, 2].map((k) => c[3 + k] - c[k]);
        const v = [0, 1, 2].map((k) => c[6 + k] - c[k]);
        const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
        const l = Math.hypot(...n);
        for (let s = 0; s < 2000 && !free; s++) {
          let [a, b] = [next(), next()];
          if (a + b > 1) [a, b] = [1 - a, 1 - b];
          const z = 2 * next() - 1;
          const phi = 2 * Math.PI * next();
          const d = [Math.sqrt(1 - z * z) * Math.cos(phi), z, Math.sqrt(1 - z * z) * Math.sin(phi)];
          const sign = Math.sign(d[0] * n[0] + d[1] * n[1] + d[2] * n[2]);
          const o = [0, 1, 2].map((k) => c[k] + a * u[k] + b * v[k] + (1e-4 * n[k]) / l);
          free = !query.any(o[0], o[1], o[2], sign * d[0], sign * d[1], sign * d[2], 0, 1e4);
        }
        // What is called seen is seen by a ray that got away; what is called hidden may be seen through a chink.
        if (free) seen++;
        if (found[t]) hidden++;
        if (!free) expect(found[t], `triangle ${t} of heap ${i}`).toBe(1);
        else if (found[t]) hidden += 1e-3;
      }
    }
    const missed = Math.round((hidden % 1) * 1000);
    expect(hidden).toBeGreaterThan(100);
    expect(missed / seen).toBeLessThan(0.02);
  });
  it('the share of a plane between two walls is what the open angle leaves', () => {
    // On the floor of a channel as deep as wide, far from its ends: over the middle the open angle is 2·atan(½).
    const plate = (at: number[], size: number[]) => {
      const m = cube(1);
      return { ...m, positions: m.positions.map((x, i) => x * size[i % 3] + at[i % 3]) };
    };
    const floor = plate([0, -1, 0], [20, 1, 4000]);
    const walls = [plate([-11, 0, 0], [2, 20, 4000]), plate([11, 0, 0], [2, 20, 4000])];
    const small = plate([0, 0, 0], [0.01, 0.001, 0.01]);
    const soup = soupOf(small);
    const outside = new Outside(
      [floor, ...walls].map((m) => standing(m)),
      20_000,
    );
    const up = Array.from({ length: soup.length / 9 }, (_, t) => t).filter((t) => [1, 4, 7].every((k) => soup[9 * t + k] > 0.0009));
    expect(up.length).toBe(2);
    // Directions in the dihedral of that angle, of a half sphere: angle / π.
    for (const t of up) expect(outside.share(soup, t)).toBeCloseTo((2 * Math.atan(0.5)) / Math.PI, 1.6);
    expect(seenShares([standing(cube(10))])[0].every((s) => s === 1)).toBe(true);
  });
});
