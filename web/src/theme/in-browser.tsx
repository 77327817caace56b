'use client';

import { type ComponentType, useEffect, useState } from 'react';

/**
 * Something that is drawn in the browser alone, its code fetched when it is first wanted or, by `warm`, before. Once the code is there
 * it is drawn at once: a boundary that suspends holds what it covers back for 300 ms after anything else has come (React's throttle of
 * fallbacks), and a sheet goes through three of them.
 *
 * @param load null where there is no browser, so that the code is no part of what the server reads
 */
export function inBrowser<P extends object>(
  load: (() => Promise<ComponentType<P>>) | null,
  Waiting: ComponentType = () => null,
): ComponentType<P> & { warm(): Promise<unknown> } {
  let code: ComponentType<P> | null = null;
  const fetched = async () => {
    code ??= (await load?.()) ?? null;
    return code;
  };
  function InBrowser(props: P) {
    // The first drawing has to be the server's; later ones know whether the code is there.
    const [Drawn, setDrawn] = useState<ComponentType<P> | null>(() => code);
    const [failed, setFailed] = useState<unknown>(null);
    useEffect(() => {
      let here = true;
      if (!Drawn)
        fetched().then(
          (found) => here && setDrawn(() => found),
          (error) => here && setFailed(error ?? new Error('A part of this page could not be fetched.')),
        );
      return () => {
        here = false;
      };
    }, [Drawn]);
    // The page that tells of failures offers to try again, and then it is fetched anew.
    if (failed) throw failed;
    return Drawn ? <Drawn {...props} /> : <Waiting />;
  }
  return Object.assign(InBrowser, { warm: fetched });
}
