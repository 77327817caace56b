import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { boundaryLoops } from '../mesh/connectivity';
import { eulerCharacteristic, isWatertight, volumeOf } from '../mesh/measures';
import { attribute } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';
import type { Profile } from './profile';
import { type TurnedStep, turned } from './steps/turned';

const vessel = (points: [number, number, number?][], wall: number, bulges: (number | undefined)[] = []): TurnedStep => ({
  kind: 'turned',
  id: 't',
  name: 'Vessel',
  enabled: true,
  body: 'wall',
  wall,
  edgeRadius: 0,
  rings: [],
  profile: {
    points: points.map(([r, y, fillet], i) => ({ id: `p${i}`, r, y, ...(fillet && { fillet }) })),
    segments: points.slice(1).map((_, i) => ({
      id: `s${i}`,
      name: `s${i}`,
      kind: bulges[i] === undefined ? 'line' : 'arc',
      ...(bulges[i] !== undefined && { bulge: bulges[i] }),
    })),
  } as Profile,
});

describe('an inside wall', () => {
  it.each([
    [
      'straight cup',
      [
        [0, 0],
        [20, 0],
        [24, 40],
      ],
      [],
    ],
    [
      'rounded bowl',
      [
        [0, 0],
        [18, 0, 6],
        [26, 30],
      ],
      [],
    ],
    [
      'bellied chimney',
      [
        [14, 0],
        [16, 8],
        [13, 50],
      ],
      [undefined, 4],
    ],
    [
      'waisted tube',
      [
        [20, 0],
        [20, 40],
      ],
      [-3],
    ],
  ] as [string, [number, number, number?][], (number | undefined)[]][])(
    'of a %s is as thick as it says, everywhere (nearest points of its two sides)',
    (_name, points, bulges) => {
      const wall = 2;
      const mesh = turned.maker.build(vessel(points, wall, bulges), { mesh: 'high', toleranceMm: 0.003 });
      expect(isWatertight(mesh)).toBe(true);
      expect(volumeOf(mesh)).toBeGreaterThan(0);
      const patches = attribute(mesh, 'patch', 'face')?.data ?? [];
      const inside = (f: number) => mesh.patches[patches[f]].endsWith('inside');
      const rim = (f: number) => mesh.patches[patches[f]].endsWith('rim');
      const soup = soupOf(mesh);
      const pick = (wanted: (f: number) => boolean) => {
        const out: number[] = [];
        mesh.triangleFace.forEach((f, t) => {
          if (wanted(f)) for (let k = 0; k < 9; k++) out.push(soup[9 * t + k]);
        });
        return out;
      };
      const outer = new RayQuery(buildTree(pick((f) => !inside(f) && !rim(f))));
      const inner = pick(inside);
      let [least, most] = [Infinity, 0];
      for (let t = 0; t < inner.length; t += 9 * 37) {
        const p = [0, 1, 2].map((k) => (inner[t + k] + inner[t + 3 + k] + inner[t + 6 + k]) / 3);
        outer.nearest(p[0], p[1], p[2], Infinity);
        least = Math.min(least, outer.t);
        most = Math.max(most, outer.t);
      }
      expect(least).toBeGreaterThan(wall - 0.02);
      expect(most).toBeLessThan(wall * 1.35);
    },
  );
  it('makes a cup a ball and a tube a ring, by Euler’s formula, on 60 random vessels', () => {
    const next = random(40);
    let built = 0;
    for (let i = 0; i < 60; i++) {
      const open = next() < 0.5;
      const points: [number, number][] = open
        ? [[12 + 10 * next(), 0]]
        : [
            [0, 0],
            [12 + 10 * next(), 0],
          ];
      for (let k = 0; k < 3; k++) points.push([10 + 14 * next(), 12 * (k + 1) + 4 * next()]);
      const step = vessel(points, 0.5 + next());
      const mesh = turned.maker.build(step, { mesh: 'low', count: (a) => Math.max(a.minimum, 11) });
      built++;
      expect(eulerCharacteristic(mesh)).toBe(open ? 0 : 2);
      expect(boundaryLoops(mesh)).toHaveLength(0);
      expect(volumeOf(mesh)).toBeGreaterThan(0);
    }
    expect(built).toBe(60);
  });
  it('that would cross itself is refused, and says where', () => {
    expect(() =>
      turned.maker.build(
        vessel(
          [
            [0, 0],
            [5, 0],
            [5, 30],
          ],
          6,
        ),
        { mesh: 'low', count: () => 12 },
      ),
    ).toThrow(/“s\d”; the inside would cross itself/);
  });
});
