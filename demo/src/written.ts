import { type Brief, briefFor, type Purpose } from '@wellmorph/core/brief/brief';
import type { Dimension } from '@wellmorph/core/form/dimensions';
import type { Profile } from '@wellmorph/core/form/profile';
import type { Region } from '@wellmorph/core/form/regions';
import type { Sketch } from '@wellmorph/core/form/sketch/sketch';
import { kindOf, type Step, type StepName } from '@wellmorph/core/form/steps/index';
import { type AssetDocument, type Material, newDocument, type Part, type Relation, type Role } from '@wellmorph/core/pipeline/document';
import type { Variant } from '@wellmorph/core/pipeline/variants';
import type { Print } from '@wellmorph/core/print/print';

/** A step from its kind's starting dimensions and what is different here. */
export function step<K extends StepName>(kind: K, id: string, name: string, more: Partial<Extract<Step, { kind: K }>>): Step {
  return { kind, id, enabled: true, ...kindOf(kind).fresh(), ...more, name } as unknown as Step;
}

/** A part made by steps. */
export const part = (id: string, name: string, role: Role, material: string, steps: Step[], more: Partial<Part> = {}): Part => ({
  id,
  name,
  role,
  material,
  move: [0, 0, 0],
  turnDegrees: [0, 0, 0],
  shape: { kind: 'recipe', steps },
  weight: 1,
  declaredOpen: false,
  ...more,
});

type P = [r: number, y: number, fillet?: number];
/** A profile from corner points; `kinds` names each segment and says what joins its ends. */
export function profileOf(points: P[], kinds: [name: string, kind?: 'line' | 'arc' | 'tangent', bulge?: number][]): Profile {
  return {
    points: points.map(([r, y, fillet], i) => ({ id: `p${i}`, r, y, ...(fillet && { fillet }) })),
    segments: kinds.map(([name, kind = 'line', bulge], i) => ({ id: `s${i}`, name, kind, ...(bulge !== undefined && { bulge }) })),
  };
}

/** Path points with the bend at each corner. */
export const path = (...points: [x: number, y: number, z: number, bend?: number][]) =>
  points.map(([x, y, z, bend], i) => ({ id: String.fromCharCode(97 + i), x, y, z, ...(bend && { bend }) }));

/** An open or closed line of corners as a sketch; a corner may start an arc that stands off its chord to the right of the way. */
export function lineSketch(corners: [x: number, y: number, bulge?: number][], closed: boolean): Sketch {
  const sketch: Sketch = { points: corners.map(([x, y], i) => ({ id: `p${i}`, x, y })), curves: [], constraints: [] };
  const last = closed ? corners.length : corners.length - 1;
  for (let i = 0; i < last; i++) {
    const [a, b] = [corners[i], corners[(i + 1) % corners.length]];
    const ends = { a: `p${i}`, b: `p${(i + 1) % corners.length}` };
    const bulge = a[2] ?? 0;
    if (bulge === 0) {
      sketch.curves.push({ id: `s${i}`, name: `edge ${i + 1}`, kind: 'line', ...ends });
      continue;
    }
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const chord = Math.hypot(dx, dy);
    const radius = (chord * chord) / (8 * Math.abs(bulge)) + Math.abs(bulge) / 2;
    const off = (Math.sign(bulge) * (radius - Math.abs(bulge))) / chord;
    sketch.points.push({ id: `m${i}`, x: (a[0] + b[0]) / 2 - dy * off, y: (a[1] + b[1]) / 2 + dx * off });
    sketch.curves.push({ id: `s${i}`, name: `edge ${i + 1}`, kind: 'arc', ...ends, centre: `m${i}`, turn: bulge > 0 ? 'left' : 'right' });
  }
  return sketch;
}

/** An open or closed line of corners as a sketch; corners with a radius are rounded by a feature that is kept. */
export function roundedSketch(corners: [x: number, y: number, radius?: number][], closed: boolean): Sketch {
  const sketch = lineSketch(
    corners.map(([x, y]) => [x, y]),
    closed,
  );
  const radii = [...new Set(corners.map((c) => c[2] ?? 0))].filter((r) => r > 0);
  const features = radii.map((mm, i) => ({
    id: `f${i}`,
    kind: 'round' as const,
    of: corners.flatMap((c, k) => (c[2] === mm ? [`p${k}`] : [])).join(' '),
    mm,
  }));
  return { ...sketch, features };
}

export const dimension = (name: string, formula: string, kind: Dimension['kind'] = 'length'): Dimension => ({
  id: name,
  name,
  formula,
  kind,
});

/** A wanted relation of two parts. */
export const between = (a: string, b: string, wanted: Relation['wanted'], mm = 0, tolerance = 0.05): Relation => ({
  id: `${a}-${b}`,
  a,
  b,
  wanted,
  mm,
  tolerance,
});

/** The faces of a part that look in a direction. */
export const facing = (id: string, name: string, [x, y, z]: readonly [number, number, number]): Region => ({
  id,
  name,
  weight: 1,
  rules: [{ id: '1', how: 'add', rule: { kind: 'facing', x, y, z, degrees: 5 } }],
});

/** A piece of the demo: its brief, materials, parts and named dimensions. */
export function piece(
  name: string,
  brief: { purpose: Purpose; size: [number, number, number]; triangles: number } & Partial<Omit<Brief, 'limits' | 'sizeMm'>>,
  materials: Material[],
  parts: Part[],
  {
    dimensions = [],
    relations,
    prints,
    variants,
  }: { dimensions?: Dimension[]; relations?: Relation[]; prints?: Print[]; variants?: Variant[] } = {},
): AssetDocument {
  const { purpose, size, triangles, ...more } = brief;
  const base = briefFor(purpose);
  const limits = { ...base.limits, triangles, textureSize: 1024, memoryMB: 24 };
  return {
    ...newDocument(name, { ...base, sizeMm: size, ...more, limits }),
    materials,
    parts,
    dimensions,
    ...(relations && { relations }),
    ...(prints && { prints }),
    ...(variants && { variants }),
  };
}
