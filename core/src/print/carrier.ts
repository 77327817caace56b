import { balancedScale } from '../form/budget/chord';
import { add, at, cross, dot, length, normalise, perpendicular, scale, sub, type Vec3 } from '../maths/vec3';
import { type Edges, edgesOf, twin } from '../mesh/connectivity';
import { faceNormals, hardEdges } from '../mesh/normals';
import { faceCount, type PolyMesh } from '../mesh/polymesh';
import { Draping } from './drape';
import { type Section, sectionOf } from './section';

/** What a print lies on: a flat, a round, a cone, a wall that goes straight up over any outline; or something that can’t be unrolled. */
export type CarrierKind = 'flat' | 'round' | 'cone' | 'wall' | 'draped';

/** A place in the plane that a carrier is unrolled into, mm: x to the right, y up, as it is seen from outside. */
export type Flat = readonly [number, number];

/**
 * The stretch of surface that a print lies on. Places on it have coordinates in mm: across and up. Round a cone those are the arc at that
 * height and the way up its side, so that the same figure means the same on both.
 */
export interface Carrier {
  kind: CarrierKind;
  /** Its faces. */
  faces: readonly number[];
  /** From where to where it goes, across and up. */
  box: { low: Flat; high: Flat };
  /** Length once round, where it closes on itself, and in which of the two. */
  girth: { mm: number; axis: 0 | 1 } | null;
  /** Of a round its radius, and which of the two goes round it; of a cone there is one at each height. */
  round: { radius: number; axis: 0 | 1 } | null;
  /** The coordinates of a place of its surface. */
  coordinates(p: Vec3): Flat;
  /** Whether that is exact between corners too; else it is straight from corner to corner. */
  exact: boolean;
  /** The same as `unrolled` for every texel of a print, written to `out`; where that is exact and no plane. */
  unroller?(middle: Flat): (x: number, y: number, z: number, out: Float64Array) => void;
  /** Where a place lies when the surface is unrolled round a middle that is given in coordinates. @param vertex number of a corner’s vertex, or −1 */
  unrolled(p: Vec3, vertex: number, middle: Flat): Flat;
}

/** Edges that turn by more than this end a surface, as those marked hard do, degrees. */
const SHARP = 50;
/** Faces that turn less than this lie in one plane; normals of a round keep their angle to its axis this well. */
const [IN_PLANE, IN_CONE] = [Math.cos((0.5 * Math.PI) / 180), 0.004];
/** So many different directions round a face are tried as a round’s. */
const TRIED = 12;

/** Faces that are reached from one over edges that don’t stop, as long as they are taken. */
function grown(mesh: PolyMesh, edges: Edges, stop: Uint8Array, face: number, takes: (f: number) => boolean, most = Infinity): number[] {
  const seen = new Set([face]);
  const out = [face];
  for (const f of out) {
    if (out.length >= most) break;
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const other = twin(edges, c);
      if (other < 0 || stop[edges.ofCorner[c]]) continue;
      const g = edges.faceOf[other];
      if (seen.has(g) || !takes(g)) continue;
      seen.add(g);
      out.push(g);
    }
  }
  return out;
}

/** Vertices of faces, each once. */
export function verticesOf(mesh: PolyMesh, faces: readonly number[]): number[] {
  const out = new Set<number>();
  for (const f of faces) for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) out.add(mesh.faceVert[c]);
  return [...out];
}

/** Up on a surface that faces somewhere: up in space, and away from who looks down on what lies flat. */
function upOn(normal: Vec3): Vec3 {
  const from: Vec3 = Math.abs(normal[1]) > 0.97 ? [0, 0, normal[1] > 0 ? -1 : 1] : [0, 1, 0];
  return normalise(sub(from, scale(normal, dot(from, normal))));
}

/** A mesh with what carriers are looked for by, and those that were found last: a print that is dragged asks for the same again and again. */
interface Known {
  edges: Edges;
  stop: Uint8Array;
  normals: Float64Array;
  byFace: Map<number, { flat: Carrier; whole: Carrier | null }>;
}
const known = new WeakMap<PolyMesh, Known>();
const MOST_KNOWN = 64;

function knownOf(mesh: PolyMesh): Known {
  const there = known.get(mesh);
  if (there) return there;
  const edges = edgesOf(mesh);
  const normals = faceNormals(mesh);
  const made = { edges, normals, stop: hardEdges(mesh, { hardAngle: SHARP }, edges, normals), byFace: new Map() };
  known.set(mesh, made);
  return made;
}

