'use client';

import { useEffect, useState } from 'react';
import type { Trial } from '@/server/db/trials';
import { useBench } from '@/session/context';

type Files = Partial<Record<string, string>>;
/** What is stored of the results of two trials: addresses by file; null where one is no longer kept, and undefined until that is known. */
export function useTrialFiles(a: Trial, b: Trial): readonly [Files, Files] | null | undefined {
  const [found, setFound] = useState<readonly [Files, Files] | null | undefined>(undefined);
  const { results } = useBench();
  const [first, second] = [a.resultName, b.resultName];
  useEffect(() => {
    let gone = false;
    setFound(undefined);
    const files = async (name: string | null): Promise<Files | null> => {
      const blobs = name ? (await results.named(name))?.blobs : undefined;
      return blobs ? Object.fromEntries(Object.entries(blobs).map(([file, hash]) => [file, `/api/blobs/${hash}`])) : null;
    };
    Promise.all([files(first), files(second)])
      .then(([p, q]) => !gone && setFound(p && q ? [p, q] : null))
      .catch(() => !gone && setFound(null));
    return () => {
      gone = true;
    };
  }, [results, first, second]);
  return found;
}
