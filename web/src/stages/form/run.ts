import type { Finding, FixId } from '@wellmorph/core/inspect/finding';
import { fileName } from '@wellmorph/core/pipeline/export';
import { figure } from '@wellmorph/core/units/lengths';
import { putBlob } from '@/sheet/api';
import { dispatch } from '@/sheet/document';
import { download } from '@/sheet/download';
import { meshesFor } from '@/sheet/forming';
import { newId } from '@/sheet/ids';
import { addTrial, job } from '@/sheet/jobs';
import { notify, now, sentence, set } from '@/sheet/state';
import { pool } from '@/workers/pool';

/** Asks the solver to spend so many triangles; its counts are offered, not taken, until {@link acceptBudget}. */
export async function solve(limit = now().document?.brief.limits.triangles ?? 0): Promise<void> {
  const { document } = now();
  if (!document) return;
  const start = performance.now();
  const budget = await job('solve', async (_report, cancel) => {
    return pool.run('solve', { document, meshes: await meshesFor(document, 'low'), limit }, undefined, cancel);
  });
  if (!budget) return;
  set({ budget });
  await addTrial({
    stage: 'form',
    title: `Solved to ${limit}`,
    settings: { limit, locked: Object.keys(document.form.locks).length },
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

/** Mends what a finding is about; it can all be taken back. */
export async function applyFixTo(finding: Finding, fix: FixId): Promise<void> {
  const { document } = now();
  if (!document) return;
  await job('fix', async (report, cancel) => {
    const meshes = await meshesFor(document, 'low');
    const mended = await pool.run('fix', { document, meshes, finding, fix, newId: newId() }, report, cancel);
    if ('commands' in mended) {
      for (const c of mended.commands) dispatch(c);
      return;
    }
    const { part, mesh, triangles, placements, what } = mended;
    dispatch({
      type: 'mesh.replace',
      part,
      low: { blob: await putBlob(mesh, 'mesh'), triangles },
      ...(placements && { placements }),
      what,
    });
  });
}

/** Saves the report of everything found: to be read by people, and by other programs. */
export async function saveReport(as: 'json' | 'text'): Promise<void> {
  const { document } = now();
  if (!document) return;
  const base = fileName(document.name);
  const made = await job('report', async (report, cancel) =>
    pool.run('report', { document, meshes: await meshesFor(document, 'low'), file: `${base}.asset.zip` }, report, cancel),
  );
  if (made) download(`${base}_report.${as === 'json' ? 'json' : 'txt'}`, bytesOf(made[as]));
}

/** Saves the asset as one file, for the command line or another workshop. */
export async function saveAsset(): Promise<void> {
  const { document } = now();
  if (!document) return;
  const packed = await job('export', async (_report, cancel) =>
    pool.run('pack', { document, meshes: await meshesFor(document, 'all') }, undefined, cancel),
  );
  if (packed) download(`${fileName(document.name)}.asset.zip`, packed);
}

/** Simplifies the imports until the piece keeps a limit: offered as steps that can be changed. */
export async function simplifyTo(triangles: number): Promise<void> {
  const { document } = now();
  if (!document) return;
  const off = await job('simplify', async (report, cancel) =>
    pool.run('simplify', { document, meshes: await meshesFor(document, 'low'), triangles }, report, cancel),
  );
  if (!off) return;
  for (const o of off) {
    const part = document.parts.find((p) => p.id === o.id);
    if (part?.shape.kind !== 'mesh' || o.to >= o.from) continue;
    const known = part.shape.steps?.find((s) => s.kind === 'simplify');
    if (known?.kind === 'simplify') dispatch({ type: 'step.set', part: part.id, step: { ...known, triangles: o.to } });
    else
      dispatch({
        type: 'step.add',
        part: part.id,
        step: { kind: 'simplify', id: newId(), name: 'Simplify', enabled: true, triangles: o.to },
      });
  }
  const worst = off.reduce((w, o) => (o.most > w.most ? o : w), off[0]);
  notify(`Simplified; ${document.parts.find((p) => p.id === worst.id)?.name ?? 'the piece'} is at most ${figure(worst.most, 3)} mm off.`);
}

const bytesOf = (text: string) => new TextEncoder().encode(text);
