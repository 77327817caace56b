import type { Bounds } from './measures';

/**
 * Pairs of boxes that come within a distance of each other, by sweeping along the axis they are spread most along (Baraff 1992):
 * a thousand that stand apart are a thousand steps, not half a million. Empty boxes are near nothing.
 *
 * @returns pairs of indices, the lower first, in order
 */
export function nearPairs(boxes: readonly Bounds[], reach: number): [number, number][] {
  const filled = boxes.map((_, i) => i).filter((i) => boxes[i].min[0] <= boxes[i].max[0]);
  const spread = [0, 1, 2].map((k) => {
    const middles = filled.map((i) => boxes[i].min[k] + boxes[i].max[k]);
    const mean = middles.reduce((s, x) => s + x, 0) / Math.max(1, middles.length);
    return middles.reduce((s, x) => s + (x - mean) ** 2, 0);
  });
  const axis = spread.indexOf(Math.max(...spread));
  filled.sort((a, b) => boxes[a].min[axis] - boxes[b].min[axis] || a - b);
  const out: [number, number][] = [];
  let open: number[] = [];
  for (const i of filled) {
    const { min, max } = boxes[i];
    open = open.filter((j) => boxes[j].max[axis] + reach >= min[axis]);
    for (const j of open)
      if ([0, 1, 2].every((k) => min[k] - reach <= boxes[j].max[k] && boxes[j].min[k] - reach <= max[k])) out.push(i < j ? [i, j] : [j, i]);
    open.push(i);
  }
  return out.sort((x, y) => x[0] - y[0] || x[1] - y[1]);
}
