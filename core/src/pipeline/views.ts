import { pixelMm } from '../brief/advice';
import { type View, type ViewKind, viewOf } from '../inspect/views';
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
