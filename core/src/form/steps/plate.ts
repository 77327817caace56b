import earcut from 'earcut';
import { FormError } from '../../errors';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { inscribedCount } from '../budget/chord';
import type { Point2 } from '../curves';
import { choice, length, size } from '../fields';
import { Lofting } from '../loft';
import { polygonPlan, type SectionPlan, type SectionPoint } from '../section';
import { type Chain, outlinesOf } from '../sketch/chains';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import type { Maker, StepBase, StepKind } from '../step';

/** A sketched outline, with holes, pushed to a thickness. Lengths in mm. */
export interface PlateStep extends StepBase {
  kind: 'plate';
  sketch: Sketch;
  thickness: number;
  /** Lying: the sketch seen from above, pushed up from y = 0. Standing: seen from the front, pushed towards +z. */
  lies: 'flat' | 'upright';
  edgeRadius: number;
}

interface Outline {
  chain: Chain;
  plan: SectionPlan;
}

function outlines(step: PlateStep): Outline[] {
  const { outer, holes } = outlinesOf(step.sketch, step.name);
  return [outer, ...holes].map((chain) => ({ chain, plan: polygonPlan(chain.curves, chain.ids, step.id) }));
}

const maker: Maker<PlateStep> = {
  plan(step) {
    const all = outlines(step);
    const distinct = [...new Map(all.flatMap((o) => o.plan.adaptive).map((a) => [a.key, a])).values()];
    return {
      adaptive: distinct,
      // A polygon of m corners with h holes is cut into m − 2 + 2h triangles; two of them and a wall of quads.
      triangles: (count) => {
        const m = all.reduce((n, o) => n + o.plan.corners(count), 0);
        return 2 * m + 2 * (m - 2 + 2 * (all.length - 1));
      },
    };
  },
  build(step, detail): PolyMesh {
    const all = outlines(step);
    const place = (p: Point2, at: number): [number, number, number] => (step.lies === 'upright' ? [p[0], p[1], at] : [p[0], at, -p[1]]);
    const loops = all.map((o) => o.plan.points(detail));
    const high = detail.mesh === 'high' && step.edgeRadius > 0;
    const edge = high ? Math.min(step.edgeRadius, step.thickness * 0.45) : 0;
    const arc = high && detail.mesh === 'high' ? inscribedCount(edge, detail.toleranceMm, Math.PI / 2, 2) : 0;
    const levels = high
      ? [...quarter(edge, arc, 0, true), ...quarter(edge, arc, step.thickness, false)]
      : [
          { inset: 0, at: 0 },
          { inset: 0, at: step.thickness },
        ];
    const mesh = new Lofting();
    const rims = all.map(({ chain }, o) => {
      const inset = levels.map((l) => moved(loops[o], l.inset, step.name));
      const side = sideOf(chain, loops[o]);
      const ids = mesh.put({
        loops: inset.map((loop, j) => loop.map((p) => place(p, levels[j].at))),
        face(j, i) {
          const q = loops[o][(i + 1) % loops[o].length];
          const edgeBand = high && j !== arc;
          const v: [number, number] = high ? (edgeBand ? [(j % (arc + 1)) / arc, ((j % (arc + 1)) + 1) / arc] : [0, 1]) : [0, 1];
          return {
            patch: side[i].patch + (edgeBand ? (j < arc ? ' back edge' : ' front edge') : ''),
            u: side[i].u,
            v,
            hard: [!high, q.hard, !high, loops[o][i].hard],
          };
        },
      });
      return [ids[0], ids[ids.length - 1]];
    });
    const outlinesAt = (level: number) => all.map((_, o) => moved(loops[o], levels[level].inset, step.name));
    cover(
      mesh,
      outlinesAt(0),
      rims.map((r) => r[0]),
      'back',
      true,
    );
    cover(
      mesh,
      outlinesAt(levels.length - 1),
      rims.map((r) => r[1]),
      'face',
      false,
    );
    return mesh.build();
  },
  topology: (step) => ({ shells: 1, genus: outlines(step).length - 1, rims: 0 }),
};

/** A quarter arc of levels that leaves the back, or reaches the face. */
function quarter(radius: number, steps: number, at: number, leaving: boolean): { inset: number; at: number }[] {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const a = ((leaving ? steps - i : i) / steps) * (Math.PI / 2);
    return { inset: radius * (1 - Math.cos(a)), at: at + (leaving ? 1 : -1) * radius * (1 - Math.sin(a)) };
  });
}

/** Every corner moved along its bisector so that its sides come to lie `inset` further in. @throws FormError when a side would turn round */
function moved(loop: readonly SectionPoint[], inset: number, name: string): Point2[] {
  if (inset === 0) return loop.map((p) => [p.x, p.y]);
  const n = loop.length;
  const out = loop.map((p, i): Point2 => {
    const [a, b] = [loop[(i + n - 1) % n], loop[(i + 1) % n]];
    const d = unit(p.x - a.x, p.y - a.y);
    const e = unit(b.x - p.x, b.y - p.y);
    const turn = Math.atan2(d[0] * e[1] - d[1] * e[0], d[0] * e[0] + d[1] * e[1]);
    const k = inset * Math.tan(turn / 2);
    return [p.x - d[1] * inset - d[0] * k, p.y + d[0] * inset - d[1] * k];
  });
  for (let i = 0; i < n; i++) {
    const [p, q] = [loop[i], loop[(i + 1) % n]];
    const [s, t] = [out[i], out[(i + 1) % n]];
    if ((q.x - p.x) * (t[0] - s[0]) + (q.y - p.y) * (t[1] - s[1]) <= 0)
      throw new FormError(
        'plate/edge',
        `An edge radius of ${millimetres(inset)} is too large for the outline of “${name}”: a side of it would vanish.`,
      );
  }
  return out;
}
const unit = (x: number, y: number): Point2 => {
  const l = Math.hypot(x, y) || 1;
  return [x / l, y / l];
};

