import { FormError } from '../../errors';
import { mapVec, type Vec3 } from '../../maths/vec3';
import { type Edges, edgesOf, edgeValence, twin } from '../connectivity';
import { faceNormals } from '../normals';
import { faceCount, type PolyMesh, vertexCount } from '../polymesh';
import { mixAt, type NewCorner, Rework, range, triangleStarts } from '../rework';
import { along } from '../shell';
import { type CapMesh, fillCorner, fillLoop } from './cap';
import { type Fan, fansAt } from './fans';
import { type Group, groupsOf } from './groups';
import { profileShares } from './profile';
import { roomFor, type Slid, soundUpTo } from './room';

/** Options for {@link bevel}. Lengths in mm. */
export interface BevelOptions {
  /** What the size is: the distance from the edge on each face, or the radius of the arc that touches both. */
  sizeIs?: 'width' | 'radius';
  size: number;
  segments: number;
  /** `held` leaves the surface where it is and only puts loops beside the edges; it has two segments. */
  shape?: 'arc' | 'straight' | 'held';
  /** What new patches are called: strips after the two patches beside them, corners once. */
  patch?: (kind: 'edge' | 'corner', between: string) => string;
}

/** A mesh with bevelled edges, and how much larger the bevel could be. */
export interface Bevelled {
  mesh: PolyMesh;
  /** The largest size for which every edge keeps some length, mm; Infinity where nothing limits it. */
  mostMm: number;
  /** The size taken: the one asked for, or what fits. */
  sizeMm: number;
  /** Where the room runs out first. */
  tightAt: Vec3 | null;
  edges: number;
}

/** Over the room there is, this share of it is taken, so that no face is left without area. */
const FILL = 0.98;

interface Cut {
  fan: Fan;
  chosen: number[];
  groups: Group[];
  /** Spoke → its profile, from the first point of the group that starts there to the last of the one that ends there. */
  profiles: Map<number, number[]>;
}

/**
 * Replaces chosen edges by strips of faces.
 *
 * On each face the edge moves inward by its width; at a vertex the moved edges meet where they cross, slide along the edges
 * that stay, or end in the face beyond. One, two or any number of bevelled edges may meet; where three and more do, their
 * strips are joined by a patch of quads. Everything moves in proportion to the size, so the largest one that fits is known
 * beforehand and a larger one is held at it.
 *
 * @param mesh manifold at the chosen edges; rims stay as they are
 * @param chosen 1 for every edge to bevel, numbered as by {@link edgesOf}; rims and edges of more than two faces are left out
 * @throws FormError `bevel/none` when no edge is left
 */
