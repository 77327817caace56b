import { pixelMm } from '@wellmorph/core/brief/advice';
import { FIX_NAMES, type Finding, type FixId } from '@wellmorph/core/inspect/finding';
import { grouped } from '@wellmorph/core/inspect/grouped';
import { applyCommand, type Command } from '@wellmorph/core/pipeline/commands/index';
import { several } from '@wellmorph/core/pipeline/commands/together';
import { fileName } from '@wellmorph/core/pipeline/export';
import { keptOf, picturesOf } from '@wellmorph/core/pipeline/stored';
import { millimetres } from '@wellmorph/core/units/lengths';
import { Latest } from '@/session/latest';
import { type AssetSession, isCancelled, sentence } from '@/session/session';
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
      figures: {
        triangles: budget.triangles,
        worstMm: budget.worstMm,
        worstPx: budget.worstMm / pixelMm(document.brief),
        worst: budget.worstLabel,
      },
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

/**
 * Mends what findings are about, as one change that can be taken back. What can't be mended on one part is said, and doesn't keep the
 * others from being mended.
 */
export async function applyFixTo(session: AssetSession, findings: readonly Finding[], fix: FixId): Promise<void> {
  await session.job('fix', async ({ document, report, cancel }) => {
    const { bench } = session;
    const meshes = await session.meshes(document, 'low');
    const made: { command: Command; about: Finding }[] = [];
    const refused: string[] = [];
    let next = document;
    for (const [i, finding] of findings.entries()) {
      const told = (share: number, words: string) => report((i + share) / findings.length, words);
      try {
        const ask = { document: next, meshes, finding, fix, newId: newId() };
        const mended = await bench.pool.run('fix', ask, told, cancel);
        const commands: Command[] = [];
        if ('commands' in mended) commands.push(...mended.commands);
        else {
          const { part, mesh, triangles, placements, what } = mended;
          const low = { blob: await bench.blobs.put(mesh, 'mesh'), triangles };
          meshes[low.blob] = mesh;
          commands.push({ type: 'mesh.replace', part, low, ...(placements && { placements }), what });
        }
        for (const command of commands) {
          next = applyCommand(next, command).document;
          made.push({ command, about: finding });
        }
      } catch (error) {
        if (findings.length === 1 || isCancelled(error)) throw error;
        refused.push(sentence(error));
      }
    }
    const blob = (d: typeof document | null, part: string) => {
      const shape = d?.parts.find((p) => p.id === part)?.shape;
      return shape?.kind === 'mesh' ? shape.low.blob : null;
    };
    // A mesh that was changed while it was being mended is let be, and so is a part that is gone: the others are mended all the same.
    const current = session.document;
    let now = current;
    const stands = made.filter(({ command: c }) => {
      if (!now || (c.type === 'mesh.replace' && (blob(current, c.part) === null || blob(current, c.part) !== blob(document, c.part))))
        return false;
      try {
        now = applyCommand(now, c).document;
        return true;
      } catch {
        return false;
      }
    });
    if (stands.length < made.length) session.notify('The mesh was changed while it was being mended; look at the finding again.', 'error');
    if (refused.length > 0) session.notify(`${refused.length} of ${findings.length} could not be mended: ${refused[0]}`, 'error');
    const parts = new Set(stands.map(({ about }) => about.part)).size;
    const commands = stands.map(({ command }) => command);
    if (commands.length > 0)
      session.dispatch(several(`${FIX_NAMES[fix].toLowerCase()} on ${parts} parts`, commands), grouped(findings)[0]?.message);
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
    const others = [...picturesOf(document), ...keptOf(document)];
    const files = await Promise.all(others.map(async (name) => [name, await session.bench.blobs.get(name)] as const));
    const meshes = { ...(await session.meshes(document, 'all')), ...Object.fromEntries(files) };
    const packed = await session.bench.pool.run('pack', { document, meshes }, undefined, cancel);
    download(`${fileName(document.name)}.asset.zip`, packed);
  });
}

/**
 * Simplifies the imports until the piece keeps a limit: offered as steps that can be changed.
 *
 * @param advice what was advised, where this comes of it
 */
export async function simplifyTo(session: AssetSession, triangles: number, advice?: string): Promise<void> {
  await session.job('simplify', async ({ document, report, cancel }) => {
    const meshes = await session.meshes(document, 'low');
    const off = await session.bench.pool.run('simplify', { document, meshes, triangles }, report, cancel);
    const commands = off.flatMap((o): Command[] => {
      const part = session.document?.parts.find((p) => p.id === o.id);
      if (part?.shape.kind !== 'mesh' || o.to >= o.from) return [];
      const known = part.shape.steps?.find((s) => s.kind === 'simplify');
      return known?.kind === 'simplify'
        ? [{ type: 'step.set', part: part.id, step: { ...known, triangles: o.to } }]
        : [
            {
              type: 'step.add',
              part: part.id,
              step: { kind: 'simplify', id: newId(), name: 'Simplify', enabled: true, triangles: o.to },
            },
          ];
    });
    if (commands.length > 0) session.dispatch(several(`simplified ${commands.length} parts to ${triangles} triangles`, commands), advice);
    if (off.length === 0) return;
    const worst = off.reduce((w, o) => (o.most > w.most ? o : w), off[0]);
    const name = document.parts.find((p) => p.id === worst.id)?.name ?? 'the piece';
    session.notify(`Simplified; ${name} is at most ${millimetres(worst.most, 3)} off.`);
  });
}

const bytesOf = (text: string) => new TextEncoder().encode(text);
