import { IDENTITY, type Mat4, multiply, rotation, translation } from '../maths/mat4';
import { cross, dot, normalise, type Vec3 } from '../maths/vec3';
import { shellsOf } from '../mesh/connectivity';
import { keepFaces } from '../mesh/edit';
import { type Bounds, boundsOf, isWatertight } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { type BoxTree, boxTree, type Crossing, crossings, nearest } from '../mesh/pairs';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { meshTree } from '../rays/of-mesh';
import { RayQuery } from '../rays/query';
import { ON_TRIANGLE } from './deviation';

/** How two parts stand to each other. */
export interface Standing {
  /** Nearest distance, mm; 0 where they touch or run into each other. */
  gap: number;
  /** How deep one goes into the other, mm. */
  sunk: number;
  /** A place where they are nearest, or deepest. */
  at: Vec3;
}

/** A part with all its copies as one mesh in the asset's space, with what questions about pairs need. */
export class Placed {
  readonly mesh: PolyMesh;
  private boxes?: BoxTree;
  private rays?: RayQuery;
  constructor(mesh: PolyMesh, placements: readonly Mat4[]) {
    this.mesh = merge(placements.map((m) => transform(mesh, m)));
  }
  private closed?: boolean;
  private bounds?: Bounds;
  get isClosed(): boolean {
    this.closed ??= isWatertight(this.mesh);
    return this.closed;
  }
  get box(): Bounds {
    this.bounds ??= boundsOf(this.mesh);
    return this.bounds;
  }
  get tree(): BoxTree {
    this.boxes ??= boxTree(this.mesh);
    return this.boxes;
  }
  private pieces?: { ofFace: Uint32Array; trees: Map<number, BoxTree> };
  private get shells() {
    this.pieces ??= { ofFace: Uint32Array.from(shellsOf(this.mesh).ofFace), trees: new Map() };
    return this.pieces;
  }
  /** The shell a triangle belongs to. */
  shellOf(triangle: number): number {
    return this.shells.ofFace[this.mesh.triangleFace[triangle]];
  }
  /** One shell alone. */
  shellTree(shell: number): BoxTree {
    const { ofFace, trees } = this.shells;
    const known = trees.get(shell) ?? boxTree(keepFaces(this.mesh, (f) => ofFace[f] === shell));
    trees.set(shell, known);
    return known;
  }
  get query(): RayQuery {
    this.rays ??= new RayQuery(meshTree(this.mesh));
    return this.rays;
  }
}

/** At most about so many places are asked. */
const ASKED = 12_000;

/** How deep places of `a` lie inside `b`: a ray that first meets the back of a face started inside. */
function deepest(a: Placed, b: Placed): { depth: number; at: Vec3 } {
  const soup = soupOf(a.mesh);
  const other = soupOf(b.mesh);
  const n = triangleCount(a.mesh);
  const step = Math.max(1, Math.floor((n * ON_TRIANGLE.length) / ASKED));
  const { query } = b;
  let best = { depth: 0, at: [0, 0, 0] as Vec3 };
  for (let i = 0; i < n * ON_TRIANGLE.length; i += step) {
    const t = 9 * Math.floor(i / ON_TRIANGLE.length);
    const w = ON_TRIANGLE[i % ON_TRIANGLE.length];
    const [x, y, z] = [0, 1, 2].map((k) => w[0] * soup[t + k] + w[1] * soup[t + 3 + k] + w[2] * soup[t + 6 + k]);
    // No axis and no simple slope: along those, edges of built things are met.
    if (!query.closest(x, y, z, 0.2113, 0.8911, 0.4016, 0, 1e9)) continue;
    const f = 9 * query.triangle;
    const u = [0, 1, 2].map((k) => other[f + 3 + k] - other[f + k]);
    const v = [0, 1, 2].map((k) => other[f + 6 + k] - other[f + k]);
    const facing = 0.2113 * (u[1] * v[2] - u[2] * v[1]) + 0.8911 * (u[2] * v[0] - u[0] * v[2]) + 0.4016 * (u[0] * v[1] - u[1] * v[0]);
    if (facing <= 0) continue;
    if (!query.nearest(x, y, z, Infinity)) continue;
    if (query.t > best.depth) best = { depth: query.t, at: [x, y, z] };
  }
  return best;
}

