import { CORNERS } from '@wellmorph/core/photo/box';
import { inCamera, type PhotoCamera, seenFrom } from '@wellmorph/core/photo/camera';
import type { Px } from '@wellmorph/core/photo/match';
import type { Corner } from '@wellmorph/core/photo/photo';

/** What a corner of a box is called, seen along the piece’s axes. */
export const cornerName = ([x, y, z]: Corner): string => `${x ? 'right' : 'left'} ${y ? 'upper' : 'lower'} ${z ? 'front' : 'back'} corner`;

type P3 = readonly [number, number, number];

/** The edges of a box as a camera sees them; those of faces that both look away are behind. */
export function boxLines(
  box: { min: readonly number[]; max: readonly number[] },
  camera: PhotoCamera,
): { ends: [Px, Px]; behind: boolean }[] {
  const at = (k: Corner): P3 => [0, 1, 2].map((i) => (k[i] ? box.max[i] : box.min[i])) as unknown as P3;
  const outside = (axis: number, side: 0 | 1): boolean =>
    side === 1 ? camera.position[axis] > box.max[axis] : camera.position[axis] < box.min[axis];
  return CORNERS.flatMap((k) =>
    ([0, 1, 2] as const)
      .filter((axis) => k[axis] === 0)
      .flatMap((axis) => {
        const end = k.map((v, i) => (i === axis ? 1 : v)) as unknown as Corner;
        const [p, q] = [seenFrom(camera, at(k)), seenFrom(camera, at(end))];
        const behind = [0, 1, 2].filter((i) => i !== axis).every((i) => !outside(i, k[i]));
        return p && q ? [{ ends: [p, q] as [Px, Px], behind }] : [];
      }),
  );
}

/** Lines in front of the camera as it sees them. @param lines 6 numbers each, mm */
export function* wireOf(lines: Float32Array, camera: PhotoCamera): Generator<[Px, Px]> {
  for (let i = 0; i < lines.length; i += 6) {
    const p = seenFrom(camera, [lines[i], lines[i + 1], lines[i + 2]]);
    const q = seenFrom(camera, [lines[i + 3], lines[i + 4], lines[i + 5]]);
    if (p && q) yield [p, q];
  }
}

/** The horizon across the picture: where level directions go. Null where it lies nowhere near. */
export function horizonOf(camera: PhotoCamera): [Px, Px] | null {
  const { width, focalPx, middle, axes } = camera;
  // Directions (u, v, f) from the lens with nothing along the upright axis.
  const [a, b, c] = axes[1];
  if (Math.abs(b) < 0.2) return null;
  const y = (x: number) => middle[1] - (a * (x - middle[0]) + c * focalPx) / b;
  return [
    [0, y(0)],
    [width, y(width)],
  ];
}

/** How far the camera is tilted down and to its side, degrees. */
export function tiltOf(camera: PhotoCamera): { down: number; roll: number } {
  const [x, y, z] = camera.axes[1];
  return { down: (Math.asin(Math.max(-1, Math.min(1, z))) * -180) / Math.PI, roll: (Math.atan2(x, -y) * 180) / Math.PI };
}

/** How far in front of the camera a place stands, mm. */
export const depthOf = (camera: PhotoCamera, p: P3): number => inCamera(camera, p)[2];
