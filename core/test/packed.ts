import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';

/** A picture file as WebP, without loss unless a quality is asked for. */
export const asWebp = async (picture: Uint8Array, quality?: number): Promise<Uint8Array> =>
  new Uint8Array(
    await sharp(picture)
      .webp(quality ? { quality } : { lossless: true, exact: true })
      .toBuffer(),
  );

/** A picture file as KTX2 with all its levels: UASTC, or ETC1S, which is smaller and coarser. */
export async function asKtx2(picture: Uint8Array, uastc = true): Promise<Uint8Array> {
  const { data, info } = await sharp(picture).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return encodeToKTX2(picture, {
    isUASTC: uastc,
    generateMipmap: true,
    imageDecoder: async () => ({ width: info.width, height: info.height, data: new Uint8Array(data) }),
  });
}
