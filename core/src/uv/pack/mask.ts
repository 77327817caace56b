/** An island drawn on the packing grid: rows of bits, 32 cells a word. */
export interface Mask {
  width: number;
  height: number;
  words: number;
  bits: Int32Array;
  /** First set cell of each row that is one unbroken run; −1 for rows with gaps. */
  runStart: Int32Array;
  /** Longest run of set cells in each row. */
  runLength: Int32Array;
  /** Its rows in the order they are best asked in: the one with the longest run, then others far from each other. */
  order: Int32Array;
  /** Where the island's own origin lies in the mask, cells. */
  offset: [number, number];
  /** Masks of the same cells have the same one. */
  key: number;
}

/**
 * Draws triangles on the grid so that every cell is set whose centre lies within `reach` of one, measured along the axes. With a reach
 * of half a cell those are the cells a triangle touches.
 * @param triangles 6 numbers each, in cells
 */
export function drawMask(triangles: Float64Array, reach: number): Mask {
  const mask = blank(triangles, reach);
  for (let t = 0; t < triangles.length; t += 6) drawTriangle(triangles, t, mask, reach);
  return { ...mask, ...runsOf(mask) };
}

/**
 * The same of what lies within sides that run counter-clockwise round it (each place as often as it is covered): as much is drawn as the
 * rim is long, however many triangles there are inside.
 *
 * @param rim 4 numbers each, in cells
 */
export function drawRim(rim: Float64Array, reach: number): Mask {
  const mask = blank(rim, reach);
  for (let i = 0; i < rim.length; i += 4) drawSide(rim, i, mask, reach);
  fillWithin(rim, mask);
  return { ...mask, ...runsOf(mask) };
}

/** A mask’s cells, before its runs are known. */
type Cells = Omit<Mask, 'runStart' | 'runLength' | 'order' | 'key'>;

function blank(points: Float64Array, reach: number): Cells {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 2) {
    x0 = Math.min(x0, points[i]);
    x1 = Math.max(x1, points[i]);
    y0 = Math.min(y0, points[i + 1]);
    y1 = Math.max(y1, points[i + 1]);
  }
  if (points.length === 0) [x0, y0, x1, y1] = [0, 0, 0, 0];
  const grow = Math.max(0, reach - 0.5);
  const left = Math.floor(x0 - grow);
  const top = Math.floor(y0 - grow);
  const width = Math.max(1, Math.ceil(x1 + grow) - left);
  const height = Math.max(1, Math.ceil(y1 + grow) - top);
  const words = (width + 31) >> 5;
  return { width, height, words, bits: new Int32Array(words * height), offset: [-left, -top] };
}

/** Sets the cells from `low` to `high` of a row. */
function setRun(bits: Int32Array, row: number, low: number, high: number): void {
  const [first, last] = [low >> 5, high >> 5];
  const [start, end] = [-1 << (low & 31), -1 >>> (31 - (high & 31))];
  if (first === last) {
    bits[row + first] |= start & end;
    return;
  }
  bits[row + first] |= start;
  for (let w = first + 1; w < last; w++) bits[row + w] = -1;
  bits[row + last] |= end;
}

/** Sets the cells whose centre lies within reach of a side: separating axes, its own normal and those of the grid. */
function drawSide(p: Float64Array, o: number, { width, height, words, bits, offset }: Cells, reach: number): void {
  const [left, top] = [-offset[0], -offset[1]];
  const [ax, ay, bx, by] = [p[o] - left, p[o + 1] - top, p[o + 2] - left, p[o + 3] - top];
  const fromX = Math.max(0, Math.ceil(Math.min(ax, bx) - reach - 0.5));
  const toX = Math.min(width - 1, Math.floor(Math.max(ax, bx) + reach - 0.5));
  const fromY = Math.max(0, Math.ceil(Math.min(ay, by) - reach - 0.5));
  const toY = Math.min(height - 1, Math.floor(Math.max(ay, by) + reach - 0.5));
  const [nx, ny] = [ay - by, bx - ax];
  const off = nx * ax + ny * ay;
  const far = reach * (Math.abs(nx) + Math.abs(ny));
  const slope = 1 / Math.abs(nx);
  for (let y = fromY; y <= toY; y++) {
    let [low, high] = [fromX, toX];
    // |n·m − n·a| ≤ far: a run of the row.
    const rest = off - ny * (y + 0.5);
    if (nx !== 0) {
      const middle = rest / nx - 0.5;
      low = Math.max(low, Math.ceil(middle - far * slope - 1e-9));
      high = Math.min(high, Math.floor(middle + far * slope + 1e-9));
    } else if (Math.abs(rest) > far + 1e-9) continue;
    if (low <= high) setRun(bits, y * words, low, high);
  }
}

