import { StageError } from '../errors';
import type { Tone } from '../light/tone';
import { add, cross, dot, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import type { PhotoCamera } from '../photo/camera';
import { apertureFor, depthOfField, F_STOPS, type FocusRange, focusBetween, magnification } from './lens';

/** One picture's camera, as chosen. Angles in degrees, lengths in mm. */
export interface Shot {
  name: string;
  /** Round the piece, 0 from +z, and above the horizontal. */
  azimuth: number;
  elevation: number;
  lensMm: number;
  sensorHeightMm: number;
  widthPx: number;
  heightPx: number;
  /** Empty share of the picture round the piece. */
  margin: number;
  /** Share of the piece's depth, from its nearest point on, that should be sharp. */
  sharpShare: number;
  /** A fixed f-number, or null to have it solved. */
  aperture: number | null;
  seconds: number;
  iso: number;
  tone: Tone;
  locked: boolean;
  /** The photograph it is seen through and stands in, by its id; framed for the piece when absent. */
  photo?: string;
}

/** What of a shot decides where its camera stands. */
export type Framing = Pick<Shot, 'azimuth' | 'elevation' | 'lensMm' | 'sensorHeightMm' | 'widthPx' | 'heightPx' | 'margin' | 'sharpShare'>;

export const framingOf = (s: Framing): Framing => ({
  azimuth: s.azimuth,
  elevation: s.elevation,
  lensMm: s.lensMm,
  sensorHeightMm: s.sensorHeightMm,
  widthPx: s.widthPx,
  heightPx: s.heightPx,
  margin: s.margin,
  sharpShare: s.sharpShare,
});

export const SHOT_DEFAULTS: Shot = {
  name: 'Hero',
  azimuth: 32,
  elevation: 14,
  lensMm: 90,
  sensorHeightMm: 24,
  widthPx: 960,
  heightPx: 1200,
  margin: 0.08,
  sharpShare: 1,
  aperture: null,
  seconds: 0.25,
  iso: 100,
  tone: 'neutral',
  locked: false,
};

/** A camera in its place. `forward`, `right`, `up` are unit; distances along `forward`, mm. */
export interface Camera {
  position: Vec3;
  forward: Vec3;
  right: Vec3;
  up: Vec3;
  /** Half of what it sees, per unit of distance. */
  tanX: number;
  tanY: number;
  focus: number;
  /** Radius of the lens opening, mm; 0 for a pinhole. */
  lensRadius: number;
  /** Where the middle of the picture lies beside where the lens looks, per unit of distance, to the right and up; nowhere when absent. */
  shiftX?: number;
  shiftY?: number;
}

/** A shot at the piece’s real size: where the camera stands and what is sharp. Lengths in mm. */
export interface SolvedShot {
  camera: Camera;
  /** From the lens to the piece's nearest and farthest point, mm. */
  nearest: number;
  farthest: number;
  focus: FocusRange & { at: number };
  aperture: number;
  /** Whether the f-number was solved, and what it would exactly be. */
  solved: number;
  /** Circle of confusion used: one pixel of the picture, mm on the sensor. */
  circleMm: number;
  magnification: number;
  /** The lens, mm. */
  lensMm: number;
  /** Share of the picture's width and height that the piece takes. */
  fill: [number, number];
  /** How much larger a thing at the piece's near end looks than the same at its far end. */
  perspective: number;
}

/** Directions of a camera on its sphere round the piece. */
export function viewOf(azimuth: number, elevation: number): { forward: Vec3; right: Vec3; up: Vec3 } {
  const a = (azimuth * Math.PI) / 180;
  const e = (elevation * Math.PI) / 180;
  const out: Vec3 = [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)];
  const forward = scale(out, -1);
  const right = normalise(cross(forward, [0, 1, 0]));
  return { forward, right, up: cross(right, forward) };
}

/**
 * Places the camera so that the piece, all of its vertices, fills the picture but for the margin, centred: along a given
 * direction the distance is found by bisection on the projected outline, the aim by centring that outline at each step.
 *
 * @param points 3 per vertex, mm
 */
