import { InputError } from '../../errors';
import { add, cross, dot, normalise, scale as scaled, sub, type Vec3 } from '../../maths/vec3';
import { triangleArea } from '../../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import type { Flattened } from '../charts';
import { islandCount } from '../measure';
import type { FixedPlace } from '../pack/pack';
import { areaInLayout } from '../raster';
import { twinFaces } from '../twins';
import { cornersOf, FaceFinder } from './finder';

/**
 * Where an island is to lie, as a person left it: a place of the piece on it with a direction there, and where these are in the tile. It is
 * found again on whatever island that place is on later.
 */
export interface IslandPlace {
  part: string;
  /** A place on it, the direction the surface faces there, and one along the surface; mm and units in the part’s own space. */
  from: Vec3;
  facing: Vec3;
  along: Vec3;
  /** Where that place lies, shares of the tile, v up. */
  at: [number, number];
  /** How the direction along the surface lies, radians from u to v. */
  angle: number;
  /** Tile per mm. */
  scale: number;
  /** It lies the other way round, as in the file it came from. */
  mirrored?: boolean;
  /** It stays when the others are packed again. */
  locked?: boolean;
}

/** Islands that may be placed at most. */
export const MOST_PLACES = 20_000;

/** A part of a layout: a mesh with `uv` (corner) and `island` (face). */
interface Laid {
  id: string;
  mesh: PolyMesh;
}

/** Where every island of a layout lies: parts in their order, islands by number; those without area are left out. */
export function islandPlaces(parts: readonly Laid[]): { island: number; place: IslandPlace }[] {
  return parts.flatMap(({ id, mesh }) => {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const island = attribute(mesh, 'island', 'face')?.data;
    if (!uv || !island) return [];
    const count = islandCount(island);
    const { largest, space, laid, signed } = sums(mesh, uv, island, count, twinFaces(mesh));
    return Array.from({ length: count }, (_, i) => i).flatMap((i) => {
      const t = largest[i];
      if (t < 0 || space[i] <= 0 || laid[i] <= 0) return [];
      const [a, b, c] = cornersOf(mesh, t);
      const from = scaled(add(add(a, b), c), 1 / 3);
      const along = normalise(sub(b, a));
      const flat = frameAt(mesh, uv, t, from, along);
      const place: IslandPlace = {
        part: id,
        from: rounded(from),
        facing: rounded(normalise(cross(sub(b, a), sub(c, a)))),
        along: rounded(along),
        at: [flat.x, flat.y],
        angle: flat.angle,
        scale: Math.sqrt(laid[i] / space[i]),
        ...(signed[i] < 0 && { mirrored: true }),
      };
      return [{ island: i, place }];
    });
  });
}

/**
 * The islands places are on: for each place one of its part’s islands, or −1 where the part or that place of it is gone. An island has one
 * place: a locked one before others, then the one said first.
 *
 * @param parts each with the island of its faces
 */
export function findPlaces(
  parts: readonly { id: string; mesh: PolyMesh; island: ArrayLike<number> }[],
  places: readonly IslandPlace[],
): { island: Int32Array; triangle: Int32Array } {
  const [island, triangle] = [new Int32Array(places.length).fill(-1), new Int32Array(places.length).fill(-1)];
  for (const p of parts) {
    const mine = [...places.keys()].filter((i) => places[i].part === p.id);
    if (mine.length === 0) continue;
    const taken = new Set<number>();
    const faces = new FaceFinder(p.mesh);
    for (const i of mine.sort((a, b) => Number(places[b].locked ?? false) - Number(places[a].locked ?? false) || a - b)) {
      const t = faces.at(places[i]);
      if (t < 0) continue;
      const on = p.island[p.mesh.triangleFace[t]];
      if (taken.has(on)) continue;
      taken.add(on);
      [island[i], triangle[i]] = [on, t];
    }
  }
  return { island, triangle };
}

/** Where islands that were placed go, for the packer; null for those that weren’t. The islands’ triangles are as they will be packed, weighted. */
export function fixedPlaces(
  parts: readonly { id: string; mesh: PolyMesh; laid: Flattened; weights: ArrayLike<number> }[],
  places: readonly IslandPlace[],
): { fixed: (FixedPlace | null)[]; lost: number } {
  const found = findPlaces(
    parts.map((p) => ({ id: p.id, mesh: p.mesh, island: p.laid.island })),
    places,
  );
  const fixed: (FixedPlace | null)[] = [];
  for (const p of parts) {
    const mine = new Array<FixedPlace | null>(p.laid.islands).fill(null);
    const { space, laid } = sums(p.mesh, p.laid.flat, p.laid.island, p.laid.islands);
    for (const [k, place] of places.entries()) {
      const i = found.island[k];
      if (place.part !== p.id || i < 0) continue;
      // The scale is that of areas: what a stretched island is laid at may differ.
      const onFlat = place.scale * Math.sqrt(space[i] / (laid[i] || 1));
      const flat = frameAt(p.mesh, p.laid.flat, found.triangle[k], place.from, place.along);
      const here = place.mirrored ? { x: -flat.x, y: flat.y, angle: Math.PI - flat.angle } : flat;
      const angle = place.angle - here.angle;
      const [c, s] = [Math.cos(angle) * onFlat, Math.sin(angle) * onFlat];
      mine[i] = {
        angle,
        scale: onFlat / p.weights[i],
        x: place.at[0] - (c * here.x - s * here.y),
        y: place.at[1] - (s * here.x + c * here.y),
        ...(place.mirrored && { mirrored: true }),
      };
    }
    fixed.push(...mine);
  }
  return { fixed, lost: found.island.reduce((n, i) => n + Number(i < 0), 0) };
}

