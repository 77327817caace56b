import { pixelMm } from '../brief/advice';
import { type View, type ViewKind, viewOf } from '../inspect/views';
import { hiddenTriangles } from '../inspect/visibility';
import { triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { QUIET, type Task } from '../task';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';

/** Roles one sees through. */
const CLEAR = new Set(['glass', 'liquid', 'flame']);

/** Whether a part hides what lies behind it. */
export const blocks = (document: AssetDocument, id: string): boolean => !CLEAR.has(document.parts.find((p) => p.id === id)?.role ?? '');

/** A view of an asset's low meshes. */
export const viewAsset = (document: AssetDocument, parts: readonly PartMesh[], kind: ViewKind, task: Task = QUIET): View =>
  viewOf(
    kind,
    parts.map((p) => ({ ...p, blocks: blocks(document, p.id) })),
    pixelMm(document.brief),
    task,
  );

/** Parts that stand still: what moves uncovers what it covers, and is looked at in more places than this one. */
export const standingStill = (document: AssetDocument, parts: readonly PartMesh[]): PartMesh[] =>
  parts.filter((p) => document.parts.find((d) => d.id === p.id)?.travel === undefined);

/**
 * 1 for every triangle that is never seen from outside the piece, by part. Copies share their triangles: one that is seen anywhere
 * stays.
 *
 * @param still parts that stand still
 */
export function neverSeen(document: AssetDocument, still: readonly PartMesh[], task: Task = QUIET): Uint8Array[] {
  const copies = still.flatMap((p) => p.placements.map((m) => ({ p, soup: soupOf(transform(p.mesh, m)), blocks: blocks(document, p.id) })));
  const found = hiddenTriangles(copies, task);
  return still.map((p) => {
    const mine = found.filter((_, i) => copies[i].p === p);
    return Uint8Array.from({ length: triangleCount(p.mesh) }, (_, t) => (mine.length > 0 && mine.every((h) => h[t] === 1) ? 1 : 0));
  });
}
