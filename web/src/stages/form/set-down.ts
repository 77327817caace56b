import { fitted } from '@wellmorph/core/form/fit';
import { several } from '@wellmorph/core/pipeline/commands/together';
import { movedBy } from '@wellmorph/core/pipeline/rest';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { figure, millimetres } from '@wellmorph/core/units/lengths';
import { type AssetSession, isCancelled, sentence } from '@/session/session';
import type { Fitting } from '@/session/state';

const tilted = (degrees: number): string => (degrees > 0 ? `it tips at ${figure(degrees, 0)}°` : 'it does not stand by itself');

/** Lets parts down together onto what is under them, as one change that can be taken back. */
export async function setPartsDown(session: AssetSession, ids: readonly string[], name: string): Promise<void> {
  try {
    await session.formed();
    const { form, document } = session.state;
    if (!form || !document) return;
    const found = await session.bench.pool.run('rest', { parts: form.parts, ids: [...ids] });
    // Shapes and places, theirs and those of what lies below, may have been changed while they came to rest.
    const now = session.document;
    if (!now || nameOf(now, 'form') !== nameOf(document, 'form'))
      return session.notify(`The piece was changed in the meantime; set ${name} down again.`);
    const commands = movedBy(now, ids, found.by);
    if (commands.length > 0 && session.dispatch(several(`set ${name} down`, commands)))
      session.notify(
        `${name} rests on ${found.contacts === 1 ? 'one place' : `${figure(found.contacts, 0)} places`}, ${millimetres(found.gap, 4)} off; ${tilted(found.tipsAt)}.`,
      );
  } catch (error) {
    if (!isCancelled(error)) session.notify(sentence(error), 'error');
  }
}

export const startFitting = (session: AssetSession, fitting: Omit<Fitting, 'own' | 'of'>): void =>
  session.set({ fitting: { ...fitting, own: null, of: null } });
export const stopFitting = (session: AssetSession): void => session.set({ fitting: null });

/** A click on a face while one part is fitted against another: the first is its own, the second the other's. */
export async function fitAt(
  session: AssetSession,
  part: string,
  face: number,
  point: [number, number, number],
  copy: number,
): Promise<void> {
  const { fitting } = session.state;
  if (!fitting) return;
  if (fitting.own === null && part !== fitting.part) return session.notify('Pick the face of the part that is to move first.');
  if (fitting.own !== null && part === fitting.part) return session.notify('Now pick a face of another part.');
  try {
    const { form } = session.state;
    if (!form) return;
    const picked = await session.bench.pool.run('face', { parts: form.parts, part, face, point, copy });
    // Given up, or begun anew, while it was looked at.
    if (session.state.fitting !== fitting) return;
    const { document } = session;
    if (!document) return;
    // What was clicked is of the form that was shown; both faces have to be of the piece as it is now.
    if (nameOf(document, 'form') !== form.name || (fitting.own !== null && fitting.of !== form.name)) {
      session.set({ fitting: { ...fitting, own: null, of: null } });
      return session.notify('The piece was changed in the meantime; pick both faces again.');
    }
    if (fitting.own === null) return session.set({ fitting: { ...fitting, own: picked, of: form.name } });
    const by = fitted(fitting.own, picked, fitting.how, fitting.offset);
    const name = document.parts.find((p) => p.id === fitting.part)?.name ?? 'a part';
    const commands = movedBy(document, [fitting.part], by);
    if (commands.length > 0 && session.dispatch(several(`fitted ${name}: ${fitting.how}`, commands))) stopFitting(session);
  } catch (error) {
    session.notify(sentence(error), 'error');
    if (session.state.fitting?.own) session.set({ fitting: { ...fitting, own: null, of: null } });
  }
}
