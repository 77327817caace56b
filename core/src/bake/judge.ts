import { type Primitive, WebIO } from '@gltf-transform/core';
import { decodePng, type Pixels } from '../image/png';
import { RayQuery } from '../rays/query';
import { STEP } from './off';
import type { HighSide } from './prepare';

/** A place that is worth a look, mm, part space, and by how many degrees it is off. */
export interface WorstPlace {
  /** The part’s id, and what it is called. */
  id: string;
  part: string;
  x: number;
  y: number;
  z: number;
  degrees: number;
}

/** How well an exported map on an exported mesh stands for the high mesh. Degrees between normals. */
export interface Judgement {
  mean: number;
  p95: number;
  worst: number;
  /** Where it is worst: part and place, mm, part space. */
  worstAt: { part: string; x: number; y: number; z: number };
  /** The worst places, no two beside each other. */
  places: WorstPlace[];
  /** Normals decoded on the two sides of each seam, mean and worst of 20. */
  seamMean: number;
  seamP95: number;
  /** Middles of the seams that meet worst: what the picture makes of them follows from where the lamps are. */
  seams?: SeamShown[];
  texels: number;
  parts: PartJudged[];
}

/** The middle of an edge where the layout is cut, and the directions that its two sides are shaded with; part space, mm. */
export interface SeamShown {
  /** The part’s id. */
  id: string;
  at: [number, number, number];
  one: [number, number, number];
  other: [number, number, number];
}
/** As many are kept. */
const SEAMS = 60;

/** One part of it. */
export interface PartJudged {
  name: string;
  mean: number;
  p95: number;
  worst: number;
  texels: number;
  /** Share of its texels that lie where an edge is rounded: nothing is there to hold them against but the other side of the edge. */
  roundedShare: number;
}

/** A delivered model with its map, and the high surface it is held against. */
export interface JudgeInput {
  glb: Uint8Array;
  /** The delivered normal map. */
  png: Uint8Array;
  y: 'up' | 'down';
  /** High meshes by the exported mesh's name. */
  high: ReadonlyMap<string, HighSide>;
  /** Parts baked from themselves with edges rounded by so much, mm. */
  rounded?: ReadonlyMap<string, number>;
}

/** {@link Judgement}, and how far each texel is off: steps of {@link STEP} degrees from 1, 0 where nothing was judged. */
export interface Judged {
  judgement: Judgement;
  size: number;
  off: Uint8Array;
}
/** Places named at most, and how far apart they are: a share of the part’s size. */
const PLACES = 10;
const APART = 0.1;
/** The worst of each square of 2⁴ × 2⁴ texels is thought of. */
const SQUARE = 4;

/** Less than so many degrees off a texel is held against the surface even beside an edge that is rounded. */
const ROUNDED = 1;

/** A primitive as flat arrays, as a viewer reads it. Positions in mm. */
interface Card {
  triangles: number;
  index: Uint32Array;
  position: Float32Array;
  normal: Float32Array;
  tangent: Float32Array;
  uv: Float32Array;
}

/**
 * Judges every texel of a bake without its rays: reads the exported file as any viewer would, decodes the exported map in the frame a
 * viewer builds, and compares with the high mesh's normal at the nearest point.
 */
export async function judge(input: JudgeInput): Promise<Judged> {
  const document = await new WebIO().readBinary(input.glb);
  const map = decodePng(input.png);
  const texels = new Decoder(map, input.y);
  const size = map.width;
  const off = new Uint8Array(size * size);
  const parts: PartJudged[] = [];
  const all = new Tally();
  const seams: number[] = [];
  const worstSeams: (SeamShown & { degrees: number })[] = [];
  const candidates: WorstPlace[] = [];
  const sizes = new Map<string, number>();
  for (const mesh of document.getRoot().listMeshes()) {
    const name = mesh.getName();
    const high = input.high.get(name);
    if (!high) continue;
    const own = new Tally();
    const looker = new Looker(high, input.rounded?.get(name) ?? 0, texels, off, own);
    for (const p of mesh.listPrimitives()) {
      const card = cardOf(p);
      if (!card) continue;
      looker.look(card);
      for (const { degrees, ...seam } of seamsOf(card, texels)) {
        seams.push(degrees);
        keepWorst(worstSeams, { id: name, ...seam, degrees });
      }
    }
    sizes.set(name, looker.extent());
    for (const c of looker.worst.values()) candidates.push({ ...c, id: name, part: name });
    parts.push({ name, ...own.figures(), roundedShare: looker.rounded / Math.max(1, looker.rounded + own.count) });
    all.add(own);
  }
  seams.sort((a, b) => a - b);
  const places = spread(candidates, sizes);
  const first = places[0];
  return {
    judgement: {
      ...all.figures(),
      worstAt: first ? { part: first.part, x: first.x, y: first.y, z: first.z } : { part: '', x: 0, y: 0, z: 0 },
      places,
      seamMean: seams.length > 0 ? seams.reduce((s, x) => s + x, 0) / seams.length : 0,
      seamP95: seams[Math.min(seams.length - 1, Math.floor(seams.length * 0.95))] ?? 0,
      seams: worstSeams.map(({ degrees: _, ...seam }) => seam),
      parts,
    },
    size,
    off,
  };
}

