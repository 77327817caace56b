import { fitLine, median } from '../maths/statistics';
import type { AssetDocument } from '../pipeline/document';
import { type Cut, cutsFor } from './cuts';
import { type Done, defaultMinutes, type Forecast, forecast, PLANNED, type PlannedStage } from './forecast';
import { MACHINE, type MachineRun, type MachineStage, minutesALevel, minutesNow } from './machine';
import { type Day, type Hours, inOrder, type Planned, schedule } from './schedule';

const isMachine = (stage: PlannedStage): stage is MachineStage => (MACHINE as readonly string[]).includes(stage);

/** A piece as the plan knows it. */
export interface PlanPiece {
  id: string;
  document: AssetDocument;
  due: Day | null;
  parts: number;
  sizeMm: number | null;
  /** Stages that have nothing left to do. */
  ready: PlannedStage[];
  /** Minutes of work so far, by stage. */
  spent: Partial<Record<PlannedStage, number>>;
  /** The last run of each stage that the machine works for, where there was one. */
  lastRun: Partial<Record<MachineStage, MachineRun>>;
  snagMinutes: number;
  density: number | null;
  noisePercent: number | null;
}

/** What is left of one stage. */
export interface StageLeft {
  stage: PlannedStage;
  /** Nothing is left of it. */
  ready: boolean;
  spent: number;
  work: Forecast;
  /** Minutes of work left: what is expected without what was spent, yet never less than a tenth of it while it isn’t ready. */
  left: number;
  machine: { minutes: number; runs: number; by: 'own' | Forecast['by'] } | null;
}
export interface PlanRow extends Planned {
  due: Day | null;
  stages: StageLeft[];
  work: number;
  machine: number;
  snagMinutes: number;
  cuts: Cut[];
}

/** An estimate as it would have been made, and what it came to; minutes. */
export interface Estimate {
  id: string;
  stage: PlannedStage;
  estimate: number;
  truth: number;
}

/** Machine minutes before any run is known: a first guess of ours for a piece of the demo’s size, said to be one. */
const MACHINE_GUESS: Record<MachineStage, number> = { bake: 2, surface: 0.5, render: 4, 'hand-off': 0.5 };
const STILL = 0.1;

function history(pieces: readonly PlanPiece[], stage: PlannedStage): (Done & { id: string })[] {
  return pieces.flatMap((p) => {
    const minutes = p.spent[stage] ?? 0;
    return p.ready.includes(stage) && minutes > 0 ? [{ id: p.id, stage, minutes, parts: p.parts, sizeMm: p.sizeMm }] : [];
  });
}

function machineOf(piece: PlanPiece, others: readonly PlanPiece[], stage: MachineStage, exponent: number): StageLeft['machine'] {
  const own = piece.lastRun[stage];
  // Measured on the very piece: nothing tells better.
  if (own) return { minutes: minutesNow(stage, piece.document, own, exponent), runs: 1, by: 'own' };
  const done = others.flatMap((p) => {
    const run = p.lastRun[stage];
    // What theirs would take as this piece is set.
    return run ? [{ minutes: minutesNow(stage, piece.document, run, exponent), parts: p.parts, sizeMm: p.sizeMm }] : [];
  });
  const f = forecast(done, piece, () => MACHINE_GUESS[stage]);
  return { minutes: f.minutes, runs: f.runs, by: f.by };
}

/** Minutes that a further level takes: as it did on the piece, else in the middle of what others took; null where nothing tells. */
function levelMinutes(piece: PlanPiece, pieces: readonly PlanPiece[]): number | null {
  const own = piece.lastRun['hand-off'] && minutesALevel(piece.lastRun['hand-off']);
  if (own) return own;
  const others = pieces.flatMap((p) => (p.lastRun['hand-off'] && minutesALevel(p.lastRun['hand-off'])) || []);
  return others.length > 0 ? median(others) : null;
}

