import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useRef } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { runUnwrap } from './run';

/** Lays the piece out again as soon as it or the settings have changed; what failed or was stopped is not tried twice. */
export function useLaidAgain(on: boolean): void {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const formed = useSheet((s) => isFresh(s.document, s.form, 'form') && (s.form?.gpu.length ?? 0) > 0);
  const busy = useSheet((s) => s.job !== null);
  const tried = useRef('');
  useEffect(() => {
    if (!on || !document || !layout || !formed || busy) return;
    const name = nameOf(document, 'unwrap');
    if (layout.name === name || tried.current === name) return;
    tried.current = name;
    void runUnwrap(session);
  }, [on, document, layout, formed, busy, session]);
}
