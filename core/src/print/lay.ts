import { InputError } from '../errors';
import { type PatchIndex, patchIndex, patchOf, spotAt } from '../form/places';
import { findRegion, type Region } from '../form/regions';
import { at, cross, dot, length, sub, type Vec3 } from '../maths/vec3';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { triangleStarts } from '../mesh/rework';
import { twinFaces } from '../uv/twins';
import { type Carrier, carrierAt, type Flat } from './carrier';
import type { Offset, Print } from './print';

/** A print where it lies. */
export interface LaidPrint {
  print: Print;
  carrier: Carrier;
  /** Where its middle is on its carrier. */
  middle: Flat;
  /** Triangles that it may lie on. */
  triangles: Uint32Array;
  /** Of each of them its three corners in the carrier’s plane, round the middle, 6 numbers, mm. */
  corners: Float64Array;
}

/** What is known of a part beside its mesh. */
export interface PrintedPart {
  regions?: readonly Region[];
  /** Steps whose rounds stand balanced in the low mesh, by id. */
  balanced?: ReadonlySet<string>;
}

/** Half of what a print takes across and up once it is turned. */
function halves({ width, height, turn }: Print): Flat {
  const [c, s] = [Math.abs(Math.cos((turn * Math.PI) / 180)), Math.abs(Math.sin((turn * Math.PI) / 180))];
  return [(width * c + height * s) / 2, (width * s + height * c) / 2];
}

/** Where the middle of a print comes to lie, on its carrier. @param put where it was put */
export function middleOf(print: Print, carrier: Carrier, put: Flat): Flat {
  const half = halves(print);
  const { low, high } = carrier.box;
  const along = ({ from, mm }: Offset, k: 0 | 1): number => {
    // What is drawn out from a point alone, and what goes round, has no edges.
    const edged = carrier.kind !== 'draped' && carrier.girth?.axis !== k;
    if (from === 'put' || carrier.kind === 'draped') return put[k] + mm;
    if (from === 'middle' || !edged) return (low[k] + high[k]) / 2 + mm;
    return from === 'low' ? low[k] + mm + half[k] : high[k] - mm - half[k];
  };
  return [along(print.across, 0), along(print.up, 1)];
}

/** From a carrier’s plane, round a print’s middle, to the plane of the print: its middle at the origin, x to the right and y up as it is read. */
export function turned({ turn, mirrored }: Print, [x, y]: Flat): Flat {
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const [a, b] = [c * x + s * y, -s * x + c * y];
  return [mirrored ? -a : a, b];
}

/**
 * Lays a print on a part.
 *
 * @param part what else is known of it @throws InputError in one sentence
 */
export function layPrint(mesh: PolyMesh, print: Print, { regions = [], balanced }: PrintedPart = {}): LaidPrint {
  // A whole mesh is only looked through where it has to be.
  const index = print.at.spot || print.region !== undefined ? patchIndex(mesh) : null;
  const found = index && print.at.spot && spotAt(mesh, index, print.at.spot);
  const { face, point } = found ?? nearestFace(mesh, print.at.point, print.at.normal);
  if (face < 0) throw new InputError('print/part', `There is no surface for “${print.name}” to lie on.`);
  const half = Math.hypot(print.width, print.height) / 2;
  const isBalanced = balanced?.has(patchOf(mesh, face).split('/')[0]) ?? false;
  const h = halves(print);
  const slack = 1e-6 * half;
  const carrier = carrierAt(mesh, face, point, isBalanced, {
    fits(flat) {
      const m = middleOf(print, flat, flat.coordinates(point));
      const { low, high } = flat.box;
      return [0, 1].every((k) => m[k] - h[k] >= low[k] - slack && m[k] + h[k] <= high[k] + slack);
    },
    reach: half + Math.hypot(print.across.mm, print.up.mm),
    holds: ({ box: { low, high }, girth }) => [0, 1].every((k) => girth?.axis === k || 2 * h[k] <= high[k] - low[k] + slack),
  });
  const middle = middleOf(print, carrier, carrier.coordinates(point));
  const only = index && print.region !== undefined ? regionFaces(mesh, print, regions, index) : null;
  const twins = twinFaces(mesh);
  const starts = triangleStarts(mesh);
  const triangles: number[] = [];
  const corners: number[] = [];
  const put = (t: number, list: readonly Flat[]) => {
    const own = list.map((c) => turned(print, c));
    const reaches = [0, 1].every((k) => {
      const side = (k === 0 ? print.width : print.height) / 2;
      return Math.min(...own.map((p) => p[k])) <= side && Math.max(...own.map((p) => p[k])) >= -side;
    });
    if (!reaches) return;
    triangles.push(t);
    corners.push(...list.flat());
  };
  for (const f of carrier.faces) {
    if (twins?.[f] || (only && !only.has(f))) continue;
    for (let t = starts[f]; t < starts[f + 1]; t++) {
      const list = [0, 1, 2].map((k) => {
        const v = mesh.faceVert[mesh.triangles[3 * t + k]];
        return carrier.unrolled(at(mesh.positions, v), v, middle);
      });
      if (list.some((p) => !Number.isFinite(p[0] + p[1])) || (carrier.kind === 'draped' && isTorn(mesh, t, list))) continue;
      if (!carrier.girth) {
        put(t, list);
        continue;
      }
      const { axis, mm } = carrier.girth;
      if (carrier.kind === 'cone') {
        if (!isBehind(carrier, mesh, t)) put(t, list);
        continue;
      }
      // Behind, where a ring begins, corners are once round apart: the triangle lies at both of its ends.
      const whole = list.map((p): Flat => {
        const by = mm * Math.round((list[0][axis] - p[axis]) / mm);
        return axis === 0 ? [p[0] + by, p[1]] : [p[0], p[1] + by];
      });
      for (const round of [-mm, 0, mm])
        put(
          t,
          whole.map((p): Flat => (axis === 0 ? [p[0] + round, p[1]] : [p[0], p[1] + round])),
        );
    }
  }
  return { print, carrier, middle, triangles: Uint32Array.from(triangles), corners: Float64Array.from(corners) };
}

