import { parentPort } from 'node:worker_threads';
import { WellmorphError } from '@wellmorph/core/errors';
import type { Mat4 } from '@wellmorph/core/maths/mat4';
import { decodeMesh, encodeMesh } from '@wellmorph/core/mesh/codec';
import { triangleCount } from '@wellmorph/core/mesh/polymesh';
import { kits } from '@wellmorph/core/node/kit';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';

export interface PieceAsk {
  document: AssetDocument;
  /** Stored meshes it refers to, by name. */
  meshes: Record<string, Uint8Array>;
}
interface Encoded {
  bytes: Uint8Array;
  triangles: number;
}
/** A delivered part as it stands in its piece, and its dense mesh in its own space. */
export interface PiecePart {
  id: string;
  placements: Mat4[];
  low: Encoded;
  high?: Encoded;
}
export type PieceAnswer = { parts: PiecePart[]; problems: string[] } | { failed: string };

/** Forms a piece, low and high, to be brought into another. */
parentPort?.once('message', async ({ document, meshes }: PieceAsk) => {
  let answer: PieceAnswer;
  try {
    const kit = await kits.for(document);
    const load = (blob: string) => decodeMesh(meshes[blob]);
    const [low, high] = (['low', 'high'] as const).map((which) => formAsset(document, which, load, undefined, kit));
    const encoded = (mesh: (typeof low.parts)[number]['mesh']): Encoded => ({ bytes: encodeMesh(mesh), triangles: triangleCount(mesh) });
    answer = {
      parts: low.parts.map((p) => {
        const dense = high.parts.find((h) => h.id === p.id);
        return { id: p.id, placements: p.placements, low: encoded(p.mesh), ...(dense && { high: encoded(dense.mesh) }) };
      }),
      problems: low.problems.map((p) => p.message),
    };
  } catch (error) {
    answer = { failed: error instanceof WellmorphError ? error.message : 'It could not be formed.' };
  }
  parentPort?.postMessage(answer);
});
