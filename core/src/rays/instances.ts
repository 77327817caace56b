import { determinant3, inverse, type Mat4, multiply, transformPoint, translation } from '../maths/mat4';
import { KINDS, ownMemory, reach, type Seat, sharedSeat, use, usedOf } from './kernel/host';
import { Reference } from './reference/trace';
import { type Allocate, buildTree, PRIVATE, type RayTree } from './tree';

/** Bytes of an instance’s record; see `kernel/assembly/instances.ts`. */
const RECORD = 112;

/** A tree in one of the places it stands in: turned, sheared, mirrored or scaled, as long as it has a volume there. */
export interface Instance {
  tree: RayTree;
  place: Mat4;
}

/** Trees in many places, made of flat arrays and plain values. */
export interface InstancedTree {
  /** Over the boxes of the instances; its triangle numbers are theirs. */
  top: RayTree;
  instances: Instance[];
  /** From the asset’s space, about the origin of `top`, to the tree’s own about its origin; 12 numbers each, column by column. */
  inverses: Float64Array;
  /** Where the records lie, when several threads share them. */
  recordsAt?: number;
}

/**
 * A tree over trees, so that copies need no triangles of their own.
 *
 * @param allocate where the arrays live; the trees of the instances are to lie in the same memory
 * @throws RangeError for a place without a volume
 */
export function instancedTree(instances: readonly Instance[], allocate: Allocate = PRIVATE): InstancedTree {
  const boxes = new Float64Array(9 * instances.length);
  for (const [i, { tree, place }] of instances.entries()) {
    const { low, high } = placedBox(tree, place);
    // A triangle with the same box.
    boxes.set([...low, ...high, ...low], 9 * i);
  }
  const top = buildTree(boxes, allocate);
  const inverses = new Float64Array(12 * instances.length);
  for (const [i, { tree, place }] of instances.entries()) {
    const [x, y, z] = tree.origin;
    if (!(Math.abs(determinant3(place)) > 0)) throw new RangeError(`Place ${i + 1} of ${instances.length} has no volume.`);
    const m = multiply(translation([-x, -y, -z]), multiply(inverse(place), translation(top.origin)));
    for (let c = 0; c < 4; c++) for (let k = 0; k < 3; k++) inverses[12 * i + 3 * c + k] = m[4 * c + k];
  }
  const made: InstancedTree = { top, instances: [...instances], inverses };
  if (top.memory && instances.every((i) => i.tree.memory === top.memory || i.tree.triangles === 0)) {
    const at = usedOf(top.memory);
    reach(top.memory, at + RECORD * instances.length);
    use(top.memory, at + RECORD * instances.length);
    writeRecords(
      made,
      top.memory,
      at,
      instances.map(({ tree }) => ({ nodes: tree.nodes.byteOffset, packs: tree.packs.byteOffset })),
    );
    made.recordsAt = at;
  }
  return made;
}

/** The box of a tree in its place, a millionth of its size larger than it is. */
function placedBox(tree: RayTree, place: Mat4): { low: number[]; high: number[] } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const own = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let lane = 0; lane < 4 && tree.triangles > 0; lane++) {
    if (tree.nodes[lane] === Infinity) continue;
    for (let k = 0; k < 3; k++) {
      own[k] = Math.min(own[k], tree.nodes[4 * k + lane] + tree.origin[k]);
      own[k + 3] = Math.max(own[k + 3], tree.nodes[12 + 4 * k + lane] + tree.origin[k]);
    }
  }
  for (let c = 0; c < 8 && tree.triangles > 0; c++) {
    const p = transformPoint(place, [own[c & 1 ? 3 : 0], own[c & 2 ? 4 : 1], own[c & 4 ? 5 : 2]]);
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k], p[k]);
      high[k] = Math.max(high[k], p[k]);
    }
  }
  if (tree.triangles === 0) return { low: [0, 0, 0], high: [0, 0, 0] };
  const size = Math.max(...high.map((x, k) => Math.max(x - low[k], Math.abs(x), Math.abs(low[k]))));
  return { low: low.map((x) => x - 1e-6 * size), high: high.map((x) => x + 1e-6 * size) };
}

function writeRecords(
  { inverses, instances }: InstancedTree,
  memory: WebAssembly.Memory,
  at: number,
  places: readonly { nodes: number; packs: number }[],
): void {
  const numbers = new Float64Array(memory.buffer);
  const links = new Uint32Array(memory.buffer);
  for (let i = 0; i < instances.length; i++) {
    numbers.set(inverses.subarray(12 * i, 12 * i + 12), (at + RECORD * i) / 8);
    links[(at + RECORD * i + 96) / 4] = places[i].nodes;
    links[(at + RECORD * i + 100) / 4] = places[i].packs;
  }
}

