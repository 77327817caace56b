import { add, cross, normalise, scale, sub, type Vec3, vec3 } from '../maths/vec3';
import type { Bounds } from '../mesh/measures';
import { EFFICACY } from './exposure';
import { corners, formFactor, type Lamp, lampArea, lampPower } from './lamps';

/** A sphere round the piece: what a rig is sized by. mm. */
export interface Subject {
  centre: Vec3;
  radius: number;
  /** Height of what it stands on. */
  floor: number;
}

/** What a rig is built about: the sphere round a piece and the floor it stands on, mm. */
export function subjectOf(b: Bounds): Subject {
  const centre = vec3((k) => (b.min[k] + b.max[k]) / 2);
  return { centre, radius: Math.max(1, Math.hypot(b.max[0] - b.min[0], b.max[1] - b.min[1], b.max[2] - b.min[2]) / 2), floor: b.min[1] };
}

export const LAMPS = ['key', 'fill', 'rim'] as const;
/** The three lamps of a rig. */
export type LampName = (typeof LAMPS)[number];

/** One lamp of a rig, seen from the camera. Sizes and distances in radii of the subject, so that a rig fits any piece. */
export interface LampChoice {
  /** Degrees to the right of the camera, and above the floor's plane. */
  turn: number;
  raise: number;
  distance: number;
  width: number;
  height: number;
  /** Arriving light against the others, as it is wanted when the lamps are solved. */
  ratio: number;
  /** Colour temperature, K. */
  kelvin: number;
}

/** What is behind the piece in its picture. */
export type Background = 'paper' | 'white' | 'colour' | 'transparent';

/** What the lamps and the surroundings give off, once that was decided. */
export interface Power extends Record<LampName, number> {
  /** Radiance from all round, W/(m²·sr); the lamps are in W. */
  surround: number;
}

/** How a piece is lit, in shares and radii, so that it fits any piece. */
export interface Rig {
  name: string;
  lamps: Record<LampName, LampChoice>;
  /** Light from all round, as a share of the key's. */
  surround: number;
  background: Background;
  /** sRGB of the backdrop, and of the picture's ground when `colour`. */
  colour: [number, number, number];
  /** Watts that are kept whatever the camera does; null while nobody has decided on any, see {@link lightRig}. */
  power: Power | null;
}

/**
 * Key to the left and high, a larger fill low on the right, a narrow rim behind. Angles and the ratio of 4 : 1 : 2, two
 * stops between key and fill, are common practice, no source.
 */
export const RIG_DEFAULTS: Rig = {
  name: 'Three lamps',
  lamps: {
    key: { turn: -40, raise: 35, distance: 3.6, width: 1.5, height: 1.5, ratio: 4, kelvin: 5500 },
    fill: { turn: 52, raise: 12, distance: 4.2, width: 2.4, height: 2.4, ratio: 1, kelvin: 5500 },
    rim: { turn: 148, raise: 38, distance: 3.6, width: 0.6, height: 2, ratio: 2, kelvin: 5500 },
  },
  surround: 0.3,
  background: 'paper',
  colour: [0.93, 0.91, 0.87],
  power: null,
};

/** One lamp at the piece’s real size; lengths in mm. */
export interface LampFigures {
  name: LampName;
  /** Radiant power, W, and luminous flux, lm. */
  watts: number;
  lumens: number;
  /** W/(m²·sr). */
  radiance: number;
  /** Arriving at the piece on a card that faces the lamp, W/m². */
  arriving: number;
  /** f-stops under the key. */
  stopsBelowKey: number;
  distanceMm: number;
  widthMm: number;
  heightMm: number;
}

/** A rig at the piece’s real size. */
export interface SolvedRig {
  lamps: Lamp[];
  /** Radiance from all round, W/(m²·sr). */
  environment: [number, number, number];
  figures: LampFigures[];
  power: Power;
  /** Irradiance on the card, W/m². */
  cardIrradiance: number;
  /** The grey card's reading as a share of full: a measurement of these lamps through this camera. */
  cardReading: number;
}

/** Reflectance of the photographer's grey card (common practice, no source). */
export const GREY_CARD = 0.18;

/** A direction from the subject: `turn` about the vertical from the camera's own, `raise` above the horizontal. Degrees. */
export function directionFrom(cameraAzimuth: number, turn: number, raise: number): Vec3 {
  const a = ((cameraAzimuth + turn) * Math.PI) / 180;
  const r = (raise * Math.PI) / 180;
  return [Math.sin(a) * Math.cos(r), Math.sin(r), Math.cos(a) * Math.cos(r)];
}

/**
 * Linear Rec. 709 colour of a black body, brightest channel 1, by the rational fit of Krystek (1985) to the Planckian locus
 * in CIE 1960 u, v; 1000 … 15 000 K. Coefficients from memory, checked against the published chromaticity of illuminant A.
 */
export function blackBody(kelvin: number): [number, number, number] {
  const t = Math.min(15000, Math.max(1000, kelvin));
  const u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t);
  const v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t);
  const x = (3 * u) / (2 * u - 8 * v + 4);
  const y = (2 * v) / (2 * u - 8 * v + 4);
  const [X, Y, Z] = [x / y, 1, (1 - x - y) / y];
  // XYZ to Rec. 709 (ITU-R BT.709, IEC 61966-2-1 annex).
  const rgb = [3.2406 * X - 1.5372 * Y - 0.4986 * Z, -0.9689 * X + 1.8758 * Y + 0.0415 * Z, 0.0557 * X - 0.204 * Y + 1.057 * Z];
  const top = Math.max(...rgb);
  return rgb.map((c) => Math.max(0, c / top)) as [number, number, number];
}

