import { fillTriangle } from '../../image/raster';
import { triangleArea } from '../../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../../mesh/polymesh';

/** What is wrong with the layout a file brought. Lists are of triangles. */
export interface LayoutFaults {
  /** On the surface and nowhere in the layout. */
  flat: number[];
  /** Beyond the tile. */
  outside: number[];
  /** Sharing texels with others of this part. */
  overlapping: number[];
  /** Texels that more than one triangle claims, as a share of those claimed: at most 1. */
  overlapShare: number;
  /** Laid face down: print on them reads backwards. */
  mirrored: number[];
  /** The densest tenth of the surface against the least dense, px/cm by px/cm. */
  spread: number;
}

/** Side of the raster overlaps are looked for in. */
const RASTER = 512;
/** Beyond the tile by more than rounding, shares of it. */
const EDGE = 1e-4;
/** Less layout than this, as a share of the tile, is none. */
const NO_AREA = 1e-12;

/** Looks over the `uv` of a mesh; null where it has none. */
export function layoutFaults(mesh: PolyMesh): LayoutFaults | null {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) return null;
  const out: LayoutFaults = { flat: [], outside: [], overlapping: [], overlapShare: 0, mirrored: [], spread: 1 };
  const owner = new Int32Array(RASTER * RASTER).fill(-1);
  const shared = new Uint8Array(RASTER * RASTER);
  const clash = new Set<number>();
  const densities: [density: number, area: number][] = [];
  let [claimed, twice] = [0, 0];
  for (let t = 0; t < triangleCount(mesh); t++) {
    const a = 2 * mesh.triangles[3 * t];
    const b = 2 * mesh.triangles[3 * t + 1];
    const c = 2 * mesh.triangles[3 * t + 2];
    const signed = ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a])) / 2;
    const area = triangleArea(mesh, t);
    if (area < 1e-9) continue;
    if (Math.abs(signed) < NO_AREA) {
      out.flat.push(t);
      continue;
    }
    densities.push([Math.sqrt(Math.abs(signed) / area), area]);
    if (signed < 0) out.mirrored.push(t);
    if ([a, b, c].some((i) => uv[i] < -EDGE || uv[i] > 1 + EDGE || uv[i + 1] < -EDGE || uv[i + 1] > 1 + EDGE)) out.outside.push(t);
    fillTriangle(
      uv[a] * RASTER,
      (1 - uv[a + 1]) * RASTER,
      uv[b] * RASTER,
      (1 - uv[b + 1]) * RASTER,
      uv[c] * RASTER,
      (1 - uv[c + 1]) * RASTER,
      RASTER,
      RASTER,
      (x, y) => {
        const i = y * RASTER + x;
        if (owner[i] < 0) {
          owner[i] = t;
          claimed++;
        } else {
          if (!shared[i]) {
            shared[i] = 1;
            twice++;
          }
          clash.add(t).add(owner[i]);
        }
      },
    );
  }
  out.overlapping = [...clash].sort((x, y) => x - y);
  out.overlapShare = claimed > 0 ? twice / claimed : 0;
  out.spread = spreadOf(densities);
  return out;
}

/** Density below which a tenth of the surface lies, against that below which nine tenths do. */
function spreadOf(list: [number, number][]): number {
  if (list.length === 0) return 1;
  list.sort((x, y) => x[0] - y[0]);
  const whole = list.reduce((s, [, area]) => s + area, 0);
  const at = (share: number): number => {
    let sum = 0;
    for (const [density, area] of list) {
      sum += area;
      if (sum >= share * whole) return density;
    }
    return list[list.length - 1][0];
  };
  return at(0.9) / (at(0.1) || 1);
}