export function solveShot(shot: Shot, points: ArrayLike<number>): SolvedShot {
  const { forward, right, up } = viewOf(shot.azimuth, shot.elevation);
  const n = points.length / 3;
  const own = new Float64Array(3 * n);
  let [near, far] = [Infinity, -Infinity];
  for (let i = 0; i < n; i++) {
    const p: Vec3 = [points[3 * i], points[3 * i + 1], points[3 * i + 2]];
    own[3 * i] = dot(p, right);
    own[3 * i + 1] = dot(p, up);
    own[3 * i + 2] = dot(p, forward);
    near = Math.min(near, own[3 * i + 2]);
    far = Math.max(far, own[3 * i + 2]);
  }
  const width = (shot.sensorHeightMm * shot.widthPx) / shot.heightPx;
  const inner = 1 - 2 * shot.margin;
  // Outline in tangents, for a camera `d` in front of the nearest point.
  const outline = (d: number, x: number, y: number) => {
    const b = [Infinity, -Infinity, Infinity, -Infinity];
    for (let i = 0; i < n; i++) {
      const z = own[3 * i + 2] - near + d;
      const [tx, ty] = [(own[3 * i] - x) / z, (own[3 * i + 1] - y) / z];
      if (tx < b[0]) b[0] = tx;
      if (tx > b[1]) b[1] = tx;
      if (ty < b[2]) b[2] = ty;
      if (ty > b[3]) b[3] = ty;
    }
    return b;
  };
  const tangents = (d: number): [number, number] => {
    const focus = focusDistance(shot, d, d + far - near);
    const k = (focus - shot.lensMm) / (2 * shot.lensMm * focus);
    return [width * k, shot.sensorHeightMm * k];
  };
  const place = (d: number) => {
    let [x, y] = [0, 0];
    let b = outline(d, x, y);
    for (let k = 0; k < 12; k++) {
      const z = d + (far - near) / 2;
      x += ((b[0] + b[1]) / 2) * z;
      y += ((b[2] + b[3]) / 2) * z;
      b = outline(d, x, y);
    }
    return { x, y, b };
  };
  const size = Math.max(1e-3, far - near);
  let [low, high] = [shot.lensMm * 1.05, Math.max(shot.lensMm * 4, size)];
  const fits = (d: number) => {
    const { b } = place(d);
    const [tx, ty] = tangents(d);
    return b[1] - b[0] <= 2 * tx * inner && b[3] - b[2] <= 2 * ty * inner;
  };
  while (!fits(high) && high < 1e8) high *= 2;
  for (let k = 0; k < 48; k++) {
    const middle = (low + high) / 2;
    if (fits(middle)) high = middle;
    else low = middle;
  }
  const d = high;
  const { x, y, b } = place(d);
  const [tanX, tanY] = tangents(d);
  const at = focusDistance(shot, d, d + far - near);
  const circleMm = shot.sensorHeightMm / shot.heightPx;
  const wantedFar = d + Math.max(1e-6, (far - near) * shot.sharpShare);
  const solved = apertureFor(shot.lensMm, circleMm, d, wantedFar);
  const aperture = shot.aperture ?? nextStop(solved);
  const position = add(add(scale(right, x), scale(up, y)), scale(forward, near - d));
  return {
    camera: { position, forward, right, up, tanX, tanY, focus: at, lensRadius: shot.lensMm / aperture / 2 },
    nearest: d,
    farthest: d + far - near,
    focus: { ...depthOfField(shot.lensMm, aperture, circleMm, at), at },
    aperture,
    solved,
    circleMm,
    magnification: magnification(shot.lensMm, at),
    lensMm: shot.lensMm,
    fill: [(b[1] - b[0]) / (2 * tanX), (b[3] - b[2]) / (2 * tanY)],
    perspective: (d + far - near) / d,
  };
}

