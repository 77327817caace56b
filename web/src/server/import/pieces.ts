import { randomUUID } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import { InputError } from '@wellmorph/core/errors';
import { partsFrom } from '@wellmorph/core/pipeline/anew';
import type { AssetDocument, Material, MeshRef, Part, Source } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { blobsOf, texturesOf } from '@wellmorph/core/pipeline/stored';
import { unpainted } from '@wellmorph/core/surface/material-file';
import { keepBlob, readBlob } from '../blobs/store';
import { assetState, editAsset, listAssets } from '../db/assets';
import type { PieceAnswer, PieceAsk } from '../jobs/piece.worker';
import { takeAnew } from './anew';
import type { Brought } from './import';
import { grouped, onLatest } from './take';

/** The thread that forms a piece to be brought in. Replaceable, for where sources are not bundled. */
export const workbench = { thread: (): Worker => new Worker(new URL('../jobs/piece.worker.ts', import.meta.url)) };

/** How long forming one piece may take, ms. */
const TIME_LIMIT = 120_000;

function formed(ask: PieceAsk, name: string): Promise<Exclude<PieceAnswer, { failed: string }>> {
  return new Promise((resolve, reject) => {
    const thread = workbench.thread();
    const end = (settle: () => void) => {
      clearTimeout(timer);
      settle();
      void thread.terminate();
    };
    const failed = (why: string) => end(() => reject(new InputError('piece/form', `“${name}” could not be formed: ${why}`)));
    const timer = setTimeout(() => failed(`it took longer than ${TIME_LIMIT / 1000} s.`), TIME_LIMIT);
    thread.once('message', (answer: PieceAnswer) => ('failed' in answer ? failed(answer.failed) : end(() => resolve(answer))));
    thread.once('error', (error) => {
      console.error(error);
      failed('it needs more memory than one piece may take.');
    });
    thread.postMessage(ask);
  });
}

/** A piece of the Workshop by its id. @throws InputError when it is not there any more */
async function piece(id: string, called?: string): Promise<AssetDocument> {
  const found = (await listAssets()).find((a) => a.id === id);
  if (!found)
    throw new InputError(
      'piece/missing',
      `${called ? `“${called}”` : 'That piece'} is not in the Workshop any more; what was taken from it stays.`,
    );
  return found.document;
}

/** The delivered parts of a piece as parts of another, with their materials, everything of them stored. */
async function taken(from: string, document: AssetDocument, frozen: boolean) {
  const meshes = Object.fromEntries(await Promise.all(blobsOf(document).map(async (name) => [name, await readBlob(name)] as const)));
  const { parts: made, problems } = await formed({ document, meshes }, document.name);
  if (made.length === 0) throw new InputError('piece/empty', `“${document.name}” has no parts yet.`);
  const own = randomUUID().slice(0, 8);
  const materials = document.materials
    .filter((m) => made.some((p) => document.parts.find((x) => x.id === p.id)?.material === m.id))
    .map((m, i) => ({ from: m.id, material: { ...m, id: `m-${own}-${i + 1}` } }));
  const kept = async ({ bytes, triangles }: { bytes: Uint8Array; triangles: number }): Promise<MeshRef> => ({
    blob: await keepBlob(bytes, 'mesh'),
    triangles,
  });
  const parts: Part[] = [];
  for (const [i, p] of made.entries()) {
    const was = document.parts.find((x) => x.id === p.id) as Part;
    parts.push({
      id: `part-${own}-${i + 1}`,
      name: was.name,
      role: was.role,
      material: materials.find((m) => m.from === was.material)?.material.id ?? null,
      move: [0, 0, 0],
      turnDegrees: [0, 0, 0],
      shape: { kind: 'mesh', low: await kept(p.low), placements: p.placements },
      ...(p.high && { high: { ...(await kept(p.high)), name: was.name, pairedBy: 'name' as const } }),
      weight: was.weight,
      ...(was.grain && { grain: was.grain }),
      ...(was.pxPerCm && { pxPerCm: was.pxPerCm }),
      declaredOpen: was.declaredOpen,
      ...(was.loose && { loose: true }),
      origin: { kind: 'piece', asset: from, piece: document.name, part: was.id, state: nameOf(document, 'form'), frozen },
    });
  }
  const notes = problems.length > 0 ? [`Steps of it could not be made: ${problems[0]}`] : [];
  const licences = [...new Set(document.sources.map((s) => s.licence).filter(Boolean))].join(', ');
  const pictures = new Set(materials.flatMap((m) => texturesOf(m.material)));
  const textures = document.sources.flatMap((s) => s.textures ?? []).filter((t) => pictures.has(t.blob));
  const source: Source = {
    fileName: `${document.name} (piece of the Workshop)`,
    licence: licences,
    note: notes.join(' '),
    ...(textures.length > 0 && { textures }),
  };
  return { ...grouped(parts, own, document.name), materials: materials.map((m) => m.material), source, notes };
}

/** Another piece of the Workshop as parts of this one: as it is now, and taken anew on wish unless it is frozen. */
export async function bringPiece(assetId: string, from: string, frozen: boolean): Promise<Brought> {
  if (from === assetId) throw new InputError('piece/itself', 'A piece can’t be brought into itself.');
  await assetState(assetId);
  const { notes, ...all } = await taken(from, await piece(from), frozen);
  await onLatest(assetId, ({ version }) => editAsset(assetId, version, { type: 'parts.bring', ...all }));
  return { parts: all.parts.map((p) => p.id), notes };
}

/** The newer state of a linked piece in place of the one that was taken. */
export async function takePiece(assetId: string, from: string): Promise<{ notes: string[] }> {
  const { document } = await assetState(assetId);
  const [first] = partsFrom(document, { asset: from });
  if (!first) throw new InputError('piece/none', 'No part of this piece is linked to that one any more.');
  const other = await piece(from, first.origin?.kind === 'piece' ? first.origin.piece : undefined);
  const { notes, ...all } = await taken(from, other, false);
  return { notes: [...notes, ...(await takeAnew(assetId, { asset: from }, all, `a newer state of ${other.name}`))] };
}

/** Another piece of the Workshop: what its form is called now, and whether it has anything to bring in. */
export interface OtherPiece {
  id: string;
  name: string;
  parts: number;
  state: string;
}

/** What pieces of the Workshop have been made of. */
export interface OtherMaterials {
  id: string;
  name: string;
  materials: Omit<Material, 'texturing' | 'derived'>[];
}

/** The other assets of the Workshop. @throws InputError where the one that asks is not there any more */
async function others(assetId: string): ReturnType<typeof listAssets> {
  const all = await listAssets();
  if (!all.some((a) => a.id === assetId)) await assetState(assetId);
  return all.filter((a) => a.id !== assetId);
}

/** Materials of the other pieces that somebody chose or made, as they are now; without what was painted on one piece. */
export const materialsElsewhere = async (assetId: string): Promise<OtherMaterials[]> =>
  (await others(assetId))
    .map(({ id, document }) => ({
      id,
      name: document.name,
      materials: document.materials
        .filter((m) => m.touched && !m.texturing)
        .map(({ texturing: _, derived: __, ...m }) => ({ ...m, layers: unpainted(m.layers) })),
    }))
    .filter((a) => a.materials.length > 0)
    .sort((a, b) => a.name.localeCompare(b.name));

/** The other pieces of the Workshop, by name. */
export const otherPieces = async (assetId: string): Promise<OtherPiece[]> =>
  (await others(assetId))
    .map(({ id, document }) => ({
      id,
      name: document.name,
      parts: document.parts.filter((p) => !p.aid).length,
      state: nameOf(document, 'form'),
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
