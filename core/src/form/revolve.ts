import type { PolyMesh } from '../mesh/polymesh';
import { MeshBuilder, withAttribute } from '../mesh/polymesh';
import { cutsOf, groupBands, layBelt } from '../mesh/unroll';
import type { Stretch } from './profile';

/** No chord of a belt may be laid more than this off before a new island is started. */
const BELT_STRETCH = 1.05;

/** A ring of a turned body: the profile at one place. */
export interface Ring {
  /** mm from the axis. */
  r: number;
  y: number;
  /** The stretch that leads here from the ring before. */
  from?: Stretch;
  /** Share along that stretch. */
  v: number;
  /** The edge round it is hard. */
  sharp: boolean;
}

/** How rings are turned. */
export interface Revolution {
  /** Chords over the whole turn. */
  n: number;
  /** Radians. */
  turn: number;
  /** The last ring joins the first. */
  closed: boolean;
  /** Closes a part turn with two flat faces. */
  sides: boolean;
  /** What radii are multiplied by, for balanced chords. */
  scale: number;
  /** Flat ends that a grid of quads closes instead of a fan. */
  isGrid(stretch: Stretch): boolean;
}

/**
 * Turns rings into a mesh, u to the right and v along the profile as seen from outside, and lays every belt of bands flat
 * (`chart`, `flat`: mm).
 */
export function revolve(rings: readonly Ring[], { n, turn, closed, sides, scale: k, isGrid }: Revolution): PolyMesh {
  const full = turn >= 2 * Math.PI - 1e-9;
  const builder = new MeshBuilder();
  const bands = closed ? rings.length : rings.length - 1;
  const columns = full ? n : n + 1;
  const angleOf = (i: number) => (turn * i) / n;
  const grids = new Set<Ring>();
  for (let j = 0; j < bands; j++) {
    const [a, b] = [rings[j], rings[(j + 1) % rings.length]];
    if (b.from && isGrid(b.from)) grids.add(a.r < 1e-9 ? a : b);
  }
  const first = rings.map((ring) => {
    if (grids.has(ring)) return -1;
    if (ring.r < 1e-9) return builder.vertex(0, ring.y, 0);
    const base = builder.vertex(ring.r * k, ring.y, 0);
    for (let i = 1; i < columns; i++) {
      const a = angleOf(i);
      builder.vertex(ring.r * k * Math.cos(a), ring.y, -ring.r * k * Math.sin(a));
    }
    return base;
  });
  const at = (j: number, i: number): number => {
    const ring = rings[j % rings.length];
    return ring.r < 1e-9 ? first[j % rings.length] : first[j % rings.length] + (i % columns);
  };

  const chordOf = (j: number) => 2 * rings[j % rings.length].r * k * Math.sin(turn / (2 * n));
  const slantOf = (j: number) => {
    const [a, b] = [rings[j], rings[(j + 1) % rings.length]];
    return Math.hypot((b.r - a.r) * k, b.y - a.y);
  };
  const chords = Array.from({ length: bands + 1 }, (_, j) => (rings[j % rings.length].r < 1e-9 ? 0 : chordOf(j)));
  const slants = Array.from({ length: bands }, (_, j) => slantOf(j));
  const belts = groupBands(chords, slants, n, (j) => rings[j % rings.length].sharp, BELT_STRETCH);

  const chart: number[] = [];
  const flat: number[] = [];
  let islands = 0;
  for (const [from, to] of belts) {
    const belt = layBelt(chords.slice(from, to + 1), slants.slice(from, to), n);
    const cuts = cutsOf(belt, to - from + 1, n);
    const pieceOf = (i: number) => cuts.findIndex((c, p) => i >= c && i < cuts[p + 1]);
    for (let j = from; j < to; j++) {
      const lower = rings[j];
      const upper = rings[(j + 1) % rings.length];
      if (grids.has(lower) || grids.has(upper)) {
        gridCap(builder, { lower, upper, rim: grids.has(lower) ? j + 1 : j, n, k, at }, chart, flat, islands);
        continue;
      }
      const patch = builder.patch(upper.from?.patch ?? 'wall');
      const v0 = lower.from === upper.from ? lower.v : (upper.from?.v[0] ?? 0);
      const v1 = upper.v;
      for (let i = 0; i < n; i++) {
        const [u0, u1] = [i / n, (i + 1) / n];
        const corners: [number, number, number, number, boolean][] = [];
        if (lower.r >= 1e-9) corners.push([j, i, u0, v0, lower.sharp], [j, i + 1, u1, v0, !full && i + 1 === n]);
        else corners.push([j, i + 0.5, (u0 + u1) / 2, v0, !full && i + 1 === n]);
        if (upper.r >= 1e-9) corners.push([j + 1, i + 1, u1, v1, upper.sharp], [j + 1, i, u0, v1, !full && i === 0]);
        else corners.push([j + 1, i + 0.5, (u0 + u1) / 2, v1, !full && i === 0]);
        if (corners.length < 3) continue;
        builder.face(
          corners.map(([ring, column]) => at(ring, Math.floor(column))),
          patch,
          corners.flatMap(([, , u, v]) => [u, v]),
          corners.map((c) => c[4]),
        );
        chart.push(islands + pieceOf(i));
        for (const [ring, column] of corners) flat.push(...belt.at(ring - from, column));
      }
    }
    islands += cuts.length - 1;
  }
  if (!full && sides) for (const side of [0, 1]) cutFace(builder, rings, side === 0 ? 0 : n, k, at, chart, flat, islands++);
  return laidOut(builder.build(), chart, flat);
}