/** What is asked of a carrier by what is to lie on it. */
export interface Wanted {
  /** Whether it lies on it altogether: a flat that goes on round a soft edge is left only by what is too large for it. */
  fits(carrier: Carrier): boolean;
  /** Whether it could, if it were moved. */
  holds(carrier: Carrier): boolean;
  /** How far from where it was put anything of it lies, mm. */
  reach: number;
}

/**
 * What a print lies on that was put on a face.
 *
 * @param balanced whether rounds there stand with their corners outside by as much as their flats inside @param wanted what is laid there
 */
export function carrierAt(mesh: PolyMesh, face: number, point: Vec3, balanced: boolean, wanted: Wanted): Carrier {
  const { edges, stop, normals, byFace } = knownOf(mesh);
  let found = byFace.get(face);
  if (!found) {
    const flat = flatOn(mesh, edges, stop, normals, face);
    found = { flat, whole: bentOn(mesh, edges, stop, normals, face, flat.faces.length, balanced) };
    if (byFace.size >= MOST_KNOWN) byFace.clear();
    byFace.set(face, found);
  }
  const { flat, whole } = found;
  const isRound = whole?.kind === 'round' || whole?.kind === 'cone';
  if (isRound && wanted.holds(whole)) return whole;
  if (!isRound && wanted.fits(flat)) return flat;
  if (whole && !isRound) return whole;
  // A row of a surface that bends both ways is a cone too; a flat, or a round, all by itself is what there is.
  const all = grown(mesh, edges, stop, face, () => true, faceCount(mesh));
  const alone = whole ?? flat;
  return all.length > alone.faces.length ? drapedOn(mesh, all, face, point, normals, wanted.reach) : alone;
}

/** The plane a face lies in. */
function flatOn(mesh: PolyMesh, edges: Edges, stop: Uint8Array, normals: Float64Array, face: number): Carrier {
  const n = at(normals, face);
  const faces = grown(mesh, edges, stop, face, (f) => dot(at(normals, f), n) > IN_PLANE);
  const up = upOn(n);
  const right = cross(up, n);
  const coordinates = (p: Vec3): Flat => [dot(p, right), dot(p, up)];
  return {
    kind: 'flat',
    faces,
    box: boxOf(verticesOf(mesh, faces).map((v) => coordinates(at(mesh.positions, v)))),
    girth: null,
    round: null,
    exact: true,
    coordinates,
    unrolled: (p, _, middle) => minus(coordinates(p), middle),
  };
}

const minus = (a: Flat, b: Flat): Flat => [a[0] - b[0], a[1] - b[1]];
function boxOf(places: readonly Flat[]): Carrier['box'] {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of places) {
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  }
  return { low: [x0, y0], high: [x1, y1] };
}

/** The largest round, cone or wall that a face belongs to; null where it belongs to none. @param least faces it has to have more of */
function bentOn(
  mesh: PolyMesh,
  edges: Edges,
  stop: Uint8Array,
  normals: Float64Array,
  face: number,
  least: number,
  balanced: boolean,
): Carrier | null {
  const own = at(normals, face);
  // Directions round it, of which the two on either side of it along a round say what its axis is.
  const others: Vec3[] = [];
  for (const f of grown(mesh, edges, stop, face, () => true, 240)) {
    const n = at(normals, f);
    if (length(n) < 0.5 || dot(n, own) > IN_PLANE || others.some((o) => dot(o, n) > IN_PLANE)) continue;
    others.push(n);
    if (others.length >= TRIED) break;
  }
  const axes: { axis: Vec3; along: number }[] = [];
  const propose = (axis: Vec3) => {
    const long = length(axis);
    if (long < 1e-4) return;
    const a = scale(axis, 1 / long);
    if (!axes.some((x) => Math.abs(dot(x.axis, a)) > 0.99999)) axes.push({ axis: a, along: dot(own, a) });
  };
  for (const [i, a] of others.entries()) {
    // Of two flats alone the line they meet in.
    propose(cross(own, a));
    for (const b of others.slice(0, i)) propose(cross(sub(a, own), sub(b, own)));
  }
  let best: { faces: number[]; axis: Vec3; along: number } | null = null;
  for (const { axis, along } of axes) {
    // Nearly square to the axis everything is a cone of nothing.
    if (Math.abs(along) > 0.97) continue;
    const faces = grown(mesh, edges, stop, face, (f) => Math.abs(dot(at(normals, f), axis) - along) < IN_CONE);
    if (faces.length > Math.max(least, best?.faces.length ?? 0)) best = { faces, axis, along };
  }
  if (!best) return null;
  return roundOn(mesh, normals, face, best, balanced) ?? (Math.abs(best.along) < IN_CONE ? wallOn(mesh, normals, face, best) : null);
}

