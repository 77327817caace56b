import { WebIO } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { gpuMesh } from '../mesh/gpu';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { exportGlb } from '../pipeline/export';
import type { PartMesh } from '../pipeline/form';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { measureLayout } from './measure';
import { secondAsFirst } from './second';

const settings: UnwrapSettings = {
  size: 512,
  padding: 8,
  seamAngle: 50,
  rotate: true,
  weights: { b: 0.5 },
  regions: {},
  second: { on: true, size: 256, padding: 4 },
};
const part = (id: string, mesh: PolyMesh): PartMesh => ({ id, name: id, mesh, placements: [IDENTITY] });
const dome = sheet(8, 30, (x, y) => 5 * Math.cos(x / 14) * Math.cos(y / 12));
const parts = [part('a', dome), part('b', cube(12)), part('c', cube(12))];

describe('a second layout', () => {
  const made = unwrap(parts, { ...settings, alike: { a: 'm', b: 'm', c: 'm' } });

  it('has the islands of the first, all at one density, twins with texels of their own, none on another', () => {
    expect(made.figures.twins?.shells).toBe(1);
    const { second } = made.figures;
    // The dome, and each cube's six sides.
    expect(second).toMatchObject({ islands: 13, overlapTexels: 0, folds: 0 });
    expect(second?.gutter).toBeGreaterThanOrEqual(4);
    const measured = measureLayout(made.parts.map(secondAsFirst), 256);
    expect(measured.coverage).toBe(second?.coverage);
    const densities = measured.parts.map((p) => p.density);
    expect(Math.max(...densities) / Math.min(...densities)).toBeLessThan(1.02);
    // The first is as it is without it.
    const alone = unwrap(parts, { ...settings, second: undefined, alike: { a: 'm', b: 'm', c: 'm' } });
    expect(attribute(made.parts[0].mesh, 'uv', 'corner')).toEqual(attribute(alone.parts[0].mesh, 'uv', 'corner'));
    expect(alone.figures.second).toBeUndefined();
  });

  it('parts no vertex', () => {
    const alone = unwrap(parts, { ...settings, second: undefined });
    const count = (m: PolyMesh) => gpuMesh(m).position.length / 3;
    const both = unwrap(parts, settings);
    expect(both.parts.map((p) => count(p.mesh))).toEqual(alone.parts.map((p) => count(p.mesh)));
  });

  it('both are in the GLB as an independent loader reads it (glTF 2.0, 3.7.2.1)', async () => {
    const glb = await exportGlb(made.parts, { name: 'x', materials: [], materialOf: () => null, tangents: false });
    const [primitive] = (await new WebIO().readBinary(glb)).getRoot().listMeshes()[0].listPrimitives();
    const [first, second] = [0, 1].map((k) => primitive.getAttribute(`TEXCOORD_${k}`));
    expect(first?.getCount()).toBe(second?.getCount());
    const gpu = gpuMesh(made.parts[0].mesh, { tangents: false });
    const uv2 = attribute(made.parts[0].mesh, 'uv2', 'corner')?.data as Float64Array;
    for (let i = 0; i < gpu.corner.length; i += 7) {
      const [u, v] = second?.getElement(i, [0, 0]) ?? [];
      expect(u).toBeCloseTo(uv2[2 * gpu.corner[i]], 6);
      expect(v).toBeCloseTo(1 - uv2[2 * gpu.corner[i] + 1], 6);
    }
  });
});
