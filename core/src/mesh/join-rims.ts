import { FormError } from '../errors';
import { add, at, cross, dot, normalise, perpendicular, scale, sub, type Vec3, vec3 } from '../maths/vec3';
import { millimetres } from '../units/lengths';
import { annulus, type Loop } from './annulus';
import { boundaryLoops, type Edges, edgesOf } from './connectivity';
import { type Flat, type Frame, framesRound, pushedOut } from './frame';
import { mergeLaid } from './merge';
import { faceNormals } from './normals';
import { openingFor } from './opening';
import { faceCount, type PolyMesh } from './polymesh';
import { type NewCorner, Rework } from './rework';
import { splitAcross } from './split-across';
import { squareUp } from './square-up';

/** Finds where a ray first meets a mesh: distance along it and the triangle, or null. */
export type Cast = (origin: Vec3, direction: Vec3) => { t: number; triangle: number } | null;

/** Options for {@link joinRims}. */
export interface JoinRimsOptions {
  /** Patch of the ring of faces at the rim. */
  collar: string;
  /** Patch of the faces from there to those of the body that stay. */
  apron: string;
  /** The nearest a frame may lie round a rim, mm: room for what is made of the edge there. */
  room?: number;
  /** Rays onto a body: it may have to be divided before it is opened. */
  castOn(body: PolyMesh): Cast;
}

/** Rims that were joined: how many, and the faces between them and the body. */
export interface JoinedRims {
  mesh: PolyMesh;
  joined: number;
  quads: number;
  triangles: number;
  /** Longest by shortest side of the worst face at a rim: 1 is a square. */
  pinch: number;
  /** The same of the faces from there to the body's own, whose sides are the body's. */
  reach: number;
  /** Sides of the rims, and of the openings they were joined to. */
  counts: { rim: number; opening: number }[];
  /** Faces of the body that were divided, as two rims stood on them. */
  divided: number;
}

/** Dividings of the body that are tried: two for each rim, and more where rims stand on one face. */
const DIVIDINGS = 40;
/** Two rims on one face are parted at these shares of the way between them. */
const BETWEEN = [0.36, 0.64];
/** A face that goes on beyond what a rim needs by more than this many times that is divided round the rim. */
const LONG = 1.1;
/** And where that is so on one side alone, by so many times as much. */
const ONE_SIDED = 2;
/** The lines lie a little beyond it. */
const BEYOND = 1.04;

/**
 * Joins open rims of one surface to another that they stand on, with quads alone: each rim is laid down on the body, a frame of as many
 * vertices put round it at the distance that keeps the faces between the two squarest, the faces of the body under both are opened, and
 * the ring between frame and opening filled by {@link annulus}. No line runs on over the body. Where two rims stand on one face of the
 * body, that is divided between them.
 *
 * @param body what the rims stand on
 * @param piece with open rims; flat ends count when it has none
 * @throws FormError `join/…` where a rim doesn't reach the body, or its opening isn't a simple one
 */
export function joinRims(body: PolyMesh, piece: PolyMesh, options: JoinRimsOptions): JoinedRims {
  const { mesh: open, rims } = opened(piece);
  if (rims.length === 0) throw new FormError('join/rims', 'There is no open rim and no flat end to join.');
  let ground = body;
  let divided = 0;
  for (let tries = 0; ; tries++) {
    const cast = options.castOn(ground);
    const feet = rims.map((loop) => footprint(open, loop, cast, ground, options.room)).filter((f) => f !== null);
    if (feet.length === 0)
      throw new FormError('join/apart', 'No rim faces the body: move the piece so that an end of it stands on the body, or nearly.');
    const edges = edgesOf(ground);
    const normals = faceNormals(ground);
    const openings = feet.map((foot) => openingFor(ground, edges, normals, foot));
    const wanted = tries < DIVIDINGS ? dividing(ground, edges, feet, openings) : null;
    const clash = clashing(openings.map((o) => o.faces));
    if (wanted) {
      divided += wanted.divided;
      ground = wanted.mesh;
    } else if (clash)
      throw new FormError(
        'join/shared',
        'Two rims stand on the same face of the body, and it can’t be divided between them: give the body more faces there, or move the rims apart.',
      );
    else return joined(ground, open, feet, openings, options, divided);
  }
}

type Opening = { faces: ReadonlySet<number>; outline: number[] };

