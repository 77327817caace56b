import { angle, choice, type Field, type ListField, length, place, size, toggle, whole, words } from '../fields';

/** A point of a sketch, mm. */
export interface SketchPoint {
  id: string;
  x: number;
  y: number;
  /** Nailed down: nothing moves it but a hand. */
  fixed?: boolean;
}

/**
 * A line from `a` to `b`; an arc from `a` to `b` round `centre`, turning left (counter-clockwise) or right; a circle of `radius`
 * round `centre`. `guide` curves help constraints and are no part of the shape.
 */
export interface SketchCurve {
  id: string;
  /** The patch it makes: `wall`, `rim`. */
  name: string;
  kind: 'line' | 'arc' | 'circle';
  a?: string;
  b?: string;
  centre?: string;
  turn?: 'left' | 'right';
  radius?: number;
  guide?: boolean;
}

/** What each kind of constraint says and takes: points (p), lines (l) or round curves (r) in `one`, `two`, `three`. */
export const CONSTRAINTS = {
  coincident: { name: 'together', takes: ['pp', 'pl', 'pr'] },
  horizontal: { name: 'level', takes: ['l', 'pp'] },
  vertical: { name: 'upright', takes: ['l', 'pp'] },
  parallel: { name: 'parallel', takes: ['ll'] },
  perpendicular: { name: 'square', takes: ['ll'] },
  tangent: { name: 'tangent', takes: ['lr', 'rr'] },
  equal: { name: 'equal', takes: ['ll', 'rr'] },
  symmetric: { name: 'mirrored', takes: ['ppl'] },
  distance: { name: 'distance', takes: ['l', 'pp', 'pl'] },
  across: { name: 'level distance', takes: ['l', 'pp'] },
  upward: { name: 'upright distance', takes: ['l', 'pp'] },
  spaced: { name: 'evenly spaced', takes: ['ppp'] },
  radius: { name: 'radius', takes: ['r'] },
  angle: { name: 'angle', takes: ['ll'] },
} as const;
/** What can be asked of points and curves. */
export type ConstraintKind = keyof typeof CONSTRAINTS;

/** Something asked of a sketch’s points and curves; lengths in mm, angles in degrees. */
export interface Constraint {
  id: string;
  kind: ConstraintKind;
  /** Ids of points or curves. */
  one: string;
  two?: string;
  three?: string;
  /** For `distance`, `radius`, and for `across` and `upward`, from the first point to the second. */
  mm?: number;
  /** For `angle`: from the direction of the first line to that of the second, counter-clockwise. */
  degrees?: number;
}

/** What each kind of kept feature is called. */
export const FEATURES = {
  round: 'round',
  chamfer: 'bevel',
  teeth: 'teeth',
  offset: 'parallel',
  mirror: 'mirrored',
  row: 'row',
  ring: 'ring',
} as const;
export type FeatureKind = keyof typeof FEATURES;

/** Something made of a sketch's curves after its constraints, kept and followed: lengths in mm. */
export interface SketchFeature {
  id: string;
  kind: FeatureKind;
  /** Ids of corners (round, chamfer) or curves, with spaces between. */
  of: string;
  /** The line a mirror turns over, the point a ring goes round. */
  about?: string;
  /** Radius, setback, height of teeth, distance of a parallel. */
  mm?: number;
  /** Wanted pitch of teeth: as many as make it come out even. */
  pitch?: number;
  /** Angle of a tooth between its flanks; the whole turn of a ring. */
  degrees?: number;
  /** Which side of a curve, along the way it was drawn. */
  side?: 'left' | 'right' | 'both';
  /** Whether a parallel stands beside its curves or in their place; two in place of an open line are closed to a strip. */
  keeps?: 'beside' | 'instead';
  corners?: 'round' | 'sharp';
  /** Of a row or ring, the original included. */
  count?: number;
  dx?: number;
  dy?: number;
}

