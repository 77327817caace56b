import type { Command } from '@wellmorph/core/pipeline/commands';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { boolean, index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core';
import type { Patch } from 'immer';

/** One prop or product: the whole document, edited by commands, with the version they were made on. */
export const assets = pgTable('assets', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  document: jsonb('document').$type<AssetDocument>().notNull(),
  version: integer('version').notNull().default(1),
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
    patches: jsonb('patches').$type<Patch[]>().notNull(),
    inverse: jsonb('inverse').$type<Patch[]>().notNull(),
    undone: boolean('undone').notNull().default(false),
    /** A change made after an undo cuts off what had been undone. */
    dropped: boolean('dropped').notNull().default(false),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [index('edits_asset').on(t.assetId, t.id)],
);

/** Files kept by what is in them. */
export const blobs = pgTable('blobs', {
  hash: text('hash').primaryKey(),
  bytes: integer('bytes').notNull(),
  kind: text('kind').notNull(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
});

/** What a stage came to, under the hash of exactly what went into it. */
export const results = pgTable(
  'results',
  {
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    stage: text('stage').notNull(),
    hash: text('hash').notNull(),
    figures: jsonb('figures').$type<unknown>().notNull(),
    blobs: jsonb('blobs').$type<Record<string, string>>().notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.stage, t.hash] })],
);

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
    verdict: text('verdict').notNull().default('open'),
    note: text('note').notNull().default(''),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [index('trials_asset').on(t.assetId, t.at)],
);

/** Long work waiting for the server, oldest first. How far the running one is stands in memory, not here. */
export const jobs = pgTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    assetId: text('asset_id')
      .notNull()
      .references(() => assets.id),
    kind: text('kind').$type<'render'>().notNull(),
    /** The document as it was when it was queued, and the result it will make. */
    document: jsonb('document').$type<AssetDocument>().notNull(),
    hash: text('hash').notNull(),
    state: text('state').$type<JobState>().notNull().default('waiting'),
    /** What went wrong, in a sentence. */
    sentence: text('sentence'),
    /** Seconds it was thought to take. */
    forecastSeconds: integer('forecast_seconds'),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    endedAt: timestamp('ended_at', { withTimezone: true }),
  },
  (t) => [index('jobs_state').on(t.state, t.at)],
);
export type JobState = 'waiting' | 'running' | 'done' | 'stopped' | 'failed';
