import type { SeamShown } from '../bake/judge';
import { linearToSrgb } from '../image/srgb';
import { irradiance } from '../light/lamps';
import { toneMap } from '../light/tone';
import { normalMatrix, transformDirection, transformPoint } from '../maths/mat4';
import { normalise, type Vec3 } from '../maths/vec3';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';
import { solveStage } from './render';

/** How seams show in the picture: levels of 255 between their two sides. */
export interface SeamsLit {
  worst: number;
  /** How many of those that were asked about can be told apart. */
  seen: number;
  of: number;
}

/** Light that a matt surface of middling brightness sends back. */
const REFLECTED = 0.5;
/** From so many levels on two sides of an edge can be told apart: common practice, no source. */
export const SEEN = 2;

/**
 * How far the two sides of seams differ in the picture: a matt grey under the shot’s lamps and exposure, nothing standing between
 * (Lambert’s law; the irradiance of each lamp is exact).
 */
export function seamsLit(document: AssetDocument, parts: readonly PartMesh[], seams: readonly SeamShown[]): SeamsLit {
  const { rig, development } = solveStage(document, parts);
  const placed = new Map(parts.map((p) => [p.id, p.placements[0]]));
  const colour = new Float64Array(3);
  const level = (at: Vec3, n: Vec3) => {
    const arriving = rig.lamps.reduce((sum, lamp) => sum + irradiance(lamp, at, n), Math.PI * rig.environment[0]);
    colour.fill((REFLECTED * arriving) / (Math.PI * development.full));
    toneMap(colour, development.tone);
    return 255 * linearToSrgb(Math.min(1, colour[1]));
  };
  let [worst, seen, of] = [0, 0, 0];
  for (const { id, at, one, other } of seams) {
    const m = placed.get(id);
    if (!m) continue;
    const p = transformPoint(m, at);
    const turning = normalMatrix(m);
    const turned = (n: Vec3) => normalise(transformDirection(turning, n));
    const apart = Math.abs(level(p, turned(one)) - level(p, turned(other)));
    worst = Math.max(worst, apart);
    of++;
    if (apart >= SEEN) seen++;
  }
  return { worst, seen, of };
}
