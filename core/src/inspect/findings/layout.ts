import { triangleArea } from '../../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { areaInLayout, texelsOfTriangle } from '../../uv/raster';

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

/** Side of the raster overlaps are looked for in, of one part and of the least of many; texels of all of them, about. */
const RASTER = { most: 512, least: 128, all: 40_000_000 };
/** The side for each of so many parts: of a file of thousands each is drawn smaller. */
export const rasterFor = (parts: number): number =>
  Math.max(RASTER.least, Math.min(RASTER.most, Math.floor(Math.sqrt(RASTER.all / Math.max(parts, 1)))));
/** Beyond the tile by more than rounding, shares of it. */
const EDGE = 1e-4;
/** Less layout than this, as a share of the tile, is none. */
const NO_AREA = 1e-12;

/** Looks over the `uv` of a mesh; null where it has none. @param side of the raster overlaps are looked for in, see {@link rasterFor} */
export function layoutFaults(mesh: PolyMesh, side = rasterFor(1)): LayoutFaults | null {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) return null;
  const out: LayoutFaults = { flat: [], outside: [], overlapping: [], overlapShare: 0, mirrored: [], spread: 1 };
  const owner = new Int32Array(side * side).fill(-1);
  const shared = new Uint8Array(side * side);
  const clash = new Set<number>();
  const densities = new Float64Array(triangleCount(mesh));
  const areas = new Float64Array(triangleCount(mesh));
  let known = 0;
  let [claimed, twice] = [0, 0];
  for (let t = 0; t < triangleCount(mesh); t++) {
    const a = 2 * mesh.triangles[3 * t];
    const b = 2 * mesh.triangles[3 * t + 1];
    const c = 2 * mesh.triangles[3 * t + 2];
    const signed = areaInLayout(mesh, uv, t);
    const area = triangleArea(mesh, t);
    if (area < 1e-9) continue;
    if (Math.abs(signed) < NO_AREA) {
      out.flat.push(t);
      continue;
    }
    densities[known] = Math.sqrt(Math.abs(signed) / area);
    areas[known++] = area;
    if (signed < 0) out.mirrored.push(t);
    if ([a, b, c].some((i) => uv[i] < -EDGE || uv[i] > 1 + EDGE || uv[i + 1] < -EDGE || uv[i + 1] > 1 + EDGE)) out.outside.push(t);
    texelsOfTriangle(mesh, uv, t, side, (x, y) => {
      const i = y * side + x;
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
    });
  }
  out.overlapping = [...clash].sort((x, y) => x - y);
  out.overlapShare = claimed > 0 ? twice / claimed : 0;
  out.spread = spreadOf(densities.subarray(0, known), areas.subarray(0, known));
  return out;
}

/** Parts of an octave that densities are gathered in, and how many octaves; each tells the mean of what is in it. */
const [FINE, OCTAVES] = [64, 60];

/** Density below which a tenth of the surface lies, against that below which nine tenths do. Counted, not sorted: linear. */
function spreadOf(densities: Float64Array, areas: Float64Array): number {
  if (densities.length === 0) return 1;
  const bins = new Float64Array(FINE * OCTAVES);
  const sums = new Float64Array(FINE * OCTAVES);
  const bin = (d: number): number => Math.min(bins.length - 1, Math.max(0, Math.floor(FINE * (Math.log2(d) + OCTAVES / 2))));
  let whole = 0;
  for (let i = 0; i < densities.length; i++) {
    const b = bin(densities[i]);
    bins[b] += areas[i];
    sums[b] += areas[i] * densities[i];
    whole += areas[i];
  }
  const at = (share: number): number => {
    let sum = 0;
    for (let b = 0; b < bins.length; b++) {
      sum += bins[b];
      if (sum >= share * whole && bins[b] > 0) return sums[b] / bins[b];
    }
    return densities[densities.length - 1];
  };
  return at(0.9) / (at(0.1) || 1);
}
