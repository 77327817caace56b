import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { runInThisContext } from 'node:vm';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { codecsFor } from '../../node/codecs';
import { random } from '../maths/random';
import { pictureSize } from './head';
import { decodeTexture } from './textures';

const [W, H] = [52, 36];
/** Smooth in two channels, noisy in one; alpha in steps. */
function drawn(channels: 3 | 4): Uint8Array {
  const next = random(4);
  return Uint8Array.from({ length: channels * W * H }, (_, i) => {
    const [x, y, k] = [Math.floor(i / channels) % W, Math.floor(i / channels / W), i % channels];
    return k === 0 ? (255 * x) / W : k === 1 ? (255 * y) / H : k === 2 ? 90 + 60 * next() : 255 - 50 * Math.floor((5 * x) / W);
  });
}
const webpOf = (channels: 3 | 4, options: object) =>
  sharp(drawn(channels), { raw: { width: W, height: H, channels } })
    .webp(options)
    .toBuffer()
    .then((b) => new Uint8Array(b));
const ktx2Of = (isUASTC: boolean, channels: 3 | 4 = 3): Promise<Uint8Array> => {
  const own = drawn(channels);
  const data = new Uint8Array(4 * W * H).fill(255);
  for (let i = 0; i < W * H; i++) data.set(own.subarray(channels * i, channels * i + channels), 4 * i);
  return encodeToKTX2(new Uint8Array([1]), { isUASTC, generateMipmap: true, imageDecoder: async () => ({ width: W, height: H, data }) });
};
const off = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return Math.sqrt(sum / a.length);
};

describe('WebP, beside libwebp as the image library sharp has it', () => {
  let [plain, clear, lossy] = [new Uint8Array(), new Uint8Array(), new Uint8Array()];
  beforeAll(async () => {
    [plain, clear, lossy] = await Promise.all([
      webpOf(3, { lossless: true }),
      webpOf(4, { lossless: true, exact: true }),
      webpOf(4, { quality: 80 }),
    ]);
    await codecsFor([plain, clear, lossy].map((bytes) => ({ bytes })));
  });
  it('kept without loss it is the very texels, alpha only where it has some', () => {
    for (const [file, channels] of [
      [plain, 3],
      [clear, 4],
    ] as const) {
      expect(pictureSize(file)).toEqual([W, H]);
      const read = decodeTexture('a.webp', file);
      expect([read.width, read.height, read.channels, read.depth]).toEqual([W, H, channels, 8]);
      expect(Buffer.compare(read.data as Uint8Array, drawn(channels))).toBe(0);
    }
  });
  it('with loss it is what the other one reads', async () => {
    const other = await sharp(lossy).raw().toBuffer();
    expect(pictureSize(lossy)).toEqual([W, H]);
    expect(Buffer.compare(decodeTexture('a.webp', lossy).data as Uint8Array, other)).toBe(0);
  });
  it('one that moves, that is broken off, or too large is one sentence', async () => {
    const frames = await sharp(Buffer.concat([drawn(3), drawn(3).fill(7)]), {
      raw: { width: W, height: 2 * H, channels: 3, pageHeight: H },
    })
      .webp({ loop: 0, delay: [100, 100] })
      .toBuffer();
    expect(() => decodeTexture('a.webp', new Uint8Array(frames))).toThrow('“a.webp” is a WebP that moves; only still pictures are read.');
    expect(() => decodeTexture('a.webp', plain.subarray(0, plain.length / 2))).toThrow('“a.webp” is not a whole WebP picture.');
    const wide = await sharp({ create: { width: 9000, height: 2, channels: 3, background: 'red' } })
      .webp({ lossless: true })
      .toBuffer();
    expect(() => decodeTexture('a.webp', new Uint8Array(wide))).toThrow(/9000 × 2 px/);
  });
});

describe('KTX2, beside another build of the Basis Universal transcoder', () => {
  /** three.js’s build, which is no module: run as a script. */
  async function otherwise(file: Uint8Array): Promise<Uint8Array> {
    const require = createRequire(import.meta.url);
    const at = require.resolve('three/examples/jsm/libs/basis/basis_transcoder.js');
    const make = runInThisContext(`(require, __dirname) => { ${readFileSync(at, 'utf8')}; return BASIS; }`)(require, dirname(at));
    const basis = await make({ wasmBinary: readFileSync(at.replace('.js', '.wasm')) });
    basis.initializeBasis();
    const read = new basis.KTX2File(file);
    read.startTranscoding();
    const rgba = new Uint8Array(read.getImageTranscodedSizeInBytes(0, 0, 0, 13));
    read.transcodeImage(rgba, 0, 0, 0, 13, 0, -1, -1);
    return rgba;
  }
  it.each([
    ['UASTC', true, 5],
    ['ETC1S', false, 12],
  ] as const)('%s: the same texels as the other reads, near what was written', async (_, isUASTC, near) => {
    for (const channels of [3, 4] as const) {
      const file = await ktx2Of(isUASTC, channels);
      await codecsFor([{ bytes: file }]);
      expect(pictureSize(file)).toEqual([W, H]);
      const read = decodeTexture('a.ktx2', file);
      expect([read.width, read.height, read.channels]).toEqual([W, H, channels]);
      const other = (await otherwise(file)).filter((_v, i) => i % 4 < channels);
      expect(Buffer.compare(read.data as Uint8Array, other)).toBe(0);
      expect(off(read.data, drawn(channels))).toBeLessThan(near);
    }
  });
  it('one that is broken off, or of a kind that glTF has not, is one sentence', async () => {
    const file = await ktx2Of(true);
    await codecsFor([{ bytes: file }]);
    expect(() => decodeTexture('a.ktx2', file.subarray(0, file.length / 2))).toThrow(
      /^“a.ktx2” is (not a whole KTX2 picture|a KTX2 picture of a kind)/,
    );
    const plain = file.slice();
    // vkFormat VK_FORMAT_R8G8B8A8_SRGB (Vulkan specification, VkFormat).
    new DataView(plain.buffer).setUint32(12, 43, true);
    expect(() => decodeTexture('a.ktx2', plain)).toThrow(/of a kind that glTF has not/);
  });
});

it('what is none of them is said to be none, whatever its name', () => {
  expect(() =>
    decodeTexture('a.webp', new TextEncoder().encode('only words, and more of them than any picture’s head is long, to be sure.')),
  ).toThrow('“a.webp” is not a PNG, JPEG, WebP or KTX2 picture.');
});
