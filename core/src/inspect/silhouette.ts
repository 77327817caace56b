import { cross, normalise, sub, type Vec3 } from '../maths/vec3';

/** A camera that looks at a point. Lengths in mm, angles in radians. */
export interface OutlineView {
  eye: Vec3;
  at: Vec3;
  /** Of the whole picture, upright. */
  fieldOfView: number;
  /** Height of the whole picture, px. */
  heightPx: number;
}

/** Which of a picture's finer squares a piece covers: only the part of the picture it stands in. */
export interface Mask {
  width: number;
  height: number;
  /** 1 where covered. */
  data: Uint8Array;
}

/** Squares drawn per pixel and axis. A distance is then known to within about a tenth of a pixel. */
export const FINER = 10;
/** The largest mask drawn, squares; beyond it the squares become larger. */
const LARGEST = 36e6;

/** Directions across the picture, upward, and into it. */
function axes(look: OutlineView): [Vec3, Vec3, Vec3] {
  const into = normalise(sub(look.at, look.eye));
  const up: Vec3 = Math.abs(into[1]) > 0.999 ? [0, 0, -1] : [0, 1, 0];
  const right = normalise(cross(into, up));
  return [right, cross(right, into), into];
}

/** Corners of triangles in the picture, px from its middle, y down: 6 numbers a triangle. */
function projected(soup: ArrayLike<number>, look: OutlineView): Float64Array {
  const [right, up, into] = axes(look);
  const scale = look.heightPx / 2 / Math.tan(look.fieldOfView / 2);
  const out = new Float64Array((soup.length / 3) * 2);
  for (let i = 0; i < soup.length / 3; i++) {
    const x = soup[3 * i] - look.eye[0];
    const y = soup[3 * i + 1] - look.eye[1];
    const z = soup[3 * i + 2] - look.eye[2];
    const depth = Math.max(1e-6, x * into[0] + y * into[1] + z * into[2]);
    out[2 * i] = (scale * (x * right[0] + y * right[1] + z * right[2])) / depth;
    out[2 * i + 1] = (-scale * (x * up[0] + y * up[1] + z * up[2])) / depth;
  }
  return out;
}

/**
 * Draws the outlines of several models into masks of one raster, so that they can be laid over each other.
 *
 * @param soups 9 numbers per triangle each, mm
 * @returns the masks, and how many squares a pixel is wide
 */
export function outlines(soups: readonly ArrayLike<number>[], look: OutlineView): { masks: Mask[]; finer: number } {
  const flat = soups.map((s) => projected(s, look));
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const f of flat)
    for (let i = 0; i < f.length; i += 2) {
      x0 = Math.min(x0, f[i]);
      x1 = Math.max(x1, f[i]);
      y0 = Math.min(y0, f[i + 1]);
      y1 = Math.max(y1, f[i + 1]);
    }
  if (!(x1 > x0)) return { masks: soups.map(() => ({ width: 1, height: 1, data: new Uint8Array(1) })), finer: FINER };
  const finer = Math.min(FINER, Math.sqrt(LARGEST / ((x1 - x0) * (y1 - y0))));
  const margin = 2;
  const width = Math.ceil((x1 - x0) * finer) + 2 * margin;
  const height = Math.ceil((y1 - y0) * finer) + 2 * margin;
  const masks = flat.map((f): Mask => {
    const mask = { width, height, data: new Uint8Array(width * height) };
    const x = (i: number) => (f[i] - x0) * finer + margin;
    const y = (i: number) => (f[i] - y0) * finer + margin;
    for (let i = 0; i < f.length; i += 6) fill(mask, x(i), y(i + 1), x(i + 2), y(i + 3), x(i + 4), y(i + 5));
    return mask;
  });
  return { masks, finer };
}

/** Covers the squares whose middles lie in a triangle, row by row. */
function fill(m: Mask, ax: number, ay: number, bx: number, by: number, cx: number, cy: number): void {
  const top = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5));
  const bottom = Math.min(m.height - 1, Math.floor(Math.max(ay, by, cy) - 0.5));
  for (let y = top; y <= bottom; y++) {
    const at = y + 0.5;
    const p = crossing(ax, ay, bx, by, at);
    const q = crossing(bx, by, cx, cy, at);
    const r = crossing(cx, cy, ax, ay, at);
    // Two of the three sides meet the row; NaN stands for the one that doesn't.
    const left = Math.min(known(p, Infinity), known(q, Infinity), known(r, Infinity));
    const right = Math.max(known(p, -Infinity), known(q, -Infinity), known(r, -Infinity));
    const from = Math.max(0, Math.ceil(left - 0.5));
    const to = Math.min(m.width - 1, Math.floor(right - 0.5));
    if (to >= from) m.data.fill(1, y * m.width + from, y * m.width + to + 1);
  }
}

const known = (x: number, otherwise: number): number => (Number.isNaN(x) ? otherwise : x);

/** Where a side meets a row; NaN where it doesn't. */
function crossing(ax: number, ay: number, bx: number, by: number, at: number): number {
  return (ay - at) * (by - at) > 0 || ay === by ? Number.NaN : ax + ((at - ay) * (bx - ax)) / (by - ay);
}

/** Offsets in the order of their distance, as far as they are looked through. */
const REACH = 120;
let rings: { dx: Int16Array; dy: Int16Array; d: Float32Array } | undefined;
function offsets(): NonNullable<typeof rings> {
  if (rings) return rings;
  const list: [number, number, number][] = [];
  for (let y = -REACH; y <= REACH; y++)
    for (let x = -REACH; x <= REACH; x++) if (x * x + y * y <= REACH * REACH) list.push([x, y, Math.hypot(x, y)]);
  list.sort((p, q) => p[2] - q[2]);
  rings = { dx: Int16Array.from(list, (o) => o[0]), dy: Int16Array.from(list, (o) => o[1]), d: Float32Array.from(list, (o) => o[2]) };
  return rings;
}

/**
 * How far two outlines lie apart in the picture, px: from every square that only one of the two covers to the nearest of the other
 * (Hausdorff distance of the filled outlines). Outlines farther apart than {@link REACH} squares count as that far.
 */
export function outlinesApart(a: Mask, b: Mask, finer: number): number {
  const { dx, dy, d } = offsets();
  let most = 0;
  for (const [p, q] of [
    [a, b],
    [b, a],
  ]) {
    const covers = (x: number, y: number) => x >= 0 && y >= 0 && x < q.width && y < q.height && q.data[y * q.width + x] === 1;
    // The last square's nearest is mostly near this one's too: then it is no farther than what was found already.
    let last = 0;
    for (let i = 0; i < p.data.length; i++) {
      if (!p.data[i] || q.data[i]) continue;
      const y = Math.floor(i / p.width);
      const x = i - y * p.width;
      if (d[last] <= most && covers(x + dx[last], y + dy[last])) continue;
      let k = 1;
      while (k < d.length && !covers(x + dx[k], y + dy[k])) k++;
      last = Math.min(k, d.length - 1);
      most = Math.max(most, k < d.length ? d[k] : REACH);
    }
  }
  // A square is covered by its middle: half of one less is what lies between.
  return Math.max(0, most - 0.5) / finer;
}

/** How far the outlines of two models lie apart, px, in the worst of several looks. */
export const silhouettesApart = (a: ArrayLike<number>, b: ArrayLike<number>, looks: readonly OutlineView[]): number =>
  looks.reduce((most, look) => {
    const { masks, finer } = outlines([a, b], look);
    return Math.max(most, outlinesApart(masks[0], masks[1], finer));
  }, 0);
