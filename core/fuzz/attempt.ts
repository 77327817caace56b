import { WellmorphError } from '../src/errors';
import { readModel } from '../src/io/read';
import type { Kit } from '../src/kit';
import type { PolyMesh } from '../src/mesh/polymesh';
import { isAssetFile, openAsset } from '../src/pipeline/asset-file';
import type { AssetDocument } from '../src/pipeline/document';
import { formAsset, type LoadMesh } from '../src/pipeline/form';
import { documentFromModel } from '../src/pipeline/import';
import { inspectAsset, ledgerOf } from '../src/pipeline/inspect';
import { lookClosely } from '../src/pipeline/look';
import { MeshCache } from '../src/pipeline/mesh-cache';
import { QUIET } from '../src/task';
import type { Case } from './cases';

/** How a file went: read to the end, or refused in a sentence. */
export type Went = { went: 'read'; triangles: number } | { went: 'refused'; sentence: string };

/** The most triangles that are looked at with rays too. */
const CLOSELY = 1500;

/**
 * Does with a file what `check` does: reads, forms, measures, inspects.
 *
 * @throws whatever is no sentence of ours, and where a figure is none
 */
export async function attempt({ fileName, bytes }: Case, kit: Kit): Promise<Went> {
  try {
    const { document, load } = isAssetFile(fileName) ? openAsset(fileName, bytes) : await imported(fileName, bytes);
    const memory = new MeshCache();
    const formed = formAsset(document, 'low', load, memory, kit);
    const ledger = ledgerOf(formed.parts, memory);
    inspectAsset(document, formed, ledger, QUIET, memory);
    if (ledger.triangles <= CLOSELY) lookClosely(document, formed, memory, QUIET, true);
    checkFigures(ledger);
    return { went: 'read', triangles: ledger.triangles };
  } catch (error) {
    if (!(error instanceof WellmorphError)) throw error;
    if (!/^[^\n]{8,400}\.$/.test(error.message)) throw new Error(`no sentence: ${error.message}`);
    return { went: 'refused', sentence: error.message };
  }
}

async function imported(fileName: string, bytes: Uint8Array): Promise<{ document: AssetDocument; load: LoadMesh }> {
  const model = await readModel(fileName, bytes);
  const kept: PolyMesh[] = [];
  const document = documentFromModel('Damaged', model, { fileName, licence: '', note: '' }, (m) => String(kept.push(m) - 1));
  return { document, load: (blob) => kept[Number(blob)] };
}

/** Every figure is one. */
function checkFigures(x: unknown, at = 'ledger'): void {
  if (typeof x === 'number' && !Number.isFinite(x)) throw new Error(`${at} is ${x}`);
  if (typeof x === 'object' && x !== null) for (const [k, v] of Object.entries(x)) checkFigures(v, `${at}.${k}`);
}