/** Crossings looked at for the ways two parts could be drawn apart, pairs of their shells, and ways tried for each. */
const [CROSSED, PAIRS, WAYS] = [2000, 16, 5];
/** Ways nearer to each other than this are one: cosine. */
const SAME_WAY = 0.985;
const HALVED = 26;

/** The ways along which two parts that cross could be drawn apart, the first the second: out of the sides they went in by. */
function waysOut(a: Placed, b: Placed, found: readonly Crossing[]): Vec3[] {
  const ways: { way: Vec3; n: number }[] = [];
  const take = (soup: Float64Array, t: number, sign: number): void => {
    const e = (k: number): Vec3 => [0, 1, 2].map((i) => soup[9 * t + 3 * k + i] - soup[9 * t + i]) as unknown as Vec3;
    const n = normalise(cross(e(1), e(2)));
    const way: Vec3 = [sign * n[0], sign * n[1], sign * n[2]];
    if (Math.hypot(...way) < 0.5) return;
    const known = ways.find((w) => dot(w.way, way) > SAME_WAY);
    if (known) known.n++;
    else ways.push({ way, n: 1 });
  };
  for (const c of found) {
    take(b.tree.soup, c.b, 1);
    take(a.tree.soup, c.a, -1);
  }
  return ways
    .sort((p, q) => q.n - p.n)
    .slice(0, WAYS)
    .map((w) => w.way);
}

/**
 * How deep two parts go into each other: of every two of their shells that cross (copies stand on several sides) the least way out, and of
 * those the longest. One that crosses by a hair is found by it.
 */
function depthOf(a: Placed, b: Placed, found: readonly Crossing[]): { depth: number; at: Vec3 } {
  const pairs = new Map<string, Crossing[]>();
  for (const c of found) {
    const key = `${a.shellOf(c.a)} ${b.shellOf(c.b)}`;
    pairs.set(key, [...(pairs.get(key) ?? []), c]);
  }
  let deepest = { depth: 0, at: found[0].at };
  for (const list of [...pairs.values()].sort((p, q) => q.length - p.length).slice(0, PAIRS)) {
    const depth = leastWayOut(a, b, list);
    if (Number.isFinite(depth) && depth > deepest.depth) deepest = { depth, at: list[0].at };
  }
  return deepest;
}

/** The least way by which the shells that cross there would have to be moved apart, mm. */
function leastWayOut(a: Placed, b: Placed, found: readonly Crossing[]): number {
  const [mine, other] = [a.shellTree(a.shellOf(found[0].a)), b.shellTree(b.shellOf(found[0].b))];
  const stuck = (way: Vec3, far: number): boolean => crossings(other, mine, 1, [way[0] * far, way[1] * far, way[2] * far]).length > 0;
  const reach = Math.hypot(...[0, 1, 2].map((k) => a.box.max[k] - a.box.min[k] + b.box.max[k] - b.box.min[k]));
  let best = Infinity;
  for (const way of waysOut(a, b, found)) {
    let [low, high] = [0, Math.min(1e-3, best)];
    while (high < Math.min(best, reach) && stuck(way, high)) [low, high] = [high, 2 * high];
    if (high >= best || stuck(way, high)) continue;
    for (let i = 0; i < HALVED && high - low > 1e-7; i++) {
      const middle = (low + high) / 2;
      if (stuck(way, middle)) low = middle;
      else high = middle;
    }
    best = Math.min(best, high);
  }
  return best;
}

