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
/** px of the plate a drawing stands on. */
export interface Size {
  width: number;
  height: number;
}
type P = readonly [number, number];

/** px left round a drawing, more above it than below: its tools stand there. */
const MARGIN = { x: 150, y: 190, lower: 22 };
/** px per mm. */
const NEAREST = 400;
const FARTHEST = 0.02;

/** The frame that shows all of a drawing. */
export function fittedFrame(extent: Extent, size: Size, margin = MARGIN): Frame {
  const [w, h] = [Math.max(extent.x1 - extent.x0, 1), Math.max(extent.y1 - extent.y0, 1)];
  const scale = Math.max(FARTHEST, Math.min((size.width - margin.x) / w, (size.height - margin.y) / h));
  return {
    x: (extent.x0 + extent.x1) / 2 - size.width / 2 / scale,
    y: (extent.y0 + extent.y1) / 2 - (size.height / 2 - margin.lower) / scale,
    scale,
  };
}

/** mm → px; y goes up on paper and down on a screen. */
export const toPlate = (f: Frame, size: Size, [x, y]: P): [number, number] => [(x - f.x) * f.scale, size.height - (y - f.y) * f.scale];
/** px → mm */
export const fromPlate = (f: Frame, size: Size, [x, y]: P): [number, number] => [x / f.scale + f.x, (size.height - y) / f.scale + f.y];

/** Nearer or farther by a turn of the wheel; what is under the pointer, px, stays there. */
export function nearerFrame(f: Frame, size: Size, at: P, deltaY: number): Frame {
  const [mx, my] = fromPlate(f, size, at);
  const scale = Math.min(NEAREST, Math.max(FARTHEST, f.scale * 1.0015 ** -deltaY));
  return { scale, x: mx - at[0] / scale, y: my - (size.height - at[1]) / scale };
}

/** Slid by px, as the hand that holds it went. */
export const slidFrame = (f: Frame, [dx, dy]: P): Frame => ({ ...f, x: f.x - dx / f.scale, y: f.y + dy / f.scale });
