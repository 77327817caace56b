import { resultHash } from '@wellmorph/core/pipeline/results';
import { putBlob, send, upload } from '@/sheet/api';
import { pump, reload } from '@/sheet/document';
import { meshesFor } from '@/sheet/forming';
import { addTrial, job } from '@/sheet/jobs';
import { isFresh, type LayoutView, notify, now, sentence, set } from '@/sheet/state';
import { pool } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';
import { runUnwrap } from '../unwrap/run';

/** Bakes in as many workers as there are: one prepares, all cast, one finishes. */
export async function runBake(): Promise<void> {
  const { id, document } = now();
  if (!document || !id) return;
  if (!isFresh(document, now().layout, 'unwrap') && !(await runUnwrap())) return;
  await job('bake', async (report, cancel) => {
    const layout = now().layout as LayoutView;
    const started = performance.now();
    const { bake, texels } = await pool.run(
      'prepare',
      { document, laid: layout.parts, meshes: await meshesFor(document, 'both') },
      (s, w) => report(0.15 * s, w),
      cancel,
    );
    const next = new Int32Array(new SharedArrayBuffer(4));
    const casting = Array.from({ length: pool.threads }, () =>
      pool.run('bands', { prepared: bake.prepared, texels, next }, (s, w) => report(0.15 + 0.75 * s, w), cancel),
    );
    const counts = await Promise.all(casting);
    for (const c of counts) for (const k of ['rays', 'missed', 'back', 'samples'] as const) texels.counts[k] += c[k];
    const made = await pool.run(
      'finish',
      { document, bake, texels, laid: layout.parts, seconds: (performance.now() - started) / 1000 },
      (s, w) => report(0.9 + 0.1 * s, w),
      cancel,
    );
    const hash = resultHash(document, 'bake');
    const keep = async (png: Bytes | null) => (png ? await putBlob(png, 'png') : null);
    const [normal, occlusion, glbNormal, curvature] = [
      await keep(made.normal),
      await keep(made.occlusion),
      await keep(made.glbNormal),
      await keep(made.curvature),
    ];
    const blobs = Object.fromEntries(
      Object.entries({ normal, occlusion, glbNormal, curvature }).filter((e): e is [string, string] => e[1] !== null),
    );
    await send('PUT', `/api/assets/${id}/results/bake`, { hash, figures: made.figures, blobs });
    if (now().id === id) set({ bake: { hash, figures: made.figures, normal, occlusion, glbNormal, curvature } });
    const b = document.bake;
    await addTrial({
      stage: 'bake',
      title: b.distances === 'measured' ? `Measured, ${b.samples} × ${b.samples}` : `Uniform ${b.frontMm} / ${b.rearMm}`,
      settings: { ...b, size: document.brief.limits.textureSize },
      figures: {
        missedPercent: made.figures.missedShare * 100,
        meanDegrees: made.figures.judgement?.mean ?? 0,
        p95Degrees: made.figures.judgement?.p95 ?? 0,
        worstDegrees: made.figures.judgement?.worst ?? 0,
      },
      milliseconds: Math.round(performance.now() - started),
    });
  });
}

export async function addHighFile(files: readonly File[], unit: string, licence: string): Promise<void> {
  await pump();
  const { id } = now();
  const form = new FormData();
  for (const f of files) form.append('file', f);
  form.append('unit', unit);
  form.append('licence', licence);
  await job('import', async (report) => {
    report(0.3, 'reading the high mesh');
    const { paired, of } = await upload<{ paired: number; of: number }>(`/api/assets/${id}/high`, form);
    await reload();
    notify(`${paired} of ${of} parts found their high mesh.`);
  });
}

export async function choosePair(part: string, high: string | null): Promise<void> {
  await pump();
  const { id, version } = now();
  try {
    await send('POST', `/api/assets/${id}/pair`, { baseVersion: version, part, high });
    await reload();
  } catch (error) {
    notify(sentence(error), 'error');
  }
}