/** Sets the cells whose centre sides run round, once or more. */
function fillWithin(p: Float64Array, { width, height, words, bits, offset }: Cells): void {
  const [left, top] = [-offset[0], -offset[1]];
  // Crossings of the middles of rows, row by row.
  const start = new Int32Array(height + 1);
  const rows = (o: number): [number, number] => {
    const [a, b] = [p[o + 1] - top, p[o + 3] - top];
    return [Math.max(0, Math.ceil(Math.min(a, b) - 0.5)), Math.min(height - 1, Math.ceil(Math.max(a, b) - 0.5) - 1)];
  };
  for (let o = 0; o < p.length; o += 4) {
    const [from, to] = rows(o);
    for (let y = from; y <= to; y++) start[y + 1]++;
  }
  for (let y = 0; y < height; y++) start[y + 1] += start[y];
  const at = new Float64Array(start[height]);
  const way = new Int8Array(start[height]);
  const next = start.slice(0, height);
  for (let o = 0; o < p.length; o += 4) {
    const [from, to] = rows(o);
    const [ax, ay, bx, by] = [p[o] - left, p[o + 1] - top, p[o + 2] - left, p[o + 3] - top];
    const lean = (bx - ax) / (by - ay);
    for (let y = from; y <= to; y++) {
      const x = ax + (y + 0.5 - ay) * lean;
      // Few cross a row: put where it belongs among them.
      let i = next[y]++;
      for (; i > start[y] && at[i - 1] > x; i--) {
        at[i] = at[i - 1];
        way[i] = way[i - 1];
      }
      at[i] = x;
      way[i] = by > ay ? 1 : -1;
    }
  }
  for (let y = 0; y < height; y++) {
    let wound = 0;
    for (let i = start[y]; i + 1 < start[y + 1]; i++) {
      wound += way[i];
      if (wound === 0) continue;
      const low = Math.max(0, Math.ceil(at[i] - 0.5));
      const high = Math.min(width - 1, Math.floor(at[i + 1] - 0.5));
      if (low <= high) setRun(bits, y * words, low, high);
    }
  }
}

function runsOf({ bits, words, height }: Cells): Pick<Mask, 'runStart' | 'runLength' | 'order' | 'key'> {
  const runStart = new Int32Array(height);
  const runLength = new Int32Array(height);
  let widest = 0;
  for (let r = 0; r < height; r++) {
    const row = r * words;
    const [first, longest, runs] = runsOfRow(bits, row, words, false);
    runStart[r] = runs > 1 ? -1 : first;
    runLength[r] = longest;
    if (longest > runLength[widest]) widest = r;
  }
  return { runStart, runLength, order: apart(height, widest), key: keyOf(bits, words, height) };
}

/** The mask of the same island half a turn on: its rows and their cells the other way round. */
export function reversed(mask: Mask): Mask {
  const { width, height, words, bits, runStart, runLength, offset } = mask;
  const out = new Int32Array(bits.length);
  // A row read backwards begins with what its last word has beyond the width.
  const shift = 32 * words - width;
  for (let r = 0; r < height; r++) {
    const [from, to] = [(height - 1 - r) * words, r * words];
    for (let w = 0; w < words; w++) {
      const word = backwards(bits[from + words - 1 - w]);
      out[to + w] |= word >>> shift;
      if (shift > 0 && w > 0) out[to + w - 1] |= word << (32 - shift);
    }
  }
  const starts = new Int32Array(height);
  const lengths = new Int32Array(height);
  let widest = 0;
  for (let r = 0; r < height; r++) {
    const from = height - 1 - r;
    lengths[r] = runLength[from];
    starts[r] = runStart[from] < 0 ? -1 : width - runStart[from] - runLength[from];
    if (lengths[r] > lengths[widest]) widest = r;
  }
  const order = apart(height, widest);
  const key = keyOf(out, words, height);
  return {
    width,
    height,
    words,
    bits: out,
    runStart: starts,
    runLength: lengths,
    order,
    key,
    offset: [width - offset[0], height - offset[1]],
  };
}

