import { hashOf } from '../hash';
import { bakeSettings } from './bake';
import type { AssetDocument, Material } from './document';
import { fallbackTolerance } from './form';
import { unwrapSettings } from './unwrap';

/**
 * Raised when an algorithm changes its results, so that what an older one made counts as stale.
 */
export const VERSIONS = { form: 3, unwrap: 3, bake: 2, surface: 1, render: 1 } as const;
export type Stage = keyof typeof VERSIONS;

/** The name of each stage's result: the hash of exactly what goes into it. Equal name, same result; anything else is stale. */
export function resultHash(document: AssetDocument, stage: Stage): string {
  const shapes = document.parts.map((p) => ({
    id: p.id,
    name: p.name,
    shape: p.shape,
    move: p.move,
    turn: p.turnDegrees,
    regions: p.regions ?? [],
    seams: p.seams ?? [],
    aid: p.aid ?? false,
  }));
  const form = {
    v: VERSIONS.form,
    shapes,
    counts: document.form.counts,
    locks: document.form.locks,
    dimensions: document.dimensions.map((x) => [x.name, x.formula, x.kind]),
    fallback: fallbackTolerance(document),
  };
  if (stage === 'form') return hashOf(form);
  const layout = { v: VERSIONS.unwrap, form, settings: unwrapSettings(document) };
  if (stage === 'unwrap') return hashOf(layout);
  const bake = hashOf({
    v: VERSIONS.bake,
    layout,
    settings: bakeSettings(document),
    highTolerance: document.form.highToleranceMm,
    parts: document.parts.map((p) => ({ id: p.id, role: p.role, high: p.high?.blob ?? null })),
  });
  if (stage === 'bake') return bake;
  const surface = hashOf({
    v: VERSIONS.surface,
    bake,
    settings: document.surface,
    materials: usedMaterials(document).map(({ name: _, source: __, touched: ___, ...look }) => look),
    parts: document.parts.map((p) => [p.id, p.material]),
  });
  if (stage === 'surface') return surface;
  const { locked: _, ...shot } = document.shot;
  return hashOf({ v: VERSIONS.render, surface, rig: document.rig, shot, settings: document.render });
}

/** Materials that a part has, in the document's order. */
export const usedMaterials = (document: AssetDocument): Material[] =>
  document.materials.filter((m) => document.parts.some((p) => p.material === m.id));

/** Names what the longer look depends on: the form, who hides whom, what moves, what is wanted. Waivers are laid over it afterwards. */
export const lookHash = (document: AssetDocument): string =>
  hashOf({
    form: resultHash(document, 'form'),
    parts: document.parts.map((p) => [p.id, p.role, p.travel !== undefined]),
    relations: document.relations ?? [],
    wall: document.brief.wallMm ?? 0,
  });

/** Names what findings depend on beside the form itself: waivers, the brief, and what is said about each part. */
export const findingsHash = (document: AssetDocument): string =>
  hashOf({
    waivers: document.waivers,
    brief: document.brief,
    parts: document.parts.map((p) => [p.id, p.name, p.material, p.declaredOpen]),
    relations: document.relations ?? [],
    travels: document.parts.map((p) => p.travel ?? null),
    untouched: document.materials.filter((m) => !m.touched).map((m) => m.id),
  });