/** White of the pictures: daylight of 5500 K counts as neutral. */
const NEUTRAL = blackBody(5500);
const tint = (kelvin: number): [number, number, number] => {
  const c = blackBody(kelvin).map((x, k) => x / NEUTRAL[k]);
  const mean = (c[0] + c[1] + c[2]) / 3;
  return c.map((x) => x / mean) as [number, number, number];
};

/** Lamps in their places, of radiance 1. */
export function placeLamps(rig: Rig, subject: Subject, cameraAzimuth: number): Lamp[] {
  return LAMPS.map((name) => {
    const c = rig.lamps[name];
    const out = directionFrom(cameraAzimuth, c.turn, c.raise);
    const centre = add(subject.centre, scale(out, c.distance * subject.radius));
    const right = normalise(cross([0, 1, 0], out));
    const up = cross(out, right);
    // It shines back at the piece: u × v = −out.
    return {
      name,
      centre,
      u: scale(right, -(c.width * subject.radius) / 2),
      v: scale(up, (c.height * subject.radius) / 2),
      radiance: [1, 1, 1],
    };
  });
}

/** What a rig is in its place: lamps of radiance 1, and the share of light that reaches a card from each. */
function placed(rig: Rig, subject: Subject, cameraAzimuth: number) {
  const lamps = placeLamps(rig, subject, cameraAzimuth);
  const facing = lamps.map((l) => normalise(sub(l.centre, subject.centre)));
  return {
    lamps,
    /** On a card that faces the lamp itself. */
    own: lamps.map((l, i) => formFactor(subject.centre, facing[i], corners(l))),
    /** On the card that faces the key. */
    onCard: lamps.map((l) => formFactor(subject.centre, facing[0], corners(l))),
  };
}

/**
 * The power every lamp needs so that a grey card of 18 % at the piece, facing the key, reads 0.18 of full, and the light that
 * arrives from each lamp on a card facing it is in the rig's ratio. The surround is a share of the key's arriving light.
 *
 * The card sees the key and whatever of the others is above its horizon: E = Σ π·Lᵢ·Fᵢ, and a Lambert card of reflectance ρ
 * has the radiance ρE/π; it should be ρ·L_full, so E = π·L_full.
 *
 * @param full radiance that fills the picture, W/(m²·sr)
 */
export function solvePower(rig: Rig, subject: Subject, cameraAzimuth: number, full: number): Power {
  const { lamps, own, onCard } = placed(rig, subject, cameraAzimuth);
  const ratio = LAMPS.map((n) => rig.lamps[n].ratio / rig.lamps.key.ratio);
  // With the key's arriving light as 1, what the card gets altogether.
  const perKey = lamps.reduce((s, _, i) => s + (ratio[i] * onCard[i]) / own[i], 0) + rig.surround;
  const key = (Math.PI * full) / perKey;
  // P = π·L·A, and L = E/(π·F).
  const watts = lamps.map((l, i) => (key * ratio[i] * lampArea(l)) / own[i]);
  return { key: watts[0], fill: watts[1], rim: watts[2], surround: (key * rig.surround) / Math.PI };
}

/**
 * Lamps of given watts in their places, and what comes of them: the light that arrives, and what a grey card reads through the camera as
 * it is set. Nothing here follows the camera: a shutter open twice as long reads a stop more.
 *
 * @param full radiance that fills the picture, W/(m²·sr)
 */
export function lightRig(rig: Rig, subject: Subject, cameraAzimuth: number, power: Power, full: number): SolvedRig {
  const { lamps, own, onCard } = placed(rig, subject, cameraAzimuth);
  for (const [i, l] of lamps.entries()) {
    const radiance = power[LAMPS[i]] / (Math.PI * lampArea(l));
    l.radiance = tint(rig.lamps[LAMPS[i]].kelvin).map((c) => c * radiance) as [number, number, number];
  }
  const mean = lamps.map((l) => (l.radiance[0] + l.radiance[1] + l.radiance[2]) / 3);
  const arriving = mean.map((radiance, i) => Math.PI * radiance * own[i]);
  const figures = lamps.map((l, i): LampFigures => {
    const c = rig.lamps[LAMPS[i]];
    const watts = lampPower(l);
    return {
      name: LAMPS[i],
      watts,
      lumens: watts * EFFICACY,
      radiance: watts / (Math.PI * lampArea(l)),
      arriving: arriving[i],
      stopsBelowKey: Math.log2(arriving[0] / Math.max(1e-12, arriving[i])),
      distanceMm: c.distance * subject.radius,
      widthMm: c.width * subject.radius,
      heightMm: c.height * subject.radius,
    };
  });
  const around = power.surround;
  const cardIrradiance = mean.reduce((s, radiance, i) => s + Math.PI * radiance * onCard[i], 0) + Math.PI * around;
  return {
    lamps,
    environment: [around, around, around],
    figures,
    power,
    cardIrradiance,
    cardReading: (GREY_CARD * cardIrradiance) / (Math.PI * full),
  };
}
