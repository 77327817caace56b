import { StageError } from '../../errors';
import { random } from '../../maths/random';
import { checkpoint, QUIET, type Task } from '../../task';
import { drawMask, Grid, type Mask } from './mask';
import { type Shape, shapeOf, turned as turn } from './shape';

/** An island to be packed: its triangles laid flat, mm, already weighted. */
export interface PackIsland {
  /** 6 numbers per triangle. */
  triangles: Float64Array;
  /** It lies here: the others are packed round it. It may reach out of the tile, or lie on others like it. */
  fixed?: FixedPlace | null;
  /** It has this size, tile per (weighted) mm, whatever the others come to. */
  scale?: number;
  /** It is turned by this, radians, or by half a turn more: its grain then runs up the tile. */
  turn?: number;
}

/** Where an island goes: turned about its origin, scaled, moved. uv = scale · R(angle) · p + (x, y), v up. */
export interface PackPlace {
  angle: number;
  x: number;
  y: number;
}

/** A place with a scale of its own, tile per (weighted) mm. */
export interface FixedPlace extends PackPlace {
  scale: number;
  /** It is drawn the other way round first, x to −x, as files lay what is mirrored. */
  mirrored?: boolean;
}

/** How islands are packed. */
export interface PackOptions {
  /** Side of the delivered texture, px. */
  size: number;
  /** Empty texels between islands; half of it stays free along the tile's edge. */
  padding: number;
  /** In quarter turns, in steps of 30°, or not at all. */
  rotate: Turning;
}

/** How far islands may be turned: in quarters, freely in steps of 30°, not at all. */
export type Turning = boolean | 'freely';

/** Cells along the tile while orders are tried. */
const COARSE = 256;
/** What masks of coarse cells keep more round them, cells: of 0 to ½ the one whose scales were nearest to those that fitted in the end. */
const COARSER = 0.3;
/** Most cells along the tile when places are settled; with as many texels every cell is one. */
const FINE = 1024;
/** Islands tried in other orders, in all: many islands get fewer tries. */
const TRIES = 2400;
/** So many orders in a row that won nothing are enough. */
const MOST_IDLE = 20;

interface Turned {
  shape: Shape;
  angles: readonly number[];
  /** Extents as it lies at the first angle, mm. */
  extent: [number, number];
  /** The size it has, tile per mm, where that is said. */
  own: number | undefined;
}

interface Packed {
  /** Height that was needed, as a share of the tile. */
  height: number;
  places: PackPlace[];
}

/**
 * Packs islands into the unit tile: masks on a grid with padding, quarter turns of each, the lowest and then leftmost free place in turn.
 * A strip as wide as the tile is filled, so that every try says by how much it is too high or too low; orders are tried on a coarse
 * grid (largest first by several measures, then exchanges that lower the strip), the best one is settled texel by texel. Islands that have a
 * place keep it; the others are then no denser than the middle one of those. The same input always gives the same layout.
 *
 * @returns the scale (tile per mm), and a place for each island with its own
 * @throws StageError `pack/…` when nothing fits even when tiny
 */
export function pack(islands: readonly PackIsland[], options: PackOptions, task: Task = QUIET): { scale: number; places: FixedPlace[] } {
  const fixed = islands.flatMap((i) => i.fixed ?? []);
  const free = islands.filter((i) => !i.fixed);
  const scales = islands.flatMap((i) => (i.fixed && i.scale === undefined ? i.fixed.scale : [])).sort((a, b) => a - b);
  const middle = scales[scales.length >> 1] ?? 1;
  if (free.length === 0) return { scale: middle, places: fixed };
  const made = packed(free, { ...options, most: scales.length > 0 ? middle : Infinity }, obstaclesOf(islands), task);
  let next = 0;
  return { scale: made.scale, places: islands.map((i) => i.fixed ?? { ...made.places[next++], scale: i.scale ?? made.scale }) };
}

/** Triangles of what lies where it is, shares of the tile. */
const obstaclesOf = (islands: readonly PackIsland[]): Float64Array[] =>
  islands.flatMap(({ triangles, fixed }) =>
    fixed
      ? [
          turn(fixed.mirrored ? triangles.map((v, i) => (i % 2 ? v : -v)) : triangles, fixed.angle, fixed.scale).map(
            (v, i) => v + (i % 2 ? fixed.y : fixed.x),
          ),
        ]
      : [],
  );

