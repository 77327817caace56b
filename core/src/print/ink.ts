import { LINEAR } from '../gather/picture';
import { fillTriangle } from '../image/raster';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { at } from '../maths/vec3';
import type { PolyMesh } from '../mesh/polymesh';
import { BLENDS } from '../surface/blend';
import { byte, type ComposedSet, TO_SRGB } from '../surface/compose';
import { blankIn, CLEAR_ROUND } from './blank';
import { type LaidPrint, layoutOf, turned } from './lay';
import { addSample, levelOf, type PrintPicture } from './pixels';

/** A print that is laid, on its part’s mesh, with its picture. */
export interface ReadyPrint {
  mesh: PolyMesh;
  laid: LaidPrint;
  picture: PrintPicture;
}

/** The most samples along each side of a texel: a texel gets the mean of what lies under it. */
export type Samples = 2 | 4;
/** Pixels that samples may be apart: between its pixels a picture is mixed, so that closer ones tell no more. */
const APART = 1.1;

/**
 * Prints rows of a set, over what was composed there. A texel is covered by as much of the print as lies under it; its colour is mixed in linear
 * light, whatever it is blended by.
 *
 * @param most samples along a side of each texel @param owner whose texel it is, 0 for nobody’s
 */
export function printRows(
  { mesh, laid, picture }: ReadyPrint,
  set: ComposedSet,
  owner: Uint8Array,
  from: number,
  to: number,
  most: Samples,
): void {
  const { print, carrier, middle, triangles, corners } = laid;
  const { size } = set;
  const uv = layoutOf(mesh);
  const { opacity, blend, roughness, metallic, coat, relief = 0 } = print.ink;
  const mode = blend === 'normal' ? null : BLENDS[blend];
  const sum = new Float64Array(4);
  const place = new Float64Array(2);
  const unroll = carrier.unroller?.(middle) ?? null;
  const [round, axis] = carrier.kind === 'round' && carrier.girth ? [carrier.girth.mm, carrier.girth.axis] : [0, 0];
  const [cos, sin] = [Math.cos((print.turn * Math.PI) / 180), Math.sin((print.turn * Math.PI) / 180)];
  const mirror = print.mirrored ? -1 : 1;
  // Of a small step along a side the middle of every sample’s, for so many of them.
  const stepsOf = Array.from({ length: most + 1 }, (_, n) => Array.from({ length: n }, (_, k) => (k + 0.5) / n - 0.5));
  for (let n = 0; n < triangles.length; n++) {
    const t = triangles[n];
    const [a, b, c] = [mesh.triangles[3 * t], mesh.triangles[3 * t + 1], mesh.triangles[3 * t + 2]];
    const [ax, ay] = [uv[2 * a] * size, (1 - uv[2 * a + 1]) * size];
    const [bx, by] = [uv[2 * b] * size, (1 - uv[2 * b + 1]) * size];
    const [cx, cy] = [uv[2 * c] * size, (1 - uv[2 * c + 1]) * size];
    if (Math.max(ay, by, cy) < from || Math.min(ay, by, cy) > to) continue;
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (Math.abs(det) < 1e-12) continue;
    const o = 6 * n;
    // How far one goes on the print from one texel to the next, along a row and down a column.
    const flat = [0, 1, 2].map((k) => turned(print, [corners[o + 2 * k], corners[o + 2 * k + 1]]));
    const way = (k: 0 | 1): [number, number] => {
      const [p, q] = [flat[1][k] - flat[0][k], flat[2][k] - flat[0][k]];
      return [(p * (cy - ay) - q * (by - ay)) / det, (q * (bx - ax) - p * (cx - ax)) / det];
    };
    const [xAcross, xDown] = way(0);
    const [yAcross, yDown] = way(1);
    const perMm = Math.max(picture.width / print.width, picture.height / print.height);
    const across = Math.max(Math.hypot(xAcross, yAcross), Math.hypot(xDown, yDown)) * perMm;
    const samples = Math.max(1, Math.min(most, Math.ceil(across / APART)));
    const steps = stepsOf[samples];
    const level = levelOf(picture, across / samples);
    const reach = Math.hypot(xAcross, yAcross) + Math.hypot(xDown, yDown);
    // Nothing can come of a texel where the picture is clear as far round as it reaches, and a pixel more.
    const [wide, high] = level > 0 ? [picture.levels[level - 1].width, picture.levels[level - 1].height] : [picture.width, picture.height];
    const reaches = Math.max(
      ((Math.abs(xAcross) + Math.abs(xDown)) * wide) / (2 * print.width),
      ((Math.abs(yAcross) + Math.abs(yDown)) * high) / (2 * print.height),
    );
    const blank = reaches + 1 <= CLEAR_ROUND ? blankIn(picture, level) : null;
    // Unrolled, a place is no farther than this from where it lies between the corners: less than half of it for four sides.
    const off = unroll
      ? 0.1 * Math.max(...[0, 1, 2].map((k) => Math.hypot(flat[k][0] - flat[(k + 1) % 3][0], flat[k][1] - flat[(k + 1) % 3][1])))
      : 0;
    const [farX, farY] = [print.width / 2 + reach, print.height / 2 + reach];
    const [p0, p1, p2] = [a, b, c].map((i) => at(mesh.positions, mesh.faceVert[i]));
    fillTriangle(
      ax,
      ay,
      bx,
      by,
      cx,
      cy,
      size,
      to,
      (x, y, w0, w1, w2) => {
        const i = y * size + x;
        if (owner[i] === 0) return;
        let px = w0 * corners[o] + w1 * corners[o + 2] + w2 * corners[o + 4];
        let py = w0 * corners[o + 1] + w1 * corners[o + 3] + w2 * corners[o + 5];
        if (unroll) {
          if (Math.abs(cos * px + sin * py) > farX + off || Math.abs(cos * py - sin * px) > farY + off) return;
          unroll(w0 * p0[0] + w1 * p1[0] + w2 * p2[0], w0 * p0[1] + w1 * p1[1] + w2 * p2[1], w0 * p0[2] + w1 * p1[2] + w2 * p2[2], place);
          // The same time round as its corners.
          px = round > 0 && axis === 0 ? place[0] + round * Math.round((px - place[0]) / round) : place[0];
          py = round > 0 && axis === 1 ? place[1] + round * Math.round((py - place[1]) / round) : place[1];
        }
        const mx = mirror * (cos * px + sin * py);
        const my = cos * py - sin * px;
        if (Math.abs(mx) > farX || Math.abs(my) > farY) return;
        if (blank?.at(mx / print.width + 0.5, 0.5 - my / print.height)) return;
        sum.fill(0);
        for (let j = 0; j < samples; j++)
          for (let k = 0; k < samples; k++) {
            const dx = steps[k];
            const dy = steps[j];
            addSample(
              picture,
              level,
              (mx + dx * xAcross + dy * xDown) / print.width + 0.5,
              0.5 - (my + dx * yAcross + dy * yDown) / print.height,
              sum,
            );
          }
        const covered = sum[3] / (samples * samples);
        if (covered <= 0) return;
        const amount = covered * opacity;
        const q = 3 * i;
        for (let k = 0; k < 3; k++) {
          const below = LINEAR[set.baseColour[q + k]];
          const own = sum[k] / sum[3];
          const over = mode ? srgbToLinear(mode(linearToSrgb(below), linearToSrgb(own))) : own;
          set.baseColour[q + k] = TO_SRGB[Math.round(4096 * Math.min(1, below + amount * (over - below)))];
        }
        if (roughness !== undefined) set.orm[q + 1] = mixed(set.orm[q + 1], roughness, amount);
        if (metallic !== undefined) set.orm[q + 2] = mixed(set.orm[q + 2], metallic, amount);
        if (coat !== undefined && set.coat) set.coat[q] = mixed(set.coat[q], coat, amount);
        // Ink lies in front of what shines through or glows.
        if (set.clear) set.clear[i] = mixed(set.clear[i], 0, amount);
        if (set.emissive) for (let k = 0; k < 3; k++) set.emissive[q + k] = mixed(set.emissive[q + k], 0, amount);
        if (relief !== 0 && set.height) set.height[i] += (covered * relief) / 1000;
      },
      from,
    );
  }
}

const mixed = (from: number, to: number, by: number): number => byte(from / 255 + by * (to - from / 255));
