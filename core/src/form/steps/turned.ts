import { FormError } from '../../errors';
import { figure, millimetres } from '../../units/lengths';
import { balancedCount, balancedError, balancedScale, inscribedCount, inscribedError } from '../budget/chord';
import { curveLength, pointAt } from '../curves';
import { angle, choice, type Field, length, place, plain, size, words } from '../fields';
import { type Body, type Drawn, drawnCurves, type EngravedRing, outlineOf, type Profile, type Stretch } from '../profile';
import { type Ring, revolve } from '../revolve';
import { areaInside, type Chain, chainsOf, pathOf, reversed, settled } from '../sketch/chains';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind, type Topology } from '../step';

/** A profile turned round the y axis. Lengths in mm. */
export interface TurnedStep extends StepBase {
  kind: 'turned';
  /** Corners and what joins them; a sketch takes its place where there is one. */
  profile: Profile;
  /** A constrained drawing of the same line: across is the radius, up is the height. */
  sketch?: Sketch;
  body: Body;
  wall?: number;
  /** Which side of the wall the profile is; the outside when absent. */
  drawnIs?: 'outside' | 'inside';
  /** How far it is turned; a full turn when absent. */
  turnDegrees?: number;
  /** How flat ends meet the axis: triangles to the middle, or a grid of quads. */
  centre?: 'fan' | 'grid';
  /** Radius of every edge left sharp, in the high mesh. */
  edgeRadius: number;
  /** Rings engraved in the high mesh. */
  rings: EngravedRing[];
}

/** Straight walls of the high mesh are cut into rows no longer than this: slivers make a poor ray tree (measured: 1.6 × slower). */
const HIGH_ROW_MM = 6;

/** The drawn line of a turned step: its sketch brought to its constraints, or its profile. @throws FormError */
export function drawnOf(step: TurnedStep): Drawn {
  if (!step.sketch) return drawnCurves(step.profile);
  const ring = ringOf(step.sketch, step.name);
  if (ring) return ring;
  let chain = pathOf(step.sketch, step.name);
  const [a, b] = [chain.curves[0].a, chain.curves[chain.curves.length - 1].b];
  // From the foot upward; level ends start nearer to the axis, as a cup's floor does.
  if (b[1] < a[1] - 1e-9 || (Math.abs(a[1] - b[1]) <= 1e-9 && b[0] < a[0])) chain = reversed(chain);
  for (const c of chain.curves)
    for (const p of [c.a, c.b])
      if (p[0] < -1e-7)
        throw new FormError(
          'profile/radius',
          `The sketch of “${step.name}” crosses its axis by ${millimetres(-p[0])}; keep it to the right.`,
        );
  return drawnChain(chain);
}

/** A sketch's chain as a drawn line: its corners are rounded in the sketch or not at all. */
const drawnChain = (chain: Chain): Drawn => ({
  curves: chain.curves,
  ids: chain.ids,
  names: chain.names,
  fillets: chain.curves.map(() => 0),
  corners: chain.ids.map((id) => `${id}.start`),
  closed: chain.closed,
});

/** A sketch that is one closed outline beside the axis makes a ring: a hoop, a tyre, a torus. */
function ringOf(sketch: Sketch, name: string): Drawn | null {
  const chains = chainsOf(settled(sketch, name), name);
  if (chains.length !== 1 || !chains[0].closed) return null;
  const chain = areaInside(chains[0]) > 0 ? chains[0] : reversed(chains[0]);
  for (const c of chain.curves)
    for (let t = 0; t < 1; t += 1 / 16)
      if (pointAt(c, t)[0] < 1e-7)
        throw new FormError(
          'profile/ring',
          `The closed outline of “${name}” reaches its axis; keep it beside the axis, or leave it open there.`,
        );
  return drawnChain(chain);
}

const outline = (s: TurnedStep, high = false) =>
  outlineOf(drawnOf(s), {
    body: s.body,
    wall: s.wall,
    drawnIs: s.drawnIs,
    ...(high && { edgeRadius: s.edgeRadius, rings: s.rings }),
  });

const turnOf = (step: TurnedStep): number => {
  const degrees = step.turnDegrees ?? 360;
  if (!(degrees > 0 && degrees <= 360))
    throw new FormError('turned/turn', `“${step.name}” is turned ${figure(degrees)}°; it can be more than 0° and at most 360°.`);
  return (degrees * Math.PI) / 180;
};
const isFull = (step: TurnedStep): boolean => (step.turnDegrees ?? 360) >= 360 - 1e-9;

