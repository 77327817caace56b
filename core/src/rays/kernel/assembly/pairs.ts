import { IDS, NODE, PACK, REFS } from './layout';

/** A waiting pair of branches, each a node · 4 + lane. */
const WAITING: usize = 8;

@inline
function low(p: usize, k: usize): v128 {
  return f32x4.pmin(f32x4.pmin(v128.load(p + k), v128.load(p + k + 48)), v128.load(p + k + 96));
}
@inline
function high(p: usize, k: usize): v128 {
  return f32x4.pmax(f32x4.pmax(v128.load(p + k), v128.load(p + k + 48)), v128.load(p + k + 96));
}

@inline
function boxAt(nodes: usize, branch: i32): usize {
  return nodes + <usize>(branch >> 2) * NODE + (<usize>(branch & 3) << 2);
}

@inline
function meet(p: usize, q: usize): bool {
  return (
    load<f32>(p) <= load<f32>(q, 48) &&
    load<f32>(q) <= load<f32>(p, 48) &&
    load<f32>(p, 16) <= load<f32>(q, 64) &&
    load<f32>(q, 16) <= load<f32>(p, 64) &&
    load<f32>(p, 32) <= load<f32>(q, 80) &&
    load<f32>(q, 32) <= load<f32>(p, 80)
  );
}

@inline
function sizeOf(p: usize): f32 {
  return load<f32>(p, 48) - load<f32>(p) + (load<f32>(p, 64) - load<f32>(p, 16)) + (load<f32>(p, 80) - load<f32>(p, 32));
}

@inline
function there(nodes: usize, branch: i32): bool {
  return load<f32>(boxAt(nodes, branch)) != Infinity;
}

/** All pairs of a node’s children, each with itself too. */
function within(nodes: usize, node: i32, top: usize): usize {
  for (let i: i32 = 0; i < 4; i++)
    for (let j: i32 = i; j < 4; j++) {
      if (!there(nodes, 4 * node + i) || !there(nodes, 4 * node + j)) continue;
      store<i32>(top, 4 * node + i);
      store<i32>(top, 4 * node + j, 4);
      top += WAITING;
    }
  return top;
}

/** Whether two triangles share a corner or were cut from one face. */
@inline
function akin(about: usize, s: i32, t: i32): bool {
  const p = about + (<usize>s << 4);
  const q = about + (<usize>t << 4);
  const a = v128.load(p);
  const b = v128.load(q);
  // Corners in turn; the fourth is the face.
  const same = v128.or(
    v128.or(i32x4.eq(a, b), i32x4.eq(a, v128.shuffle<i32>(b, b, 1, 2, 0, 3))),
    i32x4.eq(a, v128.shuffle<i32>(b, b, 2, 0, 1, 3)),
  );
  return v128.any_true(same);
}

/**
 * Pairs of a mesh’s own triangles whose boxes meet and that share neither a corner nor a face. Both sides of the question are the same
 * tree, so each pair of its branches is looked at once.
 *
 * @param about 16 bytes a triangle by its number: three corners’ numbers and the face’s; corners and faces are never compared
 * @param stack where branches wait; holds the number of bytes in use in its first four, 0 to begin
 * @param out pairs of triangle numbers, at most `room`
 * @returns how many were written; when that is more than `room` less 16, the rest is had by calling again
 */
export function selfPairs(nodes: usize, packs: usize, about: usize, stack: usize, out: usize, room: i32): i32 {
  const bottom: usize = stack + 16;
  let top: usize = bottom;
  if (load<i32>(stack) == 0) top = within(nodes, 0, top);
  else top += <usize>load<i32>(stack) - 16;
  let count: i32 = 0;
  while (top > bottom && count <= room - 16) {
    top -= WAITING;
    const a = load<i32>(top);
    const b = load<i32>(top, 4);
    const boxA = boxAt(nodes, a);
    const boxB = boxAt(nodes, b);
    if (a != b && !meet(boxA, boxB)) continue;
    const p = load<i32>(boxA, REFS);
    const q = load<i32>(boxB, REFS);
    if (p < 0 && q < 0) {
      const pa = packs + <usize>~p * PACK;
      const pb = packs + <usize>~q * PACK;
      const lx = low(pa, 0);
      const ly = low(pa, 16);
      const lz = low(pa, 32);
      const hx = high(pa, 0);
      const hy = high(pa, 16);
      const hz = high(pa, 32);
      for (let j: i32 = 0; j < 4; j++) {
        const at: usize = pb + (<usize>j << 2);
        const t = load<i32>(at, IDS);
        if (t < 0) break;
        const x0 = min(min(load<f32>(at), load<f32>(at, 48)), load<f32>(at, 96));
        const y0 = min(min(load<f32>(at, 16), load<f32>(at, 64)), load<f32>(at, 112));
        const z0 = min(min(load<f32>(at, 32), load<f32>(at, 80)), load<f32>(at, 128));
        const x1 = max(max(load<f32>(at), load<f32>(at, 48)), load<f32>(at, 96));
        const y1 = max(max(load<f32>(at, 16), load<f32>(at, 64)), load<f32>(at, 112));
        const z1 = max(max(load<f32>(at, 32), load<f32>(at, 80)), load<f32>(at, 128));
        const x = v128.and(f32x4.le(lx, f32x4.splat(x1)), f32x4.ge(hx, f32x4.splat(x0)));
        const y = v128.and(f32x4.le(ly, f32x4.splat(y1)), f32x4.ge(hy, f32x4.splat(y0)));
        const z = v128.and(f32x4.le(lz, f32x4.splat(z1)), f32x4.ge(hz, f32x4.splat(z0)));
        let mask: i32 = i32x4.bitmask(v128.and(x, v128.and(y, z)));
        // Within one pack each pair once.
        if (p == q) mask &= (1 << j) - 1;
        while (mask != 0) {
          const lane: usize = <usize>ctz(mask) << 2;
          mask &= mask - 1;
          const s = load<i32>(pa + lane, IDS);
          if (s < 0 || akin(about, s, t)) continue;
          store<i32>(out + (<usize>count << 3), min(s, t));
          store<i32>(out + (<usize>count << 3), max(s, t), 4);
          count++;
        }
      }
    } else if (a == b) top = within(nodes, p, top);
    else {
      const first = q < 0 || (p >= 0 && sizeOf(boxA) >= sizeOf(boxB));
      const node = first ? p : q;
      const kept = first ? b : a;
      for (let i: i32 = 0; i < 4; i++) {
        if (!there(nodes, 4 * node + i)) continue;
        store<i32>(top, 4 * node + i);
        store<i32>(top, kept, 4);
        top += WAITING;
      }
    }
  }
  store<i32>(stack, <i32>(top - bottom) + 16);
  return count;
}
