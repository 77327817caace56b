import { describe, expect, it } from 'vitest';
import { sobol2 } from '../../maths/random';
import { Bsdf } from './bsdf';
import { energyTable } from './energy';
import { criticalAngle, f0Of, fresnel, schlickWeight, slabReflectance } from './fresnel';
import { ggxD, lambda, sampleVisibleNormal, smithG1 } from './ggx';

const table = energyTable();
type Lobe = [name: string, metallic: number, transmission: number, coat: number];
const LOBES: Lobe[] = [
  ['metal', 1, 0, 0],
  ['dielectric: specular and diffuse', 0, 0, 0],
  ['rough glass', 0, 1, 0],
  ['half glass', 0, 0.5, 0],
  ['coat over metal', 1, 0, 1],
  ['coat over a dielectric', 0, 0, 0.6],
];
const ROUGHNESS = [0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.85, 1];
const COSINES = [0.12, 0.3, 0.6, 0.95];
const of = ([, metallic, transmission, coat]: Lobe, roughness: number, slab = false) => {
  const bsdf = new Bsdf(table);
  bsdf.set(1, 1, 1, metallic, roughness, 1.5, transmission, slab, coat, 0.2);
  return bsdf;
};

/** Share of the light given back, by sampling. */
function albedo(bsdf: Bsdf, cos: number, n = 16384): number {
  const o = [Math.sqrt(1 - cos * cos), 0, cos];
  const u = new Float64Array(2);
  const w = new Float64Array(2);
  bsdf.look(cos);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    sobol2(i, 11, u);
    sobol2(i, 29, w);
    if (bsdf.sample(o[0], o[1], o[2], u[0], u[1], w[0])) sum += bsdf.value[0];
  }
  return sum / n;
}

describe('Fresnel', () => {
  it('F₀ of common indices: ((n − 1)/(n + 1))²', () => {
    expect(f0Of(1.5)).toBeCloseTo(0.04, 4);
    expect(f0Of(1.333)).toBeCloseTo(0.0204, 3);
    expect(f0Of(2.417)).toBeCloseTo(0.172, 3);
    expect(fresnel(1, 1.5)).toBeCloseTo(f0Of(1.5), 12);
    expect(fresnel(0, 1.5)).toBeCloseTo(1, 12);
  });
  it('a slab of index 1.5 lets 0.923 through, and 41.8° is the critical angle', () => {
    expect(1 - slabReflectance(fresnel(1, 1.5))).toBeCloseTo(0.923, 3);
    // The sum over inner reflections, added one by one.
    const f = fresnel(1, 1.5);
    let through = 0;
    for (let k = 0; k < 40; k++) through += (1 - f) ** 2 * f ** (2 * k);
    expect(1 - slabReflectance(f)).toBeCloseTo(through, 12);
    expect((criticalAngle(1.5) * 180) / Math.PI).toBeCloseTo(41.81, 2);
    expect(fresnel(Math.cos(criticalAngle(1.5) + 1e-6), 1 / 1.5)).toBe(1);
    expect(fresnel(Math.cos(criticalAngle(1.5) - 1e-3), 1 / 1.5)).toBeLessThan(1);
  });
  it('at Brewster’s angle, tan θ = n, only one polarisation is reflected: half of ((n² − 1)/(n² + 1))²', () => {
    const n = 1.5;
    expect(fresnel(Math.cos(Math.atan(n)), n)).toBeCloseTo(((n * n - 1) / (n * n + 1)) ** 2 / 2, 10);
  });
  it('Schlick’s approximation stays within 0.02 of the exact value up to 70° for glass', () => {
    for (let deg = 0; deg <= 70; deg += 5) {
      const c = Math.cos((deg * Math.PI) / 180);
      expect(Math.abs(0.04 + 0.96 * schlickWeight(c) - fresnel(c, 1.5))).toBeLessThan(0.02);
    }
  });
});

describe('GGX', () => {
  it('is a distribution: the facets’ projected area is 1 (Walter et al. 2007, eq. 4)', () => {
    for (const alpha of [0.05, 0.3, 1]) {
      let sum = 0;
      const n = 40000;
      for (let i = 0; i < n; i++) {
        const z = (i + 0.5) / n;
        sum += (ggxD(z, alpha) * z * 2 * Math.PI) / n;
      }
      expect(sum).toBeCloseTo(1, 2);
    }
  });
  it('G₁ is what makes the visible facets’ area the cosine (Heitz 2014, eq. 43)', () => {
    const alpha = 0.4;
    for (const cos of [0.2, 0.5, 0.9]) {
      const o = [Math.sqrt(1 - cos * cos), 0, cos];
      let sum = 0;
      const n = 400;
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          const z = (i + 0.5) / n;
          const phi = (2 * Math.PI * (j + 0.5)) / n;
          const oh = o[0] * Math.sqrt(1 - z * z) * Math.cos(phi) + o[2] * z;
          if (oh > 0) sum += (ggxD(z, alpha) * oh * 2 * Math.PI) / (n * n);
        }
      expect(sum * smithG1(cos, alpha)).toBeCloseTo(cos, 2);
      expect(1 / (1 + lambda(cos, alpha))).toBeCloseTo(smithG1(cos, alpha), 12);
    }
  });
  it('sampled normals are unit and face the viewer', () => {
    const h = new Float64Array(3);
    const u = new Float64Array(2);
    for (let i = 0; i < 500; i++) {
      sobol2(i, 3, u);
      sampleVisibleNormal(0.8, 0, 0.6, 0.5, u[0], u[1], h);
      expect(Math.hypot(...h)).toBeCloseTo(1, 9);
      expect(0.8 * h[0] + 0.6 * h[2]).toBeGreaterThan(-1e-9);
      expect(h[2]).toBeGreaterThan(0);
    }
  });
});