/**
 * A shot through the camera of a photograph, sharp all over: how far its lens was open isn’t known. Lines are straight, whatever the lens bent.
 *
 * @param points 3 per vertex, mm
 * @throws StageError where the piece isn’t in front of it, or the picture has another shape
 */
export function photographedShot(shot: Shot, seen: PhotoCamera, points: ArrayLike<number>): SolvedShot {
  if (Math.abs((shot.widthPx * seen.height) / (shot.heightPx * seen.width) - 1) > 0.01)
    throw new StageError(
      'light/photo-shape',
      `The picture is ${shot.widthPx} × ${shot.heightPx} px and the photograph it stands in ${seen.width} × ${seen.height}: they have to be of one shape.`,
    );
  const row = (k: 0 | 1 | 2): Vec3 => [seen.axes[0][k], seen.axes[1][k], seen.axes[2][k]];
  const [right, down, forward] = [row(0), row(1), row(2)];
  const camera: Camera = {
    position: seen.position,
    forward,
    right,
    up: scale(down, -1),
    tanX: seen.width / 2 / seen.focalPx,
    tanY: seen.height / 2 / seen.focalPx,
    focus: 1,
    lensRadius: 0,
    shiftX: (seen.width / 2 - seen.middle[0]) / seen.focalPx,
    shiftY: (seen.middle[1] - seen.height / 2) / seen.focalPx,
  };
  const b = [Infinity, -Infinity, Infinity, -Infinity];
  let [nearest, farthest] = [Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 3) {
    const v = sub([points[i], points[i + 1], points[i + 2]], seen.position);
    const z = dot(v, forward);
    nearest = Math.min(nearest, z);
    farthest = Math.max(farthest, z);
    const [x, y] = [dot(v, right) / z, dot(v, down) / z];
    b[0] = Math.min(b[0], x);
    b[1] = Math.max(b[1], x);
    b[2] = Math.min(b[2], y);
    b[3] = Math.max(b[3], y);
  }
  if (!(nearest > 0))
    throw new StageError('light/photo-place', 'Part of the piece stands behind the camera of the photograph: it can’t be seen through it.');
  const lensMm = (seen.focalPx * shot.sensorHeightMm) / seen.height;
  const circleMm = shot.sensorHeightMm / shot.heightPx;
  const at = focusBetween(nearest, farthest);
  const solved = apertureFor(lensMm, circleMm, nearest, nearest + Math.max(1e-6, (farthest - nearest) * shot.sharpShare));
  const aperture = shot.aperture ?? nextStop(solved);
  return {
    camera: { ...camera, focus: at },
    nearest,
    farthest,
    focus: { ...depthOfField(lensMm, aperture, circleMm, at), at },
    aperture,
    solved,
    circleMm,
    magnification: magnification(lensMm, at),
    lensMm,
    fill: [(b[1] - b[0]) / (2 * camera.tanX), (b[3] - b[2]) / (2 * camera.tanY)],
    perspective: farthest / nearest,
  };
}

/** How far round the piece a camera stands, degrees from its front. */
export const azimuthOf = ({ forward }: Pick<Camera, 'forward'>): number => (Math.atan2(-forward[0], -forward[2]) * 180) / Math.PI;

/** The next whole stop that is dark enough. */
export const nextStop = (aperture: number): number => F_STOPS.find((f) => f >= aperture - 1e-9) ?? F_STOPS[F_STOPS.length - 1];

const focusDistance = (shot: Shot, near: number, far: number): number =>
  focusBetween(near, near + Math.max(1e-6, (far - near) * shot.sharpShare));

/** Where a point falls in the picture, px from the top left. */
export function project(camera: Camera, p: Vec3, width: number, height: number): [number, number] {
  const v = sub(p, camera.position);
  const z = dot(v, camera.forward);
  const x = dot(v, camera.right) / z - (camera.shiftX ?? 0);
  const y = dot(v, camera.up) / z - (camera.shiftY ?? 0);
  return [(0.5 + x / (2 * camera.tanX)) * width, (0.5 - y / (2 * camera.tanY)) * height];
}
