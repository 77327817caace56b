import { WellmorphError } from '../errors';
import { kindOf } from '../form/steps';
import { hashOf } from '../hash';
import { triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import type { ReadyPrint } from '../print/ink';
import { judgePrint } from '../print/judge';
import { layPrint, type PrintedPart } from '../print/lay';
import { type ArtworkReader, openArtwork } from '../print/open';
import { type PrintPicture, printPicture } from '../print/pixels';
import type { Artwork, Print } from '../print/print';
import type { PrintFigures } from '../print/verdict';
import { type Allocate, PRIVATE } from '../rays/tree';
import type { Over } from '../surface/compose';
import { areaInLayout } from '../uv/raster';
import { type AssetDocument, originalOf, stepsOf } from './document';
import { materialUnder, type PrintedDocument, printsOf } from './prints';

/** Pictures of artworks by {@link artworkKey}. */
export type PrintPictures = ReadonlyMap<string, PrintPicture>;

/** What an artwork’s pixels follow from, as one word. @param width px that something drawn from lines is drawn at */
export const artworkKey = (artwork: Artwork, width: number): string => {
  if (artwork.kind !== 'picture') return hashOf([artwork, width]);
  const { blob, cut = null, mime } = artwork;
  return hashOf([blob, cut, mime === 'image/svg+xml' ? width : 0]);
};

/** Texels a mm of a part’s layout, on the mean. */
export function texelsPerMm(mesh: PolyMesh, size: number): number {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) return 0;
  let [space, tile] = [0, 0];
  for (let t = 0; t < triangleCount(mesh); t++) {
    space += triangleArea(mesh, t);
    tile += Math.abs(areaInLayout(mesh, uv, t));
  }
  return space > 0 ? size * Math.sqrt(tile / space) : 0;
}

/** Twice the texels that come to lie under it, in steps of a quarter, so that what is dragged isn’t drawn anew at every move. */
function drawnWidth(print: Print, mesh: PolyMesh, size: number): number {
  const wanted = 2 * print.width * Math.max(0.5, texelsPerMm(mesh, size));
  return Math.round(2 ** (Math.ceil(2 * Math.log2(Math.max(16, wanted))) / 2));
}

/** The key of each print’s picture, at a size of the set. */
export const keyOfPrint = (print: Print, mesh: PolyMesh, size: number): string => artworkKey(print.artwork, drawnWidth(print, mesh, size));

/**
 * Opens the artworks of prints.
 *
 * @param known pictures that are open already @param allocate memory that workers share @throws WellmorphError in one sentence
 */
export async function openPrints(
  document: PrintedDocument,
  laid: readonly { id: string; mesh: PolyMesh }[],
  size: number,
  reader: ArtworkReader,
  known: PrintPictures = new Map(),
  allocate: Allocate = PRIVATE,
): Promise<Map<string, PrintPicture>> {
  const out = new Map<string, PrintPicture>();
  for (const print of printsOf(document)) {
    const part = laid.find((p) => p.id === print.part);
    if (!part) continue;
    const key = keyOfPrint(print, part.mesh, size);
    if (out.has(key)) continue;
    const there = known.get(key);
    out.set(key, there ?? printPicture(await openArtwork(print.artwork, print.name, drawnWidth(print, part.mesh, size), reader), allocate));
  }
  return out;
}

/** What is known of a part that is printed on beside its mesh. */
export function printedPart(document: Pick<AssetDocument, 'parts'>, id: string): PrintedPart {
  const part = document.parts.find((p) => p.id === id);
  if (!part) return {};
  const original = originalOf(document, part);
  const balanced = new Set(stepsOf(original).flatMap((s) => (kindOf(s.kind).balanced?.(s) ? [s.id] : [])));
  return { regions: part.regions ?? [], balanced };
}

/** No artworks. */
export const NO_PICTURES: PrintPictures = new Map();

/** A print with all that it takes to lay it on its part’s mesh: what workers hand on. */
export interface SetPrint {
  print: Print;
  about: PrintedPart;
  picture: PrintPicture;
  /** Light goes through what it lies on. */
  onClear: boolean;
}

/** The prints of a set. @param parts that are composed @param pictures as {@link openPrints} opened them */
export function setPrints(
  document: PrintedDocument,
  parts: readonly { id: string; mesh: PolyMesh }[],
  pictures: PrintPictures,
  size: number,
): SetPrint[] {
  return printsOf(document).map((print) => {
    const mesh = parts.find((p) => p.id === print.part)?.mesh;
    const picture = mesh ? pictures.get(keyOfPrint(print, mesh, size)) : NOTHING;
    if (!picture) throw new Error(`The artwork of a print (${print.id}) was not opened.`);
    return { print, about: printedPart(document, print.part), picture, onClear: (materialUnder(document, print)?.transmission ?? 0) > 0 };
  });
}
/** Of a print that lies nowhere. */
const NOTHING: PrintPicture = { width: 1, height: 1, data: new Uint8Array(4), levels: [] };

/** Which maps prints ask of a set. */
export const overOf = (prints: readonly SetPrint[]): Over => ({
  relief: prints.some(({ print }) => (print.ink.relief ?? 0) !== 0),
  coat: prints.some(({ print }) => print.ink.coat !== undefined),
  clear: prints.some((p) => p.onClear),
});

/** A print that could be laid, or why not. */
export type LaidOrNot = { print: Print; ready: ReadyPrint; wrong?: undefined } | { print: Print; wrong: string };

/** Lays prints on their parts, in their order. @param parts that are composed */
export function layPrints(prints: readonly SetPrint[], parts: readonly { id: string; mesh: PolyMesh }[]): LaidOrNot[] {
  return prints.map(({ print, about, picture }): LaidOrNot => {
    const part = parts.find((p) => p.id === print.part);
    if (!part)
      return { print, wrong: 'Its part has no material to print on, or has the texels of another one like it: print on that one.' };
    try {
      return { print, ready: { mesh: part.mesh, laid: layPrint(part.mesh, print, about), picture } };
    } catch (error) {
      if (error instanceof WellmorphError) return { print, wrong: error.message };
      throw error;
    }
  });
}

/** What became of each print. */
export interface PrintedFigures {
  prints: PrintFigures[];
  /** Those that lie nowhere, and why. */
  wrong: { id: string; name: string; sentence: string }[];
}

/** Measures prints where they lie. */
export function judgePrints(prints: readonly LaidOrNot[], size: number): PrintedFigures {
  return {
    prints: prints.flatMap((p) => (p.wrong === undefined ? [judgePrint(p.ready.mesh, p.ready.laid, size, p.ready.picture)] : [])),
    wrong: prints.flatMap((p) => (p.wrong !== undefined ? [{ id: p.print.id, name: p.print.name, sentence: p.wrong }] : [])),
  };
}
