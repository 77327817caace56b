import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { lawOf, type Measured, pointsOf, QUESTIONS } from './laws';

const render = (samples: number, noisePercent: number): Measured => ({
  settings: { width: 100, height: 100 },
  figures: { samples, noisePercent },
  milliseconds: samples * 60,
});

describe('laws of chosen runs', () => {
  it('noise goes with samples to the power −½ where it was made so (Monte Carlo’s own law)', () => {
    const runs = [16, 32, 64, 128, 256].map((n) => render(n, 8 / Math.sqrt(n)));
    const law = lawOf(QUESTIONS.noise, pointsOf(QUESTIONS.noise, runs));
    if (typeof law === 'string') throw new Error(law);
    expect(law.line.slope).toBeCloseTo(-0.5, 9);
    expect(law.at(100)).toBeCloseTo(0.8, 9);
    expect(law.spread).toBeCloseTo(1, 6);
    expect(law.sentence).toMatch(/^Of 5 runs: noise goes with samples to the power −0\.5 ± /);
  });
  it('the exponent it was made with lies within its confidence, 19 times of 20', () => {
    const r = random(7);
    const normal = () => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
    let held = 0;
    for (let k = 0; k < 400; k++) {
      const runs = [16, 24, 48, 64, 128, 256].map((n) => render(n, 8 * n ** -0.62 * Math.exp(0.1 * normal())));
      const law = lawOf(QUESTIONS.noise, pointsOf(QUESTIONS.noise, runs));
      if (typeof law !== 'string' && Math.abs(law.line.slope + 0.62) <= law.sure) held++;
    }
    expect(held / 400).toBeGreaterThan(0.92);
    expect(held / 400).toBeLessThan(0.98);
  });
  it('runs that don’t know both figures are no points; where no law can be seen it says why', () => {
    const runs = [render(16, 2), { ...render(32, 1), figures: { samples: 32 } }, render(0, 1), render(16, 2.2), render(16, 2.1)];
    const points = pointsOf(QUESTIONS.noise, runs);
    expect(points.map((p) => p.run)).toEqual([0, 3, 4]);
    expect(lawOf(QUESTIONS.noise, points)).toBe('All of these have the same setting, so no law can be seen in them.');
    expect(lawOf(QUESTIONS.noise, points.slice(0, 2))).toBe('A law needs three points or more.');
  });
  it('distances that were measured are no distance to chart against', () => {
    const bake = (distances: string, frontMm: number): Measured => ({
      settings: { distances, frontMm },
      figures: { p95Degrees: 1 },
      milliseconds: 1,
    });
    expect(pointsOf(QUESTIONS.error, [bake('measured', 1), bake('uniform', 2)]).map((p) => p.x)).toEqual([2]);
  });
});
