import { valuesOf } from '@wellmorph/core/form/fields';
import type { PatchLine, PickedLine } from '@wellmorph/core/form/places';
import type { Region } from '@wellmorph/core/form/regions';
import { clickedSeams } from '@wellmorph/core/form/seam-paths';
import type { Step } from '@wellmorph/core/form/steps/index';
import { useSheet } from '@/session/context';
import { type AssetSession, sentence } from '@/session/session';
import type { Picking } from '@/session/state';
import { newId } from '@/sheet/ids';

/** What is being picked on this sheet. */
export const usePicking = (): Picking => useSheet((s) => s.picking);
/** What is picked for belongs to a step only where one is named. */
export const setPicking = (session: AssetSession, next: Partial<Picking>): void =>
  session.set((s) => ({ picking: { ...s.picking, ...(next.what ? { step: null, wants: null, ...next } : next) } }));
export const stopPicking = (session: AssetSession): void =>
  setPicking(session, { part: null, what: null, step: null, wants: null, remove: false });

/** A picked line put into a list, or taken out of it when it is there already. */
function toggled(list: readonly PickedLine[], line: PatchLine): PickedLine[] {
  const same = (s: PickedLine) =>
    s.patch === line.patch && s.constant === line.constant && Math.abs(s.at - line.at) < 1e-6 && s.from === line.from && s.to === line.to;
  return list.some(same) ? list.filter((s) => !same(s)) : [...list, { id: newId(), ...line }];
}

/** The rule of a region that hands pick into: its last picked one, or a new one. */
function pickedInto(region: Region, places: NonNullable<Extract<Region['rules'][number]['rule'], { kind: 'picked' }>>['places']): Region {
  const last = region.rules[region.rules.length - 1];
  const rule = { kind: 'picked' as const, places };
  const isPicked = last?.rule.kind === 'picked' && last.how === 'add';
  return {
    ...region,
    rules: isPicked ? [...region.rules.slice(0, -1), { ...last, rule }] : [...region.rules, { id: newId(), how: 'add', rule }],
  };
}

/** A click on a face of the piece while a region, seams or a field of a step are picked. */
export async function pickAt(session: AssetSession, part: string, face: number, point: [number, number, number]): Promise<void> {
  const { what, reach, remove, degrees, whole, part: on, step, wants } = session.state.picking;
  if (!what || part !== on) return;
  const { pool } = session.bench;
  try {
    await session.formed();
    const { form } = session.state;
    if (!form) return;
    // What it is put into is looked for when the answer is there: it may have been changed, or be gone.
    const target = () => session.document?.parts.find((p) => p.id === part);
    const owner = () => target()?.shape.steps?.find((x) => x.id === step);
    const { parts } = form;
    if (step && wants === 'spot') {
      const at = await pool.run('spot', { parts, part, face, point });
      const of = owner();
      if (!at) session.notify('That surface has no coordinates of its own; pick a place on a part made by steps.', 'error');
      else if (of && session.dispatch({ type: 'step.set', part, step: { ...of, [what]: at } as Step })) stopPicking(session);
      return;
    }
    if (what === 'seam' && !step) {
      const found = await pool.run('seamPath', { parts, part, at: { face, point }, reach: whole ? 'line' : 'edge', from: null });
      session.dispatch({ type: 'seams.set', part, seams: clickedSeams(target()?.seams ?? [], found, newId(), 'open') });
      return;
    }
    if (step) {
      const line = await pool.run('seam', { parts, part, face, point, whole });
      const of = owner();
      if (!line) session.notify('No line of the surface runs there; click nearer to an edge along or round it.', 'error');
      else if (of) {
        const known = (valuesOf(of)[what] ?? []) as PickedLine[];
        session.dispatch({ type: 'step.set', part, step: { ...of, [what]: toggled(known, line) } as unknown as Step });
      }
      return;
    }
    const region = () => target()?.regions?.find((r) => r.id === what);
    const last = region()?.rules.at(-1);
    const faces =
      last?.rule.kind === 'picked' ? (form.marks.find((m) => m.part === part)?.regions.find((r) => r.id === what)?.faces ?? []) : [];
    const { places } = await pool.run('pick', { parts, part, face, reach, degrees, faces, remove });
    const now = region();
    if (now) session.dispatch({ type: 'region.set', part, region: pickedInto(now, places) });
  } catch (error) {
    session.notify(sentence(error), 'error');
  }
}
