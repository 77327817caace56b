import { zlibSync } from 'fflate';
import jpegJs from 'jpeg-js';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { decodePng, encodePng } from '../image/png';
import type { Kit } from '../kit';
import { artworkFault } from './check';
import { artworkFileFault, dpiSaid, sizeByDots, svgFault, svgSize } from './file';
import { drawnArtwork, openArtwork } from './open';
import { addSample, cutOut, hasAlpha, printPicture } from './pixels';
import type { DialArtwork, PictureArtwork, TextArtwork } from './print';
import { dialAngle } from './set';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const none = () => undefined;
const text = (more: Partial<TextArtwork> = {}): TextArtwork => ({
  kind: 'text',
  text: 'HOH',
  capital: 10,
  tracking: 0,
  leading: 1.6,
  align: 'middle',
  arc: 0,
  colour: [0, 0, 0],
  ...more,
});
const dial: DialArtwork = {
  kind: 'dial',
  from: 0,
  to: 10,
  step: 2,
  parts: 4,
  begins: 45,
  sweep: 270,
  diameter: 60,
  long: 5,
  short: 3,
  thick: 0.8,
  numerals: 4,
  unit: 'bar',
  colour: [0, 0, 0],
};
const picture = (more: Partial<PictureArtwork> = {}): PictureArtwork => ({
  kind: 'picture',
  blob: 'a'.repeat(64),
  fileName: 'label.png',
  mime: 'image/png',
  widthPx: 4,
  heightPx: 4,
  ...more,
});
/** Of a drawing, how much of each row and column of squares a pixel wide is inked. */
const alphaAt = ({ width, data }: { width: number; data: Uint8Array }, x: number, y: number) => data[4 * (y * width + x) + 3];

