import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cube, torusMesh } from '../../test/shapes';
import { decodeMesh, encodeMesh } from './codec';
import { cornerNormals } from './normals';
import { makeMesh, type PolyMesh, triangleCount, withAttribute } from './polymesh';

/** A closed mesh of triangles: half as many vertices as triangles (Euler, genus 1). */
const torus = torusMesh(40, 10, 80, 40, false);
const bare: PolyMesh = { ...torus, attributes: [], patches: [] };

describe('a stored mesh', () => {
  it('comes back as it was, of triangles and of faces with more corners, with all its attributes', () => {
    for (const mesh of [bare, torus, cube(4), torusMesh(40, 10, 20, 12, true)]) expect(decodeMesh(encodeMesh(mesh))).toEqual(mesh);
  });
  it('bare, takes at most 48 bytes a triangle; smooth normals and a layout are kept by index, counted apart', () => {
    const size = (mesh: PolyMesh) => encodeMesh(mesh).length / triangleCount(mesh);
    expect(size(bare)).toBeLessThan(25);
    const normals = withAttribute(bare, { name: 'normal', domain: 'corner', size: 3, data: cornerNormals(bare) });
    // Three doubles for each of half as many vertices, and an index of four bytes for each corner.
    expect(size(normals) - size(bare)).toBeLessThan(24.5);
    const quads = torusMesh(40, 10, 80, 40, true);
    expect(size({ ...quads, attributes: [], patches: [] })).toBeLessThan(48);
  });
  it('attributes of any kind survive, whether they repeat or not', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ noNaN: true, min: -1e30, max: 1e30 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 4 }),
        fc.boolean(),
        (some, size, float) => {
          const n = bare.faceVert.length * size;
          const data = float ? new Float32Array(n) : new Float64Array(n);
          for (let i = 0; i < n; i++) data[i] = some[i % some.length];
          const mesh = withAttribute(bare, { name: 'own', domain: 'corner', size, data });
          expect(decodeMesh(encodeMesh(mesh)).attributes).toEqual(mesh.attributes);
        },
      ),
      { numRuns: 12, seed: 3 },
    );
    const each = Float64Array.from({ length: 3 * bare.faceVert.length }, (_, i) => Math.fround(i * 0.37));
    const mesh = withAttribute(bare, { name: 'own', domain: 'corner', size: 3, data: each });
    expect(decodeMesh(encodeMesh(mesh))).toEqual(mesh);
  });
  it('as earlier versions wrote it is read, from plain and from shared memory; damage is said', () => {
    const old = (): Uint8Array => {
      const m = cube(3);
      const arrays = [
        ['positions', m.positions],
        ['faceStart', m.faceStart],
        ['faceVert', m.faceVert],
        ['triangles', m.triangles],
        ['triangleFace', m.triangleFace],
      ] as const;
      const head = new TextEncoder().encode(
        JSON.stringify({ arrays: arrays.map(([name, d]) => ({ name, kind: d.constructor.name, length: d.length })), patches: [] }),
      );
      const align = (n: number) => (n + 7) & ~7;
      let total = align(8 + head.length);
      for (const [, d] of arrays) total = align(total + d.byteLength);
      const out = new Uint8Array(total);
      new DataView(out.buffer).setUint32(0, 0x314d4d57, true);
      new DataView(out.buffer).setUint32(4, head.length, true);
      out.set(head, 8);
      let at = align(8 + head.length);
      for (const [, d] of arrays) {
        out.set(new Uint8Array(d.buffer, d.byteOffset, d.byteLength), at);
        at = align(at + d.byteLength);
      }
      return out;
    };
    const { positions, faceStart, faceVert } = cube(3);
    expect(decodeMesh(old())).toEqual(makeMesh({ positions, faceStart, faceVert }));
    const bytes = encodeMesh(bare);
    const shared = new Uint8Array(new SharedArrayBuffer(bytes.length + 3), 3);
    shared.set(bytes);
    expect(decodeMesh(shared)).toEqual(bare);
    for (const cut of [0, 7, 40, bytes.length - 9]) expect(() => decodeMesh(bytes.slice(0, cut))).toThrow(/damaged/);
  });
});
