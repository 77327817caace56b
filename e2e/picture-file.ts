import { encodePng } from '../core/src/image/png';

/** A picture of 64 × 32 px with a frame, as a file. */
export const PNG: Buffer = (() => {
  const [width, height] = [64, 32];
  const data = new Uint8Array(width * height * 4).fill(255);
  for (let x = 0; x < width; x++) for (const y of [0, height - 1]) data.set([30, 60, 80, 255], 4 * (y * width + x));
  return Buffer.from(encodePng({ width, height, data, channels: 4, depth: 8 }));
})();
