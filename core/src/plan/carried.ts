import type { Command } from '../pipeline/commands/index';
import type { AssetDocument, BakeChoices, Material } from '../pipeline/document';
import { figure, inUnit } from '../units/lengths';

/** Stages whose settings another piece can have; a form is a piece’s own. */
export const CARRIED = ['unwrap', 'bake', 'surface', 'light', 'render', 'hand-off'] as const;
export type CarriedStage = (typeof CARRIED)[number];
export const isCarried = (stage: string): stage is CarriedStage => (CARRIED as readonly string[]).includes(stage);

/** Settings of a run made fit for another piece: the changes that set them, and why each is what it is. */
export interface Carried {
  commands: Command[];
  reasons: string[];
}

/** Lengths of a bake that go with the size of the piece. */
const LENGTHS = [
  'frontMm',
  'rearMm',
  'reachMm',
  'curvatureRadiusMm',
  'thicknessMm',
  'roundMm',
] as const satisfies readonly (keyof BakeChoices)[];
/** Fields of a material that make it look as it does. */
const LOOK = [
  'colour',
  'roughness',
  'metallic',
  'ior',
  'transmission',
  'coat',
  'coatRoughness',
  'emission',
  'layers',
] as const satisfies readonly (keyof Material)[];

const times = (v: number, k: number): number => Number((v * k).toPrecision(6));
const short = (v: number): string => figure(v, v >= 100 ? 0 : v >= 10 ? 1 : 2);

/** How far away a thing k times as large fills the same share of the picture: its magnification f/(s − f) is a k-th, so s′ = f + k(s − f). */
export const equalFraming = (f: number, s: number, k: number): number => f + k * (s - f);

/**
 * The f-number that blurs a thing k times as large by the same share of the picture, where it is framed alike: from the disc
 * b = f²·|d − s| / (N·d·(s − f)) about the focus, N′ = N·s/s′ with s′ of {@link equalFraming}. (Were the camera moved to k times the
 * distance instead, the picture would show more of it, and N′ = N(s − f)/(ks − f).)
 *
 * @param s distance the smaller one is focused at, mm
 */
export const equalBlur = (n: number, f: number, s: number, k: number): number => (n * s) / equalFraming(f, s, k);

function unwrapCarried({ unwrap }: AssetDocument): Carried {
  const { padding, seamAngle, rotate, fewer, stretchLimit, whole, unseen, twins, filed } = unwrap;
  const patch = { padding, seamAngle, rotate, fewer, stretchLimit, whole, unseen, ...(twins && { twins }), ...(filed && { filed }) };
  return {
    commands: [{ type: 'unwrap.set', patch }],
    reasons: ['Padding, angles and limits of stretch are counted in texels, degrees and shares: they don’t go with the size.'],
  };
}

function bakeCarried({ bake }: AssetDocument, k: number): Carried {
  const { dabs: _, ...kept } = bake;
  const lengths = Object.fromEntries(LENGTHS.map((key) => [key, times(bake[key], k)]));
  return {
    commands: [{ type: 'bake.set', patch: { ...kept, ...lengths } }],
    reasons: [
      k === 1
        ? 'Both are of one size: distances, reach and radii stay.'
        : `Distances, reach and radii × ${short(k)}, as the piece is: the search in front is ${inUnit(bake.frontMm, 'mm', 2)} there and ${inUnit(times(bake.frontMm, k), 'mm', 2)} here.`,
      ...(bake.dabs.length > 0 ? ['Distances painted by hand are of that piece’s parts and stay there.'] : []),
    ],
  };
}

