import { convexHull } from '../../maths/hull';
import { drawRim, type Mask, reversed } from './mask';
import type { Turning } from './pack';

/** What the packer asks of an island time and again, worked out once. */
export class Shape {
  readonly area: number;
  /** Sides of triangles that no other one runs back along, each counter-clockwise: 4 numbers, mm. */
  readonly rim: Float64Array;
  private readonly hull: [number, number][];
  private readonly square: readonly number[] = [0];
  private quarters: readonly number[] | null = null;
  private twelfths: readonly number[] | null = null;
  private drawn: { scale: number; reach: number; angles: readonly number[]; masks: (Mask | null)[] } | null = null;

  /** @param triangles 6 numbers each, mm */
  constructor(triangles: Float64Array) {
    this.area = areaOf(triangles);
    this.rim = rimOf(triangles);
    const points: [number, number][] = [];
    for (let i = 0; i < this.rim.length; i += 4) points.push([this.rim[i], this.rim[i + 1]]);
    this.hull = convexHull(points.length > 0 ? points : [[triangles[0] ?? 0, triangles[1] ?? 0]]);
  }

  /** Its turns: quarters of the smallest box round it, its long side level first; two of them where it fills that box. Freely, those and thirds between. */
  angles(rotate: Turning): readonly number[] {
    if (!rotate) return this.square;
    this.quarters ??= anglesOf(this.hull, this.area);
    if (rotate !== 'freely') return this.quarters;
    // Those in quarters first: of places as low as each other the straight one is taken.
    this.twelfths ??= [0, 1, 2].flatMap((k) => (this.quarters ?? []).map((a) => a + (k * Math.PI) / 6));
    return this.twelfths;
  }

  /** How wide and high it is as it lies at an angle, mm. */
  extent(angle: number): [number, number] {
    return extentOf(this.hull, angle);
  }

  /** Sides of the smallest box round it, the longer one first, mm. */
  box(): [number, number] {
    const [w, h] = this.extent(this.angles(true)[0]);
    return w >= h ? [w, h] : [h, w];
  }

  /** Its mask at a size and one of the angles as they were asked for; kept until another size is asked. */
  mask(scale: number, reach: number, angles: readonly number[], k: number): Mask {
    const { drawn } = this;
    const same = drawn && drawn.scale === scale && drawn.reach === reach && drawn.angles === angles;
    const { masks } = same ? drawn : { masks: angles.map((): Mask | null => null) };
    this.drawn = { scale, reach, angles, masks };
    const there = masks[k];
    if (there) return there;
    // Half a turn on, it is the same mask backwards.
    const half = masks.findIndex((m, j) => m !== null && Math.abs(Math.abs(angles[j] - angles[k]) - Math.PI) < 1e-12);
    const made = half >= 0 ? reversed(masks[half] as Mask) : flush(turned(this.rim, angles[k], scale), reach);
    masks[k] = made;
    return made;
  }
}

/** So far inside its first cell a mask begins, cells: rounding must not bring another one in. */
const HAIR = 1e-6;

/**
 * A rim drawn with the grid flush to it: as few cells as any place on the grid gives it, and the same ones for islands of one shape.
 * Changes the rim.
 */
function flush(rim: Float64Array, reach: number): Mask {
  let [x0, y0] = [Infinity, Infinity];
  for (let i = 0; i < rim.length; i += 2) {
    x0 = Math.min(x0, rim[i]);
    y0 = Math.min(y0, rim[i + 1]);
  }
  if (rim.length === 0) [x0, y0] = [0, 0];
  const [dx, dy] = [reach - 0.5 + HAIR - x0, reach - 0.5 + HAIR - y0];
  for (let i = 0; i < rim.length; i += 2) {
    rim[i] += dx;
    rim[i + 1] += dy;
  }
  const mask = drawRim(rim, reach);
  return { ...mask, offset: [mask.offset[0] + dx, mask.offset[1] + dy] };
}

const known = new WeakMap<Float64Array, Shape>();

