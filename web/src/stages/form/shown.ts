import type { AssetSession } from '@/session/session';
import { ALL_SHOWN, type Shown } from '@/session/state';

/** Whether a part is drawn. */
export const isShown = ({ out, only }: Shown, part: string): boolean => (only ? only.includes(part) : !out.includes(part));

/** What a key or a menu is about. */
const chosen = (session: AssetSession): string[] => (session.state.selected.part === null ? [] : [session.state.selected.part]);

const set = (session: AssetSession, change: (shown: Shown) => Shown): void => session.set((s) => ({ shown: change(s.shown) }));

/** Leaves parts out of the view, or brings them back. */
export function leaveOut(session: AssetSession, parts: readonly string[] = chosen(session)): void {
  if (parts.length === 0) {
    session.notify('Choose a part first; it is then left out of the view.');
    return;
  }
  set(session, ({ out, behind }) =>
    parts.every((p) => out.includes(p))
      ? { out: out.filter((p) => !parts.includes(p)), only: null, behind }
      : { out: [...new Set([...out, ...parts])], only: null, behind },
  );
}

/** Shows some parts alone, or all again. */
export function onlyThese(session: AssetSession, parts: readonly string[] = chosen(session)): void {
  if (parts.length === 0) {
    session.notify('Choose a part first; it is then shown alone.');
    return;
  }
  set(session, ({ out, only, behind }) => ({ out, behind, only: only && parts.every((p) => only.includes(p)) ? null : [...parts] }));
}

export const showAll = (session: AssetSession): void => set(session, ({ behind }) => ({ ...ALL_SHOWN, behind }));
export const showBehind = (session: AssetSession): void => set(session, (s) => ({ ...s, behind: !s.behind }));

/** What keys do to the view: letter → act. */
export const SHOW_KEYS: Record<string, (session: AssetSession) => void> = {
  l: leaveOut,
  o: onlyThese,
  a: showAll,
  b: showBehind,
};
