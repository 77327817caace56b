import { type Mat4, multiply, rotation, translation } from '../../maths/mat4';

/** Copies of everything before it in the part, turned round the y axis through (x, z). Copies share mesh and texels. */
export interface ArrayStep {
  kind: 'array';
  id: string;
  name: string;
  enabled: boolean;
  count: number;
  x: number;
  z: number;
  /** Angle of the first copy, degrees. */
  startDegrees: number;
}

/** One placement per copy. */
export function arrayPlacements(step: ArrayStep): Mat4[] {
  return Array.from({ length: step.count }, (_, i) => {
    const angle = (step.startDegrees * Math.PI) / 180 + (2 * Math.PI * i) / step.count;
    return multiply(translation([step.x, 0, step.z]), multiply(rotation([0, 1, 0], angle), translation([-step.x, 0, -step.z])));
  });
}
