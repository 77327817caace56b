import fc from 'fast-check';
import { generateTangents } from 'mikktspace';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, sheet } from '../../test/shapes';
import { applyFix } from '../inspect/fixes';
import { multiply, placement, rotation, scaling } from '../maths/mat4';
import { random } from '../maths/random';
import { decodeMesh, encodeMesh } from './codec';
import { boundaryLoops, edgesOf } from './connectivity';
import { gpuMesh } from './gpu';
import { areaOf, boundsOf, eulerCharacteristic, isWatertight, volumeOf } from './measures';
import { merge } from './merge';
import { cornerNormals } from './normals';
import { attribute, faceCount, makeMesh, triangleCount, vertexCount, withAttribute } from './polymesh';
import { mikkTangents } from './tangents';
import { flip, transform } from './transform';
import { weld } from './weld';

describe('measures', () => {
  it('gives a cube its area, volume and Euler characteristic (closed forms: 6a², a³, V − E + F = 2)', () => {
    const m = cube(100);
    expect(areaOf(m)).toBeCloseTo(60_000, 6);
    expect(volumeOf(m)).toBeCloseTo(1_000_000, 4);
    expect(eulerCharacteristic(m)).toBe(2);
    expect(isWatertight(m)).toBe(true);
    expect(boundsOf(m)).toEqual({ min: [-50, 0, -50], max: [50, 100, 50] });
  });

  it('finds the one rim of an open sheet', () => {
    const m = sheet(4, 10, () => 0);
    expect(boundaryLoops(m)).toHaveLength(1);
    expect(boundaryLoops(m)[0]).toHaveLength(16);
    expect(eulerCharacteristic(m)).toBe(1);
    expect(isWatertight(m)).toBe(false);
  });

  it('does not depend on where a closed mesh stands or how it is turned; a mirror keeps it facing outward', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -180, max: 180, noNaN: true }), { minLength: 3, maxLength: 3 }),
        fc.boolean(),
        (turn, mirror) => {
          const m = multiply(placement([10, -20, 30], turn as [number, number, number]), scaling([mirror ? -1 : 1, 1, 1]));
          const moved = transform(cube(10), m);
          expect(volumeOf(moved)).toBeCloseTo(1000, 6);
          expect(isWatertight(moved)).toBe(true);
        },
      ),
      { numRuns: 50 },
    );
  });
});

describe('triangulation', () => {
  it('covers a concave face exactly once', () => {
    // An L of area 3: five of six corners convex.
    const m = makeMesh({
      positions: [0, 0, 0, 2, 0, 0, 2, 1, 0, 1, 1, 0, 1, 2, 0, 0, 2, 0],
      faceStart: [0, 6],
      faceVert: [0, 1, 2, 3, 4, 5],
    });
    expect(triangleCount(m)).toBe(4);
    expect(areaOf(m)).toBeCloseTo(3, 12);
  });

  it('cuts quads along the shorter diagonal and never folds a concave one', () => {
    const dart = makeMesh({ positions: [0, 0, 0, 2, 1, 0, 4, 0, 0, 2, 4, 0], faceStart: [0, 4], faceVert: [0, 1, 2, 3] });
    expect(areaOf(dart)).toBeCloseTo(6, 12);
  });

  it('refuses what it can’t trust, in a sentence', () => {
    expect(() => makeMesh({ positions: [0, 0, Number.NaN], faceStart: [0], faceVert: [] })).toThrow(/not a number/);
    expect(() => makeMesh({ positions: [0, 0, 0], faceStart: [0, 3], faceVert: [0, 1, 2] })).toThrow(/only 1/);
    expect(() => makeMesh({ positions: [0, 0, 0], faceStart: [0, 3], faceVert: [0] })).toThrow(/list of faces/);
  });
});

