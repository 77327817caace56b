import { FormError } from '../errors';
import { millimetres } from '../units/lengths';
import { edgesOf, edgeValence } from './connectivity';
import { planeOffsets, roomAlong } from './offset';
import { faceCount, type PolyMesh, vertexCount } from './polymesh';
import { type NewCorner, Rework } from './rework';

/** Options for {@link shell}. Lengths in mm. */
export interface ShellOptions {
  thickness: number;
  /** Where the wall grows from the surface as it is. */
  side?: 'in' | 'out' | 'middle';
  /** What the new surface's patches are called: the old one's name after it. */
  inside?: (patch: string) => string;
  /** The patch of the strips that close open rims. */
  rim?: string;
}

/** A surface given a wall. */
export interface Shelled {
  mesh: PolyMesh;
  /** The largest thickness for which no edge of the moved surface turns round, mm. */
  mostMm: number;
}

/**
 * Gives a surface a wall of constant thickness.
 *
 * Every vertex moves so that each of its face planes is `thickness` away from where it was (least squares for more than three
 * planes). Open rims are closed by a strip of quads; a closed surface becomes a wall round a hollow.
 *
 * @param mesh open or closed, consistently wound; F faces, V vertices, R rim edges
 * @returns 2V vertices, 2F + R faces
 * @throws FormError `shell/too-thick` where the moved surface would turn round, with the largest thickness that fits
 */
export function shell(mesh: PolyMesh, options: ShellOptions): Shelled {
  const { thickness, side = 'in', inside = (p) => `inside ${p}`, rim = 'rim' } = options;
  const [V, F] = [vertexCount(mesh), faceCount(mesh)];
  const vectors = planeOffsets(mesh);
  const inward = Float64Array.from(vectors, (x) => -x);
  const [shareOut, shareIn] = side === 'in' ? [0, 1] : side === 'out' ? [1, 0] : [0.5, 0.5];
  const room = { in: roomAlong(mesh, inward), out: roomAlong(mesh, vectors) };
  const mostMm = Math.min(room.in.most / Math.max(shareIn, 1e-12), room.out.most / Math.max(shareOut, 1e-12));
  if (!(thickness < mostMm))
    throw new FormError(
      'shell/too-thick',
      `A wall of ${millimetres(thickness)} doesn’t fit; it can be anything below ${millimetres(mostMm)}.`,
      {
        thicknessMm: thickness,
        mostMm,
      },
    );
  const edges = edgesOf(mesh);
  for (let e = 0; e < edges.count; e++)
    if (edgeValence(edges, e) > 2)
      throw new FormError('shell/not-manifold', 'A surface whose edges have more than two faces can’t be given a wall.');

  const rework = new Rework(mesh);
  const p = mesh.positions;
  for (let v = 0; v < V; v++)
    rework.vertex(...([0, 1, 2].map((k) => p[3 * v + k] - vectors[3 * v + k] * thickness * shareIn) as [number, number, number]));
  if (shareOut > 0)
    for (let v = 0; v < V; v++)
      rework.move(v, ...([0, 1, 2].map((k) => p[3 * v + k] + vectors[3 * v + k] * thickness * shareOut) as [number, number, number]));
  for (let f = 0; f < F; f++) rework.keep(f);
  const patch = mesh.attributes.find((a) => a.name === 'patch' && a.domain === 'face')?.data;
  const uv = mesh.attributes.find((a) => a.name === 'patchUv' && a.domain === 'corner')?.data;
  for (let f = 0; f < F; f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    const corners: NewCorner[] = [];
    for (let c = to - 1; c >= from; c--) {
      // The edge that started at the corner before now starts here.
      const edge = c > from ? c - 1 : to - 1;
      corners.push({ vertex: V + mesh.faceVert[c], from: c, edge, ...(uv && { uv: [uv[2 * c], uv[2 * c + 1]] as const }) });
    }
    rework.face(corners, f, inside(patch ? mesh.patches[patch[f]] : ''));
  }
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 1) continue;
    const c = edges.corners[edges.start[e]];
    const d = edges.next[c];
    const [a, b] = [mesh.faceVert[c], mesh.faceVert[d]];
    const u = uv ? along(uv, c, d) : [0, 1];
    const corner = (vertex: number, x: number, y: number, hard: boolean): NewCorner => ({ vertex, from: c, hard, uv: [x, y] });
    rework.face(
      [corner(b, u[1], 0, true), corner(a, u[0], 0, false), corner(V + a, u[0], 1, true), corner(V + b, u[1], 1, false)],
      edges.faceOf[c],
      rim,
    );
  }
  return { mesh: rework.build().mesh, mostMm };
}

/** The coordinate that runs along an edge of a patch, at both its ends. */
export function along(uv: ArrayLike<number>, c: number, d: number): [number, number] {
  const k = Math.abs(uv[2 * c] - uv[2 * d]) >= Math.abs(uv[2 * c + 1] - uv[2 * d + 1]) ? 0 : 1;
  return [uv[2 * c + k], uv[2 * d + k]];
}
