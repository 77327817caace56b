import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Kept } from '@wellmorph/core/pipeline/results';
import type { PlannedStage } from '@wellmorph/core/plan/forecast';
import type { About } from '@wellmorph/core/plan/nearest';
import type { SweepAxis } from '@wellmorph/core/plan/sweep';
import { boolean, index, integer, jsonb, pgTable, primaryKey, real, serial, text, timestamp, uniqueIndex } from 'drizzle-orm/pg-core';
import type { Patch } from 'immer';

/** One prop or product: the whole document, edited by commands, with the version they were made on. */
export const assets = pgTable('assets', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  document: jsonb('document').$type<AssetDocument>().notNull(),
  version: integer('version').notNull().default(1),
  /** What the results of the document as it is are called; null in rows of an older schema until they are next changed. */
  names: jsonb('names').$type<Record<Kept, string>>(),
  thumbnail: text('thumbnail'),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
  deletedAt: timestamp('deleted_at', { withTimezone: true }),
});

/** Every change with its inverse: undo survives a reload, and the history can be read in words. */
export const edits = pgTable(
  'edits',
  {
    id: serial('id').primaryKey(),
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    /** Version of the document after the change. */
    version: integer('version').notNull(),
    command: jsonb('command').$type<Command>().notNull(),
    words: text('words').notNull(),
    /** The program’s advice that was taken by it, in its words; null for what was decided without. */
    advice: text('advice'),
    patches: jsonb('patches').$type<Patch[]>().notNull(),
    inverse: jsonb('inverse').$type<Patch[]>().notNull(),
    /** What the results of the state before the change and after it are called: undo finds them again. */
    names: jsonb('names').$type<{ before: Record<Kept, string>; after: Record<Kept, string> }>(),
    undone: boolean('undone').notNull().default(false),
    /** A change made after an undo cuts off what had been undone. */
    dropped: boolean('dropped').notNull().default(false),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [index('edits_asset').on(t.assetId, t.id)],
);

/**
 * Every step of an asset's version: a change, one taken back or brought forward. The same request sent twice finds its own row here
 * and gets the same answer.
 */
export const changes = pgTable(
  'changes',
  {
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    version: integer('version').notNull(),
    /** Who asked, and which of their requests it was; null for what the server does of its own. */
    clientId: text('client_id'),
    seq: integer('seq'),
    kind: text('kind').$type<'edit' | 'undo' | 'redo'>().notNull(),
    editId: integer('edit_id')
      .notNull()
      .references(() => edits.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.version] }), uniqueIndex('changes_once').on(t.assetId, t.clientId, t.seq)],
);

/** Files kept by what is in them. */
export const blobs = pgTable('blobs', {
  hash: text('hash').primaryKey(),
  bytes: integer('bytes').notNull(),
  kind: text('kind').notNull(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  /** When it was last handed in: for a day after that it is kept, whether anything refers to it yet or not. */
  touchedAt: timestamp('touched_at', { withTimezone: true }).notNull().defaultNow(),
});

/** Files that somebody still needs although nothing refers to them: an upload being read, a thing being packed. */
export const leases = pgTable(
  'leases',
  {
    blob: text('blob').notNull(),
    owner: text('owner').notNull(),
    until: timestamp('until', { withTimezone: true }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.blob, t.owner] })],
);

/** What a stage came to, under the name of exactly what went into it. No asset owns it: equal name, equal bytes. */
export const results = pgTable('results', {
  name: text('name').primaryKey(),
  stage: text('stage').$type<Kept>().notNull(),
  /** Names of what it stands on. */
  inputs: jsonb('inputs').$type<(string | null)[]>().notNull(),
  figures: jsonb('figures').$type<unknown>().notNull(),
  blobs: jsonb('blobs').$type<Record<string, string>>().notNull(),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
});

/** One attempt at a stage: what was set, what came out, whether it was kept. */
export const trials = pgTable(
  'trials',
  {
    id: text('id').primaryKey(),
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    stage: text('stage').notNull(),
    title: text('title').notNull(),
    settings: jsonb('settings').$type<Record<string, unknown>>().notNull(),
    figures: jsonb('figures').$type<Record<string, number | string>>().notNull(),
    milliseconds: integer('milliseconds').notNull(),
    thumbnail: text('thumbnail'),
    /** The result it made, and the document it was made from: the attempt can be taken up again. Null before these were kept. */
    resultName: text('result_name'),
    snapshot: jsonb('snapshot').$type<AssetDocument>(),
    /** Seconds it was thought to take. */
    forecastSeconds: real('forecast_seconds'),
    verdict: text('verdict').notNull().default('open'),
    note: text('note').notNull().default(''),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    /** Runs are counted over all assets, so that people can speak of “run 41”. */
    number: serial('number').notNull(),
    /** What the program’s steps were at: a run of another is made anew by other steps. Null before this was kept. */
    program: text('program'),
    /** What the piece was like; null before this was kept. */
    about: jsonb('about').$type<About>(),
    /** Findings that were set aside when it was made, and why. */
    setAside: jsonb('set_aside').$type<{ finding: string; reason: string }[]>(),
    sweep: text('sweep'),
    place: jsonb('place').$type<SweepPlace>(),
  },
  (t) => [index('trials_asset').on(t.assetId, t.at), index('trials_at').on(t.at), index('trials_sweep').on(t.sweep)],
);
/** Where a run stands on the sheet of its sweep, and what was set for it. */
export interface SweepPlace {
  column: number;
  row: number;
  label: string;
  set: Record<string, number>;
}

