import { InputError, WellmorphError } from '../errors';
import type { Pixels } from '../image/png';
import { type CodecFiles, codecsFor } from '../io/codecs';
import { decodeTexture } from '../io/textures';
import { type Kit, needed } from '../kit';
import { LARGEST_ARTWORK, orientationOf } from './file';
import { type CutPicture, cutOut, upright } from './pixels';
import type { Artwork } from './print';
import { type Drawing, setBars, setDial, setText } from './set';

/** What is drawn from lines is drawn up to so many px wide. */
const LARGEST_DRAWN = 6144;

/** What is set here, as a drawing. @throws WellmorphError in one sentence */
export function drawnArtwork(artwork: Exclude<Artwork, { kind: 'picture' }>, kit: Kit): Drawing {
  if (artwork.kind === 'bars') return setBars(artwork);
  const font = needed(kit, 'font');
  return artwork.kind === 'text' ? setText(font, artwork) : setDial(font, artwork);
}

/** Any picture as four bytes a pixel. */
function asCut({ width, height, channels, depth, data }: Pixels): CutPicture {
  if (channels === 4 && depth === 8) return { width, height, data: data as Uint8Array };
  const bytes = depth === 8 ? (data as Uint8Array) : Uint8Array.from(data, (x) => x >> 8);
  const out = new Uint8Array(4 * width * height);
  // Of grey all three are the same.
  const [g, b] = channels < 3 ? [0, 0] : [1, 2];
  const alpha = channels === 2 ? 1 : channels === 4 ? 3 : -1;
  for (let o = 0, s = 0; o < out.length; o += 4, s += channels) {
    out[o] = bytes[s];
    out[o + 1] = bytes[s + g];
    out[o + 2] = bytes[s + b];
    out[o + 3] = alpha < 0 ? 255 : bytes[s + alpha];
  }
  return { width, height, data: out };
}

/** What an artwork is read with. */
export interface ArtworkReader {
  kit: Kit;
  codecs?: CodecFiles;
  /** Bytes of a stored file. */
  read(blob: string): Uint8Array | undefined;
}

/**
 * An artwork’s pixels.
 *
 * @param width that something drawn from lines is drawn at, px @throws WellmorphError in one sentence
 */
export async function openArtwork(
  artwork: Artwork,
  name: string,
  width: number,
  { kit, codecs, read }: ArtworkReader,
): Promise<CutPicture> {
  const across = Math.max(1, Math.min(LARGEST_DRAWN, Math.round(width)));
  if (artwork.kind !== 'picture') return needed(kit, 'drawings')(drawnArtwork(artwork, kit).svg, across);
  const stored = read(artwork.blob);
  if (!stored) throw new InputError('print/missing', `The artwork of “${name}” is no longer stored.`);
  // Decoders refuse memory that threads share.
  const bytes = new Uint8Array(stored);
  let picture: CutPicture;
  if (artwork.mime === 'image/svg+xml') {
    try {
      picture = needed(kit, 'drawings')(bytes, across);
    } catch (error) {
      if (error instanceof WellmorphError) throw error;
      throw new InputError('print/svg', `“${artwork.fileName}” is not a whole SVG drawing.`);
    }
  } else {
    await codecsFor([{ bytes }], codecs);
    picture = upright(asCut(decodeTexture(artwork.fileName, bytes, LARGEST_ARTWORK)), await orientationOf(bytes));
  }
  return artwork.cut === undefined ? picture : cutOut(picture, artwork.cut);
}
