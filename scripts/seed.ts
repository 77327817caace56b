import 'reflect-metadata';
import { closeDatabase } from '../web/src/server/db/client';
import { seedDemo } from '../web/src/server/seed';

/** Migrates the database and puts the demo's assets in when it is empty. */
console.log('Preparing the data …');
await seedDemo((line) => console.log(line), process.env.WELLMORPH_SEED === 'light');
await closeDatabase();
process.exit(0);
