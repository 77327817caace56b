import { type Lamp, lampArea, lampNormal } from '../light/lamps';
import type { Emitter, Scene } from './scene';

/** One thing that can be chosen as a light: a lamp, or a glowing part as a whole. Lamps come first. */
export interface Light {
  lamp: Lamp | null;
  emitter: Emitter | null;
  x: number;
  y: number;
  z: number;
  /** Where a lamp shines. */
  nx: number;
  ny: number;
  nz: number;
  r: number;
  g: number;
  b: number;
  /** mm². */
  area: number;
  /** In proportion to its power, for choosing. */
  power: number;
  /** Nearer than its own size its distance no longer counts, mm². */
  radius2: number;
}

/** The lights of a scene as the tracer chooses among them. */
export function lampTables(scene: Scene): Light[] {
  return [
    ...scene.lamps.map((lamp): Light => {
      const n = lampNormal(lamp);
      const area = lampArea(lamp) * 1e6;
      const [r, g, b] = lamp.radiance;
      return {
        lamp,
        emitter: null,
        x: lamp.centre[0],
        y: lamp.centre[1],
        z: lamp.centre[2],
        nx: n[0],
        ny: n[1],
        nz: n[2],
        r,
        g,
        b,
        area,
        power: area * (r + g + b),
        radius2: area,
      };
    }),
    ...scene.emitters.map((emitter): Light => {
      const area = emitter.areas[emitter.areas.length - 1];
      return {
        lamp: null,
        emitter,
        x: emitter.centre[0],
        y: emitter.centre[1],
        z: emitter.centre[2],
        nx: 0,
        ny: 0,
        nz: 0,
        r: 0,
        g: 0,
        b: 0,
        area,
        // A closed body shows about half of its surface, by a mean cosine of one half.
        power: area * emitter.radiance * 3 * 0.25,
        radius2: emitter.radius * emitter.radius,
      };
    }),
  ];
}