describe('normals', () => {
  it('splits a cube at its hard edges and smooths it without them', () => {
    const hard = cornerNormals(cube(1), { hardAngle: 40 });
    for (let i = 0; i < hard.length; i += 3)
      expect(Math.max(Math.abs(hard[i]), Math.abs(hard[i + 1]), Math.abs(hard[i + 2]))).toBeCloseTo(1, 12);
    const soft = cornerNormals(cube(1));
    // Angle weighting is even at a cube's corner whatever the triangulation (Thürmer & Wüthrich 1998): (1, 1, 1)/√3.
    for (const x of soft) expect(Math.abs(x)).toBeCloseTo(1 / Math.sqrt(3), 12);
  });

  it('turns with the mesh and is negated by flipping', () => {
    const m = sheet(3, 10, (x, z) => 0.1 * x * z);
    const own = { name: 'normal', domain: 'corner' as const, size: 3, data: cornerNormals(m) };
    const turned = transform(withAttribute(m, own), rotation([0, 0, 1], 0.7));
    const again = cornerNormals({ ...turned, attributes: turned.attributes.filter((a) => a.name !== 'normal') });
    attribute(turned, 'normal')?.data.forEach((x, i) => expect(x).toBeCloseTo(again[i], 9));
    const back = flip(flip(m));
    expect([...back.faceVert]).toEqual([...m.faceVert]);
    expect(attribute(back, 'uv')?.data).toEqual(attribute(m, 'uv')?.data);
  });
});

/** Corners of a mesh as the tangent generators take them. */
function corners(m: ReturnType<typeof sheet>) {
  const normals = cornerNormals(m, { hardAngle: 30 });
  const uv = attribute(m, 'uv')?.data as Float64Array;
  const position = new Float32Array(3 * m.triangles.length);
  const normal = new Float32Array(position.length);
  const texcoord = new Float32Array(2 * m.triangles.length);
  m.triangles.forEach((c, i) => {
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = m.positions[3 * m.faceVert[c] + k];
      normal[3 * i + k] = normals[3 * c + k];
    }
    texcoord.set([uv[2 * c], uv[2 * c + 1]], 2 * i);
  });
  return { position, normal, texcoord };
}

describe('tangents', () => {
  // Oracle: the npm build of the MikkTSpace reference code.
  it.each([
    ['a smooth hill', (x: number, z: number) => Math.exp(-(x * x + z * z) / 20)],
    ['a sharp ridge', (x: number) => Math.abs(x) * 0.9],
    ['a rough field', (x: number, z: number) => Math.sin(3 * x) * Math.cos(2 * z)],
  ])('agree with the reference on %s, mirrored islands and all', (_name, height) => {
    const m = sheet(9, 10, height);
    const uv = attribute(m, 'uv')?.data as Float64Array;
    // Left half mirrored and moved, as on a piece with shared texels; some faces with a squeezed layout.
    const next = random(3);
    for (let c = 0; c < m.faceVert.length; c++) if (m.positions[3 * m.faceVert[c]] < -0.6) uv[2 * c] = 1.5 - uv[2 * c];
    for (let c = 0; c < m.faceVert.length; c += 16) uv[2 * c + 1] += 0.02 * next();
    const { position, normal, texcoord } = corners(m);
    const theirs = generateTangents(position, normal, texcoord);
    const ours = mikkTangents(position, normal, texcoord);
    let worst = 0;
    for (let i = 0; i < ours.length; i += 4) {
      worst = Math.max(worst, Math.hypot(ours[i] - theirs[i], ours[i + 1] - theirs[i + 1], ours[i + 2] - theirs[i + 2]));
      expect(ours[i + 3]).toBe(theirs[i + 3]);
    }
    expect(worst).toBeLessThan(2e-4);
  });

  it('survive faces without any layout area', () => {
    const m = sheet(2, 10, () => 0);
    (attribute(m, 'uv')?.data as Float64Array).fill(0.5, 0, 8);
    const { position, normal, texcoord } = corners(m);
    for (const x of mikkTangents(position, normal, texcoord)) expect(Number.isFinite(x)).toBe(true);
  });
});

