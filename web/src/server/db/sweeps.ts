import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { desc, eq, sql } from 'drizzle-orm';
import { database } from './client';
import { type LoggedRun, listRuns } from './runs';
import { assets, type JobState, jobs, type SweepPlace, sweeps, trials } from './schema';

type Row = typeof sweeps.$inferSelect;
/** A sweep with how far it is. */
export type Sweep = Omit<Row, 'at'> & { at: string; asset: string; runs: number; of: number };
/** Every place of a sweep’s sheet: its run where there is one, else how its job stands. */
export interface SweepSheet extends Sweep {
  places: { place: SweepPlace; run: LoggedRun | null; job: { id: string; state: JobState; sentence: string | null } | null }[];
}

export async function addSweep(sweep: Omit<Row, 'id' | 'at'>): Promise<string> {
  const db = await database();
  const id = randomUUID();
  await db.insert(sweeps).values({ id, ...sweep });
  return id;
}

const counted = {
  sweep: sweeps,
  asset: assets.name,
  runs: sql<number>`(select count(*)::int from ${trials} where ${trials.sweep} = ${sweeps.id})`,
};
type Counted = { sweep: Row; asset: string; runs: number };
const shown = ({ sweep, asset, runs }: Counted): Sweep => ({
  ...sweep,
  at: sweep.at.toISOString(),
  asset,
  runs,
  of: sweep.axes.reduce((n, a) => n * a.values.length, 1),
});

/** Sweeps of a piece, newest first. */
export async function sweepsOf(assetId: string): Promise<Sweep[]> {
  const db = await database();
  const list = await db
    .select(counted)
    .from(sweeps)
    .innerJoin(assets, eq(assets.id, sweeps.assetId))
    .where(eq(sweeps.assetId, assetId))
    .orderBy(desc(sweeps.at));
  return list.map(shown);
}

/** @throws InputError when it is not there */
export async function sweepSheet(id: string): Promise<SweepSheet> {
  const db = await database();
  const [found] = await db.select(counted).from(sweeps).innerJoin(assets, eq(assets.id, sweeps.assetId)).where(eq(sweeps.id, id));
  if (!found) throw new InputError('sweep/missing', 'This sweep is not there any more.');
  const { runs } = await listRuns({ sweep: id, size: 500, sort: 'number', order: 'asc' });
  const queued = await db
    .select({ id: jobs.id, state: jobs.state, sentence: jobs.sentence, place: jobs.place })
    .from(jobs)
    .where(eq(jobs.sweep, id));
  const at = (a: SweepPlace | null, b: SweepPlace) => a !== null && a.column === b.column && a.row === b.row;
  const places = queued
    .flatMap(({ place, ...job }) => (place ? [{ place, job, run: runs.find((r) => at(r.place, place)) ?? null }] : []))
    .sort((a, b) => a.place.row - b.place.row || a.place.column - b.place.column);
  return { ...shown(found), places };
}
