import { describe, expect, it } from 'vitest';
import { meanColour } from './mean';

const picture = (width: number, ...pixels: number[][]) => ({ width, height: pixels.length / width, data: pixels.flat() });
const [BLACK, WHITE, CLEAR] = [
  [0, 0, 0, 255],
  [255, 255, 255, 255],
  [255, 0, 0, 0],
];

describe('the mean colour of a square', () => {
  it('of one pixel is that pixel', () => {
    const [r, g, b] = meanColour(picture(1, [30, 60, 80, 255]), 0, 0, 1) ?? [];
    expect([r, g, b].map((c) => Math.round(255 * (c as number)))).toEqual([30, 60, 80]);
  });
  it('of black and white is half the light: 188 of 255 by the transfer function of IEC 61966-2-1', () => {
    const mean = meanColour(picture(2, BLACK, WHITE, BLACK, WHITE), 0, 0, 2);
    expect(mean?.map((c) => Math.round(255 * c))).toEqual([188, 188, 188]);
  });
  it('leaves out what is clear and what lies beyond the picture; where nothing is left it is none', () => {
    expect(meanColour(picture(2, CLEAR, WHITE), 0, 0, 9)?.[0]).toBeCloseTo(1, 6);
    expect(meanColour(picture(1, CLEAR), 0, 0, 3)).toBeNull();
    expect(meanColour(picture(1, WHITE), 5, 5, 1)).toBeNull();
  });
});
