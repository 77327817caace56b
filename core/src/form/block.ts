import type { Vec3 } from '../maths/vec3';
import type { PolyMesh } from '../mesh/polymesh';
import { millimetres } from '../units/lengths';
import { inscribedCount, inscribedError } from './budget/chord';
import type { Point2 } from './curves';
import { Lofting } from './loft';
import type { Adaptive } from './step';

/** One level of a block: a convex outline, moved inward and with its corners rounded. */
export interface Level {
  /** Corners, counter-clockwise about the way the levels follow each other. */
  corners: readonly Point2[];
  /** mm every side is moved inward. */
  inset: number;
  /** Radius of the corners before the inset is taken off. */
  radius: number;
  at: number;
  /** Patch of the band that ends here: added to the side's own name. */
  band: string;
  /** Share of that band's patch at this level and where the band begins. */
  v: number;
  from: number;
  hard: boolean;
}

/** A block of levels with rounded corners, as it is meshed. */
export interface Block {
  levels: readonly Level[];
  /** Steps round each corner; 0 leaves one vertex there. */
  steps: number;
  /** Name of the side that starts at corner i. */
  sides: readonly string[];
  closed?: boolean;
  start?: string;
  end?: string;
  /** Where a point of a level stands in space. */
  place(p: Point2, at: number): Vec3;
}

/** Least radius a rounded corner keeps when it is moved inward: as many vertices, none on another. */
const LEAST = 0.04;

/**
 * The outline of a convex polygon moved inward by `inset` with corners of `radius − inset`, `steps` chords to each: sides at a
 * turn of θ touch the arc R·tan(θ/2) from the corner.
 */
export function corneredLoop(corners: readonly Point2[], inset: number, radius: number, steps: number): Point2[] {
  const n = corners.length;
  const out: Point2[] = [];
  const unit = (a: Point2, b: Point2): Point2 => {
    const l = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    return [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
  };
  for (let i = 0; i < n; i++) {
    const d = unit(corners[(i + n - 1) % n], corners[i]);
    const e = unit(corners[i], corners[(i + 1) % n]);
    const turn = Math.atan2(d[0] * e[1] - d[1] * e[0], d[0] * e[0] + d[1] * e[1]);
    // Both sides move to their left by the inset; they meet again on the bisector.
    const k = inset * Math.tan(turn / 2);
    const corner: Point2 = [corners[i][0] - d[1] * inset - d[0] * k, corners[i][1] + d[0] * inset - d[1] * k];
    if (steps === 0) {
      out.push(corner);
      continue;
    }
    const r = Math.max(radius - inset, LEAST * radius);
    const t = r * Math.tan(turn / 2);
    const start: Point2 = [corner[0] - d[0] * t, corner[1] - d[1] * t];
    const centre: Point2 = [start[0] - d[1] * r, start[1] + d[0] * r];
    for (let j = 0; j <= steps; j++) {
      const a = (turn * j) / steps;
      const [x, y] = [start[0] - centre[0], start[1] - centre[1]];
      out.push([centre[0] + x * Math.cos(a) - y * Math.sin(a), centre[1] + x * Math.sin(a) + y * Math.cos(a)]);
    }
  }
  return out;
}

/** Builds blocks into one mesh. */
export class Blocks {
  private readonly mesh = new Lofting();

  put({ levels, steps, sides, closed, start, end, place }: Block): void {
    const loops = levels.map((l) => corneredLoop(l.corners, l.inset, l.radius, steps).map((p) => place(p, l.at)));
    const each = steps + 1;
    // u runs along each side, 0…1, and along each corner likewise.
    this.mesh.put({
      loops,
      closed,
      start,
      end,
      face(j, i) {
        const next = levels[(j + 1) % levels.length];
        const corner = Math.floor(i / each);
        const along = i % each;
        const isSide = along === steps;
        const name = isSide ? sides[corner] : `corner ${sides[(corner + sides.length - 1) % sides.length]}`;
        const sharp = steps === 0;
        return {
          patch: name + next.band,
          u: isSide ? [0, 1] : [along / steps, (along + 1) / steps],
          v: [next.from, next.v],
          hard: [levels[j].hard, sharp, next.hard, sharp],
        };
      },
    });
  }
  build = (): PolyMesh => this.mesh.build();
}

/** Steps round the corners of a block with a turn of `turn` radians each. */
export const cornersOf = (id: string, radius: number, turn: number): Adaptive => ({
  key: `${id}.corners`,
  label: `steps round the R ${millimetres(radius, 1)} corners`,
  minimum: 1,
  errorMm: (n) => inscribedError(radius, n, turn),
  countFor: (e) => inscribedCount(radius, e, turn, 1),
});

/** Where an edge that is rounded lies. */
export interface EndEdge {
  at: number;
  /** +1 when the end is the farther one. */
  way: 1 | -1;
  radius: number;
  steps: number;
  band: string;
  /** The levels leave the end; otherwise they reach it. */
  leaving: boolean;
}
type Outline = Pick<Level, 'corners' | 'radius'>;

/** Levels that round the edge between the outside and an end: a quarter arc, the inset growing towards the end. */
export const roundedEdge = (outline: Outline, edge: EndEdge): Level[] =>
  quarter(outline, edge, (a) => ({ depth: 1 - Math.sin(a), inset: 1 - Math.cos(a) }));

/** The same for the inside of a wall: the outline is moved outward at the end and comes in with the arc. */
export const roundedInside = (outline: Outline, edge: EndEdge): Level[] =>
  quarter(outline, edge, (a) => ({ depth: 1 - Math.sin(a), inset: Math.cos(a) - 1 }));

/** @param at what a quarter's angle means, in radii: π/2 lies at the end */
function quarter(
  outline: Outline,
  { at: end, way, radius, steps, band, leaving }: EndEdge,
  at: (angle: number) => { depth: number; inset: number },
): Level[] {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const { depth, inset } = at(((leaving ? steps - i : i) / steps) * (Math.PI / 2));
    return {
      ...outline,
      inset: inset * radius,
      at: end - way * depth * radius,
      band,
      v: i / steps,
      from: Math.max(0, (i - 1) / steps),
      hard: false,
    };
  });
}
