/**
 * Visits every pixel centre inside a triangle. Centre of pixel i is i + ½. Centres on a shared edge belong to exactly one of
 * the two triangles (top-left rule), so a flat, fold-free layout is never counted twice.
 *
 * @param x0…y2 corners in pixels, y down, either winding
 * @param height rows from `height` on are left out, and so are those before `fromRow`
 * @param visit pixel, and the barycentric weights of the three corners
 */
export function fillTriangle(
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  x2: number,
  y2: number,
  width: number,
  height: number,
  visit: (x: number, y: number, w0: number, w1: number, w2: number) => void,
  fromRow = 0,
): void {
  let area = (x1 - x0) * (y2 - y0) - (y1 - y0) * (x2 - x0);
  if (area === 0) return;
  const flipped = area < 0;
  if (flipped) {
    [x1, x2] = [x2, x1];
    [y1, y2] = [y2, y1];
    area = -area;
  }
  const left = Math.max(0, Math.ceil(Math.min(x0, x1, x2) - 0.5));
  const right = Math.min(width - 1, Math.floor(Math.max(x0, x1, x2) - 0.5));
  const top = Math.max(fromRow, Math.ceil(Math.min(y0, y1, y2) - 0.5));
  const bottom = Math.min(height - 1, Math.floor(Math.max(y0, y1, y2) - 0.5));
  const owns = (ax: number, ay: number, bx: number, by: number) => (ay === by ? bx > ax : by < ay);
  const own0 = owns(x1, y1, x2, y2);
  const own1 = owns(x2, y2, x0, y0);
  const own2 = owns(x0, y0, x1, y1);
  // Between these two of a row nothing lies outside by more than rounding: the exact test is only made at the ends of that.
  const [ox, oy] = [
    [x0, x1, x2],
    [y0, y1, y2],
  ];
  for (let y = top; y <= bottom; y++) {
    const py = y + 0.5;
    let [from, to] = [left, right];
    for (let k = 0; k < 3; k++) {
      const [ax, ay, bx, by] = [ox[k], oy[k], ox[(k + 1) % 3], oy[(k + 1) % 3]];
      const fall = by - ay;
      if (fall === 0) continue;
      // Where the edge crosses the row; what lies to its left (going down: right) is outside.
      const cross = ax + ((py - ay) * (bx - ax)) / fall - 0.5;
      if (fall > 0) to = Math.min(to, Math.floor(cross) + 1);
      else from = Math.max(from, Math.ceil(cross) - 1);
    }
    for (let x = from; x <= to; x++) {
      const px = x + 0.5;
      const e0 = edge(x1, y1, x2, y2, px, py);
      const e1 = edge(x2, y2, x0, y0, px, py);
      const e2 = edge(x0, y0, x1, y1, px, py);
      if ((e0 > 0 || (e0 === 0 && own0)) && (e1 > 0 || (e1 === 0 && own1)) && (e2 > 0 || (e2 === 0 && own2))) {
        if (flipped) visit(x, y, e0 / area, e2 / area, e1 / area);
        else visit(x, y, e0 / area, e1 / area, e2 / area);
      }
    }
  }
}

/** Which side of an edge a point is on; the same bits for both directions of one edge, so that ties are ties. */
function edge(ax: number, ay: number, bx: number, by: number, px: number, py: number): number {
  return ax < bx || (ax === bx && ay < by)
    ? (bx - ax) * (py - ay) - (by - ay) * (px - ax)
    : -((ax - bx) * (py - by) - (ay - by) * (px - bx));
}
