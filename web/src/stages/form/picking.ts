import type { PatchLine, PickedLine } from '@wellmorph/core/form/places';
import type { Region } from '@wellmorph/core/form/regions';
import type { Reach } from '@wellmorph/core/form/select';
import type { Step } from '@wellmorph/core/form/steps/index';
import { create } from 'zustand';
import { dispatch } from '@/sheet/document';
import { currentForm } from '@/sheet/forming';
import { newId } from '@/sheet/ids';
import { notify, now, sentence } from '@/sheet/state';
import { pool } from '@/workers/pool';

/** What a click on the piece picks, while something is being picked. */
interface Picking {
  /** The part that is picked on. */
  part: string | null;
  /** A region's id, `seam`, or the field of a step. */
  what: string | null;
  /** The step whose field it is. */
  step: string | null;
  wants: 'edges' | 'spot' | null;
  reach: Reach;
  /** Takes away instead of adding. */
  remove: boolean;
  /** For spreading: edges sharper than this stop it. */
  degrees: number;
  /** A seam goes along the whole line, not one edge. */
  whole: boolean;
}
const NOTHING: Picking = { part: null, what: null, step: null, wants: null, reach: 'face', remove: false, degrees: 30, whole: true };
export const usePicking = create<Picking>(() => NOTHING);
/** What is picked for belongs to a step only where one is named. */
export const setPicking = (next: Partial<Picking>): void => usePicking.setState(next.what ? { step: null, wants: null, ...next } : next);
export const stopPicking = (): void => setPicking({ part: null, what: null, step: null, wants: null, remove: false });

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

/** A click on a face of the piece while a region or seams are picked. */
export async function pickAt(part: string, face: number, point: [number, number, number]): Promise<void> {
  const { what, reach, remove, degrees, whole, part: on } = usePicking.getState();
  const { document } = now();
  if (!document || !what || part !== on) return;
  try {
    const form = await currentForm();
    if (!form) return;
    const target = document.parts.find((p) => p.id === part);
    const owner = usePicking.getState();
    const of = target?.shape.steps?.find((x) => x.id === owner.step);
    if (of && owner.wants === 'spot') {
      const at = await pool.run('spot', { parts: form.parts, part, face, point });
      if (!at) notify('That surface has no coordinates of its own; pick a place on a part made by steps.', 'error');
      else if (dispatch({ type: 'step.set', part, step: { ...of, [what]: at } as Step })) stopPicking();
      return;
    }
    if (what === 'seam' || of) {
      const line = await pool.run('seam', { parts: form.parts, part, face, point, whole });
      if (!line) {
        notify('No line of the surface runs there; click nearer to an edge along or round it.', 'error');
        return;
      }
      if (of) {
        const known = ((of as unknown as Record<string, unknown>)[what] ?? []) as PickedLine[];
        dispatch({ type: 'step.set', part, step: { ...of, [what]: toggled(known, line) } as unknown as Step });
      } else dispatch({ type: 'seams.set', part, seams: toggled(target?.seams ?? [], line) });
      return;
    }
    const region = target?.regions?.find((r) => r.id === what);
    if (!region) return;
    const last = region.rules[region.rules.length - 1];
    const faces =
      last?.rule.kind === 'picked' ? (form.marks.find((m) => m.part === part)?.regions.find((r) => r.id === what)?.faces ?? []) : [];
    const { places } = await pool.run('pick', { parts: form.parts, part, face, reach, degrees, faces, remove });
    dispatch({ type: 'region.set', part, region: pickedInto(region, places) });
  } catch (error) {
    notify(sentence(error), 'error');
  }
}
