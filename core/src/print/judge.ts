import { pixelMm } from '../brief/advice';
import type { Brief } from '../brief/brief';
import { at, length, sub } from '../maths/vec3';
import { edgesOf, twin } from '../mesh/connectivity';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import type { CarrierKind, Flat } from './carrier';
import { type LaidPrint, turned } from './lay';
import type { Print } from './print';

/** What is known of a print where it lies, before and after it is drawn. Lengths in mm. */
export interface PrintFigures {
  id: string;
  name: string;
  lies: CarrierKind;
  /** Of what it goes round: its diameter, and how far the print goes, degrees. */
  round: { diameter: number; degrees: number } | null;
  /** Length once round what it lies on, and in which of the two, where that closes on itself. */
  girth: { mm: number; axis: 0 | 1 } | null;
  /** From its edges to those of its face: left, right, below, above; null where there is none. */
  edges: { left: number | null; right: number | null; below: number | null; above: number | null };
  /** Share of it that lies on nothing. */
  off: number;
  /** How much longer, or shorter, a mm of it comes out: on the mean, and where it is worst. */
  stretch: { mean: number; most: number };
  /** Pixels a mm: that its texels come to on the mean and where they are coarsest, and its own; none for what is drawn from lines. */
  pxPerMm: { mean: number; least: number; own: number | null };
  /** Seams of the layout that cross it. */
  seams: number;
  leans: number;
  mirrored: boolean;
}

/** The part of a triangle that lies on a print: its corners in the print’s plane. */
function clipped(corners: readonly Flat[], { width, height }: Print): Flat[] {
  let list = [...corners];
  for (const [k, sign, limit] of [
    [0, 1, width / 2],
    [0, -1, width / 2],
    [1, 1, height / 2],
    [1, -1, height / 2],
  ] as const) {
    const out: Flat[] = [];
    for (const [i, p] of list.entries()) {
      const q = list[(i + 1) % list.length];
      const [a, b] = [limit - sign * p[k], limit - sign * q[k]];
      if (a >= 0) out.push(p);
      if (a >= 0 !== b >= 0) {
        const t = a / (a - b);
        out.push([p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])]);
      }
    }
    list = out;
    if (list.length === 0) break;
  }
  return list;
}
const areaOf = (list: readonly Flat[]): number =>
  Math.abs(
    list.reduce((s, p, i) => {
      const q = list[(i + 1) % list.length];
      return s + p[0] * q[1] - q[0] * p[1];
    }, 0),
  ) / 2;

/** Measures a print where it lies. @param size of the set, px */
export function judgePrint(mesh: PolyMesh, laid: LaidPrint, size: number): PrintFigures {
  const { print, carrier, middle, triangles, corners } = laid;
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  let [on, weighted, worst, texels, least] = [0, 0, 1, 0, Infinity];
  for (let n = 0; n < triangles.length; n++) {
    const own3 = [0, 1, 2].map((k) => turned(print, [corners[6 * n + 2 * k], corners[6 * n + 2 * k + 1]]));
    const area = areaOf(clipped(own3, print));
    if (!(area > 0)) continue;
    on += area;
    const t = triangles[n];
    const [p, q, r] = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]]));
    // What is unrolled exactly is as long as it was.
    if (!carrier.exact && carrier.kind === 'draped') {
      const [low, high] = stretchOf(own3, [length(sub(q, p)), length(sub(r, p)), length(sub(r, q))]);
      const much = Math.max(high, 1 / Math.max(low, 1e-6));
      weighted += area * Math.max(high, 1 / Math.max(low, 1e-6));
      worst = Math.max(worst, much);
    } else weighted += area;
    if (!uv) continue;
    const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const laidArea =
      Math.abs((uv[2 * b] - uv[2 * a]) * (uv[2 * c + 1] - uv[2 * a + 1]) - (uv[2 * c] - uv[2 * a]) * (uv[2 * b + 1] - uv[2 * a + 1])) / 2;
    const whole = areaOf(own3);
    const density = whole > 0 ? size * Math.sqrt(laidArea / whole) : 0;
    texels += area * density;
    least = Math.min(least, density);
  }
  const mean = on > 0 ? texels / on : 0;
  const { low, high } = carrier.box;
  const half = [0, 1].map((k) => {
    const corner = [-1, 1].flatMap((x) => [-1, 1].map((y) => back(print, [(x * print.width) / 2, (y * print.height) / 2])[k]));
    return Math.max(...corner);
  });
  const edge = (k: 0 | 1, side: 'low' | 'high'): number | null =>
    carrier.kind === 'draped' || carrier.girth?.axis === k
      ? null
      : side === 'low'
        ? middle[k] - half[k] - low[k]
        : high[k] - middle[k] - half[k];
  const { round } = carrier;
  return {
    id: print.id,
    name: print.name,
    lies: carrier.kind,
    round: round && { diameter: 2 * round.radius, degrees: ((2 * half[round.axis]) / round.radius) * (180 / Math.PI) },
    girth: carrier.girth,
    edges: { left: edge(0, 'low'), right: edge(0, 'high'), below: edge(1, 'low'), above: edge(1, 'high') },
    off: Math.max(0, 1 - on / (print.width * print.height)),
    stretch: { mean: on > 0 ? weighted / on : 1, most: worst },
    pxPerMm: { mean, least: Number.isFinite(least) ? least : 0, own: ownPxPerMm(print) },
    seams: uv ? seamsAcross(mesh, laid, uv) : 0,
    leans: print.turn,
    mirrored: print.mirrored === true,
  };
}

