import { pixelMm } from '../brief/advice';
import type { Brief } from '../brief/brief';
import type { CarrierKind } from './carrier';
import type { Print } from './print';

/** What is known of a print where it lies, before and after it is drawn. Lengths in mm. */
export interface PrintFigures {
  id: string;
  name: string;
  lies: CarrierKind;
  /** Of what it goes round: its diameter, and how far the print goes, degrees. */
  round: { diameter: number; degrees: number } | null;
  /** Length once round what it lies on, and in which of the two, where that closes on itself. */
  girth: { mm: number; axis: 0 | 1 } | null;
  /** From its edges to those of its face: left, right, below, above; null where there is none. */
  edges: { left: number | null; right: number | null; below: number | null; above: number | null };
  /** Share of its ink that lies on nothing. */
  off: number;
  /** How much longer, or shorter, a mm of it comes out: on the mean, and where it is worst. */
  stretch: { mean: number; most: number };
  /** Pixels a mm: that its texels come to on the mean and where they are coarsest, and its own; none for what is drawn from lines. */
  pxPerMm: { mean: number; least: number; own: number | null };
  /** Seams of the layout that cross it. */
  seams: number;
  leans: number;
  mirrored: boolean;
}

/** The height of the smallest capital of a print, mm; null where nobody knows. */
const smallestOf = ({ artwork, smallest }: Print): number | null =>
  artwork.kind === 'text' ? artwork.capital : artwork.kind === 'dial' ? artwork.numerals : (smallest ?? null);

/** Its smallest capital: its height, on screen from the closest view of the brief, and in texels. */
export function legibility(f: PrintFigures, print: Print, brief: Brief): { mm: number; screenPx: number; texels: number } | null {
  const mm = smallestOf(print);
  return mm === null ? null : { mm, screenPx: mm / pixelMm(brief), texels: mm * f.pxPerMm.mean };
}

/** What is said of a print, and how bad it is. */
export interface PrintVerdict {
  level: 'ok' | 'near' | 'over';
  sentence: string;
}

/** Capitals under so many pixels can’t be read: five rows and a gap make a letter. Common practice, no source. */
const READ = 7;

/** What of a print is as it shouldn’t be, worst first. */
export function printVerdicts(f: PrintFigures, print: Print, brief: Brief): PrintVerdict[] {
  const out: PrintVerdict[] = [];
  const say = (level: PrintVerdict['level'], sentence: string) => out.push({ level, sentence });
  const share = (x: number) => `${(100 * x).toFixed(x < 0.1 ? 1 : 0)} %`;
  if (f.off > 0.999) say('over', 'It lies beside the surface: nothing of it is printed.');
  else if (f.off > 0.002) say('over', `${share(f.off)} of it lies beyond the surface and is cut off.`);
  if (f.mirrored) say('near', 'It is printed mirrored.');
  if (Math.abs(f.leans) > 135) say('near', 'It stands on its head.');
  if (f.stretch.most > 1.1)
    say(
      f.stretch.most > 1.25 ? 'over' : 'near',
      `It is drawn out by up to ${share(f.stretch.most - 1)}: what lies under it can’t be unrolled.`,
    );
  const read = legibility(f, print, brief);
  if (read) {
    const { mm, screenPx, texels } = read;
    const words = `Capitals of ${mm.toFixed(1)} mm are ${screenPx.toFixed(0)} px high from the closest view and get ${texels.toFixed(0)} texels`;
    if (texels < READ && screenPx >= READ) say('over', `${words}: too few to be read; give it more of the tile.`);
    else if (screenPx < READ) say('near', `${words}: too small to be read from there.`);
    else say('ok', `${words}.`);
  }
  if (f.pxPerMm.own !== null && f.pxPerMm.mean > 0 && f.pxPerMm.own < 0.5 * f.pxPerMm.mean)
    say('near', `Its picture has ${f.pxPerMm.own.toFixed(1)} px a mm, the texture ${f.pxPerMm.mean.toFixed(1)}: it will look soft.`);
  const edges = Object.values(f.edges).filter((e): e is number => e !== null);
  const nearest = Math.min(...edges);
  if (print.keepClear && edges.length > 0 && nearest < print.keepClear - 1e-6 && nearest > 0)
    say('near', `An edge is ${nearest.toFixed(1)} mm from that of its face; ${print.keepClear.toFixed(1)} mm were to be kept clear.`);
  return out.sort((a, b) => RANK[b.level] - RANK[a.level]);
}
const RANK = { ok: 0, near: 1, over: 2 };