/** An axis with two directions square to it, of which the first is where a round begins: the side that looks to the front. */
interface Frame {
  axis: Vec3;
  front: Vec3;
  side: Vec3;
}
/** The axis pointing up, or to where it would be read from; from outside the front lies before the viewer and `side` to the right. */
function frameOf(axis: Vec3): Frame {
  const k = [0, 1, 2].reduce((m, i) => (Math.abs(axis[i]) > Math.abs(axis[m]) + 1e-9 ? i : m), 1);
  const up = axis[k] < 0 ? scale(axis, -1) : axis;
  const before: Vec3 = Math.abs(up[2]) > 0.9 ? [0, 1, 0] : [0, 0, 1];
  const across = sub(before, scale(up, dot(before, up)));
  const front = length(across) > 1e-6 ? normalise(across) : perpendicular(up);
  return { axis: up, front, side: cross(up, front) };
}

/** Whether up on the surface runs along the axis, so that across goes round it; else the two change places. */
const standsUp = (axis: Vec3, normal: Vec3): boolean => Math.abs(dot(upOn(normal), axis)) > Math.SQRT1_2;

/** A cylinder or a cone, where the faces lie on one. */
function roundOn(
  mesh: PolyMesh,
  normals: Float64Array,
  face: number,
  { faces, axis: found, along }: { faces: readonly number[]; axis: Vec3; along: number },
  balanced: boolean,
): Carrier | null {
  const frame = frameOf(found);
  const { axis, front, side } = frame;
  const vertices = verticesOf(mesh, faces);
  const centre = centreOf(mesh, normals, faces, frame);
  if (!centre) return null;
  const polar = (p: Vec3): { h: number; r: number; angle: number } => {
    const d = sub(p, centre);
    const [x, y] = [dot(d, front), dot(d, side)];
    return { h: dot(d, axis), r: Math.hypot(x, y), angle: Math.atan2(y, x) };
  };
  const polars = vertices.map((v) => polar(at(mesh.positions, v)));
  const flats = -(dot(found, axis) > 0 ? along : -along) / Math.sqrt(1 - along * along);
  const slope = Math.abs(flats) < 0.002 ? 0 : widening(polars, flats);
  const rest = polars.map(({ h, r }) => r - slope * h);
  // Its corners lie on it; where it was cut they lie on its flats, which are nearer to the axis.
  const corners = rest.reduce((m, x) => Math.max(m, x), -Infinity);
  const widest = polars.reduce((m, { r }) => Math.max(m, r), 0);
  const facet = facetOf(mesh, normals, faces, frame);
  const sagitta = 1 - Math.cos(facet / 2);
  const slack = (0.004 + 1.2 * sagitta) * widest;
  if (!(widest > 0) || rest.some((x) => corners - x > slack)) return null;
  const { turns, closed } = turnOf(mesh, faces, polar);
  if (turns < 0.15) return null;
  const isCone = slope !== 0;
  // What it is meant to be lies between its corners and its flats, or goes through its corners.
  const scaled = balanced ? 1 / balancedScale(1, facet) : 1;
  const [base, widens] = [corners * scaled, slope * scaled];
  const upright = standsUp(axis, at(normals, face));
  const flip = (x: number, y: number): Flat => (upright ? [x, y] : lying(x, y));
  // On its side, the way round is up: as it is seen at the face that was picked.
  const rises = dot(upOn(at(normals, face)), cross(axis, at(normals, face))) > 0 ? 1 : -1;
  const lying = (x: number, y: number): Flat => [-rises * y, rises * x];
  const back = (c: Flat): Flat => (upright ? c : [rises * c[1], -rises * c[0]]);
  const radius = (h: number): number => base + widens * h;
  const slant = Math.hypot(1, widens);
  // On the inside of a wall right is the other way round.
  const own = sub(at(mesh.positions, mesh.faceVert[mesh.faceStart[face]]), centre);
  const way = dot(at(normals, face), sub(own, scale(axis, dot(own, axis)))) < 0 ? -1 : 1;
  const coordinates = (p: Vec3): Flat => {
    const { h, angle } = polar(p);
    return flip(way * angle * (isCone ? radius(h) : base), h * slant);
  };
  const unroller = (middle: Flat) => {
    const [arc, up] = back(middle);
    const h0 = up / slant;
    const r0 = isCone ? radius(h0) : base;
    const [tilt, from] = [Math.abs(widens / slant), (way * arc) / r0];
    const tip0 = isCone ? r0 / tilt : 0;
    return (x: number, y: number, z: number, out: Float64Array): void => {
      const [dx, dy, dz] = [x - centre[0], y - centre[1], z - centre[2]];
      const h = dx * axis[0] + dy * axis[1] + dz * axis[2];
      const angle = Math.atan2(dx * side[0] + dy * side[1] + dz * side[2], dx * front[0] + dy * front[1] + dz * front[2]);
      let turn = angle - from;
      turn = way * (turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI)));
      let [across, along] = [turn * base, h - h0];
      if (isCone) {
        const tip = radius(h) / tilt;
        across = tip * Math.sin(turn * tilt);
        along = Math.sign(widens) * (tip * Math.cos(turn * tilt) - tip0);
      }
      out[0] = upright ? across : -rises * along;
      out[1] = upright ? along : rises * across;
    };
  };
  const box = boxOf(vertices.map((v) => back(coordinates(at(mesh.positions, v)))));
  const about = isCone ? radius((box.low[1] + box.high[1]) / (2 * slant)) : base;
  const whole = closed ? { low: [-Math.PI * about, box.low[1]] as Flat, high: [Math.PI * about, box.high[1]] as Flat } : box;
  const [a, b] = [flip(...whole.low), flip(...whole.high)];
  return {
    kind: isCone ? 'cone' : 'round',
    faces,
    box: boxOf([a, b]),
    girth: closed ? { mm: 2 * Math.PI * about, axis: upright ? 0 : 1 } : null,
    round: isCone ? null : { radius: base, axis: upright ? 0 : 1 },
    exact: true,
    coordinates,
    unroller,
    unrolled(p, _, middle) {
      unroller(middle)(p[0], p[1], p[2], PLACE);
      return [PLACE[0], PLACE[1]];
    },
  };
}
const PLACE = new Float64Array(2);