describe('splitting for the graphics card', () => {
  it('counts a bare cube with hard edges as 24 and a smooth one as 8 (fact of the trade: common practice, no source)', () => {
    expect(gpuMesh(cube(10), { hardAngle: 40 }).position.length / 3).toBe(24);
    expect(gpuMesh(cube(10)).position.length / 3).toBe(8);
  });

  it('splits where only the tangent differs: a mirrored layout on a flat sheet', () => {
    const m = sheet(2, 10, () => 0);
    const plain = gpuMesh(m).position.length / 3;
    const uv = attribute(m, 'uv')?.data as Float64Array;
    for (let c = 0; c < m.faceVert.length; c++) uv[2 * c] = Math.abs(uv[2 * c] - 0.5);
    const mirrored = gpuMesh(m).position.length / 3;
    expect(plain).toBe(9);
    // The middle column has one position, normal and uv, but a tangent for each side.
    expect(mirrored).toBe(12);
  });
});

describe('joining points', () => {
  const open = () => {
    // A tube of four walls whose last wall is not joined to the first.
    const ring = (y: number) => [0, 90, 180, 270, 360].flatMap((a) => [Math.cos((a * Math.PI) / 180), y, Math.sin((a * Math.PI) / 180)]);
    return makeMesh({
      positions: [...ring(0), ...ring(1)],
      faceStart: [0, 4, 8, 12, 16],
      faceVert: [0, 5, 6, 1, 1, 6, 7, 2, 2, 7, 8, 3, 3, 8, 9, 4],
    });
  };
  it('closes an opening, and can keep it as a seam', () => {
    expect(boundaryLoops(open())).toHaveLength(1);
    const joined = weld(open(), { within: 0.001 });
    expect(vertexCount(joined)).toBe(8);
    expect(boundaryLoops(joined)).toHaveLength(2);
    expect(attribute(joined, 'seam')).toBeUndefined();
    const kept = applyFix(open(), 'weld-keep-seam');
    expect(boundaryLoops(kept)).toHaveLength(2);
    const seams = attribute(kept, 'seam')?.data ?? [];
    const edges = edgesOf(kept);
    const marked = new Set([...seams].flatMap((s, c) => (s ? [edges.ofCorner[c]] : [])));
    expect(marked.size).toBe(1);
  });
  it('leaves points alone that are farther apart, and finds every pair that is not (brute force)', () => {
    const next = random(5);
    const positions = Float64Array.from({ length: 900 }, () => next() * 2);
    const cells = Uint32Array.from({ length: 300 }, (_, i) => i);
    const joined = weld(fromTriangles(positions, cells), { within: 0.08 });
    const kept = vertexCount(joined);
    let least = Infinity;
    for (let a = 0; a < kept; a++)
      for (let b = a + 1; b < kept; b++)
        least = Math.min(least, Math.hypot(...[0, 1, 2].map((k) => joined.positions[3 * a + k] - joined.positions[3 * b + k])));
    expect(least).toBeGreaterThan(0.08);
  });
});

describe('merging and storing', () => {
  it('keeps both meshes whole', () => {
    const both = merge([cube(10), cube(20, [40, 0, 0])]);
    expect(faceCount(both)).toBe(12);
    expect(volumeOf(both)).toBeCloseTo(1000 + 8000, 6);
  });
  it('comes back from its blob bit for bit, and a damaged blob is refused', () => {
    const m = sheet(5, 10, (x) => x * x);
    const back = decodeMesh(encodeMesh(m));
    expect(back.positions).toEqual(m.positions);
    expect(back.triangles).toEqual(m.triangles);
    expect(back.attributes).toEqual(m.attributes);
    const bytes = encodeMesh(m);
    expect(() => decodeMesh(bytes.slice(0, bytes.length - 100))).toThrow(/damaged/);
    expect(() => decodeMesh(new Uint8Array(3))).toThrow(/damaged/);
  });
});
