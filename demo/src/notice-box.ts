import { random } from '@wellmorph/core/maths/random';
import { CORNERS } from '@wellmorph/core/photo/box';
import { cameraFrom, type PhotoCamera, seenFrom } from '@wellmorph/core/photo/camera';
import { type Px, turned } from '@wellmorph/core/photo/match';
import type { Corner, Photo } from '@wellmorph/core/photo/photo';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { part, piece, step } from './written';

/** The notice box as it stands at the lighthouse, mm: what the photographs were drawn from. */
export const NOTICE_BOX: readonly [number, number, number] = [640, 480, 220];
export const PHOTO_SIZE = { width: 2400, height: 1600 };
/** The lens that the photographs were drawn with, mm, on a sensor 36 mm wide. */
export const LENS_MM = 28;
export const SENSOR_MM = 36;

/** A photograph of the box as it was drawn: where from, degrees and mm, and how bright. */
export interface Taken {
  file: string;
  name: string;
  azimuth: number;
  elevation: number;
  roll: number;
  distanceMm: number;
  /** How many times as bright as the first. */
  exposure: number;
}
export const TAKEN: readonly Taken[] = [
  {
    file: 'notice-box-right.jpg',
    name: 'Notice box, from the right',
    azimuth: 37,
    elevation: 19,
    roll: 1.4,
    distanceMm: 1080,
    exposure: 1,
  },
  {
    file: 'notice-box-left.jpg',
    name: 'Notice box, from the left',
    azimuth: -42,
    elevation: 24,
    roll: -0.8,
    distanceMm: 1150,
    exposure: 0.72,
  },
];

/** The camera a photograph was drawn with. */
export function cameraTaken({ azimuth, elevation, roll, distanceMm }: Taken): PhotoCamera {
  const rad = Math.PI / 180;
  // Upright: x to the right, y up, z towards whoever looks; then round the box, above it, and tilted a little.
  const axes = (
    [
      [1, 0, 0],
      [0, -1, 0],
      [0, 0, -1],
    ] as const
  ).map((v) => turned(turned(turned(v, [0, azimuth * rad, 0]), [elevation * rad, 0, 0]), [0, 0, roll * rad]));
  return cameraFrom(
    {
      focalPx: (PHOTO_SIZE.width * LENS_MM) / SENSOR_MM,
      middle: [PHOTO_SIZE.width / 2, PHOTO_SIZE.height / 2],
      bending: 0,
      axes: [axes[0], axes[1], axes[2]],
    },
    [0, 0, distanceMm],
    [0, NOTICE_BOX[1] * 0.46, 0],
    PHOTO_SIZE,
  );
}

/** The notice box stands with its middle over the origin. */
export const NOTICE_BOUNDS = {
  min: [-NOTICE_BOX[0] / 2, 0, -NOTICE_BOX[2] / 2],
  max: [NOTICE_BOX[0] / 2, NOTICE_BOX[1], NOTICE_BOX[2] / 2],
} as const;

/** Edges and corners of the box that can be seen in a photograph, where its camera has them. */
export function seenOn(taken: Taken): { edges: { axis: 0 | 1 | 2; ends: [Px, Px] }[]; corners: { corner: Corner; at: Px }[] } {
  const camera = cameraTaken(taken);
  const { min, max } = NOTICE_BOUNDS;
  const outside = (axis: number, side: number) => (side ? camera.position[axis] > max[axis] : camera.position[axis] < min[axis]);
  const at = (k: Corner) => seenFrom(camera, [k[0] ? max[0] : min[0], k[1] ? max[1] : min[1], k[2] ? max[2] : min[2]]) as Px;
  const axes = [0, 1, 2] as const;
  return {
    edges: CORNERS.flatMap((k) =>
      axes
        .filter((axis) => k[axis] === 0 && axes.some((i) => i !== axis && outside(i, k[i])))
        .map((axis) => ({ axis, ends: [at(k), at(k.map((v, i) => (i === axis ? 1 : v)) as unknown as Corner)] as [Px, Px] })),
    ),
    corners: CORNERS.filter((k) => axes.some((i) => outside(i, k[i]))).map((corner) => ({ corner, at: at(corner) })),
  };
}

/** A photograph with what a careful hand drew over it: everything to about a pixel. @param blob its bytes, as they are stored */
export function drawnOn(taken: Taken, blob: string): Photo {
  const next = random(TAKEN.indexOf(taken) + 1);
  const by = ([x, y]: Px): Px => [x, y].map((v) => Math.round(2 * (v + 2 * (next() - 0.5))) / 2) as unknown as Px;
  const { edges, corners } = seenOn(taken);
  return {
    id: taken.file.replace('.jpg', ''),
    name: taken.name,
    blob,
    widthPx: PHOTO_SIZE.width,
    heightPx: PHOTO_SIZE.height,
    lens: { focalMm: LENS_MM, focal35Mm: LENS_MM, takenPx: [PHOTO_SIZE.width, PHOTO_SIZE.height] },
    edges: edges.map(({ axis, ends }, i) => ({ id: `e${i}`, axis, points: ends.map(by) })),
    pins: corners.map(({ corner, at }) => ({ corner, at: by(at) })),
    part: 'box',
    known: { axis: 1, mm: NOTICE_BOX[1] },
  };
}

/** The notice box before anything is laid on it: one box, its height measured on the spot. */
export function noticeBox(photos: readonly Photo[] = []): AssetDocument {
  const made = piece(
    'Notice box',
    { purpose: 'game', size: [...NOTICE_BOX], triangles: 400, closestMm: 1500, deadline: '2026-12-22' },
    [],
    [
      part('box', 'Box', 'body', '', [
        step('box', 'notice-box', 'Box', {
          width: NOTICE_BOX[0],
          height: NOTICE_BOX[1],
          depth: NOTICE_BOX[2],
          body: 'solid',
          corner: 0,
          edgeRadius: 0,
        }),
      ]),
    ],
  );
  return { ...made, parts: made.parts.map((p) => ({ ...p, material: null })), ...(photos.length > 0 && { photos: [...photos] }) };
}
