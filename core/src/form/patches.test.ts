import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import type { Profile } from './profile';
import { type BarStep, bar } from './steps/bar';
import { type TurnedStep, turned } from './steps/turned';

/**
 * Picks are kept as patch and u, v, so a place chosen on one mesh has to be the same place on another made of the same step
 * with other counts. The checks compare points in space, not numbers of faces.
 */

/** The point of a patch at (u, v): in the face whose patch coordinates hold it, by that face's own corners. */
function placeOf(mesh: PolyMesh, patch: string, u: number, v: number): [number, number, number] | null {
  const patches = attribute(mesh, 'patch', 'face')?.data;
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  const wanted = mesh.patches.indexOf(patch);
  if (!patches || !uv || wanted < 0) return null;
  for (let t = 0; t < mesh.triangles.length / 3; t++) {
    if (patches[mesh.triangleFace[t]] !== wanted) continue;
    const c = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const [x0, y0, x1, y1, x2, y2] = c.flatMap((i) => [uv[2 * i], uv[2 * i + 1]]);
    const det = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
    if (Math.abs(det) < 1e-14) continue;
    const b = ((u - x0) * (y2 - y0) - (x2 - x0) * (v - y0)) / det;
    const d = ((x1 - x0) * (v - y0) - (u - x0) * (y1 - y0)) / det;
    if (b < -1e-9 || d < -1e-9 || b + d > 1 + 1e-9) continue;
    return [0, 1, 2].map((k) => {
      const p = c.map((i) => mesh.positions[3 * mesh.faceVert[i] + k]);
      return (1 - b - d) * p[0] + b * p[1] + d * p[2];
    }) as [number, number, number];
  }
  return null;
}

const profile: Profile = {
  points: [
    { id: 'a', r: 30, y: 0 },
    { id: 'b', r: 34, y: 8, fillet: 2 },
    { id: 'c', r: 20, y: 50 },
    { id: 'd', r: 12, y: 62 },
  ],
  segments: [
    { id: 's0', name: 'foot', kind: 'line' },
    { id: 's1', name: 'wall', kind: 'line' },
    { id: 's2', name: 'shoulder', kind: 'arc', bulge: 2 },
  ],
};
const step: TurnedStep = { kind: 'turned', id: 't', name: 't', enabled: true, profile, body: 'solid', edgeRadius: 1, rings: [] };
const low = (sides: number, arcs: number) =>
  turned.maker.build(step, { mesh: 'low', count: (a) => (a.key.endsWith('sides') ? sides : arcs) });
const gap = (a: readonly number[] | null, b: readonly number[] | null) => (a && b ? Math.hypot(...a.map((x, k) => x - b[k])) : Infinity);

