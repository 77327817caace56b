import { buildIn, NODE, ownMemory, PACK, reach, sharedMemory, sharedSeat, use, usedOf } from './kernel/host';
import { referenceBuild } from './reference/build';

/**
 * A tree of boxes over triangles for rays and nearest points, four children a node, four triangles a leaf, built by the surface-area
 * heuristic in bins (Wald 2007). It is made of flat arrays and plain values, so it can be handed to another thread.
 */
export interface RayTree {
  /** Nodes of 128 bytes, packs of 160; `kernel/assembly/layout.ts` says how they lie. */
  nodes: Float32Array;
  packs: Float32Array;
  /** How many triangles it has. */
  triangles: number;
  /** Origin the float32 positions are about, mm. */
  origin: [number, number, number];
  /** The memory that nodes and packs lie in, where several threads ask the same tree. */
  memory?: WebAssembly.Memory;
}

/** How buffers are made, and where trees are built that several threads ask. */
export interface Allocate {
  (bytes: number): ArrayBufferLike;
  readonly trees?: WebAssembly.Memory;
}
/** For what one thread has for itself. */
export const PRIVATE: Allocate = (bytes) => new ArrayBuffer(bytes);

/** For one job that several threads do: its arrays can be seen by all, its trees lie once in one memory. */
export function sharedRoom(): Allocate {
  const trees = sharedMemory();
  const room: Allocate = (bytes) => new SharedArrayBuffer(bytes);
  return trees ? Object.assign(room, { trees }) : room;
}

/**
 * @param soup 9 numbers per triangle, mm
 * @param allocate where the arrays live
 * @throws WellmorphError `rays/memory` when there is not enough of it
 */
export function buildTree(soup: ArrayLike<number>, allocate: Allocate = PRIVATE): RayTree {
  const origin = middle(soup);
  const local = new Float32Array(soup.length);
  for (let i = 0; i < soup.length; i += 3) {
    // Nothing is added, so that no zero is a negative one: boxes are then the same whatever order they are gathered in.
    local[i] = soup[i] - origin[0] + 0;
    local[i + 1] = soup[i + 1] - origin[1] + 0;
    local[i + 2] = soup[i + 2] - origin[2] + 0;
  }
  const about = { triangles: soup.length / 9, origin };
  if (soup.length === 0) return { nodes: new Float32Array(0), packs: new Float32Array(0), ...about };
  const seat = allocate.trees && sharedSeat(allocate.trees);
  if (allocate.trees && seat) {
    const memory = allocate.trees;
    const start = usedOf(memory);
    const built = buildIn(seat, local, (bytes) => {
      reach(memory, start + bytes);
      return start;
    });
    use(memory, built.end);
    return {
      nodes: new Float32Array(memory.buffer, built.nodes, (NODE / 4) * built.nodeCount),
      packs: new Float32Array(memory.buffer, built.packs, (PACK / 4) * built.packCount),
      ...about,
      memory,
    };
  }
  const { nodes, packs } = ownMemory()?.build(local) ?? referenceBuild(local);
  if (allocate === PRIVATE) return { nodes, packs, ...about };
  return { nodes: inBuffer(nodes, allocate), packs: inBuffer(packs, allocate), ...about };
}

/** The same numbers in memory made by the host. */
function inBuffer(values: Float32Array, allocate: Allocate): Float32Array {
  // Bits, not numbers: a pack has some that are none.
  const out = new Float32Array(allocate(values.byteLength));
  new Uint32Array(out.buffer).set(new Uint32Array(values.buffer, values.byteOffset, values.length));
  return out;
}

/** The middle of all corners, as a float32. */
export function middle(soup: ArrayLike<number>): [number, number, number] {
  let [lx, ly, lz] = [Infinity, Infinity, Infinity];
  let [hx, hy, hz] = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < soup.length; i += 3) {
    const x = soup[i];
    const y = soup[i + 1];
    const z = soup[i + 2];
    if (x < lx) lx = x;
    if (x > hx) hx = x;
    if (y < ly) ly = y;
    if (y > hy) hy = y;
    if (z < lz) lz = z;
    if (z > hz) hz = z;
  }
  return soup.length === 0 ? [0, 0, 0] : [Math.fround((lx + hx) / 2), Math.fround((ly + hy) / 2), Math.fround((lz + hz) / 2)];
}
