import type { Manifold, ManifoldToplevel } from 'manifold-3d/manifold';
import { FormError } from '../errors';
import { shellsOf } from './connectivity';
import { keepFaces } from './edit';
import { boundsOf, isWatertight, volumeOf } from './measures';
import { mergeLaid } from './merge';
import { faceNormals } from './normals';
import { joinTriangles } from './planar';
import { faceCount, MeshBuilder, type PolyMesh, vertexCount } from './polymesh';
import { mixAt, type NewCorner, Rework, range, triangleStarts, UNLAID } from './rework';

/** How two solids are put together. */
export type Combination = 'join' | 'cut' | 'intersect';

/** What the second solid is called in sentences. */
export interface CombineOptions {
  how: Combination;
  /** Patches of faces that come from the second solid. */
  patch?: (patch: string) => string;
  names?: readonly [string, string];
}

/** What two solids came to. */
export interface Combined {
  mesh: PolyMesh;
  /** mm³, as the library that joined them measures it. */
  volume: number;
}

/** A solid as the library takes it: about `middle`, its faces numbered. */
function solidOf(solids: ManifoldToplevel, mesh: PolyMesh, middle: readonly number[], name: string): { solid: Manifold; id: number } {
  if (!isWatertight(mesh))
    throw new FormError('solid/open', `${name} is not a closed solid: give it a wall or close its rims before it is joined or cut.`);
  const id = solids.Manifold.reserveIDs(1);
  const make = (m: PolyMesh, faces: ArrayLike<number>): Manifold => {
    const vertices = new Float32Array(3 * vertexCount(m));
    for (let i = 0; i < vertices.length; i++) vertices[i] = m.positions[i] - middle[i % 3];
    const made = new solids.Mesh({
      numProp: 3,
      vertProperties: vertices,
      triVerts: Uint32Array.from(m.triangles, (c) => m.faceVert[c]),
      faceID: Uint32Array.from(m.triangleFace, (f) => faces[f]),
      runIndex: Uint32Array.from([0, m.triangles.length]),
      runOriginalID: Uint32Array.from([id]),
    });
    try {
      return solids.Manifold.ofMesh(made);
    } catch (error) {
      throw new FormError(
        'solid/not-manifold',
        `${name} can’t be taken as a solid (${error instanceof Error ? error.message : String(error)}).`,
      );
    }
  };
  // Shells that stand in each other (a handle stuck into its body) are one solid; a hollow's inner side belongs to its outside.
  const shells = shellsOf(mesh);
  const parts = Array.from({ length: shells.count }, (_, s) => s);
  const all = Array.from({ length: faceCount(mesh) }, (_, f) => f);
  if (shells.count === 1 || parts.some((s) => volumeOf(mesh, (f) => shells.ofFace[f] === s) <= 0)) return { solid: make(mesh, all), id };
  const pieces = parts.map((s) =>
    make(
      keepFaces(mesh, (f) => shells.ofFace[f] === s),
      all.filter((f) => shells.ofFace[f] === s),
    ),
  );
  const solid = solids.Manifold.union(pieces);
  for (const p of pieces) p.delete();
  return { solid, id };
}

/**
 * Joins two solids, cuts the second out of the first, or keeps what they share.
 *
 * The library works on triangles in 32-bit floats about the middle of the two; every triangle of its answer says which face it
 * was cut from, so faces are put together again (n-gons stay n-gons), keep their patch, patch coordinates and layout, and
 * corners that were not moved keep their exact place.
 *
 * @throws FormError `solid/…` when one of them is no closed solid, or nothing is left
 */
