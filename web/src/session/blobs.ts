import { fetchBlob, putBlob } from './api';

type Bytes = Uint8Array<ArrayBuffer>;

/** Bytes that are kept at hand. */
const MOST = 192e6;

/** Stored files a page has looked at: fetched once, the least lately used let go when they take too much. Names are of their bytes. */
export class BlobCache {
  private readonly held = new Map<string, { bytes: Promise<Bytes>; size: number }>();
  private total = 0;
  constructor(private readonly most = MOST) {}

  /** How much is held, bytes. */
  get size(): number {
    return this.total;
  }

  get(hash: string): Promise<Bytes> {
    const known = this.held.get(hash);
    if (known) {
      this.held.delete(hash);
      this.held.set(hash, known);
      return known.bytes;
    }
    const bytes = fetchBlob(hash);
    const entry = { bytes, size: 0 };
    this.held.set(hash, entry);
    bytes.then(
      (b) => this.count(hash, entry, b.length),
      () => this.held.get(hash) === entry && this.held.delete(hash),
    );
    return bytes;
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

  private count(hash: string, entry: { size: number }, size: number): void {
    if (this.held.get(hash) !== entry) return;
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
