import { type RefObject, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { type Extent, type Frame, fittedFrame, fromPlate, nearerFrame, slidFrame, toPlate } from './frame';

type P = readonly [number, number];

/** A drawing on an svg: what it shows, sliding and going nearer, and the way from mm to px and back. */
export function useFrame(
  svg: RefObject<SVGSVGElement | null>,
  extent: Extent,
  key: string,
  margin?: { x: number; y: number; lower: number },
) {
  const [size, setSize] = useState({ width: 600, height: 500 });
  const [frame, setFrame] = useState<Frame | null>(null);
  const pan = useRef<{ x: number; y: number; frame: Frame } | null>(null);
  // Measured before it is seen: a corner that moved under the pointer as the plate was measured was missed.
  useLayoutEffect(() => {
    const element = svg.current;
    if (!element) return;
    const measure = () => setSize({ width: element.clientWidth, height: element.clientHeight });
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(element);
    return () => watch.disconnect();
  }, [svg]);
  // What was drawn is fitted when another drawing is opened, not while it changes under the hand.
  const fitted = useMemo(() => fittedFrame(extent, size, margin), [key, size.width, size.height]);
  useEffect(() => setFrame(null), [key]);
  const f = frame ?? fitted;
  return {
    size,
    scale: f.scale,
    frame: f,
    at: (p: P) => toPlate(f, size, p),
    from: (p: P) => fromPlate(f, size, p),
    place(e: { clientX: number; clientY: number }): [number, number] {
      const box = svg.current?.getBoundingClientRect();
      return box ? [e.clientX - box.left, e.clientY - box.top] : [0, 0];
    },
    nearer: (at: P, deltaY: number) => setFrame(nearerFrame(f, size, at, deltaY)),
    startPan([x, y]: P) {
      pan.current = { x, y, frame: f };
    },
    /** @returns whether the drawing is being slid */
    pan([x, y]: P): boolean {
      const p = pan.current;
      if (!p) return false;
      setFrame(slidFrame(p.frame, [x - p.x, y - p.y]));
      return true;
    },
    endPan(): void {
      pan.current = null;
    },
    whole: () => setFrame(null),
  };
}
export type DrawingFrame = ReturnType<typeof useFrame>;