/** The body divided where that helps: round a rim whose faces reach far beyond it, or between two that stand on one face; null where nothing does. */
function dividing(body: PolyMesh, edges: Edges, feet: readonly Footprint[], openings: readonly Opening[]) {
  for (const [i, foot] of feet.entries()) {
    const { faces, outline } = openings[i];
    for (const along of directions(body, foot)) {
      const reach = (list: readonly Vec3[]): [number, number] => {
        const far = list.map((p) => dot(sub(p, foot.middle), along));
        return [Math.min(...far), Math.max(...far)];
      };
      const [low, high] = reach(foot.needs.map(foot.lift));
      const [least, most] = reach(outline.map((v) => [body.positions[3 * v], body.positions[3 * v + 1], body.positions[3 * v + 2]]));
      const room = LONG * (high - low) * 0.5;
      const [before, behind] = [low - least, most - high];
      if (Math.max(before, behind) <= room) continue;
      // Round the rim where there is room on both sides; where one is near already, both lines on the other.
      const levels =
        before > room && behind > room
          ? [low * BEYOND, high * BEYOND]
          : behind > ONE_SIDED * room
            ? [high * BEYOND, high * BEYOND + behind / 3]
            : before > ONE_SIDED * room
              ? [low * BEYOND - before / 3, low * BEYOND]
              : null;
      if (!levels) continue;
      const lines = { origin: foot.middle, along, low: levels[0], high: levels[1] };
      const made = splitAcross(body, edges, faces, lines, () => false);
      if (made) return made;
    }
  }
  const clash = clashing(openings.map((o) => o.faces));
  if (!clash) return null;
  const [a, b] = clash;
  const way = sub(feet[b].middle, feet[a].middle);
  const far = Math.hypot(...way);
  const lines = { origin: feet[a].middle, along: normalise(way), low: BETWEEN[0] * far, high: BETWEEN[1] * far };
  const both = (f: number): boolean => openings[a].faces.has(f) && openings[b].faces.has(f);
  return splitAcross(body, edges, [...openings[a].faces, ...openings[b].faces], lines, both);
}

/** A triangle's normal, of length one. */
function normalOf(mesh: PolyMesh, t: number): Vec3 {
  const [a, b, c] = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]]));
  return normalise(cross(sub(b, a), sub(c, a)));
}

/** The sides of a face, each as the way along it, mm. */
function sidesOf(mesh: PolyMesh, f: number): Vec3[] {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  return Array.from({ length: to - from }, (_, k): Vec3 => {
    const [v, w] = [mesh.faceVert[from + k], mesh.faceVert[from + ((k + 1) % (to - from))]];
    return vec3((i) => mesh.positions[3 * w + i] - mesh.positions[3 * v + i]);
  });
}

/** The ways the sides of the face under a rim's middle run, the longer first. */
function directions(body: PolyMesh, foot: Footprint): Vec3[] {
  const hit = foot.land([0, 0]);
  if (!hit) return [];
  return sidesOf(body, body.triangleFace[hit.triangle])
    .slice(0, 2)
    .sort((p, q) => Math.hypot(...q) - Math.hypot(...p))
    .map(normalise);
}

/** Two openings that have a face in common. */
function clashing(faces: readonly ReadonlySet<number>[]): [number, number] | null {
  for (let a = 0; a < faces.length; a++)
    for (let b = a + 1; b < faces.length; b++) for (const f of faces[a]) if (faces[b].has(f)) return [a, b];
  return null;
}

function joined(
  body: PolyMesh,
  open: PolyMesh,
  feet: readonly Footprint[],
  openings: readonly Opening[],
  options: JoinRimsOptions,
  divided: number,
): JoinedRims {
  const merged = mergeLaid([body, open]);
  const [bodyFaces, bodyVertices] = [faceCount(body), body.positions.length / 3];
  const rework = new Rework(merged);
  for (let f = 0; f < faceCount(merged); f++) if (f >= bodyFaces || !openings.some((o) => o.faces.has(f))) rework.keep(f);
  const out: JoinedRims = { mesh: merged, joined: feet.length, quads: 0, triangles: 0, pinch: 1, reach: 1, counts: [], divided };
  for (const [i, foot] of feet.entries()) {
    const rim = foot.loop.map((v) => v + bodyVertices);
    // The rim comes down onto the body.
    for (const [k, v] of rim.entries()) rework.move(v, ...(foot.down[k] as [number, number, number]));
    bridge(rework, openings[i], foot, rim, options, out);
  }
  out.mesh = rework.build().mesh;
  return out;
}

