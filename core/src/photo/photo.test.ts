import { describe, expect, it } from 'vitest';
import { pictureHead } from '../io/head';
import { random } from '../maths/random';
import type { Px } from './match';
import { focalFromFile, type Photo, wasCropped } from './photo';
import { type Strip, snapStrip } from './snap';
import { snapEdge } from './snapped';

const photo = (more: Partial<Photo>): Photo => ({
  id: 'p',
  name: 'p',
  blob: '',
  widthPx: 6000,
  heightPx: 4000,
  lens: {},
  edges: [],
  pins: [],
  ...more,
});

describe('what a file says of the lens', () => {
  it('millimetres need the width of the sensor; those on 35 mm film don’t', () => {
    expect(focalFromFile(photo({ lens: { focalMm: 50 } }))).toBeNull();
    // 50 mm before 36 mm: 50/36 of the picture’s width.
    expect(focalFromFile(photo({ lens: { focalMm: 50 }, sensorMm: 36 }))).toBeCloseTo((50 / 36) * 6000, 6);
    expect(focalFromFile(photo({ lens: { focal35Mm: 50 } }))).toBeCloseTo((50 / 36) * 6000, 6);
    // Half as large, with all that was on it: half the pixels.
    expect(focalFromFile(photo({ widthPx: 3000, heightPx: 2000, lens: { focal35Mm: 50, takenPx: [6000, 4000] } }))).toBeCloseTo(
      (50 / 36) * 3000,
      6,
    );
    // Taken 6000 wide and cut to 3000: the lens stays what it was.
    expect(focalFromFile(photo({ widthPx: 3000, lens: { focalMm: 50, takenPx: [6000, 4000] }, sensorMm: 36 }))).toBeCloseTo(
      (50 / 36) * 6000,
      6,
    );
  });
  it('a picture of another shape was cropped; one that is only smaller, or turned, was not', () => {
    expect(wasCropped(photo({}))).toBeNull();
    expect(wasCropped(photo({ lens: { takenPx: [6000, 4000] } }))).toBe(false);
    expect(wasCropped(photo({ widthPx: 2000, heightPx: 3000, lens: { takenPx: [6000, 4000] } }))).toBe(false);
    expect(wasCropped(photo({ widthPx: 4000, lens: { takenPx: [6000, 4000] } }))).toBe(true);
  });
});

/** A strip with an edge from one height to another, its two sides so bright, soft by a pixel, with noise. */
function strip(from: number, to: number, [above, below]: readonly [number, number], noise = 6, height = 29): Strip {
  const width = 600;
  const next = random(3);
  const grey = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const line = (height - 1) / 2 + from + ((to - from) * (x + 0.5)) / width;
      const t = Math.min(1, Math.max(0, (y - line) / 2 + 0.5));
      grey[y * width + x] = above + (below - above) * t + noise * (2 * next() - 1);
    }
  return { width, height, grey };
}

describe('an edge drawn to the picture’s own', () => {
  it('within a twentieth of a pixel, whichever side is the brighter, through noise', () => {
    for (const [from, to] of [
      [0, 0],
      [3.3, -4.6],
      [-9.2, 2.7],
    ] as const)
      for (const sides of [
        [40, 160],
        [150, 90],
      ] as const) {
        const s = snapStrip(strip(from, to, sides));
        expect(Math.abs((s?.from ?? 99) - from)).toBeLessThan(0.05);
        expect(Math.abs((s?.to ?? 99) - to)).toBeLessThan(0.05);
        expect(s?.share).toBeGreaterThan(0.95);
      }
  });
  it('of two it takes the one nearer to what was drawn; of none, none', () => {
    const a = strip(2, 2, [60, 120], 2);
    const b = strip(-11, -11, [0, 60], 0);
    const both: Strip = { ...a, grey: Float32Array.from(a.grey as Float32Array, (g, i) => g + b.grey[i]) };
    expect(snapStrip(both)?.from).toBeCloseTo(2, 1);
    expect(snapStrip(strip(0, 0, [100, 100], 8))).toBeNull();
  });
  it('moves both ends across itself, and none along', () => {
    // A picture that is dark left of x = 100.
    const light = (a: Px, b: Px, reach: number): Strip => {
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const [width, height] = [Math.round(length), 2 * reach + 1];
      const [ux, uy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
      const grey = new Float32Array(width * height);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const px = a[0] + (x + 0.5) * ux - (y - reach) * uy;
          grey[y * width + x] = 40 + 120 * Math.min(1, Math.max(0, px - 99.5));
        }
      return { width, height, grey };
    };
    const made = snapEdge([97, 50], [104, 450], light);
    for (const p of made?.points ?? []) expect(Math.abs(p[0] - 100)).toBeLessThan(0.05);
    expect(made?.points[0][1]).toBeCloseTo(50, 0);
    expect(made?.points[1][1]).toBeCloseTo(450, 0);
    expect(snapEdge([97, 50], [98, 55], light)).toBeNull();
  });
});

describe('the head of a picture file', () => {
  // ITU-T T.81, B.2.2: SOF0, length, 8 bits, lines, samples a line, components.
  const jpeg = (components: number) =>
    Uint8Array.from([255, 216, 255, 224, 0, 4, 1, 2, 255, 192, 0, 17, 8, 2, 0, 3, 0, components, ...new Array(12).fill(0)]);
  it('JPEG: four components are the inks of a print', () => {
    expect(pictureHead(jpeg(3))).toEqual({ kind: 'JPEG', width: 768, height: 512, channels: 3, depth: 8 });
    expect(pictureHead(jpeg(4))?.channels).toBe(4);
  });
  it('PNG (specification, 11.2.2): depth and what the colour type holds', () => {
    const png = (depth: number, type: number) =>
      Uint8Array.from([137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82, 0, 0, 3, 0, 0, 0, 2, 0, depth, type, 0, 0, 0]);
    expect(pictureHead(png(16, 2))).toEqual({ kind: 'PNG', width: 768, height: 512, channels: 3, depth: 16 });
    expect(pictureHead(png(8, 6))?.channels).toBe(4);
  });
  it('anything else, and what is broken off before it, is none', () => {
    expect(pictureHead(new TextEncoder().encode('no picture at all, only words'))).toBeNull();
    expect(pictureHead(jpeg(3).slice(0, 12))).toBeNull();
  });
});
