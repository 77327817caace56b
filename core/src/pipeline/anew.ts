import { carried } from '../form/carry';
import type { Mat4 } from '../maths/mat4';
import type { PolyMesh } from '../mesh/polymesh';
import type { Texturing } from '../surface/texturing';
import type { AssetDocument, Material, MeshRef, Part, PartOrigin } from './document';

/** A part as a newer file, or a newer state of a piece, has it. */
export interface Newer {
  low: MeshRef;
  placements: Mat4[];
  came?: Mat4;
  high?: NonNullable<Part['high']>;
  origin: PartOrigin;
}

/** What is put in place of a part’s mesh; its steps, seams, material, weight and where it was moved to stay. */
export interface Anew extends Newer {
  part: string;
  /** As they are found on the newer mesh; absent where they hold as they are. */
  regions?: Part['regions'];
}

/** What a part is called where it comes from. */
const keyOf = (part: Pick<Part, 'name' | 'origin'>): string =>
  part.origin ? (part.origin.kind === 'file' ? part.origin.name : part.origin.part) : part.name;

/** Which newer part belongs to which of the piece’s, which are new, and which the newer ones no longer have. */
export interface Matched {
  pairs: { part: string; newer: number }[];
  fresh: number[];
  gone: string[];
}

/** Matches parts by what they are called where they come from. One alone is the other, whatever either is called. */
export function matchAnew(parts: readonly Part[], newer: readonly PartOrigin[]): Matched {
  const called = newer.map((origin) => keyOf({ name: '', origin }));
  if (parts.length === 1 && newer.length === 1) return { pairs: [{ part: parts[0].id, newer: 0 }], fresh: [], gone: [] };
  const pairs: Matched['pairs'] = [];
  const taken = new Set<number>();
  const gone: string[] = [];
  for (const p of parts) {
    const i = called.findIndex((name, k) => !taken.has(k) && name === keyOf(p));
    if (i < 0) gone.push(p.id);
    else {
      taken.add(i);
      pairs.push({ part: p.id, newer: i });
    }
  }
  return { pairs, fresh: called.flatMap((_, i) => (taken.has(i) ? [] : [i])), gone };
}

/** Pictures of a newer file for the materials of the parts it is put in place of, as far as those are still textured as they came; each once. */
export function dressedAnew(
  document: AssetDocument,
  pairs: Matched['pairs'],
  newer: { parts: readonly Part[]; materials: readonly Material[] },
): { material: string; texturing: Texturing }[] {
  const out = new Map<string, Texturing>();
  for (const { part, newer: i } of pairs) {
    const own = document.materials.find((m) => m.id === document.parts.find((p) => p.id === part)?.material);
    const theirs = newer.materials.find((m) => m.id === newer.parts[i].material)?.texturing;
    if (own?.texturing && theirs && !out.has(own.id)) out.set(own.id, theirs);
  }
  return [...out].map(([material, texturing]) => ({ material, texturing }));
}

/** Parts of a piece that came in a file, or from a piece and are not frozen. */
export const partsFrom = (document: AssetDocument, from: { fileName: string } | { asset: string }): Part[] =>
  document.parts.filter(({ origin }) =>
    'fileName' in from
      ? origin?.kind === 'file' && origin.fileName === from.fileName
      : origin?.kind === 'piece' && origin.asset === from.asset && !origin.frozen,
  );

/** Whether a part has regions that are only found again by looking for them. */
export const needsCarrying = (part: Part): boolean => (part.regions ?? []).some((r) => r.rules.some(({ rule }) => 'places' in rule));

/** The replacements with regions as they lie on the newer meshes, and sentences about those that were lost. Meshes as formed, by part. */
export function withRegions(
  document: AssetDocument,
  anew: readonly Anew[],
  before: ReadonlyMap<string, PolyMesh>,
  after: ReadonlyMap<string, PolyMesh>,
): { anew: Anew[]; notes: string[] } {
  const notes: string[] = [];
  const made = anew.map((a) => {
    const part = document.parts.find((p) => p.id === a.part);
    const [from, to] = [before.get(a.part), after.get(a.part)];
    if (!part || !from || !to || !needsCarrying(part)) return a;
    const { regions, lost } = carried(part.regions ?? [], from, to);
    for (const name of lost) notes.push(`The region “${name}” of ${part.name} was not found again; pick it anew.`);
    return { ...a, regions };
  });
  return { anew: made, notes };
}