/** A number for the cells of a mask, 52 bits: two mixes of its words. */
function keyOf(bits: Int32Array, words: number, height: number): number {
  let [a, b] = [0x811c9dc5 ^ words, 0x9e3779b9 ^ height];
  for (const word of bits) {
    a = Math.imul(a ^ word, 0x01000193);
    b = Math.imul(b ^ (word + (b << 6) + (b >>> 2)), 0x85ebca6b);
    a ^= a >>> 15;
  }
  return (a >>> 0) * 0x100000 + ((b >>> 12) & 0xfffff);
}

/** The bits of a word in the other order. */
function backwards(word: number): number {
  let v = ((word >>> 1) & 0x55555555) | ((word & 0x55555555) << 1);
  v = ((v >>> 2) & 0x33333333) | ((v & 0x33333333) << 2);
  v = ((v >>> 4) & 0x0f0f0f0f) | ((v & 0x0f0f0f0f) << 4);
  v = ((v >>> 8) & 0x00ff00ff) | ((v & 0x00ff00ff) << 8);
  return (v >>> 16) | (v << 16);
}

/** All rows, the given one first, each of the others about as far as can be from those before it (van der Corput). */
function apart(height: number, first: number): Int32Array {
  const order = new Int32Array(height);
  order[0] = first;
  let at = 1;
  const bits = 32 - Math.clz32(Math.max(1, height - 1));
  for (let i = 0; i < 1 << bits; i++) {
    let r = 0;
    for (let b = 0; b < bits; b++) if (i & (1 << b)) r |= 1 << (bits - 1 - b);
    if (r < height && r !== first) order[at++] = r;
  }
  return order;
}

const found: [number, number, number] = [0, 0, 0];

/** First cell, longest run and number of runs of set (or, flipped, of clear) cells of a row; runs within a word are taken at once. */
function runsOfRow(bits: Int32Array, row: number, words: number, flipped: boolean): [number, number, number] {
  let [first, longest, runs, length] = [0, 0, 0, 0];
  for (let w = 0; w < words; w++) {
    let word = flipped ? ~bits[row + w] : bits[row + w] | 0;
    if (word === -1) {
      if (length === 0 && runs++ === 0) first = 32 * w;
      length += 32;
      continue;
    }
    // Whole runs from the low end of the word: clear cells, then set ones, until nothing is left.
    let at = 0;
    if (word & 1) {
      const set = 31 - Math.clz32(~word & -~word);
      if (length === 0 && runs++ === 0) first = 32 * w;
      length += set;
      at = set;
      word = (word >>> set) | 0;
    }
    if (length > longest) longest = length;
    length = 0;
    while (word !== 0) {
      const clear = 31 - Math.clz32(word & -word);
      word = (word >>> clear) | 0;
      at += clear;
      const set = word === -1 ? 32 : 31 - Math.clz32(~word & -~word);
      if (runs++ === 0) first = 32 * w + at;
      length = set;
      if (length > longest) longest = length;
      at += set;
      if (at >= 32) break;
      length = 0;
      word = (word >>> set) | 0;
    }
  }
  found[0] = first;
  found[1] = Math.max(longest, length);
  found[2] = runs;
  return found;
}