/** From the plane of a print to that of its carrier, round its middle. */
function back({ turn, mirrored }: Print, [x, y]: Flat): Flat {
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const a = mirrored ? -x : x;
  return [c * a - s * y, s * a + c * y];
}

/** The least and the most that a triangle is drawn out by, from sides of these lengths to corners in the plane. */
function stretchOf([a, b, c]: readonly Flat[], [ab, ac, bc]: readonly number[]): [number, number] {
  const x = ab > 0 ? (ab * ab + ac * ac - bc * bc) / (2 * ab) : 0;
  const y = Math.sqrt(Math.max(0, ac * ac - x * x));
  if (!(ab > 0) || !(y > 1e-9)) return [1, 1];
  const [m11, m21] = [(b[0] - a[0]) / ab, (b[1] - a[1]) / ab];
  const [m12, m22] = [(c[0] - a[0] - x * m11) / y, (c[1] - a[1] - x * m21) / y];
  const [e, f, g, h] = [(m11 + m22) / 2, (m11 - m22) / 2, (m21 + m12) / 2, (m21 - m12) / 2];
  const [q, r] = [Math.hypot(e, h), Math.hypot(f, g)];
  return [Math.abs(q - r), q + r];
}

/** How long the seams of the layout are that cross a print, mm. */
function seamsAcross(mesh: PolyMesh, { print, triangles, corners }: LaidPrint, uv: ArrayLike<number>): number {
  const edges = edgesOf(mesh);
  let sum = 0;
  for (let n = 0; n < triangles.length; n++)
    for (let k = 0; k < 3; k++) {
      const c = mesh.triangles[3 * triangles[n] + k];
      const d = mesh.triangles[3 * triangles[n] + ((k + 1) % 3)];
      if (edges.next[c] !== d) continue;
      const other = twin(edges, c);
      if (other < 0) continue;
      const after = edges.next[other];
      const same = (i: number, j: number) => Math.abs(uv[2 * i] - uv[2 * j]) + Math.abs(uv[2 * i + 1] - uv[2 * j + 1]) < 1e-9;
      // The neighbour comes the other way.
      if (same(c, after) && same(d, other)) continue;
      const l = (k + 1) % 3;
      const [p, q] = [k, l].map((i) => turned(print, [corners[6 * n + 2 * i], corners[6 * n + 2 * i + 1]]));
      sum += within(p, q, print) / 2;
    }
  return sum;
}

/** How much of a line lies on a print (Liang and Barsky 1984). */
function within(p: Flat, q: Flat, { width, height }: Print): number {
  let [from, to] = [0, 1];
  for (const k of [0, 1]) {
    const half = (k === 0 ? width : height) / 2;
    const d = q[k] - p[k];
    for (const sign of [1, -1]) {
      const room = half - sign * p[k];
      if (sign * d === 0) {
        if (room < 0) return 0;
      } else if (sign * d > 0) to = Math.min(to, room / (sign * d));
      else from = Math.max(from, room / (sign * d));
    }
  }
  return to > from ? (to - from) * Math.hypot(q[0] - p[0], q[1] - p[1]) : 0;
}

/** The height of the smallest capital of a print, mm; null where nobody knows. */
const smallestOf = ({ artwork, smallest }: Print): number | null =>
  artwork.kind === 'text' ? artwork.capital : artwork.kind === 'dial' ? artwork.numerals : (smallest ?? null);

/** Its smallest capital: its height, on screen from the closest view of the brief, and in texels. */
export function legibility(f: PrintFigures, print: Print, brief: Brief): { mm: number; screenPx: number; texels: number } | null {
  const mm = smallestOf(print);
  return mm === null ? null : { mm, screenPx: mm / pixelMm(brief), texels: mm * f.pxPerMm.mean };
}

