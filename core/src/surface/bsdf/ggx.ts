/**
 * The GGX distribution of microfacets (Walter et al. 2007), isotropic, with height-correlated Smith masking (Heitz 2014).
 * Directions stand in the frame of the surface: z is its normal. α is the square of glTF's roughness.
 */

/** Below this α a lobe is a mirror for all purposes; opaque lobes are held at it. */
export const LEAST_ALPHA = 1e-3;

export const ggxD = (hz: number, alpha: number): number => {
  const a2 = alpha * alpha;
  const d = (a2 - 1) * hz * hz + 1;
  return a2 / (Math.PI * d * d);
};

/** Smith's Λ of a direction with the given z. */
export function lambda(z: number, alpha: number): number {
  const z2 = z * z;
  if (z2 >= 1) return 0;
  return (Math.sqrt(1 + (alpha * alpha * (1 - z2)) / z2) - 1) / 2;
}

export const smithG1 = (z: number, alpha: number): number => 1 / (1 + lambda(z, alpha));
export const smithG2 = (zo: number, zi: number, alpha: number): number => 1 / (1 + lambda(zo, alpha) + lambda(zi, alpha));

/**
 * Draws a microfacet normal from those seen from `o`, by the spherical cap of Dupuy & Benyoub (2023), the same distribution
 * as Heitz (2018).
 *
 * @param out 3 numbers, unit
 */
export function sampleVisibleNormal(ox: number, oy: number, oz: number, alpha: number, u1: number, u2: number, out: Float64Array): void {
  let vx = alpha * ox;
  let vy = alpha * oy;
  let vz = oz;
  const l = 1 / Math.sqrt(vx * vx + vy * vy + vz * vz);
  vx *= l;
  vy *= l;
  vz *= l;
  const phi = 2 * Math.PI * u1;
  const z = (1 - u2) * (1 + vz) - vz;
  const s = Math.sqrt(Math.max(0, 1 - z * z));
  const hx = alpha * (s * Math.cos(phi) + vx);
  const hy = alpha * (s * Math.sin(phi) + vy);
  const hz = Math.max(1e-9, z + vz);
  const k = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
  out[0] = hx * k;
  out[1] = hy * k;
  out[2] = hz * k;
}
