import { useEffect, useRef } from 'react';
import { today } from '@/planning/queries';
import { send } from '@/session/api';
import { TIME_BEAT, TimeKeeper } from '@/session/time-kept';
import type { Station } from '@/shared/stations';

const TOUCHES = ['pointerdown', 'pointermove', 'keydown', 'wheel'] as const;

/** Keeps the time that is worked on this stage of this piece. Where it can’t be handed in it is kept in the page until it can. */
export function useTimeKept(asset: string, stage: Station): void {
  const keeper = useRef<TimeKeeper | null>(null);
  keeper.current ??= new TimeKeeper({
    ticks: () => performance.now(),
    day: () => today(),
    hand: async (id, at, day, seconds) => {
      // A page that goes away can’t wait for an answer; the browser hands this in for it.
      if (globalThis.document.visibilityState === 'hidden')
        return navigator.sendBeacon(`/api/assets/${id}/time`, JSON.stringify({ stage: at, day, seconds }));
      return send('POST', `/api/assets/${id}/time`, { stage: at, day, seconds }).then(
        () => true,
        // An asset that is gone, or a day that can’t be: it would be refused for ever.
        (error) => !error.isPassing,
      );
    },
  });
  useEffect(() => {
    const k = keeper.current as TimeKeeper;
    const touch = () => k.touch();
    const inFront = () => globalThis.document.visibilityState === 'visible';
    const hidden = () => (inFront() ? k.look(asset, stage) : k.leave());
    k.look(asset, stage);
    const timer = setInterval(() => inFront() && k.beat(), TIME_BEAT);
    for (const t of TOUCHES) window.addEventListener(t, touch, { passive: true, capture: true });
    globalThis.document.addEventListener('visibilitychange', hidden);
    return () => {
      clearInterval(timer);
      for (const t of TOUCHES) window.removeEventListener(t, touch, { capture: true });
      globalThis.document.removeEventListener('visibilitychange', hidden);
      k.leave();
    };
  }, [asset, stage]);
}
