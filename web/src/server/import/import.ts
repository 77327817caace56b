import { briefFor } from '@wellmorph/core/brief/brief';
import { InputError } from '@wellmorph/core/errors';
import type { Model } from '@wellmorph/core/io/model';
import { formatOf, UNITLESS } from '@wellmorph/core/io/read';
import { IDENTITY, inverse, transformPoint } from '@wellmorph/core/maths/mat4';
import type { Vec3 } from '@wellmorph/core/maths/vec3';
import { decodeMesh, encodeMesh } from '@wellmorph/core/mesh/codec';
import { boundsOf } from '@wellmorph/core/mesh/measures';
import { type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import { transform } from '@wellmorph/core/mesh/transform';
import { partsFrom } from '@wellmorph/core/pipeline/anew';
import { type AssetDocument, newDocument } from '@wellmorph/core/pipeline/document';
import { assetBounds } from '@wellmorph/core/pipeline/form';
import { documentFromModel, intoPartSpace, pairHigh, togetherAsOne } from '@wellmorph/core/pipeline/import';
import { figure, isLengthUnit, type LengthUnit, millimetres } from '@wellmorph/core/units/lengths';
import { keepBlob, readBlob } from '../blobs/store';
import { type AssetState, assetState, createAsset, editAsset, type Origin } from '../db/assets';
import { takeAnew } from './anew';
import type { Upload } from './limits';
import { formedLow } from './meshes';
import { parseAsset, parseUpload, stopped } from './parse';
import { keepExact, keepMeshes, keepTextures, onLatest, takeOver, textureNote, toleranceFor } from './take';

function unitOf(upload: Upload): LengthUnit {
  if (upload.unit && isLengthUnit(upload.unit)) return upload.unit;
  if (UNITLESS.includes(formatOf(upload.fileName)))
    throw new InputError('import/unit', `“${upload.fileName}” does not say its unit; choose mm, cm, m or in.`);
  return 'mm';
}

/** Larger or smaller than this, mm, and the unit is asked about again: props are neither houses nor grains. Ours to choose. */
const PLAUSIBLE = { least: 1, most: 20_000 };

/**
 * An upload read as a model, until nobody waits for it any more.
 *
 * @throws InputError `import/size` where its size makes another unit likely and nobody said to take it all the same
 */
async function parsed(upload: Upload, toleranceMm?: number): Promise<Model> {
  const { fileName, path, companions, signal, up, sure } = upload;
  const model = await parseUpload({ fileName, path, unit: unitOf(upload), companions, toleranceMm, up: up ?? undefined }, { signal });
  if (sure) return model;
  const b = assetBounds(model.parts.map((p, i) => ({ id: String(i), ...p })));
  const size = Math.max(...b.max.map((x, k) => x - b.min[k]));
  if (size > PLAUSIBLE.most || size < PLAUSIBLE.least)
    throw new InputError(
      'import/size',
      `“${fileName}” would be ${size > 1000 ? `${figure(size / 1000, 1)} m` : millimetres(size, 3)} ${size < PLAUSIBLE.least ? 'in all' : 'long'}: choose another unit if that is not what it is, or take it all the same.`,
    );
  return model;
}

/** A model as a new asset. Blobs are kept first, the row last, so a failure leaves no half asset. */
export async function importAsset(upload: Upload): Promise<{ id: string; notes: string[] }> {
  const { fileName, licence, signal } = upload;
  const toleranceMm = toleranceFor(fileName, newDocument('', briefFor('game')));
  const model = await parsed(upload, toleranceMm);
  const kept = await keepMeshes(model.parts.map((p) => p.mesh));
  const name = fileName
    .replace(/\.[^.]+$/, '')
    .replace(/[_-]+/g, ' ')
    .trim();
  const document = documentFromModel(
    name.charAt(0).toUpperCase() + name.slice(1),
    model,
    { fileName, licence, note: [...model.notes, ...textureNote(model)].join(' ') },
    (mesh) => kept.get(mesh) as string,
    await keepExact(upload, toleranceMm),
    await keepTextures(model),
  );
  // Given up while its meshes were stored: they go with whatever else nothing refers to.
  if (signal?.aborted) throw stopped();
  return { id: await createAsset(document), notes: model.notes };
}

/** What a model brought into a piece. */
export interface Brought {
  /** Ids of its parts, as they are in the piece now. */
  parts: string[];
  notes: string[];
}

/**
 * A model's parts added to an asset that is there, as one change, or put in place of those that an older file brought. What was changed
 * while it was read stands; materials that none of its parts has are left out.
 */
export async function bringParts(assetId: string, upload: Upload): Promise<Brought> {
  const { document } = await assetState(assetId);
  const { replaces, signal } = upload;
  const older = replaces === null ? [] : partsFrom(document, { fileName: replaces });
  if (replaces !== null && older.length === 0)
    throw new InputError('import/replaces', `No part of this piece came from “${replaces}” any more; nothing was replaced.`);
  // A newer file is cut as finely as the older one was.
  const before = older.flatMap(({ origin }) => (origin?.kind === 'file' && origin.exact ? [origin.exact.toleranceMm] : []));
  const usual = toleranceFor(upload.fileName, document);
  const toleranceMm = usual && (before[0] ?? usual);
  const model = await parsed(upload, toleranceMm);
  const taken = await takeOver(model, upload, await keepExact(upload, toleranceMm));
  if (replaces !== null) {
    const notes = await takeAnew(assetId, { fileName: replaces }, taken, `a newer ${upload.fileName}`, signal);
    return { parts: older.map((p) => p.id), notes: [...model.notes, ...notes] };
  }
  await onLatest(assetId, ({ version }) => editAsset(assetId, version, { type: 'parts.bring', ...taken }), signal);
  return { parts: taken.parts.map((p) => p.id), notes: model.notes };
}

/** An asset file of another workshop, or of the command line, as a new asset. */
export async function importAssetFile(upload: Upload): Promise<{ id: string; notes: string[] }> {
  const { fileName, path, companions, signal } = upload;
  const { document, notes, meshes, pictures, kept } = await parseAsset({ fileName, path, companions, unit: 'mm' }, { signal });
  for (const m of meshes) await keepBlob(m, 'mesh');
  for (const p of pictures) await keepBlob(p, 'png');
  for (const k of kept) await keepBlob(k, 'file');
  return { id: await createAsset(document), notes };
}

/** A dense model for an asset that is there: paired with its parts by name, then by place. */
export async function importHigh(assetId: string, upload: Upload): Promise<{ paired: number; of: number }> {
  const before = await assetState(assetId);
  const model = await parsed(upload);
  const source = { fileName: upload.fileName, licence: upload.licence, note: model.notes.join(' ') };
  return giveHigh(before, model, source, upload.signal);
}

/**
 * Pairs a dense model with the parts of an asset and stores it as one change. Reading and pairing take a while: what was changed
 * meanwhile stands, and a part that has gone is left out.
 *
 * @param before the asset the model is paired with
 * @param signal ends it before anything is stored of the asset
 */
export async function giveHigh(
  before: Pick<AssetState, 'id' | 'document' | 'version'>,
  model: Pick<Model, 'parts'>,
  source: AssetDocument['sources'][number],
  signal?: AbortSignal,
): Promise<{ paired: number; of: number }> {
  const low = await formedLow(before.document);
  const pairs: { part: string; high: NonNullable<AssetDocument['parts'][number]['high']> }[] = [];
  const parts: AssetDocument['highParts'] = [];
  for (const p of model.parts) {
    // Kept in scene space, so that a pair chosen by hand can be brought into its part's space later.
    const b = boundsOf(p.mesh);
    const middle: Vec3 = [(b.min[0] + b.max[0]) / 2, (b.min[1] + b.max[1]) / 2, (b.min[2] + b.max[2]) / 2];
    const centre = transformPoint(p.placements[0], middle);
    const scene = intoPartSpace(p, IDENTITY);
    parts.push({ blob: await keepBlob(encodeMesh(scene), 'mesh'), triangles: triangleCount(p.mesh), name: p.name, centre });
  }
  for (const { part, high, by, more = [] } of pairHigh(low, model.parts)) {
    const l = low.find((p) => p.id === part);
    if (!l) continue;
    const back = inverse(l.placements[0]);
    const of = [high, ...more];
    const mesh = togetherAsOne(of.map((i) => intoPartSpace(model.parts[i], back)));
    pairs.push({
      part,
      high: await asHigh(
        mesh,
        of.map((i) => parts[i]),
        by,
      ),
    });
  }
  return onLatest(
    before.id,
    async ({ document, version }) => {
      const here = new Set(document.parts.map((p) => p.id));
      const still = pairs.filter((p) => here.has(p.part));
      await editAsset(before.id, version, { type: 'high.parts', parts, pairs: still, source });
      return { paired: still.length, of: low.filter((p) => here.has(p.id)).length };
    },
    signal,
  );
}

type High = NonNullable<AssetDocument['parts'][number]['high']>;

/** A dense mesh in its part’s space, stored; and what it is made of where that is several. */
async function asHigh(mesh: PolyMesh, of: readonly AssetDocument['highParts'][number][], pairedBy: High['pairedBy']): Promise<High> {
  return {
    blob: await keepBlob(encodeMesh(mesh), 'mesh'),
    triangles: triangleCount(mesh),
    name: of
      .map((h) => h.name)
      .join(' + ')
      .slice(0, 120),
    pairedBy,
    ...(of.length > 1 && { of: of.map((h) => h.blob) }),
  };
}

/** Brings some of an asset's high meshes into a part's space as one, for a pair chosen by hand. */
export async function pairByHand(
  assetId: string,
  baseVersion: number,
  partId: string,
  highBlobs: readonly string[],
  origin: Origin | null = null,
): Promise<{ version: number }> {
  const { document } = await assetState(assetId);
  if (highBlobs.length === 0) return editAsset(assetId, baseVersion, { type: 'high.pair', part: partId, high: null }, origin);
  const of = [...new Set(highBlobs)].map((blob) => document.highParts.find((h) => h.blob === blob));
  const low = (await formedLow(document)).find((p) => p.id === partId);
  if (!low || !of.every((h) => h !== undefined)) throw new InputError('pair/missing', 'The part or the high mesh is not there any more.');
  const back = inverse(low.placements[0]);
  const meshes = await Promise.all(of.map(async (h) => transform(decodeMesh(await readBlob(h.blob)), back)));
  const high = await asHigh(togetherAsOne(meshes), of, 'hand');
  return editAsset(assetId, baseVersion, { type: 'high.pair', part: partId, high }, origin);
}
