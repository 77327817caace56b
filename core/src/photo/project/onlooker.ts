import { LINEAR, samplePicture } from '../../gather/picture';
import { RayQuery } from '../../rays/query';
import type { ProjectJob } from './job';

/** Surfaces seen flatter than this, 6° before they turn away, say nothing: a pixel there is ten times as long as it is wide. */
const LEAST_COS = 0.1;
/** Towards the rim of a photograph, over this share of its diagonal, it gives way to others. */
const FADE = 0.03;
/** What a place lies out of its own surface before it looks for the camera, of the extent of the piece. */
const OUT = 1e-5;
/** From so many pixels along what is to be shown on, a smaller level shows it. */
const COARSER = 1.3;
const CLAMPED = ['clamp', 'clamp'] as const;

/**
 * Looks at places of a surface from all photographs of a job: which of them see it, and what they show there. One object per thread; what
 * was found stands in its fields.
 */
export class Onlooker {
  /** Linear, of what was read last. */
  red = 0;
  green = 0;
  blue = 0;
  /** The photograph that says most, its pixels along a mm, and the cosine at which it sees. */
  best = -1;
  pxPerMm = 0;
  cos = 0;
  /** Of each photograph, for a place seen from it: pixels, weight. */
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly weight: Float64Array;
  private readonly density: Float64Array;
  private readonly slant: Float64Array;
  private readonly query: RayQuery;
  private readonly sampled = new Float64Array(4);

  constructor(private readonly job: ProjectJob) {
    const n = job.photos.length;
    [this.x, this.y, this.weight, this.density, this.slant] = Array.from({ length: 5 }, () => new Float64Array(n));
    this.query = new RayQuery(job.tree);
  }

