import type { View } from '@wellmorph/core/inspect/views';
import * as THREE from 'three';

/** Colours of a scale, from its low end to its high one. Pale is what needs no look, rust and red what does. */
const STOPS: Partial<Record<View['kind'], readonly string[]>> = {
  curvature: ['#2F4F86', '#8FA6C9', '#EDE8DA', '#D9A27A', '#9A4B1E'],
  thickness: ['#B23440', '#E0A070', '#E9E2CC', '#9CC3B8', '#0C706F'],
  seen: ['#5A2440', '#B06A6E', '#E6C9A8', '#EFEBDD'],
  chord: ['#EFEBDD', '#E6C48E', '#D0803F', '#B23440'],
};
/** Where there is nothing to say. */
const NOTHING = '#C9C5BA';
/** Faces by their corners: three, four, more. */
const CORNERS = ['#E7D9B8', '#F3F0E6', '#C98A5E'];

const cache = new Map<string, THREE.Color>();
function colour(hex: string): THREE.Color {
  const known = cache.get(hex) ?? new THREE.Color(hex);
  cache.set(hex, known);
  return known;
}

/** Value → colour, linear 0…1. */
export function rampOf(view: View): (value: number) => [number, number, number] {
  const nothing = colour(NOTHING);
  if (view.kind === 'flow')
    return (v) => {
      const c = colour(CORNERS[v === 3 ? 0 : v === 4 ? 1 : 2]);
      return [c.r, c.g, c.b];
    };
  const stops = (STOPS[view.kind] ?? ['#EFEBDD', '#0C706F']).map(colour);
  return (v) => {
    if (!Number.isFinite(v)) return [nothing.r, nothing.g, nothing.b];
    const t = Math.max(0, Math.min(1, (v - view.low) / (view.high - view.low || 1))) * (stops.length - 1);
    const i = Math.min(stops.length - 2, Math.floor(t));
    const [a, b, f] = [stops[i], stops[i + 1], t - i];
    return [a.r + (b.r - a.r) * f, a.g + (b.g - a.g) * f, a.b + (b.b - a.b) * f];
  };
}

/** The same scale as a CSS gradient; null for views that have none. */
export function gradientOf(view: View): string | null {
  const stops = STOPS[view.kind];
  return stops ? `linear-gradient(to right, ${stops.join(', ')})` : null;
}