/** Sides of a triangle that came out so many times as long lie where two ways round a surface meet. */
const TORN = 3;
function isTorn(mesh: PolyMesh, t: number, list: readonly Flat[]): boolean {
  return [0, 1, 2].some((k) => {
    const l = (k + 1) % 3;
    const [a, b] = [k, l].map((i) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + i]]));
    return Math.hypot(list[k][0] - list[l][0], list[k][1] - list[l][1]) > TORN * length(sub(a, b)) + 1e-9;
  });
}

/** Whether a triangle lies across the line behind a cone at which it is cut to be unrolled. */
function isBehind({ coordinates, girth }: Carrier, mesh: PolyMesh, t: number): boolean {
  const { axis, mm } = girth as NonNullable<Carrier['girth']>;
  const arcs = [0, 1, 2].map((k) => coordinates(at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]]))[axis]);
  return Math.max(...arcs) - Math.min(...arcs) > mm / 3;
}

function regionFaces(mesh: PolyMesh, print: Print, regions: readonly Region[], index: PatchIndex): Set<number> {
  const region = regions.find((r) => r.id === print.region);
  if (!region) throw new InputError('print/region', `The region that “${print.name}” is kept within is gone.`);
  return new Set(findRegion(mesh, region, index).faces);
}

/** The face nearest to a point among those that look roughly the same way; of all where none does. */
export function nearestFace(mesh: PolyMesh, point: Vec3, normal: Vec3): { face: number; point: Vec3 } {
  let best = { face: -1, point, far: Infinity };
  let any = best;
  for (let t = 0; t < mesh.triangles.length / 3; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]]));
    const n = cross(sub(b, a), sub(c, a));
    const long = length(n);
    if (!(long > 0)) continue;
    const on = nearestOn(point, a, b, c);
    const far = length(sub(on, point));
    if (far < any.far) any = { face: mesh.triangleFace[t], point: on, far };
    if (dot(n, normal) > 0.5 * long && far < best.far) best = { face: mesh.triangleFace[t], point: on, far };
  }
  return best.face >= 0 ? best : any;
}

/** The place of a triangle that is nearest to a point (Ericson 2005, Real-Time Collision Detection, 5.1.5). */
function nearestOn(p: Vec3, a: Vec3, b: Vec3, c: Vec3): Vec3 {
  const [ab, ac, ap] = [sub(b, a), sub(c, a), sub(p, a)];
  const mix = (u: number, v: number): Vec3 => [0, 1, 2].map((k) => a[k] + u * ab[k] + v * ac[k]) as unknown as Vec3;
  const [d1, d2] = [dot(ab, ap), dot(ac, ap)];
  if (d1 <= 0 && d2 <= 0) return a;
  const bp = sub(p, b);
  const [d3, d4] = [dot(ab, bp), dot(ac, bp)];
  if (d3 >= 0 && d4 <= d3) return b;
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return mix(d1 / (d1 - d3), 0);
  const cp = sub(p, c);
  const [d5, d6] = [dot(ab, cp), dot(ac, cp)];
  if (d6 >= 0 && d5 <= d6) return c;
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return mix(0, d2 / (d2 - d6));
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6));
    return mix(1 - w, w);
  }
  const sum = va + vb + vc;
  return mix(vb / sum, vc / sum);
}

/** The layout of a mesh, or a sentence. @throws InputError */
export function layoutOf(mesh: PolyMesh): ArrayLike<number> {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) throw new InputError('print/layout', 'There is no layout to print on yet; unwrap first.');
  return uv;
}
