import { pixelMm } from '../brief/advice';
import type { Budget, BudgetProblem, Counts } from '../form/budget/solve';
import { solveBudget, trianglesFor } from '../form/budget/solve';
import { budgetOf, form, type StepProblem } from '../form/recipe';
import type { Adaptive, Detail } from '../form/step';
import { type Mat4, multiply, placement } from '../maths/mat4';
import { type Bounds, boundsOf, EMPTY_BOUNDS, growBounds } from '../mesh/measures';
import type { PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import type { AssetDocument, Part } from './document';

/** Hands over a stored mesh by its blob. */
export type LoadMesh = (blob: string) => PolyMesh;

/** A part as a mesh in its own space and where its copies stand. */
export interface PartMesh {
  id: string;
  name: string;
  mesh: PolyMesh;
  placements: Mat4[];
}

export interface FormResult {
  parts: PartMesh[];
  problems: (StepProblem & { part: string })[];
}

/** The tolerance counts fall back to while the solver has not been asked: what the brief lets show. */
export function fallbackTolerance(document: AssetDocument): number {
  return document.brief.overrides.toleranceMm ?? document.brief.errorPx * pixelMm(document.brief);
}

export function chosenCount(document: AssetDocument): (a: Adaptive) => number {
  const { counts, locks } = document.form;
  const tolerance = fallbackTolerance(document);
  return (a) => locks[a.key] ?? counts[a.key] ?? a.countFor(tolerance);
}

/** All parts, low or high. Imported parts without a high mesh are their own. */
export function formAsset(document: AssetDocument, which: 'low' | 'high', load: LoadMesh): FormResult {
  const detail: Detail =
    which === 'low' ? { mesh: 'low', count: chosenCount(document) } : { mesh: 'high', toleranceMm: document.form.highToleranceMm };
  const result: FormResult = { parts: [], problems: [] };
  for (const part of document.parts) {
    const base = placement(part.move, part.turnDegrees);
    if (part.shape.kind === 'mesh') {
      const blob = which === 'high' ? part.high?.blob : part.shape.low.blob;
      if (blob)
        result.parts.push({
          id: part.id,
          name: part.name,
          mesh: load(blob),
          placements: part.shape.placements.map((p) => multiply(base, p)),
        });
      continue;
    }
    const formed = form(part.shape.steps, detail);
    result.problems.push(...formed.problems.map((p) => ({ ...p, part: part.id })));
    const mesh = which === 'high' && part.high ? load(part.high.blob) : formed.mesh;
    if (mesh) result.parts.push({ id: part.id, name: part.name, mesh, placements: formed.placements.map((p) => multiply(base, p)) });
  }
  return result;
}

/** Box round every copy of every part, mm. */
export function assetBounds(parts: readonly PartMesh[]): Bounds {
  const b = EMPTY_BOUNDS();
  for (const p of parts)
    for (const m of p.placements) {
      const own = boundsOf(transform(p.mesh, m));
      growBounds(b, ...own.min);
      growBounds(b, ...own.max);
    }
  return b;
}

/** The solver's problem for a whole asset: recipes are free, imports are what they are. */
export function budgetProblem(document: AssetDocument, limit = document.brief.limits.triangles): BudgetProblem {
  const budgets = document.parts.map((p) => (p.shape.kind === 'recipe' ? budgetOf(p.shape.steps) : undefined));
  const fixed = document.parts.reduce((n, p) => n + (p.shape.kind === 'mesh' ? p.shape.low.triangles * p.shape.placements.length : 0), 0);
  const labelled = (part: Part, a: Adaptive): Adaptive => ({ ...a, label: `${part.name}, ${a.label}` });
  return {
    adaptive: budgets.flatMap((b, i) => (b ? b.adaptive.map((a) => labelled(document.parts[i], a)) : [])),
    triangles: (count) => budgets.reduce((n, b) => n + (b?.triangles(count) ?? 0), fixed),
    limit,
    locks: document.form.locks,
  };
}

export const solveAsset = (document: AssetDocument): Budget => solveBudget(budgetProblem(document));

export function trianglesAtTolerance(document: AssetDocument, errorMm: number): { counts: Counts; triangles: number } {
  return trianglesFor({ ...budgetProblem(document), locks: undefined }, errorMm);
}
