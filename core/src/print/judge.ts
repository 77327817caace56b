import { fillTriangle } from '../image/raster';
import { at, length, sub } from '../maths/vec3';
import { edgesOf, twin } from '../mesh/connectivity';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { areaInLayout } from '../uv/raster';
import type { Flat } from './carrier';
import { type LaidPrint, turned } from './lay';
import { addSample, levelOf, type PrintPicture } from './pixels';
import type { Print } from './print';
import type { PrintFigures } from './verdict';

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

/** Measures a print where it lies. @param size of the set, px @param picture what of it is ink; all of it when left out */
export function judgePrint(mesh: PolyMesh, laid: LaidPrint, size: number, picture: PrintPicture | null = null): PrintFigures {
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
    const laidArea = Math.abs(areaInLayout(mesh, uv, t));
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
    off: picture ? inkOff(laid, picture) : Math.max(0, 1 - on / (print.width * print.height)),
    stretch: { mean: on > 0 ? weighted / on : 1, most: worst },
    pxPerMm: { mean, least: Number.isFinite(least) ? least : 0, own: ownPxPerMm(print) },
    seams: uv ? seamsAcross(mesh, laid, uv) : 0,
    leans: print.turn,
    mirrored: print.mirrored === true,
  };
}

/** Squares along each side of a print that its ink is counted in. */
const GRID = 128;
/** The share of a print’s ink that lies on nothing: corners of a round artwork that are empty may stand over the edge of a round face. */
function inkOff({ print, triangles, corners }: LaidPrint, picture: PrintPicture): number {
  const on = new Uint8Array(GRID * GRID);
  for (let n = 0; n < triangles.length; n++) {
    const [a, b, c] = [0, 1, 2].map((k) => {
      const [x, y] = turned(print, [corners[6 * n + 2 * k], corners[6 * n + 2 * k + 1]]);
      return [(x / print.width + 0.5) * GRID, (0.5 - y / print.height) * GRID];
    });
    fillTriangle(a[0], a[1], b[0], b[1], c[0], c[1], GRID, GRID, (x, y) => {
      on[y * GRID + x] = 1;
    });
  }
  const level = levelOf(picture, Math.max(picture.width, picture.height) / GRID);
  const sum = new Float64Array(4);
  let [all, beside] = [0, 0];
  for (let i = 0; i < on.length; i++) {
    sum.fill(0);
    addSample(picture, level, ((i % GRID) + 0.5) / GRID, (Math.floor(i / GRID) + 0.5) / GRID, sum);
    all += sum[3];
    if (!on[i]) beside += sum[3];
  }
  return all > 0 ? beside / all : 0;
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
      const line = clippedLine(p, q, print);
      if (line) sum += Math.hypot(line[1][0] - line[0][0], line[1][1] - line[0][1]) / 2;
    }
  return sum;
}

/** What of a line lies on a print (Liang and Barsky 1984); null where nothing does. */
export function clippedLine(p: Flat, q: Flat, { width, height }: Pick<Print, 'width' | 'height'>): [Flat, Flat] | null {
  let [from, to] = [0, 1];
  for (const k of [0, 1]) {
    const half = (k === 0 ? width : height) / 2;
    const d = q[k] - p[k];
    for (const sign of [1, -1]) {
      const room = half - sign * p[k];
      if (sign * d === 0) {
        if (room < 0) return null;
      } else if (sign * d > 0) to = Math.min(to, room / (sign * d));
      else from = Math.max(from, room / (sign * d));
    }
  }
  const at = (t: number): Flat => [p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])];
  return to > from ? [at(from), at(to)] : null;
}

/** Pixels a mm of an artwork; null of what is drawn from lines. */
const ownPxPerMm = ({ artwork, width, height }: Print): number | null =>
  artwork.kind === 'picture' && artwork.mime !== 'image/svg+xml' ? Math.min(artwork.widthPx / width, artwork.heightPx / height) : null;

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
