import { type Lamp, lampArea, lampNormal } from '../light/lamps';
import type { Emitter, Scene } from './scene';

/** One thing that can be chosen as a light: a lamp, or a glowing part as a whole. Lamps come first. */
export interface Light {
  lamp: Lamp | null;
  emitter: Emitter | null;
  x: number;
  y: number;
  z: number;
  /** Where a lamp shines. */
  nx: number;
  ny: number;
  nz: number;
  r: number;
  g: number;
  b: number;
  /** mm². */
  area: number;
  /** In proportion to its power, for choosing. */
  power: number;
  /** Nearer than its own size its distance no longer counts, mm². */
  radius2: number;
}

/** The lights of a scene, lamps first. */
function lightsOf(scene: Scene): Light[] {
  return [
    ...scene.lamps.map((lamp): Light => {
      const n = lampNormal(lamp);
      const area = lampArea(lamp) * 1e6;
      const [r, g, b] = lamp.radiance;
      return {
        lamp,
        emitter: null,
        x: lamp.centre[0],
        y: lamp.centre[1],
        z: lamp.centre[2],
        nx: n[0],
        ny: n[1],
        nz: n[2],
        r,
        g,
        b,
        area,
        power: area * (r + g + b),
        radius2: area,
      };
    }),
    ...scene.emitters.map((emitter): Light => {
      const area = emitter.areas[emitter.areas.length - 1];
      return {
        lamp: null,
        emitter,
        x: emitter.centre[0],
        y: emitter.centre[1],
        z: emitter.centre[2],
        nx: 0,
        ny: 0,
        nz: 0,
        r: 0,
        g: 0,
        b: 0,
        area,
        // A closed body shows about half of its surface, by a mean cosine of one half.
        power: area * emitter.radiance * 3 * 0.25,
        radius2: emitter.radius * emitter.radius,
      };
    }),
  ];
}

/** The smallest distance to a lamp that counts, mm. */
const STEP = 1.5e-3;

/** Chooses among a scene's lights for one thread. Answers stand in its fields; nothing is allocated. */
export class Lights {
  readonly list: Light[];
  // The chosen point.
  x = 0;
  y = 0;
  z = 0;
  pdf = 0;
  readonly radiance = new Float64Array(3);
  private readonly weights: Float64Array;

  constructor(private readonly scene: Scene) {
    this.list = lightsOf(scene);
    this.weights = new Float64Array(this.list.length);
  }

  /** Chance of a light group being chosen at a place: by its power and distance. */
  chance(group: number, x: number, y: number, z: number): number {
    this.weigh(x, y, z);
    return this.weights[group] / this.weightSum;
  }
  private weightSum = 0;
  private weigh(x: number, y: number, z: number): void {
    const { list: lights, weights } = this;
    let sum = 0;
    for (let i = 0; i < lights.length; i++) {
      const l = lights[i];
      const d2 = (l.x - x) ** 2 + (l.y - y) ** 2 + (l.z - z) ** 2;
      const w = l.power / Math.max(d2, l.radius2);
      weights[i] = w;
      sum += w;
    }
    this.weightSum = sum;
  }

  /**
   * Chooses a light and a point on it, as seen from a place; `pdf` is per solid angle, 0 where it shines away.
   *
   * @param s @param t the point @param u1 which light @param u2 which triangle of a glowing part
   */
  pick(px: number, py: number, pz: number, s: number, t: number, u1: number, u2: number): void {
    const { list: lights, weights, scene, radiance } = this;
    this.pdf = 0;
    if (lights.length === 0) return;
    this.weigh(px, py, pz);
    let pick = u1 * this.weightSum;
    let g = 0;
    while (g < lights.length - 1 && pick >= weights[g]) pick -= weights[g++];
    const l = lights[g];
    let [nx, ny, nz] = [l.nx, l.ny, l.nz];
    if (l.lamp) {
      const { centre: c, u, v } = l.lamp;
      const [a, b] = [2 * s - 1, 2 * t - 1];
      this.x = c[0] + a * u[0] + b * v[0];
      this.y = c[1] + a * u[1] + b * v[1];
      this.z = c[2] + a * u[2] + b * v[2];
      radiance[0] = l.r;
      radiance[1] = l.g;
      radiance[2] = l.b;
    } else if (l.emitter) {
      const { areas, triangles } = l.emitter;
      const at = u2 * areas[areas.length - 1];
      let [low, high] = [0, areas.length - 1];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (areas[middle] > at) high = middle;
        else low = middle + 1;
      }
      const triangle = triangles[low];
      const o = 9 * triangle;
      const c = scene.corners;
      // Evenly over a triangle (Turk 1990).
      const q = Math.sqrt(s);
      const [w0, w1, w2] = [1 - q, q * (1 - t), q * t];
      this.x = w0 * c[o] + w1 * c[o + 3] + w2 * c[o + 6];
      this.y = w0 * c[o + 1] + w1 * c[o + 4] + w2 * c[o + 7];
      this.z = w0 * c[o + 2] + w1 * c[o + 5] + w2 * c[o + 8];
      const [ax, ay, az] = [c[o + 3] - c[o], c[o + 4] - c[o + 1], c[o + 5] - c[o + 2]];
      const [ex, ey, ez] = [c[o + 6] - c[o], c[o + 7] - c[o + 1], c[o + 8] - c[o + 2]];
      nx = ay * ez - az * ey;
      ny = az * ex - ax * ez;
      nz = ax * ey - ay * ex;
      const n = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
      nx *= n;
      ny *= n;
      nz *= n;
      const e = scene.materials[scene.material[triangle]].emission;
      radiance[0] = e[0];
      radiance[1] = e[1];
      radiance[2] = e[2];
    }
    const [dx, dy, dz] = [this.x - px, this.y - py, this.z - pz];
    const d2 = dx * dx + dy * dy + dz * dz;
    const cos = -(dx * nx + dy * ny + dz * nz) / Math.sqrt(d2);
    if (cos <= 1e-6) return;
    this.pdf = ((weights[g] / this.weightSum) * d2) / (cos * l.area);
  }

  /** Distance to the lamp that {@link meet} found. */
  t = 0;
  /** The nearest lamp met from its shining side before `far`, or −1. */
  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): number {
    let found = -1;
    let best = far;
    for (let i = 0; i < this.list.length; i++) {
      const l = this.list[i];
      if (!l.lamp) break;
      const down = dx * l.nx + dy * l.ny + dz * l.nz;
      if (down >= -1e-9) continue;
      const { centre: c, u, v } = l.lamp;
      const t = ((c[0] - ox) * l.nx + (c[1] - oy) * l.ny + (c[2] - oz) * l.nz) / down;
      if (t <= STEP || t >= best) continue;
      const [x, y, z] = [ox + dx * t - c[0], oy + dy * t - c[1], oz + dz * t - c[2]];
      if (Math.abs(x * u[0] + y * u[1] + z * u[2]) > u[0] * u[0] + u[1] * u[1] + u[2] * u[2]) continue;
      if (Math.abs(x * v[0] + y * v[1] + z * v[2]) > v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) continue;
      best = t;
      found = i;
    }
    this.t = best;
    return found;
  }

  /** The light group a glowing triangle belongs to. */
  groupOf(triangle: number): number {
    for (let i = 0; i < this.list.length; i++) {
      const e = this.list[i].emitter;
      if (e && triangle >= e.triangles[0] && triangle <= e.triangles[e.triangles.length - 1]) return i;
    }
    return 0;
  }
}
