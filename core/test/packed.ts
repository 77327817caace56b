import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { bumps, crate, patchwork, texturedGlb } from './textured';

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

/** A crate with a WebP for its colour and a KTX2 for its normals, and those two pictures. @param side of the normals, px */
export async function packedCrate(
  name: string,
  mm: number,
  side: number,
): Promise<{ file: Uint8Array<ArrayBuffer>; pictures: Uint8Array[] }> {
  const [colour, normal] = await Promise.all([asWebp(patchwork(128)), asKtx2(bumps(side))]);
  const file = await texturedGlb({
    name,
    mesh: crate(mm),
    material: (d, picture) =>
      d
        .createMaterial('Paint')
        .setMetallicFactor(0)
        .setBaseColorTexture(picture('colour', colour, 'image/webp'))
        .setNormalTexture(picture('normal', normal, 'image/ktx2')),
  });
  return { file, pictures: [colour, normal] };
}