export function combine(solids: ManifoldToplevel, a: PolyMesh, b: PolyMesh, options: CombineOptions): Combined {
  const names = options.names ?? ['The first solid', 'The second solid'];
  const [p, q] = [boundsOf(a), boundsOf(b)];
  const middle = [0, 1, 2].map((k) => (Math.min(p.min[k], q.min[k]) + Math.max(p.max[k], q.max[k])) / 2);
  const first = solidOf(solids, a, middle, names[0]);
  const second = solidOf(solids, b, middle, names[1]);
  const operation = { join: 'union', cut: 'difference', intersect: 'intersection' } as const;
  const result = solids.Manifold[operation[options.how]](first.solid, second.solid);
  try {
    if (result.isEmpty())
      throw new FormError(
        'solid/nothing',
        options.how === 'cut' ? `${names[1]} takes all of it away.` : `${names[0]} and ${names[1]} don’t meet; nothing is left.`,
      );
    const named = options.patch;
    const both = mergeLaid([a, named ? { ...b, patches: b.patches.map(named) } : b]);
    return { mesh: restored(result, both, [first.id, second.id], [0, faceCount(a)], middle), volume: result.volume() };
  } finally {
    for (const s of [first.solid, second.solid, result]) s.delete();
  }
}

/** The library's triangles as faces of the meshes they were cut from. */
function restored(
  result: Manifold,
  source: PolyMesh,
  ids: readonly number[],
  firstFace: readonly number[],
  middle: readonly number[],
): PolyMesh {
  const mesh = result.getMesh();
  const count = mesh.vertProperties.length / mesh.numProp;
  const to = Uint32Array.from({ length: count }, (_, i) => i);
  for (let i = 0; i < (mesh.mergeFromVert?.length ?? 0); i++) to[mesh.mergeFromVert[i]] = mesh.mergeToVert[i];
  // Corners that are still where one of the solids had them, to the last bit of their 32 bits, are put back exactly.
  const known = new Map<string, number>();
  const key = (x: number, y: number, z: number) => `${x},${y},${z}`;
  const f32 = Math.fround;
  for (let v = 0; v < vertexCount(source); v++) {
    const [x, y, z] = [0, 1, 2].map((k) => f32(source.positions[3 * v + k] - middle[k]));
    const name = key(x, y, z);
    if (!known.has(name)) known.set(name, v);
  }
  const rework = new Rework(source);
  const vertices = new Int32Array(count).fill(-1);
  const vertex = (i: number): number => {
    const v = to[i];
    if (vertices[v] >= 0) return vertices[v];
    const [x, y, z] = [0, 1, 2].map((k) => mesh.vertProperties[mesh.numProp * v + k]);
    const old = known.get(key(x, y, z));
    vertices[v] = old ?? rework.vertex(x + middle[0], y + middle[1], z + middle[2]);
    return vertices[v];
  };
  const groups = new Map<number, { face: number; back: boolean; triangles: number[] }>();
  for (let run = 0; run < mesh.runOriginalID.length; run++) {
    const which = ids.indexOf(mesh.runOriginalID[run]);
    const back = mesh.runFlags ? (mesh.runFlags[run] & 1) === 1 : false;
    for (let t = mesh.runIndex[run] / 3; t < mesh.runIndex[run + 1] / 3; t++) {
      const face = firstFace[which] + mesh.faceID[t];
      let group = groups.get(face);
      if (!group) {
        group = { face, back, triangles: [] };
        groups.set(face, group);
      }
      for (let k = 0; k < 3; k++) group.triangles.push(vertex(mesh.triVerts[3 * t + k]));
    }
  }
  const starts = triangleStarts(source);
  const edgeAt = new Map<string, number>();
  const mirrored: number[] = [];
  for (const { face, back, triangles } of groups.values()) {
    const [from, end] = [source.faceStart[face], source.faceStart[face + 1]];
    edgeAt.clear();
    for (let c = from; c < end; c++) edgeAt.set(`${source.faceVert[c]}`, c);
    for (const loop of joinTriangles(triangles)) {
      const corners = loop.map((v, i): NewCorner => {
        const own = edgeAt.get(`${v}`);
        const edge = edgeBetween(source, rework, from, end, v, loop[(i + 1) % loop.length], back);
        return {
          vertex: v,
          from: own ?? mixAt(source, range(starts[face], starts[face + 1]), ...rework.position(v)),
          edge,
          // Where the two solids' surfaces meet there is an edge that neither of them had.
          ...(edge === undefined && { hard: true }),
        };
      });
      const f = rework.face(corners, face);
      if (back) mirrored.push(f);
    }
  }
  const { mesh: made } = rework.build();
  const chart = made.attributes.find((x) => x.name === 'chart');
  if (!chart || mirrored.length === 0) return withoutBridges(made);
  // A face turned inside out would lie mirrored in its island.
  const data = chart.data.slice();
  for (const f of mirrored) data[f] = UNLAID;
  return withoutBridges({ ...made, attributes: made.attributes.map((x) => (x === chart ? { ...chart, data } : x)) });
}

