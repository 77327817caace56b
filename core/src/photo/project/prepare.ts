import { InputError } from '../../errors';
import { binned } from '../../gather/bands';
import { halved, type SourcePicture } from '../../gather/picture';
import { determinant3, type Mat4, transformPoint } from '../../maths/mat4';
import type { Vec3 } from '../../maths/vec3';
import { attribute, type PolyMesh } from '../../mesh/polymesh';
import { facingOf, soupOf } from '../../mesh/soup';
import { type Allocate, buildTree, PRIVATE } from '../../rays/tree';
import { inCamera, type PhotoCamera } from '../camera';
import { MOST_PHOTOS, type ProjectJob, type ProjectPart } from './job';
import { Onlooker } from './onlooker';
import { type Place, placesOver } from './places';
import { levelFor, texelOf } from './projector';

/** A part that photographs are laid on, or that only stands in the way. */
export interface PartSeen {
  id: string;
  /** Its `uv` is the layout drawn to; a part without one only stands in the way. */
  mesh: PolyMesh;
  placements: readonly Mat4[];
}

/** A photograph to be laid on: top row first, 8 bits. */
export interface PhotoSeen {
  id: string;
  camera: PhotoCamera;
  picture: SourcePicture;
}

/** What is projected, and to what size. */
export interface ProjectInput {
  size: number;
  /** Parts that are drawn to, and those that only stand in the way. */
  parts: readonly PartSeen[];
  others: readonly PartSeen[];
  photos: readonly PhotoSeen[];
  /** Axis of the plane that what is unseen is taken from across. */
  across: 0 | 2 | null;
}

/** A job, and the places of its surface that everything about it is judged by. */
export interface PreparedProjection {
  job: ProjectJob;
  places: Place[];
}

/** @throws InputError where there is nothing to project, or too much at once */
export function prepareProjection(input: ProjectInput, allocate: Allocate = PRIVATE): PreparedProjection {
  const { size, parts, others, photos } = input;
  if (photos.length === 0) throw new InputError('project/none', 'No photograph is to be laid on the piece.');
  if (photos.length > MOST_PHOTOS)
    throw new InputError('project/many', `${photos.length} photographs are to be laid on at once; up to ${MOST_PHOTOS} can be.`);
  const drawn = parts.map((p) => seenPart(p));
  const soups = [...parts, ...others].flatMap((p) => p.placements.map((m) => worldSoup(p.mesh, m)));
  const whole = new Float64Array(soups.reduce((n, s) => n + s.length, 0));
  let at = 0;
  for (const s of soups) {
    whole.set(s, at);
    at += s.length;
  }
  const [min, max] = extentOf(whole);
  const extentMm = Math.max(...max.map((x, k) => x - min[k]), 1e-6);
  const floats = (from: ArrayLike<number>): Float32Array => {
    const to = new Float32Array(allocate(4 * from.length));
    to.set(from);
    return to;
  };
  const made = drawn.map((p): ProjectPart => {
    const finer = finest(p, photos, size);
    return {
      ...p,
      uv: floats(p.uv),
      corners: floats(p.corners),
      facing: floats(p.facing),
      area: floats(p.area),
      finer: floats(finer),
      plain: [0.18, 0.18, 0.18],
    };
  });
  const finestOf = photos.map(() => Math.max(1, ...made.map((p) => p.finer.reduce((n, x) => Math.max(n, x), 0))));
  const job: ProjectJob = {
    size,
    parts: made,
    photos: photos.map((p, i) => ({ id: p.id, camera: p.camera, levels: levelsOf(p.picture, finestOf[i], allocate), gain: 1 })),
    tree: buildTree(whole, allocate),
    facingAll: floats(facingOf(whole).facing),
    extentMm,
    across: input.across === null ? null : { axis: input.across, at: (min[input.across] + max[input.across]) / 2 },
    ...binned(made, size),
  };
  return { job, places: placesOver(job, new Onlooker(job)) };
}

