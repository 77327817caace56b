import { InputError } from '../errors';
import { add, at, cross, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { mixAt, range, triangleStarts } from '../mesh/rework';

/** A rectangle of a patch: what a pick is kept as, so that it outlives counts, other steps and their order. */
export interface Place {
  /** `step/patch` */
  patch: string;
  u: readonly [number, number];
  v: readonly [number, number];
}

/** A line of a patch at a constant u or v, from one share of it to another: what a picked seam is kept as. */
export interface PatchLine {
  patch: string;
  /** Which coordinate stays the same along it. */
  constant: 'u' | 'v';
  at: number;
  from: number;
  to: number;
}

/** A line of a patch picked by hand. */
export interface PickedLine extends PatchLine {
  id: string;
}

/** One place of a surface. */
export interface Spot {
  patch: string;
  u: number;
  v: number;
}

/** Faces of a mesh by patch, and the box of patch coordinates each of them fills. */
export interface PatchIndex {
  faces: Map<string, number[]>;
  /** u0, u1, v0, v1 of every face. */
  box: Float64Array;
}

/**
 * A mesh without patch coordinates (an import) is numbered: u is the face's place in its patch, and the patch is called after
 * the count of faces too, so that picks on another mesh of the same name are lost and not found somewhere else.
 */
export function patchIndex(mesh: PolyMesh): PatchIndex {
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  const faces = new Map<string, number[]>();
  const box = new Float64Array(4 * faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const name = patchOf(mesh, f);
    const list = faces.get(name);
    if (list) list.push(f);
    else faces.set(name, [f]);
    let [u0, u1, v0, v1] = uv ? [Infinity, -Infinity, Infinity, -Infinity] : [0, 1, 0, 1];
    for (let c = mesh.faceStart[f]; uv && c < mesh.faceStart[f + 1]; c++) {
      [u0, u1] = [Math.min(u0, uv[2 * c]), Math.max(u1, uv[2 * c])];
      [v0, v1] = [Math.min(v0, uv[2 * c + 1]), Math.max(v1, uv[2 * c + 1])];
    }
    box.set([u0, u1, v0, v1], 4 * f);
  }
  if (!uv) for (const list of faces.values()) for (const [i, f] of list.entries()) box.set([i / list.length, (i + 1) / list.length], 4 * f);
  return { faces, box };
}

/** The patch a face belongs to, as places call it. */
export function patchOf(mesh: PolyMesh, face: number): string {
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const name = patch ? mesh.patches[patch[face]] : '';
  return attribute(mesh, 'patchUv', 'corner') ? name : `${name || 'surface'} of ${faceCount(mesh)} faces`;
}

/** Shares of a face's own box that have to lie in picked places for it to belong to them. */
const BELONGS = 0.5 - 1e-9;

/**
 * The faces that picked places are on this mesh. A face belongs to them when half of it or more is covered. A place too small
 * for that takes the faces it covers by half along one coordinate and has its middle in along the other, or the face its middle
 * lies in, so that a pick never vanishes while its patch is there.
 *
 * @returns faces, and the patches that are gone
 */
export function facesAt(index: PatchIndex, places: readonly Place[]): { faces: number[]; lost: string[] } {
  const covered = new Map<number, number>();
  const lost = new Set<string>();
  const { box } = index;
  for (const p of places) {
    const faces = index.faces.get(p.patch);
    if (!faces) {
      lost.add(p.patch);
      continue;
    }
    let best = { face: -1, off: Infinity };
    let any = false;
    const small: number[] = [];
    const middle = [(p.u[0] + p.u[1]) / 2, (p.v[0] + p.v[1]) / 2];
    for (const f of faces) {
      const [u0, u1, v0, v1] = [box[4 * f], box[4 * f + 1], box[4 * f + 2], box[4 * f + 3]];
      const across = Math.min(u1, p.u[1]) - Math.max(u0, p.u[0]);
      const along = Math.min(v1, p.v[1]) - Math.max(v0, p.v[0]);
      if (across > 0 && along > 0) {
        const total = (covered.get(f) ?? 0) + (across * along) / Math.max((u1 - u0) * (v1 - v0), 1e-18);
        covered.set(f, total);
        if (total >= BELONGS) any = true;
      }
      const holds = (low: number, high: number, [from, to]: readonly [number, number], m: number) =>
        Math.min(high, to) - Math.max(low, from) >= BELONGS * (high - low) || (low <= m && m < high);
      if (holds(u0, u1, p.u, middle[0]) && holds(v0, v1, p.v, middle[1])) small.push(f);
      const off = Math.max(u0 - middle[0], middle[0] - u1, 0) + Math.max(v0 - middle[1], middle[1] - v1, 0);
      if (off < best.off) best = { face: f, off };
    }
    if (!any) for (const f of small.length > 0 ? small : best.face >= 0 ? [best.face] : []) covered.set(f, 1);
  }
  return { faces: [...covered].filter(([, share]) => share >= BELONGS).map(([f]) => f), lost: [...lost] };
}

/** Faces as places: neighbouring ones of a patch joined into as few rectangles as a sweep along u, then v, makes of them. */
export function placesOf(mesh: PolyMesh, index: PatchIndex, faces: readonly number[]): Place[] {
  const byPatch = new Map<string, number[]>();
  for (const f of faces) {
    const name = patchOf(mesh, f);
    byPatch.set(name, [...(byPatch.get(name) ?? []), f]);
  }
  return [...byPatch].flatMap(([name, list]) => {
    const boxes = list.map((f) => [...index.box.subarray(4 * f, 4 * f + 4)]);
    return joined(joined(boxes, 0, 2), 2, 0).map(
      ([u0, u1, v0, v1]): Place => ({ patch: name, u: [tidy(u0), tidy(u1)], v: [tidy(v0), tidy(v1)] }),
    );
  });
}
const tidy = (x: number): number => Math.round(x * 1e9) / 1e9;

/** Boxes that touch along one coordinate and agree in the other, joined. */
function joined(boxes: readonly number[][], along: 0 | 2, across: 0 | 2): number[][] {
  const same = (a: number, b: number) => Math.abs(a - b) < 1e-7;
  const out: number[][] = [];
  for (const b of [...boxes].sort((p, q) => p[across] - q[across] || p[across + 1] - q[across + 1] || p[along] - q[along])) {
    const last = out[out.length - 1];
    if (last && same(last[across], b[across]) && same(last[across + 1], b[across + 1]) && same(last[along + 1], b[along]))
      last[along + 1] = b[along + 1];
    else out.push([...b]);
  }
  return out;
}

/** The patch line an edge of a face lies on, or null for one that runs across both coordinates. @param corner that starts the edge */
export function lineOf(mesh: PolyMesh, face: number, corner: number): PatchLine | null {
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  if (!patch || !uv) return null;
  const next = corner + 1 < mesh.faceStart[face + 1] ? corner + 1 : mesh.faceStart[face];
  const [u0, v0, u1, v1] = [uv[2 * corner], uv[2 * corner + 1], uv[2 * next], uv[2 * next + 1]];
  const name = mesh.patches[patch[face]];
  const range = (a: number, b: number) => ({ from: tidy(Math.min(a, b)), to: tidy(Math.max(a, b)) });
  if (Math.abs(u0 - u1) < 1e-9) return { patch: name, constant: 'u', at: tidy(u0), ...range(v0, v1) };
  if (Math.abs(v0 - v1) < 1e-9) return { patch: name, constant: 'v', at: tidy(v0), ...range(u0, u1) };
  return null;
}

/**
 * The edges a patch line is on this mesh: of the lines its faces have at a constant coordinate the nearest one, as far as its
 * range goes.
 *
 * @returns corners that start them; null when the patch is gone
 */
export function edgesAt(mesh: PolyMesh, index: PatchIndex, line: PatchLine): number[] | null {
  const faces = index.faces.get(line.patch);
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  if (!faces || !uv) return null;
  const [same, other] = line.constant === 'u' ? [0, 1] : [1, 0];
  const found: { corner: number; at: number; from: number; to: number }[] = [];
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const next = c + 1 < mesh.faceStart[f + 1] ? c + 1 : mesh.faceStart[f];
      if (Math.abs(uv[2 * c + same] - uv[2 * next + same]) > 1e-9) continue;
      const [a, b] = [uv[2 * c + other], uv[2 * next + other]];
      found.push({ corner: c, at: uv[2 * c + same], from: Math.min(a, b), to: Math.max(a, b) });
    }
  const nearest = found.reduce((best, e) => Math.min(best, Math.abs(e.at - line.at)), Infinity);
  const chosen = found.filter((e) => Math.abs(e.at - line.at) <= nearest + 1e-9);
  // Of two lines equally near only the lower one.
  const at = Math.min(...chosen.map((e) => e.at));
  const on = chosen.filter((e) => Math.abs(e.at - at) < 1e-9);
  const inside = on.filter((e) => Math.min(e.to, line.to) - Math.max(e.from, line.from) >= BELONGS * (e.to - e.from));
  if (inside.length > 0 || on.length === 0) return inside.map((e) => e.corner);
  const middle = (line.from + line.to) / 2;
  const nearestEdge = on.reduce((best, e) =>
    Math.abs((e.from + e.to) / 2 - middle) < Math.abs((best.from + best.to) / 2 - middle) ? e : best,
  );
  return [nearestEdge.corner];
}

