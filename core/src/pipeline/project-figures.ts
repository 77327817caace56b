import { gradientOf, type Stops } from '../image/gradient';
import type { Overlap } from '../photo/project/places';
import type { StandHere } from '../photo/project/stand';
import { figure } from '../units/lengths';
import { type AssetDocument, deliveredParts, photosTaken, projectOf } from './document';
import type { GatherCheck, SetFigures } from './gather-figures';

/** Pictures of a projection that can be looked at; the colour is the one that goes out. */
export const PROJECTED = ['baseColour', 'pixels', 'degrees', 'by'] as const;
export type ProjectedMap = (typeof PROJECTED)[number];

/** How many pixels of the photograph a texel got along its side: 5 of 100 at most, half, 95 of 100. */
export interface Spread {
  p05: number;
  p50: number;
  p95: number;
}

/** What is known of photographs laid on a piece. */
export interface ProjectFigures extends SetFigures {
  parts: {
    id: string;
    name: string;
    group: 'opaque' /** Shares of its surface. */;
    seenShare: number;
    acrossShare: number;
    pixels: Spread | null;
  }[];
  /** Of each photograph how many times brighter it is taken, and the share of the surface that it says most of. */
  photos: { id: string; gain: number; share: number }[];
  seenShare: number;
  /** Share of the surface taken from the other side. */
  acrossShare: number;
  pixels: Spread | null;
  overlap: Overlap | null;
  stand: StandHere | null;
  /** How far the set is off the photographs where they see the surface, 255ths. */
  off: { mean: number; p95: number; worst: number; places: number };
  samples: number;
  seconds: number;
}

/** Pixels of the photograph along a texel as colours: rust where it has none to give, pale where one is one. */
export const PIXEL_STOPS: Stops = [
  [-2, [154, 75, 30]],
  [-1, [217, 162, 122]],
  [0, [237, 232, 218]],
  [1, [143, 166, 201]],
  [2, [47, 79, 134]],
];
/** Degrees from straight ahead. */
export const DEGREE_STOPS: Stops = [
  [0, [239, 235, 221]],
  [45, [230, 196, 142]],
  [70, [208, 128, 63]],
  [85, [178, 52, 64]],
];
export const PIXEL_GRADIENT = gradientOf(PIXEL_STOPS);
export const DEGREE_GRADIENT = gradientOf(DEGREE_STOPS);
/** One for each photograph, and for what is taken from across. */
export const PHOTO_COLOURS: readonly (readonly [number, number, number])[] = [
  [12, 112, 111],
  [208, 128, 63],
  [47, 79, 134],
  [122, 138, 62],
  [138, 82, 124],
  [178, 52, 64],
  [98, 160, 178],
  [109, 92, 68],
];
export const ACROSS_COLOUR: readonly [number, number, number] = [222, 214, 190];

/** What is looked for before photographs are laid on. */
export type ProjectCheck = Pick<GatherCheck, 'level' | 'sentence'> & { id: 'photos' | 'parts' | 'layout'; fix?: 'take-all' | 'lay-anew' };

/** What stands in the way of laying photographs on, and what is forgotten. `solved` says which of them have a camera. */
export function projectChecks(document: AssetDocument, solved: (photo: string) => boolean): ProjectCheck[] {
  const out: ProjectCheck[] = [];
  const photos = photosTaken(document);
  const { left } = projectOf(document);
  const parts = deliveredParts(document);
  const open = photos.filter((p) => !solved(p.id));
  if (photos.length === 0) out.push({ id: 'photos', level: 'over', sentence: 'No photograph is to be laid on.' });
  else if (open.length > 0)
    out.push({
      id: 'photos',
      level: 'over',
      sentence: `Where ${open.map((p) => `“${p.name}”`).join(', ')} ${open.length === 1 ? 'was' : 'were'} taken from isn’t known yet: match the camera in Form.`,
    });
  else
    out.push({
      id: 'photos',
      level: 'ok',
      sentence: `${photos.length === 1 ? 'One photograph, its camera' : `${photos.length} photographs, their cameras`} known.`,
    });
  const forgotten = parts.filter((p) => left.includes(p.id));
  if (forgotten.length === parts.length)
    out.push({ id: 'parts', level: 'over', sentence: 'Every part is left out: there is nothing to lay them on.', fix: 'take-all' });
  else if (forgotten.length > 0)
    out.push({
      id: 'parts',
      level: 'near',
      sentence: `Left as ${forgotten.length === 1 ? 'it is' : 'they are'}: ${forgotten.map((p) => p.name).join(', ')}.`,
      fix: 'take-all',
    });
  if (document.unwrap.filed === 'kept')
    out.push({
      id: 'layout',
      level: 'near',
      sentence: 'The layouts are those the files brought; where islands lie on each other they get the same picture.',
      fix: 'lay-anew',
    });
  return out;
}

/** What it came to in a sentence, and how bad it is. */
export function projectVerdict(f: ProjectFigures): { level: 'ok' | 'near' | 'over'; sentence: string } {
  const blind = 1 - f.seenShare - f.acrossShare;
  if (f.seenShare === 0) return { level: 'over', sentence: 'No photograph sees any of it.' };
  const seen = `${figure(100 * f.seenShare, 0)} % of the surface is seen${f.acrossShare > 0.001 ? `, ${figure(100 * f.acrossShare, 0)} % taken from the other side` : ''}`;
  if (f.overlap && f.overlap.after > 12)
    return { level: 'near', sentence: `${seen}; where photographs meet they are ${figure(f.overlap.after, 0)} of 255 apart, which shows.` };
  if (blind > 0.05) return { level: 'near', sentence: `${seen}; ${figure(100 * blind, 0)} % is not, and has the mean colour of its part.` };
  return { level: 'ok', sentence: `${seen}.` };
}

/** How large a set the photographs have something to say for, in a sentence; null where they see nothing. */
export function honestSize(f: ProjectFigures): { px: number; most: number; sentence: string } | null {
  if (!f.pixels) return null;
  const [px, most] = [f.size * f.pixels.p50, f.size * f.pixels.p95];
  const inHalf = `half of what is seen has ${figure(f.pixels.p50, 2)} px or more of the photograph along a texel`;
  if (most < 0.9 * f.size)
    return {
      px,
      most,
      sentence: `${inHalf}: a set of ${figure(Math.round(most), 0)} px would show all there is; the rest of ${f.size} px is empty.`,
    };
  if (px > 1.1 * f.size) return { px, most, sentence: `${inHalf}: a set up to ${figure(Math.round(px), 0)} px would show more.` };
  return { px, most, sentence: `${inHalf}: ${f.size} px is about what the photograph has.` };
}

const SIDES = [
  'in front',
  'in front, to the right',
  'to the right',
  'behind, to the right',
  'behind',
  'behind, to the left',
  'to the left',
  'in front, to the left',
];

/** Where to stand for the next photograph, in a sentence; `length` says lengths in the unit of the asset. */
export function standWords(s: StandHere, length: (mm: number) => string): string {
  const side = SIDES[Math.round(s.azimuth / 45) % 8];
  if (s.share < 0.02) return 'What is unseen can’t be seen from anywhere above the ground.';
  return `Stand ${side} (${figure(s.azimuth, 0)}° round from the front), ${length(s.distanceMm)} away, the camera ${length(s.heightMm)} up: from there ${figure(100 * s.share, 0)} % of what is unseen now can be seen.${s.never > 0.01 ? ` ${figure(100 * s.never, 0)} % of the surface can’t be seen from anywhere above the ground.` : ''}`;
}
