/**
 * Numbers records of 32-bit floats as they are met: equal to the last bit, one number (−0 counts as 0). Open addressing on the bits
 * themselves (FNV-1a), so that a million records take no objects.
 */
export class Records {
  private values: Float32Array;
  private words: Uint32Array;
  private slots: Int32Array;
  private readonly record: Float32Array;
  private readonly recordWords: Uint32Array;
  count = 0;

  /** @param width numbers of each @param about how many there may be; more are taken too */
  constructor(
    readonly width: number,
    about = 64,
  ) {
    this.values = new Float32Array(width * Math.max(16, about));
    this.words = new Uint32Array(this.values.buffer);
    this.slots = new Int32Array(2 ** Math.ceil(Math.log2(2 * Math.max(16, about)))).fill(-1);
    this.record = new Float32Array(width);
    this.recordWords = new Uint32Array(this.record.buffer);
  }

  /** Sets a number of the record that is asked about next. */
  set(k: number, x: number): void {
    this.record[k] = x + 0;
  }

  /** The number of the record as it is set. */
  number(): number {
    const { recordWords, width } = this;
    if (2 * (this.count + 1) > this.slots.length) this.grow();
    const mask = this.slots.length - 1;
    let at = hash(recordWords, 0, width) & mask;
    for (;;) {
      const known = this.slots[at];
      if (known < 0) break;
      let same = true;
      for (let k = 0; same && k < width; k++) same = this.words[known * width + k] === recordWords[k];
      if (same) return known;
      at = (at + 1) & mask;
    }
    if ((this.count + 1) * width > this.values.length) {
      const more = new Float32Array(2 * this.values.length);
      more.set(this.values);
      this.values = more;
      this.words = new Uint32Array(more.buffer);
    }
    this.values.set(this.record, this.count * width);
    this.slots[at] = this.count;
    return this.count++;
  }

  /** Number `k` of record `i`. */
  get(i: number, k: number): number {
    return this.values[i * this.width + k];
  }

  /** Some numbers of every record, one record after the other. */
  column(from: number, size: number): Float32Array {
    const out = new Float32Array(size * this.count);
    for (let i = 0; i < this.count; i++) for (let k = 0; k < size; k++) out[size * i + k] = this.values[i * this.width + from + k];
    return out;
  }

  private grow(): void {
    this.slots = new Int32Array(2 * this.slots.length).fill(-1);
    const mask = this.slots.length - 1;
    for (let i = 0; i < this.count; i++) {
      let at = hash(this.words, i * this.width, this.width) & mask;
      while (this.slots[at] >= 0) at = (at + 1) & mask;
      this.slots[at] = i;
    }
  }
}

function hash(words: Uint32Array, from: number, width: number): number {
  let h = 0x811c9dc5;
  for (let k = 0; k < width; k++) {
    const word = words[from + k];
    h = Math.imul(h ^ word ^ (word >>> 15), 0x01000193);
  }
  return h ^ (h >>> 13);
}
