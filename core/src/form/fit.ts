import { FormError } from '../errors';
import { type Mat4, multiply, rotation, transformDirection, transformPoint, translation } from '../maths/mat4';
import { add, at, cross, dot, normalise, perpendicular, scale, sub, type Vec3 } from '../maths/vec3';
import { triangleArea } from '../mesh/measures';
import { faceNormals } from '../mesh/normals';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { facesFrom } from './select';

/** A face of a part as it stands, and what it is a piece of. */
export interface Picked {
  /** The place that was clicked. */
  point: Vec3;
  normal: Vec3;
  /** The middle of the flat it belongs to. */
  middle: Vec3;
  /** The axis of the round it belongs to; null where it is flat, or round about none. */
  axis: { through: Vec3; along: Vec3; radius: number } | null;
}

/** How a face is set against another. */
export type Fit = 'face to face' | 'centred' | 'flush' | 'concentric';

/** Faces of one flat turn by less than this, those of one round by less than the second, degrees. */
const [FLAT, ROUND] = [0.5, 32];
/** Normals of a round lie in a plane this well, and go round at least so far: cosines. */
const [IN_PLANE, AROUND] = [0.05, 0.9];

/**
 * What a face belongs to: the flat round it, and the axis of the round.
 *
 * @param place where the part's copy stands
 */
export function pickedFace(mesh: PolyMesh, face: number, point: Vec3, place: Mat4): Picked {
  const normals = faceNormals(mesh);
  const n: Vec3 = [normals[3 * face], normals[3 * face + 1], normals[3 * face + 2]];
  const flat = new Set(facesFrom(mesh, face, 'spread', FLAT));
  let [middle, area] = [[0, 0, 0] as Vec3, 0];
  for (let t = 0; t < triangleCount(mesh); t++) {
    if (!flat.has(mesh.triangleFace[t])) continue;
    const size = triangleArea(mesh, t);
    const centre = scale(
      [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]])).reduce((s, p) => add(s, p)),
      1 / 3,
    );
    middle = add(middle, scale(centre, size));
    area += size;
  }
  const axis = axisOf(mesh, normals, facesFrom(mesh, face, 'spread', ROUND));
  return {
    point: transformPoint(place, point),
    normal: normalise(transformDirection(place, n)),
    middle: transformPoint(place, area > 0 ? scale(middle, 1 / area) : point),
    axis: axis && {
      through: transformPoint(place, axis.through),
      along: normalise(transformDirection(place, axis.along)),
      radius: axis.radius,
    },
  };
}

/** The axis that faces go round: square to all their normals; through it all of them look at. */
function axisOf(mesh: PolyMesh, normals: Float64Array, faces: readonly number[]): Picked['axis'] {
  if (faces.length < 3) return null;
  const list = faces.map((f): Vec3 => [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]]);
  // Of all crossings of two normals the longest is the best known.
  let along: Vec3 = [0, 0, 0];
  for (const a of list)
    for (const b of [list[0], list[list.length >> 1]]) {
      const c = cross(a, b);
      if (Math.hypot(...c) > Math.hypot(...along)) along = c;
    }
  if (Math.hypot(...along) < 1 - AROUND) return null;
  along = normalise(along);
  if (list.some((m) => Math.abs(dot(m, along)) > IN_PLANE)) return null;
  // The point of the plane across the axis that lies nearest to all lines along the normals.
  const [u, w] = [perpendicular(along), cross(along, perpendicular(along))];
  let [a11, a12, a22, b1, b2] = [0, 0, 0, 0, 0];
  const centres = faces.map((f) => {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let c: Vec3 = [0, 0, 0];
    for (let i = from; i < to; i++) c = add(c, scale(at(mesh.positions, mesh.faceVert[i]), 1 / (to - from)));
    return c;
  });
  for (const [i, m] of list.entries()) {
    const [x, y] = [dot(m, u), dot(m, w)];
    const [px, py] = [dot(centres[i], u), dot(centres[i], w)];
    const [s11, s12, s22] = [1 - x * x, -x * y, 1 - y * y];
    a11 += s11;
    a12 += s12;
    a22 += s22;
    b1 += s11 * px + s12 * py;
    b2 += s12 * px + s22 * py;
  }
  const det = a11 * a22 - a12 * a12;
  if (Math.abs(det) < 1e-9) return null;
  const [x, y] = [(a22 * b1 - a12 * b2) / det, (a11 * b2 - a12 * b1) / det];
  const height = centres.reduce((s, c) => s + dot(c, along), 0) / centres.length;
  const through = add(add(scale(u, x), scale(w, y)), scale(along, height));
  const radius = centres.reduce((s, c) => s + Math.hypot(dot(sub(c, through), u), dot(sub(c, through), w)), 0) / centres.length;
  return { through, along, radius };
}

/** The least turn that brings one direction onto another. */
function turned(from: Vec3, to: Vec3): Mat4 {
  const axis = cross(from, to);
  const size = Math.hypot(...axis);
  const angle = Math.atan2(size, dot(from, to));
  if (size < 1e-12) return rotation(perpendicular(from), dot(from, to) > 0 ? 0 : Math.PI);
  return rotation(scale(axis, 1 / size), angle);
}

/**
 * What moves a part so that a face of it fits one of another part.
 *
 * - *face to face*: the two look at each other, their middles over each other, apart by the offset
 * - *centred*: its middle comes over the other's middle, seen square to the other face; it keeps its height over it and turns nowhere
 * - *flush*: both look the same way and lie in one plane; along it nothing moves
 * - *concentric*: both axes are one; along it nothing moves but by the offset
 *
 * @throws FormError in one sentence where a face has no axis
 */
export function fitted(own: Picked, other: Picked, how: Fit, offset: number): Mat4 {
  const about = (p: Vec3, turn: Mat4): Mat4 => multiply(translation(p), multiply(turn, translation(scale(p, -1))));
  if (how === 'concentric') {
    if (!own.axis || !other.axis)
      throw new FormError(
        'fit/axis',
        `The ${own.axis ? 'second' : 'first'} face that was picked is not round: concentric needs two rounds.`,
      );
    const along = dot(own.axis.along, other.axis.along) < 0 ? scale(other.axis.along, -1) : other.axis.along;
    const turn = about(own.axis.through, turned(own.axis.along, along));
    const off = sub(other.axis.through, own.axis.through);
    // Only across the axis.
    const across = sub(off, scale(along, dot(off, along)));
    return multiply(translation(add(across, scale(along, offset))), turn);
  }
  if (how === 'centred') {
    const off = sub(other.middle, own.middle);
    const up = dot(off, other.normal);
    return translation(add(sub(off, scale(other.normal, up)), scale(other.normal, offset)));
  }
  if (how === 'flush') {
    const turn = about(own.middle, turned(own.normal, other.normal));
    return multiply(translation(scale(other.normal, dot(sub(other.middle, own.middle), other.normal) + offset)), turn);
  }
  const turn = about(own.middle, turned(own.normal, scale(other.normal, -1)));
  return multiply(translation(add(sub(other.middle, own.middle), scale(other.normal, offset))), turn);
}
