import { BAND, type BandCounts, bandsOf, eachInBand, samplesFor } from '../../gather/bands';
import { eachGrazed, eachTexel, placesRoom } from '../../gather/texels';
import { linearToSrgb } from '../../image/srgb';
import { RayQuery } from '../../rays/query';
import { checkpoint, QUIET, type Task } from '../../task';
import { ACROSS, emptyProjected, type Projected, type ProjectJob, type ProjectPart, storedPixels } from './job';
import { Onlooker } from './onlooker';

/** Numbers kept of a texel while its band is drawn. */
const [RED, GREEN, BLUE, WEIGHT, PIXELS, COS, BY, NUMBERS] = [0, 1, 2, 3, 4, 5, 6, 7];
/** How far off the surface may lie that something unseen is taken from across, of the extent of the piece; and how alike the two face. */
const SAME = 0.004;
const ALIKE = 0.9;

const TO_SRGB = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(255 * linearToSrgb(i / 4096)));
const srgb = (x: number): number => TO_SRGB[Math.round(4096 * Math.min(1, Math.max(0, x)))];

/**
 * Lays photographs on a piece, band by band. Every place of every texel is looked up in the picture through the camera itself, so a face stays
 * one face however large it is; whether anything stands between is asked by rays from opposite corners of the texel, so that no texel is
 * half of what stands before it.
 */
export class Projector {
  private readonly sums: Float32Array;
  private readonly looks: Onlooker;
  private readonly near: RayQuery;
  private readonly places = placesRoom();
  private readonly p = new Float64Array(3);
  private readonly facing = new Float64Array(3);
  /** Of the mirror that the places in hand are looked at through, −1 for none. */
  private axis = -1;

