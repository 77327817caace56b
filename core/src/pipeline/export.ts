import { type GlbOptions, type GlbPart, writeGlb } from '../io/glb-write';
import { IDENTITY } from '../maths/mat4';
import { boundaryLoops } from '../mesh/connectivity';
import { type GpuMesh, gpuMesh } from '../mesh/gpu';
import { joinGpu } from '../mesh/gpu-join';
import type { PolyMesh } from '../mesh/polymesh';
import { hasRelief } from '../surface/material';
import { textureIn } from '../surface/texturing';
import { cameMaterials, keepsLayouts } from './came';

export { fileName } from './file-name';

import { type AssetDocument, canBake, composedMaterials } from './document';
import type { PartMesh } from './form';
import { meantOpen } from './open';
import { coatedBy, overBy } from './prints';

/** How an asset is written as a file. */
export interface ExportOptions extends GlbOptions {
  /** Tangents go along with layouts. */
  tangents: boolean;
  materialOf(part: string): string | null;
  /** Whether a part is open on purpose. */
  openOf?(part: string): boolean;
  /** Parts of one name here become one mesh under it, a single draw; null for a part that stays by itself. */
  together?(part: string): string | null;
}

/** The asset as a GLB: parts in mm to metres, names, one node per copy. */
export function exportGlb(parts: readonly PartMesh[], options: ExportOptions): Promise<Uint8Array> {
  // Copies with the same texels are written once and stand in several places.
  const cards = new Map<PolyMesh, GpuMesh>();
  const cardOf = (mesh: PolyMesh): GpuMesh => {
    const known = cards.get(mesh) ?? gpuMesh(mesh, { tangents: options.tangents });
    cards.set(mesh, known);
    return known;
  };
  const single = parts.map((p) => ({
    id: p.id,
    name: p.name,
    gpu: cardOf(p.mesh),
    placements: p.placements,
    material: options.materialOf(p.id),
    ...(options.openOf?.(p.id) && boundaryLoops(p.mesh).length > 0 && { twoSided: true }),
  }));
  return writeGlb(options.together ? joined(single, options.together) : single, options);
}

/** Parts that are to be one draw as one mesh, where the first of them stood in the list. */
function joined(parts: readonly (GlbPart & { id: string })[], together: (part: string) => string | null): GlbPart[] {
  const groups = new Map<string, (typeof parts)[number][]>();
  const out: (GlbPart | string)[] = [];
  for (const p of parts) {
    const name = together(p.id);
    if (name === null) out.push(p);
    else if (groups.has(name)) groups.get(name)?.push(p);
    else {
      groups.set(name, [p]);
      out.push(name);
    }
  }
  return out.map((p) => {
    if (typeof p !== 'string') return p;
    const all = groups.get(p) ?? [];
    return {
      name: p,
      gpu: joinGpu(all.flatMap(({ gpu, placements }) => placements.map((placement) => ({ gpu, placement })))),
      placements: [IDENTITY],
      material: all[0].material,
      // One sheet among them is seen from behind: then all are.
      ...(all.some((x) => x.twoSided) && { twoSided: true }),
    };
  });
}

/**
 * Whether the delivered mesh has tangents: where a normal map is baked or a layer stands out, which is drawn along them. To a piece without one they are
 * weight and parted vertices for nothing.
 */
export const deliversTangents = (document: AssetDocument): boolean =>
  (document.bake.normal && canBake(document)) ||
  hasRelief(composedMaterials(document)) ||
  overBy(document).relief ||
  cameMaterials(document).some((m) => textureIn(m.texturing, 'normal'));

/** Maps that go into a GLB, PNG bytes, and pictures that came with files: what is textured with those, and still laid out for them, is written as it came. */
export type DeliveredMaps = Pick<GlbOptions, 'normal' | 'occlusion' | 'baseColour' | 'orm' | 'coat' | 'clear' | 'white' | 'pictures'>;

/** How a document’s parts are written, with the maps there are. */
export function exportOptions(document: AssetDocument, { pictures, ...maps }: DeliveredMaps = {}): ExportOptions {
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  const open = new Set(document.parts.filter(meantOpen).map((p) => p.id));
  return {
    name: document.name,
    materials: document.materials,
    materialOf: (id) => chosen.get(id) ?? null,
    openOf: (id) => open.has(id),
    tangents: deliversTangents(document) || maps.normal !== undefined,
    coated: coatedBy(document),
    ...(pictures && keepsLayouts(document) && { pictures }),
    ...maps,
  };
}
