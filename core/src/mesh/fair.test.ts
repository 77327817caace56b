import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { form } from '../form/recipe';
import type { Step } from '../form/steps';
import { random } from '../maths/random';
import { fair } from './fair';
import { boundsOf, isWatertight } from './measures';
import { faceCount, makeMesh, type PolyMesh } from './polymesh';

/** A grid of quads over a height, mm: columns along x, rows along z. */
function sheet(n: number, m: number, step: number, height: (x: number, z: number) => number): PolyMesh {
  const positions: number[] = [];
  for (let j = 0; j <= m; j++) for (let i = 0; i <= n; i++) positions.push(i * step, height(i * step, j * step), j * step);
  const faceVert: number[] = [];
  const at = (i: number, j: number) => j * (n + 1) + i;
  for (let j = 0; j < m; j++) for (let i = 0; i < n; i++) faceVert.push(at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j));
  return makeMesh({ positions, faceVert, faceStart: Array.from({ length: n * m + 1 }, (_, f) => 4 * f) });
}
const all = (mesh: PolyMesh) => new Uint8Array(faceCount(mesh)).fill(1);
/**
 * How far a line of reflection breaks across a sheet: the largest change, from one row of faces to the next, of the direction in which a
 * ray straight down leaves them, less the change before it; by the law of reflection alone.
 */
function broken(mesh: PolyMesh, n: number, j: number): number {
  const slope = (i: number) => {
    const [a, b] = [3 * (j * (n + 1) + i), 3 * (j * (n + 1) + i + 1)];
    return Math.atan2(mesh.positions[b + 1] - mesh.positions[a + 1], mesh.positions[b] - mesh.positions[a]);
  };
  let worst = 0;
  for (let i = 3; i < n - 3; i++) worst = Math.max(worst, Math.abs(2 * (slope(i + 1) - 2 * slope(i) + slope(i - 1))));
  return worst;
}

describe('a surface made fair', () => {
  it('a kink is spread within the tolerance, and the line of reflection over it breaks less than half as much', () => {
    const kink = sheet(40, 20, 2, (x) => (x < 40 ? 0 : 0.12 * (x - 40)));
    for (const tolerance of [0.1, 0.3]) {
      const made = fair(kink, all(kink), tolerance);
      expect(made.movedMm).toBeLessThanOrEqual(tolerance + 1e-12);
      expect(made.movedMm).toBeGreaterThan(0.5 * tolerance);
      expect(made.turnAfter).toBeLessThan(0.75 * made.turnBefore);
      expect(made.stepAfter).toBeLessThan(0.5 * made.stepBefore);
      expect(broken(made.mesh, 40, 10)).toBeLessThan(0.5 * broken(kink, 40, 10));
    }
    // More room, less of a kink.
    expect(fair(kink, all(kink), 0.3).turnAfter).toBeLessThan(fair(kink, all(kink), 0.1).turnAfter);
  });
  it('rims stay where they are, and so does what lies outside the region', () => {
    const kink = sheet(30, 20, 2, (x) => (x < 30 ? 0 : 0.1 * (x - 30)));
    const region = all(kink).map((_, f) => (f % 30 > 8 && f % 30 < 21 ? 1 : 0));
    const { mesh } = fair(kink, region, 0.2);
    for (let j = 0; j <= 20; j++)
      for (let i = 0; i <= 30; i++) {
        const v = 3 * (j * 31 + i);
        if (j === 0 || j === 20 || i <= 9 || i >= 21) expect(mesh.positions[v + 1]).toBe(kink.positions[v + 1]);
      }
  });
  it('noise on a ball is taken out, and the ball stays: a third of what it was off, within the tolerance', () => {
    const ball = form([stepOf('soft', { width: 40, height: 40, depth: 40, cellsX: 4, cellsY: 4, cellsZ: 4, levelsLow: 2 })], {
      mesh: 'low',
      count: () => 8,
    }).mesh as PolyMesh;
    const round = (noise: number): PolyMesh => {
      const next = random(3);
      const p = Float64Array.from(ball.positions);
      for (let v = 0; v < p.length; v += 3) {
        const d = [p[v], p[v + 1] - 20, p[v + 2]];
        const l = Math.hypot(...d);
        const r = 20 + noise * (2 * next() - 1);
        for (let k = 0; k < 3; k++) p[v + k] = (d[k] / l) * r;
      }
      return makeMesh({ ...ball, positions: p });
    };
    const off = (mesh: PolyMesh) => {
      let sum = 0;
      for (let v = 0; v < mesh.positions.length; v += 3)
        sum += (Math.hypot(mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]) - 20) ** 2;
      return Math.sqrt(sum / (mesh.positions.length / 3));
    };
    const noisy = round(0.1);
    const made = fair(noisy, all(noisy), 0.15);
    expect(off(made.mesh)).toBeLessThan(off(noisy) / 3);
    expect(made.movedMm).toBeLessThanOrEqual(0.15 + 1e-12);
    expect(isWatertight(made.mesh)).toBe(true);
    // A ball is fair already.
    expect(off(fair(round(0), all(noisy), 0.15).mesh)).toBeLessThan(0.01);
  });
  it('as a step it says what it came to, and where it can do nothing', () => {
    const tube = stepOf('turned', { id: 't' });
    const formed = form([tube, stepOf('fair', { id: 'f', within: 0.1 })], { mesh: 'low', count: () => 24 });
    expect(formed.problems).toEqual([]);
    expect(formed.steps[1].figures.map((f) => f.label)).toEqual([
      'moved by at most',
      'curvature jumps, was – is',
      'sharpest turn, was – is',
    ]);
    const box = form([stepOf('box', { id: 'b', corner: 0 }), stepOf('fair', { id: 'f' })], { mesh: 'low', count: () => 4 });
    expect(box.problems[0].message).toBe(
      '“Fair” finds nothing it may move: every point there lies on a hard edge, a rim, or the region’s border.',
    );
  });
});

