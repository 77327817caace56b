import { fieldOfView, pixelMm } from '../brief/advice';
import { type OutlineView, silhouettesApart } from '../inspect/silhouette';
import { type Kit, needed } from '../kit';
import { type Vec3, vec3 } from '../maths/vec3';
import { triangleCount } from '../mesh/polymesh';
import { simplify } from '../mesh/simplify';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { checkpoint, QUIET, type Task } from '../task';
import { type AssetDocument, LEVEL_SHARES } from './document';
import { assetBounds, type PartMesh } from './form';

/** A leaner form of the piece for when it stands smaller in the picture. */
export interface Level {
  /** Its height in the picture against that of the closest view: 0.5 is half. */
  share: number;
  triangles: number;
  /** What the outline may be off there by the brief, px, and what it was found to be off in rendered outlines. */
  allowedPx: number;
  measuredPx: number;
  /** The error its parts were simplified to, mm. */
  errorMm: number;
}

/** Round the piece, and a little from above, degrees. */
const AROUND = [0, 40, 90] as const;
const ABOVE = 15;
/** A tetrahedron is left of every part. */
const FEWEST = 4;
/** Halvings of a level's error until its outline is within what may show. */
const TRIES = 6;

const soupWhole = (parts: readonly PartMesh[]): Float64Array => {
  const soups = parts.flatMap((p) => p.placements.map((m) => soupOf(transform(p.mesh, m))));
  const out = new Float64Array(soups.reduce((n, s) => n + s.length, 0));
  let at = 0;
  for (const s of soups) {
    out.set(s, at);
    at += s.length;
  }
  return out;
};
const drawn = (parts: readonly PartMesh[]): number => parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);

/**
 * The brief's view at a share of its screen height, from several sides: the camera stands farther off, so that the piece fills as
 * much less of the picture.
 */
export function looksAt(document: AssetDocument, parts: readonly PartMesh[], share = 1): OutlineView[] {
  const b = assetBounds(parts);
  const middle = vec3((k) => (b.min[k] + b.max[k]) / 2);
  const radius = Math.hypot(...[0, 1, 2].map((k) => (b.max[k] - b.min[k]) / 2));
  const { brief } = document;
  return AROUND.map((degrees) => {
    const [a, e] = [(degrees * Math.PI) / 180, (ABOVE * Math.PI) / 180];
    const from: Vec3 = [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)];
    // The brief's distance is to the nearest point of the piece.
    const distance = (brief.closestMm + radius) / share;
    return {
      eye: vec3((k) => middle[k] + from[k] * distance),
      at: middle,
      fieldOfView: fieldOfView(brief),
      heightPx: brief.pictureHeightPx,
    };
  });
}

/**
 * Further levels of a piece: each part simplified to one and the same error, the largest at which the rendered outline is still
 * within what the brief lets show at that level's screen height. Layouts are kept, so that one set of textures serves all.
 *
 * @param parts what is delivered; also what the outlines are measured against
 */
export function makeLevels(
  document: AssetDocument,
  parts: readonly PartMesh[],
  kit: Kit,
  task: Task = QUIET,
  shares: readonly number[] = LEVEL_SHARES.slice(0, document.handoff.levels),
): (Level & { parts: PartMesh[] })[] {
  const simplifier = needed(kit, 'simplifier');
  const reference = soupWhole(parts);
  const allowedPx = document.brief.errorPx;
  return shares.map((share, i) => {
    const looks = looksAt(document, parts, share);
    let errorMm = (allowedPx * pixelMm(document.brief)) / share;
    for (let tried = 0; ; tried++) {
      checkpoint(task);
      task.progress((i + tried / TRIES) / shares.length, `level ${i + 1}: drawing outlines`);
      const lean = parts.map((p) => ({ ...p, mesh: simplify(simplifier, p.mesh, { triangles: FEWEST, errorMm }) }));
      const measuredPx = silhouettesApart(reference, soupWhole(lean), looks);
      if (measuredPx <= allowedPx || tried >= TRIES) return { share, triangles: drawn(lean), allowedPx, measuredPx, errorMm, parts: lean };
      errorMm *= Math.max(0.5, Math.min(0.85, (0.9 * allowedPx) / measuredPx));
    }
  });
}
