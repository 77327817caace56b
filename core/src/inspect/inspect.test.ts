import bunny from 'bunny';
import { capsule, icosphere, torus } from 'primitive-geometry';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, torusMesh } from '../../test/shapes';
import { translation } from '../maths/mat4';
import { random } from '../maths/random';
import { eulerCharacteristic, volumeOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { faceCount, makeMesh, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { flip, transform } from '../mesh/transform';
import { weld } from '../mesh/weld';
import type { FindingKind } from './finding';
import { coincidentArea } from './findings/coincident';
import { applyFix } from './fixes';
import { inspectPart } from './inspect';

const look = (mesh: PolyMesh, declaredOpen = false) =>
  inspectPart({ id: 'p', name: 'Part', mesh, declaredOpen, hasMaterial: true, fixable: true });
const kinds = (mesh: PolyMesh): FindingKind[] => look(mesh).map((f) => f.kind);
const primitive = (g: { positions: ArrayLike<number>; cells: ArrayLike<number> }) =>
  weld(
    fromTriangles(
      Array.from(g.positions, (x) => x * 30),
      g.cells,
    ),
    { within: 1e-6 },
  );
// Clean solids: our cube, and three of the general-purpose package primitive-geometry.
const CLEAN: [string, PolyMesh][] = [
  ['cube', cube(20)],
  ['icosphere', primitive(icosphere({ subdivisions: 2 }))],
  ['torus', primitive(torus({ segments: 20, minorSegments: 10 }))],
  ['capsule', primitive(capsule({}))],
];

describe.each(CLEAN)('%s', (_name, clean) => {
  it('has nothing wrong', () => {
    expect(kinds(clean)).toEqual([]);
  });
  it('turned inside out is found and turned back', () => {
    const bad = flip(clean);
    expect(kinds(bad)).toEqual(['inward']);
    const mended = applyFix(bad, 'turn-outward');
    expect(kinds(mended)).toEqual([]);
    expect(volumeOf(mended)).toBeCloseTo(volumeOf(clean), 6);
  });
  it('single faces turned over are found wherever they are, and turned back', () => {
    const next = random(4);
    for (let i = 0; i < 20; i++) {
      const one = Math.floor(next() * faceCount(clean));
      const bad = flip(
        clean,
        Uint8Array.from({ length: faceCount(clean) }, (_, f) => (f === one ? 1 : 0)),
      );
      expect(kinds(bad)).toEqual(['winding']);
      expect(kinds(applyFix(bad, 'turn-outward'))).toEqual([]);
    }
  });
  it('a face taken out leaves a rim', () => {
    const open = makeMesh({
      positions: clean.positions,
      faceStart: clean.faceStart.slice(0, -1),
      faceVert: clean.faceVert.slice(0, clean.faceStart[faceCount(clean) - 1]),
    });
    const [f] = look(open);
    expect(f.kind).toBe('open-rim');
    expect(f.severity).toBe('warning');
    expect(look(open, true)[0].severity).toBe('information');
  });
  it('a face joined to points of its own is two findings, and welding closes it', () => {
    const next = random(5);
    for (let i = 0; i < 10; i++) {
      const f = Math.floor(next() * faceCount(clean));
      const faceVert = Uint32Array.from(clean.faceVert);
      const positions = [...clean.positions];
      for (let c = clean.faceStart[f]; c < clean.faceStart[f + 1]; c++) {
        const v = clean.faceVert[c];
        faceVert[c] = positions.length / 3;
        positions.push(positions[3 * v] + 0.001, positions[3 * v + 1], positions[3 * v + 2]);
      }
      const bad = makeMesh({ positions, faceStart: clean.faceStart, faceVert });
      expect(new Set(kinds(bad))).toEqual(new Set(['open-rim', 'doubles']));
      const mended = applyFix(bad, 'weld');
      expect(kinds(mended)).toEqual([]);
      expect(vertexCount(mended)).toBe(vertexCount(clean));
    }
  });
  it('a third face on an edge is not manifold; splitting vertices is the only mend and loses no face', () => {
    const [a, b] = [clean.faceVert[0], clean.faceVert[1]];
    const faceVert = [...clean.faceVert, b, a, vertexCount(clean)];
    const bad = makeMesh({ positions: [...clean.positions, 90, 90, 90], faceStart: [...clean.faceStart, faceVert.length], faceVert });
    expect(kinds(bad)).toContain('non-manifold');
    const mended = applyFix(bad, 'split-non-manifold');
    expect(kinds(mended)).not.toContain('non-manifold');
    expect(faceCount(mended)).toBe(faceCount(bad));
  });
  it('a face without area is found and removed', () => {
    const faceVert = [...clean.faceVert, clean.faceVert[0], clean.faceVert[1], vertexCount(clean)];
    const middle = [0, 1, 2].map((k) => (clean.positions[3 * clean.faceVert[0] + k] + clean.positions[3 * clean.faceVert[1] + k]) / 2);
    const bad = makeMesh({ positions: [...clean.positions, ...middle], faceStart: [...clean.faceStart, faceVert.length], faceVert });
    expect(kinds(bad)).toContain('degenerate');
    expect(kinds(applyFix(bad, 'remove-degenerate'))).toEqual([]);
  });
});

describe('nesting', () => {
  it('the inside wall of a hollow rightly faces inward', () => {
    const inner = transform(cube(10), translation([0, 5, 0]));
    expect(kinds(merge([cube(20), flip(inner)]))).toEqual([]);
    const wrong = look(merge([cube(20), inner]));
    expect(wrong.map((f) => f.kind)).toEqual(['inward']);
    expect(wrong[0].value).toBe(6);
  });
  it('two solids side by side are both outward', () => {
    expect(kinds(merge([cube(20), cube(10, [40, 0, 0])]))).toEqual([]);
  });
  it('an open cup facing inward is told by the winding number', () => {
    const cup = makeMesh({
      positions: cube(20).positions,
      faceStart: cube(20).faceStart.slice(0, 2).length ? [0, 4, 8, 12, 16, 20] : [],
      faceVert: [...cube(20).faceVert.slice(0, 4), ...cube(20).faceVert.slice(8)],
    });
    expect(look(cup, true).map((f) => f.kind)).toEqual(['open-rim']);
    expect(look(flip(cup), true).map((f) => f.kind)).toEqual(['inward', 'open-rim']);
  });
});

describe('two surfaces in one plane', () => {
  it('measures how much they share: two cubes touching over half a side', () => {
    const { area } = coincidentArea(cube(20), cube(20, [20, 10, 0]));
    // 20 × 10 mm in common.
    expect(area).toBeGreaterThan(160);
    expect(area).toBeLessThan(240);
  });
  it('a gap, or a corner through a face, is no finding', () => {
    expect(coincidentArea(cube(20), cube(20, [20.1, 0, 0])).area).toBe(0);
    expect(coincidentArea(cube(20), transform(cube(20, [15, 5, 5]), translation([0, 0, 0]))).area).toBe(0);
  });
});

it('a part without material says so', () => {
  const f = inspectPart({ id: 'p', name: 'Knob', mesh: cube(5), declaredOpen: false, hasMaterial: false, fixable: false });
  expect(f).toEqual([expect.objectContaining({ kind: 'no-material', message: 'Knob has no material.', fixes: [] })]);
});

describe('chord errors of an import', () => {
  it('are the sagitta of its rounds, in pixels, and none on flats beside a narrow rounding', () => {
    const [big, small, n, m] = [40, 12, 48, 24];
    const found = inspectPart({
      id: 'p',
      name: 'Ring',
      mesh: torusMesh(big, small, n, m),
      declaredOpen: false,
      hasMaterial: true,
      fixable: true,
      toleranceMm: 0.01,
      pixelMm: 0.2,
    }).find((f) => f.kind === 'chord');
    // Round the outside of the ring: r(1 − cos(π/n)) of R + r, r(1 − cos(π/m)) round its tube.
    const stated = Math.max((big + small) * (1 - Math.cos(Math.PI / n)), small * (1 - Math.cos(Math.PI / m))) / 0.2;
    expect(found?.value).toBeGreaterThan(stated * 0.95);
    expect(found?.value).toBeLessThan(stated * 1.05);
  });
});

describe('the bunny (scanned at Stanford, as the open package `bunny` brings it)', () => {
  const bunnyMesh = fromTriangles(
    bunny.positions.flatMap((p) => p.map((x) => 10 * x)),
    bunny.cells.flat(),
  );
  it('has as many open rims as Euler–Poincaré leaves for one shell of genus 0, and faces outward', () => {
    const found = look(bunnyMesh);
    const rims = found.find((f) => f.kind === 'open-rim')?.value ?? 0;
    expect(eulerCharacteristic(bunnyMesh)).toBe(2 - rims);
    expect(found.filter((f) => f.severity === 'error')).toEqual([]);
    expect(kinds(flip(bunnyMesh))).toContain('inward');
    expect(volumeOf(bunnyMesh)).toBeGreaterThan(0);
  });
  it('has no needles, and has them where two of its points are pushed together', () => {
    expect(look(bunnyMesh).some((f) => f.kind === 'degenerate')).toBe(false);
    const [a, b] = [bunnyMesh.faceVert[300], bunnyMesh.faceVert[301]];
    const positions = [...bunnyMesh.positions];
    for (let k = 0; k < 3; k++) positions[3 * a + k] = positions[3 * b + k] + 1e-6;
    const squeezed = makeMesh({ positions, faceStart: bunnyMesh.faceStart, faceVert: bunnyMesh.faceVert });
    expect(kinds(squeezed)).toEqual(expect.arrayContaining(['degenerate', 'doubles']));
  });
});