/** How a cone widens with its height: by its corners at both ends, as its flats look a little steeper than it is. @param flats by those */
function widening(polars: readonly { h: number; r: number }[], flats: number): number {
  const low = polars.reduce((m, { h }) => Math.min(m, h), Infinity);
  const high = polars.reduce((m, { h }) => Math.max(m, h), -Infinity);
  const near = 0.01 * (high - low);
  if (!(near > 0)) return flats;
  const [a, b] = [low, high].map((end) => {
    const there = polars.filter(({ h }) => Math.abs(h - end) <= near);
    return there.reduce((m, p) => (p.r > m.r ? p : m), there[0]);
  });
  return (b.r - a.r) / (b.h - a.h);
}

/** The point that the normals of faces go out from, in the plane across the axis; null where they go out from none. */
function centreOf(mesh: PolyMesh, normals: Float64Array, faces: readonly number[], { axis, front, side }: Frame): Vec3 | null {
  let [a11, a12, a22, b1, b2, height] = [0, 0, 0, 0, 0, 0];
  for (const f of faces) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    const n = at(normals, f);
    const [nx, ny] = [dot(n, front), dot(n, side)];
    const l = Math.hypot(nx, ny) || 1;
    // A flat looks away from the axis from its own middle, wherever its corners were cut: from halfway between its outermost two across.
    const [tx, ty] = [-ny / l, nx / l];
    let [low, high, out, up] = [Infinity, -Infinity, 0, 0];
    for (let c = from; c < to; c++) {
      const p = at(mesh.positions, mesh.faceVert[c]);
      const t = tx * dot(p, front) + ty * dot(p, side);
      [low, high] = [Math.min(low, t), Math.max(high, t)];
      out += ((nx / l) * dot(p, front) + (ny / l) * dot(p, side)) / (to - from);
      up += dot(p, axis) / (to - from);
    }
    const t = (low + high) / 2;
    const [px, py] = [t * tx + out * (nx / l), t * ty + out * (ny / l)];
    const weight = high - low;
    // Square to the line along its normal.
    a11 += weight * tx * tx;
    a12 += weight * tx * ty;
    a22 += weight * ty * ty;
    const d = tx * px + ty * py;
    b1 += weight * tx * d;
    b2 += weight * ty * d;
    height += up / faces.length;
  }
  const det = a11 * a22 - a12 * a12;
  if (Math.abs(det) < 1e-9 * (a11 + a22) ** 2) return null;
  const [x, y] = [(a22 * b1 - a12 * b2) / det, (a11 * b2 - a12 * b1) / det];
  return add(add(scale(front, x), scale(side, y)), scale(axis, height));
}