function worldSoup(mesh: PolyMesh, m: Mat4): Float64Array {
  const soup = soupOf(mesh);
  for (let i = 0; i < soup.length; i += 3) {
    const p = transformPoint(m, [soup[i], soup[i + 1], soup[i + 2]]);
    for (let k = 0; k < 3; k++) soup[i + k] = p[k];
  }
  // A mirrored copy is turned inside out by its placement: its corners go round the other way.
  if (determinant3(m) < 0)
    for (let t = 0; t < soup.length; t += 9)
      for (let k = 0; k < 3; k++) [soup[t + 3 + k], soup[t + 6 + k]] = [soup[t + 6 + k], soup[t + 3 + k]];
  return soup;
}

function extentOf(soup: Float64Array): [Vec3, Vec3] {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < soup.length; i++) {
    min[i % 3] = Math.min(min[i % 3], soup[i]);
    max[i % 3] = Math.max(max[i % 3], soup[i]);
  }
  return [min as unknown as Vec3, max as unknown as Vec3];
}

function seenPart({ id, mesh, placements }: PartSeen): Omit<ProjectPart, 'finer' | 'plain'> {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) throw new InputError('project/layout', 'A part has no layout to draw to; unwrap first.');
  const m = placements[0];
  const soup = worldSoup(mesh, m);
  const flipped = determinant3(m) < 0;
  const flat = new Float32Array(2 * mesh.triangles.length);
  for (let i = 0; i < mesh.triangles.length; i++) {
    // Corners of a mirrored copy go round the other way, and so do their places in the layout.
    const c = mesh.triangles[flipped && i % 3 > 0 ? i - (i % 3) + (3 - (i % 3)) : i];
    flat[2 * i] = uv[2 * c];
    flat[2 * i + 1] = uv[2 * c + 1];
  }
  return { id, uv: flat, corners: Float32Array.from(soup), ...facingOf(soup) };
}

/** Pixels of the finest photograph along a texel, by triangle: at its corners and its middle, whichever has most. */
function finest(part: Omit<ProjectPart, 'finer' | 'plain'>, photos: readonly PhotoSeen[], size: number): Float32Array {
  const out = new Float32Array(part.area.length);
  const { corners: c, facing: f } = part;
  for (let t = 0; t < out.length; t++) {
    const texelMm = texelOf(part, t, size);
    const at = (w: readonly [number, number, number]): Vec3 =>
      [0, 1, 2].map((k) => w[0] * c[9 * t + k] + w[1] * c[9 * t + 3 + k] + w[2] * c[9 * t + 6 + k]) as unknown as Vec3;
    for (const { camera } of photos)
      for (const w of LOOKED_AT) {
        const p = at(w);
        const facing = [0, 1, 2].reduce((n, k) => n + f[3 * t + k] * (camera.position[k] - p[k]), 0);
        const z = inCamera(camera, p)[2];
        if (facing <= 0 || z <= 0) continue;
        out[t] = Math.max(out[t], Math.sqrt((camera.focalPx ** 2 * facing) / z ** 3) * texelMm);
      }
    // A triangle that reaches up to the camera would ask for no end of places.
    out[t] = Math.min(out[t], 4096);
  }
  return out;
}
const LOOKED_AT = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [1 / 3, 1 / 3, 1 / 3],
] as const;

/** A picture and as many smaller ones as its pixels are finer than places can be. */
function levelsOf(picture: SourcePicture, finer: number, allocate: Allocate): SourcePicture[] {
  const own = allocate !== PRIVATE && picture.data.buffer instanceof ArrayBuffer ? shared(picture, allocate) : picture;
  const wanted = levelFor(finer);
  const out = [own];
  for (let i = 0; i < wanted && Math.max(out[i].width, out[i].height) > 1; i++) out.push(shared(halved(out[i], true), allocate));
  return out;
}

function shared(p: SourcePicture, allocate: Allocate): SourcePicture {
  const data = new Uint8Array(allocate(p.data.length));
  data.set(p.data);
  return { ...p, data };
}