/** Points, curves between them, what has to hold, and what is made of them. Used as outline, profile, path or section. */
export interface Sketch {
  points: SketchPoint[];
  curves: SketchCurve[];
  constraints: Constraint[];
  features?: SketchFeature[];
  /** Other drawings of the part whose curves it shows as guides and follows, `step/path`; their points and curves have ids that begin with this one's. */
  traces?: { id: string; of: string }[];
}

const list = (key: string, one: string, fields: Field[], most: number): ListField => ({
  type: 'list',
  key,
  label: `${one}s`,
  one,
  fields,
  least: 0,
  most,
  drawn: true,
});
const id = (key: string) => words(key, key, { most: 60, optional: true });

const of =
  (...kinds: FeatureKind[]) =>
  (f: Record<string, unknown>): boolean =>
    kinds.includes(f.kind as FeatureKind);
/** What is asked of a kept feature, by its kind: for its form. */
export const FEATURE_FIELDS: readonly Field[] = [
  length('mm', 'Radius', { optional: true, when: of('round') }),
  length('mm', 'Setback', { optional: true, when: of('chamfer') }),
  length('mm', 'Distance', { optional: true, when: of('offset') }),
  size('pitch', 'Pitch', { optional: true, when: of('teeth'), hint: 'comes out even' }),
  length('mm', 'Height', { optional: true, when: of('teeth') }),
  angle('degrees', 'Angle of a tooth', { optional: true, min: 0, max: 170, when: of('teeth') }),
  choice(
    'side',
    'Side',
    [
      ['left', 'left'],
      ['right', 'right'],
    ],
    { optional: true, when: of('teeth') },
  ),
  choice(
    'side',
    'Side',
    [
      ['left', 'left'],
      ['right', 'right'],
      ['both', 'both'],
    ],
    { optional: true, when: of('offset') },
  ),
  choice(
    'keeps',
    'Stands',
    [
      ['beside', 'beside it'],
      ['instead', 'in its place'],
    ],
    { optional: true, when: of('offset') },
  ),
  choice(
    'corners',
    'Corners',
    [
      ['round', 'round'],
      ['sharp', 'sharp'],
    ],
    { optional: true, when: of('offset') },
  ),
  whole('count', 'Copies', 1, 400, { optional: true, when: of('row', 'ring') }),
  place('dx', 'Across', { optional: true, when: of('row') }),
  place('dy', 'Up', { optional: true, when: of('row') }),
  angle('degrees', 'Over', { optional: true, when: of('ring') }),
];

/** The description of a sketch, for steps that hold one. */
export const SKETCH_FIELDS: readonly Field[] = [
  list('points', 'Point', [place('x', 'Across'), place('y', 'Up'), toggle('fixed', 'Nailed down', { optional: true })], 400),
  list(
    'curves',
    'Curve',
    [
      words('name', 'Name', { most: 60 }),
      choice('kind', 'Kind', [
        ['line', 'line'],
        ['arc', 'arc'],
        ['circle', 'circle'],
      ]),
      id('a'),
      id('b'),
      id('centre'),
      choice(
        'turn',
        'Turns',
        [
          ['left', 'left'],
          ['right', 'right'],
        ],
        { optional: true },
      ),
      size('radius', 'Radius', { min: 1e-4, optional: true }),
      toggle('guide', 'Guide', { optional: true }),
    ],
    400,
  ),
  list(
    'constraints',
    'Constraint',
    [
      choice(
        'kind',
        'Kind',
        (Object.keys(CONSTRAINTS) as ConstraintKind[]).map((k) => [k, CONSTRAINTS[k].name]),
      ),
      words('one', 'First', { most: 60 }),
      id('two'),
      id('three'),
      place('mm', 'Length', { optional: true }),
      angle('degrees', 'Angle', { optional: true }),
    ],
    800,
  ),
  {
    ...list(
      'features',
      'Feature',
      [
        choice(
          'kind',
          'Kind',
          (Object.keys(FEATURES) as FeatureKind[]).map((k) => [k, FEATURES[k]]),
        ),
        words('of', 'Of', { most: 4000 }),
        words('about', 'About', { most: 60, optional: true }),
        length('mm', 'Length', { optional: true }),
        size('pitch', 'Pitch', { optional: true }),
        angle('degrees', 'Angle', { optional: true }),
        choice(
          'side',
          'Side',
          [
            ['left', 'left'],
            ['right', 'right'],
            ['both', 'both'],
          ],
          { optional: true },
        ),
        choice(
          'keeps',
          'Stands',
          [
            ['beside', 'beside it'],
            ['instead', 'in its place'],
          ],
          { optional: true },
        ),
        choice(
          'corners',
          'Corners',
          [
            ['round', 'round'],
            ['sharp', 'sharp'],
          ],
          { optional: true },
        ),
        whole('count', 'Copies', 1, 400, { optional: true }),
        place('dx', 'Across', { optional: true }),
        place('dy', 'Up', { optional: true }),
      ],
      200,
    ),
    optional: true,
  },
  { ...list('traces', 'Followed drawing', [words('of', 'Of', { most: 200 })], 12), optional: true },
];