/** A piece with its rims: its open loops, or those left when its flat ends are taken off. */
function opened(piece: PolyMesh): { mesh: PolyMesh; rims: number[][] } {
  const own = boundaryLoops(piece);
  if (own.length > 0) return { mesh: piece, rims: own };
  const ends = new Set<number>();
  const patch = piece.attributes.find((a) => a.name === 'patch' && a.domain === 'face')?.data;
  const most = Math.max(...Array.from({ length: faceCount(piece) }, (_, f) => piece.faceStart[f + 1] - piece.faceStart[f]));
  for (let f = 0; f < faceCount(piece); f++) {
    const name = patch ? piece.patches[patch[f]] : '';
    if (/\/(start|end)$/.test(name) || (!patch && most > 4 && piece.faceStart[f + 1] - piece.faceStart[f] === most)) ends.add(f);
  }
  if (ends.size === 0) return { mesh: piece, rims: [] };
  const rework = new Rework(piece);
  for (let f = 0; f < faceCount(piece); f++) if (!ends.has(f)) rework.keep(f);
  const { mesh } = rework.build();
  return { mesh, rims: boundaryLoops(mesh) };
}

/** A rim laid down on a body, and the plane it is looked at in. */
export interface Footprint {
  loop: number[];
  /** Where each vertex of the rim comes down on the body. */
  down: Vec3[];
  middle: Vec3;
  /** Out of the piece, into the body. */
  way: Vec3;
  /** Across the whole rim, mm. */
  width: number;
  /** A place in the plane across the way, mm from the middle. */
  flat(place: Vec3): Flat;
  /** The rim there. */
  rim: Flat[];
  /** The frame round it: one place for each of its own, and the worst face between. */
  frame: Frame;
  /** What has to be opened for rim and frame. */
  needs: Flat[];
  /** A place of the plane in space. */
  lift(place: Flat): Vec3;
  /** Where a place of the plane comes down on the body, and on which triangle; null beside it. */
  land(place: Flat): { point: Vec3; triangle: number } | null;
}

/** The body is opened beyond the frame by this much of its distance, and by this much of the body's own faces, so that what lies between is square. */
const [ROOM, BESIDE] = [0.4, 0.25];
/** What turns away from a rim by more than this lies round a corner: cosine. */
export const FACING = 0.2;
/** Rays are cast from this far behind a rim, in widths of it: a piece may stand a little in the body already. */
const BEHIND = 1.5;

function footprint(mesh: PolyMesh, loop: readonly number[], cast: Cast, body: PolyMesh, room?: number): Footprint | null {
  const p = loop.map((v): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]]);
  const middle = scale(p.reduce(add), 1 / p.length);
  let n: Vec3 = [0, 0, 0];
  for (const [i, a] of p.entries()) n = add(n, cross(sub(a, middle), sub(p[(i + 1) % p.length], middle)));
  // Seen from beyond, a rim turns clockwise as its faces run along it: their normal points back into the piece.
  const way = normalise(scale(n, -1));
  const width = 2 * Math.max(...p.map((a) => Math.hypot(...sub(a, middle))));
  const u = perpendicular(way);
  const w = cross(way, u);
  const flat = (a: Vec3): Flat => [dot(sub(a, middle), u), dot(sub(a, middle), w)];
  const onto = (a: Vec3): { point: Vec3; triangle: number } | null => {
    const o = sub(a, scale(way, BEHIND * width));
    const hit = cast(o, way);
    if (!hit || hit.t > (BEHIND + 1.5) * width) return null;
    return { point: add(o, scale(way, hit.t)), triangle: hit.triangle };
  };
  const landed = p.map(onto);
  const stands = landed.filter((l) => l !== null).length;
  if (stands === 0) return null;
  if (stands < p.length)
    throw new FormError(
      'join/partly',
      `A rim stands on the body with ${stands} of its ${p.length} corners only: move it so that all of it does.`,
    );
  const rim = p.map(flat);
  // How large the faces of the body are there: the shortest side of those under the rim.
  const under = new Set(landed.map((l) => body.triangleFace[(l as { triangle: number }).triangle]));
  const grain = Math.min(...[...under].map((f) => Math.min(...sidesOf(body, f).map((d) => Math.hypot(...d)))));
  const lift = ([x, y]: Flat): Vec3 => add(middle, add(scale(u, x), scale(w, y)));
  const land = (place: Flat): ReturnType<typeof onto> => onto(lift(place));
  const needed = ({ distance }: Frame): Flat[] => pushedOut(rim, distance + Math.max(ROOM * distance, BESIDE * Math.min(grain, width / 2)));
  // The body has to go on, as even as under the rim, as far as the frame needs it.
  const flush = (place: Flat): boolean => {
    const hit = land(place);
    return hit !== null && -dot(normalOf(body, hit.triangle), way) > FACING && Math.abs(dot(sub(hit.point, middle), way)) < width;
  };
  const frames = framesRound(rim, room);
  const frame = frames.find((f) => needed(f).every(flush)) ?? frames[0];
  return {
    loop: [...loop],
    down: landed.map((l) => (l as { point: Vec3 }).point),
    middle,
    way,
    width,
    flat,
    rim,
    frame,
    needs: needed(frame),
    lift,
    land,
  };
}

