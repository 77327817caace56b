import { describe, expect, it } from 'vitest';
import { decodePng, encodePng, type Pixels } from './png';
import { scaleDown } from './scale';

const picture = (width: number, height: number, channels: Pixels['channels'], at: (x: number, y: number) => number[]): Pixels => ({
  width,
  height,
  channels,
  depth: 8,
  data: Uint8Array.from(Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))).flat()),
});

describe('scaling down', () => {
  it('a black and white checker becomes sRGB 188: half the light (IEC 61966-2-1)', () => {
    const checker = picture(8, 8, 3, (x, y) => ((x + y) % 2 ? [255, 255, 255] : [0, 0, 0]));
    expect([...new Set(scaleDown(checker, 4, 4, 'colour').data)]).toEqual([188]);
    expect([...new Set(scaleDown(checker, 4, 4, 'data').data)]).toEqual([128]);
  });
  it('normals stay unit: two that lean apart meet upright', () => {
    const s = Math.round((Math.SQRT1_2 * 0.5 + 0.5) * 255);
    const leaning = picture(2, 1, 3, (x) => [x ? s : 255 - s, 128, s]);
    const [x, y, z] = scaleDown(leaning, 1, 1, 'normal').data;
    expect([x, y]).toEqual([128, 128]);
    expect(z).toBeGreaterThanOrEqual(254);
  });
  it('a nearly clear pixel keeps its colour, and a clear one bleeds none', () => {
    const faint = picture(2, 2, 4, () => [200, 100, 50, 3]);
    expect([...scaleDown(faint, 1, 1, 'colour').data]).toEqual([200, 100, 50, 3]);
    const beside = picture(2, 1, 4, (x) => (x ? [10, 200, 10, 255] : [255, 0, 255, 0]));
    expect([...scaleDown(beside, 1, 1, 'colour').data]).toEqual([10, 200, 10, 128]);
    expect([...decodePng(encodePng(faint)).data]).toEqual([...faint.data]);
  });
  it('sizes that don’t divide weigh each pixel by its area, and sixteen bits stay sixteen', () => {
    const three = picture(3, 1, 1, (x) => [[0, 120, 240][x]]);
    expect([...scaleDown(three, 2, 1, 'data').data]).toEqual([40, 200]);
    const deep: Pixels = { width: 2, height: 1, channels: 1, depth: 16, data: Uint16Array.from([1000, 3000]) };
    expect([...scaleDown(deep, 1, 1, 'data').data]).toEqual([2000]);
  });
});
