import { fetchBlob, putBlob } from './api';

type Bytes = Uint8Array<ArrayBuffer>;

/** Bytes that are kept at hand. */
const MOST = 192e6;

/** Stored files a page has looked at: fetched once, the least lately used let go when they take too much. Names are of their bytes. */
export class BlobCache {
  private readonly held = new Map<string, Held>();
  private total = 0;
  constructor(private readonly most = MOST) {}

  /** How much is held, bytes. */
  get size(): number {
    return this.total;
  }

  get(hash: string): Promise<Bytes> {
    return this.hold(hash, () => fetchBlob(hash)) as Promise<Bytes>;
  }

  /** The same in memory that workers see as well: however many are handed it, it is there once. */
  shared(hash: string): Promise<Uint8Array> {
    return this.hold(`${hash} shared`, async () => {
      const bytes = await fetchBlob(hash);
      const out = new Uint8Array(new SharedArrayBuffer(bytes.length));
      out.set(bytes);
      return out;
    });
  }

  /** Stores a file and holds it: what was just made isn’t fetched again. */
  async put(bytes: Bytes | string, kind: Parameters<typeof putBlob>[1]): Promise<string> {
    const hash = await putBlob(bytes, kind);
    if (typeof bytes !== 'string' && !this.held.has(hash)) {
      const entry = { bytes: Promise.resolve(bytes), size: 0 };
      this.held.set(hash, entry);
      this.count(hash, entry, bytes.length);
    }
    return hash;
  }

  private hold(key: string, fetch: () => Promise<Uint8Array>): Promise<Uint8Array> {
    const known = this.held.get(key);
    if (known) {
      this.held.delete(key);
      this.held.set(key, known);
      return known.bytes;
    }
    const entry = { bytes: fetch(), size: 0 };
    this.held.set(key, entry);
    entry.bytes.then(
      (b) => this.count(key, entry, b.length),
      () => this.held.get(key) === entry && this.held.delete(key),
    );
    return entry.bytes;
  }

  private count(key: string, entry: Held, size: number): void {
    if (this.held.get(key) !== entry) return;
    entry.size = size;
    this.total += size;
    for (const [old, e] of this.held) {
      if (this.total <= this.most) break;
      if (e === entry || e.size === 0) continue;
      this.held.delete(old);
      this.total -= e.size;
    }
  }
}

interface Held {
  bytes: Promise<Uint8Array>;
  size: number;
}
