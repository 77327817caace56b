import { dot, type Vec3 } from '../maths/vec3';
import type { Matched, Px } from './match';

/** A photograph’s camera in the piece’s own space. Flat, so that workers can be handed it. */
export interface PhotoCamera {
  width: number;
  height: number;
  focalPx: number;
  middle: Px;
  bending: number;
  /** The piece’s axes in the camera: right, down, forward. */
  axes: readonly [Vec3, Vec3, Vec3];
  /** Where the piece’s 0, 0, 0 stands in the camera, mm. */
  origin: Vec3;
  /** Where the camera stands in the piece’s space, mm. */
  position: Vec3;
}

/** A place as the lens without its bending has it → as it lies in the picture: r (1 + k r²) turned round by Newton’s steps. */
export function bent(middle: Px, bending: number, [x, y]: Px, half: number): Px {
  if (bending === 0) return [x, y];
  const [u, v] = [(x - middle[0]) / half, (y - middle[1]) / half];
  const straight = Math.hypot(u, v);
  if (straight < 1e-12) return [x, y];
  let r = straight;
  for (let i = 0; i < 12; i++) {
    const slope = 1 + 3 * bending * r * r;
    // Beyond where the lens turns back nothing is seen.
    if (slope < 1e-3) return [Number.NaN, Number.NaN];
    r -= (r * (1 + bending * r * r) - straight) / slope;
  }
  const k = r / straight;
  return [middle[0] + k * half * u, middle[1] + k * half * v];
}

/** A camera from where a point of the piece stands in it. @param anchor that point, in the piece’s space @param at the same in the camera */
export function cameraFrom(
  m: Pick<Matched, 'focalPx' | 'middle' | 'bending' | 'axes'>,
  at: Vec3,
  anchor: Vec3,
  size: { width: number; height: number },
): PhotoCamera {
  const { axes } = m;
  const origin = [0, 1, 2].map((k) => at[k] - axes.reduce((s, a, i) => s + a[k] * anchor[i], 0)) as unknown as Vec3;
  return {
    width: size.width,
    height: size.height,
    focalPx: m.focalPx,
    middle: m.middle,
    bending: m.bending,
    axes,
    origin,
    position: axes.map((a) => -dot(a, origin)) as unknown as Vec3,
  };
}

/** A place of the piece’s space in the camera: right, down, forward, mm. */
export function inCamera({ axes, origin }: PhotoCamera, [x, y, z]: Vec3): Vec3 {
  return [0, 1, 2].map((k) => origin[k] + axes[0][k] * x + axes[1][k] * y + axes[2][k] * z) as unknown as Vec3;
}

/** Where a place of the piece appears, px; null behind the camera or where the lens shows nothing. */
export function seenFrom(camera: PhotoCamera, p: Vec3): Px | null {
  const [x, y, z] = inCamera(camera, p);
  if (!(z > 1e-9)) return null;
  const { focalPx, middle, bending, width, height } = camera;
  const at = bent(middle, bending, [middle[0] + (focalPx * x) / z, middle[1] + (focalPx * y) / z], Math.hypot(width, height) / 2);
  return Number.isFinite(at[0]) ? at : null;
}

/** A direction in the piece’s space from the camera towards a place of the picture, not unit. */
export function rayThrough({ axes, focalPx, middle, bending, width, height }: PhotoCamera, [x, y]: Px): Vec3 {
  const half = Math.hypot(width, height) / 2;
  const [u, v] = [x - middle[0], y - middle[1]];
  const k = 1 + (bending * (u * u + v * v)) / (half * half);
  const d: Vec3 = [(k * u) / focalPx, (k * v) / focalPx, 1];
  return axes.map((a) => dot(a, d)) as unknown as Vec3;
}
