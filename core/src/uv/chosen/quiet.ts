/** Steps a turn is looked at in. */
const STEPS = 360;
/** As quiet as the quietest: within this share of the mean. */
const ALIKE = 0.05;

/**
 * The angle to cut at what goes all round: where least lies, of those the middle of the widest gap, or else the one nearest to 0; there the
 * end of something that lies round, so that as little as possible is cut through.
 *
 * @param arcs what lies where, radians, `to` ≥ `from`, any turn
 */
export function quietAngle(arcs: readonly { from: number; to: number; weight: number }[]): number {
  const step = (2 * Math.PI) / STEPS;
  const load = new Float64Array(STEPS);
  const ends: number[] = [];
  for (const { from, to, weight } of arcs) {
    const [a, b] = [Math.floor(from / step), Math.max(Math.floor(from / step) + 1, Math.ceil(to / step))];
    for (let i = a; i < b && i < a + STEPS; i++) load[((i % STEPS) + STEPS) % STEPS] += weight / (b - a);
    ends.push(from, to);
  }
  const mean = load.reduce((s, x) => s + x, 0) / STEPS;
  const least = load.reduce((s, x) => Math.min(s, x), Infinity);
  const quiet = load.map((x) => (x <= least + ALIKE * mean ? 1 : 0));
  const off = (a: number): number => Math.abs(a - 2 * Math.PI * Math.round(a / (2 * Math.PI)));
  if (least === 0) {
    const gap = widest(load);
    if (gap) return (gap.first + gap.count / 2) * step;
  }
  let best = 0;
  for (let i = 0; i < STEPS; i++) if (quiet[i] && (!quiet[best] || off((i + 0.5) * step) < off((best + 0.5) * step))) best = i;
  const wanted = (best + 0.5) * step;
  const near = ends.reduce((found, e) => (off(e - wanted) < off(found - wanted) ? e : found), ends[0] ?? wanted);
  return off(near - wanted) < Math.PI / 6 ? near : wanted;
}

/** The longest run of nothing, round the end; null where there is none. */
function widest(load: ArrayLike<number>): { first: number; count: number } | null {
  let best: { first: number; count: number } | null = null;
  const n = load.length;
  for (let first = 0; first < n; first++) {
    if (load[first] > 0 || (load[(first + n - 1) % n] === 0 && first > 0)) continue;
    let count = 0;
    while (count < n && load[(first + count) % n] === 0) count++;
    if (!best || count > best.count) best = { first, count };
  }
  return best;
}
