import { capsule, ellipsoid, icosphere, roundedCube } from 'primitive-geometry';
import { afterAll, describe, expect, it } from 'vitest';
import { cube, fromTriangles, refined, torusMesh } from '../../test/shapes';
import { rotation } from '../maths/mat4';
import { random } from '../maths/random';
import type { Vec3 } from '../maths/vec3';
import { edgesOf, edgeValence } from '../mesh/connectivity';
import { vertexCurvature } from '../mesh/curvature';
import { overDivided, withoutDivisions } from '../mesh/flats';
import { faceNormals, hardEdges, markHard } from '../mesh/normals';
import { faceCount, makeMesh, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { subdivide } from '../mesh/subdivide';
import { flip, transform } from '../mesh/transform';
import { weld } from '../mesh/weld';
import { selfCrossings } from './crossings';
import type { Finding, FindingKind, FixId } from './finding';
import { applyFix, type MeshFix } from './fixes';
import { inspectPart } from './inspect';

// Faults of every kind planted into clean shapes, each at 20 random places on 10 shapes. The shapes are our own and those of the
// general-purpose package primitive-geometry.
const PLACES = 20;
const triangles = (g: { positions: ArrayLike<number>; cells: ArrayLike<number> }) =>
  weld(
    fromTriangles(
      Array.from(g.positions, (x) => x * 30),
      g.cells,
    ),
    { within: 1e-6 },
  );
const ball = () => subdivide(subdivide(cube(40)));
const SHAPES: [string, PolyMesh][] = [
  ['a cube', cube(20)],
  ['a cube of many faces', refined(cube(30), 4)],
  ['a torus of quads', torusMesh(40, 12, 24, 12)],
  ['a torus of triangles', torusMesh(30, 10, 30, 14, false)],
  ['a ball of quads', ball()],
  ['an icosphere', triangles(icosphere({ subdivisions: 2 }))],
  ['a capsule', triangles(capsule({}))],
  ['an egg', triangles(ellipsoid({ ry: 0.8 }))],
  ['a rounded cube', triangles(roundedCube({}))],
  ['a hollow ball', shell(ball(), { thickness: 3 }).mesh],
];

const look = (mesh: PolyMesh): Finding[] =>
  inspectPart({ id: 'p', name: 'Part', mesh, declaredOpen: false, hasMaterial: true, fixable: true, toleranceMm: 0.05, highlights: true });
const serious = (mesh: PolyMesh): FindingKind[] =>
  look(mesh)
    .filter((f) => f.severity !== 'information')
    .map((f) => f.kind);

const at = (m: PolyMesh, v: number): Vec3 => [m.positions[3 * v], m.positions[3 * v + 1], m.positions[3 * v + 2]];
const facesOf = (m: PolyMesh): number[][] =>
  Array.from({ length: faceCount(m) }, (_, f) => [...m.faceVert.slice(m.faceStart[f], m.faceStart[f + 1])]);
function fromFaces(positions: ArrayLike<number>, faces: readonly (readonly number[])[]): PolyMesh {
  const faceStart = [0];
  for (const f of faces) faceStart.push(faceStart[faceStart.length - 1] + f.length);
  return makeMesh({ positions, faceStart, faceVert: faces.flat() });
}
const pick = (next: () => number, n: number) => Math.floor(next() * n);

/** A fault: how it is planted at a random place, what it has to be found as, and what mends it. */
interface Fault {
  kind: FindingKind;
  severity: Finding['severity'];
  /** Null where the shape has no such place. */
  plant(m: PolyMesh, next: () => number): { mesh: PolyMesh; near?: Vec3 } | null;
  /** Other findings that rightly come with it. */
  with?: FindingKind[];
  fix?: FixId;
  /** What the fix rightly leaves behind. */
  leaves?: FindingKind[];
}

const FAULTS: Fault[] = [
  { kind: 'inward', severity: 'error', plant: (m) => ({ mesh: flip(m) }), fix: 'turn-outward' },
  {
    kind: 'winding',
    severity: 'error',
    plant(m, next) {
      const f = pick(next, faceCount(m));
      const chosen = new Uint8Array(faceCount(m));
      chosen[f] = 1;
      return { mesh: flip(m, chosen), near: at(m, m.faceVert[m.faceStart[f]]) };
    },
    with: ['crease'],
    fix: 'turn-outward',
  },
  {
    kind: 'non-manifold',
    severity: 'error',
    plant(m, next) {
      // A wing on an edge: a third face.
      const f = facesOf(m)[pick(next, faceCount(m))];
      const n = vertexCount(m);
      const [a, b] = [at(m, f[0]), at(m, f[1])];
      const out = a.map((x, k) => (x + b[k]) * 1.4 + 3);
      return { mesh: fromFaces([...m.positions, ...out], [...facesOf(m), [f[1], f[0], n]]), near: a };
    },
    with: ['open-rim'],
    fix: 'split-non-manifold',
    leaves: ['open-rim', 'doubles'],
  },
  {
    kind: 'open-rim',
    severity: 'warning',
    plant(m, next) {
      const faces = facesOf(m);
      const f = pick(next, faces.length);
      return {
        mesh: fromFaces(
          m.positions,
          faces.filter((_, i) => i !== f),
        ),
        near: at(m, faces[f][0]),
      };
    },
    fix: 'fill-rims',
  },
  {
    kind: 'doubles',
    severity: 'warning',
    plant(m, next) {
      const faces = facesOf(m);
      const f = pick(next, faces.length);
      const k = pick(next, faces[f].length);
      const v = faces[f][k];
      const n = vertexCount(m);
      const split = faces.map((c, i) => (i === f ? c.map((w) => (w === v ? n : w)) : c));
      return { mesh: fromFaces([...m.positions, ...at(m, v).map((x) => x + 0.001)], split), near: at(m, v) };
    },
    with: ['open-rim', 'non-manifold'],
    fix: 'weld',
  },
  {
    kind: 'degenerate',
    severity: 'warning',
    plant(m, next) {
      // A face of no height between the two faces of an edge.
      const faces = facesOf(m);
      const f = pick(next, faces.length);
      const [a, b] = faces[f];
      const n = vertexCount(m);
      const middle = at(m, a).map((x, k) => (x + at(m, b)[k]) / 2);
      const g = faces.findIndex((c, i) => i !== f && c.some((v, k) => v === b && c[(k + 1) % c.length] === a));
      const with_ = faces.map((c, i) => {
        if (i !== g) return c;
        const k = c.indexOf(b);
        return [...c.slice(0, k + 1), n, ...c.slice(k + 1)];
      });
      return { mesh: fromFaces([...m.positions, ...middle], [...with_, [b, a, n]]), near: middle as unknown as Vec3 };
    },
    // The face beside it has a corner more.
    with: ['ngon', 'winding', 'crease'],
  },
  {
    kind: 'warped',
    severity: 'warning',
    plant(m, next) {
      const faces = facesOf(m);
      const quads = faces.flatMap((c, f) => (c.length === 4 ? [f] : []));
      if (quads.length === 0) return null;
      const f = quads[pick(next, quads.length)];
      const n = faceNormals(m).slice(3 * f, 3 * f + 3);
      const [a, , c] = faces[f];
      const size = Math.hypot(...at(m, a).map((x, k) => x - at(m, c)[k]));
      const positions = [...m.positions];
      for (let k = 0; k < 3; k++) positions[3 * a + k] += 0.5 * size * n[k];
      return { mesh: fromFaces(positions, faces), near: at(m, a) };
    },
    with: ['crossing', 'crease', 'pinch', 'inward', 'ngon'],
    fix: 'triangulate',
    leaves: ['crease', 'inward'],
  },
  {
    kind: 'ngon',
    severity: 'warning',
    plant(m, next) {
      // Two faces over a smooth edge made one.
      const edges = edgesOf(m);
      const hard = hardEdges(m, { hardAngle: 60 }, edges);
      const normals = faceNormals(m);
      const able = Array.from({ length: edges.count }, (_, e) => e).filter((e) => {
        const [f, g] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]].map((c) => edges.faceOf[c]);
        const cos = [0, 1, 2].reduce((s, k) => s + normals[3 * f + k] * normals[3 * g + k], 0);
        const sides = m.faceStart[f + 1] - m.faceStart[f] + (m.faceStart[g + 1] - m.faceStart[g]) - 2;
        return !hard[e] && cos < 0.985 && sides > 4;
      });
      if (able.length === 0) return null;
      const e = able[pick(next, able.length)];
      const [c, d] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
      const faces = facesOf(m);
      const [f, g] = [edges.faceOf[c], edges.faceOf[d]];
      const after = (face: number, corner: number) => {
        const [s, n] = [m.faceStart[face], m.faceStart[face + 1] - m.faceStart[face]];
        return Array.from({ length: n - 1 }, (_, k) => m.faceVert[s + ((corner - s + 1 + k) % n)]);
      };
      return {
        mesh: fromFaces(m.positions, [...faces.filter((_, i) => i !== f && i !== g), [...after(f, c), ...after(g, d)]]),
        near: at(m, m.faceVert[c]),
      };
    },
    with: ['warped', 'crease'],
    fix: 'triangulate',
    leaves: ['crease'],
  },
  {
    kind: 'pinch',
    severity: 'information',
    plant(m, next) {
      // A smooth place drawn to a point.
      const edges = edgesOf(m);
      const hard = hardEdges(m, { hardAngle: 40 }, edges);
      const rough = new Uint8Array(vertexCount(m));
      for (let e = 0; e < edges.count; e++) if (hard[e]) rough[edges.ends[2 * e]] = rough[edges.ends[2 * e + 1]] = 1;
      const lengths = (v: number) =>
        Array.from({ length: edges.count }, (_, e) => [edges.ends[2 * e], edges.ends[2 * e + 1]])
          .filter((e) => e.includes(v))
          .map(([a, b]) => Math.hypot(...at(m, a).map((x, k) => x - at(m, b)[k])));
      // Where the faces round it are of one size: at a pole of slivers the pull would be none.
      const able = [...new Set(m.faceVert)].filter((v) => !rough[v] && Math.max(...lengths(v)) < 3 * Math.min(...lengths(v)));
      if (able.length === 0) return null;
      const v = able[pick(next, able.length)];
      const size = lengths(v).reduce((s, x) => s + x, 0) / lengths(v).length;
      const normals = faceNormals(m);
      const n = [0, 0, 0];
      for (const [f, c] of facesOf(m).entries()) if (c.includes(v)) for (let k = 0; k < 3; k++) n[k] += normals[3 * f + k];
      const l = Math.hypot(...n) * (vertexCurvature(m, edges).mean[v] < -1e-9 ? -1 : 1);
      const positions = [...m.positions];
      for (let k = 0; k < 3; k++) positions[3 * v + k] += (0.3 * size * n[k]) / l;
      return { mesh: fromFaces(positions, facesOf(m)), near: at(m, v) };
    },
    with: ['warped', 'crease', 'crossing', 'ngon'],
  },
];

