import { determinant3, type Mat4, transformPoint } from '../../maths/mat4';
import { add, at, cross, dot, normalise, scale, sub, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { quietAngle } from './quiet';

/** Faces seen flatter than this (the cosine, 75°) are not laid as they are seen: they would get hardly a texel. */
const SLANT = Math.cos((75 * Math.PI) / 180);
/** Past this latitude a ball’s faces are no longer laid round it: a degree there is a quarter as long as at its middle. */
const HIGHEST = (75 * Math.PI) / 180;

/** Faces mapped corner by corner, before it is known what hangs together. */
export interface Mapped {
  /** Face → which of the map’s sheets it lies on; −1 where it can’t be laid so. Faces of two sheets are cut apart. */
  sheet: Int32Array;
  /** Corner → where it lies, mm; only of mapped faces. */
  uv: Float64Array;
  /** Corners of one vertex that lie farther apart than this were torn, mm. */
  torn: number;
}

/** A mesh as maps read it. */
export interface Surface {
  mesh: PolyMesh;
  /** Per face, unit. */
  normals: ArrayLike<number>;
  /** Per face, mm. */
  centres: ArrayLike<number>;
  /** What share of the looks at each face arrives; all the same where absent. */
  looks?: ArrayLike<number>;
}

/** A camera, and how what it looks at stands before it. */
export interface Eye {
  position: Vec3;
  forward: Vec3;
  right: Vec3;
  up: Vec3;
  placement: Mat4;
}

/** What is upright where nobody said: y, and for what is seen along it −z, so that the front is below. */
export const upright = (towards: Vec3): Vec3 => (Math.abs(towards[1]) < 0.9 ? [0, 1, 0] : [0, 0, -Math.sign(towards[1])]);

const blank = ({ mesh }: Surface): Mapped => ({
  sheet: new Int32Array(mesh.faceStart.length - 1).fill(-1),
  uv: new Float64Array(2 * mesh.faceVert.length),
  torn: Infinity,
});

const cornersOf = ({ mesh }: Surface, f: number): number[] => {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  return Array.from({ length: to - from }, (_, i) => from + i);
};
const placeOf = ({ mesh }: Surface, c: number): Vec3 => at(mesh.positions, mesh.faceVert[c]);

/** Flat as seen from far away: true lengths across the direction. */
export function seenFrom(surface: Surface, faces: readonly number[], towards: Vec3, up: Vec3 = upright(towards)): Mapped {
  const out = blank(surface);
  const right = normalise(cross(up, towards));
  const above = cross(towards, right);
  for (const f of faces) {
    if (dot(at(surface.normals, f), towards) < SLANT) continue;
    out.sheet[f] = 0;
    for (const c of cornersOf(surface, f)) {
      const p = placeOf(surface, c);
      out.uv.set([dot(p, right), dot(p, above)], 2 * c);
    }
  }
  return out;
}

/** As a camera sees it where it stands, scaled and sheared as it is there; what stands there mirrored is laid the right way round. */
export function seenBy(surface: Surface, faces: readonly number[], eye: Eye): Mapped {
  const out = blank(surface);
  const side = determinant3(eye.placement) < 0 ? -1 : 1;
  for (const f of faces) {
    const corners = cornersOf(surface, f).map((c) => [c, sub(transformPoint(eye.placement, placeOf(surface, c)), eye.position)] as const);
    let [normal, middle]: [Vec3, Vec3] = [
      [0, 0, 0],
      [0, 0, 0],
    ];
    for (const [i, [, v]] of corners.entries()) {
      normal = add(normal, cross(v, corners[(i + 1) % corners.length][1]));
      middle = add(middle, v);
    }
    if (-side * dot(normalise(normal), normalise(middle)) < SLANT) continue;
    // Nothing at or behind the lens is in any picture.
    if (corners.some(([, v]) => dot(v, eye.forward) <= 1e-6)) continue;
    out.sheet[f] = 0;
    for (const [c, v] of corners) {
      const z = dot(v, eye.forward);
      out.uv.set([(side * dot(v, eye.right)) / z, dot(v, eye.up) / z], 2 * c);
    }
  }
  return out;
}

/** Each face as seen along the axis it faces most, to either side. */
export function sixSides(surface: Surface, faces: readonly number[]): Mapped {
  const out = blank(surface);
  const by: number[][] = [[], [], [], [], [], []];
  for (const f of faces) {
    const n = at(surface.normals, f);
    const k = [0, 1, 2].reduce((best, i) => (Math.abs(n[i]) > Math.abs(n[best]) + 1e-9 ? i : best), 0);
    by[2 * k + (n[k] < 0 ? 1 : 0)].push(f);
  }
  for (const [side, own] of by.entries()) {
    const towards = [0, 1, 2].map((k) => (k === side >> 1 ? (side & 1 ? -1 : 1) : 0)) as unknown as Vec3;
    const seen = seenFrom(surface, own, towards);
    for (const f of own) {
      if (seen.sheet[f] < 0) continue;
      out.sheet[f] = side;
      for (const c of cornersOf(surface, f)) out.uv.set([seen.uv[2 * c], seen.uv[2 * c + 1]], 2 * c);
    }
  }
  return out;
}

/**
 * Unrolled from a cylinder about an axis through where the normals of the faces meet best: round it by the mean distance from the axis,
 * along it as it is. Its seam is where fewest looks arrive. What faces the axis is a sheet of its own, as seen from within.
 */
export function roundCylinder(surface: Surface, faces: readonly number[], axis: Vec3): Mapped {
  const flatten = (v: Vec3): Vec3 => sub(v, scale(axis, dot(v, axis)));
  const centre = meeting(surface, faces, flatten);
  return unrolled(surface, faces, axis, centre, flatten, (p) => dot(p, axis), Infinity);
}

/** The same from a ball: longitude and latitude at their length on it. Its poles, past 75°, are left out. */
export function roundBall(surface: Surface, faces: readonly number[], axis: Vec3): Mapped {
  const centre = meeting(surface, faces, (v) => v);
  const latitude = (p: Vec3): number => {
    const v = sub(p, centre);
    return Math.asin(Math.max(-1, Math.min(1, dot(v, axis) / (Math.hypot(...v) || 1))));
  };
  return unrolled(surface, faces, axis, centre, (v) => v, latitude, HIGHEST);
}

function unrolled(
  surface: Surface,
  faces: readonly number[],
  axis: Vec3,
  centre: Vec3,
  outward: (v: Vec3) => Vec3,
  height: (p: Vec3) => number,
  highest: number,
): Mapped {
  const out = blank(surface);
  // Angles count from behind, so that a seam that could be anywhere is there.
  const back = normalise(
    sub(Math.abs(axis[2]) < 0.9 ? [0, 0, -1] : [0, -1, 0], scale(axis, Math.abs(axis[2]) < 0.9 ? -axis[2] : -axis[1])),
  );
  const side = cross(axis, back);
  const angle = (p: Vec3): number => {
    const v = sub(p, centre);
    const [x, y] = [dot(v, back), dot(v, side)];
    return x * x + y * y < 1e-18 ? Number.NaN : Math.atan2(y, x);
  };
  interface Turned {
    f: number;
    at: number;
    corners: [number, number][];
    inward: boolean;
  }
  const turned: Turned[] = [];
  let [radius, area] = [0, 0];
  for (const f of faces) {
    const middle = at(surface.centres, f);
    const out = outward(sub(middle, centre));
    const far = Math.hypot(...out);
    const here = angle(middle);
    if (!(far > 0) || Number.isNaN(here)) continue;
    const facing = dot(at(surface.normals, f), out) / far;
    if (Math.abs(facing) < SLANT) continue;
    const corners = cornersOf(surface, f).map((c): [number, number] => {
      const a = angle(placeOf(surface, c));
      return [c, Number.isNaN(a) ? here : here + wrapped(a - here)];
    });
    if (highest < Infinity && corners.some(([c]) => Math.abs(height(placeOf(surface, c))) > highest)) continue;
    turned.push({ f, at: here, corners, inward: facing < 0 });
    const own = faceArea(surface, f);
    radius += own * far;
    area += own;
  }
  radius /= area || 1;
  const seam = quietAngle(
    turned.map(({ f, corners }) => ({
      from: Math.min(...corners.map(([, a]) => a)),
      to: Math.max(...corners.map(([, a]) => a)),
      weight: faceArea(surface, f) * (0.05 + (surface.looks?.[f] ?? 1)),
    })),
  );
  for (const { f, at: here, corners, inward } of turned) {
    // Where the seam runs between faces every face lies wholly on one side of it.
    const shift = seam + positive(here - seam) - here;
    out.sheet[f] = inward ? 1 : 0;
    for (const [c, a] of corners) {
      const u = radius * (a + shift);
      const v = height(placeOf(surface, c)) * (highest < Infinity ? radius : 1);
      out.uv.set([inward ? -u : u, v], 2 * c);
    }
  }
  out.torn = 1e-3 * radius;
  return out;
}

const wrapped = (a: number): number => a - 2 * Math.PI * Math.round(a / (2 * Math.PI));
const positive = (a: number): number => a - 2 * Math.PI * Math.floor(a / (2 * Math.PI));

function faceArea({ mesh }: Surface, f: number): number {
  const from = mesh.faceStart[f];
  const o = at(mesh.positions, mesh.faceVert[from]);
  let n: Vec3 = [0, 0, 0];
  for (let c = from + 1; c + 1 < mesh.faceStart[f + 1]; c++)
    n = add(n, cross(sub(at(mesh.positions, mesh.faceVert[c]), o), sub(at(mesh.positions, mesh.faceVert[c + 1]), o)));
  return Math.hypot(...n) / 2;
}

/**
 * The point that the lines through the faces along their normals pass nearest to, by least squares weighted by area; in the space that
 * `within` leaves (across an axis, or all of it). Where lines are parallel it is as near the middle of the faces as it can be.
 */
function meeting(surface: Surface, faces: readonly number[], within: (v: Vec3) => Vec3): Vec3 {
  // Σ A (I − nnᵀ) (x − p) = 0, with a hair of Σ A (x − p) = 0.
  const m = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  const b = [0, 0, 0];
  let [middle, whole]: [Vec3, number] = [[0, 0, 0], 0];
  for (const f of faces) {
    const a = faceArea(surface, f);
    middle = add(middle, scale(at(surface.centres, f), a));
    whole += a;
  }
  middle = scale(middle, 1 / (whole || 1));
  for (const f of faces) {
    const flat = within(at(surface.normals, f));
    const l = Math.hypot(...flat);
    // What faces along the axis says nothing of where it is.
    if (l < 0.3) continue;
    const n = scale(flat, 1 / l);
    const p = within(sub(at(surface.centres, f), middle));
    const a = faceArea(surface, f);
    for (let i = 0; i < 3; i++)
      for (let j = 0; j < 3; j++) {
        const k = a * ((i === j ? 1 : 0) - n[i] * n[j]);
        m[3 * i + j] += k;
        b[i] += k * p[j];
      }
  }
  for (let i = 0; i < 3; i++) m[4 * i] += 1e-9 * (whole || 1);
  return add(middle, within(solve3(m, b)));
}

/** A symmetric positive system of three, by Cramer’s rule. */
function solve3(m: readonly number[], b: readonly number[]): Vec3 {
  const rows = [0, 1, 2].map((i) => m.slice(3 * i, 3 * i + 3) as unknown as Vec3);
  const det = dot(rows[0], cross(rows[1], rows[2]));
  if (!(Math.abs(det) > 0)) return [0, 0, 0];
  const x = scale(
    add(add(scale(cross(rows[1], rows[2]), b[0]), scale(cross(rows[2], rows[0]), b[1])), scale(cross(rows[0], rows[1]), b[2])),
    1 / det,
  );
  return x.every(Number.isFinite) ? x : [0, 0, 0];
}
