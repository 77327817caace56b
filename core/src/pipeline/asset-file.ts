import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { InputError } from '../errors';
import { hashBytes } from '../hash';
import { decodeMesh } from '../mesh/codec';
import type { PolyMesh } from '../mesh/polymesh';
import { type AssetDocument, upgradeDocument } from './document';

/** The document inside an asset file. */
const DOCUMENT = 'asset.json';
/** Unpacked, a file may hold this much, bytes. */
const LARGEST = 2_000_000_000;

/** Blobs of the meshes a document refers to. */
export function blobsOf(document: AssetDocument): string[] {
  const names = document.parts.flatMap((p) => [...(p.shape.kind === 'mesh' ? [p.shape.low.blob] : []), ...(p.high ? [p.high.blob] : [])]);
  return [...new Set([...names, ...document.highParts.map((h) => h.blob)])];
}

/**
 * An asset as one file: an archive with everything a person decided as JSON, and the stored meshes it refers to. Equal assets give
 * equal bytes.
 *
 * @param blob the bytes of a stored mesh
 */
export function packAsset(document: AssetDocument, blob: (name: string) => Uint8Array): Uint8Array {
  const mtime = new Date(1980, 0, 1);
  const files = [
    [DOCUMENT, strToU8(`${JSON.stringify(document, null, 2)}\n`)] as const,
    ...blobsOf(document).map((name) => [`meshes/${name}.mesh`, blob(name)] as const),
  ];
  return zipSync(Object.fromEntries(files.map(([name, bytes]) => [name, [bytes, { level: 6, mtime }]])));
}

export interface OpenedAsset {
  document: AssetDocument;
  load(blob: string): PolyMesh;
  /** Bytes of a stored mesh. */
  bytes(blob: string): Uint8Array;
}

/**
 * Opens an asset file, or a document alone where it refers to no mesh.
 *
 * @throws InputError in one sentence when it is none, or a mesh it refers to is missing or damaged
 */
export function openAsset(fileName: string, bytes: Uint8Array): OpenedAsset {
  const isArchive = bytes[0] === 0x50 && bytes[1] === 0x4b;
  let files: Record<string, Uint8Array> = {};
  if (isArchive) {
    let sum = 0;
    try {
      files = unzipSync(bytes, {
        filter(f) {
          sum += f.originalSize;
          if (sum > LARGEST) throw new InputError('asset/large', `“${fileName}” unpacks to more than ${LARGEST / 1e9} GB.`);
          return f.name === DOCUMENT || f.name.startsWith('meshes/');
        },
      });
    } catch (error) {
      if (error instanceof InputError) throw error;
      throw new InputError('asset/archive', `“${fileName}” is a damaged archive.`);
    }
  }
  const text = isArchive ? files[DOCUMENT] : bytes;
  if (!text) throw new InputError('asset/none', `“${fileName}” holds no ${DOCUMENT}: it is no asset file.`);
  let plain: unknown;
  try {
    plain = JSON.parse(strFromU8(text));
  } catch {
    throw new InputError('asset/json', `“${fileName}” holds no readable asset: its JSON is broken.`);
  }
  const document = checked(fileName, plain);
  for (const name of blobsOf(document)) {
    const found = files[`meshes/${name}.mesh`];
    if (!found) throw new InputError('asset/mesh', `“${fileName}” lacks a mesh that its parts refer to.`);
    if (hashBytes(found) !== name) throw new InputError('asset/mesh', `A mesh in “${fileName}” is not the one its parts refer to.`);
  }
  const opened = new Map<string, PolyMesh>();
  return {
    document,
    bytes: (name) => files[`meshes/${name}.mesh`],
    load(name) {
      const known = opened.get(name) ?? decodeMesh(files[`meshes/${name}.mesh`]);
      opened.set(name, known);
      return known;
    },
  };
}

/** A stored document, looked over before it is believed. */
function checked(fileName: string, plain: unknown): AssetDocument {
  const wrong = (why: string) => new InputError('asset/shape', `“${fileName}” is no asset: ${why}.`);
  const isObject = (x: unknown): x is Record<string, unknown> => typeof x === 'object' && x !== null && !Array.isArray(x);
  if (!isObject(plain)) throw wrong('it is not one JSON object');
  if (plain.schema !== 1 && plain.schema !== 2) throw wrong('its schema is not one that is known here');
  if (typeof plain.name !== 'string' || !isObject(plain.brief) || !isObject(plain.brief.limits)) throw wrong('it has no name or no brief');
  const { triangles, textureSize, textureSets, memoryMB } = plain.brief.limits;
  for (const x of [triangles, textureSize, textureSets, memoryMB])
    if (!(typeof x === 'number' && Number.isFinite(x) && x > 0)) throw wrong('a limit of its brief is no number above 0');
  if (!Array.isArray(plain.parts)) throw wrong('it has no list of parts');
  const ids = new Set<string>();
  for (const p of plain.parts as unknown[]) {
    if (!isObject(p) || typeof p.id !== 'string' || typeof p.name !== 'string' || !isObject(p.shape))
      throw wrong('a part has no id, name or shape');
    if (ids.has(p.id)) throw wrong(`two parts have the id ${p.id}`);
    ids.add(p.id);
    const isRecipe = p.shape.kind === 'recipe' && Array.isArray(p.shape.steps);
    const isMesh =
      p.shape.kind === 'mesh' && isObject(p.shape.low) && typeof p.shape.low.blob === 'string' && Array.isArray(p.shape.placements);
    if (!isRecipe && !isMesh) throw wrong(`“${p.name}” is neither made by steps nor a mesh`);
  }
  try {
    return upgradeDocument(plain);
  } catch {
    throw wrong('its parts or materials are not what they should be');
  }
}
