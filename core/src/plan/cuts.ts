import type { Command } from '../pipeline/commands/index';
import { type AssetDocument, LEVEL_SHARES, levelsOf } from '../pipeline/document';
import { figure } from '../units/lengths';
import { type Day, type Hours, type Planned, schedule, type Task } from './schedule';

/** A change that makes less of a piece’s work, or more room for it: what it wins and what it costs, in figures. */
export interface Cut {
  id: string;
  what: string;
  costs: string;
  /** Minutes of work and of the machine it wins on this piece. */
  work: number;
  machine: number;
  /** Whether the piece is ready in time with this alone. */
  fits: boolean;
  /** The change of the piece; or the hours of the plan, where it is one of those. */
  command: Command | null;
  hours: Hours | null;
}

/** What of a piece’s machine time each stage has, minutes, and what cuts are reckoned from. */
export interface CutBasis {
  document: AssetDocument;
  machine: { bake: number; surface: number; render: number };
  /** Minutes that one further level takes; null where none is to be made or nothing tells. */
  level: number | null;
  /** Density reached at the present size, px/cm, and noise of the last picture, %; null where neither is known. */
  density: number | null;
  noisePercent: number | null;
  /** Exponent of noise against samples, as measured; −½ before there is one. */
  exponent: number;
}

function sizeCut({ document, machine, density }: CutBasis): Omit<Cut, 'fits'> | null {
  const size = document.brief.limits.textureSize;
  if (size < 1024) return null;
  const half = size / 2;
  return {
    id: 'size',
    what: `Textures of ${figure(half, 0)} px instead of ${figure(size, 0)}`,
    costs: density === null ? 'half as many texels along every edge' : `${figure(density, 1)} px/cm becomes ${figure(density / 2, 1)}`,
    work: 0,
    // A quarter of the texels is a quarter of the rays.
    machine: 0.75 * (machine.bake + machine.surface),
    command: { type: 'brief.set', patch: { limits: { ...document.brief.limits, textureSize: half } } },
    hours: null,
  };
}

function samplesCut({ document, machine, noisePercent, exponent }: CutBasis): Omit<Cut, 'fits'> | null {
  const { until, samples, noise } = document.render;
  const more = 2 ** -exponent;
  if (until === 'noise') {
    const to = Number((noise * more).toPrecision(3));
    return to > 0.5 || machine.render === 0
      ? null
      : {
          id: 'noise',
          what: `A picture of ${figure(100 * to, 2)} % noise instead of ${figure(100 * noise, 2)} %`,
          costs: `noise × ${figure(more, 2)}`,
          work: 0,
          machine: machine.render / 2,
          command: { type: 'render.set', patch: { noise: to } },
          hours: null,
        };
  }
  const half = Math.ceil(samples / 2);
  if (half < 8 || machine.render === 0) return null;
  return {
    id: 'samples',
    what: `${half} samples instead of ${samples}`,
    costs:
      noisePercent === null
        ? `noise × ${figure(more, 2)}`
        : `noise of ${figure(noisePercent, 2)} % becomes ${figure(noisePercent * more, 2)} %`,
    work: 0,
    machine: machine.render * (1 - half / samples),
    command: { type: 'render.set', patch: { samples: half } },
    hours: null,
  };
}

function occlusionCut({ document, machine }: CutBasis): Omit<Cut, 'fits'> | null {
  const { occlusion, occlusionRays, samples } = document.bake;
  if (samples < 2 || machine.bake === 0) return null;
  const half = (samples / 2) as 1 | 2 | 4;
  return {
    id: 'bake-samples',
    what: `${half} × ${half} places a texel in the bake instead of ${samples} × ${samples}`,
    costs: `edges in the maps are ${samples === 2 ? 'not smoothed any more' : 'smoothed half as finely'}${occlusion ? `, occlusion has ${occlusionRays * half * half} rays a texel instead of ${occlusionRays * samples * samples}` : ''}`,
    work: 0,
    machine: 0.75 * machine.bake,
    command: { type: 'bake.set', patch: { samples: half } },
    hours: null,
  };
}

