import { parentPort, workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

// One registration for all: each would otherwise have modules, and so a lane, of its own.
register();
const { takeLane } = await import('../src/rays/kernel/lanes.ts');
const { RayQuery } = await import('../src/rays/query.ts');
const { random } = await import('../src/maths/random.ts');

/** Asks a tree that is handed to it the same rays as everybody. */
takeLane(workerData.lane);
const query = new RayQuery(workerData.tree);
const next = random(12);
const out = Array.from({ length: workerData.rays }, () => {
  const v = Array.from({ length: 6 }, () => 20 * next() - 10);
  return query.closest(...v, 0, Infinity) ? query.triangle : -1;
});
parentPort.postMessage(out);
