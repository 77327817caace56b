import { FormError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { balancedCount, balancedError, balancedScale, inscribedCount, inscribedError } from '../budget/chord';
import { length, size, whole } from '../fields';
import { Lofting } from '../loft';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';

/** A soft tube standing on its neck: round at the foot, pressed flat at the top, folded over and crimped. Lengths in mm. */
export interface TubeStep extends StepBase {
  kind: 'tube';
  radius: number;
  /** From the shoulder to where it is flat. */
  body: number;
  neckRadius: number;
  neckHeight: number;
  shoulder: number;
  /** Thickness of both walls pressed together. */
  flat: number;
  /** The flat piece above the body; the part that is folded over where there is a fold. */
  flap: number;
  folds: number;
  /** Every second edge of the end is pulled in by this. */
  crimp: number;
  /** How far the pressed seam stands out along the middle of the back. */
  seam: number;
  /** Sides at least: the zig-zag has half as many teeth on each face. */
  minimumSides: number;
}

/** Half-width of an oval of half-thickness b whose length round is 2πr, by Ramanujan's second formula (1914) and bisection. */
export function ovalWidth(radius: number, b: number): number {
  const round = (a: number) => {
    const h = ((a - b) / (a + b)) ** 2;
    return Math.PI * (a + b) * (1 + (3 * h) / (10 + Math.sqrt(4 - 3 * h)));
  };
  let [low, high] = [b, 2 * radius];
  for (let i = 0; i < 60; i++) {
    const a = (low + high) / 2;
    if (round(a) < 2 * Math.PI * radius) low = a;
    else high = a;
  }
  return (low + high) / 2;
}

/** Half-thickness along the body: level at the shoulder, closing to the flat end. */
const closing = (s: TubeStep, t: number): number => {
  const k = t * t * (3 - 2 * t);
  return s.radius * (1 - k) + (s.flat / 2) * k;
};

/** @throws FormError `tube/…` */
function check(s: TubeStep): void {
  if (s.flat >= s.radius)
    throw new FormError(
      'tube/flat',
      `The flat end of “${s.name}” can’t be ${millimetres(s.flat)} thick; less than its radius of ${millimetres(s.radius)}.`,
    );
  if (s.neckRadius >= s.radius) throw new FormError('tube/neck', `The neck of “${s.name}” has to be narrower than its body.`);
  if (s.crimp >= s.flap)
    throw new FormError(
      'tube/crimp',
      `A crimp of ${millimetres(s.crimp)} is deeper than the flap of ${millimetres(s.flap)} on “${s.name}”.`,
    );
  if (s.folds > 0 && s.flap > s.body * 0.8)
    throw new FormError(
      'tube/flap',
      `A flap of ${millimetres(s.flap)} is too long to fold over a body of ${millimetres(s.body)} on “${s.name}”.`,
    );
}

const sides = (s: TubeStep): Adaptive => ({
  key: `${s.id}.sides`,
  label: `sides round Ø ${millimetres(2 * s.radius, 1)}`,
  minimum: Math.max(8, s.minimumSides),
  every: 4,
  errorMm: (n) => balancedError(s.radius, n),
  countFor: (e) => balancedCount(s.radius, e, 8),
});
/** Rows from round to flat: the chord error of half-thickness and half-width together, at dense places. */
const rows = (s: TubeStep): Adaptive => {
  const errorMm = (n: number): number => {
    let worst = 0;
    for (let i = 0; i < n; i++)
      for (let k = 1; k < 8; k++) {
        const t = (i + k / 8) / n;
        const chord = closing(s, i / n) * (1 - k / 8) + closing(s, (i + 1) / n) * (k / 8);
        worst = Math.max(worst, Math.abs(chord - closing(s, t)));
      }
    return worst;
  };
  return {
    key: `${s.id}.rows`,
    label: 'rows from round to flat',
    minimum: 3,
    errorMm,
    countFor(e) {
      let n = 3;
      while (n < 200 && errorMm(n) > e) n++;
      return n;
    },
  };
};
const bendRadius = (s: TubeStep): number => s.flat * 0.8;
const foldSteps = (s: TubeStep): Adaptive | undefined =>
  s.folds === 0
    ? undefined
    : {
        key: `${s.id}.fold`,
        label: 'steps round the fold',
        minimum: 2,
        errorMm: (n) => inscribedError(bendRadius(s) + s.flat / 2, n, Math.PI),
        countFor: (e) => inscribedCount(bendRadius(s) + s.flat / 2, e, Math.PI, 2),
      };

interface Station {
  /** Middle of the section in the y, z plane, and the way it goes on. */
  y: number;
  z: number;
  dy: number;
  dz: number;
  a: number;
  b: number;
  patch: string;
  v: number;
  hard: boolean;
  seam: boolean;
  crimped?: boolean;
}

function stationsOf(s: TubeStep, detail: Detail): Station[] {
  const k = countOf(detail, rows(s));
  const fold = foldSteps(s);
  const out: Station[] = [];
  const put = (y: number, a: number, b: number, patch: string, v: number, more: Partial<Station> = {}) =>
    out.push({ y, z: 0, dy: 1, dz: 0, a, b, patch, v, hard: false, seam: false, ...more });
  put(0, s.neckRadius, s.neckRadius, 'neck', 0, { hard: true });
  put(s.neckHeight, s.neckRadius, s.neckRadius, 'neck', 1, { hard: true });
  const foot = s.neckHeight + s.shoulder;
  put(foot, s.radius, s.radius, 'shoulder', 1, { hard: true });
  for (let i = 1; i <= k; i++) {
    const b = closing(s, i / k);
    put(foot + (s.body * i) / k, ovalWidth(s.radius, b), b, 'body', i / k, { seam: i < k });
  }
  const { a, b, y } = out[out.length - 1];
  if (!fold) put(y + s.flap, a, b, 'flap', 1, { hard: true, crimped: true });
  else {
    const n = countOf(detail, fold);
    const r = bendRadius(s);
    for (let i = 1; i <= n; i++) {
      const t = (Math.PI * i) / n;
      put(y + r * Math.sin(t), a, b, 'fold', i / n, { z: r * (1 - Math.cos(t)), dy: Math.cos(t), dz: Math.sin(t) });
    }
    put(y - s.flap, a, b, 'flap', 1, { z: 2 * r, dy: -1, dz: 0, hard: true, crimped: true });
  }
  return out;
}

const maker: Maker<TubeStep> = {
  plan(step) {
    check(step);
    const [n, k, fold] = [sides(step), rows(step), foldSteps(step)];
    return {
      adaptive: [n, k, ...(fold ? [fold] : [])],
      triangles: (count) => 2 * count(n) * (3 + count(k) + (fold ? count(fold) : 0)) + 2 * (count(n) - 2),
    };
  },
  build(step, detail): PolyMesh {
    check(step);
    const n = countOf(detail, sides(step));
    const scale = detail.mesh === 'low' ? balancedScale(n) : 1;
    const stations = stationsOf(step, detail);
    const back = (3 * n) / 4;
    const loops = stations.map((s) =>
      Array.from({ length: n }, (_, i): Vec3 => {
        const t = (2 * Math.PI * i) / n;
        const x = s.a * scale * Math.cos(t);
        // Across the sheet: square to the way it goes, towards −z where it stands upright.
        let off = s.b * scale * Math.sin(t);
        if (s.seam && i === back) off -= step.seam;
        const pull = s.crimped && i % 2 === 1 ? step.crimp : 0;
        return [x, s.y + off * s.dz - pull * s.dy, s.z - off * s.dy - pull * s.dz];
      }),
    );
    const mesh = new Lofting();
    const ids = mesh.put({
      loops,
      start: 'mouth',
      face(j, i) {
        const next = stations[j + 1];
        const isSeam = next.patch === 'body' && step.seam > 0 && (i === back || i === back - 1);
        return {
          patch: isSeam ? 'seam' : next.patch,
          u: isSeam ? [(i - back + 1) / 2, (i - back + 2) / 2] : [i / n, (i + 1) / n],
          v: [stations[j].patch === next.patch ? stations[j].v : 0, next.v],
          hard: [stations[j].hard, false, next.hard, false],
        };
      },
    });
    const rim = ids[ids.length - 1];
    for (let i = 0; i < n / 2; i++) {
      const corners = [...new Set([i, i + 1, (n - i - 1) % n, (n - i) % n])];
      const u = (c: number) => (c <= n / 2 ? c : n - c) / (n / 2);
      mesh.facet(
        corners.map((c) => rim[c]),
        'end',
        corners.flatMap((c) => [u(c), c <= n / 2 ? 1 : 0]),
        corners.map(
          (c, q) => Math.abs(c - corners[(q + 1) % corners.length]) === 1 || Math.abs(c - corners[(q + 1) % corners.length]) === n - 1,
        ),
      );
    }
    return mesh.build();
  },
  topology: () => ({ shells: 1, genus: 0, rims: 0 }),
};

export const tube = {
  kind: 'tube',
  name: 'folded tube',
  about: 'A soft tube, round at its neck and pressed flat at the other end, folded, crimped and seamed.',
  fields: [
    size('radius', 'Radius'),
    size('body', 'Body length'),
    size('neckRadius', 'Neck radius'),
    size('neckHeight', 'Neck height'),
    length('shoulder', 'Shoulder'),
    size('flat', 'Flat end, thickness'),
    size('flap', 'Flap'),
    whole('folds', 'Folds', 0, 1),
    length('crimp', 'Zig-zag of the end'),
    length('seam', 'Seam stands out'),
    whole('minimumSides', 'Sides at least', 8, 256),
  ],
  fresh: () => ({
    name: 'Folded tube',
    radius: 16,
    body: 100,
    neckRadius: 6,
    neckHeight: 10,
    shoulder: 4,
    flat: 1.2,
    flap: 8,
    folds: 1,
    crimp: 0.8,
    seam: 0.3,
    minimumSides: 16,
  }),
  words: (s: TubeStep, length) => `folded tube Ø ${length(2 * s.radius, 1)}`,
  maker,
  balanced: () => true,
} satisfies StepKind<TubeStep>;
