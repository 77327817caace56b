import { attribute, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { QUIET, type Task } from '../task';
import { filedIslands } from './keep';
import { type LaidPart, type LayoutFigures, measureLayout } from './measure';
import { islandsOf } from './pack/divide';
import { pack, type Turning } from './pack/pack';

/** A second layout beside the first: for baked light, decals, masks. */
export interface SecondChoices {
  /** Whether there is one. */
  on: boolean;
  /** Side of the textures drawn to it, and empty texels between islands there, px. */
  size: number;
  padding: number;
}

/** What can be said about a second layout. */
export type SecondFigures = Pick<LayoutFigures, 'islands' | 'coverage' | 'overlapTexels' | 'folds' | 'gutter' | 'border' | 'density'>;

/** Where it is kept on a mesh, and what it is called in a GLB. */
export const SECOND = { uv: 'uv2', island: 'island2', inGlb: 'TEXCOORD_1' } as const;

/**
 * Puts a second layout beside the first (`uv2`, corner; `island2`, face): the islands of the first as they are cut, all at one density, each
 * with texels of its own, whatever they are weighted by or share in the first, none of them mirrored, packed anew. As its borders are the
 * first's, no vertex is parted for it.
 *
 * @param parts with `uv` (corner) and `island` (face)
 * @throws StageError `pack/…` when the islands don't fit
 */
export function secondLayout<T extends LaidPart>(
  parts: readonly T[],
  { size, padding }: SecondChoices,
  rotate: Turning,
  task: Task = QUIET,
): { parts: T[]; figures: SecondFigures } {
  const cut = parts.map(({ mesh }) => {
    const filed = filedIslands(mesh);
    const island = filed ? (attribute(filed.mesh, 'chart', 'face')?.data as Int32Array) : new Int32Array(mesh.faceStart.length - 1);
    const flat = filed ? (attribute(filed.mesh, 'flat', 'corner')?.data as Float64Array) : new Float64Array(2 * mesh.faceVert.length);
    const islands = filed?.islands ?? 0;
    return { mesh, laid: { island, flat, islands, method: [] }, weights: new Float64Array(islands).fill(1) };
  });
  const { places } = pack(islandsOf(cut), { size, padding, rotate }, task);
  let base = 0;
  const out = parts.map((p, i) => {
    const { mesh, laid } = cut[i];
    const uv = new Float64Array(laid.flat.length);
    for (let f = 0; f < laid.island.length; f++) {
      const { scale, angle, x, y } = places[base + laid.island[f]];
      const [c, s] = [Math.cos(angle) * scale, Math.sin(angle) * scale];
      for (let corner = mesh.faceStart[f]; corner < mesh.faceStart[f + 1]; corner++) {
        const [a, b] = [laid.flat[2 * corner], laid.flat[2 * corner + 1]];
        uv[2 * corner] = Math.round((c * a - s * b + x) * 16777216) / 16777216;
        uv[2 * corner + 1] = Math.round((s * a + c * b + y) * 16777216) / 16777216;
      }
    }
    base += laid.islands;
    const withUv = withAttribute(mesh, { name: SECOND.uv, domain: 'corner', size: 2, data: uv });
    return { ...p, mesh: withAttribute(withUv, { name: SECOND.island, domain: 'face', size: 1, data: laid.island }) };
  });
  const { islands, coverage, overlapTexels, folds, gutter, border, density } = measureLayout(out.map(secondAsFirst), size);
  return { parts: out, figures: { islands, coverage, overlapTexels, folds, gutter, border, density } };
}

/** A part as if its second layout were its first, for what draws and measures one. */
export function secondAsFirst<T extends LaidPart>(part: T): T {
  const uv = attribute(part.mesh, SECOND.uv, 'corner');
  const island = attribute(part.mesh, SECOND.island, 'face');
  if (!uv || !island) return part;
  const own: PolyMesh = { ...part.mesh, attributes: part.mesh.attributes.filter((a) => !['uv', 'island', 'twin'].includes(a.name)) };
  return { ...part, mesh: withAttribute(withAttribute(own, { ...uv, name: 'uv' }), { ...island, name: 'island' }) };
}