export function bevel(mesh: PolyMesh, chosen: Uint8Array, options: BevelOptions, edges: Edges = edgesOf(mesh)): Bevelled {
  const { shape = 'arc' } = options;
  const n = shape === 'held' ? 2 : options.segments;
  const normals = faceNormals(mesh);
  const picked = bevellable(mesh, edges, chosen);
  const inner = new Float64Array(edges.count);
  const width = new Float64Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (!picked[e]) continue;
    inner[e] = innerAngle(mesh, edges, normals, e);
    const half = Math.abs(Math.PI - inner[e]) / 2;
    // A ball touches both sides of a flat edge in one place: there is nothing to round.
    if (options.sizeIs === 'radius' && half < 5e-3) picked[e] = 0;
    width[e] = options.sizeIs === 'radius' ? Math.tan(Math.min(half, 1.5)) : 1;
  }
  const count = picked.reduce((s, x) => s + x, 0);
  if (count === 0)
    throw new FormError('bevel/none', 'No edge to bevel: none that was chosen has a face on both of its sides and turns there.');
  const touched = new Uint8Array(vertexCount(mesh));
  for (let e = 0; e < edges.count; e++) if (picked[e]) touched[edges.ends[2 * e]] = touched[edges.ends[2 * e + 1]] = 1;

  const rework = new Rework(mesh);
  const cuts: Cut[] = [];
  /** Corner → the new outline there, in the order of the face; absent where it stays. */
  const outline = new Map<number, Slid[]>();
  /** Corner → its fan. */
  const cutOf = new Map<number, number>();
  for (const fan of fansAt(mesh, edges, normals, touched)) {
    const on = fan.spokes.flatMap((e, i) => (picked[e] && i < fan.corners.length ? [i] : []));
    if (on.length === 0) continue;
    const cut: Cut = { fan, chosen: on, groups: groupsOf(fan, on, (i) => width[fan.spokes[i]], rework, outline), profiles: new Map() };
    for (const c of fan.corners) cutOf.set(c, cuts.length);
    cuts.push(cut);
  }
  const room = roomFor(mesh, edges, outline);
  const wanted = options.size < room.most ? options.size : FILL * room.most;
  const sizeMm = soundUpTo(mesh, edges, outline, wanted);
  if (sizeMm < wanted) room.most = sizeMm;
  for (const { fan, groups } of cuts)
    for (const g of groups)
      for (const { vertex, rate } of g.points) {
        if (vertex === fan.vertex) continue;
        rework.move(vertex, ...(at(mesh, fan.vertex).map((x, k) => x + sizeMm * rate[k]) as [number, number, number]));
      }
  const soft = shape !== 'straight';
  const inserted = new Map<number, number[]>();
  for (const cut of cuts) profilesOf(mesh, rework, cut, (e) => profileShares(n, inner[e], shape), inserted);

  const starts = triangleStarts(mesh);
  const patchOf = mesh.attributes.find((a) => a.name === 'patch' && a.domain === 'face')?.data;
  const uv = mesh.attributes.find((a) => a.name === 'patchUv' && a.domain === 'corner')?.data;
  const name = options.patch ?? ((kind, between) => `${kind} ${between}`);
  trimFaces(mesh, edges, rework, outline, inserted, picked, starts, !soft);
  const patchName = (f: number) => (patchOf ? mesh.patches[patchOf[f]] : '');
  stripEdges(
    edges,
    rework,
    picked,
    cuts,
    cutOf,
    (f, g) => {
      // The patch with the lower number comes first, whichever face of the two is looked at.
      const [a, b] = patchOf && patchOf[f] > patchOf[g] ? [g, f] : [f, g];
      return { first: a, patch: name('edge', `${patchName(a)} · ${patchName(b)}`) };
    },
    uv,
    !soft,
  );
  for (const cut of cuts) fillCut(rework, cut, n, shape, edges, name('corner', ''), at(mesh, cut.fan.vertex));
  return {
    mesh: rework.build().mesh,
    mostMm: room.most,
    sizeMm,
    tightAt: room.vertex >= 0 ? at(mesh, room.vertex) : null,
    edges: count,
  };
}

const at = (mesh: PolyMesh, v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];

function bevellable(mesh: PolyMesh, edges: Edges, chosen: Uint8Array): Uint8Array {
  const out = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (!chosen[e] || edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (mesh.faceVert[a] !== mesh.faceVert[b] && edges.faceOf[a] !== edges.faceOf[b]) out[e] = 1;
  }
  return out;
}

/** The angle between the two faces of an edge inside the body: under π where the edge stands out, over where it lies in. */
export function innerAngle(mesh: PolyMesh, edges: Edges, normals: Float64Array, e: number): number {
  const c = edges.corners[edges.start[e]];
  const [f, g] = [3 * edges.faceOf[c], 3 * edges.faceOf[twin(edges, c)]];
  const dot = normals[f] * normals[g] + normals[f + 1] * normals[g + 1] + normals[f + 2] * normals[g + 2];
  const cross: Vec3 = [
    normals[f + 1] * normals[g + 2] - normals[f + 2] * normals[g + 1],
    normals[f + 2] * normals[g] - normals[f] * normals[g + 2],
    normals[f] * normals[g + 1] - normals[f + 1] * normals[g],
  ];
  const [a, b] = [at(mesh, mesh.faceVert[c]), at(mesh, mesh.faceVert[edges.next[c]])];
  const way = cross[0] * (b[0] - a[0]) + cross[1] * (b[1] - a[1]) + cross[2] * (b[2] - a[2]);
  return Math.PI - Math.sign(way || 1) * Math.atan2(Math.hypot(...cross), dot);
}

