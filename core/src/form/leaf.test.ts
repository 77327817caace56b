import { WebIO } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { polygon, stepOf } from '../../test/recipes';
import { briefFor } from '../brief/brief';
import { boundaryLoops, edgesOf } from '../mesh/connectivity';
import { areaOf, boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { hardEdges } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import { newDocument, type Part } from '../pipeline/document';
import { exportGlb, exportOptions } from '../pipeline/export';
import { formAsset } from '../pipeline/form';
import { inspectAsset, ledgerOf } from '../pipeline/inspect';
import type { Detail } from './step';
import { type LeafStep, leaf, sagging } from './steps/leaf';

const dense: Detail = { mesh: 'high', toleranceMm: 0.0008 };
const build = (more: Partial<LeafStep>, detail: Detail = dense): PolyMesh => leaf.maker.build(stepOf('leaf', more), detail);
const flat = { rise: 0, hollow: 0, foldDegrees: 0, sag: 0, ripples: 0, ripple: 0 };
const flag = polygon([
  [0, -20],
  [60, -20],
  [60, 20],
  [0, 20],
]);

describe('a leaf', () => {
  it('flat, it has the area of its outline, once; with a thickness, its volume', () => {
    // A lens of two arcs of radius r over a chord c: r²(θ − sin θ), θ = 2·asin(c/2r).
    const r = Math.hypot(40, 40);
    const theta = 2 * Math.asin(40 / r);
    const lens = r * r * (theta - Math.sin(theta));
    expect(areaOf(build(flat)) / lens).toBeCloseTo(1, 3);
    expect(volumeOf(build({ ...flat, thickness: 0.4 })) / (0.4 * lens)).toBeCloseTo(1, 3);
  });
  it('open it has one rim and is declared open by itself; with a thickness it is closed', () => {
    expect(boundaryLoops(build({}))).toHaveLength(1);
    expect(isWatertight(build({ thickness: 0.3 }))).toBe(true);
    expect([leaf.open(stepOf('leaf')), leaf.open(stepOf('leaf', { thickness: 0.3 }))]).toEqual([true, false]);
  });
  it('sags as a beam does: half way by 17/48 of its tip (Euler and Bernoulli)', () => {
    expect(sagging(0.5)).toBeCloseTo(17 / 48, 12);
    const mesh = build({ ...flat, sketch: flag, sag: 12 });
    let [tip, half] = [Number.NaN, Number.NaN];
    for (let v = 0; v < mesh.positions.length; v += 3) {
      if (Math.abs(mesh.positions[v] - 60) < 1e-9) tip = mesh.positions[v + 1];
      if (Math.abs(mesh.positions[v] - 30) < 0.4) half = mesh.positions[v + 1] / sagging(mesh.positions[v] / 60);
    }
    expect(tip).toBeCloseTo(-12, 9);
    expect(half).toBeCloseTo(-12, 6);
  });
  it('folded, its midrib is a hard line from end to end and each half leans by the angle', () => {
    const mesh = build({ ...flat, sketch: flag, foldDegrees: 30 }, { mesh: 'low', count: (a) => a.minimum });
    const edges = edgesOf(mesh);
    const hard = hardEdges(mesh, {}, edges);
    let long = 0;
    for (let e = 0; e < edges.count; e++) {
      const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
      if (hard[e] && Math.abs(mesh.positions[a + 2]) < 1e-9 && Math.abs(mesh.positions[b + 2]) < 1e-9)
        long += Math.abs(mesh.positions[a] - mesh.positions[b]);
    }
    expect(long).toBeCloseTo(60, 6);
    expect(areaOf(mesh)).toBeCloseTo((60 * 40) / Math.cos(Math.PI / 6), 6);
    expect(boundsOf(mesh).max[1]).toBeCloseTo(20 * Math.tan(Math.PI / 6), 6);
  });
  it('hanging, it stands in its drawing and ripples towards the eye', () => {
    const { min, max } = boundsOf(build({ ...flat, sketch: flag, lies: 'upright', ripples: 2, ripple: 5 }));
    expect([min[0], max[0], min[1], max[1]].map((x) => Math.round(x * 1e6) / 1e6 + 0)).toEqual([0, 60, -20, 20]);
    expect(max[2]).toBeGreaterThan(3);
    expect(max[2]).toBeLessThan(5);
  });
});

describe('two-sided sheets in an asset', () => {
  const part = (id: string, thickness: number): Part => ({
    id,
    name: id,
    role: 'body',
    material: null,
    move: [0, 0, 0],
    turnDegrees: [0, 0, 0],
    shape: { kind: 'recipe', steps: [stepOf('leaf', { id: `${id}-leaf`, thickness })] },
    weight: 1,
    declaredOpen: false,
  });
  const document = {
    ...newDocument('Leaves', { ...briefFor('game'), sizeMm: [80, 20, 40] as [number, number, number] }),
    parts: [part('open', 0), part('thick', 0.5)],
  };
  const formed = formAsset(document, 'low', () => {
    throw new Error('no mesh');
  });
  it('nothing is wrong with their rims', () => {
    const rims = inspectAsset(document, formed, ledgerOf(formed.parts)).filter((f) => f.kind === 'open-rim');
    expect(rims.map((f) => [f.severity, /declared open/.test(f.message)])).toEqual([['information', true]]);
  });
  it('go into a file with both sides, the closed one beside them with one', async () => {
    const glb = await exportGlb(formed.parts, exportOptions(document));
    const meshes = (await new WebIO().readBinary(glb)).getRoot().listMeshes();
    expect(meshes.map((m) => [m.getName(), m.listPrimitives()[0].getMaterial()?.getDoubleSided() ?? false])).toEqual([
      ['open', true],
      ['thick', false],
    ]);
  });
});
