import { useEffect, useState } from 'react';

/** A choice of this browser, remembered between visits. Fields that are new since it was kept have their usual value. */
export function useKept<T extends object>(key: string, usual: T): [T, (value: T) => void] {
  const [value, setValue] = useState(usual);
  useEffect(() => {
    try {
      const kept = JSON.parse(localStorage.getItem(key) ?? 'null') as Partial<T> | null;
      if (kept) setValue({ ...usual, ...kept });
    } catch {
      // Unreadable, or nowhere to read from: the usual.
    }
  }, [key, usual]);
  return [
    value,
    (next) => {
      setValue(next);
      try {
        localStorage.setItem(key, JSON.stringify(next));
      } catch {
        // It holds until the page goes.
      }
    },
  ];
}
