import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { usualUp } from '@wellmorph/core/io/formats';
import type { Model } from '@wellmorph/core/io/model';
import { EXACT, formatOf } from '@wellmorph/core/io/read';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';
import type { AssetDocument, Group, Part, Source } from '@wellmorph/core/pipeline/document';
import { fallbackTolerance } from '@wellmorph/core/pipeline/form';
import { EXACT_SHARES, type FromFile, type KeepTexture, partsFromModel, texturesFromModel } from '@wellmorph/core/pipeline/import';
import { keepBlob } from '../blobs/store';
import { assetState, StaleError } from '../db/assets';
import type { Upload } from './limits';
import { stopped } from './parse';

/** Meshes as they are stored, by their names; one that stands in several parts is stored once. */
export async function keepMeshes(meshes: readonly PolyMesh[]): Promise<Map<PolyMesh, string>> {
  const out = new Map<PolyMesh, string>();
  for (const m of new Set(meshes)) out.set(m, await keepBlob(encodeMesh(m), 'mesh'));
  return out;
}

/** Textures as they came, by their names. */
export async function keepTextures(model: Pick<Model, 'textures'>): Promise<KeepTexture> {
  const kept = new Map<Uint8Array, string>();
  for (const { bytes } of model.textures) kept.set(bytes, await keepBlob(bytes, 'texture'));
  return (bytes) => kept.get(bytes) as string;
}

/**
 * How finely a file's exact surfaces are cut for a piece, mm: to half of what its brief lets show, so that the low mesh can be
 * simplified by the other half; nothing for other files.
 */
export const toleranceFor = (fileName: string, document: AssetDocument): number | undefined =>
  EXACT.includes(formatOf(fileName)) ? Math.max(1e-3, Number((fallbackTolerance(document) / EXACT_SHARES).toPrecision(3))) : undefined;

/** The file itself, kept to be cut again. */
export async function keepExact(
  { fileName, path, up }: Pick<Upload, 'fileName' | 'path' | 'up'>,
  toleranceMm: number | undefined,
): Promise<FromFile['exact']> {
  if (toleranceMm === undefined) return undefined;
  return { blob: await keepBlob(await readFile(path), 'step'), toleranceMm, up: up ?? usualUp(formatOf(fileName)) };
}

/** What is noted beside the file of textures that are kept: nothing was lost, so nobody has to be told at once. */
export function textureNote({ textures }: Pick<Model, 'textures'>): string[] {
  const n = textures.length;
  if (n === 0) return [];
  return [
    `Its ${n === 1 ? 'texture is' : `${n} textures are`} kept byte for byte and shown on it; ${n === 1 ? 'it goes' : 'they go'} out with it again as long as its layout is kept.`,
  ];
}

/** Parts, materials and source line of a model for a piece that is there, everything of it stored. Ids are nobody's yet. */
export async function takeOver(model: Model, upload: Pick<Upload, 'fileName' | 'licence'>, exact: FromFile['exact']) {
  const kept = await keepMeshes(model.parts.map((p) => p.mesh));
  const own = randomUUID().slice(0, 8);
  const keepTexture = await keepTextures(model);
  const { parts, materials } = partsFromModel(
    model,
    (mesh) => kept.get(mesh) as string,
    (kind, n) => `${kind}-${own}-${n}`,
    { fileName: upload.fileName, exact },
    keepTexture,
  );
  const named = new Set(parts.flatMap((p) => [p.material, ...(p.regions ?? []).map((r) => r.material)]));
  const source: Source = {
    fileName: upload.fileName,
    licence: upload.licence,
    note: [...model.notes, ...textureNote(model)].join(' '),
    ...texturesFromModel(model, keepTexture),
  };
  return { ...grouped(parts, own, upload.fileName.replace(/\.[^.]+$/, '')), materials: materials.filter((m) => named.has(m.id)), source };
}

/** Parts that come together are a group, where they are several. */
export function grouped(parts: readonly Part[], own: string, name: string): { parts: Part[]; group?: Group } {
  if (parts.length < 2) return { parts: [...parts] };
  const group = { id: `group-${own}`, name: name.slice(0, 80) || 'Brought in' };
  return { parts: parts.map((p) => ({ ...p, group: group.id })), group };
}

/** Times a change made by others meanwhile is stepped over. */
const TRIES = 8;

/** Does something to an asset as it is by then, again where somebody else changed it meanwhile, until nobody waits for it any more. */
export async function onLatest<T>(
  assetId: string,
  work: (state: { document: AssetDocument; version: number }) => Promise<T>,
  signal?: AbortSignal,
): Promise<T> {
  for (let tries = 1; ; tries++) {
    const state = await assetState(assetId);
    if (signal?.aborted) throw stopped();
    try {
      return await work(state);
    } catch (error) {
      if (!(error instanceof StaleError) || tries === TRIES) throw error;
    }
  }
}
