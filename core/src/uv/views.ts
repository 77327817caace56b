import type { LayoutViewKind, View } from '../inspect/views';
import { at, type Vec3 } from '../maths/vec3';
import { triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { islandCount, islandScales } from './measure';
import { areaInLayout } from './raster';
import { singularValues } from './stretch';

/** A part with its layout, and what share of the looks at each of its faces arrives. */
export interface LaidView {
  id: string;
  mesh: PolyMesh;
  looks: ArrayLike<number>;
}

/** A place that is worth a look: a face of an island, its middle, and its value. */
export interface WorstPlace {
  part: string;
  island: number;
  place: Vec3;
  value: number;
}

/** A view of a layout, with the places where it is worst, worst first, one for each island. */
export interface LayoutView {
  view: View;
  worst: WorstPlace[];
}

/** Places that are listed at most. */
const LISTED = 10;
/** Bars of a histogram. */
const BARS = 24;
/** Stretch below this is none: it is what rounding makes of exact islands, and is not listed. */
const NONE = 1.005;

/**
 * What is measured all over a layout, at the corners of triangles. `stretch` is the largest pull in any direction, of the surface or of the
 * layout, each island at its own scale (1 is none); `density` px/cm; `looks` the share of looks that arrive.
 *
 * @param size of the texture, px
 */
export function layoutView(kind: LayoutViewKind, parts: readonly LaidView[], size: number): LayoutView {
  const values: Float64Array[] = [];
  const areas: Float64Array[] = [];
  const faced: { part: number; t: number; value: number }[] = [];
  for (const [i, p] of parts.entries()) {
    const mine = valuesOf(kind, p, size);
    values.push(mine);
    areas.push(Float64Array.from(mine, (_, t) => triangleArea(p.mesh, t)));
    for (let t = 0; t < mine.length; t++) if (Number.isFinite(mine[t])) faced.push({ part: i, t, value: mine[t] });
  }
  const sorted = faced.slice().sort((a, b) => a.value - b.value);
  const whole = sorted.reduce((s, x) => s + areas[x.part][x.t], 0);
  /** The value below which a share of the surface lies. */
  const quantile = (share: number): number => {
    let sum = 0;
    for (const x of sorted) {
      sum += areas[x.part][x.t];
      if (sum >= share * whole) return x.value;
    }
    return sorted[sorted.length - 1]?.value ?? 0;
  };
  const [low, high] = endsOf(kind, quantile);
  const bins = new Array<number>(BARS).fill(0);
  for (const x of faced) {
    const bar = Math.floor(((x.value - low) / (high - low || 1)) * BARS);
    bins[Math.max(0, Math.min(BARS - 1, bar))] += areas[x.part][x.t] / (whole || 1);
  }
  const view: View = {
    kind,
    parts: parts.map((p, i) => ({
      id: p.id,
      values: Float32Array.from({ length: 3 * values[i].length }, (_, k) => values[i][(k / 3) | 0]),
    })),
    low,
    high,
    unit: kind === 'density' ? 'px/cm' : '',
    words: wordsOf(kind, quantile, faced.length - sorted.filter((x) => x.value <= NONE).length),
    bins,
  };
  return { view, worst: kind === 'stretch' ? worstOf(parts, sorted) : [] };
}

function valuesOf(kind: LayoutViewKind, { mesh, looks }: LaidView, size: number): Float64Array {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const island = attribute(mesh, 'island', 'face')?.data;
  const n = triangleCount(mesh);
  if (kind === 'looks') return Float64Array.from({ length: n }, (_, t) => looks[mesh.triangleFace[t]]);
  if (!uv || !island) return new Float64Array(n).fill(Number.NaN);
  const scales = islandScales(mesh, uv, island, islandCount(island));
  return Float64Array.from({ length: n }, (_, t) => {
    const space = triangleArea(mesh, t);
    if (space < 1e-9) return Number.NaN;
    if (kind === 'density') return 10 * size * Math.sqrt(Math.abs(areaInLayout(mesh, uv, t)) / space);
    const k = scales[island[mesh.triangleFace[t]]];
    const corners = [0, 1, 2].map((j) => mesh.triangles[3 * t + j]);
    const [large, small] = singularValues(
      corners.flatMap((c) => [...at(mesh.positions, mesh.faceVert[c])]),
      corners.flatMap((c) => [uv[2 * c] * k, uv[2 * c + 1] * k]),
    );
    return Math.max(large, small > 0 ? 1 / small : Number.POSITIVE_INFINITY);
  });
}

/** What stands at the ends of the scale. */
function endsOf(kind: LayoutViewKind, quantile: (share: number) => number): [number, number] {
  if (kind === 'looks') return [0, 1];
  if (kind === 'stretch') return [1, Math.max(1.1, Math.ceil(quantile(0.99) * 20) / 20)];
  // The middle of the scale is the density that most of the surface has.
  const middle = quantile(0.5);
  const spread = Math.max(0.1, 1 - quantile(0.01) / (middle || 1), quantile(0.99) / (middle || 1) - 1);
  return [middle * Math.max(0, 1 - spread), middle * (1 + spread)];
}

function wordsOf(kind: LayoutViewKind, quantile: (share: number) => number, pulled: number): string {
  const said = (x: number, digits: number): string => x.toFixed(digits).replace(/\.?0+$/, '');
  if (kind === 'looks') return 'How much of the looks from the front, sides and above arrives at each face; seams go where few do.';
  if (kind === 'density')
    return `Half of the surface has ${said(quantile(0.5), 1)} px/cm or more, nine tenths between ${said(quantile(0.05), 1)} and ${said(quantile(0.95), 1)}.`;
  if (pulled === 0) return 'Nothing is pulled by half a per cent or more.';
  return `The largest pull in any direction, 1 is none: 95 % of the surface is within ${said(quantile(0.95), 3)}, the worst ${said(quantile(1), 2)}.`;
}

/** Where it is worst, once for each island. */
function worstOf(parts: readonly LaidView[], sorted: readonly { part: number; t: number; value: number }[]): WorstPlace[] {
  const out: WorstPlace[] = [];
  const seen = new Set<string>();
  for (let i = sorted.length - 1; i >= 0 && out.length < LISTED && sorted[i].value > NONE; i--) {
    const { part, t, value } = sorted[i];
    const { id, mesh } = parts[part];
    const island = Number(attribute(mesh, 'island', 'face')?.data[mesh.triangleFace[t]] ?? -1);
    const key = `${id}/${island}`;
    if (seen.has(key)) continue;
    seen.add(key);
    const corners = [0, 1, 2].map((j) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + j]]));
    const place: Vec3 = [0, 1, 2].map((k) => (corners[0][k] + corners[1][k] + corners[2][k]) / 3) as unknown as Vec3;
    out.push({ part: id, island, place, value });
  }
  return out;
}
