import { WellmorphError } from '../../errors';
import { KERNEL, SHARED_KERNEL } from './code';
import { LANES, laneOfThread } from './lanes';

/** What the kernel offers; places are byte offsets in its memory, hits pack · 4 + lane or −1. See `assembly/`. */
export interface Kernel {
  ask(nodes: number, packs: number, scratch: number, ...about: [...Ray, kind: number, out: number, room: number]): number;
  askInstances(nodes: number, packs: number, records: number, scratch: number, ...about: [...Ray, kind: number]): number;
  nearest(nodes: number, packs: number, scratch: number, x: number, y: number, z: number, reach: number): number;
  batch(nodes: number, packs: number, scratch: number, rays: number, count: number, out: number, kind: number, keys: number): void;
  build(soup: number, count: number, work: number, nodes: number, nodeRoom: number, packs: number, packRoom: number, used: number): number;
  workBytes(count: number): number;
  selfPairs(nodes: number, packs: number, about: number, stack: number, out: number, room: number): number;
}
type Ray = [ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number];

/** What is asked of a ray, as the kernel counts it. */
export const KINDS = { closest: 0, any: 1, all: 2 } as const;

const PAGE = 65536;

/** Rays of a batch at most. */
export const BATCH = 4096;

/** Where an answer is left; see `assembly/layout.ts`. */
const ANSWER_AT = 80;
const MET_AT = 152;

/** What each thread has for itself: the stack of a ray, then rays, hits and keys of a batch. */
export const RAYS_AT = 16384;
export const HITS_AT = RAYS_AT + 64 * BATCH;
export const KEYS_AT = HITS_AT + 4 * BATCH;
/** Keys take 16 bytes a ray and 4096 more. */
export const LANE_BYTES = 8 * PAGE;

/** The bytes of a compiled kernel. */
function bytesOf(code: string): Uint8Array<ArrayBuffer> {
  const text = atob(code);
  return Uint8Array.from(text, (c) => c.charCodeAt(0));
}

/** Compiled once a thread; null where the engine has no WebAssembly with vectors. */
const compiled = new Map<boolean, WebAssembly.Module | null>();
function moduleFor(shared: boolean): WebAssembly.Module | null {
  let found = compiled.get(shared);
  if (found === undefined) {
    try {
      found = new WebAssembly.Module(bytesOf(shared ? SHARED_KERNEL : KERNEL));
    } catch {
      found = null;
    }
    compiled.set(shared, found);
  }
  return found;
}

let reference = false;

/** Has this thread ask the reference alone, as where no kernel can be loaded: for tests and comparisons. */
export function useReference(on: boolean): void {
  reference = on;
}

/** What is said of rays where the kernel can't be loaded; null where it runs. */
export function kernelNote(): string | null {
  return !reference && moduleFor(false) ? null : 'without the vector kernel, which can’t be loaded here: it takes many times as long';
}

/** Words for what is being done with rays, and the note if there is one. */
export const rayWords = (words: string): string => [words, kernelNote()].filter((w) => w !== null).join(' ');

/** The kernel in a memory, with this thread’s lane in it. */
export class Seat {
  readonly kernel: Kernel;
  private floats: Float64Array;
  private doubles: Float64Array;
  private numbers: Int32Array;

  /** @param scratch where this thread’s lane begins, bytes */
  constructor(
    module: WebAssembly.Module,
    readonly memory: WebAssembly.Memory,
    readonly scratch: number,
  ) {
    this.kernel = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as Kernel;
    this.floats = new Float64Array(0);
    this.doubles = new Float64Array(0);
    this.numbers = new Int32Array(0);
  }

  /** What the last question left: distance (squared, of a nearest point) and two weights. Its memory may have moved since the last time. */
  get answer(): Float64Array {
    if (this.doubles.length === 0) this.doubles = new Float64Array(this.memory.buffer, this.scratch + ANSWER_AT, 3);
    return this.doubles;
  }

  /** Which instance the last question among instances met. */
  get instance(): number {
    return new Int32Array(this.memory.buffer, this.scratch + MET_AT, 1)[0];
  }

  /** Room for the rays of a batch, 8 numbers each: origin, direction, tMin, tMax. */
  get rays(): Float64Array {
    if (this.floats.length === 0) this.floats = new Float64Array(this.memory.buffer, this.scratch + RAYS_AT, 8 * BATCH);
    return this.floats;
  }

