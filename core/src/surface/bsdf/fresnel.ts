/** Reflectance head on of an interface between air and a medium of index n: ((n − 1)/(n + 1))². */
export const f0Of = (ior: number): number => ((ior - 1) / (ior + 1)) ** 2;

/**
 * Unpolarised Fresnel reflectance of a smooth dielectric interface (Born & Wolf, Principles of Optics, §1.5.2).
 *
 * @param cos of the angle of incidence, 0…1
 * @param eta index beyond the interface over the index before it; below 1 there is total reflection past the critical angle
 */
export function fresnel(cos: number, eta: number): number {
  const sin2 = (1 - cos * cos) / (eta * eta);
  if (sin2 >= 1) return 1;
  const beyond = Math.sqrt(1 - sin2);
  const s = (cos - eta * beyond) / (cos + eta * beyond);
  const p = (eta * cos - beyond) / (eta * cos + beyond);
  return (s * s + p * p) / 2;
}

/** Past this angle a ray inside a medium of index n doesn't get out, radians. */
export const criticalAngle = (ior: number): number => Math.asin(1 / ior);

/** What a clear parallel slab reflects when every inner reflection is counted: 2F/(1 + F), F of one interface. */
export const slabReflectance = (f: number): number => (2 * f) / (1 + f);

/** (1 − cos)⁵ of Schlick's approximation (Schlick 1994). */
export function schlickWeight(cos: number): number {
  const m = cos < 1 ? 1 - cos : 0;
  const m2 = m * m;
  return m2 * m2 * m;
}
