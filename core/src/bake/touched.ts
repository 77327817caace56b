import { bandsOf } from './bands';
import type { Dab } from './dabs';
import type { BakePair } from './prepare';

/**
 * Bands whose texels search other distances when other dabs are painted: those with a triangle that one of the dabs reaches which are not in
 * both lists. All others come out as they are.
 */
export function bandsTouched(
  pairs: readonly Pick<BakePair, 'id' | 'low'>[],
  before: readonly Dab[],
  now: readonly Dab[],
  size: number,
): number[] {
  const key = (d: Dab) => JSON.stringify([d.part, ...d.at, d.radius, d.front, d.rear]);
  const [a, b] = [before.map(key), now.map(key)];
  // Later dabs lie over earlier ones: what has only moved in the list counts from there on.
  let same = 0;
  while (same < a.length && same < b.length && a[same] === b[same]) same++;
  const changed = [...before.slice(same), ...now.slice(same)];
  const out = new Set<number>();
  for (const { id, low } of pairs) {
    const dabs = changed.filter((d) => d.part === id);
    if (dabs.length === 0) continue;
    for (let t = 0; t < low.triangles; t++) {
      if (!dabs.some((d) => reaches(d, low.position, t))) continue;
      const [first, last] = bandsOf(low.uv, t, size);
      for (let band = first; band <= last; band++) out.add(band);
    }
  }
  return [...out].sort((x, y) => x - y);
}

/** Whether a dab’s ball meets the box of a triangle. */
function reaches({ at, radius }: Dab, p: Float32Array, t: number): boolean {
  let far = 0;
  for (let k = 0; k < 3; k++) {
    const [a, b, c] = [p[9 * t + k], p[9 * t + 3 + k], p[9 * t + 6 + k]];
    const off = Math.max(Math.min(a, b, c) - at[k], at[k] - Math.max(a, b, c), 0);
    far += off * off;
  }
  return far < radius * radius;
}