/** Asks trees in many places; one object per thread, as {@link RayQuery}. */
export class InstanceQuery {
  t = 0;
  /** Which instance was met, −1 for none, and which triangle of its tree. */
  instance = -1;
  triangle = -1;
  u = 0;
  v = 0;
  private readonly seat: Seat | null;
  private readonly own: ReturnType<typeof ownMemory>;
  private readonly ids: Int32Array[];
  private readonly references: (Reference | null)[];

  constructor(readonly trees: InstancedTree) {
    const shared = trees.top.memory && trees.recordsAt !== undefined ? sharedSeat(trees.top.memory) : null;
    this.own = shared ? null : ownMemory();
    this.seat = shared ?? this.own?.seat ?? null;
    this.ids = trees.instances.map(({ tree }) => new Int32Array(tree.packs.buffer, tree.packs.byteOffset, tree.packs.length));
    this.records = { nodes: new Float32Array((RECORD / 4) * trees.instances.length + 4), packs: new Float32Array(0) };
    this.references = trees.instances.map(({ tree }) => (this.seat || tree.triangles === 0 ? null : new Reference(tree.nodes, tree.packs)));
  }

  /** Nearest hit with tMin < t ≤ tMax; equal distances go to the lower instance, then to the lower triangle. */
  closest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    return this.ask(ox, oy, oz, dx, dy, dz, tMin, tMax, false);
  }

  /** Whether anything lies between. */
  any(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    return this.ask(ox, oy, oz, dx, dy, dz, tMin, tMax, true);
  }

  private ask(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number, any: boolean): boolean {
    const { top } = this.trees;
    this.instance = -1;
    this.triangle = -1;
    if (top.triangles === 0) return false;
    const [x, y, z] = [ox - top.origin[0], oy - top.origin[1], oz - top.origin[2]];
    if (!this.seat) return this.byReference(x, y, z, dx, dy, dz, tMin, tMax, any);
    const { nodes, packs, records } = this.places();
    const { kernel, scratch } = this.seat;
    const hit = kernel.askInstances(nodes, packs, records, scratch, x, y, z, dx, dy, dz, tMin, tMax, any ? KINDS.any : KINDS.closest);
    if (hit < 0) return false;
    this.instance = this.seat.instance;
    this.found(hit, this.seat.answer);
    return true;
  }

  private found(hit: number, answer: Float64Array): void {
    this.triangle = this.ids[this.instance][40 * (hit >> 2) + 36 + (hit & 3)];
    this.t = answer[0];
    this.u = answer[1];
    this.v = answer[2];
  }

  private settled = { nodes: 0, packs: 0, records: 0, generation: 0 };
  /** Where everything lies; in a thread's own memory it is laid down again whenever that has moved or been used for other things. */
  private places(): { nodes: number; packs: number; records: number } {
    const { top, instances, recordsAt } = this.trees;
    if (recordsAt !== undefined && !this.own) return { nodes: top.nodes.byteOffset, packs: top.packs.byteOffset, records: recordsAt };
    const own = this.own as NonNullable<typeof this.own>;
    if (this.settled.generation !== own.generation) {
      const records = this.records;
      const { at } = own.together([top, ...instances.map((i) => i.tree), records], 0);
      const [{ nodes, packs }, ...rest] = at;
      const lies = rest.pop()?.nodes as number;
      writeRecords(this.trees, own.seat.memory, lies, rest);
      this.settled = { nodes, packs, records: lies, generation: own.generation };
    }
    return this.settled;
  }
  /** Keeps the room of the records in a thread's own memory, as a tree does. */
  private readonly records: { nodes: Float32Array; packs: Float32Array };

  private byReference(
    x: number,
    y: number,
    z: number,
    dx: number,
    dy: number,
    dz: number,
    tMin: number,
    tMax: number,
    any: boolean,
  ): boolean {
    const { inverses: m } = this.trees;
    let best = tMax;
    for (const [i, reference] of this.references.entries()) {
      if (!reference) continue;
      const o = 12 * i;
      const place = (k: number) => m[o + k] * x + m[o + 3 + k] * y + m[o + 6 + k] * z + m[o + 9 + k];
      const way = (k: number) => m[o + k] * dx + m[o + 3 + k] * dy + m[o + 6 + k] * dz;
      const hit = reference.trace(place(0), place(1), place(2), way(0), way(1), way(2), tMin, best, any ? 'any' : 'closest');
      // Instances are asked in turn, so an equal distance is the lower one's.
      if (hit < 0 || (this.instance >= 0 && reference.answer[0] === best)) continue;
      best = reference.answer[0];
      this.instance = i;
      this.found(hit, reference.answer);
      if (any) return true;
    }
    return this.instance >= 0;
  }
}
