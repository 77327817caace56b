import { picturesIn } from '../surface/texturing';
import type { AssetDocument, Material, Part } from './document';
import { variantsOf } from './variants';

/** Blobs a part refers to: its meshes, and the file its exact surfaces lie in. */
export const blobsOfPart = (part: Part): string[] => [...meshesOfPart(part), ...exactOf(part)];

const meshesOfPart = (p: Part): string[] => [...(p.shape.kind === 'mesh' ? [p.shape.low.blob] : []), ...(p.high ? [p.high.blob] : [])];
const exactOf = ({ origin }: Part): string[] => (origin?.kind === 'file' && origin.exact ? [origin.exact.blob] : []);

/** Blobs of the meshes a document refers to. */
export function blobsOf(document: AssetDocument): string[] {
  return [...new Set([...document.parts.flatMap(meshesOfPart), ...document.highParts.map((h) => h.blob)])];
}

/** Blobs of the pictures behind the piece. */
export const picturesOf = (document: AssetDocument): string[] => [...new Set(document.references.map((r) => r.blob))];

/** Blobs of the artwork that is printed on a piece. */
export const artworksOf = ({ prints = [] }: Pick<AssetDocument, 'prints'>): string[] => [
  ...new Set(prints.flatMap(({ artwork }) => (artwork.kind === 'picture' ? [artwork.blob] : []))),
];
/** Blobs of what variants alone refer to: other artwork, other pictures of materials. */
const ofVariants = (document: AssetDocument): string[] =>
  variantsOf(document).flatMap((look) => [...look.materials.flatMap(texturesOf), ...artworksOf(look)]);

/** Blobs of what came with files and is kept as it was: their textures, files whose surfaces are exact, photographs, artwork. */
export const keptOf = (document: AssetDocument): string[] => [
  ...new Set([
    ...document.parts.flatMap(exactOf),
    ...document.sources.flatMap((s) => (s.textures ?? []).map((t) => t.blob)),
    ...document.materials.flatMap(texturesOf),
    ...(document.photos ?? []).map((p) => p.blob),
    ...artworksOf(document),
    ...ofVariants(document),
  ]),
];
/** Blobs of the pictures a material is textured with. */
export const texturesOf = ({ texturing }: Pick<Material, 'texturing'>): string[] => (texturing ? picturesIn(texturing) : []);

/** Every blob a document refers to. */
export const everyBlob = (document: AssetDocument): string[] => [...blobsOf(document), ...picturesOf(document), ...keptOf(document)];
