import { InputError } from '@wellmorph/core/errors';
import type { SourcePicture } from '@wellmorph/core/gather/picture';
import { pictureHead } from '@wellmorph/core/io/head';
import type { Bytes } from './protocol';

/** Rows that are unpacked at once: a photograph of 48 megapixels is 192 MB as a canvas gives it. */
const STRIP = 1024;

/**
 * The pixels of a photograph, upright, in memory that workers can share.
 *
 * @param size that it is wanted in; its own when absent @throws InputError where the browser can’t read it
 */
export async function unpacked(bytes: Uint8Array, size?: { width: number; height: number }): Promise<SourcePicture> {
  let bitmap: ImageBitmap;
  try {
    const blob = new Blob([bytes as Bytes]);
    bitmap = await (size
      ? createImageBitmap(blob, { resizeWidth: size.width, resizeHeight: size.height, resizeQuality: 'high' })
      : createImageBitmap(blob));
  } catch {
    throw new InputError('photo/unreadable', 'A photograph can’t be read any more; bring it again.');
  }
  const { width, height } = bitmap;
  // Only a PNG can be cut out.
  const channels = (pictureHead(bytes)?.channels ?? 3) % 2 === 0 ? 4 : 3;
  const data = new Uint8Array(new SharedArrayBuffer(channels * width * height));
  const canvas = new OffscreenCanvas(width, Math.min(STRIP, height));
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new InputError('photo/memory', 'There is no room to unpack a photograph.');
  for (let y = 0, o = 0; y < height; y += STRIP) {
    const rows = Math.min(STRIP, height - y);
    context.clearRect(0, 0, width, rows);
    context.drawImage(bitmap, 0, -y);
    const rgba = context.getImageData(0, 0, width, rows).data;
    if (channels === 4) data.set(rgba, o);
    else
      for (let i = 0, at = o; i < rgba.length; i += 4) {
        data[at++] = rgba[i];
        data[at++] = rgba[i + 1];
        data[at++] = rgba[i + 2];
      }
    o += channels * width * rows;
  }
  bitmap.close();
  return { width, height, channels, data };
}
