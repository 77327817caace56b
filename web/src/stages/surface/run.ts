import type { BakedMaps } from '@wellmorph/core/pipeline/surface';
import type { AssetSession } from '@/session/session';
import { isFresh } from '@/session/state';

/** The bake’s maps that masks are made of, when they are of the asset as it is: for the preview. */
export async function bakedMaps(session: AssetSession): Promise<BakedMaps> {
  const { document, bake } = session.state;
  const { blobs } = session.bench;
  if (!bake || !isFresh(document, bake, 'bake')) return {};
  return {
    ...(bake.files.occlusion && { occlusion: await blobs.get(bake.files.occlusion) }),
    ...(bake.files.curvature && { curvature: await blobs.get(bake.files.curvature) }),
    ...(bake.files.glbNormal && { normal: await blobs.get(bake.files.glbNormal) }),
  };
}

/** Composes the texture set at its size; what it stands on is made first where it is missing or stale. */
export const runSurface = async (session: AssetSession): Promise<boolean> =>
  (await session.job('surface', (run) => session.stage(run, 'surface'))) !== null;
