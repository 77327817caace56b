import { FormError } from '../../errors';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { Blocks, type Level, roundedEdge, roundedInside } from '../block';
import { inscribedCount, inscribedError } from '../budget/chord';
import type { Point2 } from '../curves';
import { choice, length, place, plain, size, whole } from '../fields';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';

/** A prism with n sides standing on y = 0: solid, a tube, or split into separate staves. Lengths in mm. */
export interface PrismStep extends StepBase {
  kind: 'prism';
  sides: number;
  /** Distance between opposite flats; twice the distance of a flat from the axis. */
  acrossFlats: number;
  height: number;
  /** Size of the top as a share of the foot. */
  taper: number;
  /** How far the middle stands out beyond the straight line from foot to top. */
  bulge: number;
  body: 'solid' | 'tube' | 'staves';
  wall: number;
  /** Between neighbouring staves. */
  gap: number;
  edgeRadius: number;
}

/** Share of the apothem at height share v: straight taper plus a parabola for the bulge. */
const apothemAt = (s: PrismStep, v: number): number => (s.acrossFlats / 2) * (1 + (s.taper - 1) * v) + 4 * s.bulge * v * (1 - v);

/** Rows along a bulge: a flat parabola stands off its chords as its arc does, radius H²/8b + b/2. */
function rowsOf(s: PrismStep): Adaptive | undefined {
  if (s.bulge === 0) return undefined;
  const b = Math.abs(s.bulge);
  const radius = (s.height * s.height) / (8 * b) + b / 2;
  const sweep = 4 * Math.atan2(2 * b, s.height);
  return {
    key: `${s.id}.rows`,
    label: 'rows along the bulge',
    minimum: 2,
    every: 2,
    errorMm: (n) => inscribedError(radius, n, sweep),
    countFor: (e) => inscribedCount(radius, e, sweep, 2),
  };
}

/** @throws FormError `prism/…` */
function check(s: PrismStep): void {
  const least = Math.min(apothemAt(s, 0), apothemAt(s, 0.5), apothemAt(s, 1));
  if (least <= 0) throw new FormError('prism/taper', `“${s.name}” narrows to nothing; raise its top’s share or lower its bulge.`);
  if (s.body === 'solid') return;
  if (!(s.wall > 0) || s.wall >= least)
    throw new FormError(
      'prism/wall',
      `A wall of ${millimetres(s.wall)} doesn’t fit in “${s.name}”; it can be more than 0 and less than ${millimetres(least)}.`,
      { wallMm: s.wall, mostMm: least },
    );
  const narrow = 2 * (least - s.wall) * Math.tan(Math.PI / s.sides);
  if (s.body === 'staves' && (!(s.gap > 0) || s.gap >= narrow))
    throw new FormError(
      'prism/gap',
      `A gap of ${millimetres(s.gap)} leaves nothing of the staves of “${s.name}”; it can be more than 0 and less than ${millimetres(narrow)}.`,
      { gapMm: s.gap, mostMm: narrow },
    );
}

/** Corners at an apothem; the first side faces +x. */
function ngon(n: number, apothem: number): Point2[] {
  const r = apothem / Math.cos(Math.PI / n);
  return Array.from({ length: n }, (_, i) => {
    const a = (2 * Math.PI * (i - 0.5)) / n;
    return [r * Math.cos(a), r * Math.sin(a)];
  });
}

/** Section of the stave at side i: a trapezium whose sides run half a gap beside the corners' radii. */
function stave(s: PrismStep, i: number, apothem: number): Point2[] {
  const half = Math.PI / s.sides;
  const a = (2 * Math.PI * i) / s.sides;
  const width = (r: number) => r * Math.tan(half) - s.gap / 2 / Math.cos(half);
  const at = (r: number, side: number): Point2 => [
    r * Math.cos(a) - side * width(r) * Math.sin(a),
    r * Math.sin(a) + side * width(r) * Math.cos(a),
  ];
  return [at(apothem, -1), at(apothem, 1), at(apothem - s.wall, 1), at(apothem - s.wall, -1)];
}

