import { FormError } from '../../errors';
import { angle, choice, length, plain } from '../fields';
import { type Path, POINT_FIELDS, ROUTE_FIELDS } from '../path';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import { type Adaptive, countOf, type Maker, type StepBase, type StepKind, type StepNote } from '../step';
import { type Body, bodyOf } from '../sweep/body';
import { cutBy, uncut } from '../sweep/plan';
import { type Sheet, sheetOf, sheetPlan, type Wall } from '../sweep/sheet';
import { spacedCount } from '../sweep/spacing';
import { type Surface, type Sweeping, surfaceOf } from '../sweep/surface';

/** A section and where it stands, mm along the path. Across and up, mm, round the path, seen against the way it runs. */
export interface SweepStation {
  id: string;
  at: number;
  sketch: Sketch;
}

/**
 * Sketched sections along a path, blended: closed ones make a solid, open ones a sheet, with or without a wall, which a plan drawn
 * from above may cut. Lengths in mm.
 */
export interface SweepStep extends StepBase, Path {
  kind: 'sweep';
  name: string;
  stations: SweepStation[];
  blend?: Sweeping['blend'];
  turns?: { id: string; at: number; degrees: number }[];
  sizes?: { id: string; at: number; across: number; up: number }[];
  /** Thickness of an open section's wall; none when absent or 0. */
  wall?: number;
  /** What the drawn sections are of the wall. */
  wallIs?: 'upper' | 'lower' | 'middle';
  /** Whether a plan cuts it, and the plan: across is x, up is −z. Open sections only. */
  cut?: 'no' | 'plan';
  plan?: Sketch;
}

type Made = { surface: Surface } & ({ sheet: Sheet } | { body: Body });

/** What was found out about a step is kept as long as the step is: forms are asked for their counts again and again. */
const made = new WeakMap<SweepStep, Made>();

/** @throws FormError `path/…`, `sketch/…`, `sweep/…` */
function madeOf(step: SweepStep): Made {
  const known = made.get(step);
  if (known) return known;
  const surface = surfaceOf(step);
  const fresh: Made = surface.sections.open ? { surface, sheet: sheet(step, surface) } : { surface, body: bodyOf(surface, step.name) };
  made.set(step, fresh);
  return fresh;
}

function sheet(step: SweepStep, surface: Surface): Sheet {
  const cut = step.cut === 'plan';
  if (cut && !step.plan) throw new FormError('sweep/plan', `“${step.name}” is to be cut to a plan that isn’t drawn yet.`);
  return sheetOf(surface, cut && step.plan ? cutBy(surface, step.plan, step.name) : uncut(surface), wallOf(step), step.name);
}

function wallOf(step: SweepStep): Wall {
  const wall = step.wall ?? 0;
  const is = step.wallIs ?? 'upper';
  return is === 'upper' ? { up: 0, low: -wall } : is === 'lower' ? { up: wall, low: 0 } : { up: wall / 2, low: -wall / 2 };
}

/** Across or round it, and along it; and its triangles by them. */
function planOf(step: SweepStep, m: Made): { adaptive: [across: Adaptive, along: Adaptive]; triangles(n: number, k: number): number } {
  if ('sheet' in m) return sheetPlan(m.sheet, step.id, (step.wall ?? 0) > 0);
  const poles = m.body.poles.filter(Boolean).length;
  return {
    adaptive: [
      spacedCount(`${step.id}.section`, 'sides of the section', m.body.sides, 3),
      spacedCount(`${step.id}.rows`, 'rows along it', m.body.rows, 1),
    ],
    triangles: (n, k) => 2 * n * k - poles * n + (2 - poles) * (n - 2),
  };
}

const maker: Maker<SweepStep> = {
  plan(step) {
    const { adaptive, triangles } = planOf(step, madeOf(step));
    return { adaptive, triangles: (count) => triangles(count(adaptive[0]), count(adaptive[1])) };
  },
  build(step, detail) {
    const m = madeOf(step);
    const [n, k] = planOf(step, m).adaptive.map((a) => countOf(detail, a));
    return ('sheet' in m ? m.sheet : m.body).build(n, k);
  },
  topology: (step) => ({ shells: 1, genus: 0, rims: 'sheet' in madeOf(step) && !((step.wall ?? 0) > 0) ? 1 : 0 }),
  notes(step): StepNote[] {
    const m = madeOf(step);
    if ('sheet' in m || step.cut !== 'plan') return [];
    return [
      {
        code: 'sweep/cut',
        message: `The sections of “${step.name}” are closed, so its plan cuts nothing: plans cut open ones. Take a combining step for a solid.`,
        value: 1,
        limit: 0,
        unit: '',
      },
    ];
  },
};

/** Whether the sections of a step are open lines, as far as can be said without solving them. */
function isOpen(step: Record<string, unknown>): boolean {
  const sketch = (step.stations as SweepStation[] | undefined)?.[0]?.sketch;
  const ends = new Map<string, number>();
  for (const c of sketch?.curves ?? []) if (!c.guide) for (const p of [c.a, c.b]) if (p) ends.set(p, (ends.get(p) ?? 0) + 1);
  return [...ends.values()].some((n) => n === 1);
}

