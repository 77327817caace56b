import type { Sketch } from '../src/form/sketch/sketch';
import { kindOf, STEP_KINDS, type Step, type StepName } from '../src/form/steps/index';

/** A fresh step of a kind with some of its dimensions set. */
export function stepOf<K extends StepName>(kind: K, more: Partial<Extract<Step, { kind: K }>> = {}): Extract<Step, { kind: K }> {
  return { kind, id: `${kind}1`, enabled: true, ...kindOf(kind).fresh(), ...more } as unknown as Extract<Step, { kind: K }>;
}

export const MAKERS = STEP_KINDS.filter((k) => kindOf(k).maker);

/** A closed polygon as a sketch without constraints, with round holes. */
export function polygon(
  points: readonly (readonly [number, number])[],
  holes: readonly (readonly [x: number, y: number, r: number])[] = [],
): Sketch {
  return {
    points: [...points.map(([x, y], i) => ({ id: `p${i}`, x, y })), ...holes.map(([x, y], i) => ({ id: `m${i}`, x, y }))],
    curves: [
      ...points.map((_, i) => ({
        id: `l${i}`,
        name: `side ${i + 1}`,
        kind: 'line' as const,
        a: `p${i}`,
        b: `p${(i + 1) % points.length}`,
      })),
      ...holes.map(([, , radius], i) => ({ id: `h${i}`, name: `hole ${i + 1}`, kind: 'circle' as const, centre: `m${i}`, radius })),
    ],
    constraints: [],
  };
}

