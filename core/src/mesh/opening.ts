import { FormError } from '../errors';
import { dot, sub, type Vec3 } from '../maths/vec3';
import { type Edges, twin } from './connectivity';
import type { Flat } from './frame';
import { FACING, type Footprint } from './join-rims';
import { isInside } from './planar';
import type { PolyMesh } from './polymesh';

/** Rings and steps along each side of the rim at which the body is asked for its faces. */
const [RINGS, STEPS] = [6, 4];
/** Rounds in which an opening that touches itself, or has notches, is widened. */
const WIDENINGS = 200;
/** A corner of the outline that turns inward by more than this is a notch: sine. */
const NOTCH = 0.3;

/**
 * The faces of a body that a rim and its frame need opened, and the outline of those, as the faces that go turn.
 *
 * @throws FormError where they don't lie in one piece, or round an edge of the body
 */
export function openingFor(
  body: PolyMesh,
  edges: Edges,
  normals: Float64Array,
  foot: Footprint,
): { faces: ReadonlySet<number>; outline: number[] } {
  const outer = foot.needs;
  const at = (v: number): Vec3 => [body.positions[3 * v], body.positions[3 * v + 1], body.positions[3 * v + 2]];
  const faces = new Set<number>();
  const rings: Flat[][] = [outer, foot.frame.places];
  for (let r = 0; r <= RINGS; r++) rings.push(foot.rim.map(([x, y]): Flat => [(x * r) / RINGS, (y * r) / RINGS]));
  for (const ring of rings)
    for (const [i, a] of ring.entries())
      for (let s = 0; s < STEPS; s++) {
        const b = ring[(i + 1) % ring.length];
        const hit = foot.land([a[0] + ((b[0] - a[0]) * s) / STEPS, a[1] + ((b[1] - a[1]) * s) / STEPS]);
        if (!hit) throw new FormError('join/room', 'The body ends beside a rim: there is no room round it for a joint.');
        faces.add(body.triangleFace[hit.triangle]);
      }
  // And whatever has a corner inside: on a fine body faces lie between those that were asked.
  const within = (v: number): boolean => {
    const p = at(v);
    return Math.abs(dot(sub(p, foot.middle), foot.way)) < 2 * foot.width && isInside(foot.flat(p), outer);
  };
  const neighbours = (f: number): number[] => {
    const out: number[] = [];
    for (let c = body.faceStart[f]; c < body.faceStart[f + 1]; c++) {
      const t = twin(edges, c);
      if (t >= 0) out.push(edges.faceOf[t]);
    }
    return out;
  };
  const facing = (f: number): boolean => -dot([normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]], foot.way) > FACING;
  const list = [...faces];
  for (let i = 0; i < list.length; i++)
    for (const g of neighbours(list[i])) {
      if (faces.has(g) || !facing(g)) continue;
      let inside = false;
      for (let c = body.faceStart[g]; c < body.faceStart[g + 1] && !inside; c++) inside = within(body.faceVert[c]);
      if (inside) {
        faces.add(g);
        list.push(g);
      }
    }
  for (const f of faces)
    if (!facing(f)) throw new FormError('join/edge', 'A rim runs over an edge of the body: move it so that its end stands on one side.');
  for (let round = 0; round <= WIDENINGS; round++) {
    const { outline, touching } = outlineOf(body, edges, faces);
    // Where it touches itself, or has a notch, it is opened all round: what lies between it and the frame is a ring then.
    const wide = outline ? notches(outline.map((v) => foot.flat(at(v)))).map((i) => outline[i]) : touching;
    if (outline && wide.length === 0) return { faces, outline };
    const before = faces.size;
    const more = new Set(wide);
    for (let f = 0; f < body.faceStart.length - 1; f++)
      for (let c = body.faceStart[f]; c < body.faceStart[f + 1]; c++) if (more.has(body.faceVert[c]) && facing(f)) faces.add(f);
    if (faces.size === before) {
      if (outline) return { faces, outline };
      break;
    }
  }
  throw new FormError('join/opening', 'The faces a rim would open don’t lie in one piece: it runs over an edge or a hole of the body.');
}

/** The outline of faces that go; none where it is not one loop, with the vertices it runs through twice. */
function outlineOf(mesh: PolyMesh, edges: Edges, faces: ReadonlySet<number>): { outline: number[] | null; touching: number[] } {
  const after = new Map<number, number>();
  const touching: number[] = [];
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const t = twin(edges, c);
      if (t < 0) return { outline: null, touching: [] };
      if (faces.has(edges.faceOf[t])) continue;
      if (after.has(mesh.faceVert[c])) touching.push(mesh.faceVert[c]);
      after.set(mesh.faceVert[c], mesh.faceVert[edges.next[c]]);
    }
  if (touching.length > 0) return { outline: null, touching };
  const [first] = after.keys();
  const loop: number[] = [];
  let v: number | undefined = first;
  while (v !== undefined && loop.length <= after.size) {
    loop.push(v);
    v = after.get(v);
    if (v === first) break;
  }
  return { outline: loop.length === after.size && v === first ? loop : null, touching: [] };
}

/** Places of an outline at which it turns inward. */
function notches(loop: readonly Flat[]): number[] {
  let area = 0;
  for (const [i, [x, y]] of loop.entries()) area += x * loop[(i + 1) % loop.length][1] - loop[(i + 1) % loop.length][0] * y;
  const way = Math.sign(area);
  return loop.flatMap((b, i) => {
    const [a, c] = [loop[(i + loop.length - 1) % loop.length], loop[(i + 1) % loop.length]];
    const [p, q] = [
      [b[0] - a[0], b[1] - a[1]],
      [c[0] - b[0], c[1] - b[1]],
    ];
    const sine = (way * (p[0] * q[1] - p[1] * q[0])) / Math.max(Math.hypot(...p) * Math.hypot(...q), 1e-18);
    return sine < -NOTCH ? [i] : [];
  });
}
