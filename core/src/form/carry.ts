import { boundsOf } from '../mesh/measures';
import { faceNormals } from '../mesh/normals';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { meshTree } from '../rays/of-mesh';
import { RayQuery } from '../rays/query';
import { facesAt, patchIndex, placesOf } from './places';
import { centreOf, type Region } from './regions';

/** How far a face may have moved and still be the one it was, share of the mesh's size. */
const MOVED = 0.02;
/** Cosine of the angle it may have turned by. */
const TURNED = Math.SQRT1_2;

/** What regions came to on a newer mesh. */
export interface Carried {
  regions: Region[];
  /** Names of those whose faces were not found again: they speak of what they spoke of before. */
  lost: string[];
}

/**
 * Regions picked on a mesh without patch coordinates (an import, whose faces are only numbered), picked again on a newer one: a face
 * belongs to what lies nearest under its middle and looks the same way. Rules that aren't picked, and picks on named patches, hold on the
 * newer mesh as they are.
 */
export function carried(regions: readonly Region[], from: PolyMesh, to: PolyMesh): Carried {
  const numbered = !attribute(from, 'patchUv', 'corner') || !attribute(to, 'patchUv', 'corner');
  if (!numbered || !regions.some((r) => r.rules.some(({ rule }) => 'places' in rule))) return { regions: [...regions], lost: [] };
  const [old, now] = [patchIndex(from), patchIndex(to)];
  const under = facesUnder(from, to);
  const lost = new Set<string>();
  const made = regions.map((region) => ({
    ...region,
    rules: region.rules.map((r) => {
      if (!('places' in r.rule)) return r;
      const picked = new Set(facesAt(old, r.rule.places).faces);
      const faces: number[] = [];
      for (let f = 0; f < under.length; f++) if (picked.has(under[f])) faces.push(f);
      if (faces.length === 0) {
        lost.add(region.name);
        return r;
      }
      return { ...r, rule: { ...r.rule, places: placesOf(to, now, faces) } };
    }),
  }));
  return { regions: made, lost: [...lost] };
}

/** For every face of a newer mesh the face of the older one that lies under it, −1 where none does. */
function facesUnder(from: PolyMesh, to: PolyMesh): Int32Array {
  const { min, max } = boundsOf(from);
  const reach = MOVED * Math.hypot(...[0, 1, 2].map((k) => max[k] - min[k]));
  const query = new RayQuery(meshTree(from));
  const [a, b] = [faceNormals(from), faceNormals(to)];
  return Int32Array.from({ length: faceCount(to) }, (_, f) => {
    const [x, y, z] = centreOf(to, f);
    if (!query.nearest(x, y, z, reach)) return -1;
    const face = from.triangleFace[query.triangle];
    return a[3 * face] * b[3 * f] + a[3 * face + 1] * b[3 * f + 1] + a[3 * face + 2] * b[3 * f + 2] >= TURNED ? face : -1;
  });
}
