/** Kept while the page is there: with its last context the browser lets go of what it began. */
const kept: Worker[] = [];

/**
 * Has the browser begin drawing in three dimensions before a piece needs it: the first context takes half a second where a processor
 * draws (496 ms against 27 ms for the next one, software drawing), and blocks whoever asks for it.
 */
export function warmDrawing(): void {
  if (kept.length === 0) kept.push(new Worker(new URL('./warm.worker.ts', import.meta.url), { type: 'module' }));
}
