import { FormError } from '../errors';
import type { Vec3 } from '../maths/vec3';
import { fansAt, turnedWay } from './bevel/fans';
import { roomFor, type Slid } from './bevel/room';
import { edgesOf, twin } from './connectivity';
import { faceNormals } from './normals';
import { planeOffsets } from './offset';
import { faceCount, type PolyMesh, vertexCount } from './polymesh';
import { mixAt, type NewCorner, Rework, range, triangleStarts } from './rework';
import { along } from './shell';

/** One ring round an inset region: how far from its old outline, and how far out of its old surface (in, when negative), mm. */
export interface InsetRing {
  inset: number;
  push: number;
  /** The patch of the strip that ends at this ring. */
  patch: string;
}

/** Options for {@link inset}. */
export interface InsetOptions {
  rings: readonly InsetRing[];
  /** Every face for itself, instead of faces that touch together. */
  each?: boolean;
}

/** A region moved inward from its border. */
export interface Inset {
  mesh: PolyMesh;
  /** The largest inset for which every edge of the region keeps some length, mm. */
  mostMm: number;
  /** What its outline was scaled by so that it fits: 1 when it fits as asked. */
  held: number;
}

/** Of the room there is, this share is taken when more was asked for. */
const FILL = 0.98;

/**
 * Moves the outline of a region inward over the surface, ring by ring, and the region out of it or into it: panels, grooves,
 * recesses. At a corner the moved edges meet at equal distances, measured on the surface unfolded. Faces of the region stay in
 * their planes and keep patch, patch coordinates and layout; strips between rings carry patches of their own.
 *
 * @param chosen 1 for every face of the region
 * @throws FormError `inset/none` when there are no faces
 */