/** Shapes each fault was planted into. */
const planted = new Map<FindingKind, number>();
/** The farthest apart two corners of one face stand, mm. */
const across = (m: PolyMesh): number =>
  Math.max(...facesOf(m).flatMap((f) => f.flatMap((v) => f.map((w) => Math.hypot(...at(m, v).map((x, i) => x - at(m, w)[i]))))));

// A fault nobody could plant would be found everywhere. Many-cornered faces want quads beside each other on a round, pinches a smooth place.
const LEAST: Partial<Record<FindingKind, number>> = { warped: 5, ngon: 3, pinch: 7 };
afterAll(() => {
  expect(SHAPES.length).toBe(10);
  for (const f of FAULTS) expect(planted.get(f.kind) ?? 0, f.kind).toBeGreaterThanOrEqual(LEAST[f.kind] ?? 10);
});

describe.each(SHAPES)('%s', (_name, clean) => {
  it('has nothing above information, and does not run through itself', () => {
    expect(serious(clean)).toEqual([]);
    expect(selfCrossings(clean)).toEqual([]);
  });
  it.each(FAULTS.map((f) => [f.kind, f] as const))('%s is found wherever it is, classed, and mended', (kind, fault) => {
    const next = random(SHAPES.findIndex(([, m]) => m === clean) * 100 + FAULTS.indexOf(fault));
    for (let i = 0; i < PLACES; i++) {
      const done = fault.plant(clean, next);
      if (!done) return;
      if (i === 0) planted.set(kind, (planted.get(kind) ?? 0) + 1);
      const found = look(done.mesh);
      const f = found.find((x) => x.kind === kind);
      expect(f, `place ${i}: ${found.map((x) => x.kind).join()}`).toBeDefined();
      expect(f?.severity).toBe(fault.severity);
      const others = found.filter((x) => x.severity !== 'information' && x.kind !== kind).map((x) => x.kind);
      for (const o of others) expect(fault.with ?? [], `place ${i}`).toContain(o);
      if (done.near && f) {
        const near = Math.min(...f.where.map((w) => Math.hypot(...w.map((x, k) => x - (done.near as Vec3)[k]))));
        // No farther than across one face.
        expect(near).toBeLessThan(1.01 * across(clean));
      }
      if (!fault.fix) continue;
      expect(f?.fixes).toContain(fault.fix);
      const mended = look(applyFix(done.mesh, fault.fix as MeshFix, 0.05));
      expect(mended.find((x) => x.kind === kind)).toBeUndefined();
      for (const o of mended.filter((x) => x.severity !== 'information')) expect([...(fault.leaves ?? [])], `place ${i}`).toContain(o.kind);
    }
  });
});

