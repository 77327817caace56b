import { parentPort } from 'node:worker_threads';
import { WellmorphError } from '@wellmorph/core/errors';
import { readModel } from '@wellmorph/core/io/read';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { blobsOf, isAssetFile, openAsset, picturesOf } from '@wellmorph/core/pipeline/asset-file';
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
    if (isAssetFile(request.fileName)) {
      const { document, bytes, notes } = openAsset(request.fileName, request.bytes);
      const files = [...blobsOf(document), ...picturesOf(document)].map((name) => bytes(name));
      parentPort?.postMessage({
        ok: true,
        asset: { document, notes, meshes: files.slice(0, blobsOf(document).length), pictures: files.slice(blobsOf(document).length) },
      });
      return;
    }
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