describe('pictures', () => {
  it('what is nearly clear keeps its colour through every level', () => {
    const data = new Uint8Array(4 * 64 * 64);
    for (let i = 0; i < 64 * 64; i++) data.set(i % 3 === 0 ? [200, 100, 50, 3] : [0, 255, 255, 0], 4 * i);
    const made = printPicture({ width: 64, height: 64, data });
    expect(hasAlpha(made)).toBe(true);
    for (const level of [0, 1, 3, 5]) {
      const sum = new Float64Array(4);
      for (let y = 0; y < 16; y++) for (let x = 0; x < 16; x++) addSample(made, level, (x + 0.5) / 16, (y + 0.5) / 16, sum);
      const srgb = [0, 1, 2].map((k) => {
        const light = sum[k] / sum[3];
        return 255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055);
      });
      // What is wholly clear beside it has no say, whatever colour it has.
      for (const [k, wanted] of [200, 100, 50].entries()) expect(Math.abs(srgb[k] - wanted)).toBeLessThan(1.5);
    }
  });

  it('levels hold as much light and alpha as the picture, at sides that are not even', () => {
    const [width, height] = [37, 21];
    const data = Uint8Array.from({ length: 4 * width * height }, (_, i) => (i * 7919) % 256);
    const flat = printPicture({ width, height, data: data.map((x, i) => (i % 4 === 3 ? 255 : x)) });
    for (const { data: level } of flat.levels) for (let i = 3; i < level.length; i += 4) expect(level[i]).toBe(65535);
  });

  it('white is taken out so that what is left comes to the same over white', () => {
    const data = Uint8Array.from([255, 255, 255, 255, 200, 220, 255, 255, 0, 0, 0, 255, 120, 130, 140, 255]);
    const { data: cut } = cutOut({ width: 2, height: 2, data }, 'white');
    expect(cut[3]).toBe(0);
    for (let i = 0; i < 16; i += 4)
      for (let k = 0; k < 3; k++)
        expect(Math.abs((cut[i + 3] / 255) * cut[i + k] + (1 - cut[i + 3] / 255) * 255 - data[i + k])).toBeLessThan(1.5);
    const { data: keyed } = cutOut({ width: 2, height: 2, data }, { colour: [1, 1, 1], reach: 10 });
    expect([keyed[3], keyed[7], keyed[11]]).toEqual([0, 255, 255]);
  });

  it('by a palette, and of fewer than eight bits, have the colours they stand for (sharp, an independent encoder)', async () => {
    const raw = Uint8Array.from(
      { length: 4 * 40 * 30 },
      (_, i) =>
        [
          [220, 30, 20, 255],
          [20, 160, 40, 255],
          [0, 0, 0, 0],
        ][(i >> 2) % 3][i % 4],
    );
    const palette = await sharp(raw, { raw: { width: 40, height: 30, channels: 4 } })
      .png({ palette: true })
      .toBuffer();
    const made = decodePng(palette);
    expect(made.channels).toBe(4);
    const own = await sharp(palette).ensureAlpha().raw().toBuffer();
    for (let i = 0; i < own.length; i += 4) if (own[i + 3] > 0) expect([...made.data.slice(i, i + 4)]).toEqual([...own.subarray(i, i + 4)]);
    // Four greys of two bits, five to a row: the second byte of each is begun and not filled.
    const chunk = (type: string, body: Uint8Array) => {
      const bytes = Buffer.from([...new TextEncoder().encode(type), ...body]);
      const head = Buffer.alloc(4);
      head.writeUInt32BE(body.length);
      const crc = Buffer.alloc(4);
      crc.writeUInt32BE(crc32(bytes));
      return Buffer.concat([head, bytes, crc]);
    };
    const head = Uint8Array.from([0, 0, 0, 5, 0, 0, 0, 1, 2, 0, 0, 0, 0]);
    const grey = Buffer.concat([
      Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
      chunk('IHDR', head),
      chunk('IDAT', zlibSync(Uint8Array.from([0, 0b00011011, 0b11000000]))),
      chunk('IEND', new Uint8Array()),
    ]);
    expect([...decodePng(grey).data]).toEqual([0, 85, 170, 255, 255]);
    expect([...(await sharp(grey).toColourspace('b-w').raw().toBuffer())]).toEqual([0, 85, 170, 255, 255]);
  });

  it('say how large they are: mm = px ÷ dpi · 25.4, read back from PNG and JPEG that another package wrote', async () => {
    const blank = { create: { width: 600, height: 300, channels: 3, background: '#fff' } } as const;
    for (const dpi of [150, 300, 600]) {
      const png = new Uint8Array(await sharp(blank).withMetadata({ density: dpi }).png().toBuffer());
      expect(await dpiSaid(png)).toBeCloseTo(dpi, 1);
      const jpeg = new Uint8Array(await sharp(blank).withMetadata({ density: dpi }).jpeg().toBuffer());
      // As Exif; and as JFIF has it in its head, whole dots per inch.
      expect(await dpiSaid(jpeg)).toBeCloseTo(dpi, 1);
      const jfif = new Uint8Array(jpegJs.encode({ width: 8, height: 8, data: new Uint8Array(256) }, 80).data);
      jfif.set([1, dpi >> 8, dpi & 255, dpi >> 8, dpi & 255], 13);
      expect(await dpiSaid(jfif)).toBe(dpi);
    }
    expect(await dpiSaid(encodePng({ width: 2, height: 2, channels: 3, depth: 8, data: new Uint8Array(12) }))).toBeNull();
    expect(sizeByDots(600, 300, 300)).toEqual({ width: expect.closeTo(50.8, 9), height: expect.closeTo(25.4, 9) });
    // 1 dpi would be 15 m wide.
    expect(await dpiSaid(new Uint8Array(await sharp(blank).withMetadata({ density: 1 }).png().toBuffer()))).toBeNull();
  });

  it('of every orientation stand upright, as another package sets them', async () => {
    const raw = Uint8Array.from({ length: 3 * 48 * 32 }, (_, i) => [Math.floor(i / 3) % 48, Math.floor(i / 144), 4][i % 3] * 5);
    for (let orientation = 1; orientation <= 8; orientation++) {
      const bytes = new Uint8Array(
        await sharp(raw, { raw: { width: 48, height: 32, channels: 3 } })
          .withMetadata({ orientation })
          .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
          .toBuffer(),
      );
      const own = await openArtwork(picture({ fileName: 'a.jpg', mime: 'image/jpeg' }), 'Label', 48, { kit, read: () => bytes });
      const { data, info } = await sharp(bytes).rotate().raw().toBuffer({ resolveWithObject: true });
      expect([own.width, own.height], `${orientation}`).toEqual([info.width, info.height]);
      let off = 0;
      for (let i = 0; i < info.width * info.height; i++)
        for (let k = 0; k < 3; k++) off = Math.max(off, Math.abs(own.data[4 * i + k] - data[3 * i + k]));
      // Two decoders of one file.
      expect(off, `${orientation}`).toBeLessThanOrEqual(4);
    }
  });

  it('that can’t be printed are told by their head, before anything is unpacked', async () => {
    const huge = encodePng({ width: 2, height: 2, channels: 3, depth: 8, data: new Uint8Array(12) });
    new DataView(huge.buffer, huge.byteOffset).setUint32(16, 200_000);
    expect(artworkFileFault('bomb.png', huge)).toMatch(/200000 × 2 px/);
    expect(artworkFileFault('notes.txt', new TextEncoder().encode('not a picture, whatever it is called'))).toMatch(
      /no PNG, JPEG, WebP or SVG/,
    );
    const cmyk = new Uint8Array(
      await sharp({ create: { width: 8, height: 8, channels: 3, background: '#f00' } })
        .toColourspace('cmyk')
        .jpeg()
        .toBuffer(),
    );
    expect(artworkFileFault('print.jpg', cmyk)).toMatch(/four inks/);
    const cut = encodePng({ width: 64, height: 64, channels: 3, depth: 8, data: new Uint8Array(3 * 64 * 64).map((_, i) => i % 251) });
    const broken = { kit, read: () => cut.slice(0, cut.length - 60) };
    await expect(openArtwork(picture(), 'Label', 64, broken)).rejects.toThrow(/not a whole PNG/);
    await expect(openArtwork(picture(), 'Label', 64, { kit, read: none })).rejects.toThrow(/no longer stored/);
  });
});

