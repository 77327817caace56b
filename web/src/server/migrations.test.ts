import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { drizzle } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const ALL = resolve(import.meta.dirname, '../../drizzle');
interface Journal {
  entries: { tag: string }[];
}
const journal = JSON.parse(readFileSync(join(ALL, 'meta/_journal.json'), 'utf8')) as Journal;
const dir = mkdtempSync(join(tmpdir(), 'wellmorph-migrations-'));
afterAll(() => rmSync(dir, { recursive: true, force: true }));

/** The migrations up to one of them, as the program of that time had them. */
function upTo(count: number): string {
  const folder = join(dir, `first-${count}`);
  cpSync(ALL, folder, { recursive: true });
  const entries = journal.entries.slice(0, count);
  writeFileSync(join(folder, 'meta/_journal.json'), JSON.stringify({ ...journal, entries }));
  return folder;
}

/** A dump of a database of each earlier version, with an asset, two trials and a job in it. */
const dumps: Blob[] = [];
beforeAll(async () => {
  for (let count = 1; count < journal.entries.length; count++) {
    const db = await PGlite.create();
    await migrate(drizzle(db), { migrationsFolder: upTo(count) });
    const document = JSON.stringify(newDocument('Storm lantern', briefFor('game')));
    await db.query('insert into assets (id, name, document) values ($1, $2, $3)', ['a', 'Storm lantern', document]);
    for (const [id, at] of [
      ['t1', '2026-09-01T10:00:00Z'],
      ['t2', '2026-09-02T10:00:00Z'],
    ])
      await db.query(
        "insert into trials (id, asset_id, stage, title, settings, figures, milliseconds, verdict, note, at) values ($1, 'a', 'bake', 'Measured', '{\"samples\":2}', '{\"p95Degrees\":0.8}', 900, 'kept', 'good', $2)",
        [id, at],
      );
    // As one that was closed: else what counts runs would be found ahead of itself.
    await db.exec('checkpoint');
    dumps.push(await db.dumpDataDir('none'));
    await db.close();
  }
}, 120_000);

describe('a database of an earlier version', () => {
  it('there is a dump of each, and every migration is listed', () => {
    expect(dumps).toHaveLength(journal.entries.length - 1);
    expect(
      readdirSync(ALL)
        .filter((f) => f.endsWith('.sql'))
        .sort(),
    ).toEqual(journal.entries.map((e) => `${e.tag}.sql`));
  });
  it.each(Array.from({ length: journal.entries.length - 1 }, (_, i) => i + 1))(
    'after %d migrations: is brought up to date with nothing lost',
    async (count) => {
      const client = await PGlite.create({ loadDataDir: dumps[count - 1] });
      const db = drizzle(client);
      await migrate(db, { migrationsFolder: ALL });
      const { rows } = await client.query<Record<string, unknown>>('select * from trials order by number');
      expect(rows.map((r) => [r.id, r.verdict, r.note, r.milliseconds, r.number])).toEqual([
        ['t1', 'kept', 'good', 900, 1],
        ['t2', 'kept', 'good', 900, 2],
      ]);
      expect(rows[0]).toMatchObject({ settings: { samples: 2 }, about: null, sweep: null, program: null });
      expect((await client.query('select name from assets')).rows).toEqual([{ name: 'Storm lantern' }]);
      // The next run counts on.
      await client.query(
        "insert into trials (id, asset_id, stage, title, settings, figures, milliseconds) values ('t3', 'a', 'bake', 'x', '{}', '{}', 1)",
      );
      expect((await client.query<{ number: number }>("select number from trials where id = 't3'")).rows[0].number).toBe(3);
      // Brought up to date once, there is nothing left to do.
      await migrate(db, { migrationsFolder: ALL });
      await client.close();
    },
  );
});
