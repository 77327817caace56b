import 'reflect-metadata';
import { collectNowAndThen } from './blobs/collect';
import { closeDatabase } from './db/client';
import { formTheUnformed } from './jobs/forming';
import { turnQueue } from './jobs/queue';
import { OwnedError, takeOwnership } from './ownership';
import { dataDir } from './paths';

export async function start(): Promise<void> {
  try {
    takeOwnership(dataDir());
  } catch (error) {
    if (!(error instanceof OwnedError)) throw error;
    console.error(error.message);
    process.exit(1);
  }
  collectNowAndThen();
  void formTheUnformed();
  void turnQueue();
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => {
      const force = setTimeout(() => process.exit(1), 4000);
      void closeDatabase().finally(() => {
        clearTimeout(force);
        process.exit(0);
      });
    });
}
