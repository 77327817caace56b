import { hash32 } from '../../maths/random';
import {
  chance,
  cloudsAbove,
  Dents,
  octaves,
  ramp,
  rings,
  runs,
  Scratches,
  smoothEdge,
  spotCell,
  spots,
  strands,
  strandsAbove,
  weave,
} from './draw';
import type { Field, Towards } from './fields';
import type { Layer, Masked } from './layer';
import type { Along, Place } from './place';

/** Half the width of a mask’s edge, in the units of its driver. */
export const SOFT = { wear: 0.06, dirt: 0.05 } as const;

/** How much of something lies at a place, 0 … 1. @param below what of earlier layers lies there, by number */
export type Amount = (p: Place, below: ArrayLike<number>) => number;

const seedOf = (text: string): number => [...text].reduce((h, c) => hash32(h ^ c.charCodeAt(0)), 0x51ed270b);
/** Which of the layers below is meant; −1 where there is none. */
export const follows = (on: readonly Layer[], at: number, id: string): number => on.findIndex((l, i) => i < at && l.id === id);

/** A field as its mask has it: with its contrast, in patches, where it is or where it is not. */
function shaped({ inverted, at, curve, broken, seed }: Masked & { at: Amount; seed: number }): Amount {
  let of = at;
  if (curve) {
    const inner = of;
    of = (p, below) => ramp(inner(p, below), curve.from, curve.to);
  }
  if (broken && broken.by > 0) {
    const inner = of;
    const half = cloudsAbove(0.5);
    of = (p, below) => {
      const a = inner(p, below);
      return a > 0 ? a * (1 - broken.by * smoothEdge(octaves(p.x, p.y, p.z, broken.size, seed, p.footprint), half, 0.12)) : 0;
    };
  }
  const whole = of;
  return inverted ? (p, below) => 1 - whole(p, below) : whole;
}

/** Fields joined one after the other; those that can’t change anything any more are not asked. */
export function joined(mask: readonly (Masked & { at: Amount; seed: number })[]): Amount {
  if (mask.length === 0) return () => 1;
  const first = shaped(mask[0]);
  if (mask.length === 1) return first;
  const rest = mask.slice(1).map((m) => ({ join: m.join, at: shaped(m) }));
  return (p, below) => {
    let a = first(p, below);
    for (const { join, at } of rest) {
      if (join === 'or') {
        if (a < 1) a = Math.max(a, at(p, below));
      } else if (a > 0) a *= join === 'times' ? at(p, below) : 1 - at(p, below);
    }
    return a;
  };
}

/** Patches of a mask are others than what its fields are made of. */
export const PATCHED = 1000;

/** What noise in the mask of a layer begins from. @param n which field of it @param seed of the whole piece */
export const maskSeed = (layer: Pick<Layer, 'id'>, n: number, seed: number): number =>
  hash32(seedOf(layer.id) ^ Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(n + 1, 0x85ebca6b)) | 0;

/** What a field needs to know of where it stands. */
export interface About {
  layer: Layer;
  /** Which field of its mask. */
  n: number;
  on: readonly Layer[];
  at: number;
  seed: number;
  /** Where a mask by share begins, in the units of its driver. */
  limit: number;
  /** mm to the nearest edge of a part, for a line of a width; Infinity beyond the reach. */
  edge(part: number, width: number, reach: number): ((x: number, y: number, z: number) => number) | null;
  /** What was painted by hand, as a function of a place. */
  painted(f: Extract<Field, { kind: 'strokes' }>): (p: Place) => number;
}

const FACING: Record<Towards, readonly [number, number, number]> = {
  up: [0, 1, 0],
  down: [0, -1, 0],
  front: [0, 0, 1],
  back: [0, 0, -1],
  left: [-1, 0, 0],
  right: [1, 0, 0],
};
const DEGREES = 180 / Math.PI;

