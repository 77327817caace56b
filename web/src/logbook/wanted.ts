import type { RunsWanted } from '@/server/db/runs';

/** Which runs are looked at: the filters of the margin, as they are kept and saved. */
export type Wanted = Pick<RunsWanted, 'stage' | 'asset' | 'material' | 'role' | 'verdict' | 'minMm' | 'maxMm' | 'search'>;

const TEXTS = ['stage', 'asset', 'material', 'role', 'verdict', 'search'] as const;
const FIGURES = ['minMm', 'maxMm'] as const;

/** Filters as they were kept somewhere; what isn’t one is left out. */
export function wantedFrom(kept: Record<string, unknown>): Wanted {
  const out: Wanted = {};
  for (const k of TEXTS) if (typeof kept[k] === 'string' && kept[k]) out[k] = kept[k];
  for (const k of FIGURES) if (typeof kept[k] === 'number' && kept[k] >= 0) out[k] = kept[k];
  return out;
}

/** A query of an address: what is absent is left out. */
export const queryOf = (of: object): string =>
  new URLSearchParams(
    Object.entries(of).flatMap(([k, v]) => (v === undefined || v === '' || v === null ? [] : [[k, String(v)]])),
  ).toString();

/** Figures that each stage is told by first: columns of their own where only that stage is looked at. */
export const COLUMNS: Record<string, readonly string[]> = {
  form: ['triangles', 'worstMm', 'worstPx'],
  unwrap: ['coverage', 'density', 'islands'],
  bake: ['p95Degrees', 'missedPercent'],
  surface: ['soundPercent', 'layers'],
  light: ['aperture', 'keyWatts'],
  render: ['noisePercent', 'samples'],
};

/** When a run was made, as short as it can be told apart. */
export function when(at: string, now = new Date()): string {
  const d = new Date(at);
  const time = d.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  if (d.toDateString() === now.toDateString()) return `today ${time}`;
  const day = d.toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    ...(d.getFullYear() !== now.getFullYear() && { year: 'numeric' }),
  });
  return `${day} ${time}`;
}