/** A step of a random kind with random dimensions, within reason: some can't be built, which is for the caller to see. */
export function randomStep(next: () => number, kind?: StepName): Step {
  const of = <const T>(list: readonly T[]): T => list[Math.floor(next() * list.length)];
  const mm = (low: number, high: number) => Math.round((low + (high - low) * next()) * 100) / 100;
  const whole = (low: number, high: number) => low + Math.floor(next() * (high - low + 1));
  const which = kind ?? of(MAKERS);
  switch (which) {
    case 'turned': {
      const r = mm(10, 40);
      return stepOf('turned', {
        body: of(['solid', 'wall', 'open']),
        wall: mm(0.5, 4),
        drawnIs: of(['outside', 'inside']),
        centre: of(['fan', 'grid']),
        ...(next() < 0.4 && { turnDegrees: mm(20, 350) }),
        edgeRadius: mm(0, 1.5),
        profile: {
          points: [
            { id: 'a', r: of([0, r]), y: 0 },
            { id: 'b', r: r + mm(1, 10), y: mm(1, 6), ...(next() < 0.4 && { fillet: 0.8 }) },
            { id: 'c', r: mm(8, 30), y: mm(20, 60) },
            { id: 'd', r: of([0, mm(5, 20)]), y: mm(64, 80) },
          ],
          segments: [
            { id: 's0', name: 'foot', kind: 'line' },
            { id: 's1', name: 'wall', kind: of(['line', 'arc']), bulge: mm(0.5, 4) },
            { id: 's2', name: 'shoulder', kind: of(['line', 'arc']), bulge: mm(0.5, 2) },
          ],
        },
      });
    }
    case 'box':
      return stepOf('box', {
        width: mm(20, 90),
        height: mm(20, 90),
        depth: mm(20, 90),
        body: of(['solid', 'hollow']),
        sizeIs: of(['outside', 'inside']),
        left: mm(1, 4),
        right: mm(1, 4),
        front: mm(1, 4),
        back: mm(1, 4),
        floor: of([0, 2, 5]),
        corner: of([0, mm(1, 9)]),
        edgeRadius: mm(0, 1.5),
      });
    case 'panel':
      return stepOf('panel', {
        width: mm(40, 90),
        height: mm(40, 90),
        thickness: mm(3, 9),
        field: of(['plain', 'sunk', 'open']),
        left: mm(4, 12),
        right: mm(4, 12),
        top: mm(4, 12),
        bottom: mm(4, 12),
        sunk: mm(0.5, 2.5),
        slope: mm(0, 4),
        corner: of([0, mm(0.5, 6)]),
        edgeRadius: mm(0, 1),
      });
    case 'prism':
      return stepOf('prism', {
        sides: whole(3, 14),
        acrossFlats: mm(30, 90),
        height: mm(20, 90),
        taper: mm(0.6, 1.4),
        bulge: of([0, mm(1, 6)]),
        body: of(['solid', 'tube', 'staves']),
        wall: mm(1, 6),
        gap: mm(0.2, 1.5),
        edgeRadius: mm(0, 1),
      });
    case 'plate': {
      const [w, h] = [mm(20, 50), mm(20, 50)];
      const holes = Array.from({ length: whole(0, 3) }, (_, i) => [-w / 2 + ((i + 0.5) * w) / 3, 0, mm(1, 2.5)] as const);
      return stepOf('plate', {
        sketch: polygon(
          [
            [-w / 2, -h / 2],
            [w / 2, -h / 2],
            [w / 2, h / 2],
            [0, h / 2 - mm(0, 3)],
            [-w / 2, h / 2],
          ],
          holes,
        ),
        thickness: mm(1, 8),
        lies: of(['flat', 'upright']),
        edgeRadius: mm(0, 0.6),
      });
    }
    case 'bar':
      return stepOf('bar', {
        section: of(['round', 'oval', 'rectangle', 'sketch']),
        radius: mm(1, 4),
        width: mm(2, 8),
        height: mm(2, 8),
        corner: of([0, 0.6]),
        outline: polygon([
          [-3, -2],
          [3, -2],
          [2, 2],
          [-3, 2],
        ]),
        rollDegrees: mm(0, 90),
        ends: of(['flat', 'bevelled', 'round']),
        endSize: 0.5,
        edgeRadius: mm(0, 0.5),
        path: [
          { id: 'a', x: 0, y: 0, z: 0 },
          { id: 'b', x: mm(-5, 5), y: 40, z: mm(-9, 9), bend: mm(8, 14) },
          { id: 'c', x: 40, y: 44, z: mm(-20, 20), bend: mm(8, 14) },
          { id: 'd', x: 44, y: mm(80, 90), z: 0 },
        ],
      });
    case 'blade':
      return stepOf('blade', {
        stations: [
          { id: 's1', at: 0, thickness: mm(6, 20), squareness: mm(1.6, 4) },
          { id: 's2', at: mm(40, 90), thickness: mm(4, 12), squareness: mm(1.6, 6) },
          { id: 's3', at: 140, thickness: mm(3, 8), squareness: 2 },
        ],
      });
    case 'sweep': {
      const open = next() < 0.6;
      const long = mm(60, 140);
      const rise = mm(-8, 8);
      const section = (): Sketch => {
        const [a, b] = [mm(14, 30), mm(4, 9)];
        if (!open)
          return polygon([
            [-a / 2, -b],
            [a / 2, -b],
            [a / 3, b],
            [-a / 3, b + mm(0, 3)],
          ]);
        return {
          points: [
            { id: 'a', x: -a, y: b },
            { id: 'b', x: a, y: b },
            { id: 'm', x: 0, y: (a * a + b * b) / (2 * b) },
          ],
          curves: [{ id: 'c', name: 'hollow', kind: 'arc', a: 'a', b: 'b', centre: 'm', turn: 'left' }],
          constraints: [],
        };
      };
      return stepOf('sweep', {
        along: 'points',
        path: [
          { id: 'a', x: 0, y: 0, z: 0 },
          { id: 'b', x: long / 2, y: rise, z: mm(-6, 6), bend: mm(40, 90) },
          { id: 'c', x: long, y: 0, z: 0 },
        ],
        stations: [0, long / 3, long * 0.9].map((at, i) => ({ id: `s${i}`, at, sketch: section() })),
        blend: of(['smooth', 'straight']),
        wall: of([0, mm(0.5, 3)]),
        wallIs: of(['upper', 'lower', 'middle']),
        ...(next() < 0.4 && {
          turns: [
            { id: 't1', at: 0, degrees: 0 },
            { id: 't2', at: long, degrees: mm(-20, 20) },
          ],
        }),
        ...(next() < 0.4 && {
          sizes: [
            { id: 'z1', at: 0, across: 100, up: 100 },
            { id: 'z2', at: long * 1.2, across: of([0, mm(60, 140)]), up: open ? 90 : mm(60, 120) },
          ],
        }),
        cut: of(['no', 'plan']),
        plan: polygon([
          [6, -8],
          [long - 8, -10],
          [long - 6, 6],
          [8, 9],
        ]),
      });
    }
    case 'wrap':
      return stepOf('wrap', {
        length: mm(80, 160),
        width: mm(20, 60),
        height: mm(8, 30),
        corner: mm(0, 6),
        shoulder: mm(4, 14),
        crimp: mm(4, 12),
        toothPitch: mm(2, 6),
        tooth: of([0, mm(0.4, 2)]),
        teethIn: of(['both', 'high']),
        fin: of([0, mm(2, 9)]),
        wrinkles: whole(0, 9),
      });
    case 'leaf':
      return stepOf('leaf', {
        lies: of(['flat', 'upright']),
        rise: mm(-5, 8),
        hollow: mm(-4, 6),
        foldDegrees: of([0, mm(-20, 30)]),
        sag: mm(0, 12),
        ripples: whole(0, 4),
        ripple: mm(0, 4),
        thickness: of([0, mm(0.1, 0.8)]),
      });
    case 'band':
      return stepOf('band', {
        radius: mm(15, 40),
        height: mm(8, 30),
        wall: mm(1, 4),
        columns: 2 * whole(4, 24),
        rows: whole(1, 5),
        pattern: of(['all', 'chequered', 'columns', 'rows']),
        depth: of([0, mm(0.3, 2), -0.5]),
        inset: mm(0, 0.6),
        twistDegrees: mm(-40, 40),
      });
    case 'soft':
      return stepOf('soft', {
        cellsX: whole(1, 4),
        cellsY: whole(1, 3),
        cellsZ: whole(1, 4),
        crease: of([0, 1, 2.5]),
        creaseFoot: of([0, 3]),
        levelsLow: whole(0, 2),
        levelsHigh: 2,
        pushes: [{ id: 'p', x: mm(-20, 20), y: 20, z: 0, dx: 0, dy: mm(-6, 6), dz: 0, reach: mm(10, 30) }],
      });
    default:
      return stepOf('tube', {
        radius: mm(10, 20),
        folds: whole(0, 1),
        crimp: mm(0, 1),
        seam: of([0, 0.4]),
        flat: mm(0.6, 2),
        shoulder: mm(0, 6),
      });
  }
}

