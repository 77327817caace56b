import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { scaling, translation } from '@wellmorph/core/maths/mat4';
import { scale, type Vec3 } from '@wellmorph/core/maths/vec3';
import { makeMesh } from '@wellmorph/core/mesh/polymesh';
import type { PhotoCamera } from '@wellmorph/core/photo/camera';
import { addTile, develop, emptyFilm, tilesOf, traceTile } from '@wellmorph/core/render/film';
import { buildScene, NO_MATERIAL, type SceneMaterial } from '@wellmorph/core/render/scene';
import { PathTracer } from '@wellmorph/core/render/tracer';
import type { Camera } from '@wellmorph/core/shot/shot';
import { cameraTaken, LENS_MM, PHOTO_SIZE, TAKEN } from '@wellmorph/demo/notice-box';
import { flagstones, noticeBoxMesh, noticeBoxPicture } from '@wellmorph/demo/notices';
import jpeg from 'jpeg-js';
import piexif from 'piexifjs';

/**
 * Draws the photographs of the notice box, by the tracer, as JPEG with what a camera writes of its lens: folder, samples.
 */
const [folder, samples = '48'] = process.argv.slice(2);

const plain: SceneMaterial = { ...NO_MATERIAL, colour: [0.7, 0.68, 0.62], roughness: 0.85, ior: 1.45 };
const square = (corners: readonly Vec3[], repeat: number) => {
  const mesh = makeMesh({ positions: corners.flat(), faceStart: [0, 4], faceVert: [0, 1, 2, 3] });
  const uv = Float32Array.from([0, 0, repeat, 0, repeat, repeat, 0, repeat]);
  return { ...mesh, attributes: [...mesh.attributes, { name: 'uv', domain: 'corner' as const, size: 2, data: uv }] };
};
const FAR = 9000;
const ground = square(
  [
    [-FAR, 0, FAR],
    [FAR, 0, FAR],
    [FAR, 0, -FAR],
    [-FAR, 0, -FAR],
  ],
  7,
);
const wall = square(
  [
    [-FAR, 0, -900],
    [FAR, 0, -900],
    [FAR, FAR, -900],
    [-FAR, FAR, -900],
  ],
  1,
);

const asTraced = ({ axes, position, width, height, focalPx }: PhotoCamera): Camera => {
  const row = (k: 0 | 1 | 2): Vec3 => [axes[0][k], axes[1][k], axes[2][k]];
  return {
    position,
    forward: row(2),
    right: row(0),
    up: scale(row(1), -1),
    tanX: width / 2 / focalPx,
    tanY: height / 2 / focalPx,
    focus: Math.hypot(...position),
    lensRadius: 0,
  };
};

for (const taken of TAKEN) {
  const started = Date.now();
  const scene = buildScene({
    parts: [
      { mesh: noticeBoxMesh(), placements: [scaling([1, 1, 1])], material: 0 },
      { mesh: ground, placements: [translation([0, -0.2, 0])], material: 1 },
      { mesh: wall, placements: [translation([0, 0, 0])], material: 2 },
    ],
    materials: [{ ...plain, colourMap: 0 }, { ...plain, colourMap: 1 }, plain],
    textures: [noticeBoxPicture(), flagstones()],
    // A wide window of sky on the right and in front, and light from all round.
    lamps: [{ name: 'sky', centre: [2200, 2600, 2400], u: [-700, 0, 640], v: [-380, 620, -320], radiance: [9, 8.5, 7.8] }],
    environment: [0.5, 0.54, 0.6],
    backdrop: null,
    backdropColour: [1, 1, 1],
    background: 'paper',
    camera: asTraced(cameraTaken(taken)),
  });
  const { width, height } = PHOTO_SIZE;
  const tracer = new PathTracer(scene);
  const half = Math.max(1, Number(samples) >> 1);
  const film = emptyFilm(width, height);
  const tiles = tilesOf(width, height);
  for (const tile of tiles) addTile(film, tile, traceTile(tracer, { tile, from: 0, to: half, width, height, seed: 1 }));
  film.samples = half;
  const picture = develop(film, { full: 0.72 / taken.exposure, tone: 'neutral', background: 'paper', colour: [1, 1, 1] });
  const bytes = jpeg.encode({ width, height, data: Buffer.from(picture.data.buffer) }, 85).data;
  const { Exif, Image } = { Exif: piexif.ExifIFD, Image: piexif.ImageIFD };
  const exif = piexif.dump({
    '0th': { [Image.Orientation]: 1, [Image.Software]: 'Wellmorph' },
    Exif: {
      [Exif.FocalLength]: [LENS_MM * 10, 10],
      [Exif.FocalLengthIn35mmFilm]: LENS_MM,
      [Exif.PixelXDimension]: width,
      [Exif.PixelYDimension]: height,
    },
  });
  const file = join(folder, taken.file);
  writeFileSync(file, Buffer.from(piexif.insert(exif, bytes.toString('binary')), 'binary'));
  console.log(`${file}: ${((Date.now() - started) / 1000).toFixed(0)} s`);
}