/** For each side of a polygon: the patch of the curve it belongs to, and its share of that curve. */
function sideOf(chain: Chain, loop: readonly SectionPoint[]): { patch: string; u: [number, number] }[] {
  const total = loop.length;
  const out: { patch: string; u: [number, number] }[] = [];
  // Points are dealt to curves in order: every curve starts with one of its own.
  const starts = chain.curves.map((c) => loop.findIndex((p) => Math.hypot(p.x - c.a[0], p.y - c.a[1]) < 1e-9));
  for (const [c, start] of starts.entries()) {
    const end = c + 1 < starts.length ? starts[c + 1] : total;
    for (let i = start; i < end; i++)
      out.push({ patch: `edge ${chain.ids[c]}`, u: [(i - start) / (end - start), (i - start + 1) / (end - start)] });
  }
  return out;
}

/** A flat face with holes as triangles, or one polygon where there are none. */
function cover(mesh: Lofting, outlinesAt: Point2[][], ids: number[][], patch: string, back: boolean): void {
  if (outlinesAt.length === 1) {
    mesh.cap(back ? [...ids[0]].reverse() : ids[0], patch);
    return;
  }
  const points = outlinesAt.flat();
  const vertices = ids.flat();
  const holes = outlinesAt.slice(1).map((_, i) => outlinesAt.slice(0, i + 1).reduce((n, o) => n + o.length, 0));
  const ears = earcut(points.flat(), holes);
  const rim = new Set<string>();
  for (const loop of ids) for (const [i, v] of loop.entries()) rim.add(edge(v, loop[(i + 1) % loop.length]));
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const [x0, y0] = [Math.min(...xs), Math.min(...ys)];
  const [w, h] = [Math.max(...xs) - x0, Math.max(...ys) - y0];
  for (let t = 0; t < ears.length; t += 3) {
    let tri = [ears[t], ears[t + 1], ears[t + 2]];
    const [a, b, c] = tri.map((i) => points[i]);
    const left = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) > 0;
    if (left === back) tri = [tri[0], tri[2], tri[1]];
    mesh.facet(
      tri.map((i) => vertices[i]),
      patch,
      tri.flatMap((i) => [(points[i][0] - x0) / w, (points[i][1] - y0) / h]),
      tri.map((i, k) => rim.has(edge(vertices[i], vertices[tri[(k + 1) % 3]]))),
    );
  }
}
const edge = (a: number, b: number) => (a < b ? `${a},${b}` : `${b},${a}`);

export const plate = {
  kind: 'plate',
  name: 'plate',
  about: 'A sketched outline with holes, pushed to a thickness: brackets, hasps, name plates, gaskets.',
  fields: [
    { type: 'group', key: 'sketch', label: 'Outline', fields: SKETCH_FIELDS, drawn: true },
    size('thickness', 'Thickness'),
    choice('lies', 'Lies', [
      ['flat', 'flat, drawn from above'],
      ['upright', 'upright, drawn from the front'],
    ]),
    length('edgeRadius', 'Edge radius', { hint: 'high mesh' }),
  ],
  fresh: () => ({
    name: 'Plate',
    thickness: 3,
    lies: 'flat' as const,
    edgeRadius: 0.4,
    sketch: {
      points: [
        { id: 'a', x: -30, y: -15, fixed: true },
        { id: 'b', x: 30, y: -15 },
        { id: 'c', x: 30, y: 15 },
        { id: 'd', x: -30, y: 15 },
      ],
      curves: [
        { id: 'l1', name: 'front', kind: 'line' as const, a: 'a', b: 'b' },
        { id: 'l2', name: 'right', kind: 'line' as const, a: 'b', b: 'c' },
        { id: 'l3', name: 'back', kind: 'line' as const, a: 'c', b: 'd' },
        { id: 'l4', name: 'left', kind: 'line' as const, a: 'd', b: 'a' },
      ],
      constraints: [
        { id: 'k1', kind: 'horizontal' as const, one: 'l1' },
        { id: 'k2', kind: 'vertical' as const, one: 'l2' },
        { id: 'k3', kind: 'horizontal' as const, one: 'l3' },
        { id: 'k4', kind: 'vertical' as const, one: 'l4' },
        { id: 'k5', kind: 'distance' as const, one: 'l1', mm: 60 },
        { id: 'k6', kind: 'distance' as const, one: 'l2', mm: 30 },
      ],
    },
  }),
  words: (s: PlateStep, length) => `plate ${length(s.thickness, 1)} thick`,
  patchName(s: PlateStep, patch: string) {
    const id = patch.match(/^edge (\S+)/)?.[1];
    const named = s.sketch.curves.find((c) => c.id === id);
    return named ? patch.replace(`edge ${id}`, named.name) : patch;
  },
  maker,
} satisfies StepKind<PlateStep>;
