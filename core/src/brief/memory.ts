import { MAPS_PER_SET, textureBytes } from './advice';

/** How textures lie on the card: bytes a texel and the size of a block. Sources: Khronos Data Format Specification 1.3, chapters on BC1, BC7 and ASTC. */
export const TEXTURE_FORMATS = {
  plain: { name: 'uncompressed', bytesPerTexel: 4, block: 1 },
  bc7: { name: 'BC7 or ASTC 4 × 4', bytesPerTexel: 1, block: 4 },
  bc1: { name: 'BC1 or ETC1', bytesPerTexel: 0.5, block: 4 },
} as const;
export type TextureFormat = keyof typeof TEXTURE_FORMATS;

/** Memory of so many sets of a size with all their levels, MB (10⁶ bytes). */
function setsMB(format: TextureFormat, size: number, sets: number, maps = MAPS_PER_SET): number {
  const { bytesPerTexel, block } = TEXTURE_FORMATS[format];
  return (sets * maps * textureBytes(size, size, bytesPerTexel, block)) / 1e6;
}

/** What if: every format at a size and the sizes beside it. */
export function memoryTable(size: number, sets: number, maps = MAPS_PER_SET): { size: number; mb: Record<TextureFormat, number> }[] {
  return [size / 2, size, size * 2]
    .filter((s) => s >= 128 && s <= 8192)
    .map((s) => ({
      size: s,
      mb: Object.fromEntries(Object.keys(TEXTURE_FORMATS).map((f) => [f, setsMB(f as TextureFormat, s, sets, maps)])) as Record<
        TextureFormat,
        number
      >,
    }));
}
