import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { eigen3 } from '../maths/eigen3';
import { placement } from '../maths/mat4';
import { random } from '../maths/random';
import { planeOffsets } from './offset';
import { attribute, faceCount, type PolyMesh, withAttribute } from './polymesh';
import { mixAt, Rework, range, triangleStarts, UNLAID } from './rework';
import { sliceBy } from './slice';
import { transform } from './transform';

const plane = (n: number): PolyMesh => {
  const m = sheet(n, 40, () => 0);
  return withAttribute({ ...m, patches: ['flat'] }, { name: 'patch', domain: 'face', size: 1, data: new Uint32Array(faceCount(m)) });
};

describe('meshes made out of others', () => {
  it('what is kept keeps its values; what is new has a patch of its own and is left to the flattening', () => {
    const m = withAttribute(plane(1), { name: 'chart', domain: 'face', size: 1, data: Int32Array.of(7) });
    const r = new Rework(m);
    r.keep(0);
    const tip = r.vertex(0, 10, 0);
    r.face(
      [0, 1]
        .map((c) => ({ vertex: m.faceVert[c], from: c, uv: [c, 0] as const }))
        .concat([{ vertex: tip, from: 0, uv: [0.5, 1] as const }] as never),
      0,
      'new/side',
    );
    const { mesh, origin } = r.build();
    expect(mesh.patches).toEqual(['flat', 'new/side']);
    expect([...(attribute(mesh, 'patch')?.data ?? [])]).toEqual([0, 1]);
    expect([...(attribute(mesh, 'chart')?.data ?? [])]).toEqual([7, UNLAID]);
    expect([...origin]).toEqual([0, 0]);
  });
  it('values in the plane of a face are linear: a layout cut at random places stays exactly where it lay', () => {
    const next = random(3);
    const m = plane(3);
    const cuts = (n: number) => Array.from({ length: n }, () => 40 * next() - 20).sort((a, b) => a - b);
    const cut = sliceBy(sliceBy(m, [1, 0, 0], cuts(7)).mesh, [0, 0, 1], cuts(5)).mesh;
    const uv = attribute(cut, 'uv', 'corner')?.data as Float64Array;
    for (let c = 0; c < cut.faceVert.length; c++) {
      const v = 3 * cut.faceVert[c];
      expect(uv[2 * c]).toBeCloseTo(cut.positions[v] / 40 + 0.5, 9);
      expect(uv[2 * c + 1]).toBeCloseTo(0.5 - cut.positions[v + 2] / 40, 9);
    }
  });
  it('a place mixes from the triangle it lies in, and its shares give it back', () => {
    const m = plane(1);
    const starts = triangleStarts(m);
    const next = random(6);
    for (let i = 0; i < 40; i++) {
      const p = [40 * next() - 20, 0, 40 * next() - 20] as const;
      const mix = mixAt(m, range(starts[0], starts[1]), ...p);
      expect(mix.reduce((s, [, w]) => s + w, 0)).toBeCloseTo(1, 12);
      for (const k of [0, 2]) expect(mix.reduce((s, [c, w]) => s + w * m.positions[3 * m.faceVert[c] + k], 0)).toBeCloseTo(p[k], 9);
    }
  });
  it('a mirrored surface is laid out mirrored, so that its island is face up', () => {
    const flat = (m: PolyMesh) => attribute(m, 'flat', 'corner')?.data as Float64Array;
    const m = plane(2);
    const laid = withAttribute(m, {
      name: 'flat',
      domain: 'corner',
      size: 2,
      data: Float64Array.from((attribute(m, 'uv')?.data as Float64Array).map((x) => 40 * x)),
    });
    const area = (x: PolyMesh) => {
      let sum = 0;
      for (let f = 0; f < faceCount(x); f++)
        for (let c = x.faceStart[f]; c < x.faceStart[f + 1]; c++) {
          const d = c + 1 < x.faceStart[f + 1] ? c + 1 : x.faceStart[f];
          sum += flat(x)[2 * c] * flat(x)[2 * d + 1] - flat(x)[2 * d] * flat(x)[2 * c + 1];
        }
      return sum / 2;
    };
    const mirrored = transform(laid, [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    expect(area(laid)).toBeCloseTo(1600, 6);
    expect(area(mirrored)).toBeCloseTo(1600, 6);
    expect(area(transform(laid, placement([5, 0, 0], [0, 30, 0])))).toBeCloseTo(1600, 6);
  });
});

describe('planes moved', () => {
  it('eigenvectors of random symmetric matrices put them together again', () => {
    const next = random(12);
    for (let i = 0; i < 60; i++) {
      const m = Array.from({ length: 6 }, () => 4 * next() - 2);
      const { values, vectors } = eigen3(m);
      const full = [m[0], m[1], m[2], m[1], m[3], m[4], m[2], m[4], m[5]];
      for (let r = 0; r < 3; r++)
        for (let c = 0; c < 3; c++)
          expect(values.reduce((s, x, k) => s + x * vectors[k][r] * vectors[k][c], 0)).toBeCloseTo(full[3 * r + c], 9);
    }
  });
  it('a flat vertex moves straight out; one of a fan of triangles counts as one face', () => {
    const out = planeOffsets(plane(3));
    for (let v = 0; v < out.length; v += 3)
      expect([out[v], out[v + 1], out[v + 2]].map((x) => Math.round(1e9 * x) / 1e9 + 0)).toEqual([0, 1, 0]);
    const by = planeOffsets(plane(2), undefined, new Float64Array(4).fill(-0.25));
    expect(by[1]).toBeCloseTo(-0.25, 12);
  });
});
