import { nearestKnown, spread } from '../bake/spread';
import { InputError, StageError } from '../errors';
import type { BandCounts } from '../gather/bands';
import { type SourcePicture, samplePicture } from '../gather/picture';
import { colourAt, NOTHING } from '../image/gradient';
import { encodePng } from '../image/png';
import { linearToSrgb } from '../image/srgb';
import { placedBounds } from '../mesh/measures';
import { ACROSS, type Projected, pixelsOf } from '../photo/project/job';
import { Onlooker } from '../photo/project/onlooker';
import { matchExposures, type Overlap, setPlain, standing } from '../photo/project/places';
import { type PreparedProjection, prepareProjection } from '../photo/project/prepare';
import { projectAll, texelOf } from '../photo/project/projector';
import { whereToStand } from '../photo/project/stand';
import { solvePhoto } from '../photo/solve';
import { type Allocate, PRIVATE } from '../rays/tree';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { type AssetDocument, deliveredParts, photosTaken, projectOf } from './document';
import type { PartMesh } from './form';
import { isLaid } from './inspect';
import {
  ACROSS_COLOUR,
  DEGREE_STOPS,
  PHOTO_COLOURS,
  PIXEL_STOPS,
  type ProjectedMap,
  type ProjectFigures,
  type Spread,
} from './project-figures';

/** The pixels of photographs by the id of each: 8 bits, upright, top row first. */
export type PhotoPixels = ReadonlyMap<string, SourcePicture>;

/** A projection ready to be drawn, in memory that workers can share. */
export interface PreparedProject extends PreparedProjection {
  parts: { id: string; name: string }[];
  overlap: Overlap | null;
}

/** @throws InputError or StageError in one sentence where nothing can be projected */
export function prepareProjectOf(
  document: AssetDocument,
  laid: readonly PartMesh[],
  pixels: PhotoPixels,
  allocate: Allocate = PRIVATE,
): PreparedProject {
  const { size, left, blind } = projectOf(document);
  if (laid.length === 0 || !laid.every(isLaid)) throw new StageError('project/layout', 'There is no layout to draw to yet; unwrap first.');
  const taken = deliveredParts(document).filter((p) => !left.includes(p.id));
  const drawn = laid.filter((p) => taken.some((t) => t.id === p.id));
  if (drawn.length === 0) throw new StageError('project/parts', 'Every part is left out: there is nothing to lay photographs on.');
  const photos = photosTaken(document).map((photo) => {
    const part = laid.find((p) => p.id === photo.part);
    if (!part) throw new InputError('project/part', `On “${photo.name}” no part of the piece stands: choose whose corners are marked.`);
    const picture = pixels.get(photo.id);
    if (!picture) throw new InputError('project/photo', `The photograph “${photo.name}” is no longer stored.`);
    if (picture.width !== photo.widthPx || picture.height !== photo.heightPx)
      throw new InputError(
        'project/size',
        `“${photo.name}” is ${picture.width} × ${picture.height} px now and was ${photo.widthPx} × ${photo.heightPx} when it was brought.`,
      );
    return { id: photo.id, camera: solvePhoto(photo, placedBounds(part.mesh, part.placements[0])).camera, picture };
  });
  const prepared = prepareProjection(
    {
      size,
      parts: drawn,
      others: laid.filter((p) => !drawn.includes(p)),
      photos,
      across: blind === 'plain' ? null : blind === 'across-x' ? 0 : 2,
    },
    allocate,
  );
  const overlap = matchExposures(prepared.job, prepared.places);
  setPlain(prepared.job, prepared.places);
  return { ...prepared, parts: drawn.map(({ id, name }) => ({ id, name })), overlap };
}

/** Photographs laid on: pictures as PNG, and what is known of them. */
export interface ProjectResult {
  figures: ProjectFigures;
  files: Record<ProjectedMap, Uint8Array>;
}

/** Measures what was drawn, carries it past the islands and packs it. */
export function finishProject(
  document: AssetDocument,
  { job, places, parts, overlap }: PreparedProject,
  projected: Projected,
  counts: BandCounts,
  seconds: number,
  task: Task = QUIET,
): ProjectResult {
  const { size, unlit } = projectOf(document);
  task.progress(0, 'measuring');
  const from = nearestKnown(projected.state, size);
  const colour = spread(projected.colour, 3, from);
  const off = offPhotos({ job, places }, colour);
  checkpoint(task);
  task.progress(0.3, 'writing pictures');
  const png = (data: Uint8Array, side: number): Uint8Array => encodePng({ width: side, height: side, channels: 3, depth: 8, data });
  const files = { baseColour: png(colour, size), ...maps(projected, png) };
  const { across, seen } = acrossShares(job, projected, places);
  const all = places.length || 1;
  task.progress(1);
  return {
    files,
    figures: {
      size,
      to: 'first',
      maps: ['baseColour'],
      glow: 1,
      cutOut: false,
      photographed: { unlit },
      parts: parts.map(({ id, name }, i) => {
        const own = places.filter((p) => p.part === i);
        const n = own.length || 1;
        return {
          id,
          name,
          group: 'opaque',
          seenShare: own.filter((p) => p.seen !== 0).length / n,
          acrossShare: (across[i] ?? 0) / n,
          pixels: spreadOf(own),
        };
      }),
      photos: job.photos.map((p, i) => ({ id: p.id, gain: p.gain, share: seen[i] / all })),
      seenShare: places.filter((p) => p.seen !== 0).length / all,
      acrossShare: across.reduce((a, b) => a + b, 0) / all,
      pixels: spreadOf(places),
      overlap,
      stand: whereToStand(job, places),
      off,
      samples: counts.samples,
      seconds,
    },
  };
}

