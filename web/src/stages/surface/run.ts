import { canBake } from '@wellmorph/core/pipeline/preflight';
import { resultHash, usedMaterials } from '@wellmorph/core/pipeline/results';
import type { BakedMaps } from '@wellmorph/core/pipeline/surface';
import { blob, putBlob, send } from '@/sheet/api';
import { addTrial, job } from '@/sheet/jobs';
import { isFresh, type LayoutView, now, set } from '@/sheet/state';
import { pool } from '@/workers/pool';
import { runBake } from '../bake/run';
import { runUnwrap } from '../unwrap/run';

/** The bake's maps that masks are made of, when they are of the asset as it is. */
export async function bakedMaps(): Promise<BakedMaps> {
  const { document, bake } = now();
  if (!bake || !isFresh(document, bake, 'bake')) return {};
  return {
    ...(bake.occlusion && { occlusion: await blob(bake.occlusion) }),
    ...(bake.curvature && { curvature: await blob(bake.curvature) }),
  };
}

/** Composes the texture set at its size; what it stands on is made first where it is missing or stale. */
export async function runSurface(): Promise<boolean> {
  const { id, document } = now();
  if (!document || !id) return false;
  if (!isFresh(document, now().layout, 'unwrap') && !(await runUnwrap())) return false;
  if (canBake(document) && !isFresh(document, now().bake, 'bake')) {
    await runBake();
    if (!isFresh(now().document, now().bake, 'bake')) return false;
  }
  const done = await job('surface', async (report, cancel) => {
    const started = performance.now();
    const { parts } = now().layout as LayoutView;
    const { figures, files } = await pool.run('compose', { document, laid: parts, maps: await bakedMaps() }, report, cancel);
    report(0.95, 'keeping the textures');
    const keep = async (b?: Uint8Array) => (b ? putBlob(b as Uint8Array<ArrayBuffer>, 'png') : null);
    const [baseColour, orm, emissive, validity] = [
      (await keep(files.baseColour)) as string,
      (await keep(files.orm)) as string,
      await keep(files.emissive),
      (await keep(files.validity)) as string,
    ];
    const hash = resultHash(document, 'surface');
    await send('PUT', `/api/assets/${id}/results/surface`, {
      hash,
      figures,
      blobs: { baseColour, orm, validity, ...(emissive && { emissive }) },
    });
    if (now().id === id) set({ surface: { hash, figures, baseColour, orm, emissive, validity } });
    const used = usedMaterials(document);
    await addTrial(
      {
        stage: 'surface',
        title:
          used
            .map((m) => m.name)
            .join(', ')
            .slice(0, 100) || 'No materials',
        settings: Object.fromEntries([
          ['size', figures.size],
          ['seed', document.surface.seed],
          ...used.flatMap((m) => [
            [`${m.name}: roughness`, m.roughness],
            [`${m.name}: wear`, m.wear?.share ?? 0],
            [`${m.name}: dirt`, m.dirt?.share ?? 0],
            [`${m.name}: colour`, m.colour.map((c) => Math.round(c * 255)).join(' ')],
          ]),
        ]),
        figures: {
          soundPercent: 100 * figures.validity.sound,
          wornPercent: 100 * mean(figures.composed.materials.map((m) => [m.wearShare, m.texels])),
          dirtyPercent: 100 * mean(figures.composed.materials.map((m) => [m.dirtShare, m.texels])),
        },
        milliseconds: Math.round(performance.now() - started),
      },
      baseColour,
    );
    return true;
  });
  return done === true;
}

const mean = (list: [value: number, weight: number][]): number => {
  const weight = list.reduce((s, [, w]) => s + w, 0);
  return weight > 0 ? list.reduce((s, [v, w]) => s + v * w, 0) / weight : 0;
};
