import { type EnergyTable, lookUp, lookUpMean } from './energy';
import { f0Of, fresnel, schlickWeight, slabReflectance } from './fresnel';
import { ggxD, LEAST_ALPHA, lambda, sampleVisibleNormal } from './ggx';

/** Dielectric coat: index 1.5. */
const COAT_F0 = 0.04;

/**
 * The scattering of one point of a surface, metallic–roughness with clear coat and thin transmission, after the open glTF
 * material model and its extensions. One object per thread: {@link set} it, then evaluate and sample; answers stand in its
 * fields, nothing is allocated.
 *
 *   f = coat + (1 − coat's share)·( m·metal + (1 − m)(1 − t)·(specular + diffuse) + (1 − m)·t·glass )
 *
 * - Metal and dielectric specular: GGX. Light that bounced more than once on the metal's facets is given back by the factor
 *   1 + F₀(1 − E)/E (Turquin 2019, after Kulla & Conty 2017), exact for F₀ = 1.
 * - Diffuse takes what the specular leaves: (1 − E(o))(1 − E(i))/(π(1 − Ē)) (Kelemen & Szirmay-Kalos 2001).
 * - Glass is thin: what isn't reflected goes on without bending, scattered by roughness as the reflection is, mirrored in
 *   the surface. Both are divided by E, so that no energy is lost. Fresnel is exact; a single sheet counts as a slab.
 *
 * Directions stand in the frame of the surface, z its normal; both point away from it. `oz` is above zero.
 */
export class Bsdf {
  /** Colour factors: f · cos for {@link evaluate}, throughput for {@link sample}. */
  readonly value = new Float64Array(3);
  /** Per solid angle; 0 where the lobe is a delta. */
  pdf = 0;
  /** The sampled direction. */
  readonly direction = new Float64Array(3);
  /** The sampled direction belongs to a mirror or to glass gone straight through. */
  delta = false;
  /** The sampled ray goes on exactly as it came. */
  straight = false;

  private r = 0;
  private g = 0;
  private b = 0;
  private metallic = 0;
  private roughness = 0;
  private alpha = LEAST_ALPHA;
  private ior = 1.5;
  private f0 = 0.04;
  private f90 = 1;
  private transmission = 0;
  private slab = false;
  private coat = 0;
  private coatRoughness = 0;
  private coatAlpha = LEAST_ALPHA;
  /** Directional figures of the outgoing direction. */
  private facets = 1;
  private dielectric = 0.04;
  private meanDielectric = 0.04;
  private coatShare = 0;
  private pCoat = 0;
  private pSpecular = 0;
  private pDiffuse = 0;
  private pGlass = 0;
  private readonly ab = new Float64Array(2);
  private readonly h = new Float64Array(3);

  constructor(private readonly table: EnergyTable) {}

  /** @param slab a single sheet stands for both sides of a pane */
  set(
    r: number,
    g: number,
    b: number,
    metallic: number,
    roughness: number,
    ior: number,
    transmission: number,
    slab: boolean,
    coat: number,
    coatRoughness: number,
  ): void {
    this.r = r;
    this.g = g;
    this.b = b;
    this.metallic = metallic;
    this.roughness = roughness;
    this.alpha = Math.max(LEAST_ALPHA, roughness * roughness);
    this.ior = ior;
    this.f0 = f0Of(ior);
    // Nothing real reflects less than 2 % head on; below that the grazing reflection fades too (Lagarde 2011), so that index 1
    // is a pure diffuser.
    this.f90 = Math.min(1, 50 * this.f0);
    this.transmission = transmission;
    this.slab = slab;
    this.coat = coat;
    this.coatRoughness = coatRoughness;
    this.coatAlpha = Math.max(LEAST_ALPHA, coatRoughness * coatRoughness);
  }

  /** Whether glass here is smooth enough to be gone through straight. */
  get clear(): boolean {
    return this.alpha <= LEAST_ALPHA;
  }

  /** What smooth glass lets straight through at a cosine, per channel in `value`. */
  through(cos: number): void {
    const t = (1 - this.metallic) * this.transmission * (1 - this.reflected(cos)) * (1 - this.coat * this.coatAlbedo(cos));
    this.value[0] = t * this.r;
    this.value[1] = t * this.g;
    this.value[2] = t * this.b;
  }