describe('cushions', () => {
  const cushion = (more: object) =>
    form([stepOf('soft', { id: 'c', cellsX: 6, cellsZ: 4, ...more })], { mesh: 'low', count: () => 8 }).mesh as PolyMesh;
  const push = (x: number, z: number, dx: number) => ({ id: `${x}`, x, y: 24, z, dx, dy: 5, dz: 1, reach: 25 });
  it('pushed on one side are pushed on the other as its mirror', () => {
    const mesh = cushion({ pushes: [push(15, 4, 3)], symmetric: 'x' });
    const key = (p: readonly number[]) => p.map((v) => (Math.abs(v) < 1e-9 ? 0 : v).toFixed(6)).join();
    const places = new Set(
      Array.from({ length: mesh.positions.length / 3 }, (_, v) => key([...mesh.positions.subarray(3 * v, 3 * v + 3)])),
    );
    for (let v = 0; v < mesh.positions.length; v += 3)
      expect(places.has(key([-mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]]))).toBe(true);
  });
  it('a push on the plane acts once, and never across it', () => {
    const once = boundsOf(cushion({ pushes: [push(0, 0, 0)] })).max[1];
    const mirrored = cushion({ pushes: [push(0, 0, 4)], symmetric: 'both' });
    expect(boundsOf(mirrored).max[1]).toBeLessThan(once + 0.2);
    const { min, max } = boundsOf(mirrored);
    expect(min[0] + max[0]).toBeCloseTo(0, 9);
    expect(min[2] + max[2]).toBeCloseTo(0, 9);
  });
  it('a box subdivided keeps the edges that were picked, and no others', () => {
    const steps = (hold: 'nothing' | 'picked', edges?: object[]): Step[] => [
      stepOf('box', { id: 'b', width: 40, height: 40, depth: 40, corner: 0, edgeRadius: 0 }),
      stepOf('subdivide', { id: 's', hold, crease: 6, levelsLow: 3, ...(edges && { edges }) } as never),
    ];
    const detail = { mesh: 'low', count: () => 4 } as const;
    const plain = form(steps('nothing'), detail).mesh as PolyMesh;
    const box = form(steps('nothing').slice(0, 1), detail).mesh as PolyMesh;
    const top = box.patches.find((p) => /top/.test(p)) as string;
    const held = form(steps('picked', [{ id: 'e', patch: top, constant: 'v', at: 1, from: 0, to: 1 }]), detail);
    expect(held.problems).toEqual([]);
    // Where nothing is held the box shrinks towards a ball; along the picked edge it reaches farther out.
    const reach = (m: PolyMesh) => {
      let most = 0;
      for (let v = 0; v < m.positions.length; v += 3)
        most = Math.max(most, Math.hypot(m.positions[v + 1] - 20, m.positions[v], m.positions[v + 2]));
      return most;
    };
    expect(reach(held.mesh as PolyMesh)).toBeGreaterThan(reach(plain) + 2);
    const none = form(steps('picked'), detail).problems[0].message;
    expect(none).toBe('No edge is picked for “Subdivide” yet.');
  });
});
