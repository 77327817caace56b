import type { LengthUnit } from '../units/lengths';

/** What goes into the archive. */
export const DELIVERABLES = {
  glb: 'GLB',
  obj: 'OBJ and MTL',
  textures: 'textures',
  layout: 'layout',
  picture: 'picture',
  sheet: 'spec sheet',
  levels: 'further levels',
} as const;
/** Kinds of files that can be handed over. */
export type Deliverable = keyof typeof DELIVERABLES;

/** What was decided about handing over. */
export interface HandoffChoices {
  /** Of formats that state no unit. */
  unit: LengthUnit;
  /** Green channel of the normal map beside the GLB, which is always up. */
  y: 'up' | 'down';
  include: Record<Deliverable, boolean>;
  /** Further sizes that the composed set goes out at, each half of the one before; none when absent. */
  smaller?: number;
  /** The composed set goes out as diffuse, specular and gloss too. */
  specular?: boolean;
  /** The colour maps go out as JPEG of this quality too, 1 … 100; not when absent or 0. */
  jpeg?: number;
  /** All maps of the set go out on one sheet too. */
  setSheet?: boolean;
  /** Every variant goes out too, each in a folder of its own. */
  variants?: boolean;
}
/** The most of them. */
export const MOST_SMALLER = 3;

export const HANDOFF_DEFAULTS: HandoffChoices = {
  unit: 'mm',
  y: 'up',
  include: { glb: true, obj: true, textures: true, layout: true, picture: true, sheet: true, levels: false },
};