function stagesOf(
  piece: PlanPiece,
  pieces: readonly PlanPiece[],
  done: Record<PlannedStage, (Done & { id: string })[]>,
  exponent: number,
): StageLeft[] {
  const others = pieces.filter((p) => p.id !== piece.id);
  return PLANNED.map((stage) => {
    const ready = piece.ready.includes(stage);
    const work = forecast(
      done[stage].filter((d) => d.id !== piece.id),
      piece,
      (parts) => defaultMinutes(stage, parts),
    );
    const spent = piece.spent[stage] ?? 0;
    return {
      stage,
      ready,
      spent,
      work,
      left: ready ? 0 : Math.max(work.minutes - spent, STILL * work.minutes),
      machine: !ready && isMachine(stage) ? machineOf(piece, others, stage, exponent) : null,
    };
  });
}

const sum = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0);

/** Exponent of noise against samples over some pictures; −½ where they don’t tell. */
export function noiseExponent(points: readonly { samples: number; noise: number }[]): number {
  const good = points.filter((p) => p.samples > 0 && p.noise > 0);
  if (good.length < 3 || new Set(good.map((p) => p.samples)).size < 2) return -0.5;
  const { slope } = fitLine(
    good.map((p) => Math.log(p.samples)),
    good.map((p) => Math.log(p.noise)),
  );
  // Pictures of different things: beyond what any sampler does, it tells of them.
  return slope > -0.3 || slope < -1 ? -0.5 : slope;
}

/**
 * What is left of every piece, in which order it is done and when each is ready, and for those that won’t be in time the changes that would
 * help most.
 *
 * @param pieces all of the workshop: those that are finished are what is learned from
 * @param from the day it is, and the minutes of work left of it
 */
export function makePlan(
  pieces: readonly PlanPiece[],
  hours: Hours,
  order: readonly string[],
  from: { day: Day; minutesLeft?: number },
  exponent = -0.5,
): { rows: PlanRow[]; estimates: Estimate[] } {
  const done = Object.fromEntries(PLANNED.map((s) => [s, history(pieces, s)])) as Record<PlannedStage, (Done & { id: string })[]>;
  const stages = new Map(pieces.map((p) => [p.id, stagesOf(p, pieces, done, exponent)]));
  const tasks = inOrder(
    pieces.map((p) => {
      const of = stages.get(p.id) ?? [];
      return {
        id: p.id,
        due: p.due,
        work: sum(of.map((s) => s.left)) + p.snagMinutes,
        machine: sum(of.map((s) => s.machine?.minutes ?? 0)),
      };
    }),
    order,
  );
  const planned = new Map(schedule(tasks, hours, from).map((p) => [p.id, p]));
  const rows = tasks.flatMap((task): PlanRow[] => {
    const piece = pieces.find((p) => p.id === task.id);
    const p = planned.get(task.id);
    const of = stages.get(task.id);
    if (!piece || !p || !of) return [];
    const machine = (stage: MachineStage) => of.find((s) => s.stage === stage)?.machine?.minutes ?? 0;
    const basis = {
      document: piece.document,
      machine: { bake: machine('bake'), surface: machine('surface'), render: machine('render') },
      level: machine('hand-off') > 0 ? levelMinutes(piece, pieces) : null,
      density: piece.density,
      noisePercent: piece.noisePercent,
      exponent,
    };
    const cuts = p.fits === false ? cutsFor(task.id, tasks, hours, from, basis) : [];
    return [{ ...p, due: task.due, stages: of, work: task.work, machine: task.machine, snagMinutes: piece.snagMinutes, cuts }];
  });
  return { rows, estimates: estimatesOf(done) };
}

/** What would have been expected of each finished stage by those finished before it, against what it took. */
function estimatesOf(done: Record<PlannedStage, readonly (Done & { id: string })[]>): Estimate[] {
  return PLANNED.flatMap((stage) =>
    done[stage].map((d, i): Estimate => {
      const f = forecast(done[stage].slice(0, i), d, (parts) => defaultMinutes(stage, parts));
      return { id: d.id, stage, estimate: f.minutes, truth: d.minutes };
    }),
  );
}
