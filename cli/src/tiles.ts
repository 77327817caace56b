import { parentPort, workerData } from 'node:worker_threads';
import { takeLane } from '@wellmorph/core/rays/kernel/lanes';
import { type Pass, traceTile } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import { PathTracer } from '@wellmorph/core/render/tracer';

/** A thread that traces the tiles it is sent. */
const { scene, lane } = workerData as { scene: Scene; lane: number };
takeLane(lane);
const tracer = new PathTracer(scene);
parentPort?.on('message', (pass: Pass) => {
  const before = tracer.rays;
  const halves = traceTile(tracer, pass);
  parentPort?.postMessage({ halves, rays: tracer.rays - before }, [halves[0].buffer as ArrayBuffer, halves[1].buffer as ArrayBuffer]);
});
