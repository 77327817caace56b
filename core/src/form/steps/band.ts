import { FormError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { inscribedCount } from '../budget/chord';
import { angle, choice, length, place, size, whole } from '../fields';
import { Lofting } from '../loft';
import type { Detail, Maker, StepBase, StepKind } from '../step';

/** A ring round the y axis whose faces are pushed out in turn, one rim twisted against the other. Lengths in mm. */
export interface BandStep extends StepBase {
  kind: 'band';
  radius: number;
  height: number;
  wall: number;
  columns: number;
  rows: number;
  pattern: 'all' | 'chequered' | 'columns' | 'rows';
  /** How far the chosen faces stand out; negative sinks them. */
  depth: number;
  /** How much smaller their tops are on every side. */
  inset: number;
  /** Radius of the raised faces' edges, in the high mesh. */
  edgeRadius: number;
  /** Rows that stand out by a depth of their own, by their number from the foot, 1 the lowest. */
  own?: { id: string; row: number; depth: number }[];
  /** Turn of the upper rim against the lower one, degrees. */
  twistDegrees: number;
}

const chosen = (s: BandStep, j: number, i: number): boolean =>
  s.pattern === 'all' || (s.pattern === 'columns' ? i % 2 === 0 : s.pattern === 'rows' ? j % 2 === 0 : (i + j) % 2 === 0);

/** How far the faces of a row stand out. */
const depthOf = (s: BandStep, j: number): number => s.own?.find((o) => o.row === j + 1)?.depth ?? s.depth;

/** @throws FormError `band/…` */
function check(s: BandStep): number {
  if (s.wall >= s.radius)
    throw new FormError('band/wall', `A wall of ${millimetres(s.wall)} leaves no hole in “${s.name}” of ${millimetres(s.radius)} radius.`);
  const deepest = Math.min(...Array.from({ length: s.rows }, (_, j) => depthOf(s, j)));
  if (-deepest >= s.wall)
    throw new FormError('band/depth', `Faces of “${s.name}” can’t be sunk ${millimetres(-deepest)} into a wall of ${millimetres(s.wall)}.`);
  const beyond = s.own?.find((o) => o.row > s.rows);
  if (beyond) throw new FormError('band/row', `“${s.name}” has ${s.rows} rows; there is no row ${beyond.row} to give a depth of its own.`);
  const cell = Math.min(2 * s.radius * Math.sin(Math.PI / s.columns), s.height / s.rows);
  if (2 * s.inset >= cell)
    throw new FormError(
      'band/inset',
      `An inset of ${millimetres(s.inset)} leaves nothing of faces ${millimetres(cell)} wide on “${s.name}”.`,
      {
        insetMm: s.inset,
        mostMm: cell / 2,
      },
    );
  if (s.columns % 2 === 1 && (s.pattern === 'chequered' || s.pattern === 'columns'))
    throw new FormError('band/odd', `“${s.name}” has ${s.columns} columns; every second one can only be chosen of an even number.`);
  let count = 0;
  for (let j = 0; j < s.rows; j++) for (let i = 0; i < s.columns; i++) if (depthOf(s, j) !== 0 && chosen(s, j, i)) count++;
  return count;
}

const maker: Maker<BandStep> = {
  plan(step) {
    const pushed = check(step);
    const { columns: n, rows } = step;
    return { adaptive: [], triangles: () => 2 * n * (2 * rows + 2) + 8 * pushed };
  },
  build(step, detail): PolyMesh {
    check(step);
    const { columns: n, rows, radius, height } = step;
    const profiles = Array.from({ length: rows }, (_, j) => raised(step, depthOf(step, j), detail));
    const twist = (step.twistDegrees * Math.PI) / 180;
    const at = (r: number, j: number, i: number): Vec3 => {
      const a = (2 * Math.PI * i) / n + (twist * j) / rows;
      return [r * Math.cos(a), (height * j) / rows, -r * Math.sin(a)];
    };
    const mesh = new Lofting();
    const grid = (r: number) => Array.from({ length: rows + 1 }, (_, j) => Array.from({ length: n }, (_, i) => mesh.vertex(at(r, j, i))));
    const [outer, inner] = [grid(radius), grid(radius - step.wall)];
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < n; i++) {
        const i1 = (i + 1) % n;
        const [u0, u1, v0, v1] = [i / n, (i + 1) / n, j / rows, (j + 1) / rows];
        const quad = [outer[j][i], outer[j][i1], outer[j + 1][i1], outer[j + 1][i]];
        const around = [u0, v0, u1, v0, u1, v1, u0, v1];
        if (depthOf(step, j) === 0 || !chosen(step, j, i)) mesh.facet(quad, 'outside', around, HARD);
        else
          push(mesh, profiles[j], quad, around, [at(radius, j, i), at(radius, j, i + 1), at(radius, j + 1, i + 1), at(radius, j + 1, i)]);
        mesh.facet(
          [inner[j][i], inner[j + 1][i], inner[j + 1][i1], inner[j][i1]],
          'inside',
          [u0, v0, u0, v1, u1, v1, u1, v0],
          [false, j + 1 === rows, false, j === 0],
        );
      }
    for (const [j, patch] of [
      [0, 'foot rim'],
      [rows, 'top rim'],
    ] as const)
      for (let i = 0; i < n; i++) {
        const i1 = (i + 1) % n;
        const quad = [outer[j][i], outer[j][i1], inner[j][i1], inner[j][i]];
        const [u0, u1] = [i / n, (i + 1) / n];
        if (j === 0) mesh.facet([...quad].reverse(), patch, [u0, 1, u1, 1, u1, 0, u0, 0], [true, false, true, false]);
        else mesh.facet(quad, patch, [u0, 0, u1, 0, u1, 1, u0, 1], [true, false, true, false]);
      }
    return mesh.build();
  },
  topology: () => ({ shells: 1, genus: 1, rims: 0 }),
};
const HARD = [true, true, true, true];

