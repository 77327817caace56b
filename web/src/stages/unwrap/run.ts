import type { AssetSession } from '@/session/session';

/** Lays the piece out. @returns whether it is laid out */
export const runUnwrap = async (session: AssetSession): Promise<boolean> =>
  (await session.job('unwrap', (run) => session.stage(run, 'unwrap'))) !== null;
