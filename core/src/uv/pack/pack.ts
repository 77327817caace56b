import { StageError } from '../../errors';
import { convexHull } from '../../maths/hull';
import { checkpoint, QUIET, type Task } from '../../task';
import { drawMask, Grid, type Mask } from './mask';

/** An island to be packed: its triangles laid flat, mm, already weighted. */
export interface PackIsland {
  /** 6 numbers per triangle. */
  triangles: Float64Array;
}

/** Where an island goes: turned about its origin, scaled, moved. uv = scale · R(angle) · p + (x, y), v up. */
export interface PackPlace {
  angle: number;
  x: number;
  y: number;
}

/** How islands are packed. */
export interface PackOptions {
  /** Side of the delivered texture, px. */
  size: number;
  /** Empty texels between islands; half of it stays free along the tile's edge. */
  padding: number;
  rotate: boolean;
}

const COARSE = 256;
const FINE = 512;

/**
 * Packs islands into the unit tile: masks on a grid with padding, several rotations each, largest first, lowest and then
 * leftmost free place. The largest scale that still fits is searched on a coarse grid with several orders, then settled on
 * a fine one. The same input always gives the same layout.
 *
 * @returns the scale (tile per mm) and a place for each island
 * @throws StageError `pack/…` when nothing fits even when tiny
 */
export function pack(islands: readonly PackIsland[], options: PackOptions, task: Task = QUIET): { scale: number; places: PackPlace[] } {
  if (islands.length === 0) return { scale: 1, places: [] };
  const turned = islands.map((i) => ({ ...i, angles: options.rotate ? anglesOf(i.triangles) : [0] }));
  const area = islands.reduce((s, i) => s + areaOf(i.triangles), 0);
  const extents = turned.map((i) => extentOf(i.triangles, i.angles[0]));
  const all = islands.map((_, i) => i);
  const orders = [
    [...all].sort((a, b) => Math.max(...extents[b]) - Math.max(...extents[a]) || a - b),
    [...all].sort((a, b) => extents[b][0] * extents[b][1] - extents[a][0] * extents[a][1] || a - b),
    [...all].sort((a, b) => Math.min(...extents[b]) - Math.min(...extents[a]) || a - b),
  ];
  const most = Math.sqrt(0.9 / Math.max(area, 1e-12));
  let best = { scale: 0, order: orders[0] };
  for (const [k, order] of orders.entries()) {
    checkpoint(task);
    const fits = (scale: number) => attempt(turned, order, scale, COARSE, options) !== null;
    // Another order is only worth a search when it beats the best so far at once.
    let low = best.scale * 1.02;
    let high = most;
    if (best.scale > 0 ? fits(low) : false) best = { scale: low, order };
    else if (best.scale > 0) continue;
    else low = most * 0.02;
    for (let i = 0; i < (best.scale > 0 ? 4 : 7); i++) {
      const scale = Math.sqrt(low * high);
      if (fits(scale)) {
        low = scale;
        best = { scale, order };
      } else high = scale;
    }
    if (best.scale === 0 && fits(low)) best = { scale: low, order };
    task.progress((0.6 * (k + 1)) / orders.length, 'packing');
  }
  if (best.scale === 0)
    throw new StageError(
      'pack/room',
      `The islands don’t fit with ${options.padding} texels between them at ${options.size} px; lower the padding or raise the size.`,
    );
  let done: PackPlace[] | null = null;
  let scale = best.scale * 1.05;
  for (let i = 0; i < 60 && !done; i++) {
    checkpoint(task);
    done = attempt(turned, best.order, scale, FINE, options);
    if (!done) scale *= 0.985;
    task.progress(0.6 + 0.4 * Math.min(1, i / 6), 'packing');
  }
  if (!done)
    throw new StageError(
      'pack/room',
      `The islands don’t fit with ${options.padding} texels between them at ${options.size} px; lower the padding or raise the size.`,
    );
  return { scale, places: done };
}

function attempt(
  islands: readonly { triangles: Float64Array; angles: number[] }[],
  order: readonly number[],
  scale: number,
  cells: number,
  options: PackOptions,
): PackPlace[] | null {
  const grid = new Grid(cells);
  const grow = (options.padding / 2) * (cells / options.size);
  const places = new Array<PackPlace>(islands.length);
  for (const i of order) {
    let best: { x: number; y: number; top: number; mask: Mask; angle: number } | null = null;
    for (const angle of islands[i].angles) {
      const mask = drawMask(turn(islands[i].triangles, angle, scale * cells), grow);
      if (mask.width > cells || mask.height > cells) continue;
      const at = grid.find(mask, best ? best.top - 1 : cells);
      if (at) best = { x: at[0], y: at[1], top: at[1] + mask.height, mask, angle };
    }
    if (!best) return null;
    grid.place(best.mask, best.x, best.y);
    places[i] = { angle: best.angle, x: (best.x + best.mask.offset[0]) / cells, y: (best.y + best.mask.offset[1]) / cells };
  }
  return places;
}

function turn(p: Float64Array, angle: number, scale: number): Float64Array {
  const c = Math.cos(angle) * scale;
  const s = Math.sin(angle) * scale;
  const out = new Float64Array(p.length);
  for (let i = 0; i < p.length; i += 2) {
    out[i] = c * p[i] - s * p[i + 1];
    out[i + 1] = s * p[i] + c * p[i + 1];
  }
  return out;
}

function areaOf(p: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < p.length; i += 6)
    sum += Math.abs((p[i + 2] - p[i]) * (p[i + 5] - p[i + 1]) - (p[i + 3] - p[i + 1]) * (p[i + 4] - p[i])) / 2;
  return sum;
}

function extentOf(p: Float64Array, angle: number): [number, number] {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < p.length; i += 2) {
    const x = c * p[i] - s * p[i + 1];
    const y = s * p[i] + c * p[i + 1];
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  return [x1 - x0, y1 - y0];
}

/** Quarter turns of the smallest box round the island (long side level first); half turns too where it is not box-like. */
function anglesOf(p: Float64Array): number[] {
  const hull = convexHull(Array.from({ length: p.length / 2 }, (_, i) => [p[2 * i], p[2 * i + 1]]));
  let best = { angle: 0, area: Infinity };
  for (let i = 0; i < hull.length; i++) {
    const [a, b] = [hull[i], hull[(i + 1) % hull.length]];
    const angle = -Math.atan2(b[1] - a[1], b[0] - a[0]);
    const [w, h] = extentOf(Float64Array.from(hull.flat()), angle);
    if (w * h < best.area - 1e-9) best = { angle: w >= h ? angle : angle + Math.PI / 2, area: w * h };
  }
  const boxLike = areaOf(p) > 0.9 * best.area;
  const quarter = Math.PI / 2;
  const base = [best.angle, best.angle + quarter];
  return boxLike
    ? base
    : [...base, best.angle + 2 * quarter, best.angle + 3 * quarter, best.angle + quarter / 2, best.angle + 2.5 * quarter];
}