  private reflected(cos: number): number {
    const f = fresnel(cos, this.ior);
    return this.slab ? slabReflectance(f) : f;
  }

  private coatAlbedo(cos: number): number {
    if (this.coat === 0) return 0;
    lookUp(this.table, cos, this.coatRoughness, this.ab);
    return COAT_F0 * this.ab[0] + this.ab[1];
  }

  /** Figures that depend on the outgoing direction only. Call before {@link evaluate} and {@link sample}. */
  look(oz: number): void {
    lookUp(this.table, oz, this.roughness, this.ab);
    this.facets = this.ab[0] + this.ab[1];
    this.dielectric = this.f0 * this.ab[0] + this.f90 * this.ab[1];
    lookUpMean(this.table, this.roughness, this.ab);
    this.meanDielectric = this.f0 * this.ab[0] + this.f90 * this.ab[1];
    this.coatShare = this.coat * this.coatAlbedo(oz);
    const bright = Math.max(this.r, this.g, this.b);
    const opaque = (1 - this.metallic) * (1 - this.transmission);
    const specular = this.metallic * Math.max(0.1, bright) + opaque * this.dielectric;
    const diffuse = opaque * (1 - this.dielectric) * bright;
    const glass = (1 - this.metallic) * this.transmission;
    const sum = specular + diffuse + glass || 1;
    this.pCoat = this.coatShare;
    const rest = (1 - this.pCoat) / sum;
    this.pSpecular = specular * rest;
    this.pDiffuse = diffuse * rest;
    this.pGlass = glass * rest;
    if (specular + diffuse + glass === 0) this.pSpecular = 1 - this.pCoat;
  }

  /** f · |cos i| and the pdf of {@link sample} for a pair of directions; deltas count nothing. */
  evaluate(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number): void {
    const { value } = this;
    value[0] = 0;
    value[1] = 0;
    value[2] = 0;
    this.pdf = 0;
    if (iz === 0) return;
    if (iz < 0) {
      if (this.pGlass === 0 || this.clear) return;
      // The mirrored direction says which facet it came by.
      this.glass(ox, oy, oz, ix, iy, -iz, true);
      return;
    }
    let hx = ox + ix;
    let hy = oy + iy;
    let hz = oz + iz;
    const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
    hx *= l;
    hy *= l;
    hz *= l;
    const oh = ox * hx + oy * hy + oz * hz;
    const fc = schlickWeight(oh);
    const under = 1 - this.coatShare;
    const opaque = (1 - this.metallic) * (1 - this.transmission);
    if (this.pSpecular > 0) {
      const lo = lambda(oz, this.alpha);
      const d = ggxD(hz, this.alpha) / (4 * oz);
      const shape = (under * d) / (1 + lo + lambda(iz, this.alpha));
      const dielectric = opaque * (this.f0 + (this.f90 - this.f0) * fc);
      const lost = (1 - this.facets) / this.facets;
      const m = this.metallic;
      value[0] += shape * (dielectric + m * (this.r + (1 - this.r) * fc) * (1 + this.r * lost));
      value[1] += shape * (dielectric + m * (this.g + (1 - this.g) * fc) * (1 + this.g * lost));
      value[2] += shape * (dielectric + m * (this.b + (1 - this.b) * fc) * (1 + this.b * lost));
      this.pdf += (this.pSpecular * d) / (1 + lo);
    }
    if (this.pDiffuse > 0) {
      lookUp(this.table, iz, this.roughness, this.ab);
      const own = this.f0 * this.ab[0] + this.f90 * this.ab[1];
      const k = (under * opaque * (1 - this.dielectric) * (1 - own) * iz) / (Math.PI * (1 - this.meanDielectric));
      value[0] += k * this.r;
      value[1] += k * this.g;
      value[2] += k * this.b;
      this.pdf += (this.pDiffuse * iz) / Math.PI;
    }
    if (this.pGlass > 0 && !this.clear) this.glass(ox, oy, oz, ix, iy, iz, false);
    if (this.coat > 0) {
      const lo = lambda(oz, this.coatAlpha);
      const d = ggxD(hz, this.coatAlpha) / (4 * oz);
      const f = (this.coat * (COAT_F0 + (1 - COAT_F0) * fc) * d) / (1 + lo + lambda(iz, this.coatAlpha));
      value[0] += f;
      value[1] += f;
      value[2] += f;
      this.pdf += (this.pCoat * d) / (1 + lo);
    }
  }

