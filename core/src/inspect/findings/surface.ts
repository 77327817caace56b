import { type Edges, edgeValence } from '../../mesh/connectivity';
import { type Curvature, edgeTurns, principal, vertexCurvature } from '../../mesh/curvature';
import { boundsOf } from '../../mesh/measures';
import { cornerNormals, faceNormals, hardEdges } from '../../mesh/normals';
import { attribute, faceCount, type PolyMesh, vertexCount } from '../../mesh/polymesh';

/** Without marked edges, those sharper than this are taken for hard: what the delivery does. Degrees. */
export const HARD_ANGLE = 60;

/** What a surface is like at its edges, worked out once for all that ask. */
export interface SurfaceShape {
  edges: Edges;
  /** Unit, 3 per face. */
  normals: Float64Array;
  /** Turn over each edge, radians; NaN on rims. */
  turns: Float64Array;
  /** 1 for edges that are hard. */
  hard: Uint8Array;
  curvature: Curvature;
}

/** What findings about a surface stand on, worked out once: its faces’ normals, the turns at its edges, its hard edges. */
export function surfaceShape(mesh: PolyMesh, edges: Edges): SurfaceShape {
  const normals = faceNormals(mesh);
  const marked = attribute(mesh, 'hard', 'corner') !== undefined;
  return {
    edges,
    normals,
    turns: edgeTurns(mesh, normals, edges),
    hard: hardEdges(mesh, marked ? {} : { hardAngle: HARD_ANGLE }, edges, normals),
    curvature: vertexCurvature(mesh, edges),
  };
}

/** A face whose corners don't lie in one plane: by how much, mm, and how far its two halves turn, degrees. */
export interface Warped {
  face: number;
  mm: number;
  degrees: number;
}

/** Less warp than this many degrees between the halves of a face shades as if it were flat: common practice, no source. */
export const WARP_DEGREES = 10;
/** With more than this a fold is seen across it: common practice, no source. */
export const FOLD_DEGREES = 25;

/** Faces bent by more than `mm` and by more than {@link WARP_DEGREES}, worst first. */
export function warpedFaces(mesh: PolyMesh, normals: Float64Array, mm: number): Warped[] {
  const out: Warped[] = [];
  const p = mesh.positions;
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    if (to - from < 4) continue;
    const [nx, ny, nz] = [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]];
    let [low, high] = [Infinity, -Infinity];
    for (let c = from; c < to; c++) {
      const v = 3 * mesh.faceVert[c];
      const d = nx * p[v] + ny * p[v + 1] + nz * p[v + 2];
      if (d < low) low = d;
      if (d > high) high = d;
    }
    // Corners either side of the middle plane.
    const off = (high - low) / 2;
    if (!(off > mm)) continue;
    const degrees = halvesTurn(mesh, f);
    if (degrees > WARP_DEGREES) out.push({ face: f, mm: off, degrees });
  }
  return out.sort((a, b) => b.mm - a.mm || a.face - b.face);
}

/** The widest angle between two triangles of a face, degrees. */
function halvesTurn(mesh: PolyMesh, f: number): number {
  const p = mesh.positions;
  const list: number[][] = [];
  const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
  for (let k = 0; k < n; k++) {
    const [a, b, c] = [0, 1, 2].map((i) => 3 * mesh.faceVert[mesh.faceStart[f] + ((k + i) % n)]);
    const u = [0, 1, 2].map((i) => p[b + i] - p[a + i]);
    const v = [0, 1, 2].map((i) => p[c + i] - p[b + i]);
    const m = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(...m);
    if (l > 1e-9 * (Math.hypot(...u) * Math.hypot(...v))) list.push(m.map((x) => x / l));
  }
  let least = 1;
  for (const a of list) for (const b of list) least = Math.min(least, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]);
  // Corners of a hollow outline turn the other way round by their nature.
  return n > 4 && least < 0 ? 0 : (Math.acos(Math.max(-1, Math.min(1, least))) * 180) / Math.PI;
}

/** A smooth edge that turns less than this shades as if the two faces were one, radians. */
const FLAT = (1 * Math.PI) / 180;

/** Light runs unevenly into a face whose corners look this far apart, cosine of 10°: common practice, no source. */
const UNEVEN = Math.cos((10 * Math.PI) / 180);

/**
 * Faces of five corners and more on a smooth surface into which light runs unevenly: their corners' normals differ. One that is
 * flat to its rim, behind hard edges or with normals weighted by area, is none.
 */
export function roundNgons(mesh: PolyMesh, shape: SurfaceShape): number[] {
  const candidates = smoothNgons(mesh, shape);
  if (candidates.length === 0) return [];
  const marked = attribute(mesh, 'hard', 'corner') !== undefined;
  const n = cornerNormals(mesh, marked ? {} : { hardAngle: HARD_ANGLE });
  return candidates.filter((f) => {
    for (let a = mesh.faceStart[f]; a < mesh.faceStart[f + 1]; a++)
      for (let b = mesh.faceStart[f]; b < a; b++)
        if (n[3 * a] * n[3 * b] + n[3 * a + 1] * n[3 * b + 1] + n[3 * a + 2] * n[3 * b + 2] < UNEVEN) return true;
    return false;
  });
}

