import type { Flat } from './frame';

/** Rounds of evening out, and of squaring up with smaller steps each time none helped. */
const [EVEN, SQUARE] = [10, 60];
/** Steps smaller than this share of the first gain nothing that is seen. */
const SMALLEST = 0.05;
/** Ways a vertex is tried to be moved. */
const WAYS = Array.from({ length: 8 }, (_, k): Flat => [Math.cos((k * Math.PI) / 4), Math.sin((k * Math.PI) / 4)]);
/** A face turned over costs so much. */
const OVER = 1e3;

/**
 * Moves free vertices of faces in a plane so that the faces become as square as they can: first to the middle of their neighbours, then
 * step by step (a pattern search, Hooke & Jeeves 1961) to where sides and diagonals of the faces round them differ least.
 *
 * @param free vertex → its neighbours
 * @param at where a vertex is
 * @param quick only evened out, to tell which of several is worth it
 * @returns where the free ones lie then, and how uneven the worst face still is
 */
export function squareUp(
  faces: readonly (readonly number[])[],
  free: ReadonlyMap<number, ReadonlySet<number>>,
  at: (vertex: number) => Flat,
  quick = false,
): { places: Map<number, Flat>; worst: number } {
  const places = new Map<number, Flat>();
  for (const v of faces.flat()) places.set(v, at(v));
  const place = (v: number): Flat => places.get(v) as Flat;
  for (let round = 0; round < EVEN; round++)
    for (const [v, around] of free) {
      let [x, y] = [0, 0];
      for (const n of around) {
        x += place(n)[0] / around.size;
        y += place(n)[1] / around.size;
      }
      places.set(v, [x, y]);
    }
  const turn = Math.sign(faces.reduce((s, f) => s + areaOf(f.map(place)), 0));
  const round = new Map([...free.keys()].map((v) => [v, faces.filter((f) => f.includes(v))]));
  const cost = (list: readonly (readonly number[])[]): number => list.reduce((s, f) => s + unevenness(f.map(place), turn), 0);
  const step = new Map([...free.keys()].map((v) => [v, 0.25 * Math.min(...[...(free.get(v) ?? [])].map((n) => far(place(v), place(n))))]));
  const first = new Map(step);
  for (let i = 0; i < (quick ? 0 : SQUARE); i++)
    for (const [v, mine] of round) {
      const own = place(v);
      const size = step.get(v) as number;
      if (size < SMALLEST * (first.get(v) as number)) continue;
      let best = { cost: cost(mine), to: own };
      for (const [x, y] of WAYS) {
        const to: Flat = [own[0] + size * x, own[1] + size * y];
        places.set(v, to);
        const c = cost(mine);
        if (c < best.cost) best = { cost: c, to };
      }
      places.set(v, best.to);
      if (best.to === own) step.set(v, size / 2);
    }
  return {
    places: new Map([...free.keys()].map((v) => [v, place(v)])),
    worst: faces.reduce((s, f) => Math.max(s, unevenness(f.map(place), turn)), 0),
  };
}

const far = (a: Flat, b: Flat): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

function areaOf(loop: readonly Flat[]): number {
  let sum = 0;
  for (const [i, [x, y]] of loop.entries()) {
    const [x1, y1] = loop[(i + 1) % loop.length];
    sum += (x * y1 - x1 * y) / 2;
  }
  return sum;
}

/** How far a face is from a square: the fourth power of its sides' and diagonals' logarithms against each other, so that the worst counts most. */
function unevenness(loop: readonly Flat[], turn: number): number {
  const sides = loop.map((p, i) => far(p, loop[(i + 1) % loop.length]) + 1e-12);
  const ratio = Math.log(Math.max(...sides) / Math.min(...sides));
  let over = 0;
  // Every corner has to turn as the faces do.
  for (let i = 0; i < loop.length; i++) {
    const [a, b, c] = [loop[i], loop[(i + 1) % loop.length], loop[(i + 2) % loop.length]];
    const sine = (turn * ((b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]))) / ((far(a, b) + 1e-12) * (far(b, c) + 1e-12));
    if (sine < 0.1) over += OVER * (0.1 - sine);
  }
  const skew = loop.length === 4 ? Math.log((far(loop[0], loop[2]) + 1e-12) / (far(loop[1], loop[3]) + 1e-12)) : 0;
  return ratio ** 4 + 0.3 * skew ** 4 + over;
}
