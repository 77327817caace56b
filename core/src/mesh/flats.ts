import { type Edges, edgesOf, edgeValence, Groups } from './connectivity';
import { faceNormals, hardEdges } from './normals';
import { fillLoops, frameOf } from './planar';
import { attribute, type PolyMesh, vertexCount } from './polymesh';
import { type NewCorner, Rework } from './rework';
import { clipEars } from './triangulate';

/** Faces that turn less than this against each other are one plane, radians. */
const FLAT = 1e-4;
/** Values of a layout are linear in the plane within this share of it. */
const LINEAR = 1e-5;

/** A flat that is cut into more faces than its outline needs. */
export interface Flat {
  faces: number[];
  /** Triangles it takes now, and with nothing inside its outline. */
  now: number;
  needed: number;
}

/**
 * Over-divided flats: faces of one plane, patch and island, joined over smooth edges, whose outline alone would do. Corners of
 * an outline that lie on a straight side are kept where a third face meets them: leaving them out would open a crack.
 */
export function overDivided(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): Flat[] {
  return outlinedFlats(mesh, edges).map(({ faces, now, needed }) => ({ faces, now, needed }));
}

interface Outlined extends Flat {
  /** Corners that stay, loop by loop. */
  loops: number[][];
}

function outlinedFlats(mesh: PolyMesh, edges: Edges): Outlined[] {
  const of = flatRegions(mesh, edges);
  const goes = idleCorners(mesh, edges, of);
  const regions = { of, lists: idleRegions(mesh, of, goes) };
  if (regions.lists.length === 0) return [];
  const able = regions.lists.flatMap((faces) => {
    const loops = outlines(mesh, edges, faces, regions.of);
    return loops && isLinear(mesh, faces) ? [{ faces, loops }] : [];
  });
  // A corner on a straight side goes only when the flats on both its sides are made anew.
  const made = new Uint8Array(mesh.faceStart.length - 1);
  for (const { faces } of able) for (const f of faces) made[f] = 1;
  for (let f = 0; f < made.length; f++)
    if (!made[f]) for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) goes[mesh.faceVert[c]] = 0;
  return able.flatMap(({ faces, loops: whole }) => {
    const loops = whole.map((l) => l.filter((c) => !goes[mesh.faceVert[c]]));
    const now = faces.reduce((n, f) => n + mesh.faceStart[f + 1] - mesh.faceStart[f] - 2, 0);
    const needed = loops.reduce((n, l) => n + l.length, 0) - 2 + 2 * (loops.length - 1);
    return needed < now && loops.every((l) => l.length > 2) ? [{ faces, now, needed, loops }] : [];
  });
}

/** The flats of more than one face in which a vertex bears nothing. */
function idleRegions(mesh: PolyMesh, of: Uint32Array, goes: Uint8Array): number[][] {
  const many = new Uint32Array(of.length);
  const idle = new Uint8Array(of.length);
  for (let f = 0; f < of.length; f++) {
    many[of[f]]++;
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) if (goes[mesh.faceVert[c]]) idle[of[f]] = 1;
  }
  const lists = new Map<number, number[]>();
  for (let f = 0; f < of.length; f++) {
    if (many[of[f]] < 2 || !idle[of[f]]) continue;
    const list = lists.get(of[f]);
    if (list) list.push(f);
    else lists.set(of[f], [f]);
  }
  return [...lists.values()];
}

