/** Times pieces of work, one after the other. */
export function laps(): {
  timed<T>(what: string, work: () => T): T;
  times: [what: string, seconds: number][];
  whole(): number;
  words(): string;
} {
  const times: [string, number][] = [];
  return {
    times,
    timed(what, work) {
      const start = performance.now();
      const out = work();
      times.push([what, (performance.now() - start) / 1000]);
      return out;
    },
    whole: () => times.reduce((n, [, s]) => n + s, 0),
    words: () => times.map(([w, s]) => `${w} ${s.toFixed(1)}`).join(' · '),
  };
}
