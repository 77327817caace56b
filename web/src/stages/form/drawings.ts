import type { ReferenceView } from '@wellmorph/core/form/reference';
import type { Sketch } from '@wellmorph/core/form/sketch/sketch';
import type { Step } from '@wellmorph/core/form/steps/index';

/** A line of a step that is drawn on the plate rather than typed. */
export interface Drawing {
  /** The field it stands in, by its path: `outline`, `stations.s2.sketch`. */
  key: string;
  label: string;
  /** What it is called where there is little room. */
  short?: string;
  /** How much of it there is, in a few words. */
  about: string;
  /** Undefined for a profile of corners. */
  sketch?: Sketch;
  /** The view it is drawn in: a picture behind it is shown there. */
  view?: ReferenceView;
  /** Across is the radius: the axis stands at 0. */
  turned?: boolean;
}

/** What a step's form may do on the plate: choose a corner of a profile, open a drawing. */
export interface DrawingHand {
  point: string | null;
  onPoint(id: string | null): void;
  onDraw(drawing: string): void;
}

const EMPTY: Sketch = { points: [], curves: [], constraints: [] };
const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;
const size = (s: Sketch): string =>
  [
    many(s.curves.filter((c) => !c.guide).length, 'curve'),
    ...(s.constraints.length > 0 || !s.features?.length ? [many(s.constraints.length, 'constraint')] : []),
    ...(s.features && s.features.length > 0 ? [many(s.features.length, 'feature')] : []),
  ].join(', ');

/** What can be drawn of a step. */
export function drawingsOf(step: Step): Drawing[] {
  switch (step.kind) {
    case 'turned':
      return step.sketch
        ? [{ key: 'sketch', label: 'Sketch', about: size(step.sketch), sketch: step.sketch, turned: true, view: 'front' }]
        : [{ key: 'profile', label: 'Profile', about: `${step.profile.points.length} corners` }];
    case 'plate':
      return [
        { key: 'sketch', label: 'Outline', about: size(step.sketch), sketch: step.sketch, view: step.lies === 'flat' ? 'top' : 'front' },
      ];
    case 'bar': {
      const section = step.outline ?? EMPTY;
      const route = step.route ?? EMPTY;
      return [
        ...(step.along === 'sketch' ? [{ key: 'route', label: 'Path', about: size(route), sketch: route, view: 'front' as const }] : []),
        ...(step.section === 'sketch' ? [{ key: 'outline', label: 'Section', about: size(section), sketch: section }] : []),
      ];
    }
    case 'sweep': {
      const route = step.route ?? EMPTY;
      const plan = step.plan ?? EMPTY;
      return [
        ...(step.along === 'sketch' ? [{ key: 'route', label: 'Path', about: size(route), sketch: route, view: 'front' as const }] : []),
        ...(step.cut === 'plan' ? [{ key: 'plan', label: 'Plan', about: size(plan), sketch: plan, view: 'top' as const }] : []),
        ...step.stations.map((s, i) => ({
          key: `stations.${s.id}.sketch`,
          label: `Section ${i + 1}`,
          short: step.stations.length > 1 ? String(i + 1) : 'Section',
          about: size(s.sketch),
          sketch: s.sketch,
        })),
      ];
    }
    case 'blade':
      return [
        { key: 'plan', label: 'Plan', about: size(step.plan), sketch: step.plan, view: 'top' },
        { key: 'side', label: 'Side', about: size(step.side), sketch: step.side, view: 'front' },
      ];
    default:
      return [];
  }
}
