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
  /** How many further levels there are, where they go in; {@link MOST_LEVELS} when absent. */
  levels?: number;
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
/** The most smaller sizes, and the most further levels. */
export const MOST_SMALLER = 3;
export const MOST_LEVELS = 3;
/** Screen heights of the further levels: common practice, no source. */
export const LEVEL_SHARES = [0.5, 0.25, 0.125] as const;

/** Further levels that go out; none where they aren’t chosen. */
export const levelsOf = ({ include, levels = MOST_LEVELS }: HandoffChoices): number => (include.levels ? levels : 0);

export const HANDOFF_DEFAULTS: HandoffChoices = {
  unit: 'mm',
  y: 'up',
  include: { glb: true, obj: true, textures: true, layout: true, picture: true, sheet: true, levels: false },
};
