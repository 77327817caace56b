import type { PolyMesh } from '../mesh/polymesh';

/** A count the budget solver may set: what it costs, and what it buys. */
export interface Adaptive {
  /** Stable name: step, then what it counts. */
  key: string;
  /** For people: `sides round Ø 112`. */
  label: string;
  minimum: number;
  /** Largest distance from the true surface with n, mm. */
  errorMm(n: number): number;
  /** Fewest that keep the error at or under `error` mm. */
  countFor(error: number): number;
}

/** How a mesh is wanted: light, with the solver's counts, or dense, to a tolerance, with rounded edges and engravings. */
export type Detail = { mesh: 'low'; count(a: Adaptive): number } | { mesh: 'high'; toleranceMm: number };

export function countOf(detail: Detail, a: Adaptive): number {
  return Math.max(a.minimum, detail.mesh === 'low' ? detail.count(a) : a.countFor(detail.toleranceMm));
}

/** What a maker promises. Adding a kind of maker is one file that exports one of these. */
export interface Maker<S> {
  /** The counts that can be chosen; none when the step can't be built. */
  adaptive(step: S): Adaptive[];
  /** Triangles of the low mesh, without building it. */
  triangles(step: S, count: (a: Adaptive) => number): number;
  /** @throws FormError in one sentence */
  build(step: S, detail: Detail): PolyMesh;
}
