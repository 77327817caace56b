import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles } from '../../../test/shapes';
import { selfCrossings } from '../../inspect/crossings';
import { random } from '../../maths/random';
import { normalise, type Vec3 } from '../../maths/vec3';
import { edgesOf, edgeValence } from '../connectivity';
import { areaOf, eulerCharacteristic, isWatertight, volumeOf } from '../measures';
import { faceNormals } from '../normals';
import { planeOffsets } from '../offset';
import { faceCount, makeMesh, type PolyMesh } from '../polymesh';
import { cut } from '../slice';
import { subdivide } from '../subdivide';
import { bevel, innerAngle } from './bevel';

const allEdges = (m: PolyMesh) => new Uint8Array(edgesOf(m).count).fill(1);
/** A cube cut by random planes: a convex solid whose corners have three edges each. */
function convex(next: () => number, planes: number): PolyMesh {
  let m = cube(40, [0, -20, 0]);
  for (let i = 0; i < planes; i++) {
    const normal = normalise([next() - 0.5, next() - 0.5, next() - 0.5] as Vec3);
    m = cut(m, { normal, offset: 14 + 8 * next() }, { keep: 'below', cap: `cut ${i}` });
  }
  return m;
}

/** A prism over an outline, counter-clockwise, from z = 0. */
function prism(outline: readonly number[], long: number): PolyMesh {
  const n = outline.length / 2;
  const ring = Array.from({ length: n }, (_, i) => i);
  const positions = [0, long].flatMap((z) => ring.flatMap((i) => [outline[2 * i], outline[2 * i + 1], z]));
  const faces = [[...ring].reverse(), ring.map((i) => i + n), ...ring.map((i) => [i, (i + 1) % n, ((i + 1) % n) + n, i + n])];
  const faceStart = [0];
  for (const f of faces) faceStart.push(faceStart[faceStart.length - 1] + f.length);
  return makeMesh({ positions, faceStart, faceVert: faces.flat() });
}

