import { textureBytes } from './advice';

/** How textures lie on the card: bytes a texel and the size of a block. Sources: Khronos Data Format Specification 1.3, chapters on BC1, BC7 and ASTC. */
export const TEXTURE_FORMATS = {
  plain: { name: 'uncompressed', bytesPerTexel: 4, block: 1 },
  bc7: { name: 'BC7 or ASTC 4 × 4', bytesPerTexel: 1, block: 4 },
  bc1: { name: 'BC1 or ETC1', bytesPerTexel: 0.5, block: 4 },
} as const;
/** Formats textures are held in by a graphics card. */
export type TextureFormat = keyof typeof TEXTURE_FORMATS;

/** Memory of so many sets of a size with all their levels, MB (10⁶ bytes). Uncompressed, a map takes what its own depth asks for. */
function setsMB(format: TextureFormat, size: number, sets: number, maps: readonly { bytes: number }[]): number {
  const { bytesPerTexel, block } = TEXTURE_FORMATS[format];
  const bytes = maps.reduce((n, m) => n + textureBytes(size, size, format === 'plain' ? m.bytes : bytesPerTexel, block), 0);
  return (sets * bytes) / 1e6;
}

/** What if: every format at a size and the sizes beside it. */
export function memoryTable(
  size: number,
  sets: number,
  maps: readonly { bytes: number }[],
): { size: number; mb: Record<TextureFormat, number> }[] {
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