describe('drawings', () => {
  const DRAWN = `<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
    <rect x="4" y="4" width="52" height="32" rx="6" fill="#17445a"/><circle cx="20" cy="20" r="9" fill="#e8c15a" fill-opacity="0.7"/>
    <path d="M34 10 L52 20 L34 30 Z" fill="#fff"/></svg>`;

  it('come to the pixels that another renderer draws (librsvg, by sharp)', async () => {
    const draw = kit.drawings;
    if (!draw) throw new Error('not loaded');
    const own = draw(DRAWN, 480);
    const other = await sharp(Buffer.from(DRAWN), { density: 96 }).resize(480, 320).ensureAlpha().raw().toBuffer();
    expect([own.width, own.height]).toEqual([480, 320]);
    let off = 0;
    for (let i = 0; i < own.data.length; i += 4) {
      const [a, b] = [own.data[i + 3] / 255, other[i + 3] / 255];
      off += [0, 1, 2].reduce((s, k) => s + Math.abs(a * own.data[i + k] - b * other[i + k]), 0) / 3;
    }
    // Edges are blended a little differently; everything else is the same.
    expect(off / (480 * 320)).toBeLessThan(1.5);
  });

  it('say their size in any unit, or by their box', () => {
    const size = (root: string) => svgSize('x.svg', `<svg ${root}></svg>`);
    expect(size('width="90mm" height="6cm"')).toEqual({ width: 90, height: expect.closeTo(60, 9) });
    expect(size('width="2in" viewBox="0 0 4 1"')).toEqual({ width: expect.closeTo(50.8, 9), height: expect.closeTo(12.7, 9) });
    expect(size('viewBox="0 0 96 192"')).toEqual({ width: expect.closeTo(25.4, 9), height: expect.closeTo(50.8, 9) });
    expect(size('width="72pt" height="72"')).toEqual({ width: expect.closeTo(25.4, 9), height: expect.closeTo(19.05, 9) });
    expect(() => size('fill="none"')).toThrow(/says neither its size/);
    expect(() => size('viewBox="0 0 1e9 10"')).toThrow(/can’t be meant/);
    expect(() => size('width="100%" height="100%"')).toThrow(/says neither/);
  });

  it('with scripts, files elsewhere or typefaces are refused, each in its own sentence', () => {
    const fault = (inner: string) => svgFault('x.svg', `<svg xmlns="http://www.w3.org/2000/svg">${inner}</svg>`);
    expect(fault('<rect width="1" height="1"/>')).toBeNull();
    for (const own of [`url(#a)`, `url('#a')`, `url( #a )`, `url(&quot;#a&quot;)`]) expect(fault(`<rect style="fill:${own}"/>`)).toBeNull();
    expect(fault(`<rect style='fill:url("#a")'/>`)).toBeNull();
    expect(fault(`<rect style='fill:url("a.svg#a")'/>`)).toMatch(/elsewhere/);
    expect(fault('<use href="#own"/><image href="data:image/png;base64,AA=="/>')).toBeNull();
    expect(fault('<script>alert(1)</script>')).toMatch(/scripts/);
    expect(fault('<rect onload="go()"/>')).toMatch(/scripts/);
    expect(fault('<image href="https://elsewhere.example/x.png"/>')).toMatch(/elsewhere/);
    expect(fault('<style>@import "x.css";</style>')).toMatch(/elsewhere/);
    expect(fault('<rect fill="url(other.svg#a)"/>')).toMatch(/elsewhere/);
    expect(fault('<text>Oil</text>')).toMatch(/outlines/);
    expect(svgFault('x.svg', '<!DOCTYPE svg [<!ENTITY a "b">]><svg></svg>')).toMatch(/entities/);
    expect(svgFault('x.svg', 'nothing')).toMatch(/no SVG/);
  });
});

