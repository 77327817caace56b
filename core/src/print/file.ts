import { InputError } from '../errors';
import { isJpeg, isPng, pictureHead, pictureSize } from '../io/head';
import { printedMm, SENSIBLE_DPI } from './print';

/** Sides of a picture that is printed at most, and pixels of it altogether. */
export const LARGEST_ARTWORK = 16_384;
const MOST_PIXELS = 120e6;

/** What of an SVG can’t be drawn as it is meant, as a sentence; null where all can. */
export function svgFault(name: string, text: string): string | null {
  if (!/<svg[\s>]/i.test(text)) return `“${name}” is no SVG drawing.`;
  if (/<script[\s>]/i.test(text) || /\son\w+\s*=/i.test(text)) return `“${name}” has scripts in it: save it without them.`;
  if (/<!ENTITY/i.test(text)) return `“${name}” defines words of its own (entities): save it without them.`;
  // What lies elsewhere isn’t fetched; what lies in the file itself is.
  if (/(?:href\s*=\s*["']\s*(?![#\s"']|data:)|url\(\s*(?:["']|&quot;)?\s*(?![#\s"'&]|data:))/i.test(text) || /@import/i.test(text))
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

/** Dots per inch as a picture file says them; null where it doesn’t, or says what can’t be meant. */
export async function dpiSaid(bytes: Uint8Array): Promise<number | null> {
  const found = (isJpeg(bytes) ? jfifDpi(bytes) : isPng(bytes) ? pngDpi(bytes) : null) ?? (await exifDpi(bytes));
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

/** What a camera or a program wrote as Exif: tag 296 says 2 for inches and 3 for centimetres (CIPA DC-008, Exif 2.3, table 4). */
async function exifDpi(bytes: Uint8Array): Promise<number | null> {
  try {
    const { default: exifr } = await import('exifr');
    const said = (await exifr.parse(bytes, { pick: ['XResolution', 'ResolutionUnit'], translateValues: false })) as
      | { XResolution?: number; ResolutionUnit?: number }
      | undefined;
    const dots = said?.XResolution;
    if (typeof dots !== 'number' || !(dots > 0)) return null;
    return said?.ResolutionUnit === 3 ? dots * 2.54 : dots;
  } catch {
    return null;
  }
}

/** How a JPEG’s rows lie against the picture as it was meant, 1 to 8: 1 is upright (CIPA DC-008, Exif 2.3, tag 274). */
export async function orientationOf(bytes: Uint8Array): Promise<number> {
  if (!isJpeg(bytes)) return 1;
  try {
    const { default: exifr } = await import('exifr');
    const said = await exifr.orientation(bytes);
    return said !== undefined && said >= 1 && said <= 8 ? said : 1;
  } catch {
    return 1;
  }
}

/** The density of a JFIF file (ITU-T T.871, 10.1). */
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