const maker: Maker<PrismStep> = {
  plan(step) {
    check(step);
    const rows = rowsOf(step);
    const n = step.sides;
    return {
      adaptive: rows ? [rows] : [],
      triangles: (count) => {
        const k = rows ? count(rows) : 1;
        if (step.body === 'solid') return 2 * n * k + 2 * (n - 2);
        return step.body === 'tube' ? 2 * n * (2 * k + 2) : n * (8 * k + 4);
      },
    };
  },
  build(step, detail): PolyMesh {
    check(step);
    const rows = rowsOf(step);
    const k = rows ? countOf(detail, rows) : 1;
    const blocks = new Blocks();
    const n = step.sides;
    const names = Array.from({ length: n }, (_, i) => `side ${i + 1}`);
    if (step.body === 'staves')
      for (let i = 0; i < n; i++)
        column(
          blocks,
          step,
          detail,
          k,
          (v) => stave(step, i, apothemAt(step, v)),
          [names[i], `${names[i]} left`, `${names[i]} inside`, `${names[i]} right`],
          {
            start: `${names[i]} foot`,
            end: `${names[i]} top`,
          },
        );
    else if (step.body === 'solid')
      column(blocks, step, detail, k, (v) => ngon(n, apothemAt(step, v)), names, { start: 'bottom', end: 'top' });
    else tube(blocks, step, detail, k, names);
    return blocks.build();
  },
  topology: (s) => ({ shells: s.body === 'staves' ? s.sides : 1, genus: s.body === 'tube' ? 1 : 0, rims: 0 }),
};

const PLACE = ([x, y]: Point2, at: number): [number, number, number] => [x, at, -y];

/** A convex column of k rows, its edges rounded in the high mesh. */
function column(
  blocks: Blocks,
  step: PrismStep,
  detail: Detail,
  k: number,
  cornersAt: (v: number) => Point2[],
  sides: string[],
  ends: { start: string; end: string },
): void {
  const foot = cornersAt(0);
  const shortest = Math.min(
    ...foot.map((p, i) => Math.hypot(p[0] - foot[(i + 1) % foot.length][0], p[1] - foot[(i + 1) % foot.length][1])),
  );
  const high = detail.mesh === 'high' && step.edgeRadius > 0;
  const edge = high ? Math.min(step.edgeRadius, shortest * 0.2, step.height * 0.2) : 0;
  const radius = edge * 1.25;
  const tolerance = detail.mesh === 'high' ? detail.toleranceMm : 1;
  const arc = high ? inscribedCount(edge, tolerance, Math.PI / 2, 2) : 0;
  const levels: Level[] = [];
  for (let j = 0; j <= k; j++)
    levels.push({
      corners: cornersAt(j / k),
      inset: 0,
      radius,
      at: (step.height * j) / k,
      band: '',
      v: j / k,
      from: Math.max(0, (j - 1) / k),
      hard: false,
    });
  levels[0].hard = levels[k].hard = !high;
  if (high) {
    // The ends' own outline carries the arc; the rows between stay where they are.
    const start = roundedEdge(
      { corners: levels[0].corners, radius },
      { at: 0, way: -1, radius: edge, steps: arc, band: ' bottom edge', leaving: true },
    );
    const end = roundedEdge(
      { corners: levels[k].corners, radius },
      { at: step.height, way: 1, radius: edge, steps: arc, band: ' top edge', leaving: false },
    );
    end[0] = { ...end[0], band: '', v: 1, from: (k - 1) / k };
    levels.splice(0, 1, ...start);
    levels.splice(levels.length - 1, 1, ...end);
  }
  blocks.put({
    levels,
    steps: high ? Math.max(2, inscribedCount(radius, tolerance, (2 * Math.PI) / sides.length)) : 0,
    sides,
    place: PLACE,
    ...ends,
  });
}

