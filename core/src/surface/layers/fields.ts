import { ALONG, type Along } from './place';
import type { Stroke } from './strokes';

/** A number of a field, as it is asked for. */
export interface Amount {
  label: string;
  /** `mm`, `°`, `%` (kept as a share), `/dm²`, `/cm` or nothing. */
  unit: string;
  min: number;
  max: number;
  usual: number;
}
/** One of several. */
export interface Choices {
  label: string;
  choices: Readonly<Record<string, string>>;
  usual: string;
}

/** Directions a surface can face, in the part’s own space. */
export const TOWARDS = { up: 'up', down: 'down', front: 'front', back: 'back', left: 'left', right: 'right' } as const;
export type Towards = keyof typeof TOWARDS;
const SCRATCHED = { any: 'any way', ...ALONG } as const;
const AXIS = { x: 'x', y: 'y', z: 'z' } as const;

/** Where something lies on a surface, as shares of it, in millimetres of the part itself: the layout has no say. */
export type Field =
  | { kind: 'edges'; width: number; broken: number }
  | { kind: 'worn'; share: number }
  | { kind: 'enclosed'; share: number }
  | { kind: 'facing'; towards: Towards; within: number; soft: number }
  | { kind: 'span'; axis: 'x' | 'y' | 'z'; from: number; to: number }
  | { kind: 'between'; fromX: number; fromY: number; fromZ: number; toX: number; toY: number; toZ: number }
  | { kind: 'runs'; width: number; length: number; spacing: number }
  | { kind: 'clouds'; size: number; share: number; soft: number }
  | { kind: 'spots'; size: number; share: number }
  | { kind: 'strands'; along: Along; width: number; length: number; share: number }
  | { kind: 'scratches'; along: Along | 'any'; count: number; length: number; width: number; spread: number }
  | { kind: 'rings'; along: Along; count: number; wander: number }
  | { kind: 'weave'; along: Along; thread: number }
  | { kind: 'dents'; size: number }
  | { kind: 'boards'; share: number }
  | { kind: 'strokes'; soft: number; strokes: Stroke[] }
  | { kind: 'layer'; of: string };
export type FieldKind = Field['kind'];

const size = (label: string, usual: number, max = 500): Amount => ({ label, unit: 'mm', min: 0.02, max, usual });
const share = (usual: number): Amount => ({ label: 'Share', unit: '%', min: 0, max: 0.85, usual });
const coordinate = (label: string, usual: number): Amount => ({ label, unit: 'mm', min: -100_000, max: 100_000, usual });
const along = { label: 'Along', choices: ALONG, usual: 'length' } satisfies Choices;

interface Kind {
  name: string;
  /** One sentence: where it lies. */
  says: string;
  parameters: Readonly<Record<string, Amount | Choices>>;
  /** What the bake has to have for it. */
  needs?: 'curvature' | 'occlusion';
}