  /** What a batch has met. */
  get hits(): Int32Array {
    if (this.numbers.length === 0) this.numbers = new Int32Array(this.memory.buffer, this.scratch + HITS_AT, BATCH);
    return this.numbers;
  }
}

const seats = new WeakMap<WebAssembly.Memory, { lane: number; seat: Seat | null }>();

/** This thread’s seat in a memory that several share. */
export function sharedSeat(memory: WebAssembly.Memory): Seat | null {
  if (reference) return null;
  const lane = laneOfThread();
  const known = seats.get(memory);
  if (known && known.lane === lane) return known.seat;
  const module = moduleFor(true);
  const seat = module && new Seat(module, memory, HEADER + lane * LANE_BYTES);
  seats.set(memory, { lane, seat });
  return seat;
}

/** At the start of a shared memory: how far it is in use. */
const HEADER = PAGE;
const SHARED_START = HEADER + LANES * LANE_BYTES;

/** Makes a memory that several threads can see; null where there is none to be had. */
export function sharedMemory(): WebAssembly.Memory | null {
  if (reference || !moduleFor(true)) return null;
  try {
    // Only what is touched is taken from the machine; the rest is a range of addresses.
    const memory = new WebAssembly.Memory({ initial: SHARED_START / PAGE, maximum: 65536, shared: true });
    new Int32Array(memory.buffer)[0] = SHARED_START / 16;
    return memory;
  } catch {
    return null;
  }
}

/** How far a shared memory is in use, bytes; written by the one thread that builds in it. */
export const usedOf = (memory: WebAssembly.Memory): number => 16 * new Int32Array(memory.buffer)[0];
export function use(memory: WebAssembly.Memory, bytes: number): void {
  new Int32Array(memory.buffer)[0] = Math.ceil(bytes / 16);
}

/** Grows a memory to at least so many bytes. @throws WellmorphError `rays/memory` where there is no more to be had */
export function reach(memory: WebAssembly.Memory, bytes: number): void {
  const missing = Math.ceil(bytes / PAGE) - memory.buffer.byteLength / PAGE;
  if (missing <= 0) return;
  try {
    memory.grow(missing);
  } catch {
    throw new WellmorphError('rays/memory', `There is not enough memory for a mesh this large: ${(bytes / 1e6).toFixed(0)} MB are needed.`);
  }
}

/** Trees a thread keeps in its own memory at most, bytes, before it forgets them and takes what it needs anew. */
const RESIDENT = 96e6;

/** A memory that has grown larger than this is not kept for what comes next, bytes. */
const LARGE = 256e6;

/** A tree's arrays. */
interface Stored {
  nodes: Float32Array;
  packs: Float32Array;
}

/** Where a tree lies in a memory, bytes. */
export interface Resident {
  nodes: number;
  packs: number;
}

/**
 * This thread’s own memory: trees that nobody else sees are copied into it when they are asked, and forgotten together when they are
 * too many. The trees themselves are ordinary arrays, so they go when nobody holds them any more.
 */
class Own {
  readonly seat: Seat | null;
  /** Changes whenever what lies here has moved: whoever keeps a place or a view takes it anew. */
  generation = 1;
  private top = LANE_BYTES;
  private residents = new WeakMap<object, Resident>();

  constructor() {
    const module = moduleFor(false);
    this.seat = module && new Seat(module, new WebAssembly.Memory({ initial: LANE_BYTES / PAGE, maximum: 65536 }), 0);
  }

  /** Room for what is made now; what is there stays only if it is not too much. */
  private room(bytes: number): number {
    if (this.top + bytes > LANE_BYTES + RESIDENT && this.top > LANE_BYTES) {
      this.generation++;
      this.residents = new WeakMap();
      this.top = LANE_BYTES;
    }
    this.grown(this.top + bytes);
    return this.top;
  }

  private grown(bytes: number): void {
    const { memory } = this.seat as Seat;
    const before = memory.buffer;
    reach(memory, bytes);
    if (memory.buffer !== before) this.generation++;
  }

  /** Where a tree lies, copied in if need be. */
  of(tree: Stored): Resident {
    return this.residents.get(tree) ?? this.together([tree], 0).at[0];
  }

