type Numbers = Float64Array | Float32Array | Uint32Array | Int32Array | Uint16Array | Int16Array | Uint8Array;

/** A copy of plain data with its arrays of numbers in other memory, as that which several threads see. */
export function movedTo<T>(value: T, allocate: (bytes: number) => ArrayBufferLike): T {
  if (ArrayBuffer.isView(value)) {
    const from = value as unknown as Numbers;
    const to = new (from.constructor as new (buffer: ArrayBufferLike) => Numbers)(allocate(from.byteLength));
    to.set(from);
    return to as unknown as T;
  }
  if (Array.isArray(value)) return value.map((v) => movedTo(v, allocate)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, movedTo(v, allocate)])) as T;
}
