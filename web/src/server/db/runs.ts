import { InputError } from '@wellmorph/core/errors';
import type { Judged } from '@wellmorph/core/plan/nearest';
import { type AnyColumn, and, asc, desc, eq, getTableColumns, gte, ilike, inArray, lte, ne, or, type SQL, sql } from 'drizzle-orm';
import { database } from './client';
import { assets, trials } from './schema';

/** Which runs are wanted, and in which order. All that is absent is any. */
export interface RunsWanted {
  stage?: string;
  asset?: string;
  material?: string;
  role?: string;
  verdict?: string;
  sweep?: string;
  /** Longest side of the piece, mm. */
  minMm?: number;
  maxMm?: number;
  /** Words in its title, its note or the name of its piece. */
  search?: string;
  /** A column, or `figure.` or `setting.` and its name. */
  sort?: string;
  order?: 'asc' | 'desc';
  page?: number;
  size?: number;
}

const { snapshot: _, assetId: __, ...columns } = getTableColumns(trials);
const SHOWN = {
  ...columns,
  assetId: trials.assetId,
  asset: assets.name,
  piecePicture: assets.thumbnail,
  deleted: sql<boolean>`${assets.deletedAt} is not null`,
  canTake: sql<boolean>`${trials.snapshot} is not null`,
};
type Row = Omit<typeof trials.$inferSelect, 'snapshot'> & {
  asset: string;
  /** The piece’s own picture, as it is now. */
  piecePicture: string | null;
  deleted: boolean;
  canTake: boolean;
};
/** A run as the logbook shows it. */
export type LoggedRun = Omit<Row, 'at'> & { at: string };
const shown = (r: Row): LoggedRun => ({ ...r, at: r.at.toISOString() });

const like = (words: string): string => `%${words.replace(/[\\%_]/g, '\\$&')}%`;

function where(w: RunsWanted): SQL | undefined {
  const size = sql`(${trials.about}->>'sizeMm')::real`;
  return and(
    w.stage ? eq(trials.stage, w.stage) : undefined,
    w.asset ? eq(trials.assetId, w.asset) : undefined,
    w.verdict ? eq(trials.verdict, w.verdict) : undefined,
    w.sweep ? eq(trials.sweep, w.sweep) : undefined,
    w.material ? sql`${trials.about}->'materials' @> ${JSON.stringify([w.material])}::jsonb` : undefined,
    w.role ? sql`${trials.about}->'roles' @> ${JSON.stringify([w.role])}::jsonb` : undefined,
    w.minMm === undefined ? undefined : gte(size, w.minMm),
    w.maxMm === undefined ? undefined : lte(size, w.maxMm),
    ...(w.search ?? '')
      .split(/\s+/)
      .filter(Boolean)
      .map((word) => or(ilike(trials.title, like(word)), ilike(trials.note, like(word)), ilike(assets.name, like(word)))),
  );
}

const SORTED: Record<string, AnyColumn> = {
  at: trials.at,
  number: trials.number,
  asset: assets.name,
  stage: trials.stage,
  title: trials.title,
  milliseconds: trials.milliseconds,
  verdict: trials.verdict,
};
function order({ sort = 'at', order: way = 'desc' }: RunsWanted): SQL[] {
  const [kind, key] = sort.split(/\.(.*)/);
  const side = way === 'asc' ? asc : desc;
  // Runs that don’t have the figure come last, whichever way.
  const last = (by: SQL) => sql`${by} nulls last`;
  const number = (of: AnyColumn) => sql`case when jsonb_typeof(${of}->${key}) = 'number' then (${of}->>${key})::double precision end`;
  if (kind === 'figure' && key) return [last(side(number(trials.figures))), desc(trials.number)];
  if (kind === 'setting' && key) return [last(side(number(trials.settings))), desc(trials.number)];
  const column = SORTED[sort];
  if (!column) throw new InputError('runs/sort', 'The logbook has no such column.');
  return [side(column), side(trials.number)];
}

/** Runs of all assets, filtered and put in order by the database. */
export async function listRuns(wanted: RunsWanted): Promise<{ runs: LoggedRun[]; total: number }> {
  const db = await database();
  const { page = 0, size = 50 } = wanted;
  const filter = where(wanted);
  const [{ total }] = await db
    .select({ total: sql<number>`count(*)::int` })
    .from(trials)
    .innerJoin(assets, eq(assets.id, trials.assetId))
    .where(filter);
  const list = await db
    .select(SHOWN)
    .from(trials)
    .innerJoin(assets, eq(assets.id, trials.assetId))
    .where(filter)
    .orderBy(...order(wanted))
    .limit(size)
    .offset(page * size);
  return { runs: list.map(shown), total };
}

/** Some runs by their ids, in that order; those that are gone are left out. */
export async function runsById(ids: readonly string[]): Promise<LoggedRun[]> {
  if (ids.length === 0) return [];
  const db = await database();
  const list = await db
    .select(SHOWN)
    .from(trials)
    .innerJoin(assets, eq(assets.id, trials.assetId))
    .where(inArray(trials.id, [...ids]));
  return ids.flatMap((id) => list.filter((r) => r.id === id).map(shown));
}

/** What can be chosen among: the pieces, materials and roles that runs are of, and how many there are since when. */
export interface RunsAtHand {
  total: number;
  since: string | null;
  pieces: { id: string; name: string }[];
  materials: string[];
  roles: string[];
}
export async function runsAtHand(): Promise<RunsAtHand> {
  const db = await database();
  const [{ total, since }] = await db
    .select({ total: sql<number>`count(*)::int`, since: sql<string | null>`min(${trials.at})` })
    .from(trials);
  const pieces = await db
    .selectDistinct({ id: assets.id, name: assets.name })
    .from(assets)
    .innerJoin(trials, eq(trials.assetId, assets.id))
    .orderBy(assets.name);
  const names = async (key: string) =>
    (
      await db.execute<{ name: string }>(
        sql`select distinct x.name from ${trials}, jsonb_array_elements_text(${trials.about}->${key}) as x(name) order by 1`,
      )
    ).rows.map((r) => r.name);
  return { total, since: since && new Date(since).toISOString(), pieces, materials: await names('materials'), roles: await names('roles') };
}

/** Runs of other pieces that somebody judged, and what those pieces are like. */
export async function judgedRuns(stage: string, notOf: string): Promise<Judged[]> {
  const db = await database();
  const list = await db
    .select({
      asset: trials.assetId,
      stage: trials.stage,
      settings: trials.settings,
      figures: trials.figures,
      verdict: trials.verdict,
      about: trials.about,
    })
    .from(trials)
    .where(and(eq(trials.stage, stage), ne(trials.assetId, notOf), inArray(trials.verdict, ['kept', 'dropped'])));
  return list.flatMap(({ verdict, about, ...r }) => (about ? [{ ...r, about, kept: verdict === 'kept' }] : []));
}