function smoothNgons(mesh: PolyMesh, { edges, turns, hard }: SurfaceShape): number[] {
  const out: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++) {
    if (mesh.faceStart[f + 1] - mesh.faceStart[f] < 5) continue;
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const e = edges.ofCorner[c];
      if (!hard[e] && Math.abs(turns[e]) > FLAT) {
        out.push(f);
        break;
      }
    }
  }
  return out;
}

/** Least turn of a crease that has to be hard or bevelled, radians: 30°, common practice, no source. */
export const CREASE = (30 * Math.PI) / 180;
/** It stands out when the surface beside it turns no more than this share of it. */
const BESIDE = 1 / 4;
/** Flat faces looked through for what bends beside an edge. */
const THROUGH = 12;

/**
 * Smooth edges that turn sharply while the surface on both sides is nearly flat: a kink that shading smears over the faces
 * beside it. A round of few sides is none, for there every edge turns as much; nor is a sliver too narrow to be seen.
 *
 * @param unseenMm what may be off without being seen, mm
 */
export function softCreases(mesh: PolyMesh, { edges, turns, hard }: SurfaceShape, unseenMm = 0): number[] {
  const out: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    const turn = Math.abs(turns[e]);
    if (hard[e] || !(turn >= CREASE)) continue;
    const sides = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (sides.some((c) => halfWidth(mesh, edges, e, edges.faceOf[c]) < unseenMm)) continue;
    if (sides.every((c) => besides(mesh, edges, turns, hard, c, e) <= turn * BESIDE)) out.push(e);
  }
  return out;
}

/** A wedge is seen as one where it lies over at least this share of the part's size, and over so many pixels of the closest view. */
const SEEN = { share: 0.06, pixels: 8 };

/**
 * Creases whose smear is seen: it has to lie over a good piece of a face on one side. On what is shaped by many small faces, as organic
 * meshes are, it looks like any other rounding. (The share was set on 82 open models from elsewhere, where it leaves 6 of 50.)
 *
 * @param pixelMm a pixel of the closest view, mm
 */
export function seenCreases(mesh: PolyMesh, shape: SurfaceShape, unseenMm: number, pixelMm: number): number[] {
  const { min, max } = boundsOf(mesh);
  const wide = Math.max(SEEN.share * Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]), SEEN.pixels * pixelMm);
  const { edges } = shape;
  return softCreases(mesh, shape, unseenMm).filter((e) =>
    [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]].some((c) => halfWidth(mesh, edges, e, edges.faceOf[c]) >= wide),
  );
}

/** The greatest turn met on one side of an edge, over what is flat there, leaving out edges that go on in its line. */
function besides(mesh: PolyMesh, edges: Edges, turns: Float64Array, hard: Uint8Array, corner: number, e: number): number {
  const seen = new Set<number>([edges.faceOf[corner]]);
  const list = [edges.faceOf[corner]];
  let most = 0;
  for (let i = 0; i < list.length && i < THROUGH; i++) {
    const f = list[i];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const other = edges.ofCorner[c];
      if (other === e || hard[other]) continue;
      const turn = Math.abs(turns[other]);
      if (turn < FLAT) {
        const [a, b] = [edges.faceOf[edges.corners[edges.start[other]]], edges.faceOf[edges.corners[edges.start[other] + 1]]];
        const g = a === f ? b : a;
        if (!seen.has(g)) {
          seen.add(g);
          list.push(g);
        }
      } else if (!inLine(mesh, edges, e, other)) most = Math.max(most, turn);
    }
  }
  return most;
}

/** Whether two edges run the same way within 15°: the crease goes on there. */
function inLine(mesh: PolyMesh, edges: Edges, e: number, o: number): boolean {
  const p = mesh.positions;
  const d = (x: number) => [0, 1, 2].map((k) => p[3 * edges.ends[2 * x + 1] + k] - p[3 * edges.ends[2 * x] + k]);
  const ends = [edges.ends[2 * e], edges.ends[2 * e + 1]];
  if (!ends.includes(edges.ends[2 * o]) && !ends.includes(edges.ends[2 * o + 1])) return false;
  const [u, v] = [d(e), d(o)];
  return Math.abs(u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) > 0.966 * Math.hypot(...u) * Math.hypot(...v);
}

/** A vertex at which a surface turns by more than this over its own width shows, when it stands out: radians. */
export const PINCH = 0.35;
/** And it bends so many times as strongly as anywhere beside it. */
const STRONGER = 2.2;

