import { cameraFrom, type PhotoCamera } from '@wellmorph/core/photo/camera';
import { turned } from '@wellmorph/core/photo/match';
import type { Photo } from '@wellmorph/core/photo/photo';
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

type End = readonly [number, number];
/** The edges of the box as a hand drew them over each photograph, to a few pixels, and its corners: the axis, then both ends. */
export interface Drawn {
  edges: readonly (readonly [axis: 0 | 1 | 2, from: End, to: End])[];
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