  /** Where some trees lie at the same time, and so many bytes beside them for as long as nothing else is asked. */
  together(trees: readonly Stored[], bytes: number): { at: Resident[]; room: number } {
    const size = (t: Stored) => t.nodes.byteLength + t.packs.byteLength;
    const missing = () => [...new Set(trees)].filter((t) => !this.residents.has(t));
    const before = missing().reduce((n, t) => n + size(t), bytes);
    // Forgets everything if that is too much with what is there; then all of them are missing.
    this.room(before);
    const now = missing();
    this.grown(this.top + now.reduce((n, t) => n + size(t), bytes));
    for (const t of now) this.put(t);
    return { at: trees.map((t) => this.residents.get(t) as Resident), room: this.top };
  }

  private put(tree: Stored): void {
    // Bits, not numbers: a pack has some that are none.
    const view = new Uint32Array((this.seat as Seat).memory.buffer);
    const bits = (a: Float32Array) => new Uint32Array(a.buffer, a.byteOffset, a.length);
    view.set(bits(tree.nodes), this.top / 4);
    view.set(bits(tree.packs), (this.top + tree.nodes.byteLength) / 4);
    this.residents.set(tree, { nodes: this.top, packs: this.top + tree.nodes.byteLength });
    this.top += tree.nodes.byteLength + tree.packs.byteLength;
  }

  /** Builds a tree here, to be kept as arrays. */
  build(soup: Float32Array): Stored {
    const { memory } = this.seat as Seat;
    const built = buildIn(this.seat as Seat, soup, (bytes) => this.room(bytes));
    const view = new Float32Array(memory.buffer);
    const part = (from: number, bytes: number) => view.slice(from / 4, (from + bytes) / 4);
    // Memory never shrinks: after something this large the next question starts with a new one, and this goes when nobody asks it any more.
    if (memory.buffer.byteLength > LARGE && own === this) own = null;
    return { nodes: part(built.nodes, NODE * built.nodeCount), packs: part(built.packs, PACK * built.packCount) };
  }
}

/** Bytes of a node and of a pack; see `assembly/layout.ts`. */
export const NODE = 128;
export const PACK = 160;

/** Builds a tree in a memory and returns where it lies; what the build needed beside it begins after `end` and may be used again. */
export function buildIn(
  { kernel, memory }: Seat,
  soup: Float32Array,
  room: (bytes: number) => number,
): { nodes: number; packs: number; nodeCount: number; packCount: number; end: number } {
  const count = soup.length / 9;
  const aligned = (bytes: number) => Math.ceil(bytes / 16) * 16;
  // Hardly ever more than this; degenerate heaps of triangles are built again with room for the worst.
  for (let share = 0.4; ; share *= 2) {
    const packRoom = Math.min(count, Math.ceil(share * count)) + 8;
    // There is never more than one node a pack.
    const nodeRoom = Math.min(count, Math.ceil(0.6 * share * count)) + 8;
    const [nodeBytes, packBytes, soupBytes] = [NODE * nodeRoom, PACK * packRoom, aligned(36 * count)];
    const at = room(nodeBytes + packBytes + soupBytes + 16 + kernel.workBytes(count) + 64);
    const soupAt = at + nodeBytes + packBytes;
    const usedAt = soupAt + soupBytes;
    new Float32Array(memory.buffer).set(soup, soupAt / 4);
    const packs = at + nodeBytes;
    if (kernel.build(soupAt, count, usedAt + 64, at, nodeRoom, packs, packRoom, usedAt) < 0) continue;
    const [nodeCount, packCount] = new Int32Array(memory.buffer, usedAt, 2);
    // The packs move up to the last node.
    const end = at + NODE * nodeCount;
    new Uint8Array(memory.buffer).copyWithin(end, packs, packs + PACK * packCount);
    return { nodes: at, packs: end, nodeCount, packCount, end: end + PACK * packCount };
  }
}

let own: Own | null = null;

/** This thread’s own memory, or null where no kernel can be loaded. */
export function ownMemory(): (Own & { seat: Seat }) | null {
  if (reference) return null;
  own ??= new Own();
  return own.seat ? (own as Own & { seat: Seat }) : null;
}