function packed(
  islands: readonly PackIsland[],
  options: PackOptions & { most: number },
  obstacles: readonly Float64Array[],
  task: Task,
): { scale: number; places: PackPlace[] } {
  const { turned, area, room, most: longest } = prepared(islands, options);
  const most = Math.min(longest, options.most);
  const none = (): StageError =>
    new StageError(
      'pack/room',
      obstacles.length > 0
        ? 'There is no room left beside the islands that were placed by hand; pack more of them again, or make them smaller.'
        : islands.some((i) => i.scale !== undefined)
          ? `The parts whose density is set don’t fit the tile at ${options.size} px beside the others; lower their px/cm or raise the size.`
          : `The islands don’t fit with ${options.padding} texels between them at ${options.size} px; lower the padding or raise the size.`,
    );
  if (room <= 0) throw none();
  const coarse = new Strip(turned, COARSE, options, obstacles);
  let { order, scale } = coarseOrder(coarse, turned, area, most, TRIES, task);
  const fine = new Strip(turned, Math.min(FINE, Math.max(options.size, COARSE)), options, obstacles);
  let best: { scale: number; places: PackPlace[] } | null = null;
  const next = random(5);
  scale = Math.min(most, scale);
  let [failed, step] = [0, 1.012];
  // The same order comes out a little higher or lower at every scale: each is tried in a few orders before it is given up.
  // Of what has all its size said, only the order can be tried.
  const last = turned.every((t) => t.own !== undefined) ? 40 : 200;
  for (let i = 0, tries = finely(islands.length); i < tries || (!best && i < last); i++) {
    checkpoint(task);
    const tried = failed === 0 ? order : exchanged(order, next);
    const places = fine.fill(tried, scale, 1)?.places;
    task.progress(0.6 + 0.4 * Math.min(1, i / tries), 'packing');
    if (places) {
      [best, order, failed] = [{ scale, places }, tried, 0];
      if (scale >= most) break;
      scale = Math.min(most, scale * step);
    } else if (++failed >= 2) {
      failed = 0;
      if (!best) scale *= obstacles.length > 0 ? 0.95 : 0.985;
      else if (step < 1.005) break;
      else {
        step = 1.004;
        scale = best.scale * step;
      }
    }
  }
  if (!best) throw none();
  return best;
}

/**
 * About how full the tile would be, 0 … 1, without settling anything; 0 where nothing fits.
 *
 * @param near a scale that islands much like these were tried at
 * @returns also the scale these were
 */
export function estimate(islands: readonly PackIsland[], options: PackOptions, near?: number): { filled: number; at?: number } {
  if (islands.length === 0) return { filled: 0 };
  const { turned, area, room, most } = prepared(islands, options);
  if (room <= 0) return { filled: 0 };
  const { scale, tried } = coarseOrder(new Strip(turned, COARSE, options), turned, area, most, TRIES / 20, QUIET, near);
  return { filled: area * scale * scale, at: tried };
}

/** @returns islands to be packed; the area of those whose size is open, as if they had the whole tile; and the most they can be scaled by */
function prepared(islands: readonly PackIsland[], options: PackOptions): { turned: Turned[]; area: number; room: number; most: number } {
  const turned = islands.map((i): Turned => {
    const shape = shapeOf(i.triangles);
    const angles = i.turn !== undefined ? [i.turn, i.turn + Math.PI] : shape.angles(options.rotate);
    return { shape, angles, extent: shape.extent(angles[0]), own: i.scale };
  });
  const area = Math.max(
    1e-12,
    islands.reduce((s, i) => s + (i.scale === undefined ? shapeOf(i.triangles).area : 0), 0),
  );
  // What is left of the tile for those whose size is open.
  const left = Math.max(0.05, 1 - islands.reduce((s, i) => s + (i.scale === undefined ? 0 : shapeOf(i.triangles).area * i.scale ** 2), 0));
  // However they are turned, none may be longer than the tile without its rim.
  const room = 1 - options.padding / options.size;
  const open = turned.filter((t) => t.own === undefined);
  const most =
    open.length === 0 ? 1 : open.reduce((s, { extent }) => Math.min(s, room / Math.max(...extent, 1e-12)), Math.sqrt(left / area));
  return { turned, area: area / left, room, most };
}

/** The best of several orders, about the scale at which it fills the tile, and the one it was tried at. */
function coarseOrder(
  strip: Strip,
  islands: readonly Turned[],
  area: number,
  most: number,
  mostTries: number,
  task: Task,
  near?: number,
): { order: number[]; scale: number; tried: number } {
  const all = islands.map((_, i) => i);
  // As large as each is likely to be in the tile.
  const about = Math.min(most, Math.sqrt(0.6 / area));
  const extents = islands.map(({ extent: [w, h], own }): [number, number] =>
    own === undefined ? [w, h] : [(w * own) / about, (h * own) / about],
  );
  const by = (of: (e: [number, number]) => number) => [...all].sort((a, b) => of(extents[b]) - of(extents[a]) || a - b);
  const orders = [by(([w, h]) => Math.max(w, h)), by(([w, h]) => w * h), by(([w, h]) => Math.min(w, h))];
  let scale = near === undefined ? about : Math.min(most, near);
  let order = orders[0];
  let height = strip.fill(order, scale)?.height ?? Infinity;
  // First about the right scale, then orders at that scale: they differ by how high a strip they need.
  for (let i = 0; i < 12 && (height > 1.05 || height < 0.95); i++) {
    const next = Math.min(most, scale * (Number.isFinite(height) ? Math.min(1.5, Math.max(0.5, 1 / Math.sqrt(height))) : 0.7));
    if (next === scale) break;
    scale = next;
    height = strip.fill(order, scale)?.height ?? Infinity;
  }
  for (const other of orders.slice(1)) {
    const made = strip.fill(other, scale, height);
    if (made && made.height < height) [order, height] = [other, made.height];
  }
  const next = random(11);
  const tries = islands.length < 3 ? 0 : Math.min(60, Math.floor(mostTries / islands.length));
  // Once many in a row won nothing, few of the next ones will.
  for (let i = 0, idle = 0; i < tries && idle < MOST_IDLE; i++) {
    checkpoint(task);
    const other = exchanged(order, next);
    const made = strip.fill(other, scale, height);
    idle = made && made.height < height ? 0 : idle + 1;
    if (made) [order, height] = [other, made.height];
    task.progress((0.6 * i) / tries, 'packing');
  }
  return { order, scale: Number.isFinite(height) ? Math.min(most, scale / Math.sqrt(Math.max(height, 0.25))) : scale, tried: scale };
}

