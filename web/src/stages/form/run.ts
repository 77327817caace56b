import type { Finding, FixId } from '@wellmorph/core/inspect/finding';
import { fileName } from '@wellmorph/core/pipeline/export';
import { millimetres } from '@wellmorph/core/units/lengths';
import { Latest } from '@/session/latest';
import { type AssetSession, sentence } from '@/session/session';
import { download } from '@/sheet/download';
import { newId } from '@/sheet/ids';

/** Asks the solver to spend so many triangles; its counts are offered, not taken, until {@link acceptBudget}. */
export async function solve(session: AssetSession, limit = session.document?.brief.limits.triangles ?? 0): Promise<void> {
  await session.job('solve', async ({ document, cancel }) => {
    const start = performance.now();
    const budget = await session.bench.pool.run(
      'solve',
      { document, meshes: await session.meshes(document, 'low'), limit },
      undefined,
      cancel,
    );
    session.set({ budget });
    await session.addTrial({
      stage: 'form',
      title: `Solved to ${limit}`,
      settings: { limit, locked: Object.keys(document.form.locks).length },
      figures: { triangles: budget.triangles, worstMm: budget.worstMm, worst: budget.worstLabel },
      milliseconds: Math.round(performance.now() - start),
      // Taken up again, it is the piece with these counts.
      snapshot: { ...document, form: { ...document.form, counts: budget.counts } },
    });
  });
}

export function acceptBudget(session: AssetSession): void {
  const { budget } = session.state;
  if (budget && session.dispatch({ type: 'form.counts', counts: budget.counts, triangles: budget.triangles })) dropBudget(session);
}
export const dropBudget = (session: AssetSession): void => session.set({ budget: null });

const highs = new Latest();

/** The high meshes for the plate; formed when first looked at, of a piece that is changed meanwhile as it is then. */
export async function showHigh(session: AssetSession): Promise<void> {
  const { document, high } = session.state;
  if (!document) return;
  const hash = JSON.stringify([
    document.parts.map((p) => [p.id, p.shape, p.high?.blob, p.move, p.turnDegrees, p.regions]),
    document.dimensions,
    document.form.highToleranceMm,
  ]);
  if (high?.hash === hash) return;
  const mine = highs.begin(session, hash);
  if (!mine) return;
  try {
    const made = await session.bench.pool.run('high', { document, meshes: await session.meshes(document, 'high') }, undefined, mine.cancel);
    if (mine.isLatest()) session.set({ high: { hash, ...made } });
  } catch (error) {
    if (mine.isLatest()) session.notify(sentence(error), 'error');
  } finally {
    mine.end();
  }
}

/** Mends what a finding is about; it can all be taken back. */
export async function applyFixTo(session: AssetSession, finding: Finding, fix: FixId): Promise<void> {
  await session.job('fix', async ({ document, report, cancel }) => {
    const { bench } = session;
    const meshes = await session.meshes(document, 'low');
    const mended = await bench.pool.run('fix', { document, meshes, finding, fix, newId: newId() }, report, cancel);
    if ('commands' in mended) {
      for (const c of mended.commands) session.dispatch(c);
      return;
    }
    const { part, mesh, triangles, placements, what } = mended;
    const shape = (d: typeof document | null) => d?.parts.find((p) => p.id === part)?.shape;
    const [before, now] = [shape(document), shape(session.document)];
    if (before?.kind !== 'mesh' || now?.kind !== 'mesh' || now.low.blob !== before.low.blob) {
      session.notify('The mesh was changed while it was being mended; look at the finding again.', 'error');
      return;
    }
    const low = { blob: await bench.blobs.put(mesh, 'mesh'), triangles };
    session.dispatch({ type: 'mesh.replace', part, low, ...(placements && { placements }), what });
  });
}

/** Saves the report of everything found: to be read by people, and by other programs. */
export async function saveReport(session: AssetSession, as: 'json' | 'text'): Promise<void> {
  await session.job('report', async ({ document, report, cancel }) => {
    const base = fileName(document.name);
    const ask = { document, meshes: await session.meshes(document, 'low'), file: `${base}.asset.zip` };
    const made = await session.bench.pool.run('report', ask, report, cancel);
    download(`${base}_report.${as === 'json' ? 'json' : 'txt'}`, bytesOf(made[as]));
  });
}

/** Saves the asset as one file, for the command line or another workshop. */
export async function saveAsset(session: AssetSession): Promise<void> {
  await session.job('export', async ({ document, cancel }) => {
    const pictures = await Promise.all(document.references.map(async (r) => [r.blob, await session.bench.blobs.get(r.blob)] as const));
    const meshes = { ...(await session.meshes(document, 'all')), ...Object.fromEntries(pictures) };
    const packed = await session.bench.pool.run('pack', { document, meshes }, undefined, cancel);
    download(`${fileName(document.name)}.asset.zip`, packed);
  });
}

/** Simplifies the imports until the piece keeps a limit: offered as steps that can be changed. */
export async function simplifyTo(session: AssetSession, triangles: number): Promise<void> {
  await session.job('simplify', async ({ document, report, cancel }) => {
    const meshes = await session.meshes(document, 'low');
    const off = await session.bench.pool.run('simplify', { document, meshes, triangles }, report, cancel);
    for (const o of off) {
      const part = session.document?.parts.find((p) => p.id === o.id);
      if (part?.shape.kind !== 'mesh' || o.to >= o.from) continue;
      const known = part.shape.steps?.find((s) => s.kind === 'simplify');
      if (known?.kind === 'simplify') session.dispatch({ type: 'step.set', part: part.id, step: { ...known, triangles: o.to } });
      else
        session.dispatch({
          type: 'step.add',
          part: part.id,
          step: { kind: 'simplify', id: newId(), name: 'Simplify', enabled: true, triangles: o.to },
        });
    }
    if (off.length === 0) return;
    const worst = off.reduce((w, o) => (o.most > w.most ? o : w), off[0]);
    const name = document.parts.find((p) => p.id === worst.id)?.name ?? 'the piece';
    session.notify(`Simplified; ${name} is at most ${millimetres(worst.most, 3)} off.`);
  });
}

const bytesOf = (text: string) => new TextEncoder().encode(text);