/** A place moved, turned about a point of the tile and scaled there. */
export function shifted(place: IslandPlace, about: readonly [number, number], by: Shift): IslandPlace {
  const [c, s] = [Math.cos(by.turn) * by.scale, Math.sin(by.turn) * by.scale];
  const [x, y] = [place.at[0] - about[0], place.at[1] - about[1]];
  return {
    ...place,
    at: [about[0] + c * x - s * y + by.x, about[1] + s * x + c * y + by.y],
    angle: place.angle + by.turn,
    scale: place.scale * by.scale,
  };
}

/** What brings an island from one place to another: a shift about where the first lies. */
export const shiftBetween = (from: IslandPlace, to: IslandPlace): Shift => ({
  x: to.at[0] - from.at[0],
  y: to.at[1] - from.at[1],
  turn: to.angle - from.angle,
  scale: to.scale / from.scale,
});

/** How an island is moved: shares of the tile, radians, times its size. */
export interface Shift {
  x: number;
  y: number;
  turn: number;
  scale: number;
}
export const UNMOVED: Shift = { x: 0, y: 0, turn: 0, scale: 1 };

/** Places as they came from a request, checked. @throws InputError in one sentence */
export function checkIslandPlaces(value: unknown): IslandPlace[] {
  if (!Array.isArray(value)) throw new InputError('places/list', 'The places of islands are not a list.');
  if (value.length > MOST_PLACES) throw new InputError('places/many', `At most ${MOST_PLACES} islands can be placed by hand.`);
  return value.map((v): IslandPlace => {
    const p = v as IslandPlace;
    const numbers = (list: unknown, count: number, most: number): boolean =>
      Array.isArray(list) && list.length === count && list.every((x) => typeof x === 'number' && Math.abs(x) <= most);
    if (typeof p !== 'object' || p === null || typeof p.part !== 'string' || p.part.length > 60)
      throw new InputError('places/part', 'The place of an island doesn’t say which part it is on.');
    if (!numbers(p.from, 3, 1e6) || !numbers(p.facing, 3, 1.001) || !numbers(p.along, 3, 1.001))
      throw new InputError('places/from', 'The place of an island is no place of the piece.');
    if (!numbers(p.at, 2, 100) || !numbers([p.angle], 1, 1e4) || !numbers([p.scale], 1, 1e3) || p.scale <= 0)
      throw new InputError(
        'places/at',
        'An island can’t lie there: its place in the tile, its angle and its scale have to be plain numbers.',
      );
    const { part, from, facing, along, at: where, angle, scale } = p;
    const flags = { ...(p.mirrored === true && { mirrored: true }), ...(p.locked === true && { locked: true }) };
    return { part, from, facing, along, at: where, angle, scale, ...flags };
  });
}

const rounded = (v: Vec3): Vec3 => v.map((x) => Math.round(x * 1e5) / 1e5) as unknown as Vec3;

/** Of every island, but for what has the texels of others: its largest triangle, its area, mm², and its area as it is laid, whichever way round and less what lies face down. */
function sums(mesh: PolyMesh, flat: ArrayLike<number>, island: ArrayLike<number>, count: number, twins?: ArrayLike<number>) {
  const [space, laid, signed, most] = [0, 1, 2, 3].map(() => new Float64Array(count));
  const largest = new Int32Array(count).fill(-1);
  for (let t = 0; t < triangleCount(mesh); t++) {
    if (twins?.[mesh.triangleFace[t]]) continue;
    const i = island[mesh.triangleFace[t]];
    const a = triangleArea(mesh, t);
    space[i] += a;
    const flatArea = areaInLayout(mesh, flat, t);
    laid[i] += Math.abs(flatArea);
    signed[i] += flatArea;
    if (a > most[i]) [most[i], largest[i]] = [a, t];
  }
  return { space, laid, signed, largest };
}

/** Where a place on a triangle is laid, and how a direction there is. */
function frameAt(mesh: PolyMesh, flat: ArrayLike<number>, t: number, place: Vec3, along: Vec3): { x: number; y: number; angle: number } {
  const [a, b, c] = cornersOf(mesh, t);
  const [e, f] = [sub(b, a), sub(c, a)];
  const [ee, ef, ff] = [dot(e, e), dot(e, f), dot(f, f)];
  const det = ee * ff - ef * ef || 1e-300;
  const within = (v: Vec3): [number, number] => [(ff * dot(v, e) - ef * dot(v, f)) / det, (ee * dot(v, f) - ef * dot(v, e)) / det];
  const [ca, cb, cc] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
  const to = ([s, r]: [number, number]): [number, number] => [
    s * (flat[cb] - flat[ca]) + r * (flat[cc] - flat[ca]),
    s * (flat[cb + 1] - flat[ca + 1]) + r * (flat[cc + 1] - flat[ca + 1]),
  ];
  const here = to(within(sub(place, a)));
  const way = to(within(along));
  return { x: flat[ca] + here[0], y: flat[ca + 1] + here[1], angle: Math.atan2(way[1], way[0]) };
}