/** How often places are settled: many islands fit about as well in one order as in another. */
const finely = (islands: number): number => Math.max(8, Math.min(30, Math.round(1200 / islands)));

/** The order with one island put elsewhere: what is large decides, the small ones fill what is left. */
function exchanged(order: readonly number[], next: () => number): number[] {
  const other = [...order];
  const a = Math.floor(next() ** 2 * other.length);
  const b = Math.min(other.length - 1, Math.max(0, a + Math.round((next() - 0.5) * Math.max(4, other.length / 3))));
  other.splice(b, 0, ...other.splice(a, 1));
  return other;
}

/** A strip as wide as the tile, and the masks of the islands at the scale they were asked for last. */
class Strip {
  private readonly grid: Grid;
  private readonly reach: number;
  private scale = 0;
  /** The order that fitted last and the one that didn’t, as far as it went. */
  private fitted: Filled | null = null;
  private failed: Filled | null = null;

  constructor(
    private readonly islands: readonly Turned[],
    private readonly cells: number,
    options: PackOptions,
    obstacles: readonly Float64Array[] = [],
  ) {
    this.grid = new Grid(cells, 2 * cells);
    const grow = ((options.padding / 2) * cells) / options.size;
    // Where a cell is a texel, what counts are its centres; coarser cells keep some more, so that they come out about as high.
    // A hair more: rounding must not bring a centre in that was just outside.
    this.reach = Math.max(0.5, cells >= options.size ? grow : grow + COARSER) + 0.02;
    for (const o of obstacles) {
      const mask = drawMask(
        o.map((v) => v * cells),
        this.reach,
      );
      this.grid.block(mask, -mask.offset[0], -mask.offset[1]);
    }
    if (obstacles.length > 0) this.grid.hold();
  }

  /** Where the islands of an order go that are the first of one that was filled before, at the same size: there again. */
  private known(order: readonly number[]): readonly Spot[] {
    let most: readonly Spot[] = [];
    for (const before of [this.fitted, this.failed]) {
      let n = 0;
      while (before && n < before.spots.length && before.order[n] === order[n]) n++;
      if (before && n > most.length) most = before.spots.slice(0, n);
    }
    return most;
  }

  /** Fills the strip in an order. Null when an island is wider than it, or it gets as high as `bound` or twice the tile. */
  fill(order: readonly number[], scale: number, bound = 2): Packed | null {
    const { cells, grid, islands } = this;
    if (scale !== this.scale) {
      this.scale = scale;
      [this.fitted, this.failed] = [null, null];
    }
    grid.clear();
    const highest = Math.min(grid.height, Math.ceil(bound * cells));
    let height = 0;
    const known = this.known(order);
    const spots: Spot[] = [];
    for (const [n, i] of order.entries()) {
      const best = n < known.length ? known[n] : this.lowest(i, highest);
      if (!best || best.top > highest) {
        this.failed = { order, spots };
        return null;
      }
      grid.place(best.mask, best.x, best.y);
      height = Math.max(height, best.top);
      spots.push(best);
    }
    this.fitted = { order, spots };
    const places = new Array<PackPlace>(islands.length);
    for (const [n, { angle, x, y, mask }] of spots.entries())
      places[order[n]] = { angle, x: (x + mask.offset[0]) / cells, y: (y + mask.offset[1]) / cells };
    return { height: height / cells, places };
  }

  /** The lowest, then leftmost place of an island, whichever way it is turned. */
  private lowest(i: number, highest: number): Spot | null {
    let best: Spot | null = null;
    const { shape, angles, own } = this.islands[i];
    for (const [k, angle] of angles.entries()) {
      const mask = shape.mask((own ?? this.scale) * this.cells, this.reach, angles, k);
      const at = this.grid.find(mask, best ? best.top - 1 : highest);
      if (at) best = { x: at[0], y: at[1], top: at[1] + mask.height, mask, angle };
    }
    return best;
  }
}

/** An order, and where its islands went, as many as did. */
interface Filled {
  order: readonly number[];
  spots: readonly Spot[];
}

/** An island put somewhere, in cells. */
interface Spot {
  x: number;
  y: number;
  top: number;
  mask: Mask;
  angle: number;
}
