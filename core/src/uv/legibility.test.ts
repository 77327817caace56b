import { describe, expect, it } from 'vitest';
import { pixelMm } from '../brief/advice';
import { briefFor } from '../brief/brief';
import { legibility } from './legibility';

describe('legibility of print', () => {
  it('a 2 mm capital at 0.2 mm a pixel is 10 px high and at 45 px/cm gets 9 texels (by hand)', () => {
    expect(legibility(2, 45, 0.2)).toEqual({ screen: 10, texels: 9, lacks: null, enough: 50 });
  });
  it('what is too small on the screen needs no texels; what could be seen and has too few does', () => {
    expect(legibility(0.5, 400, 0.2).lacks).toBe('size');
    expect(legibility(2, 20, 0.2).lacks).toBe('texels');
    expect(legibility(2, 30, 0.2).lacks).toBe('texels');
    // Large letters are read long before every pixel of them has its texel.
    expect(legibility(20, 10, 0.2).lacks).toBe(null);
  });
  it('enough is where a texel covers a pixel at the closest view', () => {
    const brief = briefFor('game');
    expect(legibility(1, 1, pixelMm(brief)).enough).toBeCloseTo(10 / pixelMm(brief), 12);
  });
});
