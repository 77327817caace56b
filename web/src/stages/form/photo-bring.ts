import { pictureHead } from '@wellmorph/core/io/head';
import type { Photo, PhotoLens } from '@wellmorph/core/photo/photo';
import type { AssetSession } from '@/session/session';
import { sentence } from '@/session/session';
import { newId } from '@/sheet/ids';

/** Pixels that are unpacked: 12 000 × 10 000 are 480 MB as the browser holds them. */
const MOST_PIXELS = 120e6;

/** What a camera wrote of its lens into a file; nothing where it wrote nothing. */
async function lensOf(bytes: Uint8Array): Promise<PhotoLens> {
  try {
    const { parse } = await import('exifr');
    const said = (await parse(bytes, {
      pick: ['FocalLength', 'FocalLengthIn35mmFormat', 'ExifImageWidth', 'ExifImageHeight'],
      translateValues: false,
    })) as Partial<Record<'FocalLength' | 'FocalLengthIn35mmFormat' | 'ExifImageWidth' | 'ExifImageHeight', number>> | undefined;
    const positive = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x) && x > 0;
    const { FocalLength: focal, FocalLengthIn35mmFormat: on35, ExifImageWidth: w, ExifImageHeight: h } = said ?? {};
    return {
      ...(positive(focal) && focal < 10_000 && { focalMm: focal }),
      ...(positive(on35) && on35 < 10_000 && { focal35Mm: on35 }),
      ...(positive(w) && positive(h) && { takenPx: [w, h] as const }),
    };
  } catch {
    return {};
  }
}

/** Why a file is no photograph that can be used; null where it is one. */
function unfit(name: string, bytes: Uint8Array): string | null {
  const head = pictureHead(bytes);
  if (!head) return `“${name}” is no JPEG or PNG picture.`;
  if (head.kind === 'JPEG' && head.channels === 4)
    return `“${name}” is a picture in the four inks of a print (CMYK): its colours can’t be taken; save it in RGB first.`;
  if (head.kind === 'JPEG' && head.depth !== 8) return `“${name}” has ${head.depth} bits a channel; JPEG pictures of 8 are read.`;
  if (head.width < 16 || head.height < 16) return `“${name}” is ${head.width} × ${head.height} px: too small to see anything on.`;
  if (head.width > 20_000 || head.height > 20_000 || head.width * head.height > MOST_PIXELS)
    return `“${name}” is ${head.width} × ${head.height} px; photographs up to ${MOST_PIXELS / 1e6} megapixels are read.`;
  return null;
}

/** Keeps a photograph as it is, byte for byte. What can’t be read is said, and nothing is stored. @returns its id */
export async function bringPhoto(session: AssetSession, file: File): Promise<string | null> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const why = unfit(file.name, bytes);
  if (why) {
    session.notify(why, 'error');
    return null;
  }
  let size: { width: number; height: number };
  try {
    // Upright, as the camera was held: that is how it is shown.
    const bitmap = await createImageBitmap(new Blob([bytes]));
    size = { width: bitmap.width, height: bitmap.height };
    bitmap.close();
  } catch {
    session.notify(`“${file.name}” is damaged: it can’t be unpacked.`, 'error');
    return null;
  }
  try {
    const photo: Photo = {
      id: newId(),
      name: file.name.replace(/\.\w+$/, '').slice(0, 120) || 'Photograph',
      blob: await session.bench.blobs.put(bytes, 'photo'),
      widthPx: size.width,
      heightPx: size.height,
      lens: await lensOf(bytes),
      edges: [],
      pins: [],
    };
    if (pictureHead(bytes)?.depth === 16) session.notify(`“${file.name}” has 16 bits a channel; it is shown and laid on with 8.`, 'info');
    const put = session.dispatch({ type: 'photo.set', photo });
    return put ? photo.id : null;
  } catch (error) {
    session.notify(sentence(error), 'error');
    return null;
  }
}
