import type { SurfaceLook } from '../../drawing/thumbnail';
import { srgbToLinear } from '../../image/srgb';
import type { PolyMesh } from '../../mesh/polymesh';
import { LOOKS, layUp } from '../compose';
import type { Material } from '../material';
import { Place } from './place';
import { boardsOf } from './places';
import { stacksOf } from './stack';

/**
 * Parts as their materials’ layers make them look, asked of place by place and without a layout. What follows the bake (rubbed and enclosed
 * places) isn’t known here and is left out.
 *
 * @returns by part; null where a material has no layers
 */
export function surfaceLooks(
  parts: readonly { id: string; mesh: PolyMesh }[],
  materialOf: (part: string) => Material | undefined,
  seed: number,
): (SurfaceLook | null)[] {
  const layered = parts.filter((p) => materialOf(p.id)?.layers.some((l) => l.on));
  if (layered.length === 0) return parts.map(() => null);
  const boards = boardsOf(layered);
  const materials = [...new Set(layered.map((p) => materialOf(p.id) as Material))];
  // Nothing is rubbed and nothing enclosed enough.
  const stacks = stacksOf(materials, new Map(), boards, seed);
  const place = new Place();
  [place.wear, place.dirt] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  return parts.map((p) => {
    const at = layered.indexOf(p);
    if (at < 0) return null;
    const material = materialOf(p.id) as Material;
    const { layers } = stacks[materials.indexOf(material)];
    const base = material.colour.map(srgbToLinear);
    const amounts = new Float64Array(layers.length);
    const looks = new Float64Array(LOOKS);
    return (triangle, position, normal, texel, out) => {
      [place.x, place.y, place.z] = position;
      [place.nx, place.ny, place.nz] = normal;
      place.footprint = texel;
      place.shell = boards.shells[boards.ofFace[at][p.mesh.triangleFace[triangle]]];
      for (let n = 0; n < layers.length; n++) amounts[n] = layers[n].amount(place, amounts);
      layUp(material, base, layers, amounts, looks);
      out.set(looks.subarray(0, 3));
      return looks[4];
    };
  });
}
