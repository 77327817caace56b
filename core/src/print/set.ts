import type { Font, PathCommand } from 'opentype.js';
import { FormError, InputError } from '../errors';
import { hash32 } from '../maths/random';
import type { BarsArtwork, DialArtwork, TextArtwork } from './print';

/** Something set from words or figures, as a drawing in mm. */
export interface Drawing {
  svg: string;
  width: number;
  height: number;
}

/** The most ticks a scale may have, and letters a text. */
const [MOST_TICKS, MOST_LETTERS] = [2000, 2000];

const hex = (colour: readonly number[]): string =>
  `#${colour
    .map((c) =>
      Math.round(255 * c)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
const n3 = (x: number): string => String(Math.round(x * 1e4) / 1e4);

/** A path being drawn, y down, with the box it fills. */
class Path {
  private readonly words: string[] = [];
  low: [number, number] = [Infinity, Infinity];
  high: [number, number] = [-Infinity, -Infinity];

  private put([x, y]: readonly [number, number]): string {
    this.low = [Math.min(this.low[0], x), Math.min(this.low[1], y)];
    this.high = [Math.max(this.high[0], x), Math.max(this.high[1], y)];
    return `${n3(x)} ${n3(y)}`;
  }

  /** A letter’s outline, moved. */
  glyph(commands: readonly PathCommand[], place: (x: number, y: number) => [number, number]): void {
    for (const c of commands) {
      if (c.type === 'Z') this.words.push('Z');
      else if (c.type === 'M' || c.type === 'L') this.words.push(c.type + this.put(place(c.x, c.y)));
      else if (c.type === 'Q') this.words.push(`Q${this.put(place(c.x1, c.y1))} ${this.put(place(c.x, c.y))}`);
      else this.words.push(`C${this.put(place(c.x1, c.y1))} ${this.put(place(c.x2, c.y2))} ${this.put(place(c.x, c.y))}`);
    }
  }

  /** Corners one after the other, closed. */
  polygon(points: readonly (readonly [number, number])[]): void {
    this.words.push(`M${points.map((p) => this.put(p)).join('L')}Z`);
  }

  /** Makes its box hold these corners too. */
  covers(...corners: readonly (readonly [number, number])[]): void {
    for (const c of corners) this.put(c);
  }

  drawing(colour: readonly number[]): Drawing {
    const [width, height] = [this.high[0] - this.low[0], this.high[1] - this.low[1]];
    if (!(width > 0 && height > 0)) throw new InputError('print/empty', 'There is nothing in it to print.');
    const box = [this.low[0], this.low[1], width, height].map(n3).join(' ');
    return {
      svg: `<svg xmlns="http://www.w3.org/2000/svg" width="${n3(width)}mm" height="${n3(height)}mm" viewBox="${box}"><path fill="${hex(colour)}" fill-rule="nonzero" d="${this.words.join('')}"/></svg>`,
      width,
      height,
    };
  }
}

/** A typeface at a height of its capitals. */
class Setter {
  private readonly perUnit: number;
  constructor(
    private readonly font: Font,
    readonly capital: number,
    private readonly tracking = 0,
  ) {
    this.perUnit = capital / (font.charToGlyph('H').getMetrics().yMax || 0.7 * font.unitsPerEm);
  }

  /** Letters of a line with where each begins, mm, and how long the line is. @throws FormError `text/glyph` */
  line(text: string): { letters: { letter: string; x: number; advance: number }[]; width: number } {
    const { font, perUnit } = this;
    const letters: { letter: string; x: number; advance: number }[] = [];
    const list = [...text];
    let x = 0;
    for (const [i, letter] of list.entries()) {
      if (letter.trim() && font.charToGlyphIndex(letter) === 0)
        throw new FormError('text/glyph', `The typeface that ships with this has no “${letter}”.`);
      const glyph = font.charToGlyph(letter);
      if (i > 0)
        x += font.getKerningValue(font.charToGlyph(list[i - 1]), glyph) * perUnit + (this.tracking / 1000) * font.unitsPerEm * perUnit;
      const advance = (glyph.advanceWidth ?? 0) * perUnit;
      letters.push({ letter, x, advance });
      x += advance;
    }
    return { letters, width: x };
  }

  /** A letter’s outline with its beginning on the baseline at the origin, y down, mm. */
  outline(letter: string): PathCommand[] {
    return this.font.charToGlyph(letter).getPath(0, 0, this.perUnit * this.font.unitsPerEm).commands;
  }
}

/** Text as a drawing: its lines over each other, straight or round an arc. @throws WellmorphError in one sentence */
export function setText(font: Font, { text, capital, tracking, leading, align, arc, colour }: TextArtwork): Drawing {
  if (text.length > MOST_LETTERS) throw new InputError('print/text', `A text can have up to ${MOST_LETTERS} letters.`);
  const setter = new Setter(font, capital, tracking);
  const path = new Path();
  const lines = text.split('\n').map((l) => setter.line(l));
  const widest = Math.max(...lines.map((l) => l.width));
  for (const [row, { letters, width }] of lines.entries()) {
    const from = align === 'left' ? -widest / 2 : align === 'right' ? widest / 2 - width : -width / 2;
    const baseline = row * leading * capital;
    // Of lines that stand on a circle the next is nearer to its middle; of those that hang on one it is farther out.
    const radius = arc - baseline;
    if (arc !== 0 && radius * arc <= 0)
      throw new InputError('print/arc', `Line ${row + 1} of the text comes to the middle of its circle: a larger one is needed.`);
    for (const { letter, x, advance } of letters) {
      const commands = setter.outline(letter);
      if (arc === 0) {
        path.glyph(commands, (a, b) => [from + x + a, baseline + b]);
        continue;
      }
      const middle = from + x + advance / 2;
      const turn = middle / radius;
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      path.glyph(commands, (a, b) => {
        // On the circle: its middle below a text that stands on it, above one that hangs.
        const [u, v] = [a - advance / 2, b - radius];
        return [c * u - s * v, s * u + c * v];
      });
    }
  }
  return path.drawing(colour);
}

/** How many values a scale says. */
const valuesOf = ({ from, to, step }: DialArtwork): number => Math.floor((to - from) / step + 1e-9) + 1;

/** Where a value of a scale stands, clockwise from straight down, degrees. */
export const dialAngle = ({ from, to, begins, sweep }: DialArtwork, value: number): number =>
  begins + (sweep * (value - from)) / (to - from);

/** A scale with its ticks and numerals. @throws WellmorphError in one sentence */
export function setDial(font: Font, dial: DialArtwork): Drawing {
  const { from, to, step, parts, diameter, long, short, thick, numerals, unit, colour } = dial;
  if (!(to > from) || !(step > 0)) throw new InputError('print/scale', 'A scale goes from a smaller value to a larger one, in steps.');
  const values = valuesOf(dial);
  if (values * parts > MOST_TICKS)
    throw new InputError('print/ticks', `That would be ${values * parts} ticks; a scale can have up to ${MOST_TICKS}.`);
  const radius = diameter / 2;
  if (long + numerals >= radius) throw new InputError('print/room', 'Ticks and numerals leave no room in the middle of the scale.');
  const path = new Path();
  const at = (angle: number, r: number): [number, number] => {
    const a = (angle * Math.PI) / 180;
    return [-r * Math.sin(a), r * Math.cos(a)];
  };
  const tick = (value: number, size: number, wide: number) => {
    const angle = dialAngle(dial, value);
    const [ax, ay] = at(angle, radius);
    const [bx, by] = at(angle, radius - size);
    const [sx, sy] = [(-(by - ay) / size) * (wide / 2), ((bx - ax) / size) * (wide / 2)];
    path.polygon([
      [ax + sx, ay + sy],
      [bx + sx, by + sy],
      [bx - sx, by - sy],
      [ax - sx, ay - sy],
    ]);
  };
  const setter = new Setter(font, numerals);
  const put = (text: string, x: number, y: number) => {
    const { letters, width } = setter.line(text);
    for (const l of letters) path.glyph(setter.outline(l.letter), (a, b) => [x - width / 2 + l.x + a, y + numerals / 2 + b]);
  };
  for (let i = 0; i < values; i++) {
    const value = from + i * step;
    tick(value, long, thick);
    for (let k = 1; k < parts; k++) {
      const between = value + (k * step) / parts;
      if (between < to - 1e-9) tick(between, short, thick / 2);
    }
    const words = String(Math.round(value * 1e6) / 1e6);
    const wide = setter.line(words).width;
    // As far in as the numeral needs, seen along its own direction.
    const [dx, dy] = at(dialAngle(dial, value), 1);
    const room = Math.abs(dx) * (wide / 2) + Math.abs(dy) * (numerals / 2);
    put(words, ...at(dialAngle(dial, value), radius - long - 0.35 * numerals - room));
  }
  if (unit.trim()) put(unit, 0, 0.45 * radius);
  // All of its circle, where it doesn’t go all round as well: its middle is that of the dial.
  path.covers([-radius, -radius], [radius, radius]);
  return path.drawing(colour);
}

/** Bars that say nothing. */
export function setBars({ seed, width, height, colour }: BarsArtwork): Drawing {
  const path = new Path();
  // Bars and gaps of one to four modules in turn, until the width is full.
  const list: number[] = [];
  let modules = 0;
  for (let i = 0; modules < 95; i++) {
    const wide = 1 + (hash32(seed + 7919 * i) % 4);
    list.push(wide);
    modules += wide;
  }
  if (list.length % 2 === 0) modules -= list.pop() as number;
  const module = width / modules;
  let x = 0;
  for (const [i, wide] of list.entries()) {
    if (i % 2 === 0)
      path.polygon([
        [x * module, 0],
        [(x + wide) * module, 0],
        [(x + wide) * module, height],
        [x * module, height],
      ]);
    x += wide;
  }
  return path.drawing(colour);
}