/** The vertices across each bevelled edge at one end. Two edges that simply go on share one row of them. */
function profilesOf(mesh: PolyMesh, rework: Rework, cut: Cut, sharesOf: (e: number) => Vec3[], inserted: Map<number, number[]>): void {
  const { fan, chosen, groups, profiles } = cut;
  const starting = new Map(groups.map((g) => [g.from, g]));
  const ending = new Map(groups.map((g) => [g.to, g]));
  const v = at(mesh, fan.vertex);
  const simple = chosen.length === 2 && groups.length === 2 && groups.every((g) => g.points.length === 1);
  for (const spoke of chosen) {
    const first = starting.get(spoke)?.points[0];
    const last = ending.get(spoke)?.points.at(-1);
    if (!first || !last) continue;
    const shared = simple ? profiles.get(chosen[0]) : undefined;
    if (shared) {
      profiles.set(spoke, [...shared].reverse());
      continue;
    }
    const [p, r] = [rework.position(first.vertex), rework.position(last.vertex)];
    const way = fan.ways[spoke];
    // One edge that ends: in the plane of the face beyond, which holds the vertex. Two: mitred there. More: at right angles to each.
    const along = chosen.length > 2 ? [0, 1, 2].reduce((s, k) => s + ((p[k] + r[k]) / 2 - v[k]) * way[k], 0) : 0;
    const q = [0, 1, 2].map((k) => v[k] + along * way[k]);
    let shares = sharesOf(fan.spokes[spoke]);
    if (simple) {
      const other = sharesOf(fan.spokes[chosen[1]]);
      shares = shares.map((s, i) => mapVec(s, (x, k) => (x + other[i][k]) / 2));
    }
    const row = shares.map((s, i) => {
      if (i === 0) return first.vertex;
      if (i === shares.length - 1) return last.vertex;
      if (first.vertex === last.vertex) return first.vertex;
      return rework.vertex(...([0, 1, 2].map((k) => s[0] * p[k] + s[1] * q[k] + s[2] * r[k]) as [number, number, number]));
    });
    profiles.set(spoke, row);
    const [group] = groups;
    // A bevel that ends at a vertex of three edges runs out into the face between the other two.
    if (chosen.length === 1 && fan.closed && fan.corners.length === 3 && group.points.length === 2) {
      const beyond = fan.corners[(spoke + 1) % 3];
      inserted.set(beyond, row.slice(1, -1).reverse());
    }
  }
}

/** Every old face, its corners moved in. */
function trimFaces(
  mesh: PolyMesh,
  edges: Edges,
  rework: Rework,
  outline: ReadonlyMap<number, Slid[]>,
  inserted: ReadonlyMap<number, number[]>,
  picked: Uint8Array,
  starts: Uint32Array,
  hard: boolean,
): void {
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let trimmed = false;
    for (let c = from; c < to && !trimmed; c++) trimmed = outline.has(c);
    if (!trimmed) {
      rework.keep(f);
      continue;
    }
    const corners: NewCorner[] = [];
    for (let c = from; c < to; c++) {
      const points = outline.get(c);
      const edge = picked[edges.ofCorner[c]] ? undefined : c;
      if (!points) {
        corners.push({ vertex: mesh.faceVert[c], from: c, edge });
        continue;
      }
      const extra = inserted.get(c) ?? [];
      const row = [points[0].vertex, ...extra, ...points.slice(1).map((s) => s.vertex)];
      for (const [i, vertex] of row.entries()) {
        const last = i === row.length - 1;
        const place = rework.position(vertex);
        const mix = vertex === mesh.faceVert[c] ? c : mixAt(mesh, range(starts[f], starts[f + 1]), ...place);
        corners.push({ vertex, from: mix, edge: last ? edge : undefined, ...(hard && (!last || edge === undefined) && { hard }) });
      }
    }
    rework.face(corners, f);
  }
}

