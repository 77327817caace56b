/** The browser's first drawing in three dimensions, off the page's thread. */
const context = new OffscreenCanvas(1, 1).getContext('webgl2');
context?.clear(context.COLOR_BUFFER_BIT);
context?.finish();
// Held by the thread itself, for as long as it is there.
Object.assign(self, { context });
