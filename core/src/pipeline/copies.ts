import { anglesOf, multiply, placement } from '../maths/mat4';
import { mapVec, type Vec3 } from '../maths/vec3';
import { type AssetDocument, originalOf, type Part, sharers } from './document';

type Axis = 'x' | 'y' | 'z';
/** Where a copy of a part stands, and whether it is the other way round. */
export interface Placed {
  move: Vec3;
  turnDegrees: Vec3;
  mirror: Axis | null;
}

const tidy = (x: number): number => Math.round(x * 1e9) / 1e9 + 0;

/** A copy turned by a quarter about an axis through the piece's origin. */
export function quarterTurned(part: Pick<Part, 'move' | 'turnDegrees' | 'shape'>, axis: Axis): Placed {
  const m = multiply(
    placement(
      [0, 0, 0],
      mapVec([0, 1, 2], (k) => (k === 'xyz'.indexOf(axis) ? 90 : 0)),
    ),
    placement(part.move, part.turnDegrees),
  );
  return { move: [tidy(m[12]), tidy(m[13]), tidy(m[14])], turnDegrees: mapVec(anglesOf(m), tidy), mirror: mirrorOf(part) };
}

/**
 * A copy mirrored in the plane across an axis through the piece's origin. A turn about that axis stays, those about the others are turned
 * round; the shape itself is mirrored in its own space. Two mirrors across different axes are one across the third and a half turn.
 */
export function mirrored(part: Pick<Part, 'move' | 'turnDegrees' | 'shape'>, axis: Axis): Placed {
  const k = 'xyz'.indexOf(axis);
  const move = mapVec(part.move, (x, i) => tidy(i === k ? -x : x));
  const turnDegrees = mapVec(part.turnDegrees, (x, i) => tidy(i === k ? x : -x));
  const before = mirrorOf(part);
  if (before === null) return { move, turnDegrees, mirror: axis };
  if (before === axis) return { move, turnDegrees, mirror: null };
  // Mirrored in its own space twice, across different axes: a half turn about the third, before its own.
  const third = 3 - k - 'xyz'.indexOf(before);
  const half = placement(
    [0, 0, 0],
    mapVec([0, 1, 2], (i) => (i === third ? 180 : 0)),
  );
  const m = multiply(placement(move, turnDegrees), half);
  return { move, turnDegrees: mapVec(anglesOf(m), tidy), mirror: null };
}

const mirrorOf = (part: Pick<Part, 'shape'>): Axis | null => (part.shape.kind === 'copy' ? part.shape.mirror : null);

/** What a copy costs beside its triangles, in words. */
export function copyCost(document: AssetDocument, part: Part): string {
  const original = originalOf(document, part);
  return sharers(document)[part.id]
    ? `One draw more; its texels are those of ${original.name}.`
    : `One draw more, and texels of its own, as its material is another than that of ${original.name}.`;
}
