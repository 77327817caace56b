import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { decodeTexture } from '@wellmorph/core/io/textures';
import { random } from '@wellmorph/core/maths/random';
import { degreesBetween } from '@wellmorph/core/photo/box';
import type { Px } from '@wellmorph/core/photo/match';
import type { Photo } from '@wellmorph/core/photo/photo';
import type { Strip } from '@wellmorph/core/photo/snap';
import { snapEdge } from '@wellmorph/core/photo/snapped';
import { sizesFromPhoto, solvePhoto } from '@wellmorph/core/photo/solve';
import { describe, expect, it } from 'vitest';
import { cameraTaken, NOTICE_BOUNDS, NOTICE_BOX, PHOTO_SIZE, seenOn, TAKEN } from './notice-box';

/** The light along a line of a picture, between its pixels. */
const stripsOf =
  ({ width, height, channels, data }: ReturnType<typeof decodeTexture>) =>
  (a: Px, b: Px, reach: number): Strip => {
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const [w, h] = [Math.round(length), 2 * reach + 1];
    const [ux, uy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
    const grey = new Float32Array(w * h);
    const at = (x: number, y: number): number => {
      const i = channels * (Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x)));
      return 0.299 * data[i] + 0.587 * data[i + 1] + 0.114 * data[i + 2];
    };
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const [s, t] = [(x + 0.5) * (length / w), y - reach];
        const [px, py] = [a[0] + s * ux - t * uy - 0.5, a[1] + s * uy + t * ux - 0.5];
        const [i, j] = [Math.floor(px), Math.floor(py)];
        const [u, v] = [px - i, py - j];
        grey[y * w + x] = (1 - v) * ((1 - u) * at(i, j) + u * at(i + 1, j)) + v * ((1 - u) * at(i, j + 1) + u * at(i + 1, j + 1));
      }
    return { width: w, height: h, grey };
  };

describe('the photographs of the notice box, whose camera is known', () => {
  for (const taken of TAKEN)
    it(`${taken.name}: edges drawn to four pixels give the lens within 0.5 % and the box within 1 %`, () => {
      const picture = decodeTexture(taken.file, readFileSync(join(import.meta.dirname, '../kept', taken.file)));
      expect([picture.width, picture.height]).toEqual([PHOTO_SIZE.width, PHOTO_SIZE.height]);
      const camera = cameraTaken(taken);
      const next = random(5);
      const by = () => 8 * (next() - 0.5);
      const strip = stripsOf(picture);
      // Edges that can be seen, drawn by a hand that is up to four pixels off at both ends, and then drawn to the picture’s own.
      const seen = seenOn(taken);
      const edges = seen.edges.map(({ axis, ends }, i) => {
        const [p, q] = ends.map((x): Px => [Math.round(x[0] + by()), Math.round(x[1] + by())]);
        const snapped = snapEdge(p, q, strip);
        return { id: `${i}`, axis, points: snapped?.points ?? [p, q], snapped: snapped !== null };
      });
      expect(edges).toHaveLength(9);
      expect(edges.filter((e) => e.snapped).length).toBeGreaterThan(6);
      // Corners are put where two edges cross, as one does through the loupe: to a pixel.
      const photo: Photo = {
        id: 'p',
        name: taken.name,
        blob: '',
        widthPx: PHOTO_SIZE.width,
        heightPx: PHOTO_SIZE.height,
        lens: {},
        edges,
        pins: seen.corners.map(({ corner, at }) => ({ corner, at: at.map((x) => Math.round(x + by() / 4)) as unknown as Px })),
      };
      const sizes = sizesFromPhoto(photo, { axis: 1, mm: NOTICE_BOX[1] });
      expect(Math.abs(sizes.matched.focalPx / camera.focalPx - 1)).toBeLessThan(0.005);
      for (const k of [0, 2]) expect(Math.abs(sizes.sizeMm[k] / NOTICE_BOX[k] - 1)).toBeLessThan(0.01);
      const solved = solvePhoto(photo, { min: [...NOTICE_BOUNDS.min], max: [...NOTICE_BOUNDS.max] });
      expect(Math.hypot(...solved.camera.position.map((x, k) => x - camera.position[k]))).toBeLessThan(0.01 * taken.distanceMm);
      for (const k of [0, 1, 2]) expect(degreesBetween(solved.camera.axes[k], camera.axes[k])).toBeLessThan(0.3);
    });
});
