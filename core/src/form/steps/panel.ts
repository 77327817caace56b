import { FormError } from '../../errors';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { Blocks, cornersOf, type Level, roundedEdge } from '../block';
import { inscribedCount } from '../budget/chord';
import type { Point2 } from '../curves';
import { choice, length, size } from '../fields';
import { type Adaptive, countOf, type Maker, type StepBase, type StepKind } from '../step';

/** A board facing +z with a frame round a sunk field or an opening. Standing on y = 0, its back at z = 0. Lengths in mm. */
export interface PanelStep extends StepBase {
  kind: 'panel';
  width: number;
  height: number;
  thickness: number;
  field: 'plain' | 'sunk' | 'open';
  /** Widths of the frame. */
  left: number;
  right: number;
  top: number;
  bottom: number;
  /** How far the field lies behind the frame. */
  sunk: number;
  /** How much smaller the field is than the opening of the frame: a sloping side. */
  slope: number;
  corner: number;
  edgeRadius: number;
}

const SIDES = ['right', 'top', 'left', 'bottom'];
const QUARTER = Math.PI / 2;
const rectangle = (x0: number, x1: number, y0: number, y1: number): Point2[] => [
  [x1, y0],
  [x1, y1],
  [x0, y1],
  [x0, y0],
];

/** @throws FormError `panel/…` */
function sizesOf(s: PanelStep): { outer: Point2[]; inner: Point2[] } {
  const outer = rectangle(-s.width / 2, s.width / 2, 0, s.height);
  const inner = rectangle(-s.width / 2 + s.left, s.width / 2 - s.right, s.bottom, s.height - s.top);
  const most = Math.min(s.width, s.height) / 2;
  if (s.corner >= most)
    throw new FormError(
      'panel/corner',
      `Corners of ${millimetres(s.corner)} don’t fit on “${s.name}”; they can be anything below ${millimetres(most)}.`,
    );
  if (s.field === 'plain') return { outer, inner };
  const [w, h] = [s.width - s.left - s.right, s.height - s.top - s.bottom];
  if (Math.min(s.left, s.right, s.top, s.bottom) <= 0 || w <= 0 || h <= 0)
    throw new FormError('panel/frame', `The frame of “${s.name}” has to be wider than 0 mm on every side and leave a field.`);
  if (s.field === 'sunk') {
    if (s.sunk >= s.thickness)
      throw new FormError(
        'panel/sunk',
        `The field of “${s.name}” can’t lie ${millimetres(s.sunk)} deep in a board of ${millimetres(s.thickness)}.`,
      );
    if (2 * s.slope >= Math.min(w, h))
      throw new FormError(
        'panel/slope',
        `A slope of ${millimetres(s.slope)} leaves no field on “${s.name}”; ${millimetres(Math.min(w, h) / 2)} would meet in the middle.`,
      );
  }
  return { outer, inner };
}
const cornerCount = (s: PanelStep): Adaptive | undefined => (s.corner > 0 ? cornersOf(s.id, s.corner, QUARTER) : undefined);

const maker: Maker<PanelStep> = {
  plan(step) {
    sizesOf(step);
    const corner = cornerCount(step);
    const bands = step.field === 'plain' ? 1 : step.field === 'sunk' ? 3 : 4;
    return {
      adaptive: corner ? [corner] : [],
      triangles: (count) => {
        const m = 4 * (corner ? count(corner) + 1 : 1);
        return 2 * bands * m + (step.field === 'open' ? 0 : 2 * (m - 2));
      },
    };
  },
  build(step, detail): PolyMesh {
    const { outer, inner } = sizesOf(step);
    const t = step.thickness;
    const high = detail.mesh === 'high' && step.edgeRadius > 0;
    const room = step.field === 'plain' ? Infinity : Math.min(step.left, step.right, step.top, step.bottom);
    const edge = high ? Math.min(step.edgeRadius, t * 0.45, room * 0.45) : 0;
    const radius = high ? Math.max(step.corner, edge * 1.25) : step.corner;
    const corner = cornerCount(step);
    const steps =
      detail.mesh === 'high' && radius > 0 ? inscribedCount(radius, detail.toleranceMm, QUARTER, 2) : corner ? countOf(detail, corner) : 0;
    const innerRadius = Math.max(radius - room, radius * 0.1);
    const level = (corners: Point2[], r: number, at: number, band: string, inset = 0): Level => ({
      corners,
      inset,
      radius: r,
      at,
      band,
      v: 1,
      from: 0,
      hard: true,
    });
    const levels: Level[] = [];
    if (high && detail.mesh === 'high') {
      const k = inscribedCount(edge, detail.toleranceMm, QUARTER, 2);
      const base = { corners: outer, radius };
      levels.push(
        ...roundedEdge(base, { at: 0, way: -1, radius: edge, steps: k, band: ' back edge', leaving: true }),
        ...roundedEdge(base, { at: t, way: 1, radius: edge, steps: k, band: ' front edge', leaving: false }),
      );
      levels[k + 1] = { ...levels[k + 1], band: '', v: 1, from: 0 };
      if (step.field === 'open') levels[0] = { ...levels[0], band: ' back', v: 1, from: 0 };
    } else levels.push(level(outer, radius, 0, ' back'), level(outer, radius, t, ''));
    const [r, first] = [innerRadius, level(inner, innerRadius, t, ' frame')];
    if (step.field === 'sunk') levels.push(first, level(inner, r + step.slope, t - step.sunk, ' slope', step.slope));
    if (step.field === 'open') levels.push(first, level(inner, r, 0, ' opening'));
    const blocks = new Blocks();
    blocks.put({
      levels,
      steps,
      sides: SIDES,
      place: ([x, y], at) => [x, y, at],
      ...(step.field === 'open' ? { closed: true } : { start: 'back', end: step.field === 'sunk' ? 'field' : 'face' }),
    });
    return blocks.build();
  },
  topology: (step) => ({ shells: 1, genus: step.field === 'open' ? 1 : 0, rims: 0 }),
};

const framed = (s: Record<string, unknown>) => s.field !== 'plain';
export const panel = {
  kind: 'panel',
  name: 'panel',
  about: 'A board with a frame round a sunk field or an opening: doors, lids, frames, dials, planks.',
  fields: [
    size('width', 'Width (x)'),
    size('height', 'Height (y)'),
    size('thickness', 'Thickness (z)'),
    choice('field', 'Field', [
      ['plain', 'none'],
      ['sunk', 'sunk'],
      ['open', 'an opening'],
    ]),
    length('left', 'Frame left', { when: framed }),
    length('right', 'Frame right', { when: framed }),
    length('top', 'Frame above', { when: framed }),
    length('bottom', 'Frame below', { when: framed }),
    length('sunk', 'Sunk by', { when: (s) => s.field === 'sunk' }),
    length('slope', 'Sloping side', { when: (s) => s.field === 'sunk' }),
    length('corner', 'Corner radius'),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh' }),
  ],
  fresh: () => ({
    name: 'Panel',
    width: 60,
    height: 90,
    thickness: 6,
    field: 'sunk' as const,
    left: 10,
    right: 10,
    top: 10,
    bottom: 10,
    sunk: 2,
    slope: 3,
    corner: 0,
    edgeRadius: 0.6,
  }),
  words: (s: PanelStep, length) => `panel ${length(s.width, 1)} × ${length(s.height, 1)} × ${length(s.thickness, 1)}`,
  maker,
} satisfies StepKind<PanelStep>;
