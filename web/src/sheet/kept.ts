import { useState } from 'react';

/** A choice of this browser, as it was kept; null where there is none, or nowhere to keep it. */
export function readKept(key: string): Record<string, unknown> | null {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key) ?? 'null');
    return typeof kept === 'object' && !Array.isArray(kept) ? (kept as Record<string, unknown> | null) : null;
  } catch {
    return null;
  }
}

/** Keeps a choice for the next visit. Where that can’t be, it holds until the page goes. */
export function keep(key: string, value: object): void {
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // Nowhere to keep it.
  }
}

/** A choice of this browser, remembered between visits. What is kept is checked: another version may have written it. */
export function useKept<T extends object>(key: string, checked: (kept: Record<string, unknown>) => T): [T, (value: T) => void] {
  const [value, setValue] = useState(() => checked(readKept(key) ?? {}));
  return [
    value,
    (next) => {
      setValue(next);
      keep(key, next);
    },
  ];
}
