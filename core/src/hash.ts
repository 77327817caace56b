import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** JSON with sorted keys, so that equal values give equal text. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_key, v: unknown) =>
    v && typeof v === 'object' && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  );
}

/** The name of a result: SHA-256 over exactly what it was made from. 64 hexadecimal digits. */
export const hashOf = (value: unknown): string => bytesToHex(sha256(utf8ToBytes(canonical(value))));

/** The name of a blob. */
export const hashBytes = (bytes: Uint8Array): string => bytesToHex(sha256(bytes));
