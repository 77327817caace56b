import earcut, { deviation } from 'earcut';
import { InputError } from '../errors';
import { isRigid, type Mat4, multiply } from '../maths/mat4';
import { inverse3, stretchOf } from '../maths/polar';
import { boundaryLoops, edgesOf } from '../mesh/connectivity';
import { faceNormals } from '../mesh/normals';
import { frameOf } from '../mesh/planar';
import { attribute, cornerCount, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { type NewCorner, Rework, range, triangleStarts } from '../mesh/rework';
import { transform } from '../mesh/transform';
import { newell } from '../mesh/triangulate';
import { HARD_ANGLE, roundNgons, softCreases, surfaceShape, warpedFaces } from './findings/surface';

/** Points of a rim off its own plane by more than this share of its size can't be filled flat. */
const FLAT_RIM = 0.02;

/**
 * Closes the open rims that lie in a plane: one face each. Its edges are hard where it turns sharply from what it closes.
 *
 * @throws InputError `fix/rim` when no rim can be filled
 */
export function fillRims(mesh: PolyMesh): PolyMesh {
  const edges = edgesOf(mesh);
  const normals = faceNormals(mesh);
  const open = new Map<string, number>();
  for (let e = 0; e < edges.count; e++)
    if (edges.start[e + 1] - edges.start[e] === 1) {
      const c = edges.corners[edges.start[e]];
      open.set(`${mesh.faceVert[c]},${mesh.faceVert[edges.next[c]]}`, c);
    }
  const rework = new Rework(mesh);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) rework.keep(f);
  const p = mesh.positions;
  let filled = 0;
  for (const [i, loop] of boundaryLoops(mesh, edges).entries()) {
    if (loop.length < 3 || new Set(loop).size < loop.length) continue;
    // The new face runs against its neighbours.
    const ring = [...loop].reverse();
    const normal = newell(p, Uint32Array.from(ring), 0, ring.length);
    const l = Math.hypot(...normal);
    if (!(l > 0)) continue;
    const n = normal.map((x) => x / l) as [number, number, number];
    const { u, v } = frameOf(n);
    const at = (w: number, d: readonly number[]) => d[0] * p[3 * w] + d[1] * p[3 * w + 1] + d[2] * p[3 * w + 2];
    const heights = ring.map((w) => at(w, n));
    const size = Math.sqrt(l);
    if (Math.max(...heights) - Math.min(...heights) > FLAT_RIM * size) continue;
    const flat = ring.flatMap((w) => [at(w, u), at(w, v)]);
    // An outline that crosses itself is not filled by as much as it goes round.
    if (Math.abs(deviation(flat, null, 2, earcut(flat))) > 1e-6) continue;
    const cos = Math.cos((HARD_ANGLE * Math.PI) / 180);
    const corners = ring.map((w, k): NewCorner => {
      const beside = open.get(`${ring[(k + 1) % ring.length]},${w}`) as number;
      const f = edges.faceOf[beside];
      const turn = n[0] * normals[3 * f] + n[1] * normals[3 * f + 1] + n[2] * normals[3 * f + 2];
      return {
        vertex: w,
        from: edges.next[beside],
        edge: beside,
        hard: turn < cos,
        uv: [(at(w, u) - at(ring[0], u)) / size, (at(w, v) - at(ring[0], v)) / size],
      };
    });
    rework.face(corners, edges.faceOf[open.get(`${ring[1]},${ring[0]}`) as number], `fill ${i + 1}`);
    filled++;
  }
  if (filled === 0)
    throw new InputError(
      'fix/rim',
      'No rim lies in a plane of its own, so none was filled: close them where the model was made, or declare them open.',
    );
  return rework.build().mesh;
}

/** Cuts faces of many corners on smooth surfaces, and warped ones, into the triangles they are drawn as. */
export function cutRoundFaces(mesh: PolyMesh, unseenMm: number): PolyMesh {
  const edges = edgesOf(mesh);
  const shape = surfaceShape(mesh, edges);
  const chosen = new Set([...roundNgons(mesh, shape), ...warpedFaces(mesh, shape.normals, unseenMm).map((w) => w.face)]);
  if (chosen.size === 0) return mesh;
  const starts = triangleStarts(mesh);
  const rework = new Rework(mesh);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (!chosen.has(f)) {
      rework.keep(f);
      continue;
    }
    for (const t of range(starts[f], starts[f + 1])) {
      const corners = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
      rework.face(
        corners.map((c, k) => ({ vertex: mesh.faceVert[c], from: c, ...(edges.next[c] === corners[(k + 1) % 3] && { edge: c }) })),
        f,
      );
    }
  }
  return rework.build().mesh;
}

/** Rounds in which creases uncover creases. */
const ROUNDS = 8;

/** Marks creases between flat faces as hard edges; those that are hard by their angle are marked too, as they would be without. */
export function hardenCreases(mesh: PolyMesh): PolyMesh {
  const edges = edgesOf(mesh);
  const shape = surfaceShape(mesh, edges);
  let creases = softCreases(mesh, shape);
  if (creases.length === 0) return mesh;
  const hard = Uint8Array.from(attribute(mesh, 'hard', 'corner')?.data ?? new Uint8Array(cornerCount(mesh)));
  const mark = (e: number) => {
    for (let k = edges.start[e]; k < edges.start[e + 1]; k++) hard[edges.corners[k]] = 1;
  };
  for (let e = 0; e < edges.count; e++) if (shape.hard[e] && edges.start[e + 1] - edges.start[e] === 2) mark(e);
  // What stands out only once the sharper ones beside it are hard comes after them.
  for (let round = 0; creases.length > 0 && round < ROUNDS; round++) {
    for (const e of creases) {
      mark(e);
      shape.hard[e] = 1;
    }
    creases = softCreases(mesh, shape);
  }
  const marked = withAttribute(mesh, { name: 'hard', domain: 'corner', size: 1, data: hard });
  // Directions that came with the file are smeared over the creases.
  return { ...marked, attributes: marked.attributes.filter((a) => a.name !== 'normal') };
}

/**
 * Puts a scale, a mirror or a shear left on a part's places into its mesh, and leaves turned and moved places. Copies of
 * another scale than the first can't share its mesh.
 *
 * @throws InputError `fix/scale` when copies differ in more than where they stand
 */
export function applyScale(mesh: PolyMesh, placements: readonly Mat4[]): { mesh: PolyMesh; placements: Mat4[] } {
  const first = stretchOf(placements[0]);
  const turned = placements.map((m) => multiply(m, inverse3(first)));
  if (!turned.every(isRigid))
    throw new InputError(
      'fix/scale',
      'Its copies are scaled differently, and copies share one mesh: make them parts of their own where the model was made.',
    );
  return { mesh: transform(mesh, first), placements: turned };
}
