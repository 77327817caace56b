import { Frame } from '../bake/frame';
import { linearToSrgb } from '../image/srgb';
import { Across } from './across';
import type { Gathered } from './bands';
import { type GatherJob, readLook } from './gather';
import { NUMBERS, TO } from './look';
import { type SourcePicture, samplePicture } from './picture';
import { spreadAt } from './texels';

/** How far off one channel is from what it was gathered from, on the surface: in 255ths, normals in degrees. */
export interface ChannelDifference {
  mean: number;
  /** Of 95 of 100 places at most. */
  p95: number;
  worst: number;
}

/** Channels that are compared. */
export const COMPARED = ['base colour', 'opacity', 'roughness', 'metallic', 'occlusion', 'emission', 'normal', 'height'] as const;
export type Compared = (typeof COMPARED)[number];

/** What a gathered set came to beside its source. */
export interface GatherComparison {
  places: number;
  /** Those that the source has not. */
  lost: number;
  channels: Partial<Record<Compared, ChannelDifference>>;
  /** How far the mean colour of the whole surface is off, in 255ths of sRGB. */
  meanColourOff: number;
}

/** Places looked at, about. */
const PLACES = 60_000;

/** What a set says at a place, as it will be read: between its texels. */
class SetReader {
  private readonly out = new Float64Array(4);
  private readonly pictures: Record<'baseColour' | 'orm' | 'normal' | 'emission' | 'height', SourcePicture>;
  constructor({ size, baseColour, orm, normal, emission, height }: Gathered) {
    const picture = (data: Uint8Array, channels: 1 | 3 | 4): SourcePicture => ({ width: size, height: size, channels, data });
    this.pictures = {
      baseColour: picture(baseColour, 4),
      orm: picture(orm, 3),
      normal: picture(normal, 3),
      emission: picture(emission, 3),
      height: picture(height, 1),
    };
  }
  at(map: keyof SetReader['pictures'], u: number, v: number): Float64Array {
    samplePicture(this.pictures[map], u, v, ['clamp', 'clamp'], false, map === 'baseColour' || map === 'emission', this.out);
    return this.out;
  }
}

/**
 * A gathered set beside what it was gathered from, at places spread evenly over the surface (a grid turned by the golden ratio on each
 * triangle, as many as its area asks for).
 *
 * @param which channels that the set has
 */
export function compareGathered(
  job: GatherJob,
  gathered: Gathered,
  areas: readonly Float64Array[],
  which: readonly Compared[],
): GatherComparison {
  const off = new Map<Compared, number[]>(which.map((c) => [c, []]));
  const set = new SetReader(gathered);
  const frame = new Frame();
  const [sampled, place] = [new Float64Array(4), new Float64Array(NUMBERS)];
  const whole = areas.reduce((n, a) => n + a.reduce((m, x) => m + x, 0), 0);
  const means = { source: [0, 0, 0], set: [0, 0, 0] };
  let [places, lost, carry] = [0, 0, 0.5];
  for (const [p, part] of job.parts.entries()) {
    const across = new Across(part.across);
    const look = job.looks[part.look];
    for (let t = 0; t < part.uv.length / 6; t++) {
      carry += (PLACES * areas[p][t]) / Math.max(whole, 1e-12);
      for (; carry >= 1; carry--) {
        const [w0, w1, w2] = spreadAt(places++);
        if (!across.find(t, w0, w1, w2)) {
          lost++;
          continue;
        }
        readLook(look, part.source, across, job.pictures, 0, sampled, place);
        const u = w0 * part.uv[6 * t] + w1 * part.uv[6 * t + 2] + w2 * part.uv[6 * t + 4];
        const v = w0 * part.uv[6 * t + 1] + w1 * part.uv[6 * t + 3] + w2 * part.uv[6 * t + 5];
        const colour = set.at('baseColour', u, v);
        let most = 0;
        for (let k = 0; k < 3; k++) {
          means.source[k] += Math.min(1, place[k]);
          means.set[k] += colour[k];
          most = Math.max(most, Math.abs(linearToSrgb(colour[k]) - linearToSrgb(Math.min(1, place[k]))));
        }
        off.get('base colour')?.push(255 * most);
        off.get('opacity')?.push(255 * Math.abs(colour[3] - Math.min(1, place[TO.alpha])));
        const orm = set.at('orm', u, v);
        off.get('occlusion')?.push(255 * Math.abs(orm[0] - place[TO.occlusion]));
        off.get('roughness')?.push(255 * Math.abs(orm[1] - place[TO.roughness]));
        off.get('metallic')?.push(255 * Math.abs(orm[2] - place[TO.metallic]));
        off.get('height')?.push(255 * Math.abs(set.at('height', u, v)[0] - place[TO.height]));
        const glow = set.at('emission', u, v);
        off
          .get('emission')
          ?.push(
            255 *
              Math.max(
                ...[0, 1, 2].map((k) => Math.abs(linearToSrgb(glow[k]) - linearToSrgb(Math.min(1, place[TO.glowRed + k] / job.glow)))),
              ),
          );
        off.get('normal')?.push(angle(part, t, [w0, w1, w2], across, look.normal >= 0, place, set.at('normal', u, v), frame));
      }
    }
  }
  const channels: GatherComparison['channels'] = {};
  for (const [c, list] of off) {
    const sorted = Float64Array.from(list).sort();
    if (sorted.length === 0) continue;
    channels[c] = {
      mean: sorted.reduce((n, x) => n + x, 0) / sorted.length,
      p95: sorted[Math.min(sorted.length - 1, Math.floor(0.95 * sorted.length))],
      worst: sorted[sorted.length - 1],
    };
  }
  const n = Math.max(1, places - lost);
  const meanColourOff =
    255 * Math.max(...[0, 1, 2].map((k) => Math.abs(linearToSrgb(means.set[k] / n) - linearToSrgb(means.source[k] / n))));
  return { places, lost, channels, meanColourOff };
}

/** Degrees between the normal that was there and the one the set gives, both as a viewer builds them. */
function angle(
  part: GatherJob['parts'][number],
  t: number,
  [w0, w1, w2]: readonly [number, number, number],
  at: Across,
  textured: boolean,
  place: Float64Array,
  sampled: Float64Array,
  frame: Frame,
): number {
  const world = (x: number, y: number, z: number): number[] => {
    const n = [0, 1, 2].map((k) => x * frame.t[k] + y * frame.b[k] + z * frame.n[k]);
    const l = Math.hypot(n[0], n[1], n[2]) || 1;
    return n.map((c) => c / l);
  };
  const read = [0, 1, 2].map((k) => 2 * sampled[k] - 1);
  frame.set(part, t, w0, w1, w2);
  const got = world(read[0], read[1], read[2]);
  let was = [frame.n[0], frame.n[1], frame.n[2]];
  if (textured) {
    frame.set(part.source, at.triangle, at.w0, at.w1, at.w2);
    was = world(place[TO.normalX], place[TO.normalY], place[TO.normalZ]);
  }
  const dot = got[0] * was[0] + got[1] * was[1] + got[2] * was[2];
  return (Math.acos(Math.min(1, Math.max(-1, dot))) * 180) / Math.PI;
}
