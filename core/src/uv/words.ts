/** How an island is laid flat. */
export type FlatteningMethod = 'exact' | 'plane' | 'conformal' | 'barycentric' | 'kept';
export const FLATTENED: Record<FlatteningMethod, string> = {
  exact: 'unrolled exactly',
  plane: 'flat as they are',
  conformal: 'laid by angles, then evened out',
  barycentric: 'laid round their rim, then evened out',
  kept: 'as the file has them',
};

/** Why an edge is a seam: the first of these that holds. */
export type SeamReason = 'hand' | 'hard' | 'region' | 'closed' | 'divided' | 'curved';
export const SEAM_REASONS: Record<SeamReason, string> = {
  hard: 'at hard edges',
  curved: 'where it is too curved to lie flat',
  closed: 'as it closes on itself',
  region: 'round regions',
  divided: 'to fill the tile',
  hand: 'drawn by hand',
};
