import { sobol2 } from '../../maths/random';
import { schlickWeight } from './fresnel';
import { LEAST_ALPHA, sampleVisibleNormal, smithG1, smithG2 } from './ggx';

/** Cells of the table along the view's cosine and along roughness. */
const MU = 32;
const ROUGH = 25;
const SAMPLES = 512;

/**
 * How much of the light one bounce on a GGX surface gives back, by direction and roughness, split for Schlick's Fresnel:
 * reflectance = F₀·a + b, and a + b is that of a perfect mirror's facets. What is missing from 1 bounced more than once.
 */
export interface EnergyTable {
  /** a, b for each roughness and cosine: 2·(MU·row + column). */
  cells: Float32Array;
  /** a, b averaged over the cosine-weighted hemisphere, for each roughness. */
  mean: Float32Array;
}

/** Grazing angles change fastest, so cosines stand closer together there. */
const cosineAt = (i: number): number => Math.max(1e-3, (i / (MU - 1)) ** 2);
const columnOf = (mu: number): number => Math.sqrt(mu) * (MU - 1);

/** The table in memory of the caller's choice. It is the same for every scene and worked out once. */
export function energyTable(allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n)): EnergyTable {
  known ??= workOut();
  const cells = new Float32Array(allocate(known.cells.byteLength));
  const mean = new Float32Array(allocate(known.mean.byteLength));
  cells.set(known.cells);
  mean.set(known.mean);
  return { cells, mean };
}
let known: EnergyTable | undefined;

/** By sampling visible normals; a few tenths of a second. */
function workOut(): EnergyTable {
  const cells = new Float32Array(2 * MU * ROUGH);
  const mean = new Float32Array(2 * ROUGH);
  const u = new Float64Array(2);
  const h = new Float64Array(3);
  for (let r = 0; r < ROUGH; r++) {
    const alpha = Math.max(LEAST_ALPHA, (r / (ROUGH - 1)) ** 2);
    for (let m = 0; m < MU; m++) {
      const z = cosineAt(m);
      const x = Math.sqrt(Math.max(0, 1 - z * z));
      let a = 0;
      let b = 0;
      for (let k = 0; k < SAMPLES; k++) {
        sobol2(k, 7919 * m + r, u);
        sampleVisibleNormal(x, 0, z, alpha, u[0], u[1], h);
        const oh = x * h[0] + z * h[2];
        const iz = 2 * oh * h[2] - z;
        if (iz <= 0) continue;
        const weight = smithG2(z, iz, alpha) / smithG1(z, alpha);
        const fc = schlickWeight(oh);
        a += weight * (1 - fc);
        b += weight * fc;
      }
      cells[2 * (MU * r + m)] = a / SAMPLES;
      cells[2 * (MU * r + m) + 1] = b / SAMPLES;
    }
  }
  const table = { cells, mean };
  const out = new Float64Array(2);
  const steps = 256;
  for (let r = 0; r < ROUGH; r++)
    for (let k = 0; k < steps; k++) {
      const mu = (k + 0.5) / steps;
      lookUp(table, mu, r / (ROUGH - 1), out);
      mean[2 * r] += (2 * mu * out[0]) / steps;
      mean[2 * r + 1] += (2 * mu * out[1]) / steps;
    }
  return table;
}

/** a and b for a cosine and a roughness (not α), between the cells. */
export function lookUp(table: EnergyTable, mu: number, roughness: number, out: Float64Array): void {
  const y = Math.min(ROUGH - 1.0001, Math.max(0, roughness * (ROUGH - 1)));
  const x = Math.min(MU - 1.0001, Math.max(0, columnOf(Math.max(0, mu))));
  const j = y | 0;
  const i = x | 0;
  const fy = y - j;
  const fx = x - i;
  const { cells } = table;
  const o = 2 * (MU * j + i);
  const p = o + 2 * MU;
  for (let k = 0; k < 2; k++)
    out[k] = (1 - fy) * ((1 - fx) * cells[o + k] + fx * cells[o + 2 + k]) + fy * ((1 - fx) * cells[p + k] + fx * cells[p + 2 + k]);
}

/** The hemisphere's mean of a and b for a roughness. */
export function lookUpMean(table: EnergyTable, roughness: number, out: Float64Array): void {
  const y = Math.min(ROUGH - 1.0001, Math.max(0, roughness * (ROUGH - 1)));
  const j = y | 0;
  const f = y - j;
  for (let k = 0; k < 2; k++) out[k] = (1 - f) * table.mean[2 * j + k] + f * table.mean[2 * j + 2 + k];
}