/** Degrees counted as they come, in steps of a hundredth: nothing has to be sorted. */
class Tally {
  private readonly bins = new Uint32Array(18_001);
  private sum = 0;
  private most = 0;
  count = 0;

  put(degrees: number): void {
    this.bins[Math.min(18_000, Math.floor(100 * degrees))]++;
    this.sum += degrees;
    if (degrees > this.most) this.most = degrees;
    this.count++;
  }
  add(other: Tally): void {
    for (let i = 0; i < this.bins.length; i++) this.bins[i] += other.bins[i];
    this.sum += other.sum;
    this.most = Math.max(this.most, other.most);
    this.count += other.count;
  }
  /** The 95th of a hundred is good to a hundredth of a degree. */
  figures(): { mean: number; p95: number; worst: number; texels: number } {
    let left = Math.floor(this.count * 0.95);
    let at = 0;
    while (at < 18_000 && left >= this.bins[at]) left -= this.bins[at++];
    return {
      mean: this.count > 0 ? this.sum / this.count : 0,
      p95: this.count > 0 ? Math.min(this.most, (at + 0.5) / 100) : 0,
      worst: this.most,
      texels: this.count,
    };
  }
}

/** Goes over the texels of one part. */
class Looker {
  private readonly query: RayQuery;
  /** By square of the tile: the worst place in it. */
  readonly worst = new Map<number, WorstPlace>();
  rounded = 0;
  private readonly min = [Infinity, Infinity, Infinity];
  private readonly max = [-Infinity, -Infinity, -Infinity];
  private readonly shown = new Float64Array(3);

  constructor(
    private readonly high: HighSide,
    private readonly radius: number,
    private readonly texels: Decoder,
    private readonly off: Uint8Array,
    private readonly tally: Tally,
  ) {
    this.query = new RayQuery(high.tree);
  }

  extent(): number {
    return Math.hypot(...this.max.map((x, k) => Math.max(0, x - this.min[k])));
  }

  look(card: Card): void {
    const size = this.texels.width;
    const { position, uv, index } = card;
    for (let i = 0; i < position.length; i++) {
      this.min[i % 3] = Math.min(this.min[i % 3], position[i]);
      this.max[i % 3] = Math.max(this.max[i % 3], position[i]);
    }
    let [px, py, pz, last] = [0, 0, 0, Infinity];
    for (let t = 0; t < card.triangles; t++) {
      const [a, b, c] = [index[3 * t], index[3 * t + 1], index[3 * t + 2]];
      const [ax, ay] = [uv[2 * a] * size, uv[2 * a + 1] * size];
      const [bx, by] = [uv[2 * b] * size, uv[2 * b + 1] * size];
      const [cx, cy] = [uv[2 * c] * size, uv[2 * c + 1] * size];
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (area === 0) continue;
      const [x0, x1] = [Math.max(0, Math.floor(Math.min(ax, bx, cx))), Math.min(size - 1, Math.ceil(Math.max(ax, bx, cx)))];
      const [y0, y1] = [Math.max(0, Math.floor(Math.min(ay, by, cy))), Math.min(size - 1, Math.ceil(Math.max(ay, by, cy)))];
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const [qx, qy] = [x + 0.5, y + 0.5];
          const w1 = ((qx - ax) * (cy - ay) - (qy - ay) * (cx - ax)) / area;
          const w2 = ((bx - ax) * (qy - ay) - (by - ay) * (qx - ax)) / area;
          const w0 = 1 - w1 - w2;
          if (w0 < 0 || w1 < 0 || w2 < 0) continue;
          const at = y * size + x;
          // A texel that two parts share is judged for the first.
          if (this.off[at] !== 0) continue;
          const gx = w0 * position[3 * a] + w1 * position[3 * b] + w2 * position[3 * c];
          const gy = w0 * position[3 * a + 1] + w1 * position[3 * b + 1] + w2 * position[3 * c + 1];
          const gz = w0 * position[3 * a + 2] + w1 * position[3 * b + 2] + w2 * position[3 * c + 2];
          // From texel to texel the distance changes by no more than the way between them.
          const bound = (last + Math.sqrt((gx - px) ** 2 + (gy - py) ** 2 + (gz - pz) ** 2)) * 1.0001 + 1e-6;
          if (!this.query.nearest(gx, gy, gz, bound) && !this.query.nearest(gx, gy, gz, Infinity)) continue;
          [px, py, pz, last] = [gx, gy, gz, this.query.t];
          this.texels.read(x, y);
          shownNormal(card, a, b, c, w0, w1, w2, this.texels, this.shown);
          this.compare(at, x, y, gx, gy, gz);
        }
    }
  }

  private compare(at: number, x: number, y: number, gx: number, gy: number, gz: number): void {
    const { query, high, shown } = this;
    const o = 9 * query.triangle;
    const [u, v] = [query.u, query.v];
    const w = 1 - u - v;
    const n = high.normals;
    const hx = w * n[o] + u * n[o + 3] + v * n[o + 6];
    const hy = w * n[o + 1] + u * n[o + 4] + v * n[o + 7];
    const hz = w * n[o + 2] + u * n[o + 5] + v * n[o + 8];
    const error = angleBetween(shown[0], shown[1], shown[2], hx, hy, hz);
    if (this.radius > 0 && error > ROUNDED && !this.fits(gx, gy, gz, hx, hy, hz)) {
      this.rounded++;
      this.off[at] = 1;
      return;
    }
    this.tally.put(error);
    this.off[at] = 1 + Math.min(254, Math.floor(error / STEP));
    const square = (y >> SQUARE) * 65536 + (x >> SQUARE);
    const known = this.worst.get(square);
    if (!known || error > known.degrees) this.worst.set(square, { id: '', part: '', x: gx, y: gy, z: gz, degrees: error });
  }

  /** Whether a ball of the radius touches this place from inside and from outside: where it doesn’t, an edge near by is rounded. */
  private fits(x: number, y: number, z: number, nx: number, ny: number, nz: number): boolean {
    const r = this.radius / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    for (const side of [-r, r]) if (this.query.nearest(x + side * nx, y + side * ny, z + side * nz, 0.995 * this.radius)) return false;
    return true;
  }
}

