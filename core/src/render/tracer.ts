import { hash32, sobol2 } from '../maths/random';
import { RayQuery } from '../rays/query';
import type { RayTree } from '../rays/tree';
import { Bsdf } from '../surface/bsdf/bsdf';
import { LEAST_ALPHA } from '../surface/bsdf/ggx';
import { Lights } from './lights';
import type { Scene } from './scene';
import { readTexture } from './texture';

/** Numbers a sample adds to the film: light, the ground's weight by colour, its light with and without shadow, light held back. */
export const CHANNELS = 9;

/** Off a surface by this much, mm: float32 corners a metre from the origin are good to a tenth of it. */
const STEP = 1.5e-3;
const MAX_BOUNCES = 10;
/** Straight passages through clear glass, beside the bounces. */
const MAX_PASSAGES = 24;
/** Russian roulette from this bounce on. */
const ROULETTE = 3;

/** What the tracer asks rays of: the project's own query, or another in a benchmark. */
export type Rays = Pick<RayQuery, 't' | 'triangle' | 'u' | 'v'> & {
  closest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean;
};

/**
 * A path tracer: one light and one scattering sample at every hit, weighed against each other by the power heuristic
 * (Veach 1997), thin lens, Russian roulette, scrambled Sobol numbers of its own for every pixel and dimension. One object
 * per thread; a sample allocates nothing.
 *
 * Clear glass is gone through straight: such a passage is no vertex, so a lamp behind it can be sampled and hit alike. Shadow
 * rays are attenuated by each pane by Fresnel and colour; that leaves out the bending, and so caustics. Rough glass scatters
 * and stands in the way of shadow rays like anything else. Lamps are not seen by the camera and shine to one side.
 *
 * Light that reaches a rough surface by way of a mirror or a pane's reflection can't be sampled, only chanced upon. It is held
 * to `scene.clamp`, and what that takes off is summed, so that it can be said.
 */
export class PathTracer {
  /** What the last sample adds. */
  readonly out = new Float64Array(CHANNELS);
  /** Rays cast so far. */
  rays = 0;

  private readonly query: Rays;
  private readonly bsdf: Bsdf;
  private readonly pane: Bsdf;
  private readonly u = new Float64Array(2);
  private readonly lights: Lights;
  private seed = 0;
  private index = 0;
  private dimension = 0;

  // The present hit.
  private px = 0;
  private py = 0;
  private pz = 0;
  /** Facet's normal, towards the viewer. */
  private gx = 0;
  private gy = 0;
  private gz = 0;
  /** Shading frame. */
  private nx = 0;
  private ny = 0;
  private nz = 0;
  private tx = 0;
  private ty = 0;
  private tz = 0;
  private bx = 0;
  private by = 0;
  private bz = 0;
  private front = true;
  private readonly albedo = new Float64Array(3);
  /** Whether the surface that was met does nothing but let light through. */
  private straightOnly = false;
  /** What a pane on the way to a lamp is like where it is passed. */
  private readonly glass = new Float64Array(3);
  private readonly through = new Float64Array(3);

  constructor(
    private readonly scene: Scene,
    rays?: (tree: RayTree) => Rays,
  ) {
    this.query = rays ? rays(scene.tree) : new RayQuery(scene.tree);
    this.bsdf = new Bsdf(scene.energy);
    this.pane = new Bsdf(scene.energy);
    this.lights = new Lights(scene);
  }

  /** Two numbers of the next dimension. */
  private next(): void {
    sobol2(this.index, hash32(this.seed + Math.imul(this.dimension++, 0x9e3779b1)), this.u);
  }

