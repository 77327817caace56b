import type { Command } from '../pipeline/commands/index';
import type { AssetDocument } from '../pipeline/document';

/** A setting that runs are told by: what a document has of it, and the change that gives another document the same. */
interface Settable {
  now(document: AssetDocument): unknown;
  /** @param like the document whose value is wanted */
  set(like: AssetDocument): Command;
}

type UnwrapKey = keyof AssetDocument['unwrap'];
type BakeKey = keyof AssetDocument['bake'];
type ShotKey = keyof AssetDocument['shot'];

const unwrap = (key: UnwrapKey): Settable => ({
  now: (d) => d.unwrap[key],
  set: (like) => ({ type: 'unwrap.set', patch: { [key]: like.unwrap[key] } }),
});
const bake = (key: BakeKey): Settable => ({
  now: (d) => d.bake[key],
  set: (like) => ({ type: 'bake.set', patch: { [key]: like.bake[key] } }),
});
const camera = (key: ShotKey): Settable => ({
  now: (d) => d.shot[key],
  set: (like) => ({ type: 'shot.set', patch: { [key]: like.shot[key] } }),
});
const rig = (key: 'surround' | 'background' | 'lamps'): Settable => ({
  now: (d) => d.rig[key],
  // Lamps in other parts are solved anew: watts that were decided on were for the old ones.
  set: (like) => ({ type: 'rig.set', patch: { [key]: structuredClone(like.rig[key]), ...(key === 'lamps' && { power: like.rig.power }) } }),
});
const render = (key: 'samples' | 'seed' | 'maps'): Settable => ({
  now: (d) => d.render[key],
  set: (like) => ({ type: 'render.set', patch: { [key]: like.render[key], ...(key === 'samples' && { until: like.render.until }) } }),
});
const size: Settable = {
  now: (d) => d.brief.limits.textureSize,
  set: (like) => ({ type: 'brief.set', patch: { limits: { ...like.brief.limits } } }),
};

const of = <K extends string>(keys: readonly K[], make: (key: K) => Settable): Record<string, Settable> =>
  Object.fromEntries(keys.map((k) => [k, make(k)]));

const VIEW = {
  lens: camera('lensMm'),
  width: camera('widthPx'),
  height: camera('heightPx'),
  ...of(['azimuth', 'elevation', 'margin', 'sharpShare', 'aperture', 'seconds', 'tone'], camera),
  ...of(['surround', 'background'], rig),
  ratio: rig('lamps'),
};

/** Settings by the stage and the name they are kept under with a run. */
export const SETTABLE: Record<string, Record<string, Settable>> = {
  unwrap: { ...of(['padding', 'seamAngle', 'rotate', 'fewer', 'stretchLimit', 'whole', 'unseen', 'twins', 'filed'], unwrap), size },
  bake: {
    ...of(
      [
        'samples',
        'y',
        'bits',
        'normal',
        'occlusion',
        'occlusionRays',
        'reachMm',
        'distances',
        'directions',
        'frontMm',
        'rearMm',
        'curvature',
        'curvatureRadiusMm',
        'movingOcclude',
        'movingOpen',
        'spreadDegrees',
        'neighbours',
        'bentNeighbours',
        'ground',
        'thicknessMm',
        'itself',
        'roundMm',
        'carriedPx',
      ],
      bake,
    ),
    size,
  },
  light: VIEW,
  render: { ...VIEW, ...of(['samples', 'seed', 'maps'], render) },
};

/** Settings that are suggested from other pieces: those that don’t go with a piece’s size, nor with what it is. */
export const SUGGESTED: Record<string, readonly string[]> = {
  unwrap: ['padding', 'seamAngle', 'rotate', 'fewer', 'stretchLimit', 'unseen'],
  bake: ['samples', 'distances', 'directions', 'occlusionRays', 'spreadDegrees'],
  render: ['samples', 'lens', 'elevation', 'tone', 'surround'],
};
