import { type Edges, edgesOf, edgeValence, Groups, twin } from '../../mesh/connectivity';
import { hardEdges } from '../../mesh/normals';
import { attribute, cornerCount, type PolyMesh } from '../../mesh/polymesh';
import { SEAM_REASONS, type SeamReason } from '../words';

/** What can be said about where a layout is cut. Lengths in mm, copies counted. */
export interface SeamFigures {
  /** Edges whose sides lie apart in the layout. */
  lengthMm: number;
  /** Of those, what is seen from where people look. */
  shownMm: number;
  /** Hard edges whose sides lie together: a baked normal can’t be right on both. */
  hardInsideMm: number;
  /** Edges closed by hand that had to be cut all the same, as what they join can’t be laid flat. */
  reopenedMm: number;
  /** Why it is cut where it is, mm; absent in what was kept before that was measured. */
  reasons?: Record<SeamReason, number>;
  /** Vertices as the card has them, and how many of them hard edges alone make. */
  gpuVertices: number;
  forcedVertices: number;
}

/** Corners lie in one place of a layout when they are this near, shares of the tile. */
const ONE_PLACE = 1e-6;
/** Normals of a file are those of a hard edge where its sides’ differ by this much, as a cosine: a degree. */
const ONE_DIRECTION = Math.cos(Math.PI / 180);
/** Hard where neither a step nor the file says which edges are, degrees: as such meshes are handed over. */
const HARD_ANGLE = 60;
/** An edge shows when this share of the looks at it arrives: one underneath, in the open, gets a little less. */
const SHOWS = 0.2;

/** 1 for every edge inside the surface whose sides lie apart in the mesh’s layout (`uv`, corner; `island`, face). */
export function edgesCut(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): Uint8Array {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const island = attribute(mesh, 'island', 'face')?.data;
  const out = new Uint8Array(edges.count);
  if (!uv) return out;
  const apart = (c: number, d: number): boolean => Math.abs(uv[2 * c] - uv[2 * d]) + Math.abs(uv[2 * c + 1] - uv[2 * d + 1]) > ONE_PLACE;
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    // Twins run opposite ways: a starts where b ends.
    if (island?.[edges.faceOf[a]] !== island?.[edges.faceOf[b]] || apart(a, edges.next[b]) || apart(edges.next[a], b)) out[e] = 1;
  }
  return out;
}

/**
 * 1 for every edge whose sides have normals of their own: where a file brought normals, where they differ; elsewhere marked edges, and on a
 * mesh without marks those sharper than it is handed over with. Rims count as hard.
 */
export function shadedHard(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): Uint8Array {
  const n = attribute(mesh, 'normal', 'corner')?.data;
  if (!n) return hardEdges(mesh, attribute(mesh, 'hard', 'corner') ? {} : { hardAngle: HARD_ANGLE }, edges);
  const differ = (c: number, d: number): boolean =>
    n[3 * c] * n[3 * d] + n[3 * c + 1] * n[3 * d + 1] + n[3 * c + 2] * n[3 * d + 2] < ONE_DIRECTION;
  const out = new Uint8Array(edges.count).fill(1);
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (mesh.faceVert[a] === mesh.faceVert[edges.next[b]] && !differ(a, edges.next[b]) && !differ(edges.next[a], b)) out[e] = 0;
  }
  return out;
}

/** How the two sides of a corner’s edge lay before islands were divided: in two islands (0), apart in one, or together. */
const CLOSES = 1;
const DIVIDED = 2;

/**
 * For every corner how its edge was cut before islands were divided to fill the tile: 0 between two islands, 1 within one that closes on
 * itself, 2 not at all.
 *
 * @param laid islands of faces and places of corners, mm
 */
export function cutsBefore(mesh: PolyMesh, laid: { island: ArrayLike<number>; flat: ArrayLike<number> }): Uint8Array {
  const edges = edgesOf(mesh);
  const out = new Uint8Array(cornerCount(mesh));
  const { island, flat } = laid;
  const apart = (c: number, d: number): boolean => Math.abs(flat[2 * c] - flat[2 * d]) + Math.abs(flat[2 * c + 1] - flat[2 * d + 1]) > 1e-6;
  for (let c = 0; c < out.length; c++) {
    const d = twin(edges, c);
    if (d < 0 || island[edges.faceOf[c]] !== island[edges.faceOf[d]]) continue;
    out[c] = apart(c, edges.next[d]) || apart(edges.next[c], d) ? CLOSES : DIVIDED;
  }
  return out;
}