describe('a crease', () => {
  it('shaded smooth between flats is found along all of it, and made hard', () => {
    // Roofs of random pitch over a box, all edges smooth.
    const next = random(8);
    for (let i = 0; i < 20; i++) {
      const h = 3 + 4 * next();
      const roof = fromFaces(
        [-10, 0, -30, 10, 0, -30, 10, 0, 30, -10, 0, 30, 0, h, -30, 0, h, 30],
        [
          [0, 1, 2, 3],
          [2, 1, 4, 5],
          [0, 3, 5, 4],
          [1, 0, 4],
          [3, 2, 5],
        ],
      );
      // All but the ridge is hard.
      const smooth = markHard(transform(roof, rotation([0, 1, 0], 6 * next())), 80);
      const f = look(smooth).find((x) => x.kind === 'crease');
      expect(f?.severity).toBe('warning');
      expect(look(applyFix(smooth, 'mark-hard')).find((x) => x.kind === 'crease')).toBeUndefined();
    }
  });
  it('is not what a round of few sides has', () => {
    for (const n of [6, 8, 12]) expect(serious(torusMesh(40, 12, n, n))).toEqual([]);
  });
});

describe('a surface that runs through itself', () => {
  it('is found where a corner is pushed through the far side', () => {
    const next = random(12);
    for (const [, clean] of SHAPES.filter(([n]) => /ball of quads|icosphere|egg/.test(n)))
      for (let i = 0; i < PLACES; i++) {
        const v = clean.faceVert[pick(next, clean.faceVert.length)];
        const centre = [0, 1, 2].map((k) => clean.positions.filter((_, j) => j % 3 === k).reduce((s, x) => s + x, 0) / vertexCount(clean));
        const positions = [...clean.positions];
        // Past the middle and out on the other side, where no edge mirrors one of this side.
        for (let k = 0; k < 3; k++) positions[3 * v + k] = centre[k] + [1.3, 0.7, -0.9][k] - 1.6 * (positions[3 * v + k] - centre[k]);
        const bad = fromFaces(positions, facesOf(clean));
        expect(selfCrossings(bad).length).toBeGreaterThan(0);
      }
  });
  it('is not what edges of one closed surface are that only touch', () => {
    const edges = edgesOf(cube(3));
    expect(Array.from({ length: edges.count }, (_, e) => edgeValence(edges, e)).every((n) => n === 2)).toBe(true);
    expect(selfCrossings(refined(cube(10), 6))).toEqual([]);
  });
});

