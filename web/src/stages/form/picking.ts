import type { PickedSeam, Region } from '@wellmorph/core/form/regions';
import type { Reach } from '@wellmorph/core/form/select';
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
  /** A region's id, or `seam`. */
  what: string | null;
  reach: Reach;
  /** Takes away instead of adding. */
  remove: boolean;
  /** For spreading: edges sharper than this stop it. */
  degrees: number;
  /** A seam goes along the whole line, not one edge. */
  whole: boolean;
}
const NOTHING: Picking = { part: null, what: null, reach: 'face', remove: false, degrees: 30, whole: true };
export const usePicking = create<Picking>(() => NOTHING);
export const setPicking = usePicking.setState;
export const stopPicking = (): void => setPicking({ part: null, what: null, remove: false });

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
    if (what === 'seam') {
      const line = await pool.run('seam', { parts: form.parts, part, face, point, whole });
      if (!line) {
        notify('No line of the surface runs there; click nearer to an edge along or round it.', 'error');
        return;
      }
      const seams = target?.seams ?? [];
      const same = (s: PickedSeam) => s.patch === line.patch && s.constant === line.constant && Math.abs(s.at - line.at) < 1e-6;
      // A second click on a seam takes it back.
      const next = seams.some(same) ? seams.filter((s) => !same(s)) : [...seams, { id: newId(), ...line }];
      dispatch({ type: 'seams.set', part, seams: next });
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
