import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { InputError } from '../errors';
import { canonical, hashBytes } from '../hash';
import { decodeMesh } from '../mesh/codec';
import type { PolyMesh } from '../mesh/polymesh';
import { checkedDocument } from './checked-document';
import type { AssetDocument } from './document';
import { isKept, nameOf } from './results';
import { blobsOf, keptOf, picturesOf, texturesOf } from './stored';
import { asVariant, variantBetween } from './variants';
import type { ResultFile, Whole } from './whole';

/** Whether a file is by its name an asset of ours rather than a model: a document, or an archive with one. */
export const isAssetFile = (fileName: string): boolean => /\.(json|zip)$/i.test(fileName);

/** The document inside an asset file. */
const DOCUMENT = 'asset.json';
/** Unpacked, a file may hold this much, bytes: so much in any case, so much for each byte of the archive, and never more than the last. */
const UNPACKED = { free: 64_000_000, each: 100, most: 1_000_000_000 };

const picturePath = (name: string): string => `pictures/${name}.png`;
/** What came with files and is kept as it was. */
const keptPath = (name: string): string => `files/${name}`;

/** What was made of the asset, where it comes along: names, figures and files, and the picture for its card. */
const RESULTS = 'results.json';
const THUMBNAIL = 'results/card.png';
const KINDS: readonly ResultFile['kind'][] = ['parts', 'png', 'svg', 'exr'];
const json = (value: unknown): Uint8Array => strToU8(`${JSON.stringify(JSON.parse(canonical(value)), null, 2)}\n`);

/**
 * An asset as one file: an archive with everything a person decided as JSON, and the stored meshes and pictures it refers to. Equal
 * assets give equal bytes.
 *
 * @param blob the bytes of a stored mesh or picture
 * @param whole what was made of it, to come along
 */
export function packAsset(document: AssetDocument, blob: (name: string) => Uint8Array, whole?: Whole): Uint8Array {
  const mtime = new Date(1980, 0, 1);
  const made = whole && [
    [RESULTS, json(whole.results)] as const,
    [THUMBNAIL, whole.thumbnail] as const,
    ...[...whole.files].map(([name, { bytes, kind }]) => [`results/${name}.${kind}`, bytes] as const),
  ];
  const files = [
    [DOCUMENT, json(document)] as const,
    ...blobsOf(document).map((name) => [`meshes/${name}.mesh`, blob(name)] as const),
    ...picturesOf(document).map((name) => [picturePath(name), blob(name)] as const),
    ...keptOf(document).map((name) => [keptPath(name), blob(name)] as const),
    ...(made ?? []),
  ];
  return zipSync(Object.fromEntries(files.map(([name, bytes]) => [name, [bytes, { level: 6, mtime }]])));
}

