import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { type AssetDocument, upgradeDocument } from '@wellmorph/core/pipeline/document';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import { nameOf, VERSIONS } from '@wellmorph/core/pipeline/results';
import { aboutOf } from '@wellmorph/core/plan/about';
import type { About } from '@wellmorph/core/plan/nearest';
import { and, desc, eq, getTableColumns, sql } from 'drizzle-orm';
import { publish } from '../events';
import { assetState } from './assets';
import { database } from './client';
import { resultNamed } from './results';
import { trials } from './schema';

type Row = typeof trials.$inferSelect;
/** A trial as pages see it: whether it can be taken up again instead of the whole document it was made from. */
export type Trial = Omit<Row, 'at' | 'snapshot'> & { at: string; canTake: boolean };
export type NewTrial = Pick<
  typeof trials.$inferInsert,
  | 'stage'
  | 'title'
  | 'settings'
  | 'figures'
  | 'milliseconds'
  | 'thumbnail'
  | 'resultName'
  | 'snapshot'
  | 'forecastSeconds'
  | 'sweep'
  | 'place'
>;
/** What the program’s steps are at, as it is kept with a run. */
export const PROGRAM = Object.entries(VERSIONS)
  .map(([stage, version]) => `${stage} ${version}`)
  .join(', ');

/** What a piece is like as a document has it: its size is that of the form it names, where that is stored. */
export async function aboutPiece(document: AssetDocument): Promise<About> {
  const form = await resultNamed(nameOf(document, 'form'));
  return aboutOf(document, (form?.figures as { ledger?: Ledger } | undefined)?.ledger ?? null);
}

const shown = ({ snapshot, at, ...t }: Row): Trial => ({ ...t, at: at.toISOString(), canTake: snapshot !== null });

export async function addTrial(assetId: string, trial: NewTrial): Promise<Trial> {
  const db = await database();
  // Those that were made before documents came with them are of the piece as it stands.
  const document = trial.snapshot ?? (await assetState(assetId)).document;
  const setAside = document.waivers.map(({ finding, reason }) => ({ finding, reason }));
  const [made] = await db
    .insert(trials)
    .values({ id: randomUUID(), assetId, ...trial, program: PROGRAM, about: await aboutPiece(document), setAside })
    .returning();
  publish({ kind: 'trial', asset: assetId });
  return shown(made);
}

export async function trialsOf(assetId: string): Promise<Trial[]> {
  const db = await database();
  const { snapshot: _, ...columns } = getTableColumns(trials);
  const list = await db
    .select({ ...columns, canTake: sql<boolean>`${trials.snapshot} is not null` })
    .from(trials)
    .where(eq(trials.assetId, assetId))
    .orderBy(desc(trials.at));
  return list.map((t) => ({ ...t, at: t.at.toISOString() }));
}

/** A trial with the document it was made from. @throws InputError when it is gone, or from before documents were kept with trials */
export async function runWhole(id: string): Promise<Pick<Row, 'assetId' | 'stage' | 'title' | 'figures'> & { document: AssetDocument }> {
  const db = await database();
  const [found] = await db.select().from(trials).where(eq(trials.id, id));
  if (!found) throw new InputError('trial/missing', 'This trial is not there any more.');
  if (!found.snapshot) throw new InputError('trial/old', 'This trial is from before settings were kept whole; it can’t be taken up again.');
  const { assetId, stage, title, figures, snapshot } = found;
  return { assetId, stage, title, figures, document: upgradeDocument(snapshot) };
}

/** @throws InputError when it is gone, or nothing is asked for */
export async function judgeTrial(assetId: string, id: string, change: { verdict?: string; note?: string }): Promise<Trial> {
  const db = await database();
  if (Object.keys(change).length === 0) throw new InputError('trial/nothing', 'There is nothing to change about this trial.');
  const [made] = await db
    .update(trials)
    .set(change)
    .where(and(eq(trials.id, id), eq(trials.assetId, assetId)))
    .returning();
  if (!made) throw new InputError('trial/missing', 'This trial is not there any more.');
  publish({ kind: 'trial', asset: assetId });
  return shown(made);
}