const arcSection = (id: string, half: number, sag: number): Sketch => {
  const radius = (half * half + sag * sag) / (2 * sag);
  return {
    points: [
      { id: 'a', x: -half, y: sag },
      { id: 'b', x: half, y: sag },
      { id: 'm', x: 0, y: radius },
    ],
    curves: [{ id, name: 'hollow', kind: 'arc', a: 'a', b: 'b', centre: 'm', turn: 'left' }],
    constraints: [],
  };
};

export const sweep = {
  kind: 'sweep',
  name: 'sweep of sections',
  about:
    'Sketched sections along a path, blended, twisted and scaled; open ones get a wall and are cut to a plan: scoops, spoons, horns, grips.',
  fields: [
    ...ROUTE_FIELDS,
    choice(
      'blend',
      'Between sections',
      [
        ['smooth', 'smooth'],
        ['straight', 'straight'],
      ],
      { optional: true },
    ),
    length('wall', 'Wall', { optional: true, when: isOpen, hint: '0 leaves it open' }),
    choice(
      'wallIs',
      'Drawn is',
      [
        ['upper', 'its upper side'],
        ['lower', 'its lower side'],
        ['middle', 'its middle'],
      ],
      { optional: true, when: (s) => isOpen(s) && Number(s.wall ?? 0) > 0 },
    ),
    choice(
      'cut',
      'Ends at',
      [
        ['no', 'the sections’ ends'],
        ['plan', 'a plan from above'],
      ],
      { optional: true, when: isOpen },
    ),
    { type: 'group', key: 'plan', label: 'Plan', fields: SKETCH_FIELDS, drawn: true, optional: true },
    {
      type: 'list',
      key: 'stations',
      label: 'Sections',
      one: 'Section',
      least: 1,
      most: 24,
      fields: [length('at', 'Along'), { type: 'group', key: 'sketch', label: 'Section', fields: SKETCH_FIELDS, drawn: true }],
      fresh: (list) => {
        const last = list[list.length - 1] as unknown as SweepStation;
        const before = list[list.length - 2] as unknown as SweepStation | undefined;
        return { at: last.at + (before ? last.at - before.at : 20), sketch: last.sketch };
      },
    },
    {
      type: 'list',
      key: 'turns',
      label: 'Twist',
      one: 'Twist',
      optional: true,
      least: 0,
      most: 24,
      fields: [length('at', 'Along'), angle('degrees', 'Turned', { min: -3600, max: 3600 })],
      fresh: (list) => {
        const last = list[list.length - 1] as { at: number; degrees: number } | undefined;
        return last ? { at: last.at + 20, degrees: last.degrees + 15 } : { at: 0, degrees: 0 };
      },
    },
    {
      type: 'list',
      key: 'sizes',
      label: 'Size',
      one: 'Size',
      optional: true,
      least: 0,
      most: 24,
      fields: [
        length('at', 'Along'),
        plain('across', 'Across', 0, 1000, { hint: 'per cent' }),
        plain('up', 'Up', 0, 1000, { hint: 'per cent' }),
      ],
      fresh: (list) => {
        const last = list[list.length - 1] as { at: number; across: number; up: number } | undefined;
        return last ? { ...last, at: last.at + 20 } : { at: 0, across: 100, up: 100 };
      },
    },
    POINT_FIELDS,
  ],
  fresh: () => ({
    name: 'Sweep',
    along: 'sketch' as const,
    path: [
      { id: 'a', x: 0, y: 0, z: 0 },
      { id: 'b', x: 120, y: 0, z: 0 },
    ],
    route: {
      points: [
        { id: 'a', x: 0, y: 0, fixed: true },
        { id: 'b', x: 120, y: 0 },
      ],
      curves: [{ id: 'l1', name: 'path', kind: 'line' as const, a: 'a', b: 'b' }],
      constraints: [{ id: 'k1', kind: 'horizontal' as const, one: 'l1' }],
    },
    stations: [
      { id: 's1', at: 0, sketch: arcSection('h1', 20, 8) },
      { id: 's2', at: 120, sketch: arcSection('h1', 30, 6) },
    ],
    wall: 2,
    plan: {
      points: [
        { id: 'a', x: 10, y: -12 },
        { id: 'b', x: 90, y: -18 },
        { id: 'c', x: 90, y: 18 },
        { id: 'd', x: 10, y: 12 },
        { id: 'm', x: 90, y: 0 },
      ],
      curves: [
        { id: 'l1', name: 'right edge', kind: 'line' as const, a: 'a', b: 'b' },
        { id: 'r1', name: 'tip', kind: 'arc' as const, a: 'b', b: 'c', centre: 'm', turn: 'left' as const },
        { id: 'l2', name: 'left edge', kind: 'line' as const, a: 'c', b: 'd' },
        { id: 'l3', name: 'back', kind: 'line' as const, a: 'd', b: 'a' },
      ],
      constraints: [],
    },
  }),
  words: (s: SweepStep) =>
    `${isOpen(s as unknown as Record<string, unknown>) ? 'sheet' : 'body'} · ${s.stations.length === 1 ? 'one section' : `${s.stations.length} sections`}`,
  open: (s: SweepStep) => isOpen(s as unknown as Record<string, unknown>) && !((s.wall ?? 0) > 0),
  maker,
} satisfies StepKind<SweepStep>;
