/** An island drawn on the packing grid: rows of bits, 32 cells a word. */
export interface Mask {
  width: number;
  height: number;
  words: number;
  bits: Uint32Array;
  /** First set cell of each row that is one unbroken run; −1 for rows with gaps. */
  runStart: Int32Array;
  /** Longest run of set cells in each row. */
  runLength: Int32Array;
  /** Where the island's own origin lies in the mask, cells. */
  offset: [number, number];
}

/**
 * Draws triangles on the grid so that every cell they touch is set, grown by `grow` cells each way.
 * @param triangles 6 numbers each, in cells
 */
export function drawMask(triangles: Float64Array, grow: number): Mask {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < triangles.length; i += 2) {
    x0 = Math.min(x0, triangles[i]);
    x1 = Math.max(x1, triangles[i]);
    y0 = Math.min(y0, triangles[i + 1]);
    y1 = Math.max(y1, triangles[i + 1]);
  }
  const left = Math.floor(x0 - grow);
  const top = Math.floor(y0 - grow);
  const width = Math.ceil(x1 + grow) - left;
  const height = Math.ceil(y1 + grow) - top;
  const words = (width + 31) >> 5;
  const bits = new Uint32Array(words * height);
  for (let t = 0; t < triangles.length; t += 6) drawTriangle(triangles, t, left, top, width, height, words, bits, grow);
  return { width, height, words, bits, ...runsOf(bits, words, height), offset: [-left, -top] };
}

function runsOf(bits: Uint32Array, words: number, height: number): { runStart: Int32Array; runLength: Int32Array } {
  const runStart = new Int32Array(height);
  const runLength = new Int32Array(height);
  for (let r = 0; r < height; r++) {
    let runs = 0;
    let first = 0;
    let length = 0;
    for (let x = 0; x < words * 32; x++) {
      if (!(bits[r * words + (x >> 5)] & (1 << (x & 31)))) {
        length = 0;
        continue;
      }
      if (length++ === 0 && runs++ === 0) first = x;
      if (length > runLength[r]) runLength[r] = length;
    }
    runStart[r] = runs > 1 ? -1 : first;
  }
  return { runStart, runLength };
}

/** Sets the cells whose square, grown by `grow`, meets the triangle: separating axes, a little generous at sharp corners. */
function drawTriangle(
  p: Float64Array,
  o: number,
  left: number,
  top: number,
  width: number,
  height: number,
  words: number,
  bits: Uint32Array,
  grow: number,
): void {
  const ax = p[o] - left;
  const ay = p[o + 1] - top;
  let bx = p[o + 2] - left;
  let by = p[o + 3] - top;
  let cx = p[o + 4] - left;
  let cy = p[o + 5] - top;
  if ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax) < 0) {
    [bx, cx] = [cx, bx];
    [by, cy] = [cy, by];
  }
  const reach = 0.5 + grow;
  const edge = (x0: number, y0: number, x1: number, y1: number): [number, number, number] => {
    const nx = -(y1 - y0);
    const ny = x1 - x0;
    return [nx, ny, nx * x0 + ny * y0 - reach * (Math.abs(nx) + Math.abs(ny))];
  };
  const edges = [edge(ax, ay, bx, by), edge(bx, by, cx, cy), edge(cx, cy, ax, ay)];
  const fromX = Math.max(0, Math.floor(Math.min(ax, bx, cx) - grow));
  const toX = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) + grow));
  const fromY = Math.max(0, Math.floor(Math.min(ay, by, cy) - grow));
  const toY = Math.min(height - 1, Math.floor(Math.max(ay, by, cy) + grow));
  for (let y = fromY; y <= toY; y++)
    for (let x = fromX; x <= toX; x++) {
      const mx = x + 0.5;
      const my = y + 0.5;
      if (edges[0][0] * mx + edges[0][1] * my < edges[0][2]) continue;
      if (edges[1][0] * mx + edges[1][1] * my < edges[1][2]) continue;
      if (edges[2][0] * mx + edges[2][1] * my < edges[2][2]) continue;
      bits[y * words + (x >> 5)] |= 1 << (x & 31);
    }
}

/** The tile being filled. */
export class Grid {
  private readonly words: number;
  private readonly bits: Uint32Array;
  /** Rows below this one are still empty. */
  private filled = 0;
  /** Longest run of free cells in each row: a wider row of a mask can't lie there, whatever its x. */
  private readonly room: Int32Array;

  constructor(readonly size: number) {
    this.room = new Int32Array(size).fill(size);
    this.words = (size >> 5) + 2;
    this.bits = new Uint32Array(this.words * size);
  }

  /**
   * x when a mask fits with its corner at (x, y); otherwise the next x worth trying. A row that is one run and lies on an
   * occupied cell stays on it until its start has passed that cell, so everything between is skipped.
   */
  private next(mask: Mask, x: number, y: number): number {
    const { bits, words } = this;
    const shift = x & 31;
    const base = x >> 5;
    const rows = Math.min(mask.height, this.filled - y);
    for (let r = 0; r < rows; r++) {
      const to = (y + r) * words + base;
      const from = r * mask.words;
      for (let w = 0; w < mask.words; w++) {
        const m = mask.bits[from + w];
        const low = bits[to + w] & (m << shift);
        const high = shift > 0 ? bits[to + w + 1] & (m >>> (32 - shift)) : 0;
        if (low === 0 && high === 0) continue;
        if (mask.runStart[r] < 0) return x + 1;
        const cell = high !== 0 ? 32 * (base + w + 1) + 31 - Math.clz32(high) : 32 * (base + w) + 31 - Math.clz32(low);
        return cell - mask.runStart[r] + 1;
      }
    }
    return x;
  }

  place(mask: Mask, x: number, y: number): void {
    const shift = x & 31;
    const base = x >> 5;
    for (let r = 0; r < mask.height; r++)
      for (let w = 0; w < mask.words; w++) {
        const m = mask.bits[r * mask.words + w];
        const to = (y + r) * this.words + base + w;
        this.bits[to] |= m << shift;
        if (shift > 0) this.bits[to + 1] |= m >>> (32 - shift);
      }
    this.filled = Math.max(this.filled, y + mask.height);
    for (let r = y; r < y + mask.height; r++) {
      let run = 0;
      let longest = 0;
      for (let c = 0; c < this.size; c++) {
        if (this.bits[r * this.words + (c >> 5)] & (1 << (c & 31))) run = 0;
        else if (++run > longest) longest = run;
      }
      this.room[r] = longest;
    }
  }

  /** Whether some row of the mask is wider than any free run of the grid row it would lie on. */
  private blocked(mask: Mask, y: number): boolean {
    const { room } = this;
    for (let r = 0; r < mask.height; r++) if (mask.runLength[r] > room[y + r]) return true;
    return false;
  }

  /** The lowest, then leftmost place whose top stays under `bound`; null when there is none. */
  find(mask: Mask, bound: number): [number, number] | null {
    const lastY = Math.min(this.size - mask.height, bound - mask.height);
    const lastX = this.size - mask.width;
    for (let y = 0; y <= lastY; y++) {
      if (this.blocked(mask, y)) continue;
      for (let x = 0; x <= lastX; ) {
        const next = this.next(mask, x, y);
        if (next === x) return [x, y];
        x = next;
      }
    }
    return null;
  }
}
