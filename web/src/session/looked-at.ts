const keyOf = (asset: string): string => `wellmorph-look/${asset}`;

/** As which of its variants a piece was looked at last in this tab, so that a reload shows the same; null for itself. */
export function lookedAtAs(asset: string): string | null {
  try {
    return sessionStorage.getItem(keyOf(asset));
  } catch {
    return null;
  }
}

/** Remembers it for as long as the tab is there. Where that can’t be, it holds until the page goes. */
export function lookAtAs(asset: string, variant: string | null): void {
  try {
    if (variant === null) sessionStorage.removeItem(keyOf(asset));
    else sessionStorage.setItem(keyOf(asset), variant);
  } catch {
    // Nowhere to keep it.
  }
}