function spreadOf(places: PreparedProject['places']): Spread | null {
  const px = Float64Array.from(places.filter((p) => p.pixels > 0).map((p) => p.pixels)).sort();
  if (px.length === 0) return null;
  const at = (q: number) => px[Math.min(px.length - 1, Math.floor(q * px.length))];
  return { p05: at(0.05), p50: at(0.5), p95: at(0.95) };
}

/** Where a place of the surface lies in the set: the texel’s number. */
function texelAt(
  job: PreparedProject['job'],
  { part, triangle: t, at }: PreparedProject['places'][number],
): { u: number; v: number; i: number } {
  const { uv } = job.parts[part];
  const [u, v] = [0, 1].map((k) => at[0] * uv[6 * t + k] + at[1] * uv[6 * t + 2 + k] + at[2] * uv[6 * t + 4 + k]);
  const inside = (x: number) => Math.min(job.size - 1, Math.max(0, Math.floor(x * job.size)));
  return { u, v, i: inside(1 - v) * job.size + inside(u) };
}

/** Places of each part that were taken from across, and of each photograph where it says most. */
function acrossShares(
  job: PreparedProject['job'],
  projected: Projected,
  places: PreparedProject['places'],
): { across: number[]; seen: number[] } {
  const across = job.parts.map(() => 0);
  const seen = job.photos.map(() => 0);
  for (const place of places) {
    const by = projected.by[texelAt(job, place).i];
    if (by === ACROSS) across[place.part]++;
    else if (by > 0) seen[by - 1]++;
  }
  return { across, seen };
}

/** The set beside the photographs, where they see the surface. */
function offPhotos({ job, places }: PreparedProjection, colour: Uint8Array): ProjectFigures['off'] {
  const looks = new Onlooker(job);
  const set: SourcePicture = { width: job.size, height: job.size, channels: 3, data: colour };
  const read = new Float64Array(4);
  const off: number[] = [];
  for (const place of places) {
    if (place.seen === 0) continue;
    const [x, y, z, nx, ny, nz] = standing(job, place);
    if (!looks.read(place.seen, x, y, z, nx, ny, nz, texelOf(job.parts[place.part], place.triangle, job.size))) continue;
    const { u, v } = texelAt(job, place);
    samplePicture(set, u, v, ['clamp', 'clamp'], false, true, read);
    const shown = [looks.red, looks.green, looks.blue];
    off.push(Math.max(...shown.map((c, k) => 255 * Math.abs(linearToSrgb(Math.min(1, c)) - linearToSrgb(read[k])))));
  }
  const sorted = Float64Array.from(off).sort();
  const n = sorted.length;
  if (n === 0) return { mean: 0, p95: 0, worst: 0, places: 0 };
  return {
    mean: sorted.reduce((a, b) => a + b, 0) / n,
    p95: sorted[Math.min(n - 1, Math.floor(0.95 * n))],
    worst: sorted[n - 1],
    places: n,
  };
}

/** Side of pictures that are only looked at, px. */
const MOST_LOOKED_AT = 1024;

/** What each texel got, as colours. */
function maps(
  { size, pixels, degrees, by, state }: Projected,
  png: (data: Uint8Array, side: number) => Uint8Array,
): Omit<ProjectResult['files'], 'baseColour'> {
  const table = (colour: (i: number) => readonly number[]) => Array.from({ length: 256 }, (_, i) => colour(i));
  const ofPixels = table((i) => (i === 0 ? NOTHING : colourAt(PIXEL_STOPS, Math.log2(pixelsOf(i)))));
  const ofDegrees = table((i) => colourAt(DEGREE_STOPS, i));
  const ofPhoto = table((i) => (i === ACROSS ? ACROSS_COLOUR : i === 0 ? NOTHING : PHOTO_COLOURS[(i - 1) % PHOTO_COLOURS.length]));
  // They are looked at, not used: of a large set every second or fourth texel does.
  const each = Math.max(1, size / MOST_LOOKED_AT);
  const side = Math.floor(size / each);
  const paint = (value: (i: number) => readonly number[]): Uint8Array => {
    const data = new Uint8Array(3 * side * side).fill(255);
    for (let y = 0, o = 0; y < side; y++)
      for (let x = 0; x < side; x++, o += 3) {
        const i = Math.floor(y * each) * size + Math.floor(x * each);
        if (state[i] === 1) data.set(value(i), o);
      }
    return png(data, side);
  };
  return {
    pixels: paint((i) => ofPixels[pixels[i]]),
    degrees: paint((i) => (pixels[i] === 0 ? NOTHING : ofDegrees[degrees[i]])),
    by: paint((i) => ofPhoto[by[i]]),
  };
}

/** The whole stage on this thread. `clock` gives seconds. */
export function projectAsset(
  document: AssetDocument,
  laid: readonly PartMesh[],
  pixels: PhotoPixels,
  clock: () => number,
  task: Task = QUIET,
): ProjectResult {
  const started = clock();
  const prepared = prepareProjectOf(document, laid, pixels);
  const { projected, counts } = projectAll(prepared.job, share(task, 0.1, 0.8));
  return finishProject(document, prepared, projected, counts, clock() - started, share(task, 0.8, 1));
}
