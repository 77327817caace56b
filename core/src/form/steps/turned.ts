import { FormError } from '../../errors';
import { MeshBuilder, type PolyMesh, withAttribute } from '../../mesh/polymesh';
import { cutsOf, groupBands, layBelt } from '../../mesh/unroll';
import { figure } from '../../units/lengths';
import { balancedCount, balancedError, balancedScale, inscribedCount, inscribedError } from '../budget/chord';
import { curveLength, pointAt } from '../curves';
import { type Body, type EngravedRing, outlineOf, type Profile, type Stretch } from '../profile';
import { type Adaptive, countOf, type Detail, type Maker } from '../step';

/** A profile turned round the y axis. Lengths in mm. */
export interface TurnedStep {
  kind: 'turned';
  id: string;
  name: string;
  enabled: boolean;
  profile: Profile;
  body: Body;
  wall?: number;
  /** Radius of every edge left sharp, in the high mesh. */
  edgeRadius: number;
  /** Rings engraved in the high mesh. */
  rings: EngravedRing[];
}

/** No chord of a belt may be laid more than this off before a new island is started. */
const BELT_STRETCH = 1.05;

/** Straight walls of the high mesh are cut into rows no longer than this: slivers make a poor ray tree (measured: 1.6 × slower). */
const HIGH_ROW_MM = 6;

const lowOutline = (s: TurnedStep) => outlineOf(s.profile, { body: s.body, wall: s.wall });

function sidesOf(step: TurnedStep, stretches: readonly Stretch[]): Adaptive {
  let radius = 0;
  for (const s of stretches) for (let t = 0; t <= 4; t++) radius = Math.max(radius, pointAt(s.curve, t / 4)[0]);
  return {
    key: `${step.id}.sides`,
    label: `sides round Ø ${figure(2 * radius, 1)}`,
    minimum: 6,
    errorMm: (n) => balancedError(radius, n),
    countFor: (e) => balancedCount(radius, e, 6),
  };
}

function arcOf(step: TurnedStep, s: Stretch): Adaptive | undefined {
  if (s.curve.kind !== 'arc') return undefined;
  const { radius, sweep } = s.curve;
  return {
    key: `${step.id}.${s.count}`,
    label: `steps along ${s.patch}`,
    minimum: Math.abs(sweep) > 2.4 ? 2 : 1,
    errorMm: (n) => inscribedError(radius, n, Math.abs(sweep)),
    countFor: (e) => inscribedCount(radius, e, Math.abs(sweep), Math.abs(sweep) > 2.4 ? 2 : 1),
  };
}

interface Ring {
  r: number;
  y: number;
  /** The stretch that leads here from the ring before. */
  from?: Stretch;
  /** Share along that stretch. */
  v: number;
  sharp: boolean;
}

export const turned: Maker<TurnedStep> = {
  plan(step) {
    const { stretches } = lowOutline(step);
    const sides = sidesOf(step, stretches);
    const bands = stretches.map((s) => ({
      arc: arcOf(step, s),
      poles: (s.curve.a[0] < 1e-9 ? 1 : 0) + (s.curve.b[0] < 1e-9 ? 1 : 0),
    }));
    return {
      adaptive: [sides, ...bands.map((b) => b.arc).filter((a) => a !== undefined)],
      triangles: (count) => count(sides) * bands.reduce((n, b) => n + 2 * (b.arc ? count(b.arc) : 1) - b.poles, 0),
    };
  },

  build(step, detail) {
    const outline =
      detail.mesh === 'low'
        ? lowOutline(step)
        : outlineOf(step.profile, { body: step.body, wall: step.wall, edgeRadius: step.edgeRadius, rings: step.rings });
    const n = countOf(detail, sidesOf(step, outline.stretches));
    const rings = ringsOf(step, outline.stretches, detail);
    // The last ring of a closed outline is the first one again; what led to it leads there.
    if (outline.closed) rings[0].from = rings.pop()?.from;
    if (rings.every((r) => r.r < 1e-9))
      throw new FormError('turned/axis', `“${step.name}” lies on its axis everywhere; turned, it has no surface.`);
    return revolve(rings, n, outline.closed, detail.mesh === 'low' ? balancedScale(n) : 1);
  },
};

function ringsOf(step: TurnedStep, stretches: readonly Stretch[], detail: Detail): Ring[] {
  const rings: Ring[] = [];
  for (const [i, s] of stretches.entries()) {
    const arc = arcOf(step, s);
    const parts = arc ? countOf(detail, arc) : detail.mesh === 'high' ? Math.ceil(curveLength(s.curve) / HIGH_ROW_MM) : 1;
    if (i === 0) rings.push({ r: s.curve.a[0], y: s.curve.a[1], v: 0, sharp: s.sharpBefore });
    else rings[rings.length - 1].sharp = s.sharpBefore;
    for (let k = 1; k <= parts; k++) {
      const [r, y] = pointAt(s.curve, k / parts);
      rings.push({ r: Math.max(0, r), y, from: s, v: k / parts, sharp: false });
    }
  }
  return rings;
}

/**
 * Turns rings into a mesh, u to the right and v along the profile as seen from outside, and lays every belt of bands flat
 * (`chart`, `flat`: mm).
 */
function revolve(rings: readonly Ring[], n: number, closed: boolean, k: number): PolyMesh {
  const builder = new MeshBuilder();
  const bands = closed ? rings.length : rings.length - 1;
  const first = rings.map((ring) => {
    if (ring.r < 1e-9) return builder.vertex(0, ring.y, 0);
    const base = builder.vertex(ring.r * k, ring.y, 0);
    for (let i = 1; i < n; i++) {
      const a = (2 * Math.PI * i) / n;
      builder.vertex(ring.r * k * Math.cos(a), ring.y, -ring.r * k * Math.sin(a));
    }
    return base;
  });
  const at = (j: number, i: number): number =>
    rings[j % rings.length].r < 1e-9 ? first[j % rings.length] : first[j % rings.length] + (i % n);

  const chordOf = (j: number) => 2 * rings[j % rings.length].r * k * Math.sin(Math.PI / n);
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
      const low = rings[j];
      const high = rings[(j + 1) % rings.length];
      const patch = builder.patch(high.from?.patch ?? rings[rings.length - 1].from?.patch ?? 'wall');
      const v0 = low.from === high.from ? low.v : 0;
      const v1 = high.v || 1;
      for (let i = 0; i < n; i++) {
        const [u0, u1] = [i / n, (i + 1) / n];
        const corners: [number, number, number, number, boolean][] = [];
        if (low.r >= 1e-9) corners.push([j, i, u0, v0, low.sharp], [j, i + 1, u1, v0, false]);
        else corners.push([j, i + 0.5, (u0 + u1) / 2, v0, false]);
        if (high.r >= 1e-9) corners.push([j + 1, i + 1, u1, v1, high.sharp], [j + 1, i, u0, v1, false]);
        else corners.push([j + 1, i + 0.5, (u0 + u1) / 2, v1, false]);
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
  return laidOut(builder.build(), chart, flat);
}

/** Adds a maker's own flat layout to its mesh: the island of each face and where each corner lies in it, mm. */
export function laidOut(mesh: PolyMesh, chart: readonly number[], flat: readonly number[]): PolyMesh {
  const withChart = withAttribute(mesh, { name: 'chart', domain: 'face', size: 1, data: Int32Array.from(chart) });
  return withAttribute(withChart, { name: 'flat', domain: 'corner', size: 2, data: Float64Array.from(flat) });
}