const RANGE = (x: unknown): x is [number, number] =>
  Array.isArray(x) && x.length === 2 && x.every((n) => typeof n === 'number' && Number.isFinite(n) && n >= -0.01 && n <= 1.01);

/** Places as they came from a request, checked. @throws InputError in one sentence */
export function checkPlaces(x: unknown, where: string): Place[] {
  if (!Array.isArray(x) || x.length > MOST_PLACES)
    throw new InputError('region/places', `The places of ${where} are not described as expected.`);
  return x.map((p) => {
    const { patch, u, v } = (p ?? {}) as Partial<Place>;
    if (!isPatch(patch) || !RANGE(u) || !RANGE(v))
      throw new InputError('region/places', `A place of ${where} is not described as expected.`);
    return { patch, u, v };
  });
}
export const MOST_PLACES = 5000;
const LONGEST_PATCH = 400;

const share = (x: unknown): x is number => typeof x === 'number' && x >= -0.01 && x <= 1.01;
const isPatch = (x: unknown): x is string => typeof x === 'string' && x.length <= LONGEST_PATCH;

/** Picked lines as they came from a request, checked. @throws InputError in one sentence */
export function checkLines(plain: unknown, where: string): PickedLine[] {
  if (!Array.isArray(plain) || plain.length > MOST_PLACES)
    throw new InputError('seam/list', `The edges picked on ${where} are not described as expected.`);
  return plain.map((s) => {
    const { id, patch, constant, at, from, to } = (s ?? {}) as Partial<PickedLine>;
    if (typeof id !== 'string' || id.length > 60 || !isPatch(patch) || !share(at) || !share(from) || !share(to))
      throw new InputError('seam/place', `An edge picked on ${where} is not described as expected.`);
    if (constant !== 'u' && constant !== 'v') throw new InputError('seam/place', `An edge picked on ${where} follows a constant u or v.`);
    return { id, patch, constant, at, from, to };
  });
}