describe('bevels', () => {
  it('takes from a cube what its closed form says, and says how wide it may be', () => {
    // s³ − 6 w² s + 16/3 w³: half-spaces y + z ≥ w at the edges and x + y + z ≥ 2 w at the corners.
    const m = cube(20);
    for (const w of [0.5, 2, 6]) {
      const made = bevel(m, allEdges(m), { size: w, segments: 1, shape: 'straight' });
      expect(volumeOf(made.mesh)).toBeCloseTo(8000 - 6 * w * w * 20 + (16 / 3) * w ** 3, 6);
      expect(made.mostMm).toBeCloseTo(10, 9);
      expect(isWatertight(made.mesh)).toBe(true);
      expect(faceCount(made.mesh)).toBe(6 + 12 + 8);
    }
    const over = bevel(m, allEdges(m), { size: 14, segments: 3 });
    expect(over.sizeMm).toBeCloseTo(9.8, 9);
    expect(isWatertight(over.mesh)).toBe(true);
  });
  it('rounds a cube as Minkowski’s sum with a ball does, the error falling with the square of the segments', () => {
    // Steiner's formula for (s − 2R)³ ⊕ ball: V = a³ + 6 a² R + 3π a R² + 4/3 π R³ (Schneider, Convex Bodies, ch. 4).
    const [s, r] = [20, 4];
    const a = s - 2 * r;
    const exact = a ** 3 + 6 * a * a * r + 3 * Math.PI * a * r * r + (4 / 3) * Math.PI * r ** 3;
    const [four, eight] = [4, 8].map((segments) =>
      volumeOf(bevel(cube(s), allEdges(cube(s)), { size: r, sizeIs: 'radius', segments }).mesh),
    );
    expect(four).toBeLessThan(eight);
    expect(eight).toBeLessThan(exact);
    // What chords leave falls with the square of their number, so two counts give the limit.
    expect(Math.abs((4 * eight - four) / 3 / exact - 1)).toBeLessThan(5e-5);
  });
  it('rounds random convex solids as the ball rolled along their edges does (Steiner’s formula of the solid moved in)', () => {
    const next = random(3);
    let tried = 0;
    for (let i = 0; i < 20; i++) {
      const m = convex(next, 5);
      const room = bevel(m, allEdges(m), { size: 1e-9, segments: 1, sizeIs: 'radius' }).mostMm;
      const r = Math.min(0.8 * room, 3);
      const moved = planeOffsets(m);
      // The tip of a spike is not moved as far as its planes would have it.
      if (m.positions.some((_, k) => k % 3 === 0 && Math.hypot(moved[k], moved[k + 1], moved[k + 2]) > 3.9)) continue;
      tried++;
      const core: PolyMesh = { ...m, positions: m.positions.map((x, k) => x - r * moved[k]) };
      const edges = edgesOf(core);
      const normals = faceNormals(core);
      let mean = 0;
      for (let e = 0; e < edges.count; e++) {
        const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
        const long = Math.hypot(...[0, 1, 2].map((k) => core.positions[a + k] - core.positions[b + k]));
        mean += 0.5 * long * (Math.PI - innerAngle(core, edges, normals, e));
      }
      const exact = volumeOf(core) + r * areaOf(core) + r * r * mean + (4 / 3) * Math.PI * r ** 3;
      const [four, eight] = [4, 8].map((segments) => volumeOf(bevel(m, allEdges(m), { size: r, sizeIs: 'radius', segments }).mesh));
      const taken = volumeOf(m) - exact;
      expect(Math.abs((4 * eight - four) / 3 - exact)).toBeLessThan(0.004 * taken);
      expect(isWatertight(bevel(m, allEdges(m), { size: r, sizeIs: 'radius', segments: 3 }).mesh)).toBe(true);
    }
    expect(tried).toBeGreaterThan(12);
  });
  it('keeps random selections of edges on random solids closed, of the genus they had, at one to eight segments', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 1, max: 8 }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        (seed, segments, share) => {
          const next = random(seed);
          const m = seed % 3 === 0 ? subdivide(convex(next, 2), { smooth: false }) : convex(next, 4);
          const edges = edgesOf(m);
          const chosen = Uint8Array.from({ length: edges.count }, () => (next() < share ? 1 : 0));
          if (!chosen.includes(1)) return;
          const made = bevel(m, chosen, { size: 100, segments, shape: seed % 2 ? 'arc' : 'straight' }, edges);
          expect(isWatertight(made.mesh)).toBe(true);
          expect(eulerCharacteristic(made.mesh)).toBe(2);
        },
      ),
      { numRuns: 120, seed: 5 },
    );
  });
  it('doesn’t cross itself within its room where the edges stand out', () => {
    let crossed = 0;
    for (let seed = 1; seed <= 120; seed++) {
      const next = random(seed);
      const m = seed % 3 === 0 ? subdivide(convex(next, 2), { smooth: false }) : convex(next, 4);
      const edges = edgesOf(m);
      const normals = faceNormals(m);
      const share = next();
      const chosen = Uint8Array.from({ length: edges.count }, (_, e) =>
        next() < share && Math.abs(Math.PI - innerAngle(m, edges, normals, e)) > 0.05 ? 1 : 0,
      );
      if (!chosen.includes(1)) continue;
      const made = bevel(m, chosen, { size: 100, segments: 1 + (seed % 8) }, edges).mesh;
      if (selfCrossings(made, 1).length > 0) crossed++;
    }
    expect(crossed).toBe(0);
  });
  it('runs out into the face beyond where one edge ends, and along a rim where the surface is open', () => {
    const m = cube(20);
    const edges = edgesOf(m);
    const one = new Uint8Array(edges.count);
    one[0] = 1;
    const made = bevel(m, one, { size: 4, segments: 6 }).mesh;
    expect(faceCount(made)).toBe(6 + 6);
    // A quarter of the round taken from the edge: (1 − π/4) r², with six chords.
    const chords = 6 * Math.sin(Math.PI / 12) * 8;
    expect(8000 - volumeOf(made)).toBeCloseTo(20 * (16 - chords), 6);
    expect(isWatertight(made)).toBe(true);
    // Without its top the cube's upright edges end at a rim that stays open.
    const open = cut(cube(20), { normal: [0, 1, 0], offset: 12 }, { keep: 'below' });
    const rounded = bevel(open, allEdges(open), { size: 2, segments: 4 }).mesh;
    const left = edgesOf(rounded);
    let rim = 0;
    for (let e = 0; e < left.count; e++) if (edgeValence(left, e) === 1) rim++;
    expect(rim).toBe(4 + 4 * 4);
    expect(eulerCharacteristic(rounded)).toBe(1);
  });
  it('fillets a corner that lies in, and is held where a face would come apart before any edge is used up', () => {
    // A channel 30 long: walls 10 wide and 25 high, a floor of 6.
    const u = [0, 0, 40, 0, 40, 25, 30, 25, 30, 6, 10, 6, 10, 25, 0, 25];
    const channel = prism(u, 30);
    const edges = edgesOf(channel);
    const within = Uint8Array.from({ length: edges.count }, (_, e) =>
      innerAngle(channel, edges, faceNormals(channel), e) > Math.PI + 0.1 ? 1 : 0,
    );
    expect(within.reduce((n, x) => n + x, 0)).toBe(2);
    const filled = bevel(channel, within, { size: 3, segments: 6 }, edges).mesh;
    const chords = 6 * Math.sin(Math.PI / 12) * 4.5;
    expect(volumeOf(filled) - volumeOf(channel)).toBeCloseTo(2 * 30 * (9 - chords), 6);
    // The floor's thickness is no edge of the channel's ends: corners from above meet the edge below half way.
    expect(bevel(channel, allEdges(channel), { size: 1, segments: 2 }).mostMm).toBeCloseTo(3, 9);
  });
  it('takes triangles as they come from a file', () => {
    const t = cube(10);
    const soup = fromTriangles(
      t.positions,
      Array.from(t.triangles, (c) => t.faceVert[c]),
    );
    const edges = edgesOf(soup);
    const normals = faceNormals(soup);
    const sharp = Uint8Array.from({ length: edges.count }, (_, e) =>
      Math.abs(Math.PI - innerAngle(soup, edges, normals, e)) > 0.1 ? 1 : 0,
    );
    const made = bevel(soup, sharp, { size: 1, segments: 1, shape: 'straight' }, edges).mesh;
    expect(volumeOf(made)).toBeCloseTo(1000 - 60 + 16 / 3, 6);
    expect(isWatertight(made)).toBe(true);
  });
});
