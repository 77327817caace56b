import { capsule, cone, cylinder, icosphere, torus } from 'primitive-geometry';
import { describe, expect, it } from 'vitest';
import { cube, fromTriangles, sheet } from '../../test/shapes';
import { scaling } from '../maths/mat4';
import { random } from '../maths/random';
import { boundaryLoops, edgesOf, edgeValence, Groups, shellsOf, twin } from './connectivity';
import { keepFaces, reindex } from './edit';
import { areaOf, eulerCharacteristic, isWatertight, triangleArea, volumeOf } from './measures';
import { merge } from './merge';
import { hardEdges, markHard } from './normals';
import { smoothPatches } from './patches';
import {
  attribute,
  cornerCount,
  faceCount,
  MeshBuilder,
  makeMesh,
  type PolyMesh,
  triangleCount,
  vertexCount,
  withAttribute,
  withoutAttribute,
} from './polymesh';
import { soupOf } from './soup';
import { flip, transform } from './transform';
import { dropRepeats, weld } from './weld';

const primitive = (g: { positions: ArrayLike<number>; cells: ArrayLike<number> }) =>
  weld(
    fromTriangles(
      Array.from(g.positions, (x) => x * 30),
      g.cells,
    ),
    { within: 1e-6 },
  );
// Solids of the general-purpose package primitive-geometry, with their Euler characteristic: 2 for balls, 0 for a ring.
const SOLIDS: [string, PolyMesh, number][] = [
  ['cube', cube(20), 2],
  ['icosphere', primitive(icosphere({ subdivisions: 1 })), 2],
  ['torus', primitive(torus({ segments: 16, minorSegments: 8 })), 0],
  ['capsule', primitive(capsule({})), 2],
  ['cylinder', primitive(cylinder({})), 2],
  ['cone', primitive(cone({})), 2],
];

describe.each(SOLIDS)('%s', (_name, mesh, euler) => {
  it('obeys Euler’s formula', () => {
    expect(eulerCharacteristic(mesh)).toBe(euler);
  });
  it('every corner starts one edge; every edge has two corners that are each other’s twin', () => {
    const edges = edgesOf(mesh);
    let corners = 0;
    for (let e = 0; e < edges.count; e++) {
      corners += edgeValence(edges, e);
      expect(edges.ends[2 * e]).toBeLessThan(edges.ends[2 * e + 1]);
    }
    expect(corners).toBe(cornerCount(mesh));
    for (let c = 0; c < corners; c++) {
      const t = twin(edges, c);
      expect(twin(edges, t)).toBe(c);
      // Consistently wound, so they run opposite ways.
      expect(mesh.faceVert[edges.next[t]]).toBe(mesh.faceVert[c]);
      expect(mesh.faceVert[edges.next[c]]).toBe(mesh.faceVert[t]);
    }
  });
  it('loses one face and gains one rim of as many edges', () => {
    for (const f of [0, faceCount(mesh) >> 1, faceCount(mesh) - 1]) {
      const open = keepFaces(mesh, (x) => x !== f);
      expect(boundaryLoops(open).map((l) => l.length)).toEqual([mesh.faceStart[f + 1] - mesh.faceStart[f]]);
      expect(eulerCharacteristic(open)).toBe(euler - 1);
      expect(isWatertight(open)).toBe(false);
    }
  });
  it('its bare triangles have its area and keep its order', () => {
    const soup = soupOf(mesh);
    expect(soup.length).toBe(9 * triangleCount(mesh));
    let sum = 0;
    for (let t = 0; t < triangleCount(mesh); t++) sum += triangleArea(mesh, t);
    expect(sum).toBeCloseTo(areaOf(mesh), 9);
    const first = mesh.faceVert[mesh.triangles[0]];
    expect([...soup.slice(0, 3)]).toEqual([...mesh.positions.slice(3 * first, 3 * first + 3)]);
  });
  it('scaled by two has four times the area and eight times the volume', () => {
    const large = transform(mesh, scaling([2, 2, 2]));
    expect(areaOf(large)).toBeCloseTo(4 * areaOf(mesh), 4);
    expect(volumeOf(large)).toBeCloseTo(8 * volumeOf(mesh), 3);
  });
  it('twice side by side is two shells', () => {
    const both = merge([mesh, transform(mesh, scaling([1, 1, -1]))]);
    expect(shellsOf(both).count).toBe(2);
    expect(eulerCharacteristic(both)).toBe(2 * euler);
  });
});

describe('edges that are not manifold', () => {
  it('keep all their corners and have no twin', () => {
    const three = makeMesh({
      positions: [0, 0, 0, 1, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 1],
      faceStart: [0, 3, 6, 9],
      faceVert: [0, 1, 2, 1, 0, 3, 0, 1, 4],
    });
    const edges = edgesOf(three);
    const shared = Array.from({ length: edges.count }, (_, e) => e).find((e) => edgeValence(edges, e) === 3) as number;
    expect([edges.ends[2 * shared], edges.ends[2 * shared + 1]]).toEqual([0, 1]);
    for (let k = 0; k < 3; k++) expect(twin(edges, edges.corners[edges.start[shared] + k])).toBe(-1);
  });
});