/** The largest turn from one flat of a round to the next, radians. */
function facetOf(mesh: PolyMesh, normals: Float64Array, faces: readonly number[], { front, side }: Frame): number {
  const edges = edgesOf(mesh);
  const mine = new Set(faces);
  let widest = 0;
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const other = twin(edges, c);
      if (other < 0 || !mine.has(edges.faceOf[other])) continue;
      const [a, b] = [at(normals, f), at(normals, edges.faceOf[other])];
      const [ax, ay, bx, by] = [dot(a, front), dot(a, side), dot(b, front), dot(b, side)];
      widest = Math.max(widest, Math.abs(Math.atan2(ax * by - ay * bx, ax * bx + ay * by)));
    }
  return widest;
}

/** How far faces go round an axis, radians, and whether they close. */
function turnOf(mesh: PolyMesh, faces: readonly number[], polar: (p: Vec3) => { angle: number }): { turns: number; closed: boolean } {
  const BINS = 720;
  const taken = new Uint8Array(BINS);
  for (const f of faces) {
    const angles = Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => {
      return polar(at(mesh.positions, mesh.faceVert[mesh.faceStart[f] + i])).angle;
    });
    const rel = angles.map((a) => a - angles[0] - 2 * Math.PI * Math.round((a - angles[0]) / (2 * Math.PI)));
    const [low, high] = [angles[0] + Math.min(...rel), angles[0] + Math.max(...rel)];
    const [from, to] = [low, high].map((a) => Math.floor((a / (2 * Math.PI)) * BINS));
    for (let i = from; i <= to; i++) taken[((i % BINS) + BINS) % BINS] = 1;
  }
  const filled = taken.reduce((n, x) => n + x, 0);
  return { turns: (filled / BINS) * 2 * Math.PI, closed: filled === BINS };
}

/** Faces that all stand along one axis, over any outline that is a line or a ring. */
function wallOn(
  mesh: PolyMesh,
  normals: Float64Array,
  face: number,
  { faces, axis: found }: { faces: readonly number[]; axis: Vec3 },
): Carrier | null {
  const { axis, front, side } = frameOf(found);
  const section: Section | null = sectionOf(mesh, faces, normals, front, side);
  if (!section) return null;
  const upright = standsUp(axis, at(normals, face));
  const rises = dot(upOn(at(normals, face)), cross(axis, at(normals, face))) > 0 ? 1 : -1;
  const flip = (x: number, y: number): Flat => (upright ? [x, y] : [-rises * y, rises * x]);
  const back = (c: Flat): Flat => (upright ? c : [rises * c[1], -rises * c[0]]);
  const raw = (p: Vec3): Flat => [section.along(dot(p, front), dot(p, side)), dot(p, axis)];
  const heights = boxOf(verticesOf(mesh, faces).map((v) => [0, dot(at(mesh.positions, v), axis)]));
  const [low, high] = section.closed ? [-section.length / 2, section.length / 2] : [0, section.length];
  return {
    kind: 'wall',
    faces,
    box: boxOf([flip(low, heights.low[1]), flip(high, heights.high[1])]),
    girth: section.closed ? { mm: section.length, axis: upright ? 0 : 1 } : null,
    round: null,
    exact: false,
    coordinates: (p) => flip(...raw(p)),
    unrolled(p, _, middle) {
      const [s, h] = raw(p);
      const [s0, h0] = back(middle);
      let d = s - s0;
      if (section.closed) d -= section.length * Math.round(d / section.length);
      return flip(d, h - h0);
    },
  };
}

/** Whatever else is soft round a face, laid flat from the point that was picked. */
function drapedOn(mesh: PolyMesh, faces: readonly number[], face: number, point: Vec3, normals: Float64Array, reach: number): Carrier {
  const draping = new Draping(mesh, faces, face, point, upOn(at(normals, face)), reach);
  const placed = verticesOf(mesh, faces).map((v) => draping.of(v));
  const box = boxOf(placed.filter((p) => Number.isFinite(p[0])));
  return {
    kind: 'draped',
    faces,
    box,
    girth: null,
    round: null,
    exact: false,
    // Only where it was put is its own place known without a corner.
    coordinates: (p) => draping.at(p),
    unrolled: (p, vertex, middle) => minus(vertex >= 0 ? draping.of(vertex) : draping.at(p), middle),
  };
}
