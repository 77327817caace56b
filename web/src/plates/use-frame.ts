import { type RefObject, useEffect, useMemo, useRef, useState } from 'react';

/** mm at the left and bottom edge of a drawing, and px per mm. */
export interface Frame {
  x: number;
  y: number;
  scale: number;
}
export interface Extent {
  x0: number;
  x1: number;
  y0: number;
  y1: number;
}
type P = readonly [number, number];

/** px left round a drawing, more above it than below: its tools stand there. */
const MARGIN = { x: 150, y: 190, lower: 22 };

/** A drawing on an svg: what it shows, sliding and going nearer, and the way from mm to px and back. */
export function useFrame(svg: RefObject<SVGSVGElement | null>, extent: Extent, key: string) {
  const [size, setSize] = useState({ width: 600, height: 500 });
  const [frame, setFrame] = useState<Frame | null>(null);
  const pan = useRef<{ x: number; y: number; frame: Frame } | null>(null);
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, [svg]);
  // What was drawn is fitted when another drawing is opened, not while it changes under the hand.
  const fitted = useMemo((): Frame => {
    const [w, h] = [Math.max(extent.x1 - extent.x0, 1), Math.max(extent.y1 - extent.y0, 1)];
    const scale = Math.min((size.width - MARGIN.x) / w, (size.height - MARGIN.y) / h);
    return {
      x: (extent.x0 + extent.x1) / 2 - size.width / 2 / scale,
      y: (extent.y0 + extent.y1) / 2 - (size.height / 2 - MARGIN.lower) / scale,
      scale,
    };
  }, [key, size.width, size.height]);
  useEffect(() => setFrame(null), [key]);
  const f = frame ?? fitted;
  return {
    size,
    scale: f.scale,
    frame: f,
    at: ([x, y]: P): [number, number] => [(x - f.x) * f.scale, size.height - (y - f.y) * f.scale],
    from: ([x, y]: P): [number, number] => [x / f.scale + f.x, (size.height - y) / f.scale + f.y],
    place(e: { clientX: number; clientY: number }): [number, number] {
      const box = svg.current?.getBoundingClientRect();
      return box ? [e.clientX - box.left, e.clientY - box.top] : [0, 0];
    },
    nearer([x, y]: P, deltaY: number) {
      const [mx, my] = [x / f.scale + f.x, (size.height - y) / f.scale + f.y];
      const scale = Math.min(400, Math.max(0.02, f.scale * 1.0015 ** -deltaY));
      setFrame({ scale, x: mx - x / scale, y: my - (size.height - y) / scale });
    },
    startPan([x, y]: P) {
      pan.current = { x, y, frame: f };
    },
    /** @returns whether the drawing is being slid */
    pan([x, y]: P): boolean {
      const p = pan.current;
      if (!p) return false;
      setFrame({ ...p.frame, x: p.frame.x - (x - p.x) / f.scale, y: p.frame.y + (y - p.y) / f.scale });
      return true;
    },
    endPan(): void {
      pan.current = null;
    },
    whole: () => setFrame(null),
  };
}
export type DrawingFrame = ReturnType<typeof useFrame>;