/** The worst places of all, no two of a part nearer than a share of its size. */
function spread(candidates: WorstPlace[], sizes: ReadonlyMap<string, number>): WorstPlace[] {
  candidates.sort((a, b) => b.degrees - a.degrees);
  const out: WorstPlace[] = [];
  for (const c of candidates) {
    if (out.length === PLACES) break;
    const apart = APART * (sizes.get(c.part) ?? 0);
    if (out.every((o) => o.part !== c.part || Math.hypot(o.x - c.x, o.y - c.y, o.z - c.z) > apart)) out.push(c);
  }
  return out;
}

/** Reads texels of a normal map as a viewer does. */
class Decoder {
  readonly width: number;
  readonly n = new Float64Array(3);
  private readonly full: number;
  private readonly turn: number;

  constructor(
    private readonly map: Pixels,
    y: 'up' | 'down',
  ) {
    this.width = map.width;
    this.full = map.depth === 8 ? 255 : 65535;
    this.turn = y === 'up' ? 1 : -1;
  }

  read(x: number, y: number): void {
    const { map, full, n } = this;
    const i = map.channels * (Math.min(map.height - 1, Math.max(0, y)) * map.width + Math.min(map.width - 1, Math.max(0, x)));
    n[0] = (map.data[i] / full) * 2 - 1;
    n[1] = this.turn * ((map.data[i + 1] / full) * 2 - 1);
    n[2] = (map.data[i + 2] / full) * 2 - 1;
  }

  /** Bilinear, as a viewer filters. u, v in the file's own sense (v down). */
  filtered(u: number, v: number): void {
    const [x, y] = [u * this.map.width - 0.5, v * this.map.height - 0.5];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const [fx, fy] = [x - x0, y - y0];
    const sum = [0, 0, 0];
    for (const [dx, dy, w] of [
      [0, 0, (1 - fx) * (1 - fy)],
      [1, 0, fx * (1 - fy)],
      [0, 1, (1 - fx) * fy],
      [1, 1, fx * fy],
    ]) {
      this.read(x0 + dx, y0 + dy);
      for (let k = 0; k < 3; k++) sum[k] += w * this.n[k];
    }
    this.n.set(sum);
  }
}

function cardOf(p: Primitive): Card | null {
  const read = (name: string): ArrayLike<number> | null | undefined => p.getAttribute(name)?.getArray();
  const [position, normal, tangent, uv] = ['POSITION', 'NORMAL', 'TANGENT', 'TEXCOORD_0'].map(read);
  if (!position || !normal || !tangent || !uv) return null;
  const given = p.getIndices()?.getArray();
  const index = given ? Uint32Array.from(given) : Uint32Array.from({ length: position.length / 3 }, (_, i) => i);
  return {
    triangles: index.length / 3,
    index,
    position: Float32Array.from(position, (x) => x * 1000),
    normal: Float32Array.from(normal),
    tangent: Float32Array.from(tangent),
    uv: Float32Array.from(uv),
  };
}

