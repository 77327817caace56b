import { readFile } from 'node:fs/promises';
import { parentPort } from 'node:worker_threads';
import { WellmorphError } from '@wellmorph/core/errors';
import type { Up } from '@wellmorph/core/io/formats';
import { readModel } from '@wellmorph/core/io/read';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { isAssetFile, openAsset } from '@wellmorph/core/pipeline/asset-file';
import { blobsOf, keptOf, picturesOf } from '@wellmorph/core/pipeline/stored';
import type { LengthUnit } from '@wellmorph/core/units/lengths';

export interface ParseRequest {
  fileName: string;
  /** Where it lies. */
  path: string;
  unit: LengthUnit;
  /** Name → where it lies. */
  companions: Record<string, string>;
  up?: Up;
  /** How far triangles may lie from surfaces the file has exactly, mm. */
  toleranceMm?: number;
}

/** Reads one uploaded model off the request thread and hands back meshes as blobs. */
parentPort?.once('message', async (request: ParseRequest) => {
  try {
    const whole = new Uint8Array(await readFile(request.path));
    if (isAssetFile(request.fileName)) {
      const { document, bytes, notes } = openAsset(request.fileName, whole);
      const [meshes, pictures, kept] = [blobsOf(document), picturesOf(document), keptOf(document)].map((names) => names.map(bytes));
      parentPort?.postMessage({ ok: true, asset: { document, notes, meshes, pictures, kept } });
      return;
    }
    const model = await readModel(request.fileName, whole, {
      unit: request.unit,
      toleranceMm: request.toleranceMm,
      up: request.up,
      companions: Object.fromEntries(
        await Promise.all(
          Object.entries(request.companions).map(async ([name, path]) => [name, new Uint8Array(await readFile(path))] as const),
        ),
      ),
    });
    // Encoded once each: copies share their mesh, and what is written is handed over, not copied.
    const meshes = new Map([...new Set(model.parts.map((p) => p.mesh))].map((m) => [m, encodeMesh(m)]));
    parentPort?.postMessage(
      { ok: true, model: { ...model, parts: model.parts.map((p) => ({ ...p, mesh: meshes.get(p.mesh) })) } },
      [...meshes.values()].map((m) => m.buffer),
    );
  } catch (error) {
    const known = error instanceof WellmorphError;
    parentPort?.postMessage({
      ok: false,
      code: known ? error.code : 'import/unforeseen',
      message: known ? error.message : 'The file could not be read.',
    });
  }
});
