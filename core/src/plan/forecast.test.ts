import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { defaultMinutes, forecast, learnedFrom } from './forecast';

const piece = { parts: 6, sizeMm: 200 };
const first = (parts: number) => defaultMinutes('unwrap', parts);
const took = (minutes: number, parts = 6, sizeMm = 200) => ({ minutes, parts, sizeMm });

describe('how long a stage will take', () => {
  it('is a guess that says so until five are finished, and each of them moves it', () => {
    const guess = forecast([], piece, first);
    expect(guess.minutes).toBeCloseTo(first(6), 9);
    expect(learnedFrom(guess)).toBe('a first guess: none was finished yet');
    // Somebody twice as slow as the guess.
    const after = [1, 2, 3, 4].map((n) => forecast(Array(n).fill(took(2 * first(6))), piece, first));
    for (let i = 1; i < after.length; i++) expect(after[i].minutes).toBeGreaterThan(after[i - 1].minutes);
    expect(after[3].minutes).toBeLessThan(2 * first(6));
    expect(after[3].by).toBe('default');
    expect(learnedFrom(after[3])).toBe('a first guess, moved by 4 finished');
  });
  it('is the median of five that scatter evenly, and a spread they agree on', () => {
    const f = forecast(
      [20, 25, 30, 36, 45].map((m) => took(m)),
      piece,
      first,
    );
    expect(f.by).toBe('median');
    expect(f.minutes).toBeCloseTo(30, 0);
    // Student’s t for 80 % at 4 degrees of freedom is 1.533 (NIST/SEMATECH e-Handbook, 1.3.6.7.2).
    const logs = [20, 25, 30, 36, 45].map(Math.log);
    const m = logs.reduce((a, b) => a + b) / 5;
    const s = Math.sqrt(logs.reduce((a, v) => a + (v - m) ** 2, 0) / 4);
    expect(Math.log(f.high / f.minutes)).toBeCloseTo(1.533 * s * Math.sqrt(1.2), 3);
  });
  it('goes by the parts where they explain it, and not beyond what was seen', () => {
    const done = [2, 3, 4, 6, 8, 10, 12, 15].map((parts, i) => took(8 * parts * [1.05, 0.95, 1.02, 0.97, 1.04, 0.96, 1, 1.01][i], parts));
    const f = forecast(done, { parts: 5, sizeMm: 200 }, first);
    expect(f.by).toBe('parts');
    expect(f.minutes).toBeGreaterThan(36);
    expect(f.minutes).toBeLessThan(44);
    const far = forecast(done, { parts: 200, sizeMm: 200 }, first);
    expect(far.minutes).toBeCloseTo(forecast(done, { parts: 15, sizeMm: 200 }, first).minutes, 9);
  });
  it('after five pieces the sixth is within 30 % of what it takes', () => {
    const r = random(5);
    const season = () => {
      const pace = 0.5 + 1.5 * r();
      return Array.from({ length: 6 }, () => pace * first(6) * (0.88 + 0.24 * r()));
    };
    for (let k = 0; k < 50; k++) {
      const minutes = season();
      const f = forecast(
        minutes.slice(0, 5).map((m) => took(m)),
        piece,
        first,
      );
      expect(Math.abs(f.minutes / minutes[5] - 1)).toBeLessThan(0.3);
    }
  });
  it('four of five of a thousand pieces of thirty seasons lie in their interval, to 4 %', () => {
    // Minutes are log-normal about a pace and a growth with the parts that differ from season to season.
    const r = random(23);
    const normal = () => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
    let [inside, of] = [0, 0];
    for (let season = 0; season < 30; season++) {
      const [pace, spread] = [10 + 50 * r(), 0.15 + 0.3 * r()];
      const done: ReturnType<typeof took>[] = [];
      for (let k = 0; of < 1000 * ((season + 1) / 30); k++) {
        const minutes = pace * Math.exp(spread * normal());
        if (done.length >= 5) {
          const f = forecast(done, piece, first);
          if (minutes >= f.low && minutes <= f.high) inside++;
          of++;
        }
        done.push(took(minutes));
        expect(k).toBeLessThan(100);
      }
    }
    expect(of).toBeGreaterThanOrEqual(1000);
    expect(inside / of).toBeGreaterThan(0.76);
    expect(inside / of).toBeLessThan(0.84);
  });
});
