import { FormError } from '../../errors';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { Blocks, cornersOf, type Level, roundedEdge, roundedInside } from '../block';
import { inscribedCount } from '../budget/chord';
import type { Point2 } from '../curves';
import { choice, length, size } from '../fields';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';

/** A box standing on y = 0, its middle over the origin: solid, or hollow with walls of their own thickness. Lengths in mm. */
export interface BoxStep extends StepBase {
  kind: 'box';
  /** Along x, y and z; of the outside, or of the room inside. */
  width: number;
  height: number;
  depth: number;
  body: 'solid' | 'hollow';
  sizeIs?: 'outside' | 'inside';
  left: number;
  right: number;
  front: number;
  back: number;
  /** Thickness of the floor; 0 leaves the box open below. */
  floor: number;
  /** Radius of the upright corners. */
  corner: number;
  /** Radius of every edge, in the high mesh. */
  edgeRadius: number;
}

const SIDES = ['right', 'back', 'left', 'front'];
const QUARTER = Math.PI / 2;

interface Sizes {
  outer: Point2[];
  inner: Point2[];
  height: number;
  /** Smallest wall, or half of the smallest side of a solid one. */
  room: number;
}

/** Corners from front right, counter-clockwise seen from above; across is x, up is −z. */
const rectangle = (x0: number, x1: number, z0: number, z1: number): Point2[] => [
  [x1, -z1],
  [x1, -z0],
  [x0, -z0],
  [x0, -z1],
];

/** @throws FormError `box/…` */
function sizesOf(s: BoxStep): Sizes {
  const hollow = s.body === 'hollow';
  const inside = hollow && s.sizeIs === 'inside';
  const [w, d] = [s.width + (inside ? s.left + s.right : 0), s.depth + (inside ? s.front + s.back : 0)];
  const height = s.height + (inside ? s.floor : 0);
  const outer = rectangle(-w / 2, w / 2, -d / 2, d / 2);
  const inner = rectangle(-w / 2 + s.left, w / 2 - s.right, -d / 2 + s.back, d / 2 - s.front);
  if (hollow) {
    for (const side of ['left', 'right', 'front', 'back'] as const)
      if (!(s[side] > 0)) throw new FormError('box/wall', `The ${side} wall of “${s.name}” needs a thickness above 0 mm.`);
    if (s.left + s.right >= w || s.front + s.back >= d || s.floor >= height)
      throw new FormError('box/wall', `The walls of “${s.name}” leave no room inside; together they may be less than the box.`);
  }
  const most = Math.min(w, d) / 2;
  if (s.corner >= most)
    throw new FormError(
      'box/corner',
      `Corners of ${millimetres(s.corner)} don’t fit on “${s.name}”; they can be anything below ${millimetres(most)}.`,
      { radiusMm: s.corner, mostMm: most },
    );
  const room = hollow ? Math.min(s.left, s.right, s.front, s.back, s.floor || Infinity) : Math.min(w, d, height) / 2;
  return { outer, inner, height, room };
}

const cornerCount = (s: BoxStep): Adaptive | undefined => (s.corner > 0 ? cornersOf(s.id, s.corner, QUARTER) : undefined);

const maker: Maker<BoxStep> = {
  plan(step) {
    sizesOf(step);
    const corner = cornerCount(step);
    return {
      adaptive: corner ? [corner] : [],
      triangles: (count) => {
        const m = 4 * (corner ? count(corner) + 1 : 1);
        if (step.body === 'solid') return 2 * m + 2 * (m - 2);
        return step.floor > 0 ? 6 * m + 2 * (m - 2) : 8 * m;
      },
    };
  },
  build(step, detail) {
    const sizes = sizesOf(step);
    return detail.mesh === 'high' && step.edgeRadius > 0 ? highBox(step, sizes, detail) : lowBox(step, sizes, detail);
  },
  topology: (step) => ({ shells: 1, genus: step.body === 'hollow' && step.floor === 0 ? 1 : 0, rims: 0 }),
};

const PLACE = ([x, y]: Point2, at: number): [number, number, number] => [x, at, -y];
/** The inside of a rounded corner keeps the wall's thickness where there is room for it. */
const innerRadius = (s: BoxStep, radius: number) => Math.max(radius - Math.min(s.left, s.right, s.front, s.back), radius * 0.1);