/** Whether a step leaves a surface's handles and rims as they are, or doubles them by giving it a second side. */
export const EFFECTS: Partial<Record<StepName, 'keeps' | 'doubles'>> = {
  shell: 'doubles',
  bevel: 'keeps',
  bend: 'keeps',
  taper: 'keeps',
  twist: 'keeps',
  stretch: 'keeps',
  dents: 'keeps',
  subdivide: 'keeps',
  fair: 'keeps',
  shade: 'keeps',
  origin: 'keeps',
  clear: 'keeps',
};

/** A step that changes what stands above it, with random dimensions, within reason. */
export function randomChanger(next: () => number): Step {
  const of = <const T>(list: readonly T[]): T => list[Math.floor(next() * list.length)];
  const mm = (low: number, high: number) => Math.round((low + (high - low) * next()) * 100) / 100;
  const axis = of(['x', 'y', 'z'] as const);
  const id = `c${Math.floor(next() * 1e9)}`;
  switch (of(Object.keys(EFFECTS) as (keyof typeof EFFECTS)[])) {
    case 'shell':
      return stepOf('shell', { id, thickness: mm(0.2, 2), side: of(['in', 'out', 'middle']) });
    case 'bevel':
      return stepOf('bevel', {
        id,
        degrees: mm(20, 60),
        size: mm(0.1, 6),
        sizeIs: of(['width', 'radius']),
        segments: 1 + Math.floor(next() * 4),
        shape: of(['arc', 'straight']),
      });
    case 'bend':
      return stepOf('bend', { id, axis, towards: axis === 'x' ? 'y' : 'x', degrees: mm(-40, 40), from: -100, to: 100 });
    case 'taper':
      return stepOf('taper', { id, axis, factor: mm(0.4, 1.6) });
    case 'twist':
      return stepOf('twist', { id, axis, degrees: mm(-60, 60) });
    case 'stretch':
      return stepOf('stretch', { id, axis, factor: mm(0.6, 1.5), keepVolume: of([true, false]) });
    case 'dents':
      return stepOf('dents', { id, count: 4, smallest: 3, largest: 8, depth: mm(0.2, 1.5), seed: Math.floor(next() * 1e6) });
    case 'subdivide':
      return stepOf('subdivide', {
        id,
        smooth: of([true, false]),
        levelsLow: 1,
        hold: of(['nothing', 'crease', 'loops']),
        loop: mm(0.1, 0.6),
      });
    case 'fair':
      return stepOf('fair', { id, within: mm(0.02, 0.5) });
    case 'shade':
      return stepOf('shade', { id, hard: of(['keep', 'angle', 'none']), weighted: of([true, false]) });
    case 'origin':
      return stepOf('origin', { id, to: of(['foot', 'centre', 'top', 'back']) });
    default:
      return stepOf('clear', { id, within: mm(0, 0.2) });
  }
}
