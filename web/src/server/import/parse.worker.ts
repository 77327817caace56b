import { parentPort } from 'node:worker_threads';
import { WellmorphError } from '@wellmorph/core/errors';
import { readModel } from '@wellmorph/core/io/read';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import type { LengthUnit } from '@wellmorph/core/units/lengths';

export interface ParseRequest {
  fileName: string;
  bytes: Uint8Array;
  unit: LengthUnit;
  companions: Record<string, Uint8Array>;
  /** A scale left on a part stays on it, for the inspection to say. */
  keepScale?: boolean;
}

/** Reads one uploaded model off the request thread and hands back meshes as blobs. */
parentPort?.once('message', async (request: ParseRequest) => {
  try {
    const model = await readModel(request.fileName, request.bytes, {
      unit: request.unit,
      companions: request.companions,
      keepScale: request.keepScale,
    });
    parentPort?.postMessage({ ok: true, model: { ...model, parts: model.parts.map((p) => ({ ...p, mesh: encodeMesh(p.mesh) })) } });
  } catch (error) {
    const known = error instanceof WellmorphError;
    parentPort?.postMessage({
      ok: false,
      code: known ? error.code : 'import/unforeseen',
      message: known ? error.message : 'The file could not be read.',
    });
  }
});