/** The corner of a face whose edge two points lie on; undefined for a new edge. */
function edgeBetween(mesh: PolyMesh, rework: Rework, from: number, end: number, a: number, b: number, back: boolean): number | undefined {
  const [p, q] = [rework.position(a), rework.position(b)];
  for (let c = from; c < end; c++) {
    const [u, v] = [mesh.faceVert[c], mesh.faceVert[c + 1 < end ? c + 1 : from]];
    if ((a === u && b === v) || (back && a === v && b === u)) return c;
    const o = [0, 1, 2].map((k) => mesh.positions[3 * u + k]);
    const d = [0, 1, 2].map((k) => mesh.positions[3 * v + k] - o[k]);
    const long = Math.hypot(...d);
    const off = (x: readonly number[]) => {
      const w = x.map((y, k) => y - o[k]);
      return Math.hypot(w[1] * d[2] - w[2] * d[1], w[2] * d[0] - w[0] * d[2], w[0] * d[1] - w[1] * d[0]) / (long || 1);
    };
    const near = 2e-6 * Math.max(long, Math.hypot(...p), Math.hypot(...q));
    if (off(p) < near && off(q) < near) return c;
  }
  return undefined;
}

/** Edges between two pieces of one flat face are no hard edges, though neither solid had them. */
function withoutBridges(mesh: PolyMesh): PolyMesh {
  const hard = mesh.attributes.find((a) => a.name === 'hard');
  if (!hard) return mesh;
  const data = hard.data.slice();
  const at = new Map<string, { corner: number; face: number }>();
  const patch = mesh.attributes.find((a) => a.name === 'patch')?.data;
  const normals = faceNormals(mesh);
  const n = (f: number) => normals.subarray(3 * f, 3 * f + 3);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      if (!hard.data[c]) continue;
      const [a, b] = [mesh.faceVert[c], mesh.faceVert[c + 1 < mesh.faceStart[f + 1] ? c + 1 : mesh.faceStart[f]]];
      const other = at.get(`${b},${a}`);
      at.set(`${a},${b}`, { corner: c, face: f });
      if (!other || patch?.[other.face] !== patch?.[f]) continue;
      const [u, v] = [n(f), n(other.face)];
      if (u[0] * v[0] + u[1] * v[1] + u[2] * v[2] > 1 - 1e-9) data[c] = data[other.corner] = 0;
    }
  return { ...mesh, attributes: mesh.attributes.map((a) => (a === hard ? { ...hard, data } : a)) };
}

/** What a solid is by the library's own measure; for checks. @throws FormError when it is none */
export function measuredSolid(solids: ManifoldToplevel, mesh: PolyMesh): { volume: number; genus: number } {
  const { min, max } = boundsOf(mesh);
  const { solid } = solidOf(
    solids,
    mesh,
    min.map((x, k) => (x + max[k]) / 2),
    'It',
  );
  try {
    return { volume: solid.volume(), genus: solid.genus() };
  } finally {
    solid.delete();
  }
}

/** What a hollow holds up to a level. */
export interface Cavity {
  /** Closed: the hollow's walls turned to face out, and the level as the patch `surface`. */
  mesh: PolyMesh;
  /** mm³ */
  volume: number;
}

