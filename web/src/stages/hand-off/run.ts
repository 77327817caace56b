import { fileName } from '@wellmorph/core/pipeline/export';
import type { HandoffMaps } from '@wellmorph/core/pipeline/handoff';
import type { AssetState } from '@wellmorph/core/pipeline/preflight';
import type { Stage } from '@wellmorph/core/pipeline/results';
import { allFindings } from '@/sheet/all-findings';
import { blob } from '@/sheet/api';
import { currentForm } from '@/sheet/forming';
import { job } from '@/sheet/jobs';
import { isFresh, now } from '@/sheet/state';
import { pool, WorkError } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';
import { partsToSee } from '../light/run';

/** Everything that is known of the open asset, for the preflight and the spec sheet. */
export function assetState(): AssetState | null {
  const { document, form, look, layout, bake, surface, render } = now();
  if (!document) return null;
  const view: Record<Stage, { hash: string } | null> = { form, unwrap: layout, bake, surface, render };
  const fresh = Object.fromEntries(Object.entries(view).map(([stage, v]) => [stage, isFresh(document, v, stage as Stage)])) as Record<
    Stage,
    boolean
  >;
  return {
    document,
    findings: allFindings(document, form?.findings ?? [], look),
    ledger: form?.ledger ?? null,
    fresh,
    bake: fresh.bake ? (bake?.figures ?? null) : null,
    surface: fresh.surface ? (surface?.figures ?? null) : null,
    render: fresh.render ? (render?.figures ?? null) : null,
  };
}

/** The maps of the asset as it is now; nothing stale goes out. */
async function freshMaps(state: AssetState): Promise<HandoffMaps> {
  const { bake, surface, render } = now();
  const take = async (hash: string | null | undefined) => (hash ? await blob(hash) : undefined);
  return {
    ...(state.fresh.bake &&
      bake && { normal: await take(bake.normal), glbNormal: await take(bake.glbNormal), occlusion: await take(bake.occlusion) }),
    ...(state.fresh.surface &&
      surface && { baseColour: await take(surface.baseColour), orm: await take(surface.orm), emissive: await take(surface.emissive) }),
    ...(state.fresh.render && render && { picture: await take(render.png) }),
  };
}

/** The archive of what the asset comes to, made whole or not at all. */
export async function makeArchive(): Promise<{ name: string; zip: Bytes; files: { name: string; bytes: number; what: string }[] } | null> {
  return job('handoff', async (report, cancel) => {
    await currentForm();
    const state = assetState();
    const parts = await partsToSee();
    if (!state || !parts) throw new WorkError('handoff/empty', 'There is nothing to hand over yet; form the piece first.');
    const ask = { state, parts, maps: await freshMaps(state), madeOn: new Date().toISOString().slice(0, 10) };
    const made = await pool.run('handoff', ask, report, cancel);
    return { name: `${fileName(state.document.name)}.zip`, ...made };
  });
}

/** The files of the hand-over from the bake's own page: GLB with maps, the maps, the layout. */
export async function exportFiles(): Promise<{ name: string; bytes: Bytes }[] | null> {
  const { document } = now();
  if (!document) return null;
  return job('export', async (report, cancel) => {
    const { layout, bake } = now();
    const freshLayout = isFresh(document, layout, 'unwrap') ? layout : null;
    const freshBake = isFresh(document, bake, 'bake') ? bake : null;
    const form = await currentForm();
    if (!form || form.gpu.length === 0) throw new WorkError('export/empty', 'There is nothing to export yet.');
    report(0.2, 'writing the GLB');
    const normal = freshBake?.glbNormal ? await blob(freshBake.glbNormal) : null;
    const occlusion = freshBake?.occlusion ? await blob(freshBake.occlusion) : null;
    const { glb } = await pool.run('export', { document, laid: freshLayout?.parts ?? form.parts, normal, occlusion }, undefined, cancel);
    const base = fileName(document.name);
    const files: { name: string; bytes: Bytes }[] = [{ name: `${base}.glb`, bytes: glb }];
    if (freshBake?.normal) files.push({ name: `${base}_normal.png`, bytes: await blob(freshBake.normal) });
    if (occlusion) files.push({ name: `${base}_occlusion.png`, bytes: occlusion });
    if (freshLayout)
      files.push(
        { name: `${base}_layout.png`, bytes: await blob(freshLayout.png) },
        { name: `${base}_layout.svg`, bytes: await blob(freshLayout.svg) },
      );
    return files;
  });
}