/** The shape of an island; of the same triangles it is the same. */
export function shapeOf(triangles: Float64Array): Shape {
  const there = known.get(triangles);
  if (there) return there;
  const made = new Shape(triangles);
  known.set(triangles, made);
  return made;
}

/** Points turned about the origin and scaled. */
export function turned(p: Float64Array, angle: number, scale: number): Float64Array {
  const c = Math.cos(angle) * scale;
  const s = Math.sin(angle) * scale;
  const out = new Float64Array(p.length);
  for (let i = 0; i < p.length; i += 2) {
    out[i] = c * p[i] - s * p[i + 1];
    out[i + 1] = s * p[i] + c * p[i + 1];
  }
  return out;
}

/** Area of triangles, whichever way round, mm². */
function areaOf(p: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < p.length; i += 6)
    sum += Math.abs((p[i + 2] - p[i]) * (p[i + 5] - p[i + 1]) - (p[i + 3] - p[i + 1]) * (p[i + 4] - p[i])) / 2;
  return sum;
}

/**
 * The sides of triangles, all made to run counter-clockwise, that aren’t cancelled by one that runs the other way between the very same
 * points. Round them a place is wound as often as triangles lie on it, so that what is wound at all is their union.
 */
function rimOf(p: Float64Array): Float64Array {
  // Points by number: the same coordinates, to the bit, are one.
  const ids = new Map<number, Map<number, number>>();
  let count = 0;
  const idOf = (x: number, y: number): number => {
    const row = ids.get(x) ?? new Map<number, number>();
    ids.set(x, row);
    const id = row.get(y) ?? count++;
    row.set(y, id);
    return id;
  };
  const open = new Map<number, number[]>();
  const n = p.length / 2;
  const id = Int32Array.from({ length: n }, (_, i) => idOf(p[2 * i] + 0, p[2 * i + 1] + 0));
  for (let t = 0; t < n; t += 3) {
    const area = (p[2 * t + 2] - p[2 * t]) * (p[2 * t + 5] - p[2 * t + 1]) - (p[2 * t + 3] - p[2 * t + 1]) * (p[2 * t + 4] - p[2 * t]);
    for (let k = 0; k < 3; k++) {
      const [u, v] = [t + k, t + ((k + 1) % 3)];
      const [a, b] = area >= 0 ? [u, v] : [v, u];
      if (id[a] === id[b]) continue;
      const back = open.get(id[b] * count + id[a]);
      if (back && back.length > 0) back.length -= 2;
      else {
        const list = open.get(id[a] * count + id[b]);
        if (list) list.push(a, b);
        else open.set(id[a] * count + id[b], [a, b]);
      }
    }
  }
  const out: number[] = [];
  for (const list of open.values())
    for (let i = 0; i + 1 < list.length; i += 2) out.push(p[2 * list[i]], p[2 * list[i] + 1], p[2 * list[i + 1]], p[2 * list[i + 1] + 1]);
  return Float64Array.from(out);
}

function extentOf(hull: readonly [number, number][], angle: number): [number, number] {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [px, py] of hull) {
    const x = c * px - s * py;
    const y = s * px + c * py;
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  return [x1 - x0, y1 - y0];
}

function anglesOf(hull: readonly [number, number][], area: number): number[] {
  let best = { angle: 0, area: Infinity };
  for (let i = 0; i < hull.length; i++) {
    const [a, b] = [hull[i], hull[(i + 1) % hull.length]];
    const angle = -Math.atan2(b[1] - a[1], b[0] - a[0]);
    const [w, h] = extentOf(hull, angle);
    if (w * h < best.area * (1 - 1e-6)) best = { angle: w >= h ? angle : angle + Math.PI / 2, area: w * h };
  }
  const quarter = Math.PI / 2;
  const base = [best.angle, best.angle + quarter];
  return area > 0.9 * best.area ? base : [...base, best.angle + 2 * quarter, best.angle + 3 * quarter];
}