/** A range of one setting or two, queued as runs. */
export const sweeps = pgTable('sweeps', {
  id: text('id').primaryKey(),
  assetId: text('asset_id')
    .notNull()
    .references(() => assets.id),
  stage: text('stage').notNull(),
  title: text('title').notNull(),
  axes: jsonb('axes').$type<(SweepAxis & { name: string })[]>().notNull(),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
});

/** A sentence learned from a run, pinned to what it is about: a material, a part’s role, a rig, a kind of step, a stage. */
export const lessons = pgTable('lessons', {
  id: text('id').primaryKey(),
  sentence: text('sentence').notNull(),
  kind: text('kind').$type<LessonKind>().notNull(),
  /** The material’s name, the role, the rig’s name, the step’s kind, the stage. */
  subject: text('subject').notNull(),
  trialId: text('trial_id').references(() => trials.id),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp('removed_at', { withTimezone: true }),
});
export const LESSON_KINDS = ['material', 'role', 'rig', 'step', 'stage'] as const;
export type LessonKind = (typeof LESSON_KINDS)[number];

/** What somebody noticed and left for later, pinned to a place on the piece. */
export const snags = pgTable(
  'snags',
  {
    id: text('id').primaryKey(),
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    words: text('words').notNull(),
    minutes: real('minutes').notNull(),
    place: jsonb('place').$type<SnagPlace>(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    doneAt: timestamp('done_at', { withTimezone: true }),
    removedAt: timestamp('removed_at', { withTimezone: true }),
  },
  (t) => [index('snags_asset').on(t.assetId)],
);
/** Where a snag is: a point in the own space of the part it is on, mm, so that it moves along; of the whole piece where it names none. */
export interface SnagPlace {
  at: [number, number, number];
  part: string | null;
}

/** A state of a piece under a name, that can be gone back to. */
export const states = pgTable('states', {
  id: text('id').primaryKey(),
  assetId: text('asset_id')
    .notNull()
    .references(() => assets.id),
  name: text('name').notNull(),
  snapshot: jsonb('snapshot').$type<AssetDocument>().notNull(),
  names: jsonb('names').$type<Record<Kept, string>>().notNull(),
  thumbnail: text('thumbnail'),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  /** Forgotten: it can be had back while what it needs is still stored. */
  removedAt: timestamp('removed_at', { withTimezone: true }),
});

/** Time spent on a stage of a piece, by day; what was counted by itself, and what was put right by hand. */
export const spent = pgTable(
  'spent',
  {
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    stage: text('stage').$type<PlannedStage>().notNull(),
    day: text('day').notNull(),
    seconds: real('seconds').notNull().default(0),
    byHand: real('by_hand').notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.stage, t.day] })],
);

/** Choices of the whole workshop under a name each: hours of work, order of work, filters of the logbook. */
export const kept = pgTable('kept', {
  key: text('key').primaryKey(),
  value: jsonb('value').$type<unknown>().notNull(),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
});

/** Long work waiting for the server, oldest first. How far the running one is stands in memory, not here. */
export const jobs = pgTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    kind: text('kind').$type<JobKind>().notNull(),
    /** The document as it was when it was queued, and the result it will make. */
    document: jsonb('document').$type<AssetDocument>().notNull(),
    resultName: text('hash').notNull(),
    state: text('state').$type<JobState>().notNull().default('waiting'),
    /** What went wrong, in a sentence. */
    sentence: text('sentence'),
    /** Seconds it was thought to take. */
    forecastSeconds: integer('forecast_seconds'),
    /** The sweep it is one of, and where it stands on its sheet. */
    sweep: text('sweep'),
    place: jsonb('place').$type<SweepPlace>(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    endedAt: timestamp('ended_at', { withTimezone: true }),
  },
  (t) => [index('jobs_state').on(t.state, t.at)],
);
export type JobState = 'waiting' | 'running' | 'paused' | 'done' | 'stopped' | 'failed';
export type JobKind = 'render' | 'bake';