/** Outside up, inside down; its level edges are rounded in the high mesh. */
function tube(blocks: Blocks, step: PrismStep, detail: Detail, k: number, sides: string[]): void {
  const n = step.sides;
  const edge = detail.mesh === 'high' ? Math.min(step.edgeRadius, step.wall * 0.45, step.height * 0.2) : 0;
  const row = (j: number, inside: boolean): Level => {
    const v = inside ? 1 - j / k : j / k;
    return {
      corners: ngon(n, apothemAt(step, j / k) - (inside ? step.wall : 0)),
      inset: 0,
      radius: 0,
      at: (step.height * j) / k,
      band: inside ? ' inside' : '',
      v,
      from: Math.max(0, v - 1 / k),
      hard: j === 0 || j === k,
    };
  };
  const up = Array.from({ length: k + 1 }, (_, j) => row(j, false));
  const down = Array.from({ length: k + 1 }, (_, j) => row(k - j, true));
  if (edge > 0 && detail.mesh === 'high') {
    const common = { radius: edge, steps: inscribedCount(edge, detail.toleranceMm, Math.PI / 2, 2) };
    const at = (l: Level) => ({ corners: l.corners, radius: 0 });
    const top = { at: step.height, way: 1 as const, ...common };
    const bottom = { at: 0, way: -1 as const, ...common };
    const reach = (levels: Level[], v: Level) => {
      levels[0] = { ...levels[0], band: v.band, v: v.v, from: v.from };
      return levels;
    };
    up.splice(0, 1, ...roundedEdge(at(up[0]), { ...bottom, band: ' bottom edge', leaving: true }));
    up.splice(-1, 1, ...reach(roundedEdge(at(up[up.length - 1]), { ...top, band: ' top edge', leaving: false }), row(k, false)));
    down.splice(0, 1, ...roundedInside(at(down[0]), { ...top, band: ' rim edge', leaving: true }));
    down.splice(-1, 1, ...reach(roundedInside(at(down[down.length - 1]), { ...bottom, band: ' foot edge', leaving: false }), row(0, true)));
  }
  up[0] = { ...up[0], band: ' foot', v: 1, from: 0 };
  down[0] = { ...down[0], band: ' rim', v: 1, from: 0 };
  blocks.put({ levels: [...up, ...down], steps: 0, sides, place: PLACE, closed: true });
}

const walled = (s: Record<string, unknown>) => s.body !== 'solid';
export const prism = {
  kind: 'prism',
  name: 'prism',
  about: 'A column with flat sides, solid, hollow or split into staves with gaps: barrels, ventilators, nuts, posts.',
  fields: [
    whole('sides', 'Sides', 3, 64),
    size('acrossFlats', 'Across flats'),
    size('height', 'Height'),
    plain('taper', 'Top as a share of the foot', 0.01, 20),
    place('bulge', 'Bulge'),
    choice('body', 'Body', [
      ['solid', 'solid'],
      ['tube', 'tube'],
      ['staves', 'separate staves'],
    ]),
    length('wall', 'Wall', { when: walled }),
    length('gap', 'Gap between staves', { when: (s) => s.body === 'staves' }),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh' }),
  ],
  // A stave barrel has eight sides: common practice, no source.
  fresh: () => ({
    name: 'Prism',
    sides: 8,
    acrossFlats: 60,
    height: 80,
    taper: 1,
    bulge: 0,
    body: 'solid' as const,
    wall: 5,
    gap: 0.8,
    edgeRadius: 0.6,
  }),
  words: (s: PrismStep, length) => `${s.sides}-sided prism · ${length(s.acrossFlats, 1)} across${s.body === 'staves' ? ' · staves' : ''}`,
  maker,
} satisfies StepKind<PrismStep>;
