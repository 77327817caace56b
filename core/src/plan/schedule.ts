import { InputError } from '../errors';

/** A day as it is written: 2026-12-04. Days have no hours and no zone, so that none of them is ever 23 or 25 hours long here. */
export type Day = string;

const DAY_MS = 86_400_000;
/** @throws InputError when it is no day of the calendar */
export function dayNumber(day: Day): number {
  const at = /^\d{4}-\d{2}-\d{2}$/.test(day) ? Date.parse(`${day}T00:00:00Z`) : Number.NaN;
  if (Number.isNaN(at) || dayOf(at / DAY_MS) !== day) throw new InputError('plan/day', `“${day}” is no day of the calendar.`);
  return at / DAY_MS;
}
export const dayOf = (n: number): Day => new Date(n * DAY_MS).toISOString().slice(0, 10);
/** 0 Monday … 6 Sunday. */
export const weekday = (day: Day): number => (dayNumber(day) + 3) % 7;

/** When there is time for work, and when the machine may run by itself. */
export interface Hours {
  /** Hours of work on each day of the week, Monday first. */
  week: [number, number, number, number, number, number, number];
  /** Days without work, whatever day of the week. */
  off: Day[];
  /** Hours that the machine runs by itself after a day of work, and on days off. */
  machine: number;
}
export const HOURS: Hours = { week: [6, 6, 6, 6, 6, 0, 0], off: [], machine: 4 };

/** @throws InputError in one sentence */
export function checkHours({ week, off, machine }: Hours): void {
  if (week.length !== 7 || week.some((h) => !(h >= 0 && h <= 24)))
    throw new InputError('plan/hours', 'A day has from 0 to 24 hours of work.');
  if (!(machine >= 0 && machine <= 24)) throw new InputError('plan/machine', 'The machine runs from 0 to 24 hours a day.');
  if (off.length > 400) throw new InputError('plan/off', 'These are more days off than can be kept; 400 is the most.');
  for (const day of off) dayNumber(day);
}

/** Minutes of work on a day. */
export const workOn = (day: Day, { week, off }: Hours): number => (off.includes(day) ? 0 : 60 * week[weekday(day)]);

/** Work to be planned: hands first, then the machine. Minutes; `due` is the last day it may be ready on. */
export interface Task {
  id: string;
  work: number;
  machine: number;
  due: Day | null;
}

/** A day’s share of a piece, minutes. */
export interface Share {
  day: Day;
  work: number;
  machine: number;
}
/** When a piece is done, and what is missing where that is too late. */
export interface Planned {
  id: string;
  shares: Share[];
  /** The day it is ready on; null beyond the horizon. */
  ready: Day | null;
  fits: boolean | null;
  /** Minutes of work, and of the machine, that are not done by the due day; both 0 where it fits. */
  missingWork: number;
  missingMachine: number;
}

/** Days that are looked ahead. */
const HORIZON = 730;

/**
 * Lays tasks into days in the order given: each day’s work goes to the first that isn’t done, the machine’s hours after it to the first whose
 * work is.
 *
 * @param from the first day, and how many minutes of it are left
 */
export function schedule(tasks: readonly Task[], hours: Hours, from: { day: Day; minutesLeft?: number }): Planned[] {
  checkHours(hours);
  const first = dayNumber(from.day);
  const left = tasks.map((t) => ({
    ...t,
    shares: [] as Share[],
    lateWork: 0,
    lateMachine: 0,
    ready: null as Day | null,
    dueN: t.due === null ? null : dayNumber(t.due),
  }));
  const end = (t: (typeof left)[number], day: Day) => {
    if (t.ready === null && t.work <= 1e-9 && t.machine <= 1e-9) t.ready = day;
  };
  for (const t of left) end(t, from.day);
  for (let n = first; n < first + HORIZON && left.some((t) => t.ready === null); n++) {
    const day = dayOf(n);
    const share = (t: (typeof left)[number]): Share => {
      const last = t.shares.at(-1);
      if (last?.day === day) return last;
      const made = { day, work: 0, machine: 0 };
      t.shares.push(made);
      return made;
    };
    let work = workOn(day, hours);
    if (n === first && from.minutesLeft !== undefined) work = Math.min(work, from.minutesLeft);
    for (const t of left) {
      const take = Math.min(work, t.work);
      if (take <= 0) continue;
      share(t).work += take;
      t.work -= take;
      work -= take;
      if (t.dueN !== null && n > t.dueN) t.lateWork += take;
    }
    let machine = 60 * hours.machine;
    for (const t of left) {
      if (t.work > 1e-9) continue;
      const take = Math.min(machine, t.machine);
      if (take > 0) {
        share(t).machine += take;
        t.machine -= take;
        machine -= take;
        if (t.dueN !== null && n > t.dueN) t.lateMachine += take;
      }
      end(t, day);
    }
  }
  return left.map((t) => {
    const open = t.ready === null;
    const missingWork = t.dueN === null ? 0 : t.lateWork + t.work;
    const missingMachine = t.dueN === null ? 0 : t.lateMachine + t.machine;
    return {
      id: t.id,
      shares: t.shares,
      ready: t.ready,
      fits: t.dueN === null ? null : !open && dayNumber(t.ready as Day) <= t.dueN,
      missingWork,
      missingMachine,
    };
  });
}

/**
 * Tasks in the order of work: those somebody put in order first, as they were put, then earliest due first, which makes the worst lateness
 * as small as any order can (Jackson, “Scheduling a production line to minimize maximum tardiness”, 1955), then those without a date.
 */
export function inOrder<T extends { id: string; due: Day | null }>(tasks: readonly T[], byHand: readonly string[] = []): T[] {
  const place = new Map(byHand.map((id, i) => [id, i]));
  const rank = (t: T): [number, string] => {
    const at = place.get(t.id);
    return at === undefined ? [byHand.length, t.due ?? '9999-12-31'] : [at, ''];
  };
  return tasks
    .map((t, i) => ({ t, i, r: rank(t) }))
    .sort((a, b) => a.r[0] - b.r[0] || (a.r[1] < b.r[1] ? -1 : a.r[1] > b.r[1] ? 1 : a.i - b.i))
    .map(({ t }) => t);
}