/** Ways to stand frame and opening to each other that are tried, those with the shortest spokes. */
const WAYS = 5;

/** Faces from a rim to its frame, and from there to the opening: each turns as the body's faces do, counter-clockwise from outside. */
function bridge(
  rework: Rework,
  { faces, outline }: Opening,
  foot: Footprint,
  rim: readonly number[],
  options: JoinRimsOptions,
  out: JoinedRims,
): void {
  const [from] = faces;
  const hole: Loop = { vertices: outline, places: outline.map((v) => rework.position(v)) };
  const same = Math.sign(turnOf(foot.rim)) === Math.sign(turnOf(hole.places.map(foot.flat)));
  const inOrder = <T>(list: readonly T[]): T[] => (same ? [...list] : [...list].reverse());
  const put = (place: Vec3): number => rework.vertex(...(place as [number, number, number]));
  const places = foot.frame.places.map((f): Vec3 => {
    const hit = foot.land(f);
    if (!hit)
      throw new FormError('join/room', `The body ends within ${millimetres(foot.frame.distance, 1)} of a rim: there is no room round it.`);
    return hit.point;
  });
  const frame: Loop = { vertices: inOrder(places.map(put)), places: inOrder(places) };
  const inner = inOrder(rim);
  const far = (a: number, b: number): number => Math.hypot(...sub(rework.position(a), rework.position(b)));
  const ratioOf = (face: readonly number[]): number => {
    const sides = face.map((v, k) => far(v, face[(k + 1) % face.length]));
    return Math.max(...sides) / Math.max(Math.min(...sides), 1e-9);
  };

  const flatOf = (v: number): Flat => foot.flat(rework.position(v));
  const ways = Array.from({ length: WAYS }, (_, choice) => {
    const made = annulus(hole, frame, put, choice);
    return { made, worst: squareUp(made.faces, made.free, flatOf, true).worst };
  });
  const { made } = ways.reduce((best, w) => (w.worst < best.worst - 1e-9 ? w : best));
  const { places: settled } = squareUp(made.faces, made.free, flatOf);
  for (const [v, to] of settled) {
    const hit = foot.land(to);
    if (hit) rework.move(v, ...(hit.point as [number, number, number]));
  }
  for (const face of made.faces) {
    if (turnOf(face.map((v) => foot.flat(rework.position(v)))) * turnOf(hole.places.map(foot.flat)) <= 0)
      throw new FormError(
        'join/crowded',
        'The faces of the body round a rim leave no room for its joint: move the rim, or give the body fewer or more sides there.',
      );
    rework.face(
      face.map(
        (vertex): NewCorner => ({
          vertex,
          uv: polar(
            foot,
            rework.position(vertex),
            face.map((v) => rework.position(v)),
          ),
        }),
      ),
      from,
      options.apron,
    );
    if (face.length === 4) out.quads++;
    else out.triangles++;
    out.reach = Math.max(out.reach, ratioOf(face));
  }
  const n = inner.length;
  for (let i = 0; i < n; i++) {
    const next = (i + 1) % n;
    const face = [frame.vertices[i], frame.vertices[next], inner[next], inner[i]];
    rework.face(
      face.map((vertex, k): NewCorner => ({ vertex, uv: [(i + (k === 1 || k === 2 ? 1 : 0)) / n, k < 2 ? 0 : 1] })),
      from,
      options.collar,
    );
    out.quads++;
    out.pinch = Math.max(out.pinch, ratioOf(face));
  }
  out.counts.push({ rim: n, opening: outline.length });
}

/** Twice the area of a loop in the plane, its sign the way it turns. */
function turnOf(loop: readonly Flat[]): number {
  let sum = 0;
  for (const [i, [x, y]] of loop.entries()) {
    const [x1, y1] = loop[(i + 1) % loop.length];
    sum += x * y1 - x1 * y;
  }
  return sum;
}

/** Coordinates in the patch round a rim: the angle as a share, seen from its middle, and how far off it is in widths; a face stays in one turn. */
function polar(foot: Footprint, place: Vec3, face: readonly Vec3[]): [number, number] {
  const angle = (p: Vec3): number => {
    const [x, y] = foot.flat(p);
    return Math.atan2(y, x) / (2 * Math.PI) + 0.5;
  };
  const first = angle(face[0]);
  const all = face.map((p) => {
    const a = angle(p);
    return a - Math.round(a - first);
  });
  const own = angle(place);
  const lift = Math.floor(Math.min(...all) + 1e-9);
  const [x, y] = foot.flat(place);
  return [(own - Math.round(own - first) - lift) / 2, Math.hypot(x, y) / foot.width];
}
