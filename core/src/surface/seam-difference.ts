import type { Pixels } from '../image/png';
import { edgesOf, edgeValence } from '../mesh/connectivity';
import { faceNormals } from '../mesh/normals';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import type { SceneTexture } from '../render/scene';
import { readTexture } from '../render/texture';
import { edgesCut } from '../uv/seams/measure';
import { twinFaces } from '../uv/twins';

/** How much a set differs from one side of a seam to the other, of 255 in the channel that differs most, as its pictures store it. */
export interface SeamDifference {
  mean: number;
  /** Nineteen of twenty places on seams differ by less. */
  p95: number;
  worst: number;
  /** How long all of these seams are, mm. */
  lengthMm: number;
}

/** Sharper than this the two sides look different anyhow, degrees. */
const GOES_ON = 30;
/** A place is looked at every so many texels of a seam. */
const EVERY = 2;
const MOST_PLACES = 64;

/**
 * Measured where the layout is cut and the surface goes on: on both sides of the seam at the same places, between texels as a viewer reads them.
 *
 * @param parts by their `uv`; `ofFace` says whose material each face has: where two meet is no seam of one
 * @returns null where there is no such seam
 */
export function seamDifference(parts: readonly { mesh: PolyMesh; ofFace?: ArrayLike<number> }[], picture: Pixels): SeamDifference | null {
  const { width: size } = picture;
  const counts = new Float64Array(256);
  let [sum, weight, worst] = [0, 0, 0];
  const [here, there] = [new Float64Array(3), new Float64Array(3)];
  const texture: SceneTexture = {
    width: size,
    height: picture.height,
    channels: 3,
    data: picture.data as Uint8Array,
    wrap: ['clamp', 'clamp'],
  };
  for (const { mesh, ofFace } of parts) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    if (!uv) continue;
    const edges = edgesOf(mesh);
    const cut = edgesCut(mesh, edges);
    const normals = faceNormals(mesh);
    const twins = twinFaces(mesh);
    const p = mesh.positions;
    for (let e = 0; e < edges.count; e++) {
      if (!cut[e] || edgeValence(edges, e) !== 2) continue;
      const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
      const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
      if (twins?.[f] || twins?.[g] || (ofFace && ofFace[f] !== ofFace[g])) continue;
      let cos = 0;
      for (let k = 0; k < 3; k++) cos += normals[3 * f + k] * normals[3 * g + k];
      if (cos < Math.cos((GOES_ON * Math.PI) / 180)) continue;
      // Twins run opposite ways: a starts where b ends.
      const [a1, b1] = [edges.next[a], edges.next[b]];
      const [v, w] = [3 * mesh.faceVert[a], 3 * mesh.faceVert[a1]];
      const long = Math.hypot(p[w] - p[v], p[w + 1] - p[v + 1], p[w + 2] - p[v + 2]);
      const texels = size * Math.hypot(uv[2 * a1] - uv[2 * a], uv[2 * a1 + 1] - uv[2 * a + 1]);
      const places = Math.min(MOST_PLACES, Math.max(1, Math.ceil(texels / EVERY)));
      for (let n = 0; n < places; n++) {
        const t = (n + 0.5) / places;
        readTexture(texture, uv[2 * a] + t * (uv[2 * a1] - uv[2 * a]), uv[2 * a + 1] + t * (uv[2 * a1 + 1] - uv[2 * a + 1]), false, here);
        readTexture(
          texture,
          uv[2 * b1] + t * (uv[2 * b] - uv[2 * b1]),
          uv[2 * b1 + 1] + t * (uv[2 * b + 1] - uv[2 * b1 + 1]),
          false,
          there,
        );
        const off = 255 * Math.max(Math.abs(here[0] - there[0]), Math.abs(here[1] - there[1]), Math.abs(here[2] - there[2]));
        const mm = long / places;
        counts[Math.min(255, Math.floor(off))] += mm;
        sum += mm * off;
        weight += mm;
        if (off > worst) worst = off;
      }
    }
  }
  if (weight === 0) return null;
  let [below, p95] = [0, 0];
  while (p95 < 255 && below + counts[p95] < 0.95 * weight) below += counts[p95++];
  return { mean: sum / weight, p95: p95 + 1, worst, lengthMm: weight };
}
