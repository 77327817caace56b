import { InputError } from '../errors';
import { fitLine, type Line, studentQuantile } from '../maths/statistics';
import type { Tried } from './compare';

/** A run as a point of a chart. */
export interface Measured extends Tried {
  milliseconds: number;
}

/** Something runs are asked: one figure against another, and the kind of law that is looked for. */
export interface Question {
  name: string;
  stages: readonly string[];
  x: { name: string; of(run: Measured): number | null };
  y: { name: string; of(run: Measured): number | null };
  /** `power`: y = a·xᵇ, a line in logarithms; `line`: y = a + b·x. */
  law: 'power' | 'line';
}

const number = (v: unknown): number | null => (typeof v === 'number' && Number.isFinite(v) ? v : null);
const figure = (key: string) => (r: Measured) => number(r.figures[key]);
const setting = (key: string) => (r: Measured) => number(r.settings[key]);
const minutes = { name: 'minutes', of: (r: Measured) => (r.milliseconds > 0 ? r.milliseconds / 60_000 : null) };

/** What a chart can be drawn of. */
export const QUESTIONS = {
  noise: {
    name: 'Noise against samples',
    stages: ['render'],
    x: { name: 'samples', of: figure('samples') },
    y: { name: 'noise, %', of: figure('noisePercent') },
    law: 'power',
  },
  renderTime: {
    name: 'Minutes against samples',
    stages: ['render'],
    x: { name: 'million samples', of: (r) => samplesOf(r) },
    y: minutes,
    law: 'power',
  },
  error: {
    name: 'Error against distance',
    stages: ['bake'],
    x: { name: 'search in front, mm', of: (r) => (r.settings.distances === 'uniform' ? setting('frontMm')(r) : null) },
    y: { name: '19 of 20 under, °', of: figure('p95Degrees') },
    law: 'line',
  },
  texels: {
    name: 'Minutes against texels',
    stages: ['bake', 'surface'],
    x: { name: 'million texels', of: (r) => square(setting('size')(r)) },
    y: minutes,
    law: 'power',
  },
  stretch: {
    name: 'Stretch against seam length',
    stages: ['unwrap'],
    x: { name: 'seams, mm', of: figure('seamMm') },
    y: { name: 'stretch', of: figure('stretchL2') },
    law: 'line',
  },
  covered: {
    name: 'Covered against islands',
    stages: ['unwrap'],
    x: { name: 'islands', of: figure('islands') },
    y: { name: 'covered, share', of: figure('coverage') },
    law: 'line',
  },
  pixels: {
    name: 'Pixels off against triangles',
    stages: ['form'],
    x: { name: 'triangles', of: figure('triangles') },
    y: { name: 'worst, px', of: figure('worstPx') },
    law: 'power',
  },
  rim: {
    name: 'Off the true form against triangles',
    stages: ['form'],
    x: { name: 'triangles', of: figure('triangles') },
    y: { name: 'worst, mm', of: figure('worstMm') },
    law: 'power',
  },
} as const satisfies Record<string, Question>;
export type QuestionName = keyof typeof QUESTIONS;

function square(size: number | null): number | null {
  return size === null ? null : (size * size) / 1e6;
}
function samplesOf(r: Measured): number | null {
  const [w, h, s] = [number(r.settings.width), number(r.settings.height), number(r.figures.samples)];
  return w === null || h === null || s === null ? null : (w * h * s) / 1e6;
}

/** A point of a chart, and which of the runs it is. */
export interface Point {
  x: number;
  y: number;
  run: number;
}

/** What runs answer to a question: those that know both figures, in order of x. */
export function pointsOf(question: Question, runs: readonly Measured[]): Point[] {
  return runs
    .flatMap((r, run) => {
      const [x, y] = [question.x.of(r), question.y.of(r)];
      // A power law has no place for nought.
      const fits = x !== null && y !== null && (question.law === 'line' || (x > 0 && y > 0));
      return fits ? [{ x, y, run }] : [];
    })
    .sort((a, b) => a.x - b.x);
}

/** The law some points follow. */
export interface Law {
  kind: Question['law'];
  line: Line;
  at(x: number): number;
  /** Of a power law the factor, of a line the amount, that two of three points are within. */
  spread: number;
  /** 95 % confidence of the slope, or of the exponent, to either side. */
  sure: number;
  sentence: string;
}

const rounded = (v: number, digits = 3): string => String(Number(v.toPrecision(digits))).replace('-', '−');

/**
 * Fits a question’s law to points by least squares, a power law in logarithms; the slope’s confidence by Student’s t.
 *
 * @returns a sentence instead where no law can be seen: too few points, or all at one setting
 */
export function lawOf(question: Question, points: readonly Point[]): Law | string {
  const power = question.law === 'power';
  const on = (v: number) => (power ? Math.log(v) : v);
  let line: Line;
  try {
    line = fitLine(
      points.map((p) => on(p.x)),
      points.map((p) => on(p.y)),
    );
  } catch (error) {
    if (error instanceof InputError) return error.message;
    throw error;
  }
  const spread = power ? Math.exp(line.spread) : line.spread;
  const sure = studentQuantile(0.975, line.n - 2) * line.slopeError;
  const law = power
    ? `${question.y.name.replace(/, .*/, '')} goes with ${question.x.name} to the power ${rounded(line.slope)} ± ${rounded(sure, 2)}`
    : `each unit of ${question.x.name} adds ${rounded(line.slope)} ± ${rounded(sure, 2)} to ${question.y.name}`;
  const within = power ? `a factor ${rounded(spread)}` : rounded(spread);
  return {
    kind: question.law,
    line,
    at: (x) => (power ? Math.exp(line.intercept) * x ** line.slope : line.intercept + line.slope * x),
    spread,
    sure,
    sentence: `Of ${line.n} runs: ${law}; two of three are within ${within} of it.`,
  };
}
