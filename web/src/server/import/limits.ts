/** The largest upload, bytes; said before anything is sent. */
export const LARGEST_UPLOAD = 200_000_000;

/** A model as it came, on disk, with what lay beside it. */
export interface Upload {
  fileName: string;
  path: string;
  unit: string | null;
  licence: string;
  /** Which way is up in it; as is usual for its kind when null. */
  up: 'y' | 'z' | null;
  /** Taken at whatever size it comes out. */
  sure: boolean;
  /** The older file whose parts it is put in place of. */
  replaces: string | null;
  /** Name → where it lies. */
  companions: Record<string, string>;
  /** Says that nobody waits for it any more. */
  signal?: AbortSignal;
}
