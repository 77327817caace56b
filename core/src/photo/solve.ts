import { InputError } from '../errors';
import type { Vec3 } from '../maths/vec3';
import type { Bounds } from '../mesh/measures';
import { bundlesWith, type StoodBox, standBox } from './box';
import { cameraFrom, type PhotoCamera } from './camera';
import { type Bundle, type Matched, type MatchOptions, matchCamera, offDirection, type Px, towards } from './match';
import { focalFromFile, type Photo } from './photo';

/** Edges of a photograph by the axis they run along. */
const bundlesOf = ({ edges }: Photo): Bundle[] =>
  ([0, 1, 2] as const)
    .filter((axis) => edges.some((e) => e.axis === axis))
    .map((axis) => ({ axis, edges: edges.filter((e) => e.axis === axis) }));

const optionsOf = (photo: Photo): MatchOptions => {
  const focalPx = photo.lensHeld ? (focalFromFile(photo) ?? undefined) : undefined;
  if (photo.lensHeld && focalPx === undefined)
    throw new InputError('photo/lens', 'The file doesn’t say which lens it was; give the width of the sensor, or let the edges say it.');
  return { width: photo.widthPx, height: photo.heightPx, focalPx, cropped: photo.cropped, bends: photo.bends };
};

/** How the camera is turned and what its lens is, before anything stands in the picture. @throws InputError in one sentence */
export function matchPhoto(photo: Photo): Matched {
  return matchCamera(bundlesWith(bundlesOf(photo), photo.pins), optionsOf(photo));
}

/** What the picture says of the sizes of a box of which one is known. @throws InputError in one sentence */
export function sizesFromPhoto(photo: Photo, known: { axis: 0 | 1 | 2; mm: number }): StoodBox {
  return standBox(
    bundlesOf(photo),
    photo.pins,
    [0, 1, 2].map((k) => (k === known.axis ? known.mm : null)),
    optionsOf(photo),
  );
}

/** The camera of a photograph in the piece’s space, and what it misses by. */
export interface SolvedPhoto {
  stood: StoodBox;
  camera: PhotoCamera;
  /** How far each edge misses its direction, px, in the order they were drawn. */
  edgesPx: number[];
  /** How sure the place is, along each of the piece’s axes, mm. */
  offMm: Vec3;
}

/** Where a photograph was taken from, by a box of the piece whose corners appear in it. @throws InputError in one sentence */
export function solvePhoto(photo: Photo, { min, max }: Bounds): SolvedPhoto {
  const size = { width: photo.widthPx, height: photo.heightPx };
  const stood = standBox(
    bundlesOf(photo),
    photo.pins,
    [0, 1, 2].map((k) => max[k] - min[k]),
    optionsOf(photo),
  );
  const camera = cameraFrom(stood.matched, stood.at, min, size);
  return { stood, camera, edgesPx: edgesOff(photo, stood.matched), offMm: turnedOff(stood) };
}

/** How far each edge misses the direction of its axis, px. */
export function edgesOff(photo: Photo, m: Matched): number[] {
  const size = { width: photo.widthPx, height: photo.heightPx };
  return photo.edges.map(({ axis, points }) => {
    const straight = points.map((p): Px => {
      const [x, y] = towards(m, p, size);
      return [m.focalPx * x, m.focalPx * y];
    });
    const off = offDirection(straight, m.axes[axis], m.focalPx);
    return Math.sqrt(off.reduce((n, x) => n + x * x, 0) / off.length);
  });
}

/** Deviations along the camera’s axes as along the piece’s. */
function turnedOff({ matched, atOffMm }: StoodBox): Vec3 {
  return matched.axes.map((a) => Math.hypot(a[0] * atOffMm[0], a[1] * atOffMm[1], a[2] * atOffMm[2])) as unknown as Vec3;
}
