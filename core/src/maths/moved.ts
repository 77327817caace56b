type Numbers = Float64Array | Float32Array | Uint32Array | Int32Array | Uint16Array | Int16Array | Uint8Array;

/** A copy of plain data with its arrays of numbers in other memory, as that which several threads see; what is in it twice stays one. */
export function movedTo<T>(value: T, allocate: (bytes: number) => ArrayBufferLike, seen = new Map<unknown, unknown>()): T {
  if (typeof value !== 'object' || value === null) return value;
  const known = seen.get(value);
  if (known) return known as T;
  let copy: unknown;
  if (ArrayBuffer.isView(value)) {
    const from = value as unknown as Numbers;
    const to = new (from.constructor as new (buffer: ArrayBufferLike) => Numbers)(allocate(from.byteLength));
    to.set(from);
    copy = to;
  } else if (Array.isArray(value)) copy = value.map((v) => movedTo(v, allocate, seen));
  else copy = Object.fromEntries(Object.entries(value).map(([k, v]) => [k, movedTo(v, allocate, seen)]));
  seen.set(value, copy);
  return copy as T;
}