/** The length of each edge, mm. */
export function edgeLengths(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): Float64Array {
  const p = mesh.positions;
  return Float64Array.from({ length: edges.count }, (_, e) => {
    const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
    return Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);
  });
}

/** Vertices there are when a surface falls apart along some edges: at each place as many as there are fans of faces between those. */
function verticesApart(mesh: PolyMesh, edges: Edges, apart: (e: number) => boolean): number {
  const groups = new Groups(cornerCount(mesh));
  for (let c = 0; c < cornerCount(mesh); c++) {
    if (apart(edges.ofCorner[c])) continue;
    const t = twin(edges, c);
    if (t >= 0 && mesh.faceVert[edges.next[t]] === mesh.faceVert[c]) groups.join(c, edges.next[t]);
  }
  let count = 0;
  for (let c = 0; c < cornerCount(mesh); c++) if (groups.find(c) === c) count++;
  return count;
}

/**
 * Measures where a laid-out mesh is cut.
 *
 * @param seen what share of the looks at each face arrives, 0 … 1; without it everything is taken to be seen
 * @param copies how often the part stands there
 * @param known the angle that faces were cut apart from, degrees, and what {@link cutsBefore} says
 */
export function measureSeams(
  mesh: PolyMesh,
  seen: Float32Array | null,
  copies = 1,
  known: { seamAngle?: number; before?: ArrayLike<number> | null } = {},
): SeamFigures {
  const edges = edgesOf(mesh);
  const [cut, hard, lengths] = [edgesCut(mesh, edges), shadedHard(mesh, edges), edgeLengths(mesh, edges)];
  const joined = attribute(mesh, 'joined', 'corner')?.data;
  const sharp = known.seamAngle === undefined ? hard : hardEdges(mesh, { hardAngle: known.seamAngle }, edges);
  const [opened, region, island] = [
    attribute(mesh, 'seam', 'corner')?.data,
    attribute(mesh, 'region', 'face')?.data,
    attribute(mesh, 'island', 'face')?.data,
  ];
  const reasons: Record<SeamReason, number> = { hand: 0, hard: 0, region: 0, closed: 0, divided: 0, curved: 0 };
  const why = (e: number, a: number, b: number): SeamReason => {
    const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
    if (opened?.[a] || opened?.[b]) return 'hand';
    if (hard[e] || sharp[e]) return 'hard';
    if (region && region[f] !== region[g]) return 'region';
    const was = known.before?.[a] ?? (island?.[f] === island?.[g] ? CLOSES : 0);
    return was === CLOSES ? 'closed' : was === DIVIDED ? 'divided' : 'curved';
  };
  let [lengthMm, shownMm, hardInsideMm, reopenedMm] = [0, 0, 0, 0];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    const length = lengths[e] * copies;
    if (!cut[e]) {
      if (hard[e]) hardInsideMm += length;
      continue;
    }
    lengthMm += length;
    reasons[why(e, a, b)] += length;
    if (!seen || Math.max(seen[edges.faceOf[a]], seen[edges.faceOf[b]]) >= SHOWS) shownMm += length;
    if (joined?.[a] || joined?.[b]) reopenedMm += length;
  }
  const gpuVertices = verticesApart(mesh, edges, (e) => cut[e] === 1 || hard[e] === 1);
  return {
    lengthMm,
    shownMm,
    hardInsideMm,
    reopenedMm,
    reasons,
    gpuVertices,
    forcedVertices: verticesApart(mesh, edges, (e) => hard[e] === 1),
  };
}

/** The figures of several parts together. */
export function addSeams(all: readonly SeamFigures[]): SeamFigures {
  const sum = (of: Exclude<keyof SeamFigures, 'reasons'>): number => all.reduce((s, x) => s + x[of], 0);
  const names = Object.keys(SEAM_REASONS) as SeamReason[];
  return {
    lengthMm: sum('lengthMm'),
    shownMm: sum('shownMm'),
    hardInsideMm: sum('hardInsideMm'),
    reopenedMm: sum('reopenedMm'),
    reasons: Object.fromEntries(names.map((k) => [k, all.reduce((s, x) => s + (x.reasons?.[k] ?? 0), 0)])) as Record<SeamReason, number>,
    gpuVertices: sum('gpuVertices'),
    forcedVertices: sum('forcedVertices'),
  };
}
