import { transformPoint } from '@wellmorph/core/maths/mat4';
import { cameraFrom, type PhotoCamera } from '@wellmorph/core/photo/camera';
import type { Photo } from '@wellmorph/core/photo/photo';
import { useMemo } from 'react';
import type { PhotoSight } from '@/plates/photo/photo';
import { useBench } from '@/session/context';
import { useAnswered } from '@/sheet/answered';
import type { PhotoSolved } from '@/workers/project';
import type { GpuPart } from '@/workers/protocol';

/** Lines of the piece that are drawn over a photograph, at most. */
const MOST_LINES = 40_000;

/** The box of a part where its first copy stands, mm. */
function boundsOf(part: GpuPart): { min: [number, number, number]; max: [number, number, number] } | null {
  if (part.position.length === 0) return null;
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < part.position.length; i += 3) {
    const p = transformPoint(part.placements[0], [part.position[i], part.position[i + 1], part.position[i + 2]]);
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k], p[k]);
      max[k] = Math.max(max[k], p[k]);
    }
  }
  return { min, max };
}

/** Edges of all faces where they stand, 6 numbers each, mm. */
function wireOf(gpu: readonly GpuPart[]): Float32Array {
  const out: number[] = [];
  for (const part of gpu)
    for (const m of part.placements) {
      if (out.length + part.edges.length > 6 * MOST_LINES) return Float32Array.from(out);
      for (let i = 0; i < part.edges.length; i += 3) out.push(...transformPoint(m, [part.edges[i], part.edges[i + 1], part.edges[i + 2]]));
    }
  return Float32Array.from(out);
}

/** What a photograph says, asked of a worker as it changes, and how the piece lies in it. */
export function usePhotoMatch(
  photo: Photo | null,
  gpu: readonly GpuPart[],
): {
  answer: PhotoSolved | null;
  /** The answer is of what is drawn now. */
  isNow: boolean;
  sight: PhotoSight;
} {
  const { pool } = useBench();
  const part = gpu.find((g) => g.id === photo?.part);
  const bounds = useMemo(() => (part ? boundsOf(part) : null), [part]);
  const ask = useMemo(() => (photo ? { photo, bounds } : null), [photo, bounds]);
  const told = useAnswered(ask, (a) => pool.run('photoSolved', a));
  const isOpen = photo !== null;
  const wire = useMemo(() => (isOpen ? wireOf(gpu) : null), [gpu, isOpen]);
  // What is told of another photograph is not this one’s.
  const answer = told && told.ask.photo.id === photo?.id ? told.answer : null;
  const isNow = told?.ask.photo === photo;
  const sight = useMemo((): PhotoSight => {
    const sizes = answer?.sizes ?? null;
    let camera: PhotoCamera | null = answer?.solved?.camera ?? null;
    let box: PhotoSight['box'] = bounds;
    if (!camera && sizes && photo) {
      // Before anything is modelled its box stands with its middle over the origin, as it would be made.
      const [w, h, d] = sizes.sizeMm;
      box = { min: [-w / 2, 0, -d / 2], max: [w / 2, h, d / 2] };
      camera = cameraFrom(sizes.matched, sizes.at, [-w / 2, 0, -d / 2], { width: photo.widthPx, height: photo.heightPx });
    }
    return {
      camera,
      box,
      edgesPx: isNow ? (answer?.edgesPx ?? []) : [],
      pinsPx: isNow ? (answer?.solved?.stood.residuals ?? sizes?.residuals ?? []) : [],
      // Whatever is made while the photograph is open lies in it.
      wire: camera ? wire : null,
    };
  }, [answer, isNow, bounds, wire, photo]);
  return { answer, isNow, sight };
}
