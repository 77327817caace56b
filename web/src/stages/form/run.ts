import { FIX_NAMES, type Finding, type FixId } from '@wellmorph/core/inspect/finding';
import { blob, putBlob } from '@/sheet/api';
import { dispatch } from '@/sheet/document';
import { meshesFor } from '@/sheet/forming';
import { addTrial, job } from '@/sheet/jobs';
import { notify, now, sentence, set } from '@/sheet/state';
import { pool } from '@/workers/pool';

/** Asks the solver; its counts are offered, not taken, until {@link acceptBudget}. */
export async function solve(): Promise<void> {
  const { document } = now();
  if (!document) return;
  const start = performance.now();
  const budget = await job('solve', async (_report, cancel) => {
    return pool.run('solve', { document, meshes: await meshesFor(document, 'low') }, undefined, cancel);
  });
  if (!budget) return;
  set({ budget });
  await addTrial({
    stage: 'form',
    title: `Solved to ${document.brief.limits.triangles}`,
    settings: { limit: document.brief.limits.triangles, locked: Object.keys(document.form.locks).length },
    figures: { triangles: budget.triangles, worstMm: budget.worstMm, worst: budget.worstLabel },
    milliseconds: Math.round(performance.now() - start),
  });
}

export function acceptBudget(): void {
  const { budget } = now();
  if (budget && dispatch({ type: 'form.counts', counts: budget.counts, triangles: budget.triangles })) set({ budget: null });
}
export const dropBudget = (): void => set({ budget: null });

/** The high meshes for the plate; formed when first looked at. */
export async function showHigh(): Promise<void> {
  const { document, high, id } = now();
  if (!document) return;
  const hash = JSON.stringify([
    document.parts.map((p) => [p.id, p.shape, p.high?.blob, p.move, p.turnDegrees, p.regions]),
    document.dimensions,
    document.form.highToleranceMm,
  ]);
  if (high?.hash === hash) return;
  try {
    const made = await pool.run('high', { document, meshes: await meshesFor(document, 'high') });
    if (now().id === id) set({ high: { hash, ...made } });
  } catch (error) {
    notify(sentence(error), 'error');
  }
}

export async function applyFixTo(finding: Finding, fix: FixId): Promise<void> {
  const part = now().document?.parts.find((p) => p.id === finding.part);
  if (part?.shape.kind !== 'mesh') return;
  const { low } = part.shape;
  await job('fix', async (_report, cancel) => {
    const { mesh, triangles } = await pool.run('fix', { mesh: await blob(low.blob), fix }, undefined, cancel);
    const hash = await putBlob(mesh, 'mesh');
    dispatch({ type: 'mesh.replace', part: part.id, low: { blob: hash, triangles }, what: FIX_NAMES[fix].toLowerCase() });
  });
}