describe('what is set here', () => {
  it('has capitals of the height that was asked for, and letters farther apart where they are tracked', () => {
    // An H stands on its line and reaches up to its height: nothing of it hangs below or overshoots.
    expect(drawnArtwork(text({ text: 'H' }), kit).height).toBeCloseTo(10, 3);
    const [plain, apart] = [drawnArtwork(text({ text: 'HHH' }), kit), drawnArtwork(text({ text: 'HHH', tracking: 100 }), kit)];
    const em = (drawnArtwork(text({ text: 'HHH', tracking: 200 }), kit).width - apart.width) / 2 / 0.1;
    expect((apart.width - plain.width) / 2).toBeCloseTo(0.1 * em, 3);
    const two = drawnArtwork(text({ text: 'H\nH', leading: 2 }), kit);
    expect(two.height).toBeCloseTo(30, 3);
    expect(() => drawnArtwork(text({ text: '漆' }), kit)).toThrow(/no “漆”/);
    expect(() => drawnArtwork(text({ text: '   ' }), kit)).toThrow(/nothing in it/);
  });

  it('stands on an arc of its radius, or hangs from it', () => {
    const long = text({ text: 'IIIIIIIIIIII', capital: 4 });
    const straight = drawnArtwork(long, kit);
    const [up, down] = [drawnArtwork({ ...long, arc: 30 }, kit), drawnArtwork({ ...long, arc: -30 }, kit)];
    // As long on its circle as it was on its line, and as deep as the arc there.
    const deep = 30 * (1 - Math.cos(straight.width / 2 / 30));
    for (const made of [up, down]) {
      expect(made.width).toBeLessThan(straight.width * 1.15);
      expect(made.height).toBeGreaterThan(4 + 0.8 * deep);
    }
    expect(() => drawnArtwork(text({ text: 'A\nB\nC', capital: 10, leading: 2, arc: 30 }), kit)).toThrow(/middle of its circle/);
  });

  it('a scale has its ticks at their angles', async () => {
    const size = drawnArtwork(dial, kit);
    const px = 1200;
    const made = await openArtwork(dial, 'Dial', px, { kit, read: none });
    const perMm = px / size.width;
    // Its middle: the first tick and the last lie left and right of straight down by as much.
    const box = /viewBox="([^"]+)"/.exec(size.svg)?.[1].split(' ').map(Number) as number[];
    const inked = (angle: number, r: number): boolean => {
      const a = (angle * Math.PI) / 180;
      const [x, y] = [(-r * Math.sin(a) - box[0]) * perMm, (r * Math.cos(a) - box[1]) * perMm];
      return alphaAt(made, Math.round(x), Math.round(y)) > 200;
    };
    for (let v = 0; v <= 10; v += 0.5) {
      const angle = 45 + 27 * v;
      expect(dialAngle(dial, v)).toBeCloseTo(angle, 9);
      expect(inked(angle, 28.5)).toBe(true);
      // Long ones reach farther in than short ones.
      expect(inked(angle, 26)).toBe(v % 2 === 0);
      if (v < 10) expect(inked(angle + 27 / 4, 28.5)).toBe(false);
    }
    expect(() => drawnArtwork({ ...dial, step: 0.001 }, kit)).toThrow(/ticks/);
    expect(() => drawnArtwork({ ...dial, numerals: 40 }, kit)).toThrow(/no room/);
  });

  it('bars are as wide and high as they are said to be, and others by another number', () => {
    const bars = { kind: 'bars', seed: 3, width: 30, height: 12, colour: [0, 0, 0] as [number, number, number] } as const;
    expect(drawnArtwork(bars, kit)).toMatchObject({ width: expect.closeTo(30, 3), height: 12 });
    expect(drawnArtwork({ ...bars, seed: 4 }, kit).svg).not.toBe(drawnArtwork(bars, kit).svg);
  });

  it('is refused when anything of it is not what it should be', () => {
    expect(artworkFault(dial)).toBeNull();
    expect(artworkFault(text())).toBeNull();
    expect(artworkFault(picture({ cut: { colour: [1, 1, 1], reach: 12 } }))).toBeNull();
    for (const wrong of [
      null,
      { kind: 'film' },
      { ...dial, to: 0 },
      { ...dial, parts: 2.5 },
      text({ capital: Number.NaN }),
      text({ text: '' }),
      { ...text(), more: 1 },
      picture({ blob: 'x' }),
      picture({ mime: 'text/html' as never }),
      picture({ cut: 'grey' as never }),
    ])
      expect(artworkFault(wrong)).not.toBeNull();
  });
});

/** CRC-32 of a PNG chunk (PNG specification, annex D). */
function crc32(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const b of bytes) {
    c ^= b;
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  }
  return (c ^ 0xffffffff) >>> 0;
}