  /** The photographs that see a place, a bit each: it lies in their frame, faces them, and nothing stands between. */
  visible(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number {
    const { photos, extentMm } = this.job;
    const out = OUT * extentMm;
    const [ox, oy, oz] = [px + out * nx, py + out * ny, pz + out * nz];
    let seen = 0;
    for (let i = 0; i < photos.length; i++) {
      if (!this.frame(i, px, py, pz, nx, ny, nz)) continue;
      const [cx, cy, cz] = photos[i].camera.position;
      if (!this.query.any(ox, oy, oz, cx - ox, cy - oy, cz - oz, 1e-7, 1)) seen |= 1 << i;
    }
    return seen;
  }

  /**
   * What the photographs of a mask show at a place: blended by how many pixels they have there and how straight they look, both squared.
   *
   * @param texelMm side of what is to be shown, mm: photographs that are far finer are read from smaller levels
   * @returns false where none of them does
   */
  read(mask: number, px: number, py: number, pz: number, nx: number, ny: number, nz: number, texelMm: number): boolean {
    const { photos } = this.job;
    let whole = 0;
    this.best = -1;
    let most = 0;
    for (let i = 0; i < photos.length; i++) {
      this.weight[i] = 0;
      if ((mask & (1 << i)) === 0 || !this.frame(i, px, py, pz, nx, ny, nz)) continue;
      whole += this.weight[i];
      if (this.weight[i] > most) {
        most = this.weight[i];
        this.best = i;
      }
    }
    if (this.best < 0) return false;
    this.pxPerMm = Math.sqrt(this.density[this.best]);
    this.cos = this.slant[this.best];
    this.red = 0;
    this.green = 0;
    this.blue = 0;
    for (let i = 0; i < photos.length; i++) {
      const w = this.weight[i] / whole;
      if (w < 1e-4) continue;
      const { gain } = photos[i];
      this.at(i, texelMm);
      this.red += w * gain * this.sampled[0];
      this.green += w * gain * this.sampled[1];
      this.blue += w * gain * this.sampled[2];
    }
    return true;
  }

  /** What one photograph shows at a place that was read last, linear, without its gain; false where it wasn’t asked. */
  alone(i: number, out: Float64Array, texelMm: number): boolean {
    if (this.weight[i] === 0) return false;
    this.at(i, texelMm);
    for (let k = 0; k < 3; k++) out[k] = this.sampled[k];
    return true;
  }

  /** How much a photograph said at the place that was read last, of all that were asked. */
  weightOf = (i: number): number => this.weight[i];

  private at(i: number, texelMm: number): void {
    const { camera, levels } = this.job.photos[i];
    // Pixels along what is to be shown: a level at which there is about one.
    let level = 0;
    for (let across = Math.sqrt(this.density[i]) * texelMm; across > COARSER && level < levels.length - 1; across /= 2) level++;
    const { width, height, channels, data } = levels[level];
    const [u, v] = [this.x[i] / camera.width, this.y[i] / camera.height];
    if (channels !== 3) {
      samplePicture(levels[level], u, 1 - v, CLAMPED, false, true, this.sampled);
      return;
    }
    // The same for three channels, which is what photographs have: the hot loop of all this.
    const x = Math.min(width - 1, Math.max(0, u * width - 0.5));
    const y = Math.min(height - 1, Math.max(0, v * height - 0.5));
    const x0 = Math.floor(x);
    const y0 = Math.floor(y);
    const fx = x - x0;
    const fy = y - y0;
    const a = 3 * (y0 * width + x0);
    const b = x0 + 1 < width ? a + 3 : a;
    const down = y0 + 1 < height ? 3 * width : 0;
    const wa = (1 - fx) * (1 - fy);
    const wb = fx * (1 - fy);
    const wc = (1 - fx) * fy;
    const wd = fx * fy;
    const { sampled } = this;
    sampled[0] = wa * LINEAR[data[a]] + wb * LINEAR[data[b]] + wc * LINEAR[data[a + down]] + wd * LINEAR[data[b + down]];
    sampled[1] = wa * LINEAR[data[a + 1]] + wb * LINEAR[data[b + 1]] + wc * LINEAR[data[a + down + 1]] + wd * LINEAR[data[b + down + 1]];
    sampled[2] = wa * LINEAR[data[a + 2]] + wb * LINEAR[data[b + 2]] + wc * LINEAR[data[a + down + 2]] + wd * LINEAR[data[b + down + 2]];
  }

  /** Where a place lies in a photograph and how much that says; false where it lies outside, or faces away. */
  private frame(i: number, px: number, py: number, pz: number, nx: number, ny: number, nz: number): boolean {
    const { camera, levels } = this.job.photos[i];
    const { axes, origin, position, focalPx, middle, bending, width, height } = camera;
    const [vx, vy, vz] = [position[0] - px, position[1] - py, position[2] - pz];
    const facing = nx * vx + ny * vy + nz * vz;
    if (facing <= 0) return false;
    const far = Math.sqrt(vx * vx + vy * vy + vz * vz);
    const cos = facing / far;
    if (cos < LEAST_COS) return false;
    const cz = origin[2] + axes[0][2] * px + axes[1][2] * py + axes[2][2] * pz;
    if (!(cz > 1e-9)) return false;
    let x = (focalPx * (origin[0] + axes[0][0] * px + axes[1][0] * py + axes[2][0] * pz)) / cz;
    let y = (focalPx * (origin[1] + axes[0][1] * px + axes[1][1] * py + axes[2][1] * pz)) / cz;
    const diagonal = Math.sqrt(width * width + height * height);
    if (bending !== 0) {
      const half = diagonal / 2;
      const straight = Math.sqrt(x * x + y * y) / half;
      let r = straight;
      for (let k = 0; k < 8; k++) {
        const slope = 1 + 3 * bending * r * r;
        if (slope < 1e-3) return false;
        r -= (r * (1 + bending * r * r) - straight) / slope;
      }
      const k = straight > 1e-12 ? r / straight : 1;
      x *= k;
      y *= k;
    }
    x += middle[0];
    y += middle[1];
    const inside = Math.min(x, y, width - x, height - y);
    if (!(inside > 0)) return false;
    const { width: across, channels, data } = levels[0];
    // What was cut out of a photograph shows nothing.
    if (channels === 4 && data[4 * (Math.floor(y) * across + Math.floor(x)) + 3] < 128) return false;
    // f² cos / z³ along the ray: pixels of a photograph on a mm² of the surface.
    const density = (focalPx * focalPx * facing) / (cz * cz * cz);
    const rim = Math.min(1, inside / (FADE * diagonal));
    this.x[i] = x;
    this.y[i] = y;
    this.density[i] = density;
    this.slant[i] = cos;
    this.weight[i] = (density * cos * density * cos + 1e-12) * (0.001 + rim * rim * (3 - 2 * rim));
    return true;
  }
}