/** A picked place as it came from a request, checked. @throws InputError in one sentence */
export function checkSpot(plain: unknown, where: string): Spot {
  const { patch, u, v } = (plain ?? {}) as Partial<Spot>;
  if (!isPatch(patch) || !share(u) || !share(v))
    throw new InputError('spot/place', `The place picked for ${where} is not described as expected.`);
  return { patch, u, v };
}

/** Where a picked place is on this mesh: the face that holds it, the point in it and the direction it faces; null when its patch is gone. */
export function spotAt(mesh: PolyMesh, index: PatchIndex, spot: Spot): { face: number; point: Vec3; normal: Vec3; alongU: Vec3 } | null {
  const faces = index.faces.get(spot.patch);
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  if (!faces || !uv) return null;
  const starts = triangleStarts(mesh);
  let best: { face: number; out: number; point: Vec3; normal: Vec3; alongU: Vec3 } | null = null;
  for (const f of faces)
    for (let t = starts[f]; t < starts[f + 1]; t++) {
      const c = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
      const [a, b, d] = c.map((i) => [uv[2 * i], uv[2 * i + 1]]);
      const det = (b[0] - a[0]) * (d[1] - a[1]) - (d[0] - a[0]) * (b[1] - a[1]);
      if (Math.abs(det) < 1e-14) continue;
      const [x, y] = [spot.u - a[0], spot.v - a[1]];
      const s = (x * (d[1] - a[1]) - (d[0] - a[0]) * y) / det;
      const r = ((b[0] - a[0]) * y - x * (b[1] - a[1])) / det;
      const out = Math.max(0, -s, -r, s + r - 1);
      if (best && out >= best.out) continue;
      const p = c.map((i): Vec3 => at(mesh.positions, mesh.faceVert[i]));
      const [e, g] = [sub(p[1], p[0]), sub(p[2], p[0])];
      // The way u grows over the triangle: s and r as functions of u, differentiated.
      const alongU = normalise(add(scale(e, (d[1] - a[1]) / det), scale(g, -(b[1] - a[1]) / det)));
      best = { face: f, out, point: add(p[0], add(scale(e, s), scale(g, r))), normal: normalise(cross(e, g)), alongU };
    }
  return best;
}

/** The place of a point on a face, in the coordinates of its patch; null on a surface that has none. */
export function spotOf(mesh: PolyMesh, face: number, point: Vec3): Spot | null {
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const uv = attribute(mesh, 'patchUv', 'corner')?.data;
  if (!patch || !uv) return null;
  const starts = triangleStarts(mesh);
  const mixed = [0, 1].map((k) =>
    mixAt(mesh, range(starts[face], starts[face + 1]), ...point).reduce((s, [corner, weight]) => s + weight * uv[2 * corner + k], 0),
  );
  const [u, v] = mixed.map((x) => tidy(Math.min(1, Math.max(0, x))));
  return { patch: mesh.patches[patch[face]], u, v };
}
