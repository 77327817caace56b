/** The largest upload, bytes; said before anything is sent. */
export const LARGEST_UPLOAD = 200_000_000;

/** A model as it came, with what lay beside it. */
export interface Upload {
  fileName: string;
  bytes: Uint8Array;
  unit: string | null;
  licence: string;
  companions: Record<string, Uint8Array>;
}