describe('disjoint sets', () => {
  it('agree with labels spread by hand, and the lowest member stands for its set', () => {
    const next = random(12);
    const groups = new Groups(60);
    const label = Array.from({ length: 60 }, (_, i) => i);
    for (let i = 0; i < 50; i++) {
      const [a, b] = [Math.floor(next() * 60), Math.floor(next() * 60)];
      groups.join(a, b);
      const [from, to] = [Math.max(label[a], label[b]), Math.min(label[a], label[b])];
      for (let k = 0; k < 60; k++) if (label[k] === from) label[k] = to;
    }
    for (let k = 0; k < 60; k++) expect(groups.find(k)).toBe(label[k]);
  });
});

describe('edits carry attributes along', () => {
  const marked = () => {
    const m = sheet(3, 9, () => 0);
    return withAttribute(
      withAttribute(m, { name: 'tint', domain: 'vertex', size: 1, data: Float64Array.from({ length: 16 }, (_, v) => v) }),
      { name: 'group', domain: 'face', size: 1, data: Int32Array.from({ length: 9 }, (_, f) => 10 * f) },
    );
  };
  it('keeping some faces keeps their values and drops unused vertices', () => {
    const m = marked();
    const kept = keepFaces(m, (f) => f === 4 || f === 8);
    expect([...(attribute(kept, 'group')?.data ?? [])]).toEqual([40, 80]);
    expect(vertexCount(kept)).toBe(7);
    const tint = attribute(kept, 'tint')?.data ?? [];
    // A vertex's tint is its old number; its position has to be the old one's.
    for (let v = 0; v < vertexCount(kept); v++)
      for (let k = 0; k < 3; k++) expect(kept.positions[3 * v + k]).toBe(m.positions[3 * tint[v] + k]);
    expect(attribute(kept, 'uv')?.data).toHaveLength(16);
  });
  it('joining a face’s corners drops it when too few are left', () => {
    const m = cube(10);
    const to = Array.from({ length: 8 }, (_, v) => v);
    to[5] = 4;
    to[6] = 7;
    // The top becomes a line; two sides become triangles.
    const folded = dropRepeats(reindex(m, to));
    expect(faceCount(folded)).toBe(5);
    expect(volumeOf(folded)).toBeGreaterThan(0);
  });
  it('turning chosen faces over moves their edge values with the edges', () => {
    const m = markHard(cube(10), 40);
    const one = flip(m, [1, 0, 0, 0, 0, 0]);
    expect(hardEdges(one).reduce((a, b) => a + b, 0)).toBe(12);
    const seam = withAttribute(cube(10), {
      name: 'seam',
      domain: 'corner',
      size: 1,
      data: Uint8Array.from({ length: 24 }, (_, c) => (c === 1 ? 1 : 0)),
    });
    const before = [seam.faceVert[1], seam.faceVert[2]].sort();
    const after = flip(seam);
    const c = [...(attribute(after, 'seam')?.data ?? [])].indexOf(1);
    const edges = edgesOf(after);
    expect([after.faceVert[c], after.faceVert[edges.next[c]]].sort()).toEqual(before);
  });
  it('taking an attribute away leaves the rest', () => {
    const m = withoutAttribute(marked(), 'tint');
    expect(m.attributes.map((a) => a.name)).toEqual(['uv', 'island', 'group']);
  });
  it('merging fills in what one of two lacks, and renumbers patches by name', () => {
    const builder = (name: string) => {
      const b = new MeshBuilder();
      const v = [b.vertex(0, 0, 0), b.vertex(1, 0, 0), b.vertex(0, 1, 0)];
      b.face(v, b.patch('wall'), [0, 0, 1, 0, 0, 1]);
      b.face([v[2], v[1], v[0]], b.patch(name), [0, 0, 1, 0, 0, 1], [true, false, false]);
      return b.build();
    };
    const both = merge([builder('foot'), builder('rim'), fromTriangles([0, 0, 5, 1, 0, 5, 0, 1, 5], [0, 1, 2])]);
    const patches = attribute(both, 'patch')?.data ?? [];
    expect([...patches].map((p) => both.patches[p])).toEqual(['wall', 'foot', 'wall', 'rim', 'wall']);
    expect([...(attribute(both, 'hard')?.data ?? [])]).toEqual([0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0]);
  });
  it('a mesh with patches of its own keeps them', () => {
    const b = new MeshBuilder();
    b.face([b.vertex(0, 0, 0), b.vertex(1, 0, 0), b.vertex(0, 1, 0)], b.patch('blade'), [0, 0, 1, 0, 0, 1]);
    expect(smoothPatches(b.build(), 40).patches).toEqual(['blade']);
  });
});