describe('patches of a turned part', () => {
  it('stay where they are from 32 to 24 sides, and from 2 to 7 steps along an arc, to within the chords’ own error', () => {
    const [a, b] = [low(32, 2), low(24, 7)];
    const next = random(14);
    for (let i = 0; i < 200; i++) {
      const patch = ['s0', 's1', 's2', 'b.fillet'][Math.floor(next() * 4)];
      const [u, v] = [next(), next()];
      // Two chords’ sagittas of the largest radius: 34 · (1 − cos(π/24)) and of the shoulder's arc.
      expect(gap(placeOf(a, patch, u, v), placeOf(b, patch, u, v))).toBeLessThan(2.2);
    }
  });
  it('low and high agree about them', () => {
    const high = turned.maker.build({ ...step, edgeRadius: 0 }, { mesh: 'high', toleranceMm: 0.01 });
    const next = random(15);
    for (let i = 0; i < 100; i++) {
      const patch = ['s0', 's1', 's2'][Math.floor(next() * 3)];
      const [u, v] = [next(), next()];
      expect(gap(placeOf(low(48, 8), patch, u, v), placeOf(high, patch, u, v))).toBeLessThan(0.8);
    }
  });
  it('keep their names when another segment is changed, and moved corners move only their neighbours', () => {
    const changed: TurnedStep = {
      ...step,
      profile: { ...profile, points: profile.points.map((p) => (p.id === 'd' ? { ...p, r: 9 } : p)) },
    };
    const other = turned.maker.build(changed, { mesh: 'low', count: (a) => (a.key.endsWith('sides') ? 32 : 2) });
    expect(other.patches).toEqual(low(32, 2).patches);
    const next = random(16);
    for (let i = 0; i < 50; i++) {
      const [u, v] = [next(), next()];
      expect(gap(placeOf(other, 's0', u, v), placeOf(low(32, 2), 's0', u, v))).toBeLessThan(1e-9);
      expect(gap(placeOf(other, 's1', u, v), placeOf(low(32, 2), 's1', u, v))).toBeLessThan(0.05);
    }
  });
  it('every face has one, and every corner coordinates in it from 0 to 1', () => {
    for (const mesh of [low(12, 3), turned.maker.build({ ...step, body: 'wall', wall: 2 }, { mesh: 'high', toleranceMm: 0.05 })]) {
      const patches = attribute(mesh, 'patch', 'face')?.data ?? [];
      expect(patches.length).toBe(faceCount(mesh));
      for (const p of patches) expect(p).toBeLessThan(mesh.patches.length);
      for (const x of attribute(mesh, 'patchUv', 'corner')?.data ?? []) {
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThanOrEqual(1);
      }
    }
  });
  it('its layout never mixes two islands in one face, and lays every corner', () => {
    const mesh = low(20, 3);
    const chart = attribute(mesh, 'chart', 'face')?.data ?? [];
    const flat = attribute(mesh, 'flat', 'corner')?.data ?? [];
    expect(chart.length).toBe(faceCount(mesh));
    expect(flat.length).toBe(2 * mesh.faceVert.length);
    // Sides of the laid faces are the sides of the faces, wherever their belt is exact.
    let exact = 0;
    for (let f = 0; f < faceCount(mesh); f++) {
      const s = mesh.faceStart[f];
      const n = mesh.faceStart[f + 1] - s;
      let worst = 0;
      for (let k = 0; k < n; k++) {
        const [c, d] = [s + k, s + ((k + 1) % n)];
        const laid = Math.hypot(flat[2 * c] - flat[2 * d], flat[2 * c + 1] - flat[2 * d + 1]);
        const real = gap(
          [...mesh.positions.slice(3 * mesh.faceVert[c], 3 * mesh.faceVert[c] + 3)],
          [...mesh.positions.slice(3 * mesh.faceVert[d], 3 * mesh.faceVert[d] + 3)],
        );
        worst = Math.max(worst, Math.abs(laid / real - 1));
      }
      expect(worst).toBeLessThan(0.06);
      if (worst < 1e-6) exact++;
    }
    expect(exact).toBeGreaterThan(faceCount(mesh) / 3);
  });
});

describe('patches of a bar', () => {
  const rod: BarStep = {
    kind: 'bar',
    id: 'b',
    name: 'b',
    enabled: true,
    radius: 3,
    edgeRadius: 0,
    path: [
      { id: '1', x: 0, y: 0, z: 0 },
      { id: '2', x: 0, y: 40, z: 0, bend: 12 },
      { id: '3', x: 30, y: 40, z: 0 },
    ],
  };
  it('name side, bend and both ends, whatever the counts', () => {
    for (const n of [6, 9, 16]) {
      const mesh = bar.maker.build(rod, { mesh: 'low', count: () => n });
      expect([...mesh.patches].sort()).toEqual(['bend 2', 'end', 'side 1', 'side 2', 'start']);
    }
  });
  it('a place on the bend stays where it is', () => {
    const [a, b] = [8, 24].map((n) => bar.maker.build(rod, { mesh: 'low', count: () => n }));
    const next = random(17);
    for (let i = 0; i < 60; i++) {
      const [u, v] = [next(), next()];
      expect(gap(placeOf(a, 'bend 2', u, v), placeOf(b, 'bend 2', u, v))).toBeLessThan(0.7);
    }
  });
});
