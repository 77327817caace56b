import type { SurfaceLook } from '../drawing/thumbnail';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { at, type Vec3 } from '../maths/vec3';
import { BLENDS } from '../surface/blend';
import { weightsIn } from './drape';
import type { ReadyPrint } from './ink';
import { turned } from './lay';
import { addSample, levelOf } from './pixels';

/** A part as its prints make it look, asked of place by place and without a layout. @param under as it looks without them @param prints of this part */
export function printedLook(under: SurfaceLook, prints: readonly ReadyPrint[]): SurfaceLook {
  const on = prints.map((p) => {
    const entries = new Map<number, number[]>();
    for (const [n, t] of p.laid.triangles.entries()) entries.set(t, [...(entries.get(t) ?? []), n]);
    return { ...p, entries };
  });
  const sum = new Float64Array(4);
  return (triangle, position, normal, texel, out) => {
    let metallic = under(triangle, position, normal, texel, out);
    for (const { mesh, laid, picture, entries } of on) {
      const list = entries.get(triangle);
      if (!list) continue;
      const { print, carrier, middle, corners } = laid;
      const { opacity, blend } = print.ink;
      const places = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * triangle + k]]));
      const weights = weightsIn(position, places[0], places[1], places[2]);
      const level = levelOf(picture, texel * Math.max(picture.width / print.width, picture.height / print.height));
      for (const n of carrier.exact ? list.slice(0, 1) : list) {
        const [x, y] = carrier.exact
          ? carrier.unrolled(position as Vec3, -1, middle)
          : ([0, 1].map((k) => weights.reduce((s, w, i) => s + w * corners[6 * n + 2 * i + k], 0)) as [number, number]);
        const [px, py] = turned(print, [x, y]);
        sum.fill(0);
        addSample(picture, level, px / print.width + 0.5, 0.5 - py / print.height, sum);
        if (!(sum[3] > 0)) continue;
        const amount = sum[3] * opacity;
        const mode = blend === 'normal' ? null : BLENDS[blend];
        for (let k = 0; k < 3; k++) {
          const own = sum[k] / sum[3];
          const over = mode ? srgbToLinear(mode(linearToSrgb(out[k]), linearToSrgb(own))) : own;
          out[k] += amount * (over - out[k]);
        }
        if (print.ink.metallic !== undefined) metallic += amount * (print.ink.metallic - metallic);
      }
    }
    return metallic;
  };
}