function lowBox(step: BoxStep, { outer, inner, height }: Sizes, detail: Detail): PolyMesh {
  const corner = cornerCount(step);
  const steps = corner ? countOf(detail, corner) : 0;
  const level = (corners: Point2[], radius: number, at: number, band: string): Level => ({
    corners,
    inset: 0,
    radius,
    at,
    band,
    v: 1,
    from: 0,
    hard: true,
  });
  const blocks = new Blocks();
  const shared = { steps, sides: SIDES, place: PLACE };
  const outside = [level(outer, step.corner, 0, ' foot'), level(outer, step.corner, height, '')];
  if (step.body === 'solid') blocks.put({ ...shared, levels: outside, start: 'bottom', end: 'top' });
  else {
    const r = innerRadius(step, step.corner);
    const through = step.floor === 0;
    const inside = [level(inner, r, height, ' rim'), level(inner, r, step.floor, ' inside')];
    blocks.put({
      ...shared,
      levels: [...outside, ...inside],
      closed: through,
      ...(!through && { start: 'bottom', end: 'floor' }),
    });
  }
  return blocks.build();
}

/** With every edge rounded: upright ones as corners, level ones as quarter arcs. */
function highBox(step: BoxStep, { outer, inner, height, room }: Sizes, detail: Extract<Detail, { mesh: 'high' }>): PolyMesh {
  const edge = Math.min(step.edgeRadius, room * 0.45, height * 0.3);
  const radius = Math.max(step.corner, edge * 1.25);
  const steps = inscribedCount(radius, detail.toleranceMm, QUARTER, 2);
  const k = inscribedCount(edge, detail.toleranceMm, QUARTER, 2);
  const base = { corners: outer, radius };
  const hollow = step.body === 'hollow';
  const r = innerRadius(step, radius);
  const levels: Level[] = [
    ...roundedEdge(base, { at: 0, way: -1, radius: edge, steps: k, band: ' bottom edge', leaving: true }),
    ...roundedEdge(base, { at: height, way: 1, radius: edge, steps: k, band: ' top edge', leaving: false }),
  ];
  levels[k + 1] = { ...levels[k + 1], band: '', v: 1, from: 0 };
  const blocks = new Blocks();
  const shared = { steps, sides: SIDES, place: PLACE };
  if (!hollow) blocks.put({ ...shared, levels, start: 'bottom', end: 'top' });
  else {
    const within = { corners: inner, radius: r };
    const through = step.floor === 0;
    const rim = roundedInside(within, { at: height, way: 1, radius: edge, steps: k, band: ' rim edge', leaving: true });
    rim[0] = { ...rim[0], band: ' rim', v: 1, from: 0 };
    const foot: Level = {
      corners: inner,
      radius: r,
      inset: 0,
      at: through ? edge : step.floor,
      band: ' inside',
      v: 1,
      from: 0,
      hard: !through,
    };
    if (!through) blocks.put({ ...shared, levels: [...levels, ...rim, foot], start: 'bottom', end: 'floor' });
    else {
      const out = roundedInside(within, { at: 0, way: -1, radius: edge, steps: k, band: ' foot edge', leaving: false });
      levels[0] = { ...levels[0], band: ' foot', v: 1, from: 0 };
      blocks.put({ ...shared, levels: [...levels, ...rim, foot, ...out.slice(1)], closed: true });
    }
  }
  return blocks.build();
}

const hollow = (s: Record<string, unknown>) => s.body === 'hollow';
export const box = {
  kind: 'box',
  name: 'box',
  about: 'A box, solid or hollow, each wall of its own thickness, with rounded corners: cases, trays, lids, drawers.',
  fields: [
    size('width', 'Width (x)'),
    size('height', 'Height (y)'),
    size('depth', 'Depth (z)'),
    choice('body', 'Body', [
      ['solid', 'solid'],
      ['hollow', 'hollow, open above'],
    ]),
    choice(
      'sizeIs',
      'The size is',
      [
        ['outside', 'outside'],
        ['inside', 'the room inside'],
      ],
      { optional: true, when: hollow },
    ),
    length('left', 'Left wall', { when: hollow }),
    length('right', 'Right wall', { when: hollow }),
    length('front', 'Front wall', { when: hollow }),
    length('back', 'Back wall', { when: hollow }),
    length('floor', 'Floor', { when: hollow, hint: '0 leaves it open below' }),
    length('corner', 'Corner radius'),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh' }),
  ],
  fresh: () => ({
    name: 'Box',
    width: 80,
    height: 40,
    depth: 60,
    body: 'solid' as const,
    left: 2,
    right: 2,
    front: 2,
    back: 2,
    floor: 2,
    corner: 6,
    edgeRadius: 0.8,
  }),
  words: (s: BoxStep, length) =>
    `box ${length(s.width, 1)} × ${length(s.height, 1)} × ${length(s.depth, 1)}${s.body === 'hollow' ? ' · hollow' : ''}`,
  maker,
} satisfies StepKind<BoxStep>;
