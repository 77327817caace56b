import { parentPort, workerData } from 'node:worker_threads';
import { type Pass, traceTile } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import { PathTracer } from '@wellmorph/core/render/tracer';

/** A thread that traces the tiles it is sent. */
const tracer = new PathTracer(workerData as Scene);
parentPort?.on('message', (pass: Pass) => {
  const before = tracer.rays;
  const halves = traceTile(tracer, pass);
  parentPort?.postMessage({ halves, rays: tracer.rays - before }, [halves[0].buffer as ArrayBuffer, halves[1].buffer as ArrayBuffer]);
});