  /**
   * One sample of a pixel; the sum of many, divided by their count, is the pixel.
   *
   * @param x @param y px from the top left @param width @param height of the picture
   * @param index number of the sample in its sequence @param seed of the sequence
   */
  sample(x: number, y: number, width: number, height: number, index: number, seed: number): void {
    const { camera } = this.scene;
    this.out.fill(0);
    this.index = index;
    this.seed = hash32(seed ^ Math.imul(y * 65536 + x, 0x85ebca6b));
    this.dimension = 0;
    this.next();
    const sx = (2 * ((x + this.u[0]) / width) - 1) * camera.tanX + (camera.shiftX ?? 0);
    const sy = (1 - 2 * ((y + this.u[1]) / height)) * camera.tanY + (camera.shiftY ?? 0);
    this.next();
    const { position: o, forward: f, right: r, up } = camera;
    const radius = camera.lensRadius * Math.sqrt(this.u[0]);
    const angle = 2 * Math.PI * this.u[1];
    const [a, b] = [radius * Math.cos(angle), radius * Math.sin(angle)];
    let dx = camera.focus * (f[0] + sx * r[0] + sy * up[0]) - a * r[0] - b * up[0];
    let dy = camera.focus * (f[1] + sx * r[1] + sy * up[1]) - a * r[1] - b * up[1];
    let dz = camera.focus * (f[2] + sx * r[2] + sy * up[2]) - a * r[2] - b * up[2];
    const l = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz);
    dx *= l;
    dy *= l;
    dz *= l;
    this.path(o[0] + a * r[0] + b * up[0], o[1] + a * r[1] + b * up[1], o[2] + a * r[2] + b * up[2], dx, dy, dz);
  }

  // Hot: everything below is plain arithmetic on locals and typed arrays.
  private path(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): void {
    const { scene, query, out, bsdf } = this;
    const { environment } = scene;
    let br = 1;
    let bg = 1;
    let bb = 1;
    // The last vertex that scattered, and how likely it was to scatter here; the camera and mirrors count alone.
    let vx = ox;
    let vy = oy;
    let vz = oz;
    let pdf = 0;
    let alone = true;
    let seen = true;
    let rough = false;
    let bounces = 0;
    for (let passages = 0; passages < MAX_PASSAGES; passages++) {
      this.rays++;
      const hit = query.closest(ox, oy, oz, dx, dy, dz, STEP, Infinity);
      const lamp = seen ? -1 : this.lights.meet(ox, oy, oz, dx, dy, dz, hit ? query.t : Infinity);
      if (lamp >= 0) {
        const light = this.lights.list[lamp];
        let w = 1;
        if (!alone) {
          const { t } = this.lights;
          const [hx, hy, hz] = [ox + dx * t, oy + dy * t, oz + dz * t];
          const d2 = (hx - vx) ** 2 + (hy - vy) ** 2 + (hz - vz) ** 2;
          const cos = -(dx * light.nx + dy * light.ny + dz * light.nz);
          const p = (this.lights.chance(lamp, vx, vy, vz) * d2) / (cos * light.area);
          w = (pdf * pdf) / (pdf * pdf + p * p);
        }
        this.arrived(br * light.r * w, bg * light.g * w, bb * light.b * w, alone && rough);
        return;
      }
      if (!hit) {
        if (seen && scene.background !== 'paper') this.ground(br, bg, bb, 1, 1);
        else {
          out[0] += br * environment[0];
          out[1] += bg * environment[1];
          out[2] += bb * environment[2];
        }
        return;
      }
      const triangle = query.triangle;
      const m = scene.materials[scene.material[triangle]];
      this.arrive(triangle, query.u, query.v, dx, dy, dz);
      if (m.emission[0] + m.emission[1] + m.emission[2] > 0 && this.front) {
        let w = 1;
        if (!alone) {
          const group = this.lights.groupOf(triangle);
          const light = this.lights.list[group];
          const d2 = (this.px - vx) ** 2 + (this.py - vy) ** 2 + (this.pz - vz) ** 2;
          const cos = -(dx * this.gx + dy * this.gy + dz * this.gz);
          const p = (this.lights.chance(group, vx, vy, vz) * d2) / (Math.max(1e-9, cos) * light.area);
          w = (pdf * pdf) / (pdf * pdf + p * p);
        }
        this.arrived(br * m.emission[0] * w, bg * m.emission[1] * w, bb * m.emission[2] * w, alone && rough);
      }
      if (seen && triangle >= scene.backdropFrom && scene.background !== 'paper') {
        this.shadowed(br, bg, bb);
        return;
      }
      this.surface(m, triangle, query.u, query.v, dx, dy, dz);
      const wx = -(dx * this.tx + dy * this.ty + dz * this.tz);
      const wy = -(dx * this.bx + dy * this.by + dz * this.bz);
      const wz = Math.max(1e-4, -(dx * this.nx + dy * this.ny + dz * this.nz));
      bsdf.look(wz);
      if (!(this.straightOnly && bsdf.clear)) this.direct(br, bg, bb, wx, wy, wz);
      this.next();
      const u1 = this.u[0];
      const u2 = this.u[1];
      this.next();
      if (!bsdf.sample(wx, wy, wz, u1, u2, this.u[0])) return;
      br *= bsdf.value[0];
      bg *= bsdf.value[1];
      bb *= bsdf.value[2];
      if (!(br + bg + bb > 0)) return;
      if (bsdf.straight) {
        // On the same line: off the far side.
        ox = this.px;
        oy = this.py;
        oz = this.pz;
        continue;
      }
      const ix = bsdf.direction[0];
      const iy = bsdf.direction[1];
      const iz = bsdf.direction[2];
      dx = ix * this.tx + iy * this.bx + iz * this.nx;
      dy = ix * this.ty + iy * this.by + iz * this.ny;
      dz = ix * this.tz + iy * this.bz + iz * this.nz;
      const l = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz);
      dx *= l;
      dy *= l;
      dz *= l;
      // A bent normal may not send light through the facet, nor hold back what goes through.
      const side = dx * this.gx + dy * this.gy + dz * this.gz;
      if (side * iz <= 0) return;
      alone = bsdf.delta;
      if (!alone) rough = true;
      pdf = bsdf.pdf;
      seen = false;
      vx = this.px;
      vy = this.py;
      vz = this.pz;
      ox = this.px;
      oy = this.py;
      oz = this.pz;
      if (++bounces >= MAX_BOUNCES) return;
      if (bounces >= ROULETTE) {
        const keep = Math.min(0.95, Math.max(br, bg, bb));
        if (this.u[1] >= keep) return;
        br /= keep;
        bg /= keep;
        bb /= keep;
      }
    }
  }

  private arrived(r: number, g: number, b: number, chanced: boolean): void {
    const { out } = this;
    const top = Math.max(r, g, b);
    const k = chanced && top > this.scene.clamp ? this.scene.clamp / top : 1;
    out[0] += k * r;
    out[1] += k * g;
    out[2] += k * b;
    out[8] += (1 - k) * (r + g + b);
  }

  /** The picture's ground seen past the piece. */
  private ground(br: number, bg: number, bb: number, lit: number, unshaded: number): void {
    const { out } = this;
    out[3] += br;
    out[4] += bg;
    out[5] += bb;
    out[6] += lit;
    out[7] += unshaded;
  }

  /** A backdrop that only takes shadows: its light as it is, and as it would be without the piece. */
  private shadowed(br: number, bg: number, bb: number): void {
    const { scene } = this;
    const around = Math.PI * (scene.environment[0] + scene.environment[1] + scene.environment[2]);
    this.chooseLight();
    const { lights } = this;
    let [dx, dy, dz] = [lights.x - this.px, lights.y - this.py, lights.z - this.pz];
    const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
    dx /= d;
    dy /= d;
    dz /= d;
    const cos = dx * this.gx + dy * this.gy + dz * this.gz;
    let [lit, unshaded] = [0, 0];
    if (cos > 0 && lights.pdf > 0) {
      const e = ((lights.radiance[0] + lights.radiance[1] + lights.radiance[2]) * cos) / lights.pdf;
      unshaded += e;
      if (this.visible(this.px, this.py, this.pz, dx, dy, dz, d)) lit += (e * (this.through[0] + this.through[1] + this.through[2])) / 3;
    }
    this.next();
    const r = Math.sqrt(this.u[0]);
    const [a, b] = [r * Math.cos(2 * Math.PI * this.u[1]), r * Math.sin(2 * Math.PI * this.u[1])];
    this.frame(this.gx, this.gy, this.gz);
    const c = Math.sqrt(1 - this.u[0]);
    unshaded += around;
    const [ex, ey, ez] = [
      a * this.tx + b * this.bx + c * this.gx,
      a * this.ty + b * this.by + c * this.gy,
      a * this.tz + b * this.bz + c * this.gz,
    ];
    if (this.visible(this.px, this.py, this.pz, ex, ey, ez, Infinity))
      lit += (around * (this.through[0] + this.through[1] + this.through[2])) / 3;
    this.ground(br, bg, bb, lit, unshaded);
  }

  /** Place, facet and which side of it was met. */
  private arrive(triangle: number, u: number, v: number, dx: number, dy: number, dz: number): void {
    const c = this.scene.corners;
    const o = 9 * triangle;
    const w = 1 - u - v;
    this.px = w * c[o] + u * c[o + 3] + v * c[o + 6];
    this.py = w * c[o + 1] + u * c[o + 4] + v * c[o + 7];
    this.pz = w * c[o + 2] + u * c[o + 5] + v * c[o + 8];
    const ax = c[o + 3] - c[o];
    const ay = c[o + 4] - c[o + 1];
    const az = c[o + 5] - c[o + 2];
    const ex = c[o + 6] - c[o];
    const ey = c[o + 7] - c[o + 1];
    const ez = c[o + 8] - c[o + 2];
    let gx = ay * ez - az * ey;
    let gy = az * ex - ax * ez;
    let gz = ax * ey - ay * ex;
    const l = 1 / (Math.sqrt(gx * gx + gy * gy + gz * gz) || 1);
    this.front = gx * dx + gy * dy + gz * dz < 0;
    const s = this.front ? l : -l;
    gx *= s;
    gy *= s;
    gz *= s;
    this.gx = gx;
    this.gy = gy;
    this.gz = gz;
  }

  /** Two directions at right angles to a normal (Duff et al. 2017). */
  private frame(x: number, y: number, z: number): void {
    const s = z >= 0 ? 1 : -1;
    const a = -1 / (s + z);
    const b = x * y * a;
    this.tx = 1 + s * x * x * a;
    this.ty = s * b;
    this.tz = -s * x;
    this.bx = b;
    this.by = s + y * y * a;
    this.bz = -y;
  }

  /** Shading frame and material of the hit. */
  private surface(m: Scene['materials'][number], triangle: number, u: number, v: number, dx: number, dy: number, dz: number): void {
    const { normals, tangents, uvs, textures } = this.scene;
    const w = 1 - u - v;
    const o = 9 * triangle;
    let nx = w * normals[o] + u * normals[o + 3] + v * normals[o + 6];
    let ny = w * normals[o + 1] + u * normals[o + 4] + v * normals[o + 7];
    let nz = w * normals[o + 2] + u * normals[o + 5] + v * normals[o + 8];
    let l = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    nx *= l;
    ny *= l;
    nz *= l;
    const k = 6 * triangle;
    const s = w * uvs[k] + u * uvs[k + 2] + v * uvs[k + 4];
    const t = w * uvs[k + 1] + u * uvs[k + 3] + v * uvs[k + 5];
    if (m.normalMap >= 0) {
      const a = 12 * triangle;
      const tx = w * tangents[a] + u * tangents[a + 4] + v * tangents[a + 8];
      const ty = w * tangents[a + 1] + u * tangents[a + 5] + v * tangents[a + 9];
      const tz = w * tangents[a + 2] + u * tangents[a + 6] + v * tangents[a + 10];
      const sign = tangents[a + 3];
      const bx = (ny * tz - nz * ty) * sign;
      const by = (nz * tx - nx * tz) * sign;
      const bz = (nx * ty - ny * tx) * sign;
      readTexture(textures[m.normalMap], s, t, false, this.albedo);
      const x = 2 * this.albedo[0] - 1;
      const y = 2 * this.albedo[1] - 1;
      const z = 2 * this.albedo[2] - 1;
      nx = x * tx + y * bx + z * nx;
      ny = x * ty + y * by + z * ny;
      nz = x * tz + y * bz + z * nz;
      l = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
      nx *= l;
      ny *= l;
      nz *= l;
    }
    if (!this.front) {
      nx = -nx;
      ny = -ny;
      nz = -nz;
    }
    // A shading normal that turns away from the viewer is brought back to just facing.
    const d = nx * dx + ny * dy + nz * dz;
    if (d > -1e-3) {
      const k2 = d + 1e-3;
      nx -= k2 * dx;
      ny -= k2 * dy;
      nz -= k2 * dz;
      l = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz);
      nx *= l;
      ny *= l;
      nz *= l;
    }
    this.nx = nx;
    this.ny = ny;
    this.nz = nz;
    this.frame(nx, ny, nz);
    let { roughness, metallic } = m;
    let r = m.colour[0];
    let g = m.colour[1];
    let b = m.colour[2];
    if (m.ormMap >= 0) {
      readTexture(textures[m.ormMap], s, t, false, this.albedo);
      roughness = this.albedo[1];
      metallic = this.albedo[2];
    }
    if (m.colourMap >= 0) {
      readTexture(textures[m.colourMap], s, t, true, this.albedo);
      r = this.albedo[0];
      g = this.albedo[1];
      b = this.albedo[2];
    }
    let { transmission, coat, coatRoughness } = m;
    if (m.coatMap >= 0) {
      readTexture(textures[m.coatMap], s, t, false, this.albedo);
      coat = this.albedo[0];
      coatRoughness = this.albedo[1];
    }
    if (m.clearMap >= 0 && transmission > 0) {
      readTexture(textures[m.clearMap], s, t, false, this.albedo);
      transmission = this.albedo[0];
    }
    this.straightOnly = transmission === 1 && metallic === 0 && coat === 0;
    this.bsdf.set(r, g, b, metallic, roughness, m.ior, transmission, m.slab, coat, coatRoughness);
  }

  private chooseLight(): void {
    this.next();
    const s = this.u[0];
    const t = this.u[1];
    this.next();
    this.lights.pick(this.px, this.py, this.pz, s, t, this.u[0], this.u[1]);
  }

  /** Light straight from one lamp or flame. */
  private direct(br: number, bg: number, bb: number, wx: number, wy: number, wz: number): void {
    this.chooseLight();
    const { lights } = this;
    if (!(lights.pdf > 0)) return;
    let dx = lights.x - this.px;
    let dy = lights.y - this.py;
    let dz = lights.z - this.pz;
    const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
    dx /= d;
    dy /= d;
    dz /= d;
    const { bsdf, out } = this;
    const iz = dx * this.nx + dy * this.ny + dz * this.nz;
    if ((dx * this.gx + dy * this.gy + dz * this.gz) * iz <= 0) return;
    bsdf.evaluate(wx, wy, wz, dx * this.tx + dy * this.ty + dz * this.tz, dx * this.bx + dy * this.by + dz * this.bz, iz);
    const fr = bsdf.value[0];
    const fg = bsdf.value[1];
    const fb = bsdf.value[2];
    if (!(fr + fg + fb > 0)) return;
    if (!this.visible(this.px, this.py, this.pz, dx, dy, dz, d)) return;
    const p = lights.pdf;
    const w = (p * p) / (p * p + bsdf.pdf * bsdf.pdf) / p;
    out[0] += br * fr * lights.radiance[0] * this.through[0] * w;
    out[1] += bg * fg * lights.radiance[1] * this.through[1] * w;
    out[2] += bb * fb * lights.radiance[2] * this.through[2] * w;
  }

  /** Whether light gets along a line of length `d`; what panes leave of it stands in `through`. */
  private visible(x: number, y: number, z: number, dx: number, dy: number, dz: number, d: number): boolean {
    const { scene, query, through } = this;
    through[0] = 1;
    through[1] = 1;
    through[2] = 1;
    const far = d - Math.max(STEP, d * 1e-5);
    let from = STEP;
    for (let k = 0; k < MAX_PASSAGES; k++) {
      this.rays++;
      if (!query.closest(x, y, z, dx, dy, dz, from, far)) return true;
      const triangle = query.triangle;
      const m = scene.materials[scene.material[triangle]];
      if (m.transmission === 0) return false;
      const c = scene.normals;
      const { u, v } = query;
      const w = 1 - u - v;
      const o = 9 * triangle;
      const nx = w * c[o] + u * c[o + 3] + v * c[o + 6];
      const ny = w * c[o + 1] + u * c[o + 4] + v * c[o + 7];
      const nz = w * c[o + 2] + u * c[o + 5] + v * c[o + 8];
      const cos = Math.abs(nx * dx + ny * dy + nz * dz) / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
      // Where it is smudged light finds its own way: what is rough there is sampled, as it is for a path that comes by.
      let [r, g, b] = m.colour;
      let { roughness, metallic } = m;
      const k = 6 * triangle;
      const s = w * scene.uvs[k] + u * scene.uvs[k + 2] + v * scene.uvs[k + 4];
      const t = w * scene.uvs[k + 1] + u * scene.uvs[k + 3] + v * scene.uvs[k + 5];
      if (m.ormMap >= 0) {
        readTexture(scene.textures[m.ormMap], s, t, false, this.glass);
        roughness = this.glass[1];
        metallic = this.glass[2];
      }
      if (roughness * roughness > LEAST_ALPHA) return false;
      if (m.colourMap >= 0) {
        readTexture(scene.textures[m.colourMap], s, t, true, this.glass);
        [r, g, b] = this.glass;
      }
      let { transmission, coat, coatRoughness } = m;
      if (m.coatMap >= 0) {
        readTexture(scene.textures[m.coatMap], s, t, false, this.glass);
        coat = this.glass[0];
        coatRoughness = this.glass[1];
      }
      if (m.clearMap >= 0) {
        readTexture(scene.textures[m.clearMap], s, t, false, this.glass);
        transmission = this.glass[0];
      }
      this.pane.set(r, g, b, metallic, roughness, m.ior, transmission, m.slab, coat, coatRoughness);
      this.pane.through(Math.min(1, cos));
      through[0] *= this.pane.value[0];
      through[1] *= this.pane.value[1];
      through[2] *= this.pane.value[2];
      if (through[0] + through[1] + through[2] < 1e-4) return false;
      from = query.t * 1.000001 + STEP;
    }
    return false;
  }
}
