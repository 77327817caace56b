import { Frame } from '../bake/frame';
import { linearToSrgb } from '../image/srgb';
import { checkpoint, QUIET, type Task } from '../task';
import { Across, type AcrossData } from './across';
import { BAND, type BandCounts, type Binned, bandsOf, eachInBand, emptyGathered, type Gathered, MOST_SAMPLES, samplesFor } from './bands';
import { COLOUR_WEIGHT, type GatherLook, NUMBERS, type Tap, TO, WEIGHT } from './look';
import { type SourcePicture, samplePicture } from './picture';
import { eachGrazed, eachTexel, placesRoom } from './texels';

/** A part as it is gathered: where it is drawn to, and where its own pictures lie. Flat arrays only, so that workers can share it. */
export interface PreparedPart {
  id: string;
  look: number;
  /** Of the layout drawn to, per triangle: 6, 9 and 12 numbers, v up. */
  uv: Float32Array;
  normal: Float32Array;
  tangent: Float32Array;
  source: {
    /** Layouts that its pictures lie on, 6 per triangle each. */
    layouts: Float32Array[];
    normal: Float32Array;
    /** Along the normal map’s own layout; zeros where there is none. */
    tangent: Float32Array;
    /** Linear, with alpha, 12 per triangle; empty where vertices have no colours. */
    colour: Float32Array;
  };
  across: AcrossData;
  /** Of each triangle, how many texels of its finest picture lie along one of the target, and how many samples along a side that takes. */
  finer: Float32Array;
}

/** Everything that is drawn, for all workers. */
export interface GatherJob extends Binned {
  size: number;
  parts: PreparedPart[];
  looks: GatherLook[];
  pictures: SourcePicture[];
  /** Emission that full white stands for. */
  glow: number;
}

/** What a wholly clear place still counts, so that a colour stands under it. */
const LEAST_THERE = 1 / 255;
const TO_SRGB = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(255 * linearToSrgb(i / 4096)));
const srgb = (x: number): number => TO_SRGB[Math.round(4096 * Math.min(1, Math.max(0, x)))];
const byte = (x: number): number => Math.round(255 * Math.min(1, Math.max(0, x)));
const direction = (x: number): number => Math.min(255, Math.max(0, Math.round(127.5 * x + 127.5 + 1e-4)));

/**
 * Draws materials anew on another layout, band by band: every texel is the mean of places all over it, colours meant in linear light,
 * normals turned from the frame they were in into the one they will be in. No light is looked at.
 */
export class Gatherer {
  private readonly sums: Float32Array;
  private readonly across: Across[];
  private readonly frame = new Frame();
  private readonly sampled = new Float64Array(4);
  private readonly place = new Float64Array(NUMBERS);
  private readonly places = placesRoom();

  constructor(
    private readonly job: GatherJob,
    private readonly out: Gathered,
  ) {
    this.sums = new Float32Array(NUMBERS * job.size * BAND);
    this.across = job.parts.map((p) => new Across(p.across));
  }

  draw(band: number): BandCounts {
    const counts = { samples: 0, lost: 0 };
    this.sums.fill(0);
    const [from, to] = eachInBand(
      this.job,
      band,
      (part, t, a, b) => this.triangle(part, t, a, b, counts),
      (part, t, a, b) => this.rim(part, t, a, b),
    );
    this.write(from, to);
    return counts;
  }

  /** All places of a triangle inside the rows. */
  private triangle(part: number, t: number, from: number, to: number, counts: BandCounts): void {
    const { size, parts } = this.job;
    const { uv, finer } = parts[part];
    const level = Math.max(0, Math.ceil(Math.log2(finer[t] / MOST_SAMPLES) - 0.05));
    const { sums, places } = this;
    eachTexel(uv, t, size, [from, to], samplesFor(finer[t]), places, (x, y, count) => {
      const at = NUMBERS * ((y - from) * size + x);
      counts.samples += count;
      for (let i = 0; i < count; i++) {
        const [w1, w2] = [places[2 * i], places[2 * i + 1]];
        if (!this.read(part, t, 1 - w1 - w2, w1, w2, level)) {
          counts.lost++;
          continue;
        }
        this.add(at);
        sums[at + WEIGHT]++;
      }
    });
  }

  /** Texels that a triangle only grazes: what stands at its nearest place. */
  private rim(part: number, t: number, from: number, to: number): void {
    const { size, parts } = this.job;
    const { sums } = this;
    const atOf = (x: number, y: number) => NUMBERS * ((y - from) * size + x);
    eachGrazed(
      parts[part].uv,
      t,
      size,
      [from, to],
      (x, y) => sums[atOf(x, y) + WEIGHT] <= 0,
      (x, y, w1, w2) => {
        if (!this.read(part, t, 1 - w1 - w2, w1, w2, 0)) return;
        const at = atOf(x, y);
        this.add(at);
        // Negative: grazed so far, by that many.
        sums[at + WEIGHT]--;
      },
    );
  }

  /** Adds what stands at a place to a texel; a colour counts as much as there is of it. */
  private add(at: number): void {
    const { sums, place } = this;
    const there = Math.max(place[TO.alpha], LEAST_THERE);
    for (let k = 0; k < 3; k++) sums[at + k] += there * place[k];
    for (let k = 3; k < WEIGHT; k++) sums[at + k] += place[k];
    sums[at + COLOUR_WEIGHT] += there;
  }

