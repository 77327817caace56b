import { type ComposedSet, compose } from '../compose';
import type { Ground } from '../ground';
import { dirtDriver } from '../masks/dirt';
import { wearDriver } from '../masks/wear';
import type { Material } from '../material';
import { BALL_MM } from './place';
import { emptyPlaces } from './places';

/**
 * A material with its layers on a ball, as a square picture laid round it: across it once round, down it from the top to the bottom, as a
 * sphere of longitude and latitude has it. It has no edges; it is shut in from below, and rubbed nowhere in particular.
 */
export function ballOf(material: Material, size: number, seed: number): ComposedSet {
  const places = emptyPlaces(size, 0, size);
  const ground: Ground = {
    size,
    owner: new Uint8Array(size * size).fill(1),
    wear: new Float32Array(size * size),
    dirt: new Float32Array(size * size),
  };
  for (let j = 0; j < size; j++)
    for (let i = 0; i < size; i++) {
      const [round, down] = [(2 * Math.PI * (i + 0.5)) / size, (Math.PI * (j + 0.5)) / size];
      const n = [-Math.cos(round) * Math.sin(down), Math.cos(down), Math.sin(round) * Math.sin(down)];
      const [x, y, z] = n.map((v) => BALL_MM * v);
      const t = j * size + i;
      places.position.set([x, y, z], 3 * t);
      places.normal.set(n, 3 * t);
      places.shell[t] = 1;
      places.footprint[t] = (Math.PI * BALL_MM) / size;
      ground.wear[t] = wearDriver(0, x, y, z, seed);
      ground.dirt[t] = dirtDriver(0.6 + 0.4 * n[1], 0, x, y, z, seed + 500);
    }
  const boards = {
    shells: [{ part: 0, number: 0, seed: 1, centre: [0, 0, 0], axes: [1, 0, 2] }],
    lines: [new Float32Array(0)],
    parts: [],
    ofFace: [],
  } as const;
  return compose(ground, [material], null, { places, boards }, seed).set;
}