describe('white furnace: a white surface in even light gives back what it gets, within 0.5 %', () => {
  it.each(LOBES)('%s', (...lobe) => {
    for (const roughness of ROUGHNESS)
      for (const cos of COSINES) {
        const share = albedo(of(lobe, roughness), cos);
        expect(Math.abs(share - 1), `roughness ${roughness}, cosine ${cos}: ${share}`).toBeLessThan(0.005);
      }
  });
  it('a pane as one sheet, rough or clear', () => {
    for (const roughness of [0, 0.02, 0.3, 0.8])
      for (const cos of COSINES) expect(Math.abs(albedo(of(LOBES[2], roughness, true), cos) - 1)).toBeLessThan(0.005);
  });
  it('and a grey, coloured or layered one never more', () => {
    const bsdf = new Bsdf(table);
    for (const roughness of [0.05, 0.6])
      for (const metallic of [0, 0.5, 1])
        for (const transmission of [0, 0.4])
          for (const coat of [0, 1]) {
            bsdf.set(1, 0.6, 0.1, metallic, roughness, 1.5, transmission, false, coat, 0.3);
            for (const cos of COSINES) {
              const share = albedo(bsdf, cos);
              expect(share).toBeLessThan(1.005);
              expect(share).toBeGreaterThan(0.5);
            }
          }
  });
});

describe('sampling and evaluating are the same function', () => {
  it('quadrature over the sphere gives what sampling gives, and the pdf adds up to the share that is not lost', () => {
    for (const lobe of LOBES)
      for (const roughness of [0.35, 0.7]) {
        const bsdf = of(lobe, roughness);
        const cos = 0.6;
        bsdf.look(cos);
        let sum = 0;
        let pdf = 0;
        const n = 500;
        for (let i = 0; i < 2 * n; i++)
          for (let j = 0; j < n; j++) {
            const z = (i + 0.5) / n - 1;
            const phi = (2 * Math.PI * (j + 0.5)) / n;
            const s = Math.sqrt(1 - z * z);
            bsdf.evaluate(0.8, 0, cos, s * Math.cos(phi), s * Math.sin(phi), z);
            sum += (bsdf.value[0] * 2 * Math.PI) / (n * n);
            pdf += (bsdf.pdf * 2 * Math.PI) / (n * n);
          }
        expect(Math.abs(sum - albedo(bsdf, cos)), `${lobe[0]} ${roughness}`).toBeLessThan(0.006);
        expect(pdf).toBeLessThanOrEqual(1.003);
        expect(pdf).toBeGreaterThan(0.8);
      }
  });
  it('is reciprocal where it claims to be: diffuse and single-bounce specular', () => {
    const bsdf = new Bsdf(table);
    bsdf.set(0.5, 0.5, 0.5, 0, 0.4, 1.5, 0, false, 0, 0);
    const a = [Math.sqrt(1 - 0.09), 0, 0.3];
    const b = [0, Math.sqrt(1 - 0.64), 0.8];
    bsdf.look(a[2]);
    bsdf.evaluate(a[0], a[1], a[2], b[0], b[1], b[2]);
    const ab = bsdf.value[0] / b[2];
    bsdf.look(b[2]);
    bsdf.evaluate(b[0], b[1], b[2], a[0], a[1], a[2]);
    expect(bsdf.value[0] / a[2]).toBeCloseTo(ab, 6);
  });
  it('clear glass goes straight or mirrors, in Fresnel’s shares, and says so', () => {
    const bsdf = of(LOBES[2], 0.01);
    bsdf.look(0.6);
    const f = fresnel(0.6, 1.5);
    expect(bsdf.sample(0.8, 0, 0.6, 0.5, 0.5, f - 1e-6)).toBe(true);
    expect([...bsdf.direction]).toEqual([-0.8, -0, 0.6]);
    expect([bsdf.delta, bsdf.straight]).toEqual([true, false]);
    bsdf.sample(0.8, 0, 0.6, 0.5, 0.5, f + 1e-6);
    expect([...bsdf.direction]).toEqual([-0.8, -0, -0.6]);
    expect(bsdf.straight).toBe(true);
    bsdf.through(0.6);
    expect(bsdf.value[0]).toBeCloseTo(1 - f, 12);
  });
});
