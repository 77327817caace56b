import { pixelMm } from '../brief/advice';
import { FormError } from '../errors';
import { showing } from '../form/cover';
import { evaluateDimensions } from '../form/dimensions';
import { type FormContext, form, type StepProblem, type StepResult } from '../form/recipe';
import { findRegion, type Marks, marked } from '../form/regions';
import type { Adaptive, Detail, Surroundings } from '../form/step';
import { kindOf } from '../form/steps';
import { reflection } from '../form/steps/mirror';
import { type Kit, NO_KIT } from '../kit';
import { IDENTITY, inverse, type Mat4, multiply, placement } from '../maths/mat4';
import { keepFaces } from '../mesh/edit';
import { type Bounds, EMPTY_BOUNDS, growBounds, placedBounds } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { faceCount, type PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { type AssetDocument, type Part, stepsOf } from './document';
import type { MeshCache } from './mesh-cache';

/** Hands over a stored mesh by its blob. */
export type LoadMesh = (blob: string) => PolyMesh;

/** A part as a mesh in its own space and where its copies stand. */
export interface PartMesh {
  id: string;
  name: string;
  mesh: PolyMesh;
  placements: Mat4[];
}

/** What forming an asset came to. */
export interface FormResult {
  parts: PartMesh[];
  problems: (StepProblem & { part: string })[];
  /** Parts that only help others: cutters and the like, as they stand. */
  aids: PartMesh[];
  /** What each step came to. */
  steps: (StepResult & { part: string })[];
  /** Parts strewn over others: copies, and the share of what lies under them that still shows. */
  strewn: { part: string; copies: number; shows: number }[];
  /** What regions and picked seams came to, by part. */
  marks: ({ part: string } & Marks)[];
}

/** The tolerance counts fall back to while the solver has not been asked: what the brief lets show. */
export function fallbackTolerance(document: AssetDocument): number {
  return document.brief.overrides.toleranceMm ?? document.brief.errorPx * pixelMm(document.brief);
}

/** The count a document has for each key: locked, solved, or the one a tolerance asks for. */
export function chosenCount(document: AssetDocument): (a: Adaptive) => number {
  const { counts, locks } = document.form;
  const tolerance = fallbackTolerance(document);
  return (a) => locks[a.key] ?? counts[a.key] ?? a.countFor(tolerance);
}

/** Ids of the parts that a part's steps look at. */
const looksAt = (part: Part): string[] =>
  part.shape.kind === 'copy' ? [part.shape.of] : stepsOf(part).flatMap((s) => (s.enabled ? (kindOf(s.kind).looksAt?.(s) ?? []) : []));

/** Parts in the order they can be formed in: those that others look at first. In a circle the last one finds nothing and says so. */
function inOrder(document: AssetDocument): Part[] {
  const byId = new Map(document.parts.map((p) => [p.id, p]));
  const order: Part[] = [];
  const seen = new Set<string>();
  const visit = (p: Part): void => {
    if (seen.has(p.id)) return;
    seen.add(p.id);
    for (const id of looksAt(p)) {
      const host = byId.get(id);
      if (host) visit(host);
    }
    order.push(p);
  };
  for (const p of document.parts) visit(p);
  return order;
}

/** What the steps of a part see of the parts already formed, and of their own part's regions. */
function surroundingsOf(part: Part, document: AssetDocument, formed: ReadonlyMap<string, PartMesh>, kit: Kit): Surroundings {
  const own = inverse(placement(part.move, part.turnDegrees));
  return {
    kit,
    region(id, name) {
      const host = formed.get(id);
      if (!host || id === part.id)
        throw new FormError('step/part', `The part that ${part.name} refers to is not there, or refers to ${part.name} in turn.`);
      const region = document.parts.find((p) => p.id === id)?.regions?.find((r) => r.id === name);
      if (name && !region) throw new FormError('step/region', `The region that ${part.name} refers to is not there any more.`);
      const faces = region && new Set(findRegion(host.mesh, region).faces);
      const mesh = faces ? keepFaces(host.mesh, (f) => faces.has(f)) : host.mesh;
      return merge(host.placements.map((p) => transform(mesh, multiply(own, p))));
    },
    own(id, mesh) {
      const region = part.regions?.find((r) => r.id === id);
      if (!region) throw new FormError('step/region', `The region it refers to is not there any more on ${part.name}.`);
      const chosen = new Uint8Array(faceCount(mesh));
      for (const f of findRegion(mesh, region).faces) chosen[f] = 1;
      return chosen;
    },
  };
}

/** What a step's result depends on besides itself and what stands above it. */
function keyOf(
  part: Part,
  document: AssetDocument,
  formed: ReadonlyMap<string, PartMesh>,
  memory: MeshCache,
): NonNullable<FormContext['key']> {
  return (step) => {
    const hosts = (kindOf(step.kind).looksAt?.(step) ?? []).map((id) => {
      const host = formed.get(id);
      return host && [memory.numberOf(host.mesh), host.placements, document.parts.find((p) => p.id === id)?.regions];
    });
    return JSON.stringify([hosts, hosts.length > 0 && [part.move, part.turnDegrees], part.regions]);
  };
}

/** What a strewn part hides of what it lies on. */
function strewnOver(
  part: Part,
  mesh: PolyMesh,
  copies: readonly Mat4[],
  context: FormContext,
  memory?: MeshCache,
): FormResult['strewn'][number] {
  const last = stepsOf(part)
    .filter((s) => s.kind === 'scatter' && s.enabled)
    .at(-1);
  const region = last?.kind === 'scatter' ? context.surroundings?.region(last.on, last.region ?? '') : undefined;
  const make = () => (region ? showing(region, mesh, copies) : 1);
  return {
    part: part.id,
    copies: copies.length,
    shows: memory && region ? memory.of(mesh, `shows ${JSON.stringify(copies)}`, make) : make(),
  };
}

/** All parts, low or high. Imported parts without a high mesh are their own. */
export function formAsset(
  document: AssetDocument,
  which: 'low' | 'high',
  load: LoadMesh,
  memory?: MeshCache,
  kit: Kit = NO_KIT,
): FormResult {
  const detail: Detail =
    which === 'low' ? { mesh: 'low', count: chosenCount(document) } : { mesh: 'high', toleranceMm: document.form.highToleranceMm };
  const result: FormResult = { parts: [], aids: [], problems: [], steps: [], strewn: [], marks: [] };
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
    const { shape } = part;
    if (shape.kind === 'copy') {
      const original = document.parts.find((p) => p.id === shape.of);
      const made = formedParts.get(shape.of);
      if (!original || !made || original.shape.kind === 'copy') continue;
      // As the original's copies lie in its own space, then mirrored, then where this one stands.
      const back = inverse(placement(original.move, original.turnDegrees));
      const inner = shape.mirror ? reflection(shape.mirror, 0) : IDENTITY;
      put(
        part,
        made.mesh,
        made.placements.map((p) => multiply(base, multiply(inner, multiply(back, p)))),
      );
      continue;
    }
    const blob = shape.kind === 'recipe' ? undefined : which === 'high' ? part.high?.blob : shape.low.blob;
    if (shape.kind === 'mesh' && (!blob || which === 'high' || stepsOf(part).length === 0)) {
      if (blob)
        put(
          part,
          load(blob),
          shape.placements.map((p) => multiply(base, p)),
        );
      continue;
    }
    const context: FormContext = {
      lookup,
      surroundings: surroundingsOf(part, document, formedParts, kit),
      ...(memory && { cache: memory.steps, key: keyOf(part, document, formedParts, memory) }),
      ...(blob && { base: { mesh: load(blob), key: blob } }),
    };
    const formed = form(stepsOf(part), detail, context);
    result.problems.push(...formed.problems.map((p) => ({ ...p, part: part.id })));
    result.steps.push(...formed.steps.map((r) => ({ ...r, part: part.id })));
    const mesh = which === 'high' && part.high ? load(part.high.blob) : formed.mesh;
    if (mesh && which === 'low' && isStrewn(part) && formed.problems.length === 0)
      result.strewn.push(strewnOver(part, mesh, formed.placements, context, memory));
    if (mesh)
      put(
        part,
        mesh,
        formed.placements.flatMap((p) =>
          (shape.kind === 'mesh' ? shape.placements : [IDENTITY]).map((q) => multiply(base, multiply(q, p))),
        ),
      );
  }
  // In the document's own order, whatever they were formed in.
  for (const part of document.parts) {
    const made = formedParts.get(part.id);
    if (made) (part.aid ? result.aids : result.parts).push(made);
  }
  return result;
}

/** Box round every copy of every part, mm. */
export function assetBounds(parts: readonly PartMesh[]): Bounds {
  const b = EMPTY_BOUNDS();
  for (const p of parts)
    for (const m of p.placements) {
      const own = placedBounds(p.mesh, m);
      growBounds(b, ...own.min);
      growBounds(b, ...own.max);
    }
  return b;
}

export const isStrewn = (part: Part): boolean => stepsOf(part).some((s) => s.enabled && s.kind === 'scatter');
