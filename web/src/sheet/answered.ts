import { useEffect, useRef, useState } from 'react';

/**
 * Asks for one thing after the other, the last one last: what is asked while an answer is awaited replaces what waits. The newest answer
 * stays until the next is there; with nothing to ask there is none.
 *
 * @param ask the same object as long as the same is asked
 * @param run one that fails gives no answer
 */
export function useAnswered<A extends object, R>(ask: A | null, run: (ask: A) => Promise<R>): { ask: A; answer: R } | null {
  const [made, setMade] = useState<{ ask: A; answer: R } | null>(null);
  const wanted = useRef<A | null>(null);
  const going = useRef(false);
  const how = useRef(run);
  how.current = run;
  useEffect(() => {
    wanted.current = ask;
    if (!ask) setMade(null);
    if (going.current) return;
    going.current = true;
    void (async () => {
      try {
        for (let now = wanted.current; now; now = wanted.current === now ? null : wanted.current) {
          const answer = await how.current(now);
          const of = now;
          if (wanted.current) setMade({ ask: of, answer });
        }
      } catch {
        // A pool that is let go of: the page is going.
      } finally {
        going.current = false;
      }
    })();
  }, [ask]);
  useEffect(
    () => () => {
      wanted.current = null;
    },
    [],
  );
  return made;
}
