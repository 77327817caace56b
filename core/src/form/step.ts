import type { Kit } from '../kit';
import type { Mat4 } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import type { PolyMesh } from '../mesh/polymesh';
import type { Field } from './fields';

/** What every step has, whatever its kind. */
export interface StepBase {
  kind: string;
  id: string;
  name: string;
  enabled: boolean;
  /** The one mesh it belongs to; both when absent. */
  in?: 'low' | 'high';
  /** Shared with the steps of other parts that say the same here: changing one changes all. */
  same?: string;
  /** Numbers that follow a formula: where they stand (see `numbersOf`) → the formula. */
  formulas?: Record<string, string>;
}

/** A count the budget solver may set: what it costs, and what it buys. */
export interface Adaptive {
  /** Stable name: step, then what it counts. */
  key: string;
  /** For people: `sides round Ø 112 mm`. */
  label: string;
  minimum: number;
  /** Counts are multiples of this. */
  every?: number;
  /** Largest distance from the true surface with n, mm. */
  errorMm(n: number): number;
  /** Fewest that keep the error at or under `error` mm. */
  countFor(error: number): number;
}

/** How a mesh is wanted: light, with the solver's counts, or dense, to a tolerance, with rounded edges and engravings. */
export type Detail = ({ mesh: 'low'; count(a: Adaptive): number } | { mesh: 'high'; toleranceMm: number }) & {
  /** All counts are even: quads can join what is made to a body of quads then. */
  even?: boolean;
};

/** A count that is even, whatever else it is a multiple of. */
export const evened = (a: Adaptive): Adaptive => ((a.every ?? 1) % 2 === 0 ? a : { ...a, every: 2 * (a.every ?? 1) });

/** The count at or above `n` that the count may have. */
export function allowedCount(a: Adaptive, n: number): number {
  const every = a.every ?? 1;
  return Math.ceil(Math.max(a.minimum, n) / every - 1e-9) * every;
}
/** The count a step takes: low the chosen one, high what the tolerance asks for. */
export function countOf(detail: Detail, a: Adaptive): number {
  return allowedCount(detail.even ? evened(a) : a, detail.mesh === 'low' ? detail.count(a) : a.countFor(detail.toleranceMm));
}

/** What a step leaves to the solver, worked out once: its counts, and its triangles as a function of them. */
export interface Plan {
  adaptive: Adaptive[];
  /** Triangles of the low mesh, without building it. */
  triangles(count: (a: Adaptive) => number): number;
}

/** What a surface must come out as, known from the step alone. Euler–Poincaré: V − E + F = 2·shells − 2·genus − rims. */
export interface Topology {
  shells: number;
  /** Handles over all shells. */
  genus: number;
  /** Open rims. */
  rims: number;
}

/** What a maker promises. */
export interface Maker<S> {
  /** @throws FormError when the step can't be built */
  plan(step: S): Plan;
  /** Patches carry names of the step's own; {@link form} puts the step's id before them. @throws FormError in one sentence */
  build(step: S, detail: Detail): PolyMesh;
  /** What it makes otherwise than it was drawn. */
  notes?(step: S): StepNote[];
  topology(step: S): Topology;
}

/** What a step may look at besides itself and what stands above it. */
export interface Surroundings {
  /** The faces of a region of a part that was formed before, or all of it, copies included, in this part's own space. @throws FormError when there is none */
  region(part: string, region: string): PolyMesh;
  /** The faces of one of the part's own regions on the mesh so far. @throws FormError when there is none */
  own(region: string, mesh: PolyMesh): Uint8Array;
  kit: Kit;
}

/** A figure a step measured, for its form on the sheet: `largest width 3.2 mm`. */
export interface StepFigure {
  label: string;
  value: number;
  /** The far end, when it is a range. */
  to?: number;
  unit: string;
}

/** Something a step did otherwise than asked, in a sentence; the rest of it stands. */
export interface StepNote {
  code: string;
  message: string;
  value: number;
  limit: number;
  unit: string;
  /** Where, in the part's own space, mm. */
  where?: Vec3[];
}

/** What changing the mesh so far came to. */
export interface Changed {
  mesh: PolyMesh;
  notes?: StepNote[];
  figures?: StepFigure[];
}

/** What a step that changes everything above it promises: old patches are kept, new faces carry patches under the step's own id. */
export interface Changer<S> {
  /** Counts it leaves to the solver. */
  adaptive?(step: S): Adaptive[];
  /** What the step right above made is handed over by itself, as `last`. */
  apart?: boolean;
  /** @throws FormError in one sentence */
  change(step: S, mesh: PolyMesh, detail: Detail, around: Surroundings, last?: PolyMesh): Changed;
}

/** What a step that makes something to fit another part promises. Patches are its own, with its id before them. */
export interface Fitter<S> {
  adaptive?(step: S): Adaptive[];
  /** @throws FormError in one sentence */
  fit(step: S, detail: Detail, around: Surroundings): Changed;
}

/**
 * A kind of step. Adding one is adding a file that exports one of these, and naming it in `steps/index.ts`: its form on the
 * sheet, its checks and its formulas follow from `fields`.
 */
export interface StepKind<S extends StepBase = StepBase> {
  kind: S['kind'];
  /** `bar along a path` */
  name: string;
  /** One sentence: what it makes. */
  about: string;
  fields: readonly Field[];
  /** Starting dimensions. */
  fresh(): Omit<S, keyof StepBase> & { name: string };
  /** A few words for the list: `bar Ø 4`, its lengths, mm, said by `length`, without a unit. */
  words(step: S, length: (mm: number, digits?: number) => string): string;
  /** What a patch is called: `belly`, for `s2`. The patch's own name when absent. */
  patchName?(step: S, patch: string): string;
  /** Libraries that have to be loaded for it. */
  needs?: readonly (keyof Kit)[];
  /** Ids of other parts it looks at, which are formed before its own. */
  looksAt?(step: S): string[];
  maker?: Maker<S>;
  /** Whether what it makes is meant to be open: nothing is wrong with its rims, and both its sides are seen. */
  open?(step: S): boolean;
  /** Whether rounds of its low mesh stand balanced: their corners outside what they are meant to be by as much as their flats inside. */
  balanced?(step: S): boolean;
  changer?: Changer<S>;
  fitter?: Fitter<S>;
  /** Where copies of everything before it stand. @param above gives what is copied, where it is known @throws FormError */
  copies?(step: S, surroundings: Surroundings, above?: () => PolyMesh | undefined): Mat4[];
}

/** The patch of a step's own, as places call it. */
export const ownPatch = (step: StepBase, patch: string): string => `${step.id}/${patch}`;