/** The mesh with over-divided flats made of their outlines alone. Nothing moves. */
export function withoutDivisions(mesh: PolyMesh): PolyMesh {
  const edges = edgesOf(mesh);
  const flats = outlinedFlats(mesh, edges);
  if (flats.length === 0) return mesh;
  const hard = hardEdges(mesh, {}, edges);
  const normals = faceNormals(mesh);
  const rework = new Rework(mesh);
  const inFlat = new Uint8Array(mesh.faceStart.length - 1);
  for (const { faces } of flats) for (const f of faces) inFlat[f] = 1;
  for (let f = 0; f < inFlat.length; f++) if (!inFlat[f]) rework.keep(f);
  const p = mesh.positions;
  for (const { faces, loops } of flats) {
    const { u, v } = frameOf([normals[3 * faces[0]], normals[3 * faces[0] + 1], normals[3 * faces[0] + 2]]);
    const at = (i: number): [number, number] => [
      u[0] * p[3 * i] + u[1] * p[3 * i + 1] + u[2] * p[3 * i + 2],
      v[0] * p[3 * i] + v[1] * p[3 * i + 1] + v[2] * p[3 * i + 2],
    ];
    // Vertex → its corner of the outline, and the vertex that follows there.
    const corner = new Map<number, number>();
    const after = new Map<number, number>();
    for (const l of loops)
      for (const [i, c] of l.entries()) {
        corner.set(mesh.faceVert[c], c);
        after.set(mesh.faceVert[c], mesh.faceVert[l[(i + 1) % l.length]]);
      }
    const rings = fillLoops(
      loops.map((l) => l.map((c) => mesh.faceVert[c])),
      at,
    );
    for (const ring of rings.flatMap((r) => (r.length > 4 && isRound(edges, hard, loops) ? ears(r, at) : [r])))
      rework.face(
        ring.map((w, k): NewCorner => {
          const c = corner.get(w) as number;
          // A side of the outline keeps what its edge was; one across the flat is nothing.
          return { vertex: w, from: c, ...(after.get(w) === ring[(k + 1) % ring.length] && { edge: c }) };
        }),
        faces[0],
      );
  }
  return rework.build().mesh;
}

/** Whether a smooth surface runs on over the outline: faces of many corners would take light unevenly there. */
const isRound = (edges: Edges, hard: Uint8Array, loops: readonly number[][]): boolean =>
  loops.some((l) => l.some((c) => !hard[edges.ofCorner[c]]));

/** The triangles of a ring in the plane. */
function ears(ring: readonly number[], at: (v: number) => [number, number]): number[][] {
  const cut = clipEars(ring.flatMap(at));
  return Array.from({ length: cut.length / 3 }, (_, t) => [0, 1, 2].map((k) => ring[cut[3 * t + k]]));
}

/** Face → its flat: the lowest face of it. */
function flatRegions(mesh: PolyMesh, edges: Edges): Uint32Array {
  const normals = faceNormals(mesh);
  const hard = hardEdges(mesh, {}, edges);
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const [patch, chart, island] = ['patch', 'chart', 'island'].map((n) => attribute(mesh, n, 'face')?.data);
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const faces = mesh.faceStart.length - 1;
  const groups = new Groups(faces);
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2 || hard[e]) continue;
    const a = edges.corners[edges.start[e]];
    const b = edges.corners[edges.start[e] + 1];
    if (seam?.[a] || seam?.[b]) continue;
    const f = edges.faceOf[a];
    const g = edges.faceOf[b];
    if (patch?.[f] !== patch?.[g] || chart?.[f] !== chart?.[g] || island?.[f] !== island?.[g]) continue;
    const dx = normals[3 * f] - normals[3 * g];
    const dy = normals[3 * f + 1] - normals[3 * g + 1];
    const dz = normals[3 * f + 2] - normals[3 * g + 2];
    if (dx * dx + dy * dy + dz * dz < FLAT * FLAT && sameLayout(uv, edges, a, b)) groups.join(f, g);
  }
  return Uint32Array.from({ length: faces }, (_, f) => groups.find(f));
}

/** Whether the layout runs on over an edge. */
function sameLayout(uv: ArrayLike<number> | undefined, edges: Edges, a: number, b: number): boolean {
  if (!uv) return true;
  return [
    [a, edges.next[b]],
    [edges.next[a], b],
  ].every(([x, y]) => Math.abs(uv[2 * x] - uv[2 * y]) + Math.abs(uv[2 * x + 1] - uv[2 * y + 1]) < 1e-6);
}