/** One of the two flat faces of a part turn: the outline itself. */
function cutFace(
  builder: MeshBuilder,
  rings: readonly Ring[],
  column: number,
  k: number,
  at: (j: number, i: number) => number,
  chart: number[],
  flat: number[],
  island: number,
): void {
  const order = rings.map((_, j) => j);
  // Seen from outside the face at the start shows the outline as drawn, the one at the end its mirror image.
  if (column > 0) order.reverse();
  const width = Math.max(...rings.map((r) => r.r));
  const [y0, y1] = [Math.min(...rings.map((r) => r.y)), Math.max(...rings.map((r) => r.y))];
  builder.face(
    order.map((j) => at(j, column)),
    builder.patch(column === 0 ? 'start' : 'end'),
    order.flatMap((j) => [rings[j].r / width, (rings[j].y - y0) / Math.max(y1 - y0, 1e-9)]),
    order.map(() => true),
  );
  chart.push(island);
  const mirror = column === 0 ? 1 : -1;
  for (const j of order) flat.push(mirror * rings[j].r * k, rings[j].y);
}

interface Cap {
  lower: Ring;
  upper: Ring;
  /** The ring it closes. */
  rim: number;
  n: number;
  k: number;
  at(j: number, i: number): number;
}

/** Closes a ring of n = 4m corners with m × m quads: bilinear Coons patch of its four quarters (Coons 1967), flat as the ring is. */
function gridCap(builder: MeshBuilder, cap: Cap, chart: number[], flat: number[], island: number): void {
  const { lower, upper, n, k } = cap;
  const up = upper.r < 1e-9;
  const ring = up ? lower : upper;
  const m = n / 4;
  const rim = (i: number): [number, number] => {
    const a = (2 * Math.PI * i) / n;
    return [ring.r * k * Math.cos(a), -ring.r * k * Math.sin(a)];
  };
  // Sides of the square: c0 from 0 to m, d1 from m to 2m, c1 from 3m back to 2m, d0 from 0 back through 4m to 3m.
  const point = (s: number, t: number): [number, number] => {
    const [u, v] = [s / m, t / m];
    const [c0, c1, d0, d1] = [rim(s), rim(3 * m - s), rim(4 * m - t), rim(m + t)];
    const [p00, p10, p01, p11] = [rim(0), rim(m), rim(3 * m), rim(2 * m)];
    return [0, 1].map(
      (x) =>
        (1 - v) * c0[x] +
        v * c1[x] +
        (1 - u) * d0[x] +
        u * d1[x] -
        ((1 - u) * (1 - v) * p00[x] + u * (1 - v) * p10[x] + (1 - u) * v * p01[x] + u * v * p11[x]),
    ) as [number, number];
  };
  const onRim = (s: number, t: number): number => (t === 0 ? s : s === m ? m + t : t === m ? 3 * m - s : s === 0 ? (4 * m - t) % n : -1);
  const vertices = new Map<number, number>();
  const vertex = (s: number, t: number): number => {
    const r = onRim(s, t);
    if (r >= 0) return cap.at(cap.rim, r);
    const key = s * (m + 1) + t;
    let v = vertices.get(key);
    if (v === undefined) {
      const [x, z] = point(s, t);
      v = builder.vertex(x, ring.y, z);
      vertices.set(key, v);
    }
    return v;
  };
  const patch = builder.patch(upper.from?.patch ?? 'cap');
  const [vRim, vPole] = up ? [upper.from?.v[0] ?? 0, upper.v] : [upper.v, upper.from?.v[0] ?? 0];
  for (let s = 0; s < m; s++)
    for (let t = 0; t < m; t++) {
      const corners: [number, number][] = [
        [s, t],
        [s + 1, t],
        [s + 1, t + 1],
        [s, t + 1],
      ];
      // The quarters run counter-clockwise seen from above.
      if (!up) corners.reverse();
      const places = corners.map(([a, b]) => point(a, b));
      const middle = Math.atan2(-(places[0][1] + places[2][1]), places[0][0] + places[2][0]) / (2 * Math.PI);
      const coordinates = places.flatMap(([x, z]) => {
        const r = Math.hypot(x, z);
        const own = r < 1e-9 ? middle : Math.atan2(-z, x) / (2 * Math.PI);
        const base = ((middle % 1) + 1) % 1;
        const u = base + (own - middle - Math.round(own - middle));
        return [Math.min(1, Math.max(0, u)), vPole + (r / (ring.r * k)) * (vRim - vPole)].map((c) => Math.min(1, Math.max(0, c)));
      });
      builder.face(
        corners.map(([a, b]) => vertex(a, b)),
        patch,
        coordinates,
        corners.map(([a, b], i) => {
          const [c, d] = corners[(i + 1) % 4];
          return ring.sharp && onRim(a, b) >= 0 && onRim(c, d) >= 0 && (a === c ? a % m === 0 : b % m === 0);
        }),
      );
      chart.push(island);
      for (const [x, z] of places) flat.push(x, up ? -z : z);
    }
}

/** Adds a maker's own flat layout to its mesh: the island of each face and where each corner lies in it, mm. */
function laidOut(mesh: PolyMesh, chart: readonly number[], flat: readonly number[]): PolyMesh {
  const withChart = withAttribute(mesh, { name: 'chart', domain: 'face', size: 1, data: Int32Array.from(chart) });
  return withAttribute(withChart, { name: 'flat', domain: 'corner', size: 2, data: Float64Array.from(flat) });
}