/** Sets the cells whose centre lies within reach of the triangle: separating axes, a little generous at sharp corners; a span a row. */
function drawTriangle(p: Float64Array, o: number, { width, height, words, bits, offset }: Cells, reach: number): void {
  const [left, top] = [-offset[0], -offset[1]];
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
  const fromX = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - reach - 0.5));
  const toX = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) + reach - 0.5));
  const fromY = Math.max(0, Math.ceil(Math.min(ay, by, cy) - reach - 0.5));
  const toY = Math.min(height - 1, Math.floor(Math.max(ay, by, cy) + reach - 0.5));
  const [n0x, n0y] = [ay - by, bx - ax];
  const [n1x, n1y] = [by - cy, cx - bx];
  const [n2x, n2y] = [cy - ay, ax - cx];
  const d0 = n0x * ax + n0y * ay - reach * (Math.abs(n0x) + Math.abs(n0y));
  const d1 = n1x * bx + n1y * by - reach * (Math.abs(n1x) + Math.abs(n1y));
  const d2 = n2x * cx + n2y * cy - reach * (Math.abs(n2x) + Math.abs(n2y));
  for (let y = fromY; y <= toY; y++) {
    const my = y + 0.5;
    let low = fromX;
    let high = toX;
    // Where n·m ≥ d for each side: a half-line of the row each.
    for (let k = 0; k < 3; k++) {
      const nx = k === 0 ? n0x : k === 1 ? n1x : n2x;
      const rest = (k === 0 ? d0 : k === 1 ? d1 : d2) - (k === 0 ? n0y : k === 1 ? n1y : n2y) * my;
      if (nx > 0) low = Math.max(low, Math.ceil(rest / nx - 0.5 - 1e-9));
      else if (nx < 0) high = Math.min(high, Math.floor(rest / nx - 0.5 + 1e-9));
      else if (rest > 1e-9) high = -1;
    }
    if (low > high) continue;
    setRun(bits, y * words, low, high);
  }
}

/** The first cell of the run of set cells that `cell` of a row belongs to. */
function firstOfRun(bits: Int32Array, row: number, cell: number): number {
  let w = cell >> 5;
  // Clear cells at or below it in its word.
  let clear = ~bits[row + w] & (-1 >>> (31 - (cell & 31)));
  while (clear === 0 && w > 0) clear = ~bits[row + --w];
  return clear === 0 ? 0 : 32 * w + 32 - Math.clz32(clear);
}

/** The last cell of the run of set cells that `cell` of a row belongs to. */
function lastOfRun(bits: Int32Array, row: number, cell: number, words: number): number {
  let w = cell >> 5;
  let clear = ~bits[row + w] & (-1 << (cell & 31));
  while (clear === 0 && w < words - 1) clear = ~bits[row + ++w];
  return clear === 0 ? 32 * words - 1 : 32 * w + 30 - Math.clz32(clear & -clear);
}

/** What is being filled: a tile, or a strip as high as it takes. */
export class Grid {
  private readonly words: number;
  private readonly bits: Int32Array;
  /** Rows from this one on are still empty. */
  filled = 0;
  /** Longest run of free cells in each row: a wider row of a mask can't lie there, whatever its x. */
  private readonly room: Int32Array;
  private hint = 0;
  /** Mask → where it was found last, or looked for in vain up to: it fits nowhere before that, as the grid only gets fuller. */
  private readonly looked = new Map<number, readonly [number, number]>();
  /** What stays taken. */
  private base: { bits: Int32Array; room: Int32Array; filled: number } | null = null;

  constructor(
    readonly width: number,
    readonly height = width,
  ) {
    this.room = new Int32Array(height).fill(width);
    this.words = ((width + 31) >> 5) + 1;
    this.bits = new Int32Array(this.words * height);
    // What lies beyond the edge is taken.
    const over = width & 31;
    for (let y = 0; y < height; y++) {
      if (over) this.bits[y * this.words + (width >> 5)] = -1 << over;
      this.bits[(y + 1) * this.words - 1] = -1;
    }
  }

  /** Takes the cells of a mask, wherever it lies: what reaches out of the grid is left out. */
  block(mask: Mask, x: number, y: number): void {
    const { words, width, height, bits } = this;
    for (let r = Math.max(0, -y); r < mask.height && y + r < height; r++)
      for (let c = Math.max(0, -x); c < mask.width && x + c < width; c++)
        if (mask.bits[r * mask.words + (c >> 5)] & (1 << (c & 31))) bits[(y + r) * words + ((x + c) >> 5)] |= 1 << ((x + c) & 31);
    this.filled = Math.max(this.filled, Math.min(height, y + mask.height));
    for (let r = Math.max(0, y); r < this.filled && r < y + mask.height; r++) this.room[r] = runsOfRow(bits, r * words, words, true)[1];
  }

  /** What is taken now stays taken. */
  hold(): void {
    this.base = { bits: this.bits.slice(), room: this.room.slice(), filled: this.filled };
  }