/** 1 for vertices that bear nothing: inside one flat, or on the straight line between two and met by no third. */
function idleCorners(mesh: PolyMesh, edges: Edges, of: Uint32Array): Uint8Array {
  const n = vertexCount(mesh);
  const p = mesh.positions;
  // Ends of the sides between regions at each vertex; more than two keep it.
  const sides = new Uint8Array(n);
  const one = new Int32Array(n).fill(-1);
  const two = new Int32Array(n).fill(-1);
  for (let e = 0; e < edges.count; e++) {
    const inside =
      edgeValence(edges, e) === 2 &&
      of[edges.faceOf[edges.corners[edges.start[e]]]] === of[edges.faceOf[edges.corners[edges.start[e] + 1]]];
    if (inside) continue;
    for (const [v, w] of [
      [edges.ends[2 * e], edges.ends[2 * e + 1]],
      [edges.ends[2 * e + 1], edges.ends[2 * e]],
    ]) {
      sides[v] = Math.min(3, sides[v] + 1);
      if (one[v] < 0) one[v] = w;
      else two[v] = w;
    }
  }
  return Uint8Array.from({ length: n }, (_, v) => {
    if (sides[v] === 0) return 1;
    if (sides[v] !== 2) return 0;
    const d = [0, 1, 2].map((k) => p[3 * v + k] - p[3 * one[v] + k]);
    const e = [0, 1, 2].map((k) => p[3 * two[v] + k] - p[3 * v + k]);
    const cross = Math.hypot(d[1] * e[2] - d[2] * e[1], d[2] * e[0] - d[0] * e[2], d[0] * e[1] - d[1] * e[0]);
    const dot = d[0] * e[0] + d[1] * e[1] + d[2] * e[2];
    return dot > 0 && cross < 1e-6 * dot ? 1 : 0;
  });
}

/** Corners round the outside of a region, loop by loop; null where it touches itself. */
function outlines(mesh: PolyMesh, edges: Edges, faces: readonly number[], of: Uint32Array): number[][] | null {
  const after = new Map<number, number>();
  const region = of[faces[0]];
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const e = edges.ofCorner[c];
      const inside =
        edgeValence(edges, e) === 2 &&
        of[edges.faceOf[edges.corners[edges.start[e]]]] === region &&
        of[edges.faceOf[edges.corners[edges.start[e] + 1]]] === region;
      if (inside) continue;
      if (after.has(mesh.faceVert[c])) return null;
      after.set(mesh.faceVert[c], c);
    }
  const loops: number[][] = [];
  const done = new Set<number>();
  for (const first of after.keys()) {
    if (done.has(first)) continue;
    const loop: number[] = [];
    for (let v = first; !done.has(v); ) {
      done.add(v);
      const c = after.get(v);
      if (c === undefined) return null;
      loop.push(c);
      v = mesh.faceVert[edges.next[c]];
    }
    loops.push(loop);
  }
  return loops;
}

/** Whether layouts run evenly over a flat, so that its outline's corners give the same inside. */
function isLinear(mesh: PolyMesh, faces: readonly number[]): boolean {
  return ['uv', 'patchUv'].every((name) => {
    const a = attribute(mesh, name, 'corner');
    if (!a) return true;
    // Three corners of the largest face span the plane; every other one has to follow.
    const corners = faces.flatMap((f) =>
      Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => mesh.faceStart[f] + i),
    );
    const p = mesh.positions;
    const at = (c: number) => [0, 1, 2].map((k) => p[3 * mesh.faceVert[c] + k]);
    const o = corners[0];
    const from = at(o);
    const off = (c: number) => at(c).map((x, k) => x - from[k]);
    const farthest = corners.reduce((w, c) => (Math.hypot(...off(c)) > Math.hypot(...off(w)) ? c : w), o);
    const u = off(farthest);
    const uu = u[0] ** 2 + u[1] ** 2 + u[2] ** 2;
    const aside = (c: number) => {
      const d = off(c);
      const t = (d[0] * u[0] + d[1] * u[1] + d[2] * u[2]) / (uu || 1);
      return d.map((x, k) => x - t * u[k]);
    };
    const wide = corners.reduce((w, c) => (Math.hypot(...aside(c)) > Math.hypot(...aside(w)) ? c : w), o);
    const v = aside(wide);
    const vv = v[0] ** 2 + v[1] ** 2 + v[2] ** 2;
    if (!(uu > 0 && vv > 0)) return false;
    const value = (c: number, k: number) => a.data[2 * c + k];
    const along = (c: number, w: number[], ww: number) => off(c).reduce((s, x, k) => s + x * w[k], 0) / ww;
    return [0, 1].every((k) => {
      const gu = value(farthest, k) - value(o, k);
      const gv = value(wide, k) - value(o, k) - gu * along(wide, u, uu);
      const room = Math.max(Math.abs(gu), Math.abs(gv), 1e-3);
      return corners.every((c) => Math.abs(value(o, k) + gu * along(c, u, uu) + gv * along(c, v, vv) - value(c, k)) < LINEAR * room + 1e-6);
    });
  });
}
