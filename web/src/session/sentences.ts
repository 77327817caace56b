import { CancelledError, WellmorphError } from '@wellmorph/core/errors';
import { WorkError } from '@/workers/pool';
import { ApiError } from './api';

/** What went wrong, as somebody reads it. */
export const sentence = (error: unknown): string =>
  error instanceof ApiError || error instanceof WorkError || error instanceof WellmorphError
    ? error.message
    : 'Something went wrong; nothing was changed.';

export const isCancelled = (error: unknown): boolean =>
  error instanceof CancelledError || (error instanceof WorkError && error.code === 'cancelled');
