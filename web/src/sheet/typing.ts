/** Typing goes into a control that takes letters; a slider or a tick box takes none. */
const LETTERS = /^(text|search|number|url|tel|email|password|date|time|color|)$/;

/** Whether a key that is pressed there writes something. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLInputElement) return LETTERS.test(target.type);
  return target.isContentEditable || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement;
}

/** Puts the cursor into the search of what is shown. @returns whether there is one */
export function toSearch(): boolean {
  const search = window.document.querySelector<HTMLInputElement>('[data-search]');
  search?.focus();
  return search !== null;
}