/** The direction a viewer would shade a place of a triangle with. */
function shownNormal(
  { normal: N, tangent: T }: Card,
  a: number,
  b: number,
  c: number,
  w0: number,
  w1: number,
  w2: number,
  { n }: Decoder,
  out: Float64Array,
): void {
  let nx = w0 * N[3 * a] + w1 * N[3 * b] + w2 * N[3 * c];
  let ny = w0 * N[3 * a + 1] + w1 * N[3 * b + 1] + w2 * N[3 * c + 1];
  let nz = w0 * N[3 * a + 2] + w1 * N[3 * b + 2] + w2 * N[3 * c + 2];
  const nl = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
  nx *= nl;
  ny *= nl;
  nz *= nl;
  let tx = w0 * T[4 * a] + w1 * T[4 * b] + w2 * T[4 * c];
  let ty = w0 * T[4 * a + 1] + w1 * T[4 * b + 1] + w2 * T[4 * c + 1];
  let tz = w0 * T[4 * a + 2] + w1 * T[4 * b + 2] + w2 * T[4 * c + 2];
  const tl = 1 / (Math.sqrt(tx * tx + ty * ty + tz * tz) || 1);
  tx *= tl;
  ty *= tl;
  tz *= tl;
  const s = T[4 * a + 3];
  const [bx, by, bz] = [ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx];
  const bl = s / (Math.sqrt(bx * bx + by * by + bz * bz) || 1);
  out[0] = n[0] * tx + n[1] * bl * bx + n[2] * nx;
  out[1] = n[0] * ty + n[1] * bl * by + n[2] * ny;
  out[2] = n[0] * tz + n[1] * bl * bz + n[2] * nz;
}

/** Degrees; neither has to be unit. */
function angleBetween(ax: number, ay: number, az: number, bx: number, by: number, bz: number): number {
  const [cx, cy, cz] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
  return (Math.atan2(Math.sqrt(cx * cx + cy * cy + cz * cz), ax * bx + ay * by + az * bz) * 180) / Math.PI;
}

/** Puts one among the worst where it belongs; the first of these is the worst. */
function keepWorst(list: (SeamShown & { degrees: number })[], seam: SeamShown & { degrees: number }): void {
  if (list.length === SEAMS && seam.degrees <= list[SEAMS - 1].degrees) return;
  let i = list.length;
  while (i > 0 && list[i - 1].degrees < seam.degrees) i--;
  list.splice(i, 0, seam);
  if (list.length > SEAMS) list.pop();
}

/** At the middle of every edge where the layout is cut, what its two sides show, and the degrees between. */
function seamsOf(card: Card, texels: Decoder): (Omit<SeamShown, 'id'> & { degrees: number })[] {
  const { position, uv, index } = card;
  const sides = new Map<string, { a: number; b: number; c: number }>();
  const out: (Omit<SeamShown, 'id'> & { degrees: number })[] = [];
  const key = (v: number) => [0, 1, 2].map((k) => Math.round(position[3 * v + k] * 1e4)).join();
  /** What is shown in the middle of the side from a to b. */
  const shown = (a: number, b: number, c: number): Float64Array => {
    texels.filtered((uv[2 * a] + uv[2 * b]) / 2, (uv[2 * a + 1] + uv[2 * b + 1]) / 2);
    const n = new Float64Array(3);
    shownNormal(card, a, b, c, 0.5, 0.5, 0, texels, n);
    return n;
  };
  for (let t = 0; t < card.triangles; t++)
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [0, 1, 2].map((i) => index[3 * t + ((k + i) % 3)]);
      const other = sides.get(`${key(b)}|${key(a)}`);
      if (!other) {
        sides.set(`${key(a)}|${key(b)}`, { a, b, c });
        continue;
      }
      const apart = Math.abs(uv[2 * a] - uv[2 * other.b]) + Math.abs(uv[2 * a + 1] - uv[2 * other.b + 1]);
      if (apart + Math.abs(uv[2 * b] - uv[2 * other.a]) + Math.abs(uv[2 * b + 1] - uv[2 * other.a + 1]) < 2e-6) continue;
      const [n, m] = [shown(a, b, c), shown(other.a, other.b, other.c)];
      const rounded = (v: ArrayLike<number>): [number, number, number] => [round(v[0]), round(v[1]), round(v[2])];
      out.push({
        at: rounded([0, 1, 2].map((i) => (position[3 * a + i] + position[3 * b + i]) / 2)),
        one: rounded(n),
        other: rounded(m),
        degrees: angleBetween(n[0], n[1], n[2], m[0], m[1], m[2]),
      });
    }
  return out;
}

const round = (x: number): number => Math.round(1e4 * x) / 1e4;
