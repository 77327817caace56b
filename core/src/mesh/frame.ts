/** A place in a plane, mm. */
export type Flat = readonly [number, number];

const minus = (a: Flat, b: Flat): Flat => [a[0] - b[0], a[1] - b[1]];
const far = (a: Flat, b: Flat): number => Math.hypot(a[0] - b[0], a[1] - b[1]);
const mixed = (a: Flat, b: Flat, t: number): Flat => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];

/** A corner sharper than this is not followed all the way out: the offset of a needle would be endless. */
const SHARPEST = 0.35;

/** A closed outline moved outward by a distance, corner by corner along the middle between its sides. */
export function pushedOut(loop: readonly Flat[], distance: number): Flat[] {
  const n = loop.length;
  let area = 0;
  for (let i = 0; i < n; i++) area += loop[i][0] * loop[(i + 1) % n][1] - loop[(i + 1) % n][0] * loop[i][1];
  const sign = area > 0 ? 1 : -1;
  const normal = (i: number): Flat => {
    const d = minus(loop[(i + 1) % n], loop[i % n]);
    const l = Math.hypot(...d) || 1;
    return [(sign * d[1]) / l, (-sign * d[0]) / l];
  };
  return loop.map((p, i) => {
    const [a, b] = [normal((i + n - 1) % n), normal(i)];
    const m: Flat = [a[0] + b[0], a[1] + b[1]];
    const l = Math.hypot(...m);
    if (l < 1e-9) return [p[0] + b[0] * distance, p[1] + b[1] * distance];
    // So far along the middle that both sides are moved by the distance.
    const by = distance / Math.max(SHARPEST, l / 2) / l;
    return [p[0] + m[0] * by, p[1] + m[1] * by];
  });
}

/** Its places moved along the outline, from where they are (0) to even spacing (1). */
function evened(loop: readonly Flat[], share: number): Flat[] {
  const n = loop.length;
  const at = [0];
  for (let i = 0; i < n; i++) at.push(at[i] + far(loop[i], loop[(i + 1) % n]));
  const whole = at[n];
  const shift = at.slice(0, n).reduce((s, x, i) => s + x - (whole * i) / n, 0) / n;
  return loop.map((_, i) => {
    const wanted = at[i] + share * ((whole * i) / n + shift - at[i]);
    const s = ((wanted % whole) + whole) % whole;
    let k = 0;
    while (k < n - 1 && at[k + 1] <= s) k++;
    return mixed(loop[k], loop[(k + 1) % n], (s - at[k]) / Math.max(at[k + 1] - at[k], 1e-12));
  });
}

/** Longest by shortest side of the worst face between a rim and what lies round it. */
export function worstRatio(rim: readonly Flat[], frame: readonly Flat[]): number {
  let worst = 1;
  for (let i = 0; i < rim.length; i++) {
    const j = (i + 1) % rim.length;
    const sides = [far(rim[i], rim[j]), far(rim[j], frame[j]), far(frame[j], frame[i]), far(frame[i], rim[i])];
    worst = Math.max(worst, Math.max(...sides) / Math.max(Math.min(...sides), 1e-9));
  }
  return worst;
}

/** Distances tried, in sides of the rim, and how evenly the frame's places are spaced. */
const DISTANCES = [0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.15, 1.3];
const SPACINGS = [0, 0.25, 0.5, 0.75, 1];
/** Faces squarer than this are square enough. */
const GOOD = 1.7;
/** A narrower frame is taken when its faces are hardly worse: it needs less room on the body. */
const HARDLY = 1.08;

/** A frame round a rim: one place for each of the rim's, the worst face between, and how far off it lies, mm. */
export interface Frame {
  places: Flat[];
  ratio: number;
  distance: number;
}

/**
 * Frames round a rim, the one to be taken first: where there is no room for it on the body, the next.
 *
 * @param least the nearest a frame may lie, mm
 */
export function framesRound(rim: readonly Flat[], least = 0): Frame[] {
  const side = rim.reduce((s, p, i) => s + far(p, rim[(i + 1) % rim.length]), 0) / rim.length;
  const distances = DISTANCES.map((d) => d * side).filter((d) => d >= least);
  const all = (distances.length > 0 ? distances : [least]).flatMap((distance) => {
    const out = pushedOut(rim, distance);
    return SPACINGS.map((spacing): Frame => {
      const places = evened(out, spacing);
      return { places, ratio: worstRatio(rim, places), distance };
    });
  });
  const best = Math.min(...all.map((f) => f.ratio));
  // Narrowest first of those that are good, then the others by how square their faces are.
  const good = (f: Frame): boolean => f.ratio <= Math.max(best * HARDLY, Math.min(GOOD, best * 2));
  return [...all.filter(good), ...all.filter((f) => !good(f)).sort((a, b) => a.ratio - b.ratio)];
}
