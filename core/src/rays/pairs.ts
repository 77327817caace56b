import { ownMemory, RAYS_AT } from './kernel/host';
import { referencePairs } from './reference/pairs';
import type { RayTree } from './tree';

/** Pairs that are fetched at a time. */
const ROOM = 32768;

/**
 * Pairs of a tree's own triangles whose boxes meet and that share neither a corner nor a face, each once.
 *
 * @param about 4 numbers a triangle: its three corners, by number, and the face it was cut from
 * @param visit is told both numbers, the lower first; true ends it
 */
export function selfPairs(tree: RayTree, about: Int32Array, visit: (s: number, t: number) => boolean): void {
  if (tree.triangles < 2) return;
  const own = ownMemory();
  if (!own) {
    referencePairs(tree.nodes, tree.packs, about, visit);
    return;
  }
  const { kernel, memory } = own.seat;
  const outBytes = 8 * ROOM;
  const { at, room } = own.together([tree], about.byteLength + outBytes);
  const { nodes, packs } = at[0];
  new Int32Array(memory.buffer).set(about, room / 4);
  const out = room + about.byteLength;
  const stack = own.seat.scratch + RAYS_AT;
  new Int32Array(memory.buffer)[stack / 4] = 0;
  for (;;) {
    const count = kernel.selfPairs(nodes, packs, room, stack, out, ROOM);
    // Taken out before anything is asked: whoever is told may use the memory.
    const found = new Int32Array(memory.buffer, out, 2 * count);
    for (let i = 0; i < found.length; i += 2) if (visit(found[i], found[i + 1])) return;
    if (count <= ROOM - 16) return;
  }
}
