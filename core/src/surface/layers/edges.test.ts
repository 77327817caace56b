import { describe, expect, it } from 'vitest';
import { cube } from '../../../test/shapes';
import { drum } from '../../../test/textured';
import { random } from '../../maths/random';
import { makeMesh, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { EDGE_STRIDE, EdgeGrid, edgeLines } from './edges';

describe('edges that stick out', () => {
  it('of a cube twelve, of a drum’s smooth side none, of a drum so thin that it is an edge itself all', () => {
    expect(edgeLines(cube(10)).length / EDGE_STRIDE).toBe(12);
    expect(edgeLines(drum(60, 150, 64, 1)).length).toBe(0);
    // 16 sides of 22.5°, 0.39 mm apart: 45° within a line of 0.8 mm, not within one of 0.5.
    const rod = edgeLines(drum(1, 50, 16, 1));
    expect(rod.length / EDGE_STRIDE).toBe(16);
    expect(rod[6]).toBeGreaterThan(0.7);
    expect(rod[6]).toBeLessThan(0.8);
  });
  it('facets that are shaded as one surface have no edges between them unless they are as narrow as the line; parted shading has, at any angle past 30°', () => {
    const shaded = (mesh: PolyMesh, hard: number) =>
      withAttribute(mesh, { name: 'hard', domain: 'corner', size: 1, data: new Float64Array(mesh.faceVert.length).fill(hard) });
    // Twelve sides of 30°, 5.2 mm wide, and six of 60°, which no shading makes a round of.
    const [twelve, six] = [drum(10, 14, 12, 1), drum(10, 14, 6, 1)];
    expect(edgeLines(shaded(twelve, 1)).length / EDGE_STRIDE).toBe(12);
    expect(edgeLines(shaded(twelve, 0)).length).toBe(0);
    expect(edgeLines(twelve).length / EDGE_STRIDE).toBe(12);
    expect(edgeLines(shaded(six, 0)).length / EDGE_STRIDE).toBe(6);
    // On a wire of 1 mm the facets are narrower than a line of 0.6 mm.
    const wire = edgeLines(shaded(drum(1, 14, 12, 1), 0));
    expect(wire.length / EDGE_STRIDE).toBe(12);
    expect(wire[6]).toBeCloseTo(2 * Math.sin(Math.PI / 12), 5);
  });
  it('a round is one edge within its own width, cut into triangles or not, and a hollow is none', () => {
    // A corner of 90° in five turns of 18°, its facets as wide as an arc of 0.5 mm has them, drawn out along z.
    const wide = 2 * 0.5 * Math.sin(Math.PI / 20);
    let at = [0, 0];
    const profile = [at];
    for (const [k, long] of [20, wide, wide, wide, wide, 20].entries()) {
      const turn = (k * 18 * Math.PI) / 180;
      at = [at[0] + long * Math.cos(turn), at[1] + long * Math.sin(turn)];
      profile.push(at);
    }
    const positions = profile.flatMap(([x, y]) => [x, y, 0, x, y, 50]);
    const quads = profile.slice(1).map((_, i) => [2 * i, 2 * i + 1, 2 * i + 3, 2 * i + 2]);
    const of = (faces: number[][]) =>
      makeMesh({
        positions,
        faceStart: Array.from({ length: faces.length + 1 }, (_, i) => i * faces[0].length),
        faceVert: faces.flat(),
      });
    const cut = quads.flatMap(([a, b, c, d]) => [
      [a, b, c],
      [a, c, d],
    ]);
    for (const faces of [quads, cut]) {
      const [one, other] = [faces, faces.map((f) => [...f].reverse())].map((f) => edgeLines(of(f)));
      const [hollow, round] = one.length < other.length ? [one, other] : [other, one];
      expect([hollow.length, round.length / EDGE_STRIDE]).toEqual([0, 5]);
      for (let e = 0; e < 5; e++) expect(round[EDGE_STRIDE * e + 6]).toBeCloseTo(2 * wide, 5);
    }
  });
  it('their distance is that of a point from a segment; beyond the reach there is none', () => {
    const grid = new EdgeGrid(edgeLines(cube(10)), 1, 0.8);
    const lines = edgeLines(cube(10));
    const next = random(8);
    const low = Math.min(...cube(10).positions);
    for (let i = 0; i < 500; i++) {
      const p = [0, 1, 2].map(() => low + 10 * next());
      p[Math.floor(3 * next())] = low;
      let least = Number.POSITIVE_INFINITY;
      for (let o = 0; o < lines.length; o += EDGE_STRIDE) {
        const d = [0, 1, 2].map((k) => lines[o + 3 + k] - lines[o + k]);
        const to = p.map((v, k) => v - lines[o + k]);
        const t = Math.min(1, Math.max(0, d.reduce((s, v, k) => s + v * to[k], 0) / d.reduce((s, v) => s + v * v, 0)));
        least = Math.min(least, Math.hypot(...to.map((v, k) => v - t * d[k])));
      }
      expect(grid.distance(p[0], p[1], p[2])).toBeCloseTo(least <= 0.8 ? least : Number.POSITIVE_INFINITY, 5);
    }
  });
});
