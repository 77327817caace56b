import { type AssetDocument, deliveredParts, stepsOf, usedMaterials } from '../pipeline/document';
import type { About } from './nearest';

/** What a piece is like. @param form figures of its form, where it has been formed */
export function aboutOf(document: AssetDocument, form: { sizeMm: readonly number[]; triangles: number } | null): About {
  const parts = deliveredParts(document);
  const longest = form ? Math.max(...form.sizeMm) : 0;
  return {
    sizeMm: longest > 0 ? longest : null,
    parts: parts.length,
    triangles: form?.triangles ?? null,
    materials: [...new Set(usedMaterials(document).map((m) => m.name))],
    roles: [...new Set(parts.map((p) => p.role))],
    rig: document.rig.name,
    steps: [...new Set(parts.flatMap((p) => stepsOf(p).map((s) => s.kind)))],
  };
}
