import type { Vec3 } from '../maths/vec3';
import { makeMesh, type PolyMesh } from '../mesh/polymesh';
import type { Subject } from './rig';

/** Facets of the sweep's curve. */
const ARC = 20;

/**
 * A swept backdrop: floor under the piece, a quarter turn behind it, a wall; one sheet, upright towards the camera. Sized
 * from the piece: the floor reaches past the camera's view in front, the curve begins two radii behind.
 *
 * @param azimuth of the camera, degrees
 */
export function backdrop(subject: Subject, azimuth: number): PolyMesh {
  const { radius: r, centre, floor } = subject;
  const bend = 3 * r;
  const behind = 2.2 * r;
  const half = 16 * r;
  const profile: [along: number, up: number][] = [[-14 * r, 0]];
  for (let i = 0; i <= ARC; i++) {
    const a = (Math.PI / 2) * (i / ARC);
    profile.push([behind + bend * Math.sin(a), bend * (1 - Math.cos(a))]);
  }
  profile.push([behind + bend, 14 * r]);
  const t = (azimuth * Math.PI) / 180;
  // Away from the camera, and to its right.
  const away: Vec3 = [-Math.sin(t), 0, -Math.cos(t)];
  const right: Vec3 = [Math.cos(t), 0, -Math.sin(t)];
  const positions: number[] = [];
  for (const [along, up] of profile)
    for (const side of [-half, half])
      positions.push(centre[0] + away[0] * along + right[0] * side, floor + up - 1e-3, centre[2] + away[2] * along + right[2] * side);
  const faceVert: number[] = [];
  for (let i = 0; i + 1 < profile.length; i++) faceVert.push(2 * i, 2 * i + 1, 2 * i + 3, 2 * i + 2);
  return makeMesh({ positions, faceStart: Uint32Array.from({ length: profile.length }, (_, i) => 4 * i), faceVert });
}
