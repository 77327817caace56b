import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { releaseOwnership, takeOwnership } from '../ownership';
import { dataDir } from '../paths';
import * as schema from './schema';

export type Database = PgliteDatabase<typeof schema>;
interface Opened {
  db: Database;
  close(): Promise<void>;
}

/** One database per process, opened at first use: a build must not touch it. Kept on globalThis, so hot reloads share it. */
const home = globalThis as { wellmorphDatabase?: Promise<Opened> };

const migrations = (): string => {
  const here = resolve(/* turbopackIgnore: true */ process.cwd(), 'drizzle');
  return existsSync(here) ? here : resolve(/* turbopackIgnore: true */ process.cwd(), 'web/drizzle');
};

async function open(): Promise<Opened> {
  const dir = dataDir();
  takeOwnership(dir);
  const client = await PGlite.create(join(/* turbopackIgnore: true */ dir, 'postgres'));
  const db = drizzle(client, { schema });
  await migrate(db, { migrationsFolder: migrations() });
  const close = async () => {
    await client.close();
    releaseOwnership(dir);
  };
  return { db, close };
}

export async function database(): Promise<Database> {
  home.wellmorphDatabase ??= open().catch((error) => {
    home.wellmorphDatabase = undefined;
    throw error;
  });
  return (await home.wellmorphDatabase).db;
}

export async function closeDatabase(): Promise<void> {
  const opened = await home.wellmorphDatabase;
  home.wellmorphDatabase = undefined;
  await opened?.close();
}