/** Nearest distance of two parts, or how deep one goes into the other. */
export function standing(a: Placed, b: Placed): Standing {
  const near = nearest(a.tree, b.tree);
  if (!near) return { gap: Infinity, sunk: 0, at: [0, 0, 0] };
  // Only what is closed has an inside, and only what reaches into its box can lie there.
  const meets = [0, 1, 2].every((k) => a.box.min[k] <= b.box.max[k] && b.box.min[k] <= a.box.max[k]);
  const within = (x: Placed, y: Placed) => (meets && y.isClosed ? deepest(x, y) : { depth: 0, at: near.onA });
  const [p, q] = [within(a, b), within(b, a)];
  const deep = p.depth >= q.depth ? p : q;
  // Surfaces that cross are found whatever lies between the places that are asked; how deep is the least way out.
  if (meets && near.distance === 0 && (a.isClosed || b.isClosed)) {
    const found = crossings(a.tree, b.tree, CROSSED);
    if (found.length > 0) {
      const { depth, at } = depthOf(a, b, found);
      if (depth > 1e-6) return { gap: 0, sunk: depth, at };
    }
  }
  if (deep.depth > 1e-6) return { gap: 0, sunk: deep.depth, at: deep.at };
  return { gap: near.distance, sunk: 0, at: near.onA };
}

/** How a part moves: straight along an axis, or about one through a point. mm, degrees. */
export interface Travel {
  kind: 'slide' | 'turn';
  axis: 'x' | 'y' | 'z';
  from: number;
  to: number;
  /** A point of the axis it turns about. */
  x: number;
  y: number;
  z: number;
}

const UNIT: Record<Travel['axis'], Vec3> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** Where a part stands at a place of its travel, in the asset's space. */
export function travelled(t: Travel, at: number): Mat4 {
  const axis = UNIT[t.axis];
  if (t.kind === 'slide') return at === 0 ? IDENTITY : translation([axis[0] * at, axis[1] * at, axis[2] * at]);
  return multiply(translation([t.x, t.y, t.z]), multiply(rotation(axis, (at * Math.PI) / 180), translation([-t.x, -t.y, -t.z])));
}

/** What a part meets on its way. */
export interface TravelFound {
  /** The first place where it runs into another part, if it does. */
  clash: { part: string; at: number; place: Vec3 } | null;
  /** The nearest it comes to any other part before that. */
  least: { part: string; at: number; gap: number } | null;
}

/** Places of a travel that are tried; where the first clash begins is then found by halving. */
const TRIED = 49;
const HALVINGS = 12;

/**
 * Moves a part through its travel and looks whether it runs into others, and how near it comes to them.
 *
 * @param others by name
 */
export function followTravel(part: Placed, others: readonly { name: string; placed: Placed }[], travel: Travel): TravelFound {
  const moved = (at: number): { tree: BoxTree; move: Vec3 } => {
    if (travel.kind === 'slide') {
      const axis = UNIT[travel.axis];
      return { tree: part.tree, move: [axis[0] * at, axis[1] * at, axis[2] * at] };
    }
    return { tree: boxTree(transform(part.mesh, travelled(travel, at))), move: [0, 0, 0] };
  };
  const meets = (at: number, other: Placed): Vec3 | null => {
    const { tree, move } = moved(at);
    return crossings(other.tree, tree, 1, move)[0]?.at ?? null;
  };
  const places = Array.from({ length: TRIED }, (_, i) => travel.from + ((travel.to - travel.from) * i) / (TRIED - 1));
  let clash: TravelFound['clash'] = null;
  let least: TravelFound['least'] = null;
  for (const [i, at] of places.entries()) {
    const { tree, move } = moved(at);
    for (const { name, placed } of others) {
      const hit = crossings(placed.tree, tree, 1, move)[0];
      if (hit) {
        let [free, stuck, place] = [i === 0 ? at : places[i - 1], at, hit.at];
        for (let k = 0; i > 0 && k < HALVINGS; k++) {
          const middle = (free + stuck) / 2;
          const found = meets(middle, placed);
          if (found) [stuck, place] = [middle, found];
          else free = middle;
        }
        if (!clash || Math.abs(stuck - travel.from) < Math.abs(clash.at - travel.from)) clash = { part: name, at: stuck, place };
        continue;
      }
      const near = nearest(placed.tree, tree, least?.gap ?? Infinity, move);
      if (near && (!least || near.distance < least.gap - 1e-9)) least = { part: name, at, gap: near.distance };
    }
    if (clash) break;
  }
  return { clash, least };
}
