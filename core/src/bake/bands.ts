/** Rows baked at once; the unit that workers take, that progress counts and that is kept of a bake in the queue. */
export const BAND = 16;

/** Arrays that bands write, in the order they are kept in. */
export const LAYERS = [
  'normal',
  'occlusion',
  'curvature',
  'objectNormal',
  'bentNormal',
  'thickness',
  'position',
  'height',
  'opacity',
  'id',
  'state',
] as const;

/** Rays of a bake, and of each pair how its samples ended; as plain numbers, so that workers hand them on. */
export interface Counts {
  rays: number;
  /** By pair: rays of the normal map sent, those that found nothing, those that met a back face. */
  samples: number[];
  missed: number[];
  back: number[];
  /** By pair: texels that found something, and those whose normals only mend how the low mesh is shaded. */
  texels: number[];
  mending: number[];
  /** By pair: texels where its layout, or that of another, lies twice. */
  doubled: number[];
}
export const noCounts = (pairs: number): Counts => ({
  rays: 0,
  samples: new Array(pairs).fill(0),
  missed: new Array(pairs).fill(0),
  back: new Array(pairs).fill(0),
  texels: new Array(pairs).fill(0),
  mending: new Array(pairs).fill(0),
  doubled: new Array(pairs).fill(0),
});
/** Adds what another worker counted. */
export function addCounts(into: Counts, more: Counts): void {
  into.rays += more.rays;
  for (const k of ['samples', 'missed', 'back', 'texels', 'mending', 'doubled'] as const)
    for (let i = 0; i < into[k].length; i++) into[k][i] += more[k][i];
}
export const total = (list: readonly number[]): number => list.reduce((n, x) => n + x, 0);

/** First and last band that a triangle of a layout lies in, a texel round it counted in. @param uv 6 per triangle, v up */
export function bandsOf(uv: ArrayLike<number>, t: number, size: number): [first: number, last: number] {
  const rows = [1, 3, 5].map((k) => (1 - uv[6 * t + k]) * size);
  const last = Math.ceil(size / BAND) - 1;
  return [Math.max(0, Math.floor((Math.min(...rows) - 1) / BAND)), Math.min(last, Math.floor((Math.max(...rows) + 1) / BAND))];
}
