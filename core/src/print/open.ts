import { InputError, WellmorphError } from '../errors';
import type { Pixels } from '../image/png';
import { type CodecFiles, codecsFor } from '../io/codecs';
import { isJpeg, pictureHead, pictureSize } from '../io/head';
import { decodeTexture } from '../io/textures';
import { type Kit, needed } from '../kit';
import { type CutPicture, cutOut } from './pixels';
import { type Artwork, printedMm, SENSIBLE_DPI } from './print';
import { type Drawing, setBars, setDial, setText } from './set';

/** Sides of a picture that is printed at most, and pixels of it altogether; what is drawn from lines is drawn up to so many px wide. */
export const LARGEST_ARTWORK = 16_384;
const MOST_PIXELS = 120e6;
export const LARGEST_DRAWN = 6144;

/** What is set here, as a drawing. @throws WellmorphError in one sentence */
export function drawnArtwork(artwork: Exclude<Artwork, { kind: 'picture' }>, kit: Kit): Drawing {
  if (artwork.kind === 'bars') return setBars(artwork);
  const font = needed(kit, 'font');
  return artwork.kind === 'text' ? setText(font, artwork) : setDial(font, artwork);
}

/** What of an SVG can’t be drawn as it is meant, as a sentence; null where all can. */
export function svgFault(name: string, text: string): string | null {
  if (!/<svg[\s>]/i.test(text)) return `“${name}” is no SVG drawing.`;
  if (/<script[\s>]/i.test(text) || /\son\w+\s*=/i.test(text)) return `“${name}” has scripts in it: save it without them.`;
  if (/<!ENTITY/i.test(text)) return `“${name}” defines words of its own (entities): save it without them.`;
  // What lies elsewhere isn’t fetched; what lies in the file itself is.
  if (/(?:href\s*=\s*["']\s*(?!#|data:|["'])|url\(\s*["']?\s*(?!#|data:))/i.test(text) || /@import/i.test(text))
    return `“${name}” refers to files elsewhere: put them into the drawing itself.`;
  if (/<text[\s>]/i.test(text)) return `“${name}” has text that needs a typeface: turn its letters into outlines first.`;
  if (/<foreignObject[\s>]/i.test(text)) return `“${name}” has a piece of a web page in it, which can’t be printed.`;
  return null;
}

/** A drawing’s size as its file says, mm: lengths without a unit are of 1/96 inch (CSS Values and Units 4, 5.2). @throws InputError */
export function svgSize(name: string, text: string): { width: number; height: number } {
  const root = /<svg[^>]*>/i.exec(text)?.[0] ?? '';
  const said = (key: string): number | null => {
    const found = new RegExp(`\\s${key}\\s*=\\s*["']\\s*([0-9.eE+-]+)\\s*(mm|cm|in|pt|pc|px|q)?\\s*["']`, 'i').exec(root);
    return found ? Number(found[1]) * MM[(found[2] ?? 'px').toLowerCase()] : null;
  };
  const box = /\sviewBox\s*=\s*["']\s*([^"']+)["']/i
    .exec(root)?.[1]
    .split(/[\s,]+/)
    .map(Number);
  const inBox = box && box.length >= 4 && box[2] > 0 && box[3] > 0 ? [box[2] * MM.px, box[3] * MM.px] : null;
  const [w, h] = [said('width'), said('height')];
  const size = {
    width: w ?? (h !== null && inBox ? (h * inBox[0]) / inBox[1] : (inBox?.[0] ?? Number.NaN)),
    height: h ?? (w !== null && inBox ? (w * inBox[1]) / inBox[0] : (inBox?.[1] ?? Number.NaN)),
  };
  if (!(size.width > 0 && size.height > 0))
    throw new InputError('print/svg-size', `“${name}” says neither its size nor the box it is drawn in.`);
  if (size.width > 1e5 || size.height > 1e5 || size.width / size.height > 1000 || size.height / size.width > 1000)
    throw new InputError(
      'print/svg-size',
      `“${name}” says that it is ${Math.round(size.width)} × ${Math.round(size.height)} mm, which can’t be meant.`,
    );
  return size;
}
const MM: Record<string, number> = { mm: 1, cm: 10, in: 25.4, pt: 25.4 / 72, pc: 25.4 / 6, px: 25.4 / 96, q: 0.25 };

/** Why a file is no picture that can be printed; null where it is one. Only its head is looked at. */
export function artworkFileFault(name: string, bytes: Uint8Array): string | null {
  const size = pictureSize(bytes);
  if (!size) return `“${name}” is no PNG, JPEG, WebP or SVG picture.`;
  const [width, height] = size;
  const head = pictureHead(bytes);
  if (head?.kind === 'JPEG' && head.channels === 4)
    return `“${name}” is a picture in the four inks of a print (CMYK): its colours can’t be taken; save it in RGB first.`;
  if (!(width > 0 && height > 0)) return `“${name}” is damaged: it says no size.`;
  if (width > LARGEST_ARTWORK || height > LARGEST_ARTWORK || width * height > MOST_PIXELS)
    return `“${name}” is ${width} × ${height} px; artwork of up to ${LARGEST_ARTWORK} px a side and ${MOST_PIXELS / 1e6} megapixels is read.`;
  return null;
}

/** Any picture as four bytes a pixel. */
function asCut({ width, height, channels, depth, data }: Pixels): CutPicture {
  const value = depth === 16 ? (i: number) => data[i] >> 8 : (i: number) => data[i];
  if (channels === 4 && depth === 8) return { width, height, data: data as Uint8Array };
  const out = new Uint8Array(4 * width * height);
  const light = channels < 3 ? 1 : 3;
  for (let i = 0, o = 0, s = 0; i < width * height; i++, o += 4, s += channels) {
    for (let k = 0; k < 3; k++) out[o + k] = value(s + (light === 3 ? k : 0));
    out[o + 3] = channels === 2 || channels === 4 ? value(s + channels - 1) : 255;
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
  const bytes = read(artwork.blob);
  if (!bytes) throw new InputError('print/missing', `The artwork of “${name}” is no longer stored.`);
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
    picture = asCut(decodeTexture(artwork.fileName, bytes, LARGEST_ARTWORK));
  }
  return artwork.cut === undefined ? picture : cutOut(picture, artwork.cut);
}

/** Dots per inch as a picture file says them; null where it doesn’t, or says what can’t be meant. */
export function dpiSaid(bytes: Uint8Array): number | null {
  const found = isJpeg(bytes) ? jfifDpi(bytes) : pngDpi(bytes);
  return found !== null && found >= SENSIBLE_DPI.min && found <= SENSIBLE_DPI.max ? found : null;
}

/** pHYs, dots a metre (PNG specification, 11.3.4.3). */
function pngDpi(b: Uint8Array): number | null {
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  for (let i = 8; i + 12 <= b.length; ) {
    const long = view.getUint32(i);
    const type = String.fromCharCode(...b.subarray(i + 4, i + 8));
    if (type === 'pHYs' && i + 17 <= b.length) return b[i + 16] === 1 ? view.getUint32(i + 8) * 0.0254 : null;
    if (type === 'IDAT') return null;
    i += 12 + long;
  }
  return null;
}

/** The density of a JFIF file (ITU-T T.871, 10.1); an Exif file’s is read by whoever brings it. */
function jfifDpi(b: Uint8Array): number | null {
  for (let i = 2; i + 18 < b.length && b[i] === 0xff; ) {
    const long = (b[i + 2] << 8) | b[i + 3];
    if (b[i + 1] === 0xe0 && b[i + 4] === 0x4a && b[i + 5] === 0x46) {
      const across = (b[i + 12] << 8) | b[i + 13];
      return b[i + 11] === 1 ? across : b[i + 11] === 2 ? across * 2.54 : null;
    }
    if (b[i + 1] === 0xda) return null;
    i += 2 + long;
  }
  return null;
}

/** Size that a picture has by its dots, mm; null where its file doesn’t say them. */
export const sizeByDots = (widthPx: number, heightPx: number, dpi: number | null): { width: number; height: number } | null =>
  dpi === null ? null : { width: printedMm(widthPx, dpi), height: printedMm(heightPx, dpi) };
