import { pixelMm } from '../brief/advice';
import { FormError } from '../errors';
import type { Budget, BudgetProblem, Counts } from '../form/budget/solve';
import { solveBudget, trianglesFor } from '../form/budget/solve';
import { showing } from '../form/cover';
import { evaluateDimensions } from '../form/dimensions';
import { budgetOf, type FormContext, form, type PartPlan, type StepProblem } from '../form/recipe';
import { findRegion, type Marks, marked } from '../form/regions';
import type { Adaptive, Detail, Surroundings } from '../form/step';
import { inverse, type Mat4, multiply, placement } from '../maths/mat4';
import { keepFaces } from '../mesh/edit';
import { type Bounds, boundsOf, EMPTY_BOUNDS, growBounds } from '../mesh/measures';
import { merge } from '../mesh/merge';
import type { PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import type { AssetDocument, Part } from './document';
import type { Memory } from './memory';

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
  /** Parts strewn over others: copies, and the share of what lies under them that still shows. */
  strewn: { part: string; copies: number; shows: number }[];
  /** What regions and picked seams came to, by part. */
  marks: ({ part: string } & Marks)[];
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

/** Parts in the order they can be formed in: those that others lie on first. In a circle the last one finds nothing and says so. */
function inOrder(document: AssetDocument): Part[] {
  const byId = new Map(document.parts.map((p) => [p.id, p]));
  const order: Part[] = [];
  const seen = new Set<string>();
  const visit = (p: Part): void => {
    if (seen.has(p.id)) return;
    seen.add(p.id);
    if (p.shape.kind === 'recipe')
      for (const s of p.shape.steps) {
        const host = s.kind === 'scatter' ? byId.get(s.on) : undefined;
        if (host) visit(host);
      }
    order.push(p);
  };
  for (const p of document.parts) visit(p);
  return order;
}

/** Regions of parts already formed, for a part that lies on them. */
function surroundingsOf(part: Part, document: AssetDocument, formed: ReadonlyMap<string, PartMesh>): Surroundings {
  const own = inverse(placement(part.move, part.turnDegrees));
  return {
    region(id, name) {
      const host = formed.get(id);
      if (!host || id === part.id)
        throw new FormError('scatter/part', `The part that ${part.name} should lie on is not there, or lies on it in turn.`);
      const region = document.parts.find((p) => p.id === id)?.regions?.find((r) => r.id === name);
      if (name && !region) throw new FormError('scatter/region', `The region that ${part.name} should lie on is not there any more.`);
      const faces = region && new Set(findRegion(host.mesh, region).faces);
      const mesh = faces ? keepFaces(host.mesh, (f) => faces.has(f)) : host.mesh;
      return merge(host.placements.map((p) => transform(mesh, multiply(own, p))));
    },
  };
}

/** What a strewn part hides of what it lies on. */
function strewnOver(
  part: Part,
  mesh: PolyMesh,
  copies: readonly Mat4[],
  context: FormContext,
  memory?: Memory,
): FormResult['strewn'][number] {
  const steps = part.shape.kind === 'recipe' ? part.shape.steps : [];
  const last = steps.filter((s) => s.kind === 'scatter' && s.enabled).at(-1);
  const region = last?.kind === 'scatter' ? context.surroundings?.region(last.on, last.region ?? '') : undefined;
  const make = () => (region ? showing(region, mesh, copies) : 1);
  return {
    part: part.id,
    copies: copies.length,
    shows: memory && region ? memory.of(mesh, `shows ${JSON.stringify(copies)}`, make) : make(),
  };
}

/** All parts, low or high. Imported parts without a high mesh are their own. */
export function formAsset(document: AssetDocument, which: 'low' | 'high', load: LoadMesh, memory?: Memory): FormResult {
  const detail: Detail =
    which === 'low' ? { mesh: 'low', count: chosenCount(document) } : { mesh: 'high', toleranceMm: document.form.highToleranceMm };
  const result: FormResult = { parts: [], problems: [], strewn: [], marks: [] };
  const { lookup } = evaluateDimensions(document.dimensions);
  const formedParts = new Map<string, PartMesh>();
  const put = (part: Part, bare: PolyMesh, placements: Mat4[]) => {
    const [regions, seams] = [part.regions ?? [], which === 'low' ? (part.seams ?? []) : []];
    const make = () => marked(bare, regions, seams);
    const { mesh, marks } = memory ? memory.of(bare, `marked ${JSON.stringify([regions, seams])}`, make) : make();
    formedParts.set(part.id, { id: part.id, name: part.name, mesh, placements });
    if (marks.regions.length > 0 || marks.lostSeams.length > 0) result.marks.push({ part: part.id, ...marks });
  };
  for (const part of inOrder(document)) {
    const base = placement(part.move, part.turnDegrees);
    if (part.shape.kind === 'mesh') {
      const blob = which === 'high' ? part.high?.blob : part.shape.low.blob;
      if (blob)
        put(
          part,
          load(blob),
          part.shape.placements.map((p) => multiply(base, p)),
        );
      continue;
    }
    const context: FormContext = { lookup, surroundings: surroundingsOf(part, document, formedParts), cache: memory?.steps };
    const formed = form(part.shape.steps, detail, context);
    result.problems.push(...formed.problems.map((p) => ({ ...p, part: part.id })));
    const mesh = which === 'high' && part.high ? load(part.high.blob) : formed.mesh;
    if (mesh && which === 'low' && isStrewn(part) && formed.problems.length === 0)
      result.strewn.push(strewnOver(part, mesh, formed.placements, context, memory));
    if (mesh)
      put(
        part,
        mesh,
        formed.placements.map((p) => multiply(base, p)),
      );
  }
  // In the document's own order, whatever they were formed in.
  for (const part of document.parts) {
    const made = formedParts.get(part.id);
    if (made) result.parts.push(made);
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

/** Copies of the parts that are strewn over others, by part: known once they have been formed. */
export type Strewn = Readonly<Record<string, number>>;
export const isStrewn = (part: Part): boolean =>
  part.shape.kind === 'recipe' && part.shape.steps.some((s) => s.enabled && s.kind === 'scatter');
export const strewnOf = (document: AssetDocument, parts: readonly PartMesh[]): Strewn =>
  Object.fromEntries(parts.filter((p) => document.parts.some((d) => d.id === p.id && isStrewn(d))).map((p) => [p.id, p.placements.length]));

/** What each part's recipe leaves to the solver; undefined for imports. */
export function partPlans(document: AssetDocument, strewn: Strewn = {}): (PartPlan | undefined)[] {
  const { lookup } = evaluateDimensions(document.dimensions);
  return document.parts.map((p) => (p.shape.kind === 'recipe' ? budgetOf(p.shape.steps, lookup, strewn[p.id]) : undefined));
}

/** The solver's problem for a whole asset: recipes are free, imports are what they are. */
export function budgetProblem(document: AssetDocument, strewn: Strewn = {}, limit = document.brief.limits.triangles): BudgetProblem {
  const budgets = partPlans(document, strewn);
  const fixed = document.parts.reduce((n, p) => n + (p.shape.kind === 'mesh' ? p.shape.low.triangles * p.shape.placements.length : 0), 0);
  const labelled = (part: Part, a: Adaptive): Adaptive => ({ ...a, label: `${part.name}, ${a.label}` });
  return {
    adaptive: budgets.flatMap((b, i) => (b ? b.adaptive.map((a) => labelled(document.parts[i], a)) : [])),
    triangles: (count) => budgets.reduce((n, b) => n + (b?.triangles(count) ?? 0), fixed),
    limit,
    locks: document.form.locks,
  };
}

export const solveAsset = (document: AssetDocument, strewn?: Strewn): Budget => solveBudget(budgetProblem(document, strewn));

export function trianglesAtTolerance(document: AssetDocument, errorMm: number, strewn?: Strewn): { counts: Counts; triangles: number } {
  return trianglesFor({ ...budgetProblem(document, strewn), locks: undefined }, errorMm);
}