/** One field as a function of a place. */
export function fieldAmount(f: Field, { layer, n, on, at, seed, limit, edge, painted }: About): Amount {
  const own = maskSeed(layer, n, seed);
  const uvw = new Float64Array(3);
  /** What is laid along each board is another on every one. */
  const seeded = (p: Place, along: Along): number => (along === 'length' ? own ^ p.shell.seed : own);
  switch (f.kind) {
    case 'worn':
      return (p) => smoothEdge(p.wear, limit, SOFT.wear);
    case 'enclosed':
      return (p) => smoothEdge(p.dirt, limit, SOFT.dirt);
    case 'layer': {
      const which = follows(on, at, f.of);
      return (_, below) => below[which];
    }
    case 'edges': {
      const half = f.width / 2;
      const reach = half * (1 + f.broken) * 1.25 + 0.02;
      const of: (((x: number, y: number, z: number) => number) | null)[] = [];
      return (p) => {
        const { part } = p.shell;
        if (of[part] === undefined) of[part] = edge(part, f.width, reach);
        const d = of[part]?.(p.x, p.y, p.z) ?? Number.POSITIVE_INFINITY;
        if (d === Number.POSITIVE_INFINITY) return 0;
        const h = half * (1 + 1.6 * f.broken * octaves(p.x, p.y, p.z, 9 * f.width, own, p.footprint));
        return smoothEdge(h - d, 0, Math.max(0.1 * f.width, p.footprint / 2));
      };
    }
    case 'facing': {
      const [x, y, z] = FACING[f.towards];
      return (p) => {
        const angle = DEGREES * Math.acos(Math.min(1, Math.max(-1, x * p.nx + y * p.ny + z * p.nz)));
        return 1 - ramp(angle, f.within - f.soft / 2, f.within + f.soft / 2);
      };
    }
    case 'span':
      return (p) => {
        const h = f.axis === 'x' ? p.x : f.axis === 'y' ? p.y : p.z;
        return f.to === f.from ? (h <= f.from ? 1 : 0) : f.to > f.from ? 1 - ramp(h, f.from, f.to) : ramp(h, f.to, f.from);
      };
    case 'between': {
      const [x, y, z] = [f.toX - f.fromX, f.toY - f.fromY, f.toZ - f.fromZ];
      const long = x * x + y * y + z * z;
      // Two points that are one part nothing from nothing.
      if (long < 1e-12) return () => 1;
      return (p) => 1 - ramp(((p.x - f.fromX) * x + (p.y - f.fromY) * y + (p.z - f.fromZ) * z) / long, 0, 1);
    }
    case 'runs':
      return (p) => runs(p, f.width, f.length, f.spacing, own);
    case 'clouds': {
      const from = cloudsAbove(f.share);
      const soft = 0.5 * f.soft;
      return (p) => smoothEdge(octaves(p.x, p.y, p.z, f.size, own, p.footprint), from, soft / 2);
    }
    case 'spots': {
      const cell = spotCell(f.size / 2, f.share);
      return (p) => {
        // Too fine to be seen one by one they are an even tone.
        const clear = p.footprint > 0 ? Math.min(1, Math.max(0, f.size / p.footprint - 1)) : 1;
        return clear === 0 ? f.share : f.share + clear * (spots(p.x, p.y, p.z, f.size / 2, cell, own, p.footprint) - f.share);
      };
    }
    case 'boards': {
      // Spread evenly as far as there is room on either side of the mean.
      const by = Math.min(f.share, 1 - f.share);
      return (p) => f.share + by * (2 * chance(1, 1, 1, own ^ p.shell.seed) - 1);
    }
    case 'strokes':
      return painted(f);
    case 'dents': {
      const dents = new Dents(f.size, own);
      return (p) => dents.at(p.x, p.y, p.z);
    }
    case 'strands': {
      const from = strandsAbove(f.share);
      return (p) => {
        p.along(f.along, uvw);
        return strands(uvw[0], uvw[1], uvw[2], f.width, f.length, from, f.share, seeded(p, f.along), p.footprint);
      };
    }
    case 'rings':
      return (p) => {
        p.along(f.along, uvw);
        return rings(uvw[0], uvw[1], uvw[2], f.count, f.wander, seeded(p, f.along), p.footprint);
      };
    case 'weave':
      return (p) => {
        p.along(f.along, uvw);
        const [a, b] = across(p, f.along);
        return weave(uvw[a], uvw[b], f.thread, p.footprint);
      };
    case 'scratches': {
      const along = f.along === 'any' ? 'length' : f.along;
      const drawn = new Scratches({
        length: f.length,
        width: f.width,
        perMm2: f.count / 10000,
        spread: f.along === 'any' ? Math.PI / 2 : f.spread / DEGREES,
      });
      return (p) => {
        p.along(along, uvw);
        const [a, b] = across(p, along);
        return drawn.at(uvw[a], uvw[b], (seeded(p, along) + 31 * (3 * a + b)) | 0, p.footprint);
      };
    }
  }
}

/** The two of its coordinates that lie in the surface: the first axis among them unless the surface stands across it. */
function across(p: Place, along: Along): readonly [number, number] {
  const order = along === 'length' ? p.shell.axes : along === 'x' ? [0, 1, 2] : along === 'y' ? [1, 2, 0] : [2, 0, 1];
  const [x, y, z] = [Math.abs(p.nx), Math.abs(p.ny), Math.abs(p.nz)];
  const facing = x > y && x > z ? 0 : y > z ? 1 : 2;
  return facing === order[0] ? [1, 2] : facing === order[1] ? [0, 2] : [0, 1];
}
