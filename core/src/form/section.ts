import { figure, millimetres } from '../units/lengths';
import { balancedCount, balancedError, balancedScale, inscribedCount, inscribedError } from './budget/chord';
import { type Curve, curveLength, isSharp, pointAt } from './curves';
import { choice, type Field, length, size } from './fields';
import { outlinesOf } from './sketch/chains';
import { SKETCH_FIELDS, type Sketch } from './sketch/sketch';
import { type Adaptive, countOf, type Detail } from './step';

/** A closed section, across and up, mm, round its middle. */
export interface Section {
  section?: 'round' | 'oval' | 'rectangle' | 'sketch';
  /** Of a round section. */
  radius: number;
  /** Of an oval or rectangle. */
  width?: number;
  height?: number;
  /** Radius of a rectangle's corners. */
  corner?: number;
  /** Of a sketched one. */
  outline?: Sketch;
}

export const SECTION_FIELDS: readonly Field[] = [
  choice(
    'section',
    'Section',
    [
      ['round', 'round'],
      ['oval', 'oval'],
      ['rectangle', 'rectangle'],
      ['sketch', 'sketched'],
    ],
    { optional: true },
  ),
  size('radius', 'Section radius', { when: (s) => (s.section ?? 'round') === 'round' }),
  size('width', 'Width', { optional: true, when: (s) => s.section === 'oval' || s.section === 'rectangle' }),
  size('height', 'Height', { optional: true, when: (s) => s.section === 'oval' || s.section === 'rectangle' }),
  length('corner', 'Corner radius', { optional: true, when: (s) => s.section === 'rectangle' }),
  {
    type: 'group',
    key: 'outline',
    label: 'Section',
    fields: SKETCH_FIELDS,
    optional: true,
    drawn: true,
    when: (s) => s.section === 'sketch',
  },
];

/** Corners of a section polygon: where, whether the edge along the bar is hard there, how far round it stands (0…1). */
export interface SectionPoint {
  x: number;
  y: number;
  hard: boolean;
  u: number;
}

/** A section with its counts, ready to be asked for its polygon. */
export interface SectionPlan {
  adaptive: Adaptive[];
  /** Farthest point from the middle, mm. */
  reach: number;
  /** Corners of the polygon with these counts. */
  corners(count: (a: Adaptive) => number): number;
  points(detail: Detail): SectionPoint[];
}

/** @throws FormError from a sketched outline */
export function sectionPlan(s: Section, id: string, name: string): SectionPlan {
  const kind = s.section ?? 'round';
  if (kind === 'round' || kind === 'oval') {
    const [a, b] = kind === 'round' ? [s.radius, s.radius] : [(s.width ?? 4) / 2, (s.height ?? 4) / 2];
    const reach = Math.max(a, b);
    const around: Adaptive = {
      key: `${id}.section`,
      label:
        kind === 'round' ? `sides of the Ø ${figure(2 * a, 1)} section` : `sides of the ${figure(2 * a, 1)} × ${figure(2 * b, 1)} oval`,
      minimum: 4,
      errorMm: (n) => balancedError(reach, n),
      countFor: (e) => balancedCount(reach, e, 4),
    };
    return {
      adaptive: [around],
      reach,
      corners: (count) => count(around),
      points(detail) {
        const n = countOf(detail, around);
        const k = detail.mesh === 'low' ? balancedScale(n) : 1;
        return Array.from({ length: n }, (_, i) => {
          const t = (2 * Math.PI * i) / n;
          return { x: a * k * Math.cos(t), y: b * k * Math.sin(t), hard: false, u: i / n };
        });
      },
    };
  }
  const { curves, ids } = kind === 'rectangle' ? roundedRectangle(s.width ?? 6, s.height ?? 3, s.corner ?? 0) : sketched(s.outline, name);
  return polygonPlan(curves, ids, id);
}

/** A closed chain of curves as a section. */
export function polygonPlan(curves: readonly Curve[], ids: readonly string[], id: string): SectionPlan {
  const arcs = curves.map((c, i) => (c.kind === 'arc' ? arcCount(c, `${id}.section.${ids[i]}`) : undefined));
  const long = curves.map(curveLength);
  const total = long.reduce((a, b) => a + b, 0);
  let reach = 0;
  for (const c of curves) for (let t = 0; t <= 8; t++) reach = Math.max(reach, Math.hypot(...pointAt(c, t / 8)));
  const distinct = [...new Map(arcs.filter((a) => a !== undefined).map((a) => [a.key, a])).values()];
  return {
    adaptive: distinct,
    reach,
    corners: (count) => arcs.reduce((n, a) => n + (a ? count(a) : 1), 0),
    points(detail) {
      const out: SectionPoint[] = [];
      let run = 0;
      for (const [i, c] of curves.entries()) {
        const a = arcs[i];
        const k = a ? countOf(detail, a) : 1;
        const before = curves[(i + curves.length - 1) % curves.length];
        for (let j = 0; j < k; j++) {
          const [x, y] = pointAt(c, j / k);
          out.push({ x, y, hard: j === 0 && isSharp(before, c), u: (run + (long[i] * j) / k) / total });
        }
        run += long[i];
      }
      return out;
    },
  };
}

export const arcCount = (c: Extract<Curve, { kind: 'arc' }>, key: string): Adaptive => {
  const sweep = Math.abs(c.sweep);
  const minimum = Math.max(1, Math.ceil(sweep / 1.6));
  return {
    key,
    label: `steps round the R ${millimetres(c.radius, 1)} arc`,
    minimum,
    errorMm: (n) => inscribedError(c.radius, n, sweep),
    countFor: (e) => inscribedCount(c.radius, e, sweep, minimum),
  };
};

/** The corners share one count: key `corner`. */
function roundedRectangle(width: number, height: number, corner: number): { curves: Curve[]; ids: string[] } {
  const [a, b] = [width / 2, height / 2];
  const r = Math.min(corner, a * 0.999, b * 0.999);
  const curves: Curve[] = [];
  const ids: string[] = [];
  const sides: [number, number][] = [
    [a, -b],
    [a, b],
    [-a, b],
    [-a, -b],
  ];
  for (let i = 0; i < 4; i++) {
    const [p, q] = [sides[i], sides[(i + 1) % 4]];
    const d = [Math.sign(q[0] - p[0]), Math.sign(q[1] - p[1])];
    const from: [number, number] = [p[0] + d[0] * r, p[1] + d[1] * r];
    const to: [number, number] = [q[0] - d[0] * r, q[1] - d[1] * r];
    curves.push({ kind: 'line', a: from, b: to });
    ids.push(`side${i}`);
    if (r > 1e-9) {
      const e = [-d[1], d[0]];
      const centre: [number, number] = [to[0] + e[0] * r, to[1] + e[1] * r];
      curves.push({ kind: 'arc', a: to, b: [q[0] + e[0] * r, q[1] + e[1] * r], centre, radius: r, sweep: Math.PI / 2 });
      ids.push('corner');
    }
  }
  return { curves, ids };
}

function sketched(outline: Sketch | undefined, name: string): { curves: readonly Curve[]; ids: readonly string[] } {
  return outlinesOf(outline ?? { points: [], curves: [], constraints: [] }, name).outer;
}
