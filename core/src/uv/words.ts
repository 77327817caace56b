/** Ways to lay an island flat that somebody can choose. */
export type ChosenMethod = 'even' | 'angles' | 'direction' | 'shot' | 'sides' | 'cylinder' | 'sphere' | 'strip' | 'rectangle' | 'grid';
export const CHOSEN: Record<ChosenMethod, string> = {
  even: 'with the least stretch',
  angles: 'true to its angles',
  direction: 'flat from one side',
  shot: 'through the shot’s camera',
  sides: 'from six sides',
  cylinder: 'round a cylinder',
  sphere: 'round a ball',
  strip: 'straightened to a strip',
  rectangle: 'to a rectangle',
  grid: 'by its rows and columns',
};

/** How an island is laid flat. */
export type FlatteningMethod = 'exact' | 'plane' | 'conformal' | 'barycentric' | 'kept' | ChosenMethod;
export const FLATTENED: Record<FlatteningMethod, string> = {
  exact: 'unrolled exactly',
  plane: 'flat as they are',
  conformal: 'laid by angles, then evened out',
  barycentric: 'laid round their rim, then evened out',
  kept: 'as the file has them',
  ...CHOSEN,
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
