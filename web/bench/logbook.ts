import 'reflect-metadata';
import { randomUUID } from 'node:crypto';

/** A logbook of 20 000 runs of 60 pieces: how long its questions take the database, and the plan of all of them. Times in ms. */
if (!process.env.WELLMORPH_DATA) throw new Error('The runs are written into a folder of their own: WELLMORPH_DATA.');
const { createAsset } = await import('../src/server/db/assets');
const { closeDatabase, database } = await import('../src/server/db/client');
const { judgedRuns, listRuns, runsAtHand } = await import('../src/server/db/runs');
const { trials } = await import('../src/server/db/schema');
const { reachable } = await import('../src/server/blobs/collect');
const { planNow } = await import('../src/server/plan');
const { smallPiece } = await import('../test/pieces');

const PIECES = 60;
const RUNS = 20_000;
const STAGES = ['form', 'unwrap', 'bake', 'surface', 'render'];

const ids: string[] = [];
for (let i = 0; i < PIECES; i++) ids.push(await createAsset(smallPiece(`Piece ${i}`, 5000 + i)));
const db = await database();
const snapshot = smallPiece('Piece', 1);
for (let first = 0; first < RUNS; first += 500)
  await db.insert(trials).values(
    Array.from({ length: 500 }, (_, i) => {
      const n = first + i;
      return {
        id: randomUUID(),
        assetId: ids[n % PIECES],
        stage: STAGES[n % STAGES.length],
        title: `Run ${n} of ${n % 7}`,
        settings: { samples: 2 ** (n % 6), size: 1024, width: 960, height: 1200 },
        figures: { noisePercent: (n % 97) / 50, samples: 64, p95Degrees: (n % 31) / 10 },
        milliseconds: n % 9000,
        snapshot,
        verdict: ['kept', 'open', 'dropped'][n % 3],
        about: {
          sizeMm: 50 + (n % 300),
          parts: n % 9,
          triangles: 2000,
          materials: [['Aged brass', 'Oiled oak', 'Tin'][n % 3]],
          roles: ['body'],
        },
        at: new Date(Date.now() - n * 60_000),
      };
    }),
  );

async function timed(what: string, ask: () => Promise<unknown>, wanted?: number): Promise<void> {
  const all: number[] = [];
  for (let k = 0; k < 7; k++) {
    const began = performance.now();
    await ask();
    all.push(performance.now() - began);
  }
  all.sort((a, b) => a - b);
  console.log(
    `${what.padEnd(52)} ${all[3].toFixed(0).padStart(6)} ms, slowest ${all[6].toFixed(0)}${wanted ? ` (wanted ≤ ${wanted})` : ''}`,
  );
}
console.log(`${RUNS} runs of ${PIECES} pieces, medians of seven`);
await timed('newest 50 of all', () => listRuns({ size: 50 }), 200);
await timed('by stage, material and verdict', () => listRuns({ stage: 'bake', material: 'Aged brass', verdict: 'kept', size: 50 }), 200);
await timed('by words', () => listRuns({ search: 'run 6', size: 50 }), 200);
await timed(
  'by size, in order of a figure',
  () => listRuns({ stage: 'render', minMm: 100, maxMm: 200, sort: 'figure.noisePercent', order: 'asc' }),
  200,
);
await timed('what can be chosen among', runsAtHand, 200);
await timed('judged runs of a stage, for suggestions', () => judgedRuns('bake', ids[0]));
await timed('the plan of all pieces', () => planNow('2026-12-02'), 300);
await timed('what is still referred to, for collection', async () => reachable(db));
await closeDatabase();