  /** The rough glass lobe, reflected or mirrored through. `iz` is above zero. */
  private glass(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number, beyond: boolean): void {
    let hx = ox + ix;
    let hy = oy + iy;
    let hz = oz + iz;
    const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
    hx *= l;
    hy *= l;
    hz *= l;
    const reflected = this.reflected(Math.min(1, ox * hx + oy * hy + oz * hz));
    const f = beyond ? 1 - reflected : reflected;
    const lo = lambda(oz, this.alpha);
    const d = ggxD(hz, this.alpha) / (4 * oz);
    const amount =
      ((1 - this.coatShare) * (1 - this.metallic) * this.transmission * f * d) / (this.facets * (1 + lo + lambda(iz, this.alpha)));
    this.value[0] += amount * (beyond ? this.r : 1);
    this.value[1] += amount * (beyond ? this.g : 1);
    this.value[2] += amount * (beyond ? this.b : 1);
    this.pdf += (this.pGlass * f * d) / (1 + lo);
  }

  /**
   * Draws a direction. `value` is its throughput f·|cos|/pdf; false when the path ends here.
   * @param u1 @param u2 the direction within the lobe @param u3 which lobe
   */
  sample(ox: number, oy: number, oz: number, u1: number, u2: number, u3: number): boolean {
    const { direction, h, value } = this;
    this.delta = false;
    this.straight = false;
    let pick = u3;
    if (pick < this.pGlass) {
      pick /= this.pGlass;
      if (this.clear) return this.sampleClear(ox, oy, oz, pick);
      sampleVisibleNormal(ox, oy, oz, this.alpha, u1, u2, h);
      const oh = ox * h[0] + oy * h[1] + oz * h[2];
      const iz = 2 * oh * h[2] - oz;
      if (iz <= 0) return false;
      direction[0] = 2 * oh * h[0] - ox;
      direction[1] = 2 * oh * h[1] - oy;
      direction[2] = pick < this.reflected(Math.min(1, oh)) ? iz : -iz;
    } else {
      pick -= this.pGlass;
      if (pick < this.pDiffuse) {
        const r = Math.sqrt(u1);
        direction[0] = r * Math.cos(2 * Math.PI * u2);
        direction[1] = r * Math.sin(2 * Math.PI * u2);
        direction[2] = Math.sqrt(Math.max(1e-12, 1 - u1));
      } else {
        const alpha = pick - this.pDiffuse < this.pCoat ? this.coatAlpha : this.alpha;
        sampleVisibleNormal(ox, oy, oz, alpha, u1, u2, h);
        const oh = ox * h[0] + oy * h[1] + oz * h[2];
        direction[0] = 2 * oh * h[0] - ox;
        direction[1] = 2 * oh * h[1] - oy;
        direction[2] = 2 * oh * h[2] - oz;
        if (direction[2] <= 0) return false;
      }
    }
    this.evaluate(ox, oy, oz, direction[0], direction[1], direction[2]);
    if (!(this.pdf > 1e-12)) return false;
    for (let k = 0; k < 3; k++) value[k] /= this.pdf;
    return true;
  }

  /** Smooth glass: mirrored by Fresnel's share, else straight on. */
  private sampleClear(ox: number, oy: number, oz: number, pick: number): boolean {
    const { direction, value } = this;
    this.delta = true;
    this.pdf = 0;
    const f = this.reflected(oz);
    const weight = ((1 - this.coatShare) * (1 - this.metallic) * this.transmission) / this.pGlass;
    if (pick < f) {
      direction[0] = -ox;
      direction[1] = -oy;
      direction[2] = oz;
      value[0] = weight;
      value[1] = weight;
      value[2] = weight;
    } else {
      this.straight = true;
      direction[0] = -ox;
      direction[1] = -oy;
      direction[2] = -oz;
      value[0] = weight * this.r;
      value[1] = weight * this.g;
      value[2] = weight * this.b;
    }
    return true;
  }
}
