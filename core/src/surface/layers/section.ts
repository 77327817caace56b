import { type About, fieldAmount, follows, joined, maskSeed, PATCHED } from './amounts';
import { ramp } from './draw';
import type { Field } from './fields';
import type { Layer } from './layer';
import { Place } from './place';

/** How large what it is made of is, mm: what a section has to be long enough for. */
function span(f: Field): number | null {
  switch (f.kind) {
    case 'edges':
      return 7 * f.width;
    case 'runs':
      return 3 * f.spacing;
    case 'clouds':
      return 2.5 * f.size;
    case 'spots':
      return 8 * f.size;
    case 'strands':
      return 24 * f.width;
    case 'scratches':
      return 2 * f.length;
    case 'rings':
      return 80 / f.count;
    case 'weave':
      return 10 * f.thread;
    case 'dents':
      return 5 * f.size;
    case 'strokes':
      return f.strokes.length > 0 ? 6 * f.strokes[0].radius : null;
    default:
      return null;
  }
}
const LENGTHS = [1, 2, 5, 10, 20, 50, 100, 200, 500];

/** How long a section through some layers is best drawn, mm: 20 where nothing says otherwise. */
export function sectionLength(layers: readonly Layer[]): number {
  const wanted = layers.flatMap((l) => l.mask.flatMap((m) => span(m.field) ?? [])).map(Math.log);
  if (wanted.length === 0) return 20;
  const mean = Math.exp(wanted.reduce((a, b) => a + b, 0) / wanted.length);
  return LENGTHS.find((l) => l >= 0.8 * mean) ?? 500;
}

/**
 * How much of each layer lies along a straight line over a place that is flat and faces up, with an edge at either end, rubbed there and
 * shut in a little beyond its middle: drawn from the layers themselves, for a place that no piece has.
 *
 * @returns by id, 0 … 1 at so many places from one end to the other
 */
export function sectionOf(layers: readonly Layer[], lengthMm: number, samples: number): Map<string, Float32Array> {
  const on = layers.filter((l) => l.on);
  const places = Array.from({ length: samples }, (_, i) => {
    const t = (i + 0.5) / samples;
    const p = new Place();
    p.x = t * lengthMm;
    // Not on the lattice, where noise is nothing.
    p.y = 0.37 * lengthMm;
    p.z = 0.43 * lengthMm;
    [p.nx, p.ny, p.nz] = [0, 1, 0];
    p.shell = { part: 0, number: 0, seed: 1, centre: [lengthMm / 2, p.y, p.z], axes: [2, 0, 1] };
    const end = Math.min(t, 1 - t);
    p.wear = Math.exp(-((end / 0.06) ** 2)) + 0.05 * Math.sin(40 * t);
    p.dirt = Math.exp(-(((t - 0.62) / 0.1) ** 2)) + 0.05 * Math.sin(55 * t + 1);
    return p;
  });
  const limit = (f: Field): number => {
    if (f.kind !== 'worn' && f.kind !== 'enclosed') return 0;
    const sorted = places.map((p) => (f.kind === 'worn' ? p.wear : p.dirt)).sort((a, b) => b - a);
    return sorted[Math.min(samples - 1, Math.round(f.share * samples))];
  };
  const edge = () => (x: number) => Math.min(x, lengthMm - x);
  // A stroke across it, as wide as a third of it.
  const painted: About['painted'] = (f) =>
    f.strokes.length > 0 ? (p) => 1 - ramp(Math.abs(p.x / lengthMm - 0.5), 0.16 - 0.08 * f.soft, 0.16 + 0.08 * f.soft) : () => 0;
  const amounts = on.map((l, at) =>
    l.mask.some((k) => k.field.kind === 'layer' && follows(on, at, k.field.of) < 0)
      ? () => 0
      : joined(
          l.mask.map((k, n) => ({
            ...k,
            seed: maskSeed(l, n + PATCHED, 1),
            at: fieldAmount(k.field, { layer: l, n, on, at, seed: 1, limit: limit(k.field), edge, painted }),
          })),
        ),
  );
  const out = new Map(on.map((l) => [l.id, new Float32Array(samples)]));
  const below = new Float64Array(Math.max(1, on.length));
  for (const [i, p] of places.entries())
    for (const [n, l] of on.entries()) {
      below[n] = amounts[n](p, below);
      (out.get(l.id) as Float32Array)[i] = below[n];
    }
  return out;
}
