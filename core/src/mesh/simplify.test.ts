import bunny from 'bunny';
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { beforeAll, describe, expect, it } from 'vitest';
import { triangleAreas } from '../../test/layouts';
import { fromTriangles, sheet, torusMesh } from '../../test/shapes';
import { deviation } from '../inspect/deviation';
import { IDENTITY } from '../maths/mat4';
import { simplifyParts } from '../pipeline/simplify';
import { unwrap } from '../pipeline/unwrap';
import { isWatertight } from './measures';
import { cornerNormals, markHard } from './normals';
import { attribute, type PolyMesh, triangleCount, withAttribute } from './polymesh';
import { simplify } from './simplify';

beforeAll(() => MeshoptSimplifier.ready);

const rabbit = markHard(
  fromTriangles(
    bunny.positions.flat().map((x: number) => 20 * x),
    bunny.cells.flat(),
  ),
  40,
);
/** What the library itself makes of the bare shape. */
const byLibrary = (mesh: PolyMesh, triangles: number): PolyMesh => {
  const index = Uint32Array.from(mesh.triangles, (c) => mesh.faceVert[c]);
  const [left] = MeshoptSimplifier.simplify(index, Float32Array.from(mesh.positions), 3, 3 * triangles, 1e9, ['ErrorAbsolute']);
  return fromTriangles(mesh.positions, left);
};
const laid = (mesh: PolyMesh): PolyMesh =>
  unwrap([{ id: 'a', name: 'A', mesh, placements: [IDENTITY] }], {
    size: 1024,
    padding: 4,
    seamAngle: 50,
    rotate: true,
    weights: {},
    regions: {},
  }).parts[0].mesh;

describe('simplifying', () => {
  it('lies as near the surface as the library’s own at equal counts (an open scan; a torus)', () => {
    for (const mesh of [rabbit, torusMesh(60, 20, 120, 60, false)])
      for (const share of [0.05, 0.2]) {
        const goal = Math.round(share * triangleCount(mesh));
        const [ours, theirs] = [simplify(MeshoptSimplifier, mesh, { triangles: goal }), byLibrary(mesh, goal)];
        expect(Math.abs(triangleCount(ours) - triangleCount(theirs))).toBeLessThan(4);
        expect(deviation(mesh, ours).mean).toBeLessThan(1.1 * deviation(mesh, theirs).mean);
      }
  });
  it('spends nothing on a layout or colours that lie flat: two triangles of a plane are enough', () => {
    // The layout of the sheet is its own plane; a colour that runs evenly is carried by the corners.
    const plain = sheet(20, 100, () => 0);
    const colour = Float64Array.from({ length: 4 * plain.faceVert.length }, (_, i) =>
      i % 4 === 3 ? 1 : plain.positions[3 * plain.faceVert[Math.floor(i / 4)]] / 100 + 0.5,
    );
    const mesh = withAttribute(plain, { name: 'colour', domain: 'corner', size: 4, data: colour });
    const made = simplify(MeshoptSimplifier, mesh, { errorMm: 0.01 });
    expect(triangleCount(made)).toBeLessThanOrEqual(80);
    const [uv, own] = [attribute(made, 'uv')?.data ?? [], attribute(made, 'colour')?.data ?? []];
    for (let c = 0; c < made.faceVert.length; c++) {
      const [x, , z] = made.positions.slice(3 * made.faceVert[c], 3 * made.faceVert[c] + 3);
      expect(uv[2 * c]).toBeCloseTo(x / 100 + 0.5, 9);
      expect(uv[2 * c + 1]).toBeCloseTo(0.5 - z / 100, 9);
      expect(own[4 * c]).toBeCloseTo(x / 100 + 0.5, 9);
    }
  });
  it('a layout stays one: islands whole, none turned over, as much of the tile', () => {
    const mesh = laid(torusMesh(60, 20, 80, 40, false));
    const made = simplify(MeshoptSimplifier, mesh, { triangles: 1200 });
    expect(triangleCount(made)).toBeLessThanOrEqual(1200);
    expect(isWatertight(made)).toBe(true);
    const [before, after] = [triangleAreas(mesh), triangleAreas(made)];
    const sum = (list: number[]) => list.reduce((a, b) => a + b, 0);
    // Slivers at a seam may turn; they are nothing that a texel would see.
    expect(sum(after.filter((a) => a < 0))).toBeGreaterThan(-5e-5 * sum(before));
    expect(Math.abs(sum(after) / sum(before) - 1)).toBeLessThan(0.03);
  });
  it('hard edges stay hard and where they are, smooth ones smooth; a file’s own normals stay with their points', () => {
    // A closed drum of triangles: two caps and a wall of 96 sides.
    const n = 96;
    const positions = [0, 40, 0, 0, 0, 0];
    const cells: number[] = [];
    const rings = 9;
    for (let r = 0; r < rings; r++)
      for (let i = 0; i < n; i++)
        positions.push(30 * Math.cos((2 * Math.PI * i) / n), (40 * r) / (rings - 1), -30 * Math.sin((2 * Math.PI * i) / n));
    const at = (r: number, i: number) => 2 + r * n + (i % n);
    for (let i = 0; i < n; i++) {
      for (let r = 0; r + 1 < rings; r++) cells.push(at(r, i), at(r, i + 1), at(r + 1, i + 1), at(r, i), at(r + 1, i + 1), at(r + 1, i));
      cells.push(0, at(rings - 1, i), at(rings - 1, i + 1), 1, at(0, i + 1), at(0, i));
    }
    const drum = markHard(fromTriangles(positions, cells), 40);
    const made = simplify(MeshoptSimplifier, drum, { triangles: 400 });
    const normals = cornerNormals(made);
    for (let c = 0; c < made.faceVert.length; c++) {
      // Either straight up or down, or straight out: nothing runs over the rim.
      const y = Math.abs(normals[3 * c + 1]);
      expect(Math.min(y, Math.abs(1 - y))).toBeLessThan(0.02);
    }
    const own = { name: 'normal', domain: 'corner' as const, size: 3, data: cornerNormals(drum) };
    const kept = simplify(MeshoptSimplifier, withAttribute(drum, own), { triangles: 400 });
    const data = attribute(kept, 'normal')?.data as Float64Array;
    for (let c = 0; c < kept.faceVert.length; c++) {
      const [x, , z] = kept.positions.slice(3 * kept.faceVert[c], 3 * kept.faceVert[c] + 3);
      if (Math.abs(data[3 * c + 1]) < 0.5) expect((data[3 * c] * x + data[3 * c + 2] * z) / Math.hypot(x, z)).toBeGreaterThan(0.999);
    }
  });
  it('several parts, with copies, come under one number and use it up', () => {
    const part = (id: string, mesh: PolyMesh, copies: number) => ({ id, name: id, mesh, placements: Array(copies).fill(IDENTITY) });
    const parts = [part('big', torusMesh(60, 20, 120, 60, false), 1), part('small', torusMesh(10, 2, 60, 30, false), 6)];
    for (const limit of [3000, 9000, 20_000]) {
      const { parts: made, off } = simplifyParts({ simplifier: MeshoptSimplifier }, parts, limit);
      const total = made.reduce((s, p) => s + triangleCount(p.mesh) * p.placements.length, 0);
      expect(total).toBeLessThanOrEqual(limit);
      expect(total).toBeGreaterThan(0.95 * limit);
      expect(off.every((o) => o.most > 0 && o.most < 5)).toBe(true);
    }
  });
});