/** Every kind of field: what it is called, and what can be set. */
export const FIELDS = {
  edges: {
    name: 'edges',
    says: 'A line along edges that stick out, as wide as is asked for; where the surface turns by 30° or more within it.',
    parameters: {
      width: { label: 'Line', unit: 'mm', min: 0.05, max: 4, usual: 0.8 },
      broken: { label: 'Broken up', unit: '%', min: 0, max: 1, usual: 0.5 },
    },
  },
  worn: {
    name: 'rubbed places',
    says: 'What the baked curvature says is rubbed first, as much of the surface as is asked for.',
    parameters: { share: share(0.05) },
    needs: 'curvature',
  },
  enclosed: {
    name: 'enclosed places',
    says: 'Where the baked occlusion says that light and hands don’t reach, as much of the surface as is asked for.',
    parameters: { share: share(0.08) },
    needs: 'occlusion',
  },
  facing: {
    name: 'a way it faces',
    says: 'Where the surface faces one way: dust lies on what faces up.',
    parameters: {
      towards: { label: 'Facing', choices: TOWARDS, usual: 'up' },
      within: { label: 'Within', unit: '°', min: 1, max: 180, usual: 40 },
      soft: { label: 'Fades over', unit: '°', min: 0, max: 90, usual: 20 },
    },
  },
  span: {
    name: 'a height',
    says: 'Whole below the first height, nothing above the second, in the part’s own space: a water line.',
    parameters: {
      axis: { label: 'Axis', choices: AXIS, usual: 'y' },
      from: { label: 'Whole to', unit: 'mm', min: -100000, max: 100000, usual: 0 },
      to: { label: 'Gone at', unit: 'mm', min: -100000, max: 100000, usual: 20 },
    },
  },
  between: {
    name: 'from one point to another',
    says: 'Whole at the first point, nothing at the second, in the part’s own space.',
    parameters: {
      fromX: coordinate('From x', 0),
      fromY: coordinate('From y', 0),
      fromZ: coordinate('From z', 0),
      toX: coordinate('To x', 0),
      toY: coordinate('To y', 100),
      toZ: coordinate('To z', 0),
    },
  },
  runs: {
    name: 'runs',
    says: 'What ran down the sides: streaks that begin anywhere and thin out below.',
    parameters: {
      width: size('Width', 2.5, 100),
      length: size('Longest', 60, 2000),
      spacing: { label: 'One every', unit: 'mm', min: 0.1, max: 1000, usual: 18 },
    },
  },
  clouds: {
    name: 'clouds',
    says: 'Patches without any order, the largest as large as is asked for.',
    parameters: { size: size('Largest', 12), share: share(0.4), soft: { label: 'Soft', unit: '%', min: 0.01, max: 1, usual: 0.4 } },
  },
  spots: {
    name: 'spots',
    says: 'Round spots strewn through the material.',
    parameters: { size: size('Across', 0.8, 100), share: share(0.1) },
  },
  strands: {
    name: 'strands',
    says: 'Streaks along one direction: brushed metal, fibres of wood.',
    parameters: { along, width: size('Width', 0.15, 50), length: size('Length', 20, 2000), share: share(0.5) },
  },
  scratches: {
    name: 'scratches',
    says: 'Single straight scratches.',
    parameters: {
      along: { label: 'Along', choices: SCRATCHED, usual: 'any' },
      count: { label: 'How many', unit: '/dm²', min: 0.1, max: 5000, usual: 60 },
      length: size('Longest', 14, 300),
      width: size('Width', 0.12, 10),
      spread: { label: 'Spread', unit: '°', min: 0, max: 90, usual: 12 },
    },
  },
  rings: {
    name: 'growth rings',
    says: 'Late wood of a trunk that each board is cut from by itself: end, edge and face agree, no two boards are alike.',
    parameters: {
      along,
      count: { label: 'Rings', unit: '/cm', min: 0.2, max: 20, usual: 3.2 },
      wander: { label: 'Wander', unit: 'mm', min: 0, max: 40, usual: 5 },
    },
  },
  weave: {
    name: 'weave',
    says: 'Threads over and under each other: highest where one crosses over.',
    parameters: { along, thread: size('Thread', 1.2, 50) },
  },
  dents: {
    name: 'hammered bowls',
    says: 'Bowls side by side, deepest in their middles.',
    parameters: { size: size('Across', 9, 200) },
  },
  boards: {
    name: 'some boards',
    says: 'Each piece that hangs together by itself, more on some and less on others: no two boards of one tone.',
    parameters: { share: { label: 'On the whole', unit: '%', min: 0, max: 1, usual: 0.5 } },
  },
  strokes: {
    name: 'strokes by hand',
    says: 'What was painted on the piece with a brush; it lies on the piece, whatever its layout.',
    parameters: { soft: { label: 'Soft edge', unit: '%', min: 0.02, max: 1, usual: 0.4 } },
  },
  layer: {
    name: 'another layer',
    says: 'Where an earlier layer lies.',
    parameters: {},
  },
} as const satisfies Record<FieldKind, Kind>;

/** A field as it is usually begun with. */
export function usualField(kind: Exclude<FieldKind, 'layer'>): Field {
  const parameters: Readonly<Record<string, Amount | Choices>> = FIELDS[kind].parameters;
  const usual = Object.fromEntries(Object.entries(parameters).map(([k, p]) => [k, p.usual]));
  return { kind, ...usual, ...(kind === 'strokes' && { strokes: [] }) } as unknown as Field;
}

/** The finest thing in a field, mm; null where there is none. */
export function finestMm(f: Field): number | null {
  switch (f.kind) {
    case 'edges':
    case 'strands':
    case 'scratches':
    case 'runs':
      return f.width;
    case 'clouds':
      // Of its octaves the last.
      return f.size / 2 ** (CLOUD_OCTAVES - 1);
    case 'spots':
    case 'dents':
      return f.size / 2;
    case 'rings':
      return 10 / f.count / 2;
    case 'weave':
      return f.thread;
    case 'strokes':
      return f.strokes.length > 0 ? 2 * Math.min(...f.strokes.map((s) => s.radius)) : null;
    default:
      return null;
  }
}
/** Octaves of clouds, each half as large and half as strong as the one before. */
export const CLOUD_OCTAVES = 4;
