import type { Vec3 } from '../../maths/vec3';

/** A connected piece of a part: a board, a rivet. What grows along it is laid by its own length, and no two are alike. */
export interface Shell {
  /** Number of its part among those that are composed, and its own among all. */
  part: number;
  number: number;
  seed: number;
  /** Middle of its box, mm. */
  centre: Vec3;
  /** The axes of its box by how long they are, longest first. */
  axes: readonly [number, number, number];
}

/** A place on the surface, as fields read it; one is used over and over. */
export class Place {
  /** mm, in the part’s own space. */
  x = 0;
  y = 0;
  z = 0;
  /** Unit normal of the surface. */
  nx = 0;
  ny = 0;
  nz = 1;
  /** Side of a texel there, mm. */
  footprint = 0;
  shell!: Shell;
  /** How soon it is rubbed and how soon it dirties: larger is sooner. */
  wear = 0;
  dirt = 0;

  /** Its coordinates with one axis first; along its length they are from the middle of its board. */
  along(axis: Along, out: Float64Array): void {
    const { x, y, z } = this;
    if (axis === 'length') {
      const { centre, axes } = this.shell;
      for (let k = 0; k < 3; k++) {
        const a = axes[k];
        out[k] = (a === 0 ? x : a === 1 ? y : z) - centre[a];
      }
      return;
    }
    out[0] = axis === 'x' ? x : axis === 'y' ? y : z;
    out[1] = axis === 'x' ? y : axis === 'y' ? z : x;
    out[2] = axis === 'x' ? z : axis === 'y' ? x : y;
  }
}

/** What something runs along: the length of each board, or an axis of the part. */
export const ALONG = { length: 'its length', x: 'x', y: 'y', z: 'z' } as const;
export type Along = keyof typeof ALONG;

/** Radius of the ball that a material is shown on, mm. */
export const BALL_MM = 25;