function sidesOf(step: TurnedStep, stretches: readonly Stretch[]): Adaptive {
  let radius = 0;
  for (const s of stretches) for (let t = 0; t <= 4; t++) radius = Math.max(radius, pointAt(s.curve, t / 4)[0]);
  const turn = turnOf(step);
  const minimum = isFull(step) ? 6 : Math.max(1, Math.ceil(turn / 1.05));
  return {
    key: `${step.id}.sides`,
    label: `sides round Ø ${millimetres(2 * radius, 1)}`,
    minimum,
    ...(step.centre === 'grid' && isFull(step) && { every: 4 }),
    errorMm: (n) => balancedError(radius, n, turn),
    countFor: (e) => balancedCount(radius, e, minimum, turn),
  };
}

function arcOf(step: TurnedStep, s: Stretch): Adaptive | undefined {
  if (s.curve.kind !== 'arc') return undefined;
  const { radius, sweep } = s.curve;
  return {
    key: `${step.id}.${s.count}`,
    label: `steps along ${s.label}`,
    minimum: Math.abs(sweep) > 2.4 ? 2 : 1,
    errorMm: (n) => inscribedError(radius, n, Math.abs(sweep)),
    countFor: (e) => inscribedCount(radius, e, Math.abs(sweep), Math.abs(sweep) > 2.4 ? 2 : 1),
  };
}

/** Whether a stretch is a flat end that a grid of quads can close. */
const isGrid = (step: TurnedStep, s: Stretch): boolean =>
  step.centre === 'grid' &&
  isFull(step) &&
  s.curve.kind === 'line' &&
  Math.abs(s.curve.a[1] - s.curve.b[1]) < 1e-9 &&
  s.curve.a[0] < 1e-9 !== s.curve.b[0] < 1e-9;

const maker: Maker<TurnedStep> = {
  plan(step) {
    const { stretches, closed } = outline(step);
    const sides = sidesOf(step, stretches);
    const bands = stretches.map((s) => ({
      arc: arcOf(step, s),
      poles: (s.curve.a[0] < 1e-9 ? 1 : 0) + (s.curve.b[0] < 1e-9 ? 1 : 0),
      grid: isGrid(step, s),
    }));
    const cut = !isFull(step) && (closed || step.body !== 'open');
    return {
      adaptive: [sides, ...bands.map((b) => b.arc).filter((a) => a !== undefined)],
      triangles: (count) => {
        const n = count(sides);
        const rows = bands.reduce((sum, b) => sum + (b.arc ? count(b.arc) : 1), 0);
        // A cut face has a corner for each ring: one more than rows where the outline is open.
        const cuts = cut ? 2 * (rows + (closed ? 0 : 1) - 2) : 0;
        return cuts + bands.reduce((sum, b) => sum + (b.grid ? (n * n) / 8 : n * (2 * (b.arc ? count(b.arc) : 1) - b.poles)), 0);
      },
    };
  },

  build(step, detail) {
    const { stretches, closed } = outline(step, detail.mesh === 'high');
    const n = countOf(detail, sidesOf(step, stretches));
    const rings = ringsOf(step, stretches, detail);
    // The last ring of a closed outline is the first one again; what led to it leads there.
    if (closed) rings[0].from = rings.pop()?.from;
    if (rings.every((r) => r.r < 1e-9))
      throw new FormError('turned/axis', `“${step.name}” lies on its axis everywhere; turned, it has no surface.`);
    const [turn, low] = [turnOf(step), detail.mesh === 'low'];
    return revolve(rings, {
      n,
      turn,
      closed,
      sides: closed || step.body !== 'open',
      scale: low ? balancedScale(n, turn) : 1,
      isGrid: (stretch) => low && isGrid(step, stretch),
    });
  },

  topology(step): Topology {
    const { stretches, closed } = outline(step);
    const [first, last] = [stretches[0].curve.a, stretches[stretches.length - 1].curve.b];
    const poles = (first[0] < 1e-9 ? 1 : 0) + (last[0] < 1e-9 ? 1 : 0);
    // A wall that meets the axis on its way is a bell; where it begins and ends there too, its hollow is shut in.
    const meets = stretches.slice(0, -1).some((s) => s.curve.b[0] < 1e-9);
    if (isFull(step) && meets) return { shells: poles === 2 ? 2 : 1, genus: 0, rims: 0 };
    if (isFull(step)) return closed ? { shells: 1, genus: 1, rims: 0 } : { shells: 1, genus: 0, rims: 2 - poles };
    // Cut open it is a sheet; solid and walled ones get two flat sides that close it.
    return { shells: 1, genus: 0, rims: step.body === 'open' && !closed ? 1 : 0 };
  },
};

