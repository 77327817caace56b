import { FormError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { inscribedCount, inscribedError } from '../budget/chord';
import { choice, length, size, whole } from '../fields';
import { Lofting } from '../loft';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';

/**
 * A block in a film: a tube of film round it, flattened and crimped at both ends, its long seam a fin on the underside: bars, soap, biscuits.
 * It lies along x. The film keeps its length round at every place. Lengths in mm.
 */
export interface WrapStep extends StepBase {
  kind: 'wrap';
  /** Over all, with both crimps. */
  length: number;
  width: number;
  height: number;
  /** Radius of the block's long edges under the film. */
  corner: number;
  /** From where the block ends to where the crimp begins. */
  shoulder: number;
  crimp: number;
  /** Wanted pitch and height of the teeth along both ends. */
  toothPitch: number;
  tooth: number;
  teethIn: 'both' | 'high';
  /** Width of the fin; none when 0. */
  fin: number;
  film: number;
  /** Wrinkles along each seal and their depth, in the high mesh. */
  wrinkles: number;
  wrinkle: number;
}

/** The film round the block, mm: a rectangle with round corners. */
const roundOf = (w: number, h: number, r: number): number => 2 * (w + h) - (8 - 2 * Math.PI) * r;
/** Corners of a section as a share of its height at most: half would leave its sides no length. */
const ROUND = 0.45;

interface Measures {
  round: number;
  corner: number;
  /** Half of the length over all, to where the crimp begins, to where the block ends. */
  end: number;
  crimpAt: number;
  blockAt: number;
  /** Width of the flattened film. */
  flat: number;
  teeth: number;
}

/** @throws FormError `wrap/…` */
function measures(s: WrapStep): Measures {
  const corner = Math.min(s.corner, 0.49 * Math.min(s.width, s.height));
  const [end, crimpAt] = [s.length / 2, s.length / 2 - s.crimp];
  const blockAt = crimpAt - s.shoulder;
  if (blockAt <= 0)
    throw new FormError(
      'wrap/length',
      `Two crimps of ${millimetres(s.crimp)} and two shoulders of ${millimetres(s.shoulder)} leave no block in the ${millimetres(s.length)} of “${s.name}”.`,
      { leastMm: 2 * (s.crimp + s.shoulder) },
    );
  if (2 * s.film >= 0.5 * s.height)
    throw new FormError(
      'wrap/film',
      `A film of ${millimetres(s.film)} is too thick for a block ${millimetres(s.height)} high in “${s.name}”.`,
    );
  if (s.tooth >= s.crimp && s.tooth > 0)
    throw new FormError(
      'wrap/teeth',
      `Teeth ${millimetres(s.tooth)} high cut through the crimp of “${s.name}”, which is ${millimetres(s.crimp)} long.`,
    );
  const round = roundOf(s.width, s.height, corner);
  const flat = widthAt(round, 2 * s.film, 2 * s.film * ROUND);
  if (s.fin >= s.width / 2) throw new FormError('wrap/fin', `A fin of ${millimetres(s.fin)} reaches beyond the underside of “${s.name}”.`);
  return { round, corner, end, crimpAt, blockAt, flat, teeth: Math.max(1, Math.round(flat / Math.max(s.toothPitch, 0.05))) };
}
/** How wide a section of a height is when the film keeps its length round. */
const widthAt = (round: number, h: number, r: number): number => (round - 2 * h + (8 - 2 * Math.PI) * r) / 2;

/** Height along the shoulder: level where the block ends and where the crimp begins. */
const eased = (t: number): number => t * t * (3 - 2 * t);

const corners = (s: WrapStep, m: Measures): Adaptive => ({
  key: `${s.id}.corner`,
  label: `steps round the R ${millimetres(m.corner, 1)} edges`,
  minimum: 1,
  errorMm: (n) => inscribedError(m.corner, n, Math.PI / 2),
  countFor: (e) => inscribedCount(m.corner, e, Math.PI / 2, 1),
});
/** Half of an eased height bends by 3·(H − h)/s² at most. */
const shoulders = (s: WrapStep): Adaptive => ({
  key: `${s.id}.shoulder`,
  label: 'rows of the shoulders',
  minimum: 2,
  errorMm: (n) => (3 * s.height) / (8 * n * n),
  countFor: (e) => Math.max(2, Math.ceil(Math.sqrt((3 * s.height) / (8 * e)) - 1e-9)),
});

const toothed = (s: WrapStep, mesh: 'low' | 'high'): boolean => s.tooth > 0 && (mesh === 'high' || s.teethIn === 'both');
/** Pieces of the top and of the bottom: two to a tooth, enough for wrinkles; even, so that the seam has a line of its own. */
function across(s: WrapStep, m: Measures, mesh: 'low' | 'high'): number {
  const teeth = toothed(s, mesh) ? 2 * m.teeth : 2;
  const wrinkles = mesh === 'high' && s.wrinkles > 0 && s.wrinkle > 0 ? 8 * s.wrinkles : 0;
  return wrinkles > teeth ? teeth * Math.ceil(wrinkles / teeth) : teeth;
}

const maker: Maker<WrapStep> = {
  plan(step) {
    const m = measures(step);
    const [corner, shoulder] = [corners(step, m), shoulders(step)];
    return {
      adaptive: [corner, shoulder],
      triangles(count) {
        const [k, rows] = [count(corner), count(shoulder)];
        const n = 4 * k + 2 + 2 * across(step, m, 'low');
        // Rows between the ends, then what closes both ends between top and bottom; the fin is a box.
        return 2 * n * (2 * rows + 3) + 2 * 2 * (across(step, m, 'low') + 2 * k) + (step.fin > 0 ? 12 : 0);
      },
    };
  },
  build(step, detail): PolyMesh {
    const m = measures(step);
    const k = countOf(detail, corners(step, m));
    const rows = countOf(detail, shoulders(step));
    return wrapped(step, m, detail, k, rows);
  },
  topology: (step) => ({ shells: step.fin > 0 ? 2 : 1, genus: 0, rims: 0 }),
};

interface Place {
  /** Across (towards −z) and up, mm. */
  a: number;
  y: number;
  /** Unit, out of the section. */
  na: number;
  ny: number;
  /** Where it stands between the corners of the top or the bottom, 0…1; NaN at corners and sides. */
  flat: number;
}

/** One section, counter-clockwise from the middle of its underside. */
function section(m: Measures, h: number, k: number, n: number): Place[] {
  const r = Math.min(m.corner, ROUND * h);
  const w = widthAt(m.round, h, r);
  const out: Place[] = [];
  const half = n / 2;
  const straight = (from: number, to: number, y: number, ny: number) => {
    for (let i = from; i < to; i++) out.push({ a: (ny < 0 ? 1 : -1) * (w / 2 - r) * (i / half - 1), y, na: 0, ny, flat: i / n });
  };
  const corner = (ca: number, cy: number, start: number) => {
    for (let i = 0; i <= k; i++) {
      const t = start + ((i / k) * Math.PI) / 2;
      out.push({ a: ca + r * Math.cos(t), y: cy + r * Math.sin(t), na: Math.cos(t), ny: Math.sin(t), flat: Number.NaN });
    }
  };
  const [right, top] = [w / 2 - r, h / 2 - r];
  straight(half, n, -h / 2, -1);
  corner(right, -top, -Math.PI / 2);
  corner(right, top, 0);
  // Corners' own ends are the ends of the straight pieces.
  straight(1, n, h / 2, 1);
  corner(-right, top, Math.PI / 2);
  corner(-right, -top, Math.PI);
  straight(1, half, -h / 2, -1);
  return out;
}

function wrapped(s: WrapStep, m: Measures, detail: Detail, k: number, rows: number): PolyMesh {
  const n = across(s, m, detail.mesh);
  const lift = s.fin > 0 ? 4 * s.film : 0;
  const level = s.height / 2 + lift;
  const xs: number[] = [-m.end, -m.crimpAt];
  for (let j = 1; j <= rows; j++) xs.push(-m.crimpAt + (j / rows) * s.shoulder);
  xs.push(...[...xs].reverse().map((x) => -x));
  const heightAt = (x: number): number => {
    const far = Math.abs(x);
    if (far <= m.blockAt + 1e-9) return s.height;
    const t = Math.min(1, (far - m.blockAt) / s.shoulder);
    return s.height + (2 * s.film - s.height) * eased(t);
  };
  const wrinkled = detail.mesh === 'high' && s.wrinkles > 0 && s.wrinkle > 0;
  const jag = toothed(s, detail.mesh);
  const loops = xs.map((x, j): Vec3[] => {
    const h = heightAt(x);
    const isEnd = j === 0 || j === xs.length - 1;
    // Wrinkles run from the seal into the shoulder and die out both ways; the crimp itself is pressed flat.
    const reach = (Math.abs(x) - m.blockAt) / Math.max(s.shoulder, 1e-9);
    const fold = wrinkled && reach > 0 && reach < 1 ? s.wrinkle * Math.sin(Math.PI * reach) ** 2 : 0;
    return section(m, h, k, n).map((p): Vec3 => {
      const inside = Number.isFinite(p.flat);
      const push = fold > 0 && inside ? fold * Math.sin(2 * Math.PI * s.wrinkles * p.flat) * Math.sin(Math.PI * p.flat) ** 0.5 : 0;
      const cut = isEnd && jag && inside ? s.tooth * notch(p.flat, m.teeth) : isEnd && jag ? s.tooth : 0;
      return [x - Math.sign(x) * cut, level + p.y + push * p.ny, -(p.a + push * p.na)];
    });
  });
  const mesh = new Lofting();
  const size = loops[0].length;
  const round = sums(section(m, s.height, k, n).map((p): [number, number] => [p.a, p.y]));
  const long = lengthsAlong(loops);
  const ids = mesh.put({
    loops,
    face(j, i) {
      const [u0, u1] = [round[i], round[i + 1]];
      const end = (at: number) => at === 0 || at === loops.length - 1;
      return {
        patch: j === 0 || j === loops.length - 2 ? 'crimp' : Math.abs(xs[j] + xs[j + 1]) < 1e-9 ? 'body' : 'shoulder',
        u: [u0 / round[size], u1 / round[size]],
        v: [long[j] / long[long.length - 1], long[j + 1] / long[long.length - 1]],
        hard: [end(j), false, end(j + 1), false],
        // One sheet as the film was printed, slit along the fin.
        chart: 0,
        flat: [
          [u0, long[j]],
          [u1, long[j]],
          [u1, long[j + 1]],
          [u0, long[j + 1]],
        ],
      };
    },
  });
  // Each end between its top and its underside: places answer each other left of the middle and right of it.
  for (const [loop, first] of [
    [ids[0], true],
    [ids[ids.length - 1], false],
  ] as const) {
    const pairs = answering(size, k, n);
    for (let i = 0; i + 1 < pairs.length; i++) {
      const [[b0, t0], [b1, t1]] = [pairs[i], pairs[i + 1]];
      const ring = [loop[b0], loop[b1], loop[t1], loop[t0]].filter((v, at, all) => v !== all[(at + 1) % all.length]);
      if (new Set(ring).size < 3) continue;
      const w = pairs.length - 1;
      const all: [number, number][] = [
        [i / w, 0],
        [(i + 1) / w, 0],
        [(i + 1) / w, 1],
        [i / w, 1],
      ];
      mesh.facet(first ? [...ring].reverse() : ring, first ? 'start' : 'end', (first ? [...all].reverse() : all).flat(), [
        true,
        false,
        true,
        false,
      ]);
    }
  }
  if (s.fin > 0) fin(mesh, s, m);
  return mesh.build();
}

/** 0 at the tips of teeth, 1 in the notches between them. */
function notch(share: number, teeth: number): number {
  const t = share * teeth;
  return Math.abs(2 * (t - Math.floor(t)) - 1);
}

/** Places of a section's underside with those of its top above them, from its left side (−across) to its right. */
function answering(size: number, k: number, n: number): [bottom: number, top: number][] {
  const half = n / 2;
  const right = half + k + 1;
  // Round from the middle of the underside: half of it, a corner, a corner, the top, a corner, a corner, the other half.
  const bottom = [
    ...Array.from({ length: k + 1 }, (_, i) => size - (half - 1) - (k + 1) + i),
    ...Array.from({ length: half - 1 }, (_, i) => size - (half - 1) + i),
    ...Array.from({ length: half }, (_, i) => i),
    ...Array.from({ length: k + 1 }, (_, i) => half + i),
  ];
  const top = [
    ...Array.from({ length: k + 1 }, (_, i) => right + (k + 1) + (n - 1) + k - i),
    ...Array.from({ length: n - 1 }, (_, i) => right + (k + 1) + (n - 2) - i),
    ...Array.from({ length: k + 1 }, (_, i) => right + k - i),
  ];
  return bottom.map((b, i) => [b, top[i]]);
}

/** The long seam: a strip laid over to one side, a film's thickness off the underside. */
function fin(mesh: Lofting, s: WrapStep, m: Measures): void {
  const [low, high] = [0, 2 * s.film];
  const corner = (x: number, y: number, z: number) => mesh.vertex([x, y, z]);
  const [x0, x1, z0, z1] = [-m.blockAt, m.blockAt, 0, s.fin];
  const v = [x0, x1].map((x) => [corner(x, low, z0), corner(x, low, z1), corner(x, high, z1), corner(x, high, z0)]);
  for (let i = 0; i < 4; i++) mesh.facet([v[0][i], v[0][(i + 1) % 4], v[1][(i + 1) % 4], v[1][i]].reverse(), 'fin', SQUARE, HARD);
  mesh.facet([...v[0]], 'fin', SQUARE, HARD);
  mesh.facet([...v[1]].reverse(), 'fin', SQUARE, HARD);
}
const SQUARE = [0, 0, 1, 0, 1, 1, 0, 1];
const HARD = [true, true, true, true];

/** Lengths travelled round a closed line, its whole length last. */
function sums(points: readonly (readonly [number, number])[]): number[] {
  const out = [0];
  for (let i = 0; i < points.length; i++) {
    const [p, q] = [points[i], points[(i + 1) % points.length]];
    out.push(out[i] + Math.hypot(q[0] - p[0], q[1] - p[1]));
  }
  return out;
}
/** Lengths travelled from loop to loop over the middle of the top. */
function lengthsAlong(loops: readonly (readonly Vec3[])[]): number[] {
  const middle = loops.map((l) => l[Math.floor(l.length / 2)]);
  const out = [0];
  for (let j = 1; j < middle.length; j++)
    out.push(out[j - 1] + Math.hypot(middle[j][0] - middle[j - 1][0], middle[j][1] - middle[j - 1][1]));
  return out;
}

export const wrap = {
  kind: 'wrap',
  name: 'wrapped block',
  about: 'A block in a film that is crimped at both ends, with teeth, wrinkles along the seals and a fin underneath: bars, soap, biscuits.',
  fields: [
    size('length', 'Length', { hint: 'over both crimps' }),
    size('width', 'Width'),
    size('height', 'Height'),
    length('corner', 'Long edges', { hint: 'radius' }),
    size('shoulder', 'Shoulder', { hint: 'from block to crimp' }),
    size('crimp', 'Crimp'),
    size('toothPitch', 'Teeth every', { hint: 'comes out even' }),
    length('tooth', 'Teeth high', { hint: '0: cut straight' }),
    choice('teethIn', 'Teeth in', [
      ['both', 'low and high'],
      ['high', 'high only'],
    ]),
    length('fin', 'Fin', { hint: 'under it; 0: none' }),
    size('film', 'Film'),
    whole('wrinkles', 'Wrinkles', 0, 60, { hint: 'along each seal, high mesh' }),
    length('wrinkle', 'Wrinkles deep', { when: (s) => Number(s.wrinkles) > 0 }),
  ],
  fresh: () => ({
    name: 'Wrapped block',
    length: 120,
    width: 40,
    height: 16,
    corner: 3,
    shoulder: 9,
    crimp: 9,
    toothPitch: 3,
    tooth: 1.2,
    teethIn: 'both' as const,
    fin: 8,
    film: 0.15,
    wrinkles: 7,
    wrinkle: 0.5,
  }),
  words: (s: WrapStep, say) => `block ${say(s.length, 1)} × ${say(s.width, 1)} × ${say(s.height, 1)}`,
  maker,
} satisfies StepKind<WrapStep>;