/** A row of quads in place of each bevelled edge. */
function stripEdges(
  edges: Edges,
  rework: Rework,
  picked: Uint8Array,
  cuts: readonly Cut[],
  cutOf: ReadonlyMap<number, number>,
  between: (f: number, g: number) => { first: number; patch: string },
  uv: ArrayLike<number> | undefined,
  hard: boolean,
): void {
  const profileAt = (corner: number): number[] => {
    const cut = cuts[cutOf.get(corner) as number];
    return cut.profiles.get(cut.fan.corners.indexOf(corner)) ?? [];
  };
  for (let e = 0; e < edges.count; e++) {
    if (!picked[e]) continue;
    const c = edges.corners[edges.start[e]];
    const d = twin(edges, c);
    const [f, g] = [edges.faceOf[c], edges.faceOf[d]];
    const [a, b] = [profileAt(c), profileAt(d).slice().reverse()];
    const n = a.length - 1;
    const { first, patch } = between(f, g);
    const [u0, u1] = uv ? (first === f ? along(uv, c, edges.next[c]) : along(uv, edges.next[d], d)) : [0, 1];
    for (let s = 0; s < n; s++) {
      const v = (i: number) => (first === f ? i / n : 1 - i / n);
      const outer = (i: number) => hard && (i === 0 || i === n);
      const corners: NewCorner[] = [
        { vertex: b[s], uv: [u1, v(s)], hard: outer(s) },
        { vertex: a[s], uv: [u0, v(s)], hard: false },
        { vertex: a[s + 1], uv: [u0, v(s + 1)], hard: outer(s + 1) },
        { vertex: b[s + 1], uv: [u1, v(s + 1)], hard: false },
      ];
      const kept = corners.filter((x, i) => x.vertex !== corners[(i + 1) % 4].vertex);
      if (kept.length >= 3) rework.face(kept, first, patch);
    }
  }
}

/** The place where strips meet. */
function fillCut(
  rework: Rework,
  cut: Cut,
  n: number,
  shape: NonNullable<BevelOptions['shape']>,
  edges: Edges,
  patch: string,
  tip: Vec3,
): void {
  const round = shape === 'arc';
  const { fan, chosen, groups, profiles } = cut;
  const from = edges.faceOf[fan.corners[0]];
  const hard = shape === 'straight';
  const cap: CapMesh = {
    position: (v) => rework.position(v),
    // Loops that only hold an edge leave the corner where it was.
    vertex: (p) => rework.vertex(...((shape === 'held' ? tip : p) as [number, number, number])),
    face(loop) {
      const clean = loop.filter((v, i) => v !== loop[(i + 1) % loop.length]);
      if (new Set(clean).size < 3) return;
      rework.face(
        clean.map((vertex, i): NewCorner => ({ vertex, uv: CORNERS[i % 4], hard: hard && loop.length === clean.length && n === 1 })),
        from,
        patch,
      );
    },
  };
  const across = (spoke: number): number[] => [...(profiles.get(spoke) ?? [])].reverse();
  if (chosen.length === 1) {
    const [spoke] = chosen;
    const points = groups.flatMap((g) => g.points.map((s) => s.vertex));
    if (fan.closed) {
      // Runs out into the face beyond, or to a point.
      if (points.length < 2 || (points.length === 2 && fan.corners.length === 3)) return;
      cap.face([...groups[0].points.map((s) => s.vertex), ...across(spoke).slice(1, -1)]);
    } else if (groups.some((g) => g.points.length > 1)) {
      const [start, end] = groups;
      cap.face([...start.points.map((s) => s.vertex), ...across(spoke).slice(1, -1), ...end.points.map((s) => s.vertex)]);
    }
    return;
  }
  const single = groups.every((g) => g.points.length === 1);
  if (fan.closed && chosen.length === 2) {
    if (single) return;
    const [g, h] = groups.map((x) => x.points.map((s) => s.vertex));
    // From the end of the first group to the start of the second, and back on the other side.
    const [up, down] = [across(groups[0].to), across(groups[1].to).reverse()];
    for (let s = 0; s < n; s++) {
      const near = s === 0 ? g : [down[s], up[s]];
      const far = s === n - 1 ? h : [up[s + 1], down[s + 1]];
      cap.face([...near, ...far]);
    }
    return;
  }
  if (fan.closed && single) {
    fillCorner(
      cap,
      groups.map((g) => g.points[0].vertex),
      groups.map((g) => across(g.to).slice(1, -1)),
      round,
    );
    return;
  }
  const loop = groups.flatMap((g, i) => [
    ...g.points.map((s) => s.vertex),
    ...(fan.closed || i + 1 < groups.length ? across(g.to).slice(1, -1) : []),
  ]);
  const clean = loop.filter((v, i) => v !== loop[(i + 1) % loop.length]);
  if (clean.length < 3) return;
  if (n === 1) cap.face(clean);
  else fillLoop(cap, clean, round);
}
const CORNERS: readonly (readonly [number, number])[] = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];