/** The points a curve stands on. */
export const pointsOf = (c: SketchCurve): string[] => [c.a, c.b, c.centre].filter((p) => p !== undefined);

/** The letters of `takes`: what an id stands for. */
export function letterOf(sketch: Sketch, of: string): 'p' | 'l' | 'r' | null {
  if (sketch.points.some((p) => p.id === of)) return 'p';
  const c = sketch.curves.find((x) => x.id === of);
  return c ? (c.kind === 'line' ? 'l' : 'r') : null;
}

/** Ids in the order a kind takes them, or null when it can't be said of them. */
export function arranged(sketch: Sketch, kind: ConstraintKind, ids: readonly string[]): string[] | null {
  const letters = ids.map((i) => letterOf(sketch, i));
  for (const pattern of CONSTRAINTS[kind].takes) {
    if (pattern.length !== ids.length) continue;
    const left = ids.map((i, k) => ({ i, letter: letters[k] }));
    const order: string[] = [];
    for (const wanted of pattern) {
      const at = left.findIndex((l) => l.letter === wanted);
      if (at < 0) break;
      order.push(left.splice(at, 1)[0].i);
    }
    if (order.length === ids.length) return order;
  }
  return null;
}

/** A sketch without some points and curves: what stood on them, and constraints that spoke of them, go too. */
export function without(sketch: Sketch, ids: readonly string[]): Sketch {
  const gone = new Set(ids);
  const curves = sketch.curves.filter((c) => !gone.has(c.id) && !pointsOf(c).some((p) => gone.has(p)));
  const left = new Set(curves.map((c) => c.id));
  // Points nobody stands on any more go with their curves; lone points a hand put there stay.
  const orphaned = new Set(
    sketch.curves
      .filter((c) => !left.has(c.id))
      .flatMap(pointsOf)
      .filter((p) => !curves.some((c) => pointsOf(c).includes(p))),
  );
  const points = sketch.points.filter((p) => !gone.has(p.id) && !orphaned.has(p.id));
  const there = new Set([...points.map((p) => p.id), ...left]);
  const lost = new Set([...gone, ...orphaned, ...sketch.curves.filter((c) => !left.has(c.id)).map((c) => c.id)]);
  // Features of what is gone go too; those of several keep what is left.
  const features = sketch.features
    ?.map((f) => ({
      ...f,
      of: f.of
        .split(' ')
        .filter((i) => !lost.has(i))
        .join(' '),
    }))
    .filter((f) => f.of !== '' && !gone.has(f.id) && !lost.has(f.about ?? ''));
  return {
    points,
    curves,
    ...(features && { features }),
    constraints: sketch.constraints.filter((k) => !gone.has(k.id) && [k.one, k.two, k.three].every((i) => i === undefined || there.has(i))),
  };
}
