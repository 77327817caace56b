import { describe, expect, it } from 'vitest';
import { ball, lampAt, pinhole, scene, sceneMaterial } from '../../test/scenes';
import { sheet } from '../../test/shapes';
import { CancelledError, StageError } from '../errors';
import type { Task } from '../task';
import { type Development, develop, emptyFilm, traceTile } from './film';
import type { Measured } from './forecast';
import { type Begun, type Crew, traceFilm } from './schedule';
import { PathTracer } from './tracer';

const s = scene(
  [
    { mesh: ball(20, [0, 21, 0], 10), material: sceneMaterial({ colour: [0.8, 0.3, 0.2] }) },
    { mesh: sheet(1, 2000, () => 0), material: sceneMaterial({ colour: [0.9, 0.9, 0.9] }) },
  ],
  { camera: pinhole([0, 60, 200], 0, 12, 0.25), lamps: [lampAt([100, 300, 200], [-1, -3, -2], 150, 150, 6)] },
);
const development: Development = { full: 1, tone: 'linear', background: 'paper', colour: [1, 1, 1] };
let time = 0;
const clock = () => ++time / 10;

/** A crew of real tracers; `dies` says on which of its calls one of them breaks. */
function crew(size: number, dies: (call: number) => boolean = () => false): Crew & { hired: number; dismissed: number } {
  let calls = 0;
  const made = {
    size,
    hired: 0,
    dismissed: 0,
    hire() {
      made.hired++;
      const tracer = new PathTracer(s);
      return {
        async trace(pass: Parameters<typeof traceTile>[1]) {
          await Promise.resolve();
          if (dies(calls++)) throw new Error('the worker is gone');
          const before = tracer.rays;
          return { halves: traceTile(tracer, pass), rays: tracer.rays - before };
        },
        dismiss() {
          made.dismissed++;
        },
      };
    },
  };
  return made;
}
const picture = async (c: Crew, more: object = {}) => {
  const film = emptyFilm(70, 40);
  const out = await traceFilm(film, c, { samples: 8, seed: 3, development, clock, ...more });
  return { film, data: develop(film, development).data, ...out };
};

describe('handing out tiles', () => {
  it('the same bytes for one tracer, two and five', async () => {
    const one = await picture(crew(1));
    for (const n of [2, 5]) expect((await picture(crew(n))).data).toEqual(one.data);
    expect(one.measured.map((m) => m.samples)).toEqual([2, 4, 8]);
    expect(one.measured[2].noise).toBeLessThan(one.measured[0].noise);
    expect(one.rays).toBeGreaterThan(70 * 40 * 8);
  });
  it('a tracer that dies mid-picture is replaced, and nothing is added twice or lost', async () => {
    const whole = await picture(crew(2));
    const c = crew(2, (call) => call === 3 || call === 9);
    const patched = await picture(c);
    expect(patched.data).toEqual(whole.data);
    expect(c.hired).toBe(4);
    expect(c.dismissed).toBe(4);
  });
  it('a tile that fails twice is reported in one sentence, and everyone goes home', async () => {
    const c = crew(1, (call) => call >= 4);
    await expect(picture(c)).rejects.toThrow(/stopped twice on the tile at \d+, \d+; the picture was given up after 0 samples/);
    await expect(picture(crew(2, () => true))).rejects.toBeInstanceOf(StageError);
    expect(c.dismissed).toBe(c.hired);
  });
  it('goes on where it was put down: the same bytes, no tile traced twice', async () => {
    const whole = await picture(crew(1), { samples: 16 });
    const kept: { index: number; to: number }[] = [];
    const sums = emptyFilm(70, 40);
    let measured: Measured[] = [];
    let [left, rays] = [14, 0];
    const task: Task = { progress: () => {}, cancelled: () => left <= 0 };
    const film = emptyFilm(70, 40);
    const first = traceFilm(film, crew(1), {
      samples: 16,
      seed: 3,
      development,
      clock,
      task,
      onTile: (added) => {
        left--;
        kept.push(added);
        rays += added.rays;
        for (const half of [0, 1]) sums.sums[half].set(film.sums[half]);
      },
      onPass: (f, all) => {
        sums.samples = f.samples;
        measured = [...all];
      },
    });
    await expect(first).rejects.toBeInstanceOf(CancelledError);
    const to = Math.max(...kept.map((k) => k.to));
    const begun: Begun = { to, tiles: new Set(kept.filter((k) => k.to === to).map((k) => k.index)), measured, rays, seconds: 7 };
    expect([begun.tiles.size, sums.samples]).toEqual([2, 2]);
    const again: number[] = [];
    const shares: number[] = [];
    const rest = await traceFilm(sums, crew(2), {
      samples: 16,
      seed: 3,
      development,
      clock,
      begun,
      task: { progress: (s) => shares.push(s), cancelled: () => false },
      onTile: ({ index, to: pass }) => pass === to && again.push(index),
    });
    expect(again.some((i) => begun.tiles.has(i))).toBe(false);
    expect(develop(sums, development).data).toEqual(whole.data);
    expect(rest.measured.map((m) => [m.samples, m.noise])).toEqual(whole.measured.map((m) => [m.samples, m.noise]));
    expect(rest.rays).toBe(whole.rays);
    expect(rest.seconds).toBeGreaterThan(7);
    expect(shares[0]).toBeGreaterThan(0.25);
    expect(shares.at(-1)).toBeCloseTo(1, 9);
  });
  it('stops when asked, and as soon as the noise is low enough', async () => {
    let tiles = 0;
    const task: Task = { progress: () => tiles++, cancelled: () => tiles > 3 };
    await expect(picture(crew(2), { task })).rejects.toBeInstanceOf(CancelledError);
    const early = await picture(crew(2), { samples: 1024, noise: 0.5 });
    expect(early.film.samples).toBe(4);
  });
  it('says how far it is, tile by tile and pass by pass', async () => {
    const shares: number[] = [];
    const passes: number[] = [];
    let tiles = 0;
    await picture(crew(2), {
      task: { progress: (x: number) => shares.push(x), cancelled: () => false },
      onPass: (_: unknown, m: { samples: number }[]) => passes.push(m.length),
      onTile: () => tiles++,
    });
    expect(shares.at(-1)).toBeCloseTo(1, 9);
    expect(shares.every((x, i) => i === 0 || x >= shares[i - 1])).toBe(true);
    expect(passes).toEqual([1, 2, 3]);
    expect(tiles).toBe(3 * 3 * 2);
  });
});