function ringsOf(step: TurnedStep, stretches: readonly Stretch[], detail: Detail): Ring[] {
  const rings: Ring[] = [];
  for (const [i, s] of stretches.entries()) {
    const arc = arcOf(step, s);
    const parts = arc ? countOf(detail, arc) : detail.mesh === 'high' ? Math.ceil(curveLength(s.curve) / HIGH_ROW_MM) : 1;
    if (i === 0) rings.push({ r: s.curve.a[0], y: s.curve.a[1], v: s.v[0], sharp: s.sharpBefore });
    else rings[rings.length - 1].sharp = s.sharpBefore;
    for (let k = 1; k <= parts; k++) {
      const [r, y] = pointAt(s.curve, k / parts);
      rings.push({ r: Math.max(0, r), y, from: s, v: s.v[0] + (k / parts) * (s.v[1] - s.v[0]), sharp: false });
    }
  }
  return rings;
}

const PROFILE_FIELDS: readonly Field[] = [
  {
    type: 'list',
    key: 'points',
    label: 'Points',
    one: 'Point',
    least: 2,
    most: 400,
    drawn: true,
    fields: [length('r', 'Radius'), place('y', 'Height'), length('fillet', 'Rounded by', { optional: true })],
  },
  {
    type: 'list',
    key: 'segments',
    label: 'Segments',
    one: 'Segment',
    least: 0,
    most: 400,
    drawn: true,
    fields: [
      words('name', 'Name', { most: 60 }),
      choice('kind', 'Kind', [
        ['line', 'line'],
        ['arc', 'arc'],
        ['tangent', 'arc, tangent to the one before'],
      ]),
      place('bulge', 'Stands off', { optional: true }),
    ],
  },
];

export const turned = {
  kind: 'turned',
  name: 'turned profile',
  about: 'A profile turned round the upright axis: vessels, rims, caps, knobs.',
  fields: [
    { type: 'group', key: 'profile', label: 'Profile', fields: PROFILE_FIELDS, drawn: true },
    { type: 'group', key: 'sketch', label: 'Sketch', fields: SKETCH_FIELDS, drawn: true, optional: true },
    choice('body', 'Body', [
      ['solid', 'solid'],
      ['wall', 'with a wall'],
      ['open', 'open surface'],
    ]),
    length('wall', 'Wall', { optional: true, when: (s) => s.body === 'wall' }),
    choice(
      'drawnIs',
      'The profile is its',
      [
        ['outside', 'outside'],
        ['inside', 'inside'],
      ],
      { optional: true, when: (s) => s.body === 'wall' },
    ),
    angle('turnDegrees', 'Turned through', { min: 1, max: 360, optional: true, standing: 360 }),
    choice(
      'centre',
      'Flat ends',
      [
        ['fan', 'triangles'],
        ['grid', 'grid of quads'],
      ],
      { optional: true },
    ),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh' }),
    {
      type: 'list',
      key: 'rings',
      label: 'Engraved rings',
      one: 'Ring',
      least: 0,
      most: 100,
      anonymous: true,
      drawn: true,
      fields: [words('segment', 'Segment', { most: 60 }), plain('at', 'At', 0, 1), size('width', 'Width'), length('depth', 'Depth')],
    },
  ],
  fresh: () => ({
    name: 'Turned profile',
    body: 'solid' as const,
    edgeRadius: 0.8,
    rings: [],
    profile: {
      points: [
        { id: 'p0', r: 20, y: 0 },
        { id: 'p1', r: 20, y: 30 },
        { id: 'p2', r: 14, y: 40 },
      ],
      segments: [
        { id: 's0', name: 'wall', kind: 'line' as const },
        { id: 's1', name: 'shoulder', kind: 'line' as const },
      ],
    },
  }),
  words(s: TurnedStep, length) {
    const radii = s.sketch ? s.sketch.points.map((p) => p.x) : s.profile.points.map((p) => p.r);
    return `turned · Ø ${length(2 * Math.max(...radii, 0), 1)}${s.body === 'wall' ? ` · wall ${length(s.wall ?? 0, 1)}` : ''}`;
  },
  patchName(s: TurnedStep, patch: string) {
    const [id, ...rest] = patch.split(/ (?=inside|edge)/);
    const named = s.sketch ? s.sketch.curves.find((c) => c.id === id) : s.profile.segments.find((g) => g.id === id);
    if (named) return [named.name, ...rest].join(' ');
    const at = s.profile.points.findIndex((p) => `${p.id}.fillet` === id);
    return at < 0 ? patch : [`rounding at point ${at + 1}`, ...rest].join(' ');
  },
  maker,
  balanced: () => true,
} satisfies StepKind<TurnedStep>;
