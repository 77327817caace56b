import { srgbToLinear } from '@wellmorph/core/image/srgb';
import type { View } from '@wellmorph/core/inspect/views';

/** Colours of a scale, from its low end to its high one. Pale is what needs no look, rust and red what does. */
const STOPS: Partial<Record<View['kind'], readonly string[]>> = {
  curvature: ['#2F4F86', '#8FA6C9', '#EDE8DA', '#D9A27A', '#9A4B1E'],
  thickness: ['#B23440', '#E0A070', '#E9E2CC', '#9CC3B8', '#0C706F'],
  seen: ['#5A2440', '#B06A6E', '#E6C9A8', '#EFEBDD'],
  stretch: ['#EFEBDD', '#E6C48E', '#D0803F', '#B23440'],
  density: ['#9A4B1E', '#D9A27A', '#EDE8DA', '#8FA6C9', '#2F4F86'],
  looks: ['#5A2440', '#B06A6E', '#E6C9A8', '#EFEBDD'],
  chord: ['#EFEBDD', '#E6C48E', '#D0803F', '#B23440'],
};
/** Where there is nothing to say. */
const NOTHING = '#C9C5BA';
/** Faces by their corners: three, four, more. */
const CORNERS = ['#E7D9B8', '#F3F0E6', '#C98A5E'];

type Colour = readonly [number, number, number];

/** A hex colour, linear 0…1. */
export const linear = (hex: string): Colour =>
  [1, 3, 5].map((i) => srgbToLinear(Number.parseInt(hex.slice(i, i + 2), 16) / 255)) as unknown as Colour;

/** Value → colour, linear 0…1. */
export function rampOf(view: Pick<View, 'kind' | 'low' | 'high'>): (value: number) => Colour {
  const nothing = linear(NOTHING);
  if (view.kind === 'flow') {
    const corners = CORNERS.map(linear);
    return (v) => corners[v === 3 ? 0 : v === 4 ? 1 : 2];
  }
  const stops = (STOPS[view.kind] ?? ['#EFEBDD', '#0C706F']).map(linear);
  return (v) => {
    if (!Number.isFinite(v)) return nothing;
    const t = Math.max(0, Math.min(1, (v - view.low) / (view.high - view.low || 1))) * (stops.length - 1);
    const i = Math.min(stops.length - 2, Math.floor(t));
    const [a, b, f] = [stops[i], stops[i + 1], t - i];
    return [a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f, a[2] + (b[2] - a[2]) * f];
  };
}

/** The same scale as a CSS gradient; null for views that have none. */
export function gradientOf(view: View): string | null {
  const stops = STOPS[view.kind];
  return stops ? `linear-gradient(to right, ${stops.join(', ')})` : null;
}
