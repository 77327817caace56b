import { parentPort, workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
const { takeLane } = await import('../src/rays/kernel/lanes.ts');
const { BandBaker } = await import('../src/bake/cast.ts');
const { PathTracer } = await import('../src/render/tracer.ts');
const { traceTile } = await import('../src/render/film.ts');

/** Bakes bands as they come, or traces tiles, in memory that it shares with others. */
const { lane, prepared, texels, next, scene, passes } = workerData;
takeLane(lane);
if (prepared) {
  const baker = new BandBaker(prepared, texels);
  for (let band = Atomics.add(next, 0, 1); band < baker.bands; band = Atomics.add(next, 0, 1)) {
    baker.bake(band);
    parentPort.postMessage({ band });
  }
} else {
  const tracer = new PathTracer(scene);
  for (let i = Atomics.add(next, 0, 1); i < passes.length; i = Atomics.add(next, 0, 1))
    parentPort.postMessage({ tile: i, halves: traceTile(tracer, passes[i]) });
}