export function inset(mesh: PolyMesh, chosen: ArrayLike<number>, options: InsetOptions): Inset {
  const edges = edgesOf(mesh);
  const normals = faceNormals(mesh);
  const group = Int32Array.from({ length: faceCount(mesh) }, (_, f) => (chosen[f] ? (options.each ? f : 0) : -1));
  if (!group.some((g) => g >= 0)) throw new FormError('inset/none', 'There is no face to move in.');
  const outside = (c: number): boolean => {
    const t = twin(edges, c);
    return t < 0 || group[edges.faceOf[t]] !== group[edges.faceOf[c]];
  };
  const touched = new Uint8Array(vertexCount(mesh));
  for (let c = 0; c < mesh.faceVert.length; c++)
    if (group[edges.faceOf[c]] >= 0 && outside(c)) touched[mesh.faceVert[c]] = touched[mesh.faceVert[edges.next[c]]] = 1;

  const inward = new Map<number, Vec3>();
  const outline = new Map<number, Slid[]>();
  /** Corner → the run of faces it belongs to at its vertex; those of one run share their new vertices. */
  const runOf = new Map<number, number>();
  let runs = 0;
  for (const fan of fansAt(mesh, edges, normals, touched)) {
    const m = fan.corners.length;
    const of = (i: number) => group[edges.faceOf[fan.corners[i % m]]];
    let first = 0;
    if (fan.closed) while (first < m && of(first) === of((first + m - 1) % m)) first++;
    // All round it one region: an inner vertex, where only two of its rims touch.
    if (first === m) first = 0;
    for (let i = 0; i < m; ) {
      let n = 1;
      while (i + n < m && of(first + i + n) === of(first + i)) n++;
      if (of(first + i) >= 0) {
        const faces = Array.from({ length: n }, (_, k) => (first + i + k) % m);
        const total = faces.reduce((s, f) => s + fan.angles[f], 0);
        let turned = total / 2;
        let k = 0;
        while (k < n - 1 && turned > fan.angles[faces[k]]) turned -= fan.angles[faces[k++]];
        const far = 1 / Math.max(Math.sin(Math.min(total, 2 * Math.PI - 1e-3) / 2), 0.05);
        const way = turnedWay(fan, faces[k], turned);
        const rate: Vec3 = [way[0] * far, way[1] * far, way[2] * far];
        for (const f of faces) {
          inward.set(fan.corners[f], rate);
          outline.set(fan.corners[f], [{ vertex: fan.vertex, rate }]);
          runOf.set(fan.corners[f], runs);
        }
        runs++;
      }
      i += n;
    }
  }
  const mostMm = roomFor(mesh, edges, outline).most;
  const wanted = Math.max(...options.rings.map((r) => r.inset));
  const held = wanted < mostMm ? 1 : (FILL * mostMm) / wanted;

  const out = options.each
    ? null
    : planeOffsets(
        mesh,
        Uint8Array.from(group, (g) => (g >= 0 ? 1 : 0)),
      );
  const rework = new Rework(mesh);
  const { rings } = options;
  const last = rings.length - 1;
  const made = new Map<string, number>();
  const pushOf = (c: number): Vec3 => {
    const [at, from] = out ? [3 * mesh.faceVert[c], out] : [3 * edges.faceOf[c], normals];
    return [from[at], from[at + 1], from[at + 2]];
  };
  const placeOf = (c: number, ring: number, push: number): [number, number, number] => {
    const rate = inward.get(c) ?? [0, 0, 0];
    const up = pushOf(c);
    const v = 3 * mesh.faceVert[c];
    return [0, 1, 2].map((k) => mesh.positions[v + k] + held * rings[ring].inset * rate[k] + push * up[k]) as [number, number, number];
  };
  const vertexAt = (c: number, ring: number): number => {
    const v = mesh.faceVert[c];
    if (ring < 0) return v;
    const inner = !runOf.has(c);
    const name = inner ? `v${v}${options.each ? `f${edges.faceOf[c]}` : ''}` : `r${runOf.get(c)},${ring}`;
    let id = made.get(name);
    if (id === undefined) {
      id = rework.vertex(...placeOf(c, inner ? last : ring, rings[inner ? last : ring].push));
      made.set(name, id);
    }
    return id;
  };
  const starts = triangleStarts(mesh);
  const uv = mesh.attributes.find((a) => a.name === 'patchUv' && a.domain === 'corner')?.data;
  for (let f = 0; f < faceCount(mesh); f++) {
    if (group[f] < 0) {
      rework.keep(f);
      continue;
    }
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    const corners: NewCorner[] = [];
    const stepped = rings[last].push !== 0;
    for (let c = from; c < to; c++)
      corners.push({
        vertex: vertexAt(c, last),
        from: inward.has(c) ? mixAt(mesh, range(starts[f], starts[f + 1]), ...placeOf(c, last, 0)) : c,
        edge: outside(c) ? undefined : c,
        ...(outside(c) && stepped && { hard: true }),
      });
    rework.face(corners, f);
    for (let c = from; c < to; c++) {
      if (!outside(c)) continue;
      const d = edges.next[c];
      const [u0, u1] = uv ? along(uv, c, d) : [0, 1];
      for (let r = 0; r <= last; r++) {
        // A strip in the old surface goes on smoothly into it; a wall begins with an edge.
        const hard = rings[r].push !== (rings[r - 1]?.push ?? 0) || (r > 0 && rings[r - 1].push !== (rings[r - 2]?.push ?? 0));
        const quad: NewCorner[] = [
          { vertex: vertexAt(c, r - 1), from: c, uv: [u0, 0], ...(r === 0 && { edge: c }), ...(hard && { hard }) },
          { vertex: vertexAt(d, r - 1), from: d, uv: [u1, 0] },
          { vertex: vertexAt(d, r), from: d, uv: [u1, 1], ...(hard && { hard }) },
          { vertex: vertexAt(c, r), from: c, uv: [u0, 1] },
        ];
        const kept = quad.filter((x, i) => x.vertex !== quad[(i + 1) % 4].vertex);
        if (kept.length >= 3) rework.face(kept, f, rings[r].patch);
      }
    }
  }
  return { mesh: rework.build().mesh, mostMm, held };
}

/** A border of its own round faces, in their surface; as wide as fits when that is less. */
export const insetFaces = (mesh: PolyMesh, chosen: ArrayLike<number>, width: number, patch: string): PolyMesh =>
  inset(mesh, chosen, { rings: [{ inset: width, push: 0, patch }] }).mesh;