/**
 * Vertices that pinch: smooth places that bend more strongly than all round them, by mean curvature over the vertex's own surface.
 * A pole of many edges on an even curve is none; the tip of a cone is one.
 */
export function pinches(mesh: PolyMesh, { edges, hard, curvature: { mean, area } }: SurfaceShape): number[] {
  const most = new Float64Array(vertexCount(mesh));
  const rough = new Uint8Array(vertexCount(mesh));
  for (let e = 0; e < edges.count; e++)
    if (hard[e] || edgeValence(edges, e) !== 2) rough[edges.ends[2 * e]] = rough[edges.ends[2 * e + 1]] = 1;
  // How a surface bends at a hard edge is not how it bends beside it.
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
    if (!rough[b]) most[a] = Math.max(most[a], Math.abs(mean[b]) || 0);
    if (!rough[a]) most[b] = Math.max(most[b], Math.abs(mean[a]) || 0);
  }
  const out: number[] = [];
  for (let v = 0; v < mean.length; v++)
    if (!rough[v] && Math.abs(mean[v]) * Math.sqrt(area[v]) > PINCH && Math.abs(mean[v]) > STRONGER * most[v]) out.push(v);
  return out;
}

/** How far flat faces lie from the round they stand for. */
export interface ChordErrors {
  /** Per edge, mm; 0 at hard and flat edges. */
  ofEdge: Float64Array;
  /** Per face: the largest of its edges that it is a chord at. A large flat beside a narrow rounding is none. */
  ofFace: Float64Array;
}

/** A face this many times as wide as the one on the other side of an edge is no chord of the same arc. */
const NO_CHORD = 2.5;

/**
 * The sagitta w·tan(θ/4) of an arc that turns by θ at an edge, where w is how far the middle of the narrower face lies from it: for
 * even sides half a chord, so that it is r(1 − cos θ/2).
 */
export function chordErrors(mesh: PolyMesh, { edges, turns, hard }: SurfaceShape): ChordErrors {
  const ofEdge = new Float64Array(edges.count);
  const ofFace = new Float64Array(faceCount(mesh));
  for (let e = 0; e < edges.count; e++) {
    if (hard[e] || !(Math.abs(turns[e]) > 1e-6)) continue;
    const f = edges.faceOf[edges.corners[edges.start[e]]];
    const g = edges.faceOf[edges.corners[edges.start[e] + 1]];
    const p = halfWidth(mesh, edges, e, f);
    const q = halfWidth(mesh, edges, e, g);
    const off = Math.min(p, q) * Math.tan(Math.abs(turns[e]) / 4);
    ofEdge[e] = off;
    if (p <= NO_CHORD * q && off > ofFace[f]) ofFace[f] = off;
    if (q <= NO_CHORD * p && off > ofFace[g]) ofFace[g] = off;
  }
  return { ofEdge, ofFace };
}

/** How far the middle of a face lies from the line of one of its edges, mm. */
function halfWidth(mesh: PolyMesh, edges: Edges, e: number, f: number): number {
  const p = mesh.positions;
  const a = 3 * edges.ends[2 * e];
  const b = 3 * edges.ends[2 * e + 1];
  const dx = p[b] - p[a];
  const dy = p[b + 1] - p[a + 1];
  const dz = p[b + 2] - p[a + 2];
  const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
  let [x, y, z] = [-p[a], -p[a + 1], -p[a + 2]];
  for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
    x += p[3 * mesh.faceVert[c]] / n;
    y += p[3 * mesh.faceVert[c] + 1] / n;
    z += p[3 * mesh.faceVert[c] + 2] / n;
  }
  const off = Math.sqrt(((y * dz - z * dy) ** 2 + (z * dx - x * dz) ** 2 + (x * dy - y * dx) ** 2) / (dx * dx + dy * dy + dz * dz || 1));
  // The middle of a triangle is a third of the way across, that of four corners half.
  return n === 3 ? off * 1.5 : off;
}

/** Along one edge a reflected line bends away by this much more at one end than at the other, radians: it shows as a band. */
export const BAND = 0.12;

/**
 * Where reflected lines break: smooth edges along which the surface's stronger curvature jumps. Per edge, the jump in 1/mm times
 * the edge's length, radians; 0 at hard edges and rims.
 */
export function curvatureJumps(mesh: PolyMesh, { edges, hard, curvature }: SurfaceShape): Float64Array {
  const out = new Float64Array(edges.count);
  const p = mesh.positions;
  const bend = Float64Array.from(curvature.mean, (_, v) => principal(curvature, v));
  const rough = new Uint8Array(vertexCount(mesh));
  for (let e = 0; e < edges.count; e++) if (hard[e]) rough[edges.ends[2 * e]] = rough[edges.ends[2 * e + 1]] = 1;
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
    if (hard[e] || rough[a] || rough[b]) continue;
    const long = Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
    out[e] = Math.abs(bend[a] - bend[b]) * long || 0;
  }
  return out;
}
