import { InputError, WellmorphError } from '../errors';
import type { Pixels } from '../image/png';
import { isKtx2, isWebp, webpHead } from './head';

/**
 * WebP and KTX 2.0 are unpacked by general-purpose libraries of some size, compiled for WebAssembly: only pictures that need one bring it in,
 * once in a thread. Whoever hands pictures to the core waits for `codecsFor` first; after that they are unpacked at once, like PNG and JPEG.
 */
export interface CodecFiles {
  /** The WebP library’s WebAssembly, where it can’t be fetched from beside its script. */
  webp?(): Promise<WebAssembly.Module>;
}
type Codec = (name: string, bytes: Uint8Array) => Pixels;
type Kind = 'WebP' | 'KTX2';

const kindOf = (bytes: Uint8Array): Kind | null => (isWebp(bytes) ? 'WebP' : isKtx2(bytes) ? 'KTX2' : null);
const codecs = new Map<Kind, Codec>();
const coming = new Map<Kind, Promise<void>>();

/** Whether a picture is of a kind that a library unpacks. */
export const hasCodec = (bytes: Uint8Array): boolean => kindOf(bytes) !== null;

/** Loads what pictures need to be unpacked. @throws WellmorphError where a library can’t be read; it is tried again the next time */
export async function codecsFor(pictures: Iterable<{ bytes: Uint8Array }>, files: CodecFiles = {}): Promise<void> {
  const kinds = new Set([...pictures].flatMap(({ bytes }) => kindOf(bytes) ?? []));
  await Promise.all([...kinds].map((kind) => load(kind, files)));
}

function load(kind: Kind, files: CodecFiles): Promise<void> {
  const known = coming.get(kind);
  if (known) return known;
  const loading = (kind === 'WebP' ? webp(files) : ktx2()).then(
    (codec) => void codecs.set(kind, codec),
    () => {
      coming.delete(kind);
      throw new WellmorphError('texture/codec', `What unpacks ${kind} pictures could not be read; try again.`);
    },
  );
  coming.set(kind, loading);
  return loading;
}

/** A picture’s pixels by the library of its kind. @param name for the sentence @throws InputError where it is not whole */
export function unpacked(name: string, bytes: Uint8Array): Pixels {
  const kind = kindOf(bytes);
  const codec = kind && codecs.get(kind);
  if (!codec) throw new Error(`${kind} pictures are unpacked before what they need was loaded`);
  return codec(name, bytes);
}

const broken = (name: string, kind: Kind) => new InputError('texture/unreadable', `“${name}” is not a whole ${kind} picture.`);

async function webp(files: CodecFiles): Promise<Codec> {
  const { default: Module } = await import('@jsquash/webp/codec/dec/webp_dec.js');
  const compiled = await files.webp?.();
  const library = await Module({
    noInitialRun: true,
    ...(compiled && {
      instantiateWasm(imports: WebAssembly.Imports, done: (instance: WebAssembly.Instance) => void) {
        const instance = new WebAssembly.Instance(compiled, imports);
        done(instance);
        return instance.exports;
      },
    }),
  });
  return (name, bytes) => {
    const { alpha, moves } = webpHead(bytes);
    if (moves) throw new InputError('texture/moves', `“${name}” is a WebP that moves; only still pictures are read.`);
    // Handed over by copy: the library takes whole buffers.
    const image = library.decode(bytes.slice() as unknown as BufferSource);
    if (!image) throw broken(name, 'WebP');
    return asPixels(image.width, image.height, image.data, alpha);
  };
}

/** Basis Universal’s own reader of KTX 2.0 files; the package’s types tell only of writing. */
interface Basis {
  KTX2File: new (bytes: Uint8Array) => Ktx2File;
}
interface Ktx2File {
  isValid(): boolean;
  isHDR?(): boolean;
  getWidth(): number;
  getHeight(): number;
  getHasAlpha(): boolean | number;
  startTranscoding(): boolean | number;
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(to: Uint8Array, level: number, layer: number, face: number, format: number, flags: number, c0: number, c1: number): number;
  close(): void;
  delete(): void;
}
/** Where vkFormat stands: VK_FORMAT_UNDEFINED, 0, for all that Basis Universal makes (KTX File Format Specification 2.0, 3.2). */
const VK_FORMAT = 12;
/** transcoder_texture_format::cTFRGBA32 of Basis Universal: four bytes a texel. */
const RGBA32 = 13;

async function ktx2(): Promise<Codec> {
  const library = await import('ktx2-encoder');
  const encoder = 'NodeBasisEncoder' in library ? (library as unknown as OnNode).NodeBasisEncoder : library.BrowserBasisEncoder;
  const basis = (await new encoder().init()) as unknown as Basis;
  return (name, bytes) => {
    const other = new InputError(
      'texture/format',
      `“${name}” is a KTX2 picture of a kind that glTF has not (KHR_texture_basisu): only Basis Universal in 8 bits is read.`,
    );
    if (new DataView(bytes.buffer, bytes.byteOffset).getUint32(VK_FORMAT, true) !== 0) throw other;
    const file = new basis.KTX2File(bytes);
    try {
      if (!file.isValid()) throw broken(name, 'KTX2');
      if (file.isHDR?.()) throw other;
      if (!file.startTranscoding()) throw broken(name, 'KTX2');
      const [width, height] = [file.getWidth(), file.getHeight()];
      const rgba = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
      if (!file.transcodeImage(rgba, 0, 0, 0, RGBA32, 0, -1, -1) || rgba.length !== 4 * width * height) throw broken(name, 'KTX2');
      return asPixels(width, height, rgba, !!file.getHasAlpha());
    } finally {
      file.close();
      file.delete();
    }
  };
}
/** What the package offers on Node. */
interface OnNode {
  NodeBasisEncoder: new () => { init(): Promise<unknown> };
}

/** Alpha that a picture hasn’t is left out: whoever wants it is told that it is missing. */
function asPixels(width: number, height: number, rgba: Uint8Array | Uint8ClampedArray, alpha: boolean): Pixels {
  if (alpha) return { width, height, channels: 4, depth: 8, data: new Uint8Array(rgba) };
  const data = new Uint8Array(3 * width * height);
  for (let i = 0, j = 0; j < data.length; i += 4) {
    data[j++] = rgba[i];
    data[j++] = rgba[i + 1];
    data[j++] = rgba[i + 2];
  }
  return { width, height, channels: 3, depth: 8, data };
}
