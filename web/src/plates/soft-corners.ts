import { useStore } from 'zustand';
import { createStore } from 'zustand/vanilla';
import { keep, readKept } from '@/sheet/kept';

const KEY = 'soft-corners';

/** Whether corners are shaded: as somebody chose, or where a graphics card draws. */
const store = createStore<{ chosen: boolean | null; card: boolean }>(() => ({ chosen: null, card: false }));
let read = false;

/** What draws is known once something is drawn. */
export function drawsWith(gl: WebGLRenderingContext | WebGL2RenderingContext): void {
  if (!read) {
    const on = readKept(KEY)?.on;
    store.setState({ chosen: typeof on === 'boolean' ? on : null });
    read = true;
  }
  const info = gl.getExtension('WEBGL_debug_renderer_info');
  const name = String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
  store.setState({ card: !/swiftshader|llvmpipe|software|basic render/i.test(name) });
}

export const useSoftCorners = (): boolean => useStore(store, (s) => s.chosen ?? s.card);

export function chooseSoftCorners(on: boolean): void {
  store.setState({ chosen: on });
  keep(KEY, { on });
}
