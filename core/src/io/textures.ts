import jpeg from 'jpeg-js';
import { InputError } from '../errors';
import { decodePng, type Pixels } from '../image/png';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import type { SceneTexture } from '../render/scene';
import { hasCodec, unpacked } from './codecs';
import { isJpeg, isPng, pictureSize } from './head';

/** The largest side of a texture that is read, px. */
export const LARGEST_TEXTURE = 8192;

/**
 * A picture file as 8-bit pixels: PNG, JPEG, and WebP and KTX2 once `codecsFor` has loaded what they need. Told by their first bytes and not
 * by their name; the size is read and judged before anything is unpacked.
 *
 * @param name for the sentence @param largest side that is read, px @throws InputError
 */
export function decodeTexture(name: string, bytes: Uint8Array, largest = LARGEST_TEXTURE): Pixels {
  const other = hasCodec(bytes);
  if (!isPng(bytes) && !isJpeg(bytes) && !other)
    throw new InputError('texture/format', `“${name}” is not a PNG, JPEG, WebP or KTX2 picture.`);
  const [width, height] = pictureSize(bytes) ?? [0, 0];
  if (width > largest || height > largest)
    throw new InputError('texture/size', `“${name}” is ${width} × ${height} px; pictures up to ${largest} px are read.`);
  if (other) return unpacked(name, bytes);
  if (isPng(bytes)) {
    const p = decodePng(bytes);
    return p.depth === 8 ? p : { ...p, depth: 8, data: Uint8Array.from(p.data, (x) => x >> 8) };
  }
  try {
    const image = jpeg.decode(bytes, { useTArray: true, formatAsRGBA: false, maxMemoryUsageInMB: 600 });
    return { width: image.width, height: image.height, channels: 3, depth: 8, data: image.data };
  } catch {
    throw new InputError('texture/unreadable', `“${name}” is not a whole JPEG picture.`);
  }
}

/** What a texture is for, which says how many channels it needs. */
export type Use = 'base colour' | 'roughness and metallic' | 'normal';

/**
 * A texture for the tracer. Grey pictures may be colours; data needs its three channels, a label its alpha.
 * @throws InputError
 */
export function sceneTexture(name: string, bytes: Uint8Array, use: Use, needsAlpha = false): SceneTexture {
  const p = decodeTexture(name, bytes);
  if (needsAlpha && p.channels !== 4 && p.channels !== 2)
    throw new InputError('texture/alpha', `“${name}” has no alpha, but its material is cut out by it; save it as a PNG with alpha.`);
  if (p.channels < 3 && use !== 'base colour')
    throw new InputError('texture/channels', `“${name}” has ${p.channels} channel${p.channels > 1 ? 's' : ''}; a ${use} map needs three.`);
  if (p.channels >= 3) return { width: p.width, height: p.height, channels: p.channels as 3 | 4, data: p.data as Uint8Array };
  const data = new Uint8Array(3 * p.width * p.height);
  for (let i = 0; i < p.width * p.height; i++) data.fill(p.data[p.channels * i], 3 * i, 3 * i + 3);
  return { width: p.width, height: p.height, channels: 3, data };
}

/** A texture with a file's factors multiplied in: linear factors, as glTF has them. */
export function withFactors(texture: SceneTexture, factors: readonly number[], use: Use): SceneTexture {
  if (use === 'normal' || factors.every((f) => f === 1)) return texture;
  const tables = factors.map((f) =>
    Uint8Array.from({ length: 256 }, (_, i) =>
      Math.round(255 * Math.min(1, use === 'base colour' ? linearToSrgb(f * srgbToLinear(i / 255)) : (f * i) / 255)),
    ),
  );
  const data = texture.data.slice();
  for (let i = 0; i < data.length; i += texture.channels) for (let k = 0; k < 3; k++) data[i + k] = tables[k][data[i + k]];
  return { ...texture, data };
}
