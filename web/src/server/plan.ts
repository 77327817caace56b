import type { Forecast } from '@wellmorph/core/plan/forecast';
import { PLANNED, type PlannedStage } from '@wellmorph/core/plan/forecast';
import { MACHINE, type MachineRun, type MachineStage } from '@wellmorph/core/plan/machine';
import { type Estimate, makePlan, noiseExponent, type PlanPiece, type PlanRow } from '@wellmorph/core/plan/plan';
import { checkHours, type Day, HOURS, type Hours, workOn } from '@wellmorph/core/plan/schedule';
import { and, desc, eq, gt, inArray } from 'drizzle-orm';
import { listAssets } from './db/assets';
import { database } from './db/client';
import { keepChoice, keptChoice } from './db/kept';
import { trials } from './db/schema';
import { listSnags } from './db/snags';
import { allSpent } from './db/spent';
import { publish } from './events';
import { type Card, workshopCards } from './workshop';

/** A row of the plan as pages see it: with the piece’s name. */
export type PlannedPiece = PlanRow & { name: string; version: number };
export interface Plan {
  day: Day;
  hours: Hours;
  /** Pieces put in order by hand. */
  order: string[];
  rows: PlannedPiece[];
  estimates: (Estimate & { name: string })[];
  /** Minutes of work that were done on the day already. */
  spentToday: number;
}
export type { Forecast };

interface PlanChoices {
  hours: Hours;
  order: string[];
}
async function choices(): Promise<PlanChoices> {
  const kept = (await keptChoice('plan')) as Partial<PlanChoices> | null;
  return { hours: kept?.hours ?? HOURS, order: kept?.order ?? [] };
}

/** @throws InputError for hours that no day has */
export async function setPlan(change: Partial<PlanChoices>): Promise<void> {
  if (change.hours) checkHours(change.hours);
  await keepChoice('plan', { ...(await choices()), ...Object.fromEntries(Object.entries(change).filter(([, v]) => v !== undefined)) });
  publish({ kind: 'plan' });
}

/** The light is settled once the shot is locked; all else is ready when there is nothing bad about it. */
const isReady = (card: Card, stage: PlannedStage): boolean => {
  const status = card.stages[stage];
  return status === 'ok' || (status === 'near' && stage !== 'light' && stage !== 'hand-off');
};

interface Runs {
  last: Partial<Record<MachineStage, MachineRun>>;
  noisePercent: number | null;
}

/** Pictures that the law of noise is read from: the newest. */
const NOISES = 200;

/** The last run of every piece and stage that the machine works for, and noises of the newest pictures against their samples. */
async function machineRuns(): Promise<{ of: Map<string, Runs>; noises: { samples: number; noise: number }[] }> {
  const db = await database();
  const list = await db
    .selectDistinctOn([trials.assetId, trials.stage], {
      asset: trials.assetId,
      stage: trials.stage,
      milliseconds: trials.milliseconds,
      settings: trials.settings,
      figures: trials.figures,
    })
    .from(trials)
    .where(and(inArray(trials.stage, [...MACHINE]), gt(trials.milliseconds, 0)))
    .orderBy(trials.assetId, trials.stage, desc(trials.at));
  const of = new Map<string, Runs>();
  for (const t of list) {
    const runs = of.get(t.asset) ?? { last: {}, noisePercent: null };
    of.set(t.asset, runs);
    const stage = t.stage as MachineStage;
    runs.last[stage] = { minutes: t.milliseconds / 60_000, settings: t.settings, figures: t.figures };
    if (stage === 'render' && typeof t.figures.noisePercent === 'number') runs.noisePercent = t.figures.noisePercent;
  }
  const pictures = await db
    .select({ figures: trials.figures })
    .from(trials)
    .where(eq(trials.stage, 'render'))
    .orderBy(desc(trials.at))
    .limit(NOISES);
  const noises = pictures.flatMap(({ figures: { samples, noisePercent: noise } }) =>
    typeof samples === 'number' && typeof noise === 'number' ? [{ samples, noise }] : [],
  );
  return { of, noises };
}

/** The plan as everything stands. @param day the day it is where it is asked for */
export async function planNow(day: Day): Promise<Plan> {
  const list = await listAssets();
  const [cards, snags, spent, { of, noises }, { hours, order }] = await Promise.all([
    workshopCards(list),
    listSnags(),
    allSpent(),
    machineRuns(),
    choices(),
  ]);
  const pieces = list.flatMap((a): PlanPiece[] => {
    const card = cards.find((c) => c.id === a.id);
    if (!card) return [];
    const runs = of.get(a.id);
    const mine: PlanPiece['spent'] = {};
    for (const s of spent) if (s.assetId === a.id) mine[s.stage] = (mine[s.stage] ?? 0) + s.minutes;
    return [
      {
        id: a.id,
        document: a.document,
        due: a.document.brief.deadline?.slice(0, 10) ?? null,
        parts: Math.max(1, a.document.parts.length),
        sizeMm: card.sizeMm ? Math.max(...card.sizeMm) : null,
        ready: PLANNED.filter((s) => isReady(card, s)),
        spent: mine,
        lastRun: runs?.last ?? {},
        snagMinutes: snags.filter((s) => s.assetId === a.id && !s.doneAt).reduce((n, s) => n + s.minutes, 0),
        density: card.density,
        noisePercent: runs?.noisePercent ?? null,
      },
    ];
  });
  const spentToday = spent.filter((s) => s.day === day).reduce((n, s) => n + s.minutes, 0);
  const minutesLeft = Math.max(0, workOn(day, hours) - spentToday);
  const { rows, estimates } = makePlan(pieces, hours, order, { day, minutesLeft }, noiseExponent(noises));
  const named = new Map(list.map((a) => [a.id, a]));
  return {
    day,
    hours,
    order,
    rows: rows.map((r) => ({ ...r, name: named.get(r.id)?.name ?? '', version: named.get(r.id)?.version ?? 0 })),
    estimates: estimates.map((e) => ({ ...e, name: named.get(e.id)?.name ?? '' })),
    spentToday,
  };
}
