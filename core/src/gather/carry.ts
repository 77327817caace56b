import type { Pixels } from '../image/png';
import { triangleArea } from '../mesh/measures';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { PLAIN_TEXTURING } from '../surface/texturing';
import { QUIET, type Task } from '../task';
import { type GatherJob, gatherAll } from './gather';
import { prepareGather } from './prepare';

/** A picture carried over a surface onto another layout of it. */
export interface Carried {
  /** Colour and alpha, 8 bits, top row first. */
  pixels: Pixels;
  /** 1 for texels that were drawn to, 2 for those beside them, 0 outside. */
  state: Uint8Array;
  /** Share of the surface that the source has not. */
  lostShare: number;
  /** How far a place of the source is smeared, px of the source: the standard deviation of what each texel reads; 0 where texels lie on texels. */
  blurPx: number;
}

/** Variance of a blend of two texels, on average over where a place lies between them, texels²: ∫ f (1 − f) df. */
const BETWEEN = 1 / 6;

/**
 * Carries what was painted on a surface over to a changed layout, count or level of it: each texel finds its place by patch and coordinates
 * where both meshes were made by steps, else at the nearest point that faces the same way. Colours are meant in light, and count by their alpha.
 *
 * @param source with the layout the picture lies on, as `uv` @param target with the layout it is wanted on
 */
export function carry(picture: Pixels, source: PolyMesh, target: PolyMesh, size: number, task: Task = QUIET): Carried {
  const uses = [
    { picture: 'painted', slot: 'baseColour' as const, layout: 0 },
    { picture: 'painted', slot: 'alpha' as const, layout: 0, channel: 3 },
  ];
  const job = prepareGather({
    parts: [{ id: 'p', name: 'painted', source, target, texturing: { ...PLAIN_TEXTURING, uses, alpha: 'blend' } }],
    size,
    picture: () => picture,
  });
  const { gathered, counts } = gatherAll(job, task);
  let [whole, spread] = [0, 0];
  for (let t = 0; t < triangleCount(target); t++) {
    const area = triangleArea(target, t);
    const { finer } = job.parts[0];
    whole += area;
    spread += area * (isAligned(job, picture, t) ? 0 : BETWEEN + (finer[t] > 1 ? finer[t] ** 2 / 12 : 0));
  }
  return {
    pixels: { width: size, height: size, channels: 4, depth: 8, data: gathered.baseColour },
    state: gathered.state,
    lostShare: counts.lost / Math.max(1, counts.samples),
    blurPx: Math.sqrt(spread / Math.max(whole, 1e-12)),
  };
}

/** Whether the texels of a triangle lie on those of the picture, moved by whole texels. */
function isAligned({ parts: [part], size }: GatherJob, { width, height }: Pixels, t: number): boolean {
  if (part.across.kind !== 'same') return false;
  const [a, b] = [part.uv, part.source.layouts[0]];
  const off = [0, 1, 2].map((k) => [
    b[6 * t + 2 * k] * width - a[6 * t + 2 * k] * size,
    b[6 * t + 2 * k + 1] * height - a[6 * t + 2 * k + 1] * size,
  ]);
  return off.every(([x, y]) => Math.abs(x - Math.round(off[0][0])) < 0.02 && Math.abs(y - Math.round(off[0][1])) < 0.02);
}
