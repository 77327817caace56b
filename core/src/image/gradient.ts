/** A scale of colours: places on it, rising, and the sRGB that is drawn there, 0 … 255. */
export type Stops = readonly (readonly [number, readonly [number, number, number]])[];

/** Where there is nothing to say. */
export const NOTHING: readonly [number, number, number] = [201, 197, 186];

/** The colour of a value; beyond the ends that of the end. */
export function colourAt(stops: Stops, value: number): readonly [number, number, number] {
  const i = stops.findIndex(([at]) => value < at);
  if (i < 0) return stops[stops.length - 1][1];
  if (i === 0) return stops[0][1];
  const [[from, a], [to, b]] = [stops[i - 1], stops[i]];
  const mixed = a.map((x, k) => Math.round(x + ((b[k] - x) * (value - from)) / (to - from)));
  return [mixed[0], mixed[1], mixed[2]];
}

/** The scale as a CSS gradient. */
export function gradientOf(stops: Stops): string {
  const [low, high] = [stops[0][0], stops[stops.length - 1][0]];
  return `linear-gradient(to right, ${stops.map(([at, c]) => `rgb(${c.join(' ')}) ${((100 * (at - low)) / (high - low)).toFixed(0)}%`).join(', ')})`;
}