  /** Everything free again but for what is held. */
  clear(): void {
    const { words, width, base } = this;
    this.looked.clear();
    if (base) {
      this.bits.set(base.bits);
      this.room.set(base.room);
      this.filled = base.filled;
      return;
    }
    const whole = width >> 5;
    for (let y = 0; y < this.filled; y++) {
      this.bits.fill(0, y * words, y * words + whole);
      if (width & 31) this.bits[y * words + whole] = -1 << (width & 31);
    }
    this.room.fill(width, 0, this.filled);
    this.filled = 0;
  }

  /**
   * x when a mask fits with its corner at (x, y); otherwise the next x worth trying: a run of set cells that lies on a run of taken
   * ones lies on it until its first cell has passed the last of those, so everything between is skipped.
   */
  private next(mask: Mask, x: number, y: number): number {
    const { height, order } = mask;
    const { filled } = this;
    // The row that met something last likely does so again; then rows far apart from each other, as neighbours are much alike.
    if (this.hint < height && y + this.hint < filled) {
      const next = this.nextOfRow(mask, x, y, this.hint);
      if (next !== x) return next;
    }
    for (let i = 0; i < height; i++) {
      const r = order[i];
      if (y + r >= filled) continue;
      const next = this.nextOfRow(mask, x, y, r);
      if (next !== x) {
        this.hint = r;
        return next;
      }
    }
    return x;
  }

  private nextOfRow(mask: Mask, x: number, y: number, r: number): number {
    const { bits, words } = this;
    const shift = x & 31;
    const to = (y + r) * words + (x >> 5);
    const from = r * mask.words;
    for (let w = mask.words - 1; w >= 0; w--) {
      const m = mask.bits[from + w];
      if (m === 0) continue;
      const low = bits[to + w] & (m << shift);
      const high = shift > 0 ? bits[to + w + 1] & (m >>> (32 - shift)) : 0;
      if (low === 0 && high === 0) continue;
      const cell = high !== 0 ? 32 * ((x >> 5) + w + 1) + 31 - Math.clz32(high) : 32 * ((x >> 5) + w) + 31 - Math.clz32(low);
      const start = mask.runStart[r] >= 0 ? mask.runStart[r] : firstOfRun(mask.bits, from, cell - x);
      return lastOfRun(bits, (y + r) * words, cell, words) - start + 1;
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
        if (shift > 0 && m >>> (32 - shift) !== 0) this.bits[to + 1] |= m >>> (32 - shift);
      }
    this.filled = Math.max(this.filled, y + mask.height);
    for (let r = y; r < y + mask.height; r++) this.room[r] = runsOfRow(this.bits, r * this.words, this.words, true)[1];
  }

  /** The lowest row from `y` on where no row of the mask is wider than the longest free run it would lie on. */
  private passable(mask: Mask, y: number, last: number): number {
    const { room, filled } = this;
    const { runLength, height, order } = mask;
    const widest = order[0];
    const most = runLength[widest];
    let tight = height;
    search: for (; y <= last; y++) {
      // Its widest row is the one that fits least often, and what was too wide last likely is so again.
      while (y <= last && y + widest < filled && room[y + widest] < most) y++;
      if (y > last) return y;
      if (tight < height && y + tight < filled && runLength[tight] > room[y + tight]) continue;
      for (let r = Math.min(height, filled - y) - 1; r >= 0; r--)
        if (runLength[r] > room[y + r]) {
          tight = r;
          continue search;
        }
      return y;
    }
    return y;
  }

  /** The lowest, then leftmost place whose top stays under `bound`; null when there is none. */
  find(mask: Mask, bound: number): [number, number] | null {
    const lastY = Math.min(this.height - mask.height, bound - mask.height);
    const lastX = this.width - mask.width;
    if (lastX < 0) return null;
    // What the same cells didn’t fit before is fuller now.
    const [fromX, fromY] = this.looked.get(mask.key) ?? [0, 0];
    for (let y = this.passable(mask, fromY, lastY); y <= lastY; y = this.passable(mask, y + 1, lastY)) {
      for (let x = y === fromY ? fromX : 0; x <= lastX; ) {
        const next = this.next(mask, x, y);
        if (next === x) {
          this.looked.set(mask.key, [x, y]);
          return [x, y];
        }
        x = next;
      }
    }
    if (lastY >= fromY) this.looked.set(mask.key, [0, lastY + 1]);
    return null;
  }
}
