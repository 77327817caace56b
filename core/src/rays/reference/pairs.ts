/** The twin of `kernel/assembly/pairs.ts`: the same pairs in the same order. */
export function referencePairs(
  nodes: Float32Array,
  packs: Float32Array,
  about: Int32Array,
  visit: (s: number, t: number) => boolean,
): void {
  const refs = new Int32Array(nodes.buffer, nodes.byteOffset, nodes.length);
  const numbers = new Int32Array(packs.buffer, packs.byteOffset, packs.length);
  /** A branch is a child of a node: node · 4 + lane; this is where its box is. */
  const boxOf = (branch: number): number => 32 * (branch >> 2) + (branch & 3);
  const there = (branch: number): boolean => nodes[boxOf(branch)] !== Infinity;
  const meet = (p: number, q: number): boolean => {
    for (let k = 0; k < 12; k += 4) if (nodes[p + k] > nodes[q + 12 + k] || nodes[q + k] > nodes[p + 12 + k]) return false;
    return true;
  };
  const size = (p: number): number => {
    const [x, y, z] = [0, 4, 8].map((k) => Math.fround(nodes[p + 12 + k] - nodes[p + k]));
    return Math.fround(Math.fround(x + y) + z);
  };
  const span = (pack: number, lane: number, k: number): [number, number] => {
    const [a, b, c] = [0, 12, 24].map((corner) => packs[40 * pack + corner + 4 * k + lane]);
    return [Math.min(a, b, c), Math.max(a, b, c)];
  };
  const boxesMeet = (p: number, i: number, q: number, j: number): boolean =>
    [0, 1, 2].every((k) => {
      const [a, b] = [span(p, i, k), span(q, j, k)];
      return a[0] <= b[1] && b[0] <= a[1];
    });
  const akin = (s: number, t: number): boolean => {
    if (about[4 * s + 3] === about[4 * t + 3]) return true;
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) if (about[4 * s + i] === about[4 * t + j]) return true;
    return false;
  };
  const stack: number[] = [];
  const within = (node: number) => {
    for (let i = 0; i < 4; i++)
      for (let j = i; j < 4; j++) if (there(4 * node + i) && there(4 * node + j)) stack.push(4 * node + i, 4 * node + j);
  };
  within(0);
  while (stack.length > 0) {
    const b = stack.pop() as number;
    const a = stack.pop() as number;
    const [boxA, boxB] = [boxOf(a), boxOf(b)];
    if (a !== b && !meet(boxA, boxB)) continue;
    const [p, q] = [refs[boxA + 24], refs[boxB + 24]];
    if (p < 0 && q < 0) {
      for (let j = 0; j < 4; j++)
        for (let i = 0; i < (p === q ? j : 4); i++) {
          const [s, t] = [numbers[40 * ~p + 36 + i], numbers[40 * ~q + 36 + j]];
          if (s < 0 || t < 0 || !boxesMeet(~p, i, ~q, j) || akin(s, t)) continue;
          if (visit(Math.min(s, t), Math.max(s, t))) return;
        }
    } else if (a === b) within(p);
    else {
      const first = q < 0 || (p >= 0 && size(boxA) >= size(boxB));
      const [node, kept] = first ? [p, b] : [q, a];
      for (let i = 0; i < 4; i++) if (there(4 * node + i)) stack.push(4 * node + i, kept);
    }
  }
}