  /** What stands at a place of the source that a place of the target is; into `place`. */
  private read(part: number, t: number, w0: number, w1: number, w2: number, level: number): boolean {
    const { parts, looks } = this.job;
    const own = parts[part];
    const found = this.across[part];
    if (!found.find(t, w0, w1, w2)) return false;
    const look = looks[own.look];
    readLook(look, own.source, found, this.job.pictures, level, this.sampled, this.place);
    const { place, frame } = this;
    if (look.normal >= 0) {
      frame.set(own.source, found.triangle, found.w0, found.w1, found.w2);
      const { t: tangent, b: across, n: up } = frame;
      const x = place[TO.normalX];
      const y = place[TO.normalY];
      const z = place[TO.normalZ];
      const nx = x * tangent[0] + y * across[0] + z * up[0];
      const ny = x * tangent[1] + y * across[1] + z * up[1];
      const nz = x * tangent[2] + y * across[2] + z * up[2];
      frame.set(own, t, w0, w1, w2);
      frame.into(nx, ny, nz);
      place[TO.normalX] = frame.x;
      place[TO.normalY] = frame.y;
      place[TO.normalZ] = frame.z;
    }
    return true;
  }

  private write(from: number, to: number): void {
    const { size, glow } = this.job;
    const { sums, out } = this;
    for (let i = from * size; i < to * size; i++) {
      const at = NUMBERS * (i - from * size);
      const weight = Math.abs(sums[at + WEIGHT]);
      if (weight === 0) continue;
      out.state[i] = sums[at + WEIGHT] > 0 ? 1 : 2;
      const v = (k: number) => sums[at + k] / weight;
      for (let k = 0; k < 3; k++) {
        out.baseColour[4 * i + k] = srgb(sums[at + k] / sums[at + COLOUR_WEIGHT]);
        out.emission[3 * i + k] = srgb(v(TO.glowRed + k) / glow);
      }
      out.baseColour[4 * i + 3] = byte(v(TO.alpha));
      out.orm[3 * i] = byte(v(TO.occlusion));
      out.orm[3 * i + 1] = byte(v(TO.roughness));
      out.orm[3 * i + 2] = byte(v(TO.metallic));
      const [x, y, z] = [v(TO.normalX), v(TO.normalY), v(TO.normalZ)];
      const l = Math.sqrt(x * x + y * y + z * z) || 1;
      out.normal[3 * i] = direction(x / l);
      out.normal[3 * i + 1] = direction(y / l);
      out.normal[3 * i + 2] = direction(z / l);
      out.height[i] = byte(v(TO.height));
      out.transmission[i] = byte(v(TO.transmission));
    }
  }
}

/** What a material is at a place of its own surface, its normal in the frame of its own normal map. @param out {@link NUMBERS} numbers */
export function readLook(
  look: GatherLook,
  source: PreparedPart['source'],
  at: { triangle: number; w0: number; w1: number; w2: number },
  pictures: readonly SourcePicture[],
  level: number,
  sampled: Float64Array,
  out: Float64Array,
): void {
  const { triangle: s, w0, w1, w2 } = at;
  for (let k = 0; k < WEIGHT; k++) out[k] = look.plain[k];
  out[TO.normalZ] = 1;
  for (let i = 0; i < look.taps.length; i++) {
    const tap: Tap = look.taps[i];
    const uv = source.layouts[tap.layout];
    const u = w0 * uv[6 * s] + w1 * uv[6 * s + 2] + w2 * uv[6 * s + 4];
    const v = w0 * uv[6 * s + 1] + w1 * uv[6 * s + 3] + w2 * uv[6 * s + 5];
    const m = tap.matrix;
    const picture = pictures[tap.picture + Math.min(tap.levels, Math.max(0, level - tap.coarser))];
    samplePicture(picture, m[0] * u + m[1] * v + m[2], m[3] * u + m[4] * v + m[5], tap.wrap, tap.nearest, tap.colour, sampled);
    for (let k = 0; k < tap.gives.length; k++) {
      const { from, to, times, plus } = tap.gives[k];
      out[to] *= times * sampled[from] + plus;
    }
    if (i === look.normal) {
      const x = (2 * sampled[0] - 1) * look.normalScale;
      const y = (2 * sampled[1] - 1) * look.normalScale;
      const z = 2 * sampled[2] - 1;
      const l = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
      out[TO.normalX] = x * l;
      out[TO.normalY] = y * l;
      out[TO.normalZ] = z * l;
    }
  }
  if (look.vertexColours && source.colour.length > 0) {
    const c = source.colour;
    for (let k = 0; k < 4; k++) out[k] *= w0 * c[12 * s + k] + w1 * c[12 * s + 4 + k] + w2 * c[12 * s + 8 + k];
  }
}

/** All of it on this thread. */
export function gatherAll(job: GatherJob, task: Task = QUIET): { gathered: Gathered; counts: BandCounts } {
  const gathered = emptyGathered(job.size);
  const gatherer = new Gatherer(job, gathered);
  const counts = { samples: 0, lost: 0 };
  const bands = bandsOf(job.size);
  for (let b = 0; b < bands; b++) {
    checkpoint(task);
    const made = gatherer.draw(b);
    counts.samples += made.samples;
    counts.lost += made.lost;
    task.progress((b + 1) / bands, 'gathering');
  }
  return { gathered, counts };
}