describe.each(SHAPES)('flats of %s', (_name, clean) => {
  it('cut further are found wherever it was done, with what it frees, and joined again', () => {
    const next = random(77);
    const normals = faceNormals(clean);
    const before = overDivided(clean).reduce((n, f) => n + f.now - f.needed, 0);
    for (let i = 0; i < PLACES; i++) {
      const faces = facesOf(clean);
      const f = pick(next, faces.length);
      // A point inside a face that is flat, joined to all its corners.
      const off = faces[f].map((v) => at(clean, v).reduce((s, x, k) => s + x * normals[3 * f + k], 0));
      if (Math.max(...off) - Math.min(...off) > 1e-9) continue;
      const n = vertexCount(clean);
      const middle = [0, 1, 2].map((k) => faces[f].reduce((s, v) => s + clean.positions[3 * v + k], 0) / faces[f].length);
      const fan = faces[f].map((v, k) => [v, faces[f][(k + 1) % faces[f].length], n]);
      const cut = fromFaces([...clean.positions, ...middle], [...faces.filter((_, k) => k !== f), ...fan]);
      const found = overDivided(cut);
      expect(found.reduce((sum, x) => sum + x.now - x.needed, 0) - before).toBeGreaterThanOrEqual(2);
      expect(found.some((x) => x.faces.some((g) => g >= faces.length - 1))).toBe(true);
      const lean = withoutDivisions(cut);
      expect(lean.triangles.length / 3).toBe(cut.triangles.length / 3 - found.reduce((sum, x) => sum + x.now - x.needed, 0));
      expect(serious(lean)).toEqual([]);
    }
  });
});
