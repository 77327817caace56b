import jpeg from 'jpeg-js';
import { describe, expect, it } from 'vitest';
import { encodePng } from '../image/png';
import { decodeTexture, sceneTexture, withFactors } from './textures';

describe('textures that lie are refused in one sentence', () => {
  const png = encodePng({ width: 4, height: 2, channels: 3, depth: 8, data: new Uint8Array(24).fill(90) });
  it('not a picture, cut off, far too large, wrong channels', () => {
    expect(() => decodeTexture('a.png', new TextEncoder().encode('not a picture at all, only words'))).toThrow(
      /not a PNG, JPEG, WebP or KTX2/,
    );
    expect(() => decodeTexture('a.png', new Uint8Array(0))).toThrow(/not a PNG, JPEG, WebP or KTX2/);
    expect(() => decodeTexture('a.png', png.slice(0, png.length - 20))).toThrow(/whole PNG/);
    const huge = png.slice();
    new DataView(huge.buffer).setUint32(16, 90000);
    expect(() => decodeTexture('a.png', huge)).toThrow(/90000 × 2 px/);
    const grey = encodePng({ width: 2, height: 2, channels: 1, depth: 8, data: Uint8Array.from([1, 2, 3, 4]) });
    expect(() => sceneTexture('n.png', grey, 'normal')).toThrow(/1 channel; a normal map needs three/);
    expect([...sceneTexture('c.png', grey, 'base colour').data]).toEqual([1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4]);
    expect(() => sceneTexture('label.png', png, 'base colour', true)).toThrow(/has no alpha, but its material is cut out by it/);
    expect(() => decodeTexture('a.jpg', Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0]))).toThrow(/JPEG/);
  });
  it('factors of a file are multiplied in, in light for colours, as they are for data', () => {
    const t = sceneTexture(
      'c.png',
      encodePng({ width: 1, height: 1, channels: 3, depth: 8, data: Uint8Array.from([255, 188, 100]) }),
      'base colour',
    );
    expect([...withFactors(t, [0.5029, 1, 0], 'base colour').data]).toEqual([188, 188, 0]);
    expect([...withFactors(t, [1, 0.5, 0.1], 'roughness and metallic').data]).toEqual([255, 94, 10]);
    expect(withFactors(t, [0, 0, 0], 'normal')).toBe(t);
  });
  it('PNG of either depth and JPEG are read, told by their bytes', () => {
    expect([...decodeTexture('misnamed.jpg', png).data.slice(0, 3)]).toEqual([90, 90, 90]);
    const deep = encodePng({ width: 1, height: 1, channels: 3, depth: 16, data: Uint16Array.from([65535, 32768, 0]) });
    expect([...decodeTexture('d.png', deep).data]).toEqual([255, 128, 0]);
    const jpg = jpeg.encode({ width: 8, height: 8, data: new Uint8Array(256).fill(128) }, 95).data;
    const p = decodeTexture('p', new Uint8Array(jpg));
    expect([p.width, p.height, p.channels]).toEqual([8, 8, 3]);
    expect(Math.abs(p.data[0] - 128)).toBeLessThan(3);
  });
});