/** A vessel ready to be asked what it holds. */
export interface Room {
  /** Null when it holds nothing up to there: the level lies above the brim, or there is no bottom. */
  below(level: number): Cavity | null;
  /** Gives its solids back; it can't be asked any more. */
  free(): void;
}

/**
 * The room inside a vessel of one or several solids, below a level: a block that ends there, less all of them; of what is left, the largest
 * piece that they close in.
 *
 * @param vessels may stand in each other, touch, or leave gaps, through which nothing may be closed in
 * @throws FormError `solid/…` when one of them is no closed solid
 */
export function roomIn(solids: ManifoldToplevel, vessels: readonly PolyMesh[], patch: (p: string) => string = (p) => p): Room {
  const bounds = vessels.map(boundsOf);
  const min = [0, 1, 2].map((k) => Math.min(...bounds.map((b) => b.min[k])));
  const max = [0, 1, 2].map((k) => Math.max(...bounds.map((b) => b.max[k])));
  const wide = Math.max(...max.map((x, k) => x - min[k]));
  const [low, high] = [min.map((x) => x - 0.25 * wide), max.map((x) => x + 0.25 * wide)];
  const middle = low.map((x, k) => (x + high[k]) / 2);
  const made = vessels.map((v) => solidOf(solids, v, middle, 'The vessel'));
  const all = made.length === 1 ? made[0].solid : solids.Manifold.union(made.map((m) => m.solid));
  const near = 1e-4 * wide;
  return {
    below(level) {
      if (!(level > min[1])) return null;
      const block = blockOf([low[0], low[1], low[2]], [high[0], level, high[2]]);
      const first = solidOf(solids, block, middle, 'The block');
      const left = solids.Manifold.difference(first.solid, all);
      const pieces = left.decompose();
      const inside = pieces.filter((p) => {
        const b = p.boundingBox();
        return (
          [0, 2].every((k) => b.min[k] > low[k] - middle[k] + near && b.max[k] < high[k] - middle[k] - near) &&
          b.min[1] > low[1] - middle[1] + near
        );
      });
      // A pocket under the level (a closed hollow in a wall) doesn't reach it.
      const open = inside.filter((p) => p.boundingBox().max[1] > level - middle[1] - near);
      const best = open.reduce<Manifold | null>((m, p) => (!m || p.volume() > m.volume() ? p : m), null);
      try {
        if (!best) return null;
        const named = vessels.map((v) => ({ ...v, patches: v.patches.map(patch) }));
        const starts = [block, ...named].map((_, i, list) => list.slice(0, i).reduce((n, m) => n + faceCount(m), 0));
        const source = mergeLaid([block, ...named]);
        return { mesh: restored(best, source, [first.id, ...made.map((m) => m.id)], starts, middle), volume: best.volume() };
      } finally {
        for (const s of [first.solid, left, ...pieces]) s.delete();
      }
    },
    free() {
      for (const s of new Set([all, ...made.map((m) => m.solid)])) s.delete();
    },
  };
}

function blockOf(low: readonly [number, number, number], high: readonly [number, number, number]): PolyMesh {
  const builder = new MeshBuilder();
  const v = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => builder.vertex((i & 1 ? high : low)[0], (i & 2 ? high : low)[1], (i & 4 ? high : low)[2]));
  const face = (ring: readonly number[], patch: string) =>
    builder.face(
      ring.map((i) => v[i]),
      builder.patch(patch),
      [0, 0, 1, 0, 1, 1, 0, 1],
      [true, true, true, true],
    );
  face([0, 1, 5, 4], 'bottom');
  face([2, 6, 7, 3], 'surface');
  face([0, 4, 6, 2], 'left');
  face([1, 3, 7, 5], 'right');
  face([0, 2, 3, 1], 'back');
  face([4, 5, 7, 6], 'front');
  return builder.build();
}