/** How a raised face rises: inset and height of its rows, from the ground up; rounded over at its edge in the high mesh. */
function raised(step: BandStep, depth: number, detail: Detail): { inset: number; out: number }[] {
  const top = { inset: step.inset, out: depth };
  const cell = Math.min(2 * step.radius * Math.sin(Math.PI / step.columns), step.height / step.rows) / 2 - step.inset;
  const e = Math.min(step.edgeRadius, depth * 0.6, cell * 0.4);
  if (detail.mesh === 'low' || !(e > 0)) return [top];
  const k = inscribedCount(e, detail.toleranceMm, Math.PI / 2, 2);
  return Array.from({ length: k + 1 }, (_, i) => {
    const a = ((i / k) * Math.PI) / 2;
    return { inset: step.inset + e * (1 - Math.cos(a)), out: depth - e * (1 - Math.sin(a)) };
  });
}

/** A face pushed along its own direction, row by row, with its sides. */
function push(mesh: Lofting, rows: readonly { inset: number; out: number }[], quad: number[], around: number[], corners: Vec3[]): void {
  const middle = [0, 1, 2].map((k) => corners.reduce((s, c) => s + c[k], 0) / 4);
  const r = Math.hypot(middle[0], middle[2]) || 1;
  let below = quad;
  for (const [j, { inset, out }] of rows.entries()) {
    const ids = corners.map((c) => {
      // Every corner moves towards the middle by the inset along both sides, then out along the face's direction.
      const to = [0, 1, 2].map((k) => middle[k] - c[k]);
      const across = Math.hypot(to[0], to[2]) || 1;
      return mesh.vertex([
        c[0] + (to[0] / across) * inset + (middle[0] / r) * out,
        c[1] + Math.sign(to[1]) * inset,
        c[2] + (to[2] / across) * inset + (middle[2] / r) * out,
      ]);
    });
    for (let k = 0; k < 4; k++) {
      const l = (k + 1) % 4;
      const [a, b] = [around.slice(2 * k, 2 * k + 2), around.slice(2 * l, 2 * l + 2)];
      mesh.facet([below[k], below[l], ids[l], ids[k]], 'raised side', [...a, ...b, ...b, ...a], [j === 0, true, rows.length === 1, true]);
    }
    below = ids;
  }
  mesh.facet(below, 'raised', around, rows.length === 1 ? HARD : undefined);
}

export const band = {
  kind: 'band',
  name: 'embossed band',
  about: 'A ring whose faces stand out in turn, twisted if wanted: knurls, milled rims, patterned collars.',
  fields: [
    size('radius', 'Radius'),
    size('height', 'Height'),
    size('wall', 'Wall'),
    whole('columns', 'Faces round', 3, 400),
    whole('rows', 'Rows', 1, 60),
    choice('pattern', 'Stand out', [
      ['chequered', 'every second one'],
      ['columns', 'every second column'],
      ['rows', 'every second row'],
      ['all', 'all'],
    ]),
    place('depth', 'By'),
    length('inset', 'Smaller by'),
    {
      type: 'list',
      key: 'own',
      label: 'Rows of their own',
      one: 'Row of its own',
      optional: true,
      least: 0,
      most: 60,
      fields: [whole('row', 'Row', 1, 60, { hint: 'from the foot' }), place('depth', 'Stands out by')],
      fresh: (list) => ({ row: (Number(list[list.length - 1]?.row) || 0) + 1, depth: 0.5 }),
    },
    angle('twistDegrees', 'Twist'),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh, of raised faces' }),
  ],
  // A twisted band turns its rims about 30° against each other: common practice, no source.
  fresh: () => ({
    name: 'Embossed band',
    radius: 24,
    height: 12,
    wall: 2,
    columns: 24,
    rows: 2,
    pattern: 'chequered' as const,
    depth: 1,
    inset: 0.6,
    twistDegrees: 30,
    edgeRadius: 0.25,
  }),
  words: (s: BandStep, length) => `band Ø ${length(2 * s.radius, 1)} · ${s.columns} × ${s.rows}`,
  maker,
} satisfies StepKind<BandStep>;
