import type { Spot } from '../form/places';
import type { Vec3 } from '../maths/vec3';
import type { BlendMode } from '../surface/blend';

/** What is printed: a picture as it was brought, or something set here from words and figures. */
export type Artwork = PictureArtwork | TextArtwork | DialArtwork | BarsArtwork;

/** A picture as it was brought. */
export interface PictureArtwork {
  kind: 'picture';
  blob: string;
  fileName: string;
  mime: 'image/png' | 'image/jpeg' | 'image/webp' | 'image/svg+xml';
  /** px; of a drawing without a size of its own as it would be shown. */
  widthPx: number;
  heightPx: number;
  /** Dots per inch as the file says; absent where it doesn’t. */
  dpi?: number;
  /** What is not printed of a picture without alpha of its own. */
  cut?: Cut;
  /** Where it came from and under which licence, for the spec sheet. */
  source?: string;
}
/** What is left out of a picture: its white, its black, or what has a colour. */
export type Cut = 'white' | 'black' | { colour: Rgb; reach: number };
type Rgb = [number, number, number];

/** How text is set: over a straight line or round an arc. */
export interface TextArtwork {
  kind: 'text';
  /** Lines, from the top. */
  text: string;
  /** Height of a capital, mm. */
  capital: number;
  /** Space added between letters, thousandths of the size. */
  tracking: number;
  /** From one line to the next, of the capitals’ height. */
  leading: number;
  align: 'left' | 'middle' | 'right';
  /** Radius of the circle it stands on, mm; less than nothing hangs it below; straight when 0. */
  arc: number;
  colour: Rgb;
}

/** A scale round a middle, as gauges have. */
export interface DialArtwork {
  kind: 'dial';
  /** The first and last value, and from one to the next of what has a long tick and a numeral. */
  from: number;
  to: number;
  step: number;
  /** Short ticks between two long ones, one less than the parts. */
  parts: number;
  /** Where the first value stands and how far round the scale goes, clockwise from straight down, degrees. */
  begins: number;
  sweep: number;
  /** Outer ends of the ticks, mm from edge to edge. */
  diameter: number;
  /** Lengths of ticks and height of numerals, mm. */
  long: number;
  short: number;
  thick: number;
  numerals: number;
  unit: string;
  colour: Rgb;
}

/** Plain bars, which stand for a code that somebody else will set: they say nothing. */
export interface BarsArtwork {
  kind: 'bars';
  /** Which bars. */
  seed: number;
  /** mm */
  width: number;
  height: number;
  colour: Rgb;
}

/** How a print looks and feels against what it lies on. What is absent stays as it is below. */
export interface Ink {
  opacity: number;
  blend: BlendMode;
  roughness?: number;
  metallic?: number;
  coat?: number;
  /** µm above what it lies on; embossed less than nothing. */
  relief?: number;
}

/** From where a print is measured across or up: from where it was put, from an edge of its face to its own, or between the middles. */
export type From = 'put' | 'low' | 'high' | 'middle';
export interface Offset {
  from: From;
  mm: number;
}

/** A print on a part. Lengths in mm. */
export interface Print {
  id: string;
  name: string;
  on: boolean;
  part: string;
  artwork: Artwork;
  width: number;
  height: number;
  /** Where it was put, in the part’s own space; and on which patch, where it has such. */
  at: { point: Vec3; normal: Vec3; spot?: Spot };
  across: Offset;
  up: Offset;
  /** Counter-clockwise, degrees. */
  turn: number;
  mirrored?: boolean;
  /** Only within a region of the part. */
  region?: string;
  ink: Ink;
  /** Height of its smallest capital, where it is a picture and somebody said so; of text set here it is known. */
  smallest?: number;
  /** How far its edges are to be kept from those of its face; not at all when absent. */
  keepClear?: number;
}

export const INK: Ink = { opacity: 1, blend: 'normal' };

/** So many prints a piece may have. */
export const MOST_PRINTS = 60;
/** Sides of a print, mm. */
export const PRINT_MM = { min: 0.5, max: 5000 } as const;

/** Size of a picture by its dots: mm = px ÷ dpi · 25.4. */
export const printedMm = (px: number, dpi: number): number => (px / dpi) * 25.4;
/** Dots per inch of a picture that is so large. */
export const dpiOf = (px: number, mm: number): number => (px / mm) * 25.4;
/** What files say of dots per inch is taken within these; screens say 72 or 96 of everything. */
export const SENSIBLE_DPI = { min: 36, max: 4800 } as const;
