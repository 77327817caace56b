/** A fixed loop of arithmetic, so that times from different runs can be set side by side. Returns seconds. */
export function calibrate(): number {
  const start = performance.now();
  let a = 1;
  const field = new Float64Array(4096);
  for (let i = 0; i < 40_000_000; i++) {
    a = Math.sqrt(a * a + field[i & 4095] + 1e-3);
    field[(i * 7) & 4095] = a * 0.5;
  }
  if (!Number.isFinite(a)) throw new Error('calibration loop went astray');
  return (performance.now() - start) / 1000;
}

export const median = (xs: number[]): number => [...xs].sort((a, b) => a - b)[xs.length >> 1];

/** Median seconds of several runs. */
export function timed(runs: number, work: () => void): number {
  work();
  return median(
    Array.from({ length: runs }, () => {
      const start = performance.now();
      work();
      return (performance.now() - start) / 1000;
    }),
  );
}
