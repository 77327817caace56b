import { randomUUID } from 'node:crypto';
import { INVENTED, season } from '@wellmorph/demo/season';
import { listAssets } from './db/assets';
import { database } from './db/client';
import { addLesson } from './db/lessons';
import { trials } from './db/schema';
import { addSnag } from './db/snags';
import { setSpent } from './db/spent';
import { aboutPiece } from './db/trials';

const DAY = 86_400_000;

/** Writes the season’s history of the demo’s invented workshop into the logbook; every run of it is marked as invented. */
export async function seedSeason(now = new Date()): Promise<void> {
  const pieces = await Promise.all(
    (await listAssets()).map(async (a) => ({
      id: a.id,
      name: a.name,
      textureSize: a.document.brief.limits.textureSize,
      about: await aboutPiece(a.document),
    })),
  );
  const { runs, spent, lessons, snags } = season(pieces);
  const day = (ago: number) => new Date(now.getTime() - ago * DAY);
  const rows = runs
    .map((r, i) => {
      const at = day(r.daysAgo);
      at.setHours(0, r.minute, 0, 0);
      return { r, i, id: randomUUID(), at };
    })
    .sort((a, b) => a.at.getTime() - b.at.getTime());
  const db = await database();
  await db.insert(trials).values(
    rows.map(({ r: { piece, daysAgo: _, minute: __, ...run }, id, at }) => ({
      ...run,
      id,
      at,
      assetId: piece,
      note: INVENTED,
      program: INVENTED,
      setAside: [],
      about: pieces.find((p) => p.id === piece)?.about ?? null,
    })),
  );
  for (const s of spent) await setSpent(s.piece, s.stage, day(s.daysAgo).toISOString().slice(0, 10), s.minutes);
  for (const { run, ...lesson } of lessons) await addLesson({ ...lesson, trial: rows.find((x) => x.i === run)?.id });
  for (const { piece, ...snag } of snags) await addSnag(piece, snag);
}
