/** Maps that can be baked beside normal, occlusion and curvature. */
export type FurtherMap = 'objectNormal' | 'bentNormal' | 'thickness' | 'position' | 'height' | 'id' | 'opacity';

/** What each map is called and what it holds, in words. */
export const FURTHER: Record<FurtherMap, { name: string; about: string; file: string }> = {
  objectNormal: { name: 'object normal', about: 'the direction of the high surface in the part’s own space', file: 'normal-object' },
  bentNormal: { name: 'bent normal', about: 'the middle of the directions from which light comes', file: 'normal-bent' },
  thickness: { name: 'thickness', about: 'how thick the body is below, in mm', file: 'thickness' },
  position: { name: 'position', about: 'where the high surface lies in the piece, in mm', file: 'position' },
  height: { name: 'height', about: 'how far the high surface stands above the low one, in mm', file: 'height' },
  id: { name: 'id', about: 'one colour for each part, material or region', file: 'id' },
  opacity: { name: 'opacity', about: 'the share of each texel that the high surface fills', file: 'opacity' },
};
export const FURTHER_MAPS = Object.keys(FURTHER) as FurtherMap[];

/** What a colour of the id map stands for. */
export type IdBy = 'part' | 'material' | 'region' | 'colour';
export const ID_BY: Record<IdBy, string> = {
  part: 'a colour a part',
  material: 'a colour a material',
  region: 'a colour a region',
  colour: 'as it was painted',
};
