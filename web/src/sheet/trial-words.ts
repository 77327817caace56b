import { figure, inUnit, type LengthUnit, sentenceIn } from '@wellmorph/core/units/lengths';
import type { Trial } from '@/server/db/trials';
import { tookTime } from '@/shared/times';

/** Figures a trial's card shows: what stands before and after, and decimals. */
const UNITS: Record<string, [string, string, number]> = {
  triangles: ['', ' tri', 0],
  worstMm: ['', ' worst', 2],
  islands: ['', ' islands', 0],
  stretchL2: ['stretch ', '', 3],
  coverage: ['', ' % covered', 0],
  density: ['', ' px/cm', 1],
  missedPercent: ['', ' % missed', 2],
  meanDegrees: ['mean ', '°', 1],
  p95Degrees: ['p95 ', '°', 1],
  worstDegrees: ['worst ', '°', 0],
  soundPercent: ['', ' % sound', 1],
  layers: ['', ' layers', 0],
  wornPercent: ['', ' % worn', 1],
  dirtyPercent: ['', ' % dirty', 1],
  aperture: ['f/', '', 1],
  keyWatts: ['key ', ' W', 1],
  noisePercent: ['noise ', ' %', 2],
  samples: ['', ' samples', 0],
  files: ['', ' files', 0],
  megabytes: ['', ' MB', 2],
};
/** What is kept in mm is called so. */
const isLength = (key: string): boolean => key.endsWith('Mm');

/** A trial in its first figures. */
export function inFigures({ figures }: Pick<Trial, 'figures'>, unit: LengthUnit, most = 2): string {
  return Object.entries(figures)
    .filter(([k]) => k in UNITS)
    .slice(0, most)
    .map(([k, v]) => {
      const [before, after, digits] = UNITS[k];
      const shown = isLength(k) ? inUnit(Number(v), unit, digits) : figure(k === 'coverage' ? Number(v) * 100 : Number(v), digits);
      return `${before}${shown}${after}`;
    })
    .join(' · ');
}

/** A setting or a figure as the comparison shows it. */
export function shownValue(key: string, value: unknown, unit: LengthUnit): string {
  if (typeof value === 'number') return isLength(key) ? inUnit(value, unit, 3) : figure(value, 3);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return sentenceIn(String(value ?? '–'), unit);
}

/** How long it took, and how long it was thought to. */
export function took({ milliseconds, forecastSeconds }: Pick<Trial, 'milliseconds' | 'forecastSeconds'>): string {
  return `${tookTime(milliseconds / 1000)}${forecastSeconds ? ` (forecast ${tookTime(forecastSeconds)})` : ''}`;
}