  constructor(
    private readonly job: ProjectJob,
    private readonly out: Projected,
  ) {
    this.sums = new Float32Array(NUMBERS * job.size * BAND);
    this.looks = new Onlooker(job);
    this.near = new RayQuery(job.tree);
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

  private triangle(part: number, t: number, from: number, to: number, counts: BandCounts): void {
    const { size, parts } = this.job;
    const own = parts[part];
    const { places } = this;
    const n = samplesFor(own.finer[t] / 2 ** levelFor(own.finer[t]));
    const texelMm = texelOf(own, t, size);
    eachTexel(own.uv, t, size, [from, to], n, places, (x, y, count) => {
      counts.samples += count;
      counts.lost += this.texel(own, t, NUMBERS * ((y - from) * size + x), count, texelMm / n, n);
    });
  }

  /** Texels that a triangle only grazes. */
  private rim(part: number, t: number, from: number, to: number): void {
    const { size, parts } = this.job;
    const own = parts[part];
    const atOf = (x: number, y: number) => NUMBERS * ((y - from) * size + x);
    const texelMm = texelOf(own, t, size);
    eachGrazed(
      own.uv,
      t,
      size,
      [from, to],
      (x, y) => this.sums[atOf(x, y) + WEIGHT] <= 0,
      (x, y, w1, w2) => {
        const at = atOf(x, y);
        this.places[0] = w1;
        this.places[1] = w2;
        // Negative: grazed so far, by that many.
        this.sums[at + WEIGHT] *= -1;
        this.texel(own, t, at, 1, texelMm, 1);
        this.sums[at + WEIGHT] *= -1;
      },
    );
  }

  /**
   * The first so many of {@link places}, all in one texel, added to it.
   *
   * @param eachMm what each of them stands for, and `n` how many there are along the texel
   * @returns how many of them nobody sees
   */
  private texel(own: ProjectPart, t: number, at: number, count: number, eachMm: number, n: number): number {
    const { looks, sums, p, facing } = this;
    const mask = this.look(own, t, count);
    const { axis } = this;
    let [red, green, blue, pxPerMm, cos, best] = [0, 0, 0, 0, 0, -1];
    let lost = 0;
    for (let i = 0; i < count; i++) {
      this.place(own, t, i);
      if (axis >= 0) this.over(p, axis);
      if (mask !== 0 && looks.read(mask, p[0], p[1], p[2], facing[0], facing[1], facing[2], eachMm)) {
        red += looks.red;
        green += looks.green;
        blue += looks.blue;
        pxPerMm = Math.max(pxPerMm, looks.pxPerMm);
        cos = looks.cos;
        best = looks.best;
      } else {
        lost++;
        red += own.plain[0];
        green += own.plain[1];
        blue += own.plain[2];
      }
    }
    sums[at + RED] += red;
    sums[at + GREEN] += green;
    sums[at + BLUE] += blue;
    sums[at + WEIGHT] += count;
    if (best < 0) return lost;
    sums[at + BY] = axis >= 0 ? ACROSS : best + 1;
    if (axis >= 0) return lost;
    sums[at + PIXELS] = Math.max(sums[at + PIXELS], pxPerMm * eachMm * n);
    sums[at + COS] = cos;
    return lost;
  }

  /**
   * The photographs that see the first and the last of the places in hand, a bit each; where none does and it is wanted, those that see the
   * same places on the other side of the piece, whose axis then stands in `axis`. The way the surface faces there stands in `facing`.
   */
  private look(own: ProjectPart, t: number, count: number): number {
    const { looks, p, facing, job } = this;
    this.axis = -1;
    for (let k = 0; k < 3; k++) facing[k] = own.facing[3 * t + k];
    this.place(own, t, 0);
    let seen = looks.visible(p[0], p[1], p[2], facing[0], facing[1], facing[2]);
    if (seen !== 0 && count > 1) {
      this.place(own, t, count - 1);
      seen &= looks.visible(p[0], p[1], p[2], facing[0], facing[1], facing[2]);
    }
    if (seen !== 0 || !job.across) return seen;
    this.place(own, t, 0);
    return this.lookAcross(job.across.axis);
  }

  /** The same place on the other side of the piece, where there is one that faces as it would in a mirror. */
  private lookAcross(axis: 0 | 2): number {
    const { looks, p, facing, job, near } = this;
    this.over(p, axis);
    facing[axis] *= -1;
    const alike = () => {
      const o = 3 * near.triangle;
      return job.facingAll[o] * facing[0] + job.facingAll[o + 1] * facing[1] + job.facingAll[o + 2] * facing[2] > ALIKE;
    };
    if (!near.nearest(p[0], p[1], p[2], SAME * job.extentMm) || !alike()) return 0;
    this.axis = axis;
    return looks.visible(p[0], p[1], p[2], facing[0], facing[1], facing[2]);
  }

  private over(p: Float64Array, axis: number): void {
    p[axis] = 2 * (this.job.across?.at ?? 0) - p[axis];
  }

  /** Where one of the places in hand stands. */
  private place({ corners: c }: ProjectPart, t: number, i: number): void {
    const w1 = this.places[2 * i];
    const w2 = this.places[2 * i + 1];
    const w0 = 1 - w1 - w2;
    const o = 9 * t;
    this.p[0] = w0 * c[o] + w1 * c[o + 3] + w2 * c[o + 6];
    this.p[1] = w0 * c[o + 1] + w1 * c[o + 4] + w2 * c[o + 7];
    this.p[2] = w0 * c[o + 2] + w1 * c[o + 5] + w2 * c[o + 8];
  }

  private write(from: number, to: number): void {
    const { size } = this.job;
    const { sums, out } = this;
    for (let i = from * size; i < to * size; i++) {
      const at = NUMBERS * (i - from * size);
      const weight = Math.abs(sums[at + WEIGHT]);
      if (weight === 0) continue;
      out.state[i] = sums[at + WEIGHT] > 0 ? 1 : 2;
      for (let k = 0; k < 3; k++) out.colour[3 * i + k] = srgb(sums[at + k] / weight);
      out.by[i] = sums[at + BY];
      if (sums[at + PIXELS] === 0) continue;
      out.pixels[i] = storedPixels(sums[at + PIXELS]);
      out.degrees[i] = Math.round((Math.acos(Math.min(1, sums[at + COS])) * 180) / Math.PI);
    }
  }
}

/** The smaller level of a photograph that is read where it is so many times as fine as the set: two places along a texel are then enough. */
export const levelFor = (finer: number): number => Math.max(0, Math.ceil(Math.log2(finer / 2) - 0.05));

/** Side of a texel on a triangle, mm: the root of its area. */
export function texelOf({ uv, area }: Pick<ProjectPart, 'uv' | 'area'>, t: number, size: number): number {
  const o = 6 * t;
  const flat = Math.abs((uv[o + 2] - uv[o]) * (uv[o + 5] - uv[o + 1]) - (uv[o + 4] - uv[o]) * (uv[o + 3] - uv[o + 1])) / 2;
  return Math.sqrt(area[t] / Math.max(flat * size * size, 1e-12));
}

/** All of it on this thread. */
export function projectAll(job: ProjectJob, task: Task = QUIET): { projected: Projected; counts: BandCounts } {
  const projected = emptyProjected(job.size);
  const projector = new Projector(job, projected);
  const counts = { samples: 0, lost: 0 };
  for (let b = 0; b < bandsOf(job.size); b++) {
    checkpoint(task);
    const made = projector.draw(b);
    counts.samples += made.samples;
    counts.lost += made.lost;
    task.progress((b + 1) / bandsOf(job.size), 'projecting');
  }
  return { projected, counts };
}
