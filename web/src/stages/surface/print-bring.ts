import { WellmorphError } from '@wellmorph/core/errors';
import { isPng, isWebp, pictureSize } from '@wellmorph/core/io/head';
import { type AssetDocument, deliveredParts, sharers } from '@wellmorph/core/pipeline/document';
import { artworkFileFault, dpiSaid, orientationOf, svgFault, svgSize } from '@wellmorph/core/print/file';
import { type Artwork, INK, type PictureArtwork, PRINT_MM, type Print, printedMm } from '@wellmorph/core/print/print';
import type { AssetSession } from '@/session/session';
import { sentence } from '@/session/session';
import { newId } from '@/sheet/ids';
import type { Bytes, GpuPart } from '@/workers/protocol';

/** What a picture is printed at whose file says nothing of dots per inch: common practice for pictures of products, no source. */
const USUAL_DPI = 300;
/** Pixels a CSS millimetre has, for drawings: of those only the size counts. */
const PX_PER_MM = 96 / 25.4;

/** Artwork that was brought, as it is kept, and how large it is of its own accord. */
export interface Brought {
  artwork: PictureArtwork;
  name: string;
  width: number;
  height: number;
}

/** Keeps a file as artwork, byte for byte. What can’t be printed is said, and nothing is stored. */
export async function bringArtwork(session: AssetSession, file: File): Promise<Brought | null> {
  const bytes = new Uint8Array(await file.arrayBuffer()) as Bytes;
  const name = file.name.replace(/\.\w+$/, '').slice(0, 80) || 'Artwork';
  try {
    const isDrawing = pictureSize(bytes) === null && /\.svg$/i.test(file.name);
    const made = isDrawing ? drawing(file.name, bytes) : await picture(file.name, bytes, session);
    if (typeof made === 'string') {
      session.notify(made, 'error');
      return null;
    }
    const { size, ...about } = made;
    const blob = await session.bench.blobs.put(bytes, 'artwork');
    const artwork: PictureArtwork = { kind: 'picture', blob, fileName: file.name.slice(0, 200), ...about };
    // Opened once before it is taken: a file that is broken off behind its head is said now and not when the set is composed.
    await session.bench.pool.run('artwork', { artwork, name, files: { [blob]: bytes } });
    return { artwork, name, ...size };
  } catch (error) {
    session.notify(sentence(error), 'error');
    return null;
  }
}

type About = Pick<PictureArtwork, 'mime' | 'widthPx' | 'heightPx' | 'dpi'> & { size: { width: number; height: number } };

function drawing(name: string, bytes: Bytes): About | string {
  if (bytes.length > 20e6) return `“${name}” is ${Math.round(bytes.length / 1e6)} MB; drawings of up to 20 MB are read.`;
  const text = new TextDecoder().decode(bytes);
  const fault = svgFault(name, text);
  if (fault) return fault;
  try {
    const size = svgSize(name, text);
    const [widthPx, heightPx] = [size.width * PX_PER_MM, size.height * PX_PER_MM].map((n) => Math.max(1, Math.round(n)));
    return { mime: 'image/svg+xml', widthPx, heightPx, size };
  } catch (error) {
    if (error instanceof WellmorphError) return error.message;
    throw error;
  }
}

async function picture(name: string, bytes: Bytes, session: AssetSession): Promise<About | string> {
  const fault = artworkFileFault(name, bytes);
  if (fault) return fault;
  const stored = pictureSize(bytes) as [number, number];
  // Upright, as it is shown.
  const [widthPx, heightPx] = (await orientationOf(bytes)) >= 5 ? [stored[1], stored[0]] : stored;
  const said = await dpiSaid(bytes);
  if (said === null)
    session.notify(`“${name}” doesn’t say its dots per inch: it is taken at ${USUAL_DPI}. Type its size where it is another.`);
  const dpi = said ?? USUAL_DPI;
  return {
    mime: isPng(bytes) ? 'image/png' : isWebp(bytes) ? 'image/webp' : 'image/jpeg',
    widthPx,
    heightPx,
    ...(said !== null && { dpi: said }),
    size: { width: printedMm(widthPx, dpi), height: printedMm(heightPx, dpi) },
  };
}

/** Within what a print may be, in its own proportions. */
export function fitted(width: number, height: number): { width: number; height: number } {
  const k = Math.min(1, PRINT_MM.max / Math.max(width, height)) * Math.max(1, PRINT_MM.min / Math.min(width, height));
  const within = (mm: number) => Math.round(1e4 * Math.min(PRINT_MM.max, Math.max(PRINT_MM.min, mm * k))) / 1e4;
  return { width: within(width), height: within(height) };
}

/** A part that can be printed on: the one that is asked for, or the first; one whose texels are its own. */
export function printable(document: AssetDocument, wanted: string | null): string | null {
  const shared = sharers(document);
  const wantedPart = wanted === null ? null : (shared[wanted] ?? wanted);
  const parts = deliveredParts(document).filter((p) => p.material !== null && shared[p.id] === undefined);
  return parts.find((p) => p.id === wantedPart)?.id ?? parts[0]?.id ?? null;
}

/** A new print in the middle of what its part turns to the front. */
export function newPrint(name: string, part: GpuPart, artwork: Artwork, size: { width: number; height: number }): Print {
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < part.position.length; i++) {
    low[i % 3] = Math.min(low[i % 3], part.position[i]);
    high[i % 3] = Math.max(high[i % 3], part.position[i]);
  }
  return {
    id: newId(),
    name,
    on: true,
    part: part.id,
    artwork,
    ...fitted(size.width, size.height),
    at: { point: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, high[2]], normal: [0, 0, 1] },
    across: { from: 'middle', mm: 0 },
    up: { from: 'middle', mm: 0 },
    turn: 0,
    ink: { ...INK, roughness: 0.6 },
  };
}