function surfaceCarried({ materials }: AssetDocument, to: AssetDocument): Carried {
  const both = materials.flatMap((m) => {
    const own = to.materials.find((x) => x.name === m.name);
    return own && !m.texturing && !own.texturing ? [{ m, own }] : [];
  });
  const look = (m: Material) => Object.fromEntries(LOOK.map((key) => [key, structuredClone(m[key])]));
  return {
    commands: both.map(({ m, own }): Command => ({ type: 'material.set', material: own.id, patch: look(m) })),
    reasons:
      both.length === 0
        ? []
        : [
            `Of the same name: ${both.map(({ m }) => m.name).join(', ')}.`,
            'Roughness and film are of the material, not of the piece: they stay, and so do the millimetres of wear, which is as deep on a large thing as on a small one.',
          ],
  };
}

function lightCarried({ rig, shot }: AssetDocument, k: number, focusMm: number | null): Carried {
  const { lamps, surround, background, colour, power } = rig;
  const { azimuth, elevation, lensMm, sensorHeightMm, widthPx, heightPx, margin, sharpShare, iso, tone } = shot;
  const reasons = ['Lamps are placed in radii of the piece, so that they stand and are as large about this one as about that.'];
  let { aperture, seconds } = shot;
  if (aperture !== null && k !== 1 && focusMm !== null && focusMm > lensMm) {
    const n = equalBlur(aperture, lensMm, focusMm, k);
    if (n >= 0.7 && n <= 128) {
      // What reaches the sensor goes with (N(1 + m))², and N(1 + m) = N·s/(s − f) becomes a k-th: the same light in a k²-th of the time.
      reasons.push(
        `f/${short(aperture)} becomes f/${short(n)}, so that what is out of focus is blurred by the same share of the picture: N′ = N·s/(f + k(s − f)), s = ${inUnit(focusMm, 'mm', 0)}; the shutter ÷ k² = ${short(k * k)} for it.`,
      );
      aperture = times(n, 1);
      seconds = times(seconds / (k * k), 1);
    } else
      reasons.push(`To blur the same share of the picture it would need f/${short(n)}, which no lens has; f/${short(aperture)} stays.`);
  } else if (aperture === null) reasons.push('The aperture is solved for what has to be sharp, here as there.');
  else if (k !== 1) reasons.push(`How far away that picture was focused isn’t known, so f/${short(aperture)} stays as it is.`);
  if (power && k !== 1) reasons.push(`Watts × ${short(k * k)}: the same light has to fall on k² = ${short(k * k)} times the area.`);
  const watts = power && {
    key: times(power.key, k * k),
    fill: times(power.fill, k * k),
    rim: times(power.rim, k * k),
    surround: power.surround,
  };
  return {
    commands: [
      {
        type: 'shot.set',
        patch: { azimuth, elevation, lensMm, sensorHeightMm, widthPx, heightPx, margin, sharpShare, aperture, seconds, iso, tone },
      },
      { type: 'rig.set', patch: { lamps: structuredClone(lamps), surround, background, colour, power: watts } },
    ],
    reasons,
  };
}

/**
 * What a run was set to, as another piece can be set to it and keep its look: lengths × k, watts × k², the aperture by equal blur, all
 * that is of the material as it is.
 *
 * @param from the document the run was made from
 * @param k how many times as large the other piece is
 * @param focusMm how far away the run’s picture was focused, where that is known
 */
export function carried(stage: CarriedStage, from: AssetDocument, to: AssetDocument, k: number, focusMm: number | null): Carried {
  switch (stage) {
    case 'unwrap':
      return unwrapCarried(from);
    case 'bake':
      return bakeCarried(from, k);
    case 'surface':
      return surfaceCarried(from, to);
    case 'light':
      return lightCarried(from, k, focusMm);
    case 'hand-off':
      return {
        commands: [{ type: 'handoff.set', patch: structuredClone(from.handoff) }],
        reasons: ['Which files go out, and by which conventions, doesn’t go with the size.'],
      };
    case 'render': {
      const light = lightCarried(from, k, focusMm);
      const { until, samples, noise, seed } = from.render;
      return { ...light, commands: [...light.commands, { type: 'render.set', patch: { until, samples, noise, seed } }] };
    }
  }
}
