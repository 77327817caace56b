import { edgesOf, edgeValence, Groups } from '../../mesh/connectivity';
import { attribute, faceCount, type PolyMesh } from '../../mesh/polymesh';
import { UNLAID } from '../../mesh/rework';
import type { Flattened } from '../charts';

/**
 * The layout a maker brought with its mesh, its islands cut further along picked seams and the borders of weighted regions:
 * faces stay together where they lie side by side in it and no seam is between them. Islands on both sides of an edge that a person closed
 * are left to be laid, as are those that `freed` faces are on.
 */
export function ownLayout(mesh: PolyMesh, freed: readonly number[] = []): Flattened | null {
  const chart = attribute(mesh, 'chart', 'face')?.data;
  const flat = attribute(mesh, 'flat', 'corner')?.data;
  if (!chart || !flat) return null;
  const closed = attribute(mesh, 'joined', 'corner')?.data;
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const region = attribute(mesh, 'region', 'face')?.data;
  const whole = (island: Int32Array): Flattened => {
    const islands = island.reduce((n, c) => Math.max(n, c + 1), 0);
    return { island, flat: Float64Array.from(flat), islands, method: new Array(islands).fill('exact') };
  };
  // A surface that steps changed may have lost some islands and have others cut in two: they are counted anew.
  const left = new Set(chart);
  const changed = left.has(UNLAID) || left.size !== 1 + Math.max(UNLAID, ...left);
  if (!seam && !region && !closed && !changed && freed.length === 0) return whole(Int32Array.from(chart));
  const edges = edgesOf(mesh);
  const groups = new Groups(faceCount(mesh));
  const wanted: number[] = [...freed];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
    if (closed?.[a] || closed?.[b]) wanted.push(f, g);
    if (chart[f] !== chart[g] || seam?.[a] || seam?.[b] || (region && region[f] !== region[g])) continue;
    const [a1, b1] = [edges.next[a], edges.next[b]];
    // Twins run opposite ways: a starts where b ends.
    const beside = (c: number, d: number) => Math.abs(flat[2 * c] - flat[2 * d]) + Math.abs(flat[2 * c + 1] - flat[2 * d + 1]) < 1e-6;
    if (chart[f] === UNLAID || (beside(a, b1) && beside(a1, b))) groups.join(f, g);
  }
  // Islands that a person wants joined are laid anew, together.
  const released = new Set(wanted.map((f) => groups.find(f)));
  const numbers = new Map<number, number>();
  return whole(
    Int32Array.from(chart, (c, f) => {
      const root = groups.find(f);
      if (c === UNLAID || released.has(root)) return UNLAID;
      if (!numbers.has(root)) numbers.set(root, numbers.size);
      return numbers.get(root) as number;
    }),
  );
}
