import { describe, expect, it } from 'vitest';
import { energyTable, lookUp, lookUpMean } from './energy';
import { schlickWeight } from './fresnel';
import { ggxD, smithG2 } from './ggx';

const table = energyTable();

/** a and b by quadrature over the hemisphere of incoming light: nothing of the sampling code. */
function quadrature(cos: number, alpha: number): [number, number] {
  const o = [Math.sqrt(1 - cos * cos), 0, cos];
  const n = 700;
  let [a, b] = [0, 0];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const z = (i + 0.5) / n;
      const phi = (Math.PI * (j + 0.5)) / n;
      const s = Math.sqrt(1 - z * z);
      const d = [s * Math.cos(phi), s * Math.sin(phi), z];
      const h = [o[0] + d[0], o[1] + d[1], o[2] + d[2]];
      const l = Math.hypot(...h);
      const oh = (o[0] * h[0] + o[1] * h[1] + o[2] * h[2]) / l;
      const f = (ggxD(h[2] / l, alpha) * smithG2(cos, z, alpha)) / (4 * cos);
      // Half of the circle, counted twice.
      const w = (2 * Math.PI) / (n * n);
      const fc = schlickWeight(oh);
      a += f * (1 - fc) * w;
      b += f * fc * w;
    }
  return [a, b];
}

describe('the table of what one bounce gives back', () => {
  it('is what quadrature over the hemisphere gives, between its cells too', () => {
    const out = new Float64Array(2);
    for (const roughness of [0.45, 0.63, 0.9, 1])
      for (const cos of [0.15, 0.37, 0.71, 0.98]) {
        const [a, b] = quadrature(cos, roughness * roughness);
        lookUp(table, cos, roughness, out);
        expect(Math.abs(out[0] - a), `a at ${roughness}, ${cos}`).toBeLessThan(0.006);
        expect(Math.abs(out[1] - b), `b at ${roughness}, ${cos}`).toBeLessThan(0.006);
      }
  });
  it('a smooth mirror gives everything back, split as Schlick says', () => {
    const out = new Float64Array(2);
    for (const cos of [0.2, 0.5, 0.9]) {
      lookUp(table, cos, 0.02, out);
      expect(out[0] + out[1]).toBeCloseTo(1, 2);
      expect(out[1]).toBeCloseTo(schlickWeight(cos), 2);
    }
  });
  it('rougher gives back less, and the mean lies among the values', () => {
    const out = new Float64Array(2);
    let last = 2;
    for (const roughness of [0.1, 0.3, 0.5, 0.7, 0.9, 1]) {
      lookUpMean(table, roughness, out);
      const mean = out[0] + out[1];
      expect(mean).toBeLessThan(last + 1e-3);
      last = mean;
      const all = Array.from({ length: 200 }, (_, i) => {
        lookUp(table, (i + 0.5) / 200, roughness, out);
        return out[0] + out[1];
      });
      expect(mean).toBeGreaterThan(Math.min(...all));
      expect(mean).toBeLessThan(Math.max(...all));
    }
  });
  it('a copy in memory of the caller’s choice is the same table', () => {
    const shared = energyTable((n) => new SharedArrayBuffer(n));
    expect(shared.cells.buffer).toBeInstanceOf(SharedArrayBuffer);
    expect([...shared.cells]).toEqual([...table.cells]);
  });
});