/** What an asset file holds. */
export interface OpenedAsset {
  document: AssetDocument;
  load(blob: string): PolyMesh;
  /** Bytes of a stored mesh or picture. */
  bytes(blob: string): Uint8Array;
  /** What did not come with it, in sentences. */
  notes: string[];
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
    const most = Math.min(UNPACKED.most, UNPACKED.free + UNPACKED.each * bytes.length);
    try {
      files = unzipSync(bytes, {
        filter(f) {
          sum += f.originalSize;
          if (sum > most)
            throw new InputError('asset/large', `“${fileName}” would unpack to more than the ${(most / 1e6).toFixed(0)} MB it may hold.`);
          return f.name === DOCUMENT || /^(meshes|pictures|files)\//.test(f.name);
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
  const whole = checkedDocument(plain, (why) => new InputError('asset/shape', `“${fileName}” is no asset: ${why}.`));
  const pictures = whole.references.filter((r) => {
    const found = files[picturePath(r.blob)];
    if (found && hashBytes(found) !== r.blob)
      throw new InputError('asset/picture', `A picture in “${fileName}” is not the one it refers to.`);
    return found !== undefined;
  });
  const lost = whole.references.length - pictures.length;
  const came = new Set(keptOf(whole).filter((name) => files[keptPath(name)]));
  for (const name of came)
    if (hashBytes(files[keptPath(name)]) !== name)
      throw new InputError('asset/kept', `A file kept in “${fileName}” is not the one it refers to.`);
  const left = keptOf(whole).length - came.size;
  const document = withoutKept(lost > 0 ? { ...whole, references: pictures } : whole, came);
  for (const name of blobsOf(document)) {
    const found = files[`meshes/${name}.mesh`];
    if (!found) throw new InputError('asset/mesh', `“${fileName}” lacks a mesh that its parts refer to.`);
    if (hashBytes(found) !== name) throw new InputError('asset/mesh', `A mesh in “${fileName}” is not the one its parts refer to.`);
  }
  const opened = new Map<string, PolyMesh>();
  return {
    document,
    notes: [
      ...(lost > 0 ? [`${lost === 1 ? 'A picture' : `${lost} pictures`} behind the piece did not come with the file.`] : []),
      ...(left > 0
        ? [
            `${left === 1 ? 'A texture, photograph, artwork or STEP file' : `${left} textures, photographs, artworks or STEP files`} it was made from did not come with it.`,
          ]
        : []),
    ],
    bytes: (name) => files[`meshes/${name}.mesh`] ?? files[picturePath(name)] ?? files[keptPath(name)],
    load(name) {
      const known = opened.get(name) ?? decodeMesh(files[`meshes/${name}.mesh`]);
      opened.set(name, known);
      return known;
    },
  };
}

/** A document that refers only to those kept files that are there. */
function withoutKept(document: AssetDocument, there: ReadonlySet<string>): AssetDocument {
  if (keptOf(document).every((name) => there.has(name))) return document;
  // What a variant lacks of its own it has as the piece has it.
  const variants = document.variants?.map((v) => {
    const look = asVariant(document, v.id);
    const left = withoutKept({ ...look, variants: [] }, there);
    const own = <T extends { id: string }>(list: readonly T[] | undefined, id: string) => list?.find((x) => x.id === id);
    return variantBetween(v, document, {
      ...look,
      materials: look.materials.map((m) => own(left.materials, m.id) ?? m),
      ...(look.prints && { prints: look.prints.map((p) => own(left.prints, p.id) ?? own(document.prints, p.id) ?? p) }),
    });
  });
  return {
    ...document,
    ...(variants && { variants }),
    ...(document.photos && { photos: document.photos.filter((p) => there.has(p.blob)) }),
    ...(document.prints && {
      prints: document.prints.filter(({ artwork }) => artwork.kind !== 'picture' || there.has(artwork.blob)),
    }),
    sources: document.sources.map((s) => {
      if (!s.textures?.some((t) => !there.has(t.blob))) return s;
      return { ...s, textures: s.textures.filter((t) => there.has(t.blob)) };
    }),
    materials: document.materials.map((m) => {
      if (texturesOf(m).every((blob) => there.has(blob))) return m;
      const { texturing: _, ...rest } = m;
      return rest;
    }),
    parts: document.parts.map((p) => {
      if (p.origin?.kind !== 'file' || !p.origin.exact || there.has(p.origin.exact.blob)) return p;
      const { exact: _, ...origin } = p.origin;
      return { ...p, origin };
    }),
  };
}

/**
 * What was made of an asset, from a file that is trusted: a result is known by what it was made from, so that whoever writes a file
 * could pass off anything as one. Files that people hand in are opened without. Results of another state or another version are left
 * out, and those whose files are missing or damaged.
 */
export function resultsIn(document: AssetDocument, bytes: Uint8Array): Whole {
  const archive = unzipSync(bytes, { filter: (f) => f.name === RESULTS || f.name.startsWith('results/') });
  const files = new Map<string, ResultFile>();
  for (const [path, content] of Object.entries(archive)) {
    const [, name, kind] = /^results\/([0-9a-f]{64})\.(\w+)$/.exec(path) ?? [];
    const known = KINDS.find((k) => k === kind);
    if (name && known && hashBytes(content) === name) files.set(name, { bytes: content, kind: known });
  }
  const told: Whole['results'] = archive[RESULTS] ? JSON.parse(strFromU8(archive[RESULTS])) : [];
  const results = told.filter(
    (r) => isKept(r.stage) && r.name === nameOf(document, r.stage) && Object.values(r.blobs).every((hash) => files.has(hash)),
  );
  return { results, files, thumbnail: archive[THUMBNAIL] ?? new Uint8Array() };
}