function levelCut({ document: { handoff }, level }: CutBasis): Omit<Cut, 'fits'> | null {
  const levels = levelsOf(handoff);
  if (level === null || levels === 0) return null;
  const less = levels - 1;
  const share = LEVEL_SHARES[levels - 1];
  const patch = less > 0 ? { levels: less } : { include: { ...handoff.include, levels: false } };
  return {
    id: 'level',
    what: less > 0 ? `${less === 1 ? 'One further level' : `${less} further levels`} instead of ${levels}` : 'No further level',
    costs: `at ${figure(100 * share, 1)} % of the screen height and below the piece is drawn with ${less > 0 ? 'the triangles of the level before' : 'all its triangles'}`,
    work: 0,
    machine: level,
    command: { type: 'handoff.set', patch },
    hours: null,
  };
}

const nightCut = (hours: Hours): Omit<Cut, 'fits'> | null =>
  hours.machine > 12
    ? null
    : {
        id: 'night',
        what: `Eight more hours of the machine each night, ${hours.machine + 8} instead of ${hours.machine}`,
        costs: 'the machine runs while nobody is there',
        work: 0,
        machine: 0,
        command: null,
        hours: { ...hours, machine: hours.machine + 8 },
      };

function dayCut(hours: Hours, from: Day, due: Day, off: (day: Day) => boolean, next: (day: Day) => Day): Omit<Cut, 'fits'> | null {
  // The first day without work that is not a chosen day off.
  for (let day = from; day <= due; day = next(day)) {
    if (off(day)) continue;
    const week = [...hours.week] as Hours['week'];
    const at = (new Date(`${day}T00:00:00Z`).getUTCDay() + 6) % 7;
    if (week[at] > 0) continue;
    week[at] = Math.max(...hours.week, 4);
    return {
      id: 'day',
      what: `${week[at]} hours of work on ${['Mondays', 'Tuesdays', 'Wednesdays', 'Thursdays', 'Fridays', 'Saturdays', 'Sundays'][at]}`,
      costs: 'a free day of every week',
      work: 0,
      machine: 0,
      command: null,
      hours: { ...hours, week },
    };
  }
  return null;
}

const lateness = (p: Planned): number => p.missingWork + p.missingMachine;

/**
 * The changes that would help a piece which isn’t ready in time, the most helpful first: each laid into the whole plan to see whether with it
 * alone the piece is ready, and if not, what is still missing.
 *
 * @param tasks all that is planned, in order
 */
export function cutsFor(
  id: string,
  tasks: readonly Task[],
  hours: Hours,
  from: { day: Day; minutesLeft?: number },
  basis: CutBasis,
  most = 3,
): Cut[] {
  const task = tasks.find((t) => t.id === id);
  const now = schedule(tasks, hours, from).find((p) => p.id === id);
  if (!task || task.due === null || !now || now.fits) return [];
  const next = (day: Day) => new Date(Date.parse(`${day}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10);
  const offered = [
    sizeCut(basis),
    samplesCut(basis),
    occlusionCut(basis),
    levelCut(basis),
    nightCut(hours),
    dayCut(hours, from.day, task.due, (day) => hours.off.includes(day), next),
  ].flatMap((c) => (c ? [c] : []));
  return offered
    .map((cut) => {
      const less = tasks.map((t) =>
        t.id === id ? { ...t, work: Math.max(0, t.work - cut.work), machine: Math.max(0, t.machine - cut.machine) } : t,
      );
      const then = schedule(less, cut.hours ?? hours, from).find((p) => p.id === id) ?? now;
      const won = {
        work: Math.max(cut.work, now.missingWork - then.missingWork),
        machine: Math.max(cut.machine, now.missingMachine - then.missingMachine),
      };
      return { cut: { ...cut, ...won, fits: then.fits === true }, wins: lateness(now) - lateness(then) };
    })
    .filter(({ cut, wins }) => cut.fits || wins > 0.5)
    .sort((a, b) => Number(b.cut.fits) - Number(a.cut.fits) || b.wins - a.wins)
    .slice(0, most)
    .map(({ cut }) => cut);
}