/** Pixels a mm of an artwork; null of what is drawn from lines. */
const ownPxPerMm = ({ artwork, width, height }: Print): number | null =>
  artwork.kind === 'picture' && artwork.mime !== 'image/svg+xml' ? Math.min(artwork.widthPx / width, artwork.heightPx / height) : null;

/** What is said of a print, and how bad it is. */
export interface PrintVerdict {
  level: 'ok' | 'near' | 'over';
  sentence: string;
}

/** Capitals under so many pixels can’t be read: five rows and a gap make a letter. Common practice, no source. */
const READ = 7;

/** What of a print is as it shouldn’t be, worst first. */
export function printVerdicts(f: PrintFigures, print: Print, brief: Brief): PrintVerdict[] {
  const out: PrintVerdict[] = [];
  const say = (level: PrintVerdict['level'], sentence: string) => out.push({ level, sentence });
  const share = (x: number) => `${(100 * x).toFixed(x < 0.1 ? 1 : 0)} %`;
  if (f.off > 0.999) say('over', 'It lies beside the surface: nothing of it is printed.');
  else if (f.off > 0.002) say('over', `${share(f.off)} of it lies beyond the surface and is cut off.`);
  if (f.mirrored) say('near', 'It is printed mirrored.');
  if (Math.abs(f.leans) > 135) say('near', 'It stands on its head.');
  if (f.stretch.most > 1.1)
    say(
      f.stretch.most > 1.25 ? 'over' : 'near',
      `It is drawn out by up to ${share(f.stretch.most - 1)}: what lies under it can’t be unrolled.`,
    );
  const read = legibility(f, print, brief);
  if (read) {
    const { mm, screenPx, texels } = read;
    const words = `Capitals of ${mm.toFixed(1)} mm are ${screenPx.toFixed(0)} px high from the closest view and get ${texels.toFixed(0)} texels`;
    if (texels < READ && screenPx >= READ) say('over', `${words}: too few to be read; give it more of the tile.`);
    else if (screenPx < READ) say('near', `${words}: too small to be read from there.`);
    else say('ok', `${words}.`);
  }
  if (f.pxPerMm.own !== null && f.pxPerMm.mean > 0 && f.pxPerMm.own < 0.5 * f.pxPerMm.mean)
    say('near', `Its picture has ${f.pxPerMm.own.toFixed(1)} px a mm, the texture ${f.pxPerMm.mean.toFixed(1)}: it will look soft.`);
  const edges = Object.values(f.edges).filter((e): e is number => e !== null);
  const nearest = Math.min(...edges);
  if (print.keepClear && edges.length > 0 && nearest < print.keepClear - 1e-6 && nearest > 0)
    say('near', `An edge is ${nearest.toFixed(1)} mm from that of its face; ${print.keepClear.toFixed(1)} mm were to be kept clear.`);
  return out.sort((a, b) => RANK[b.level] - RANK[a.level]);
}
const RANK = { ok: 0, near: 1, over: 2 };

/** The border of a print where it lies, as lines: 6 numbers each, mm, in the part’s own space. */
export function borderOf(mesh: PolyMesh, { print, triangles, corners }: LaidPrint): Float32Array {
  const [w, h] = [print.width / 2, print.height / 2];
  const sides: [Flat, Flat][] = [
    [
      [-w, -h],
      [w, -h],
    ],
    [
      [w, -h],
      [w, h],
    ],
    [
      [w, h],
      [-w, h],
    ],
    [
      [-w, h],
      [-w, -h],
    ],
  ];
  const out: number[] = [];
  for (let n = 0; n < triangles.length; n++) {
    const [a, b, c] = [0, 1, 2].map((k) => turned(print, [corners[6 * n + 2 * k], corners[6 * n + 2 * k + 1]]));
    const det = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);
    if (Math.abs(det) < 1e-12) continue;
    const weights = ([x, y]: Flat): [number, number, number] => {
      const u = ((x - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (y - a[1])) / det;
      const v = ((b[0] - a[0]) * (y - a[1]) - (x - a[0]) * (b[1] - a[1])) / det;
      return [1 - u - v, u, v];
    };
    const places = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * triangles[n] + k]]));
    for (const [p, q] of sides) {
      const [from, to] = [weights(p), weights(q)];
      let [low, high] = [0, 1];
      // Inside where no weight is less than nothing.
      for (let k = 0; k < 3; k++) {
        const d = to[k] - from[k];
        if (d > 0) low = Math.max(low, -from[k] / d);
        else if (d < 0) high = Math.min(high, -from[k] / d);
        else if (from[k] < 0) high = -1;
      }
      if (low >= high) continue;
      for (const t of [low, high])
        for (let k = 0; k < 3; k++) out.push(places.reduce((s, v, i) => s + (from[i] + t * (to[i] - from[i])) * v[k], 0));
    }
  }
  return Float32Array.from(out);
}
