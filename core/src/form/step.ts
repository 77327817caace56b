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

/** What a step leaves to the solver, worked out once: its counts, and its triangles as a function of them. */
export interface Plan {
  adaptive: Adaptive[];
  /** Triangles of the low mesh, without building it. */
  triangles(count: (a: Adaptive) => number): number;
}

/** What a maker promises. Adding a kind of maker is one file that exports one of these. */
export interface Maker<S> {
  /** @throws FormError when the step can't be built */
  plan(step: S): Plan;
  /** @throws FormError in one sentence */
  build(step: S, detail: Detail): PolyMesh;
}
