import { escaped } from './escaped';

/** Colour of ink, 0 … 255. */
type Ink = readonly [number, number, number];

/** A drawing in true millimetres, y down from its corner: what goes out as SVG or PDF. */
export interface VectorSheet {
  title: string;
  /** One sentence about it. */
  about: string;
  mm: [number, number];
  /** How far inside its edges the finished size lies, mm: what is beyond is cut off. */
  trimMm?: number;
  /** From the one that lies lowest. */
  layers: SheetLayer[];
}
/** What is drawn in one way. */
export interface SheetLayer {
  /** What it is, as the group of an SVG is called. */
  id: string;
  /** Moves, lines and closings, mm: `M0 0L10 0Z`. */
  path: string;
  fill?: Ink;
  stroke?: { ink: Ink; mm: number; dash?: readonly number[]; round?: boolean };
}

/** A length as drawings have it: to a tenth of a micrometre. */
export const mmText = (x: number): string => String(Math.round(x * 1e4) / 1e4);
/** A rectangle as a path, mm. */
export const rectPath = (x: number, y: number, width: number, height: number): string =>
  `M${mmText(x)} ${mmText(y)}L${mmText(x + width)} ${mmText(y)}L${mmText(x + width)} ${mmText(y + height)}L${mmText(x)} ${mmText(y + height)}Z`;
/** Lines as a path. @param list from and to, 4 numbers each, mm */
export function linesPath(list: ArrayLike<number>): string {
  let path = '';
  for (let i = 0; i < list.length; i += 4)
    path += `M${mmText(list[i])} ${mmText(list[i + 1])}L${mmText(list[i + 2])} ${mmText(list[i + 3])}`;
  return path;
}

/** As SVG: its width and height in mm, a unit of the drawing one of them, each layer a group of its own. */
export function sheetSvg({ title, about, mm: [w, h], layers }: VectorSheet): string {
  const colour = (ink: Ink): string => `#${ink.map((x) => x.toString(16).padStart(2, '0')).join('')}`;
  const groups = layers.map(({ id, path, fill, stroke }) => {
    const line = stroke
      ? ` stroke="${colour(stroke.ink)}" stroke-width="${mmText(stroke.mm)}"${stroke.dash ? ` stroke-dasharray="${stroke.dash.map(mmText).join(' ')}"` : ''}${stroke.round ? ' stroke-linejoin="round"' : ''}`
      : '';
    return `<g id="${id}"><path fill="${fill ? colour(fill) : 'none'}"${line} d="${path}"/></g>`;
  });
  const [width, height] = [mmText(w), mmText(h)];
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="0 0 ${width} ${height}"><title>${escaped(title)}</title><desc>${escaped(about)}</desc>${groups.join('')}</svg>\n`;
}

/** Points of a PDF in a millimetre: 72 to the inch (ISO 32000-1, 8.3.2.3). */
export const POINTS_PER_MM = 72 / 25.4;

/**
 * As PDF of one page of exactly its size; where there is bleed, the finished size is its TrimBox (ISO 32000-1, 14.11.2), as printers ask
 * for. The same bytes every time.
 */
export async function sheetPdf({ title, about, mm: [w, h], trimMm = 0, layers }: VectorSheet): Promise<Uint8Array> {
  const { LineJoinStyle, PDFDocument, popGraphicsState, pushGraphicsState, rgb, setLineJoin } = await import('pdf-lib');
  const file = await PDFDocument.create({ updateMetadata: false });
  file.setTitle(title, { showInWindowTitleBar: true });
  file.setSubject(about);
  const page = file.addPage([w * POINTS_PER_MM, h * POINTS_PER_MM]);
  if (trimMm > 0)
    page.setTrimBox(
      trimMm * POINTS_PER_MM,
      trimMm * POINTS_PER_MM,
      Math.max(0, w - 2 * trimMm) * POINTS_PER_MM,
      Math.max(0, h - 2 * trimMm) * POINTS_PER_MM,
    );
  const colour = ([r, g, b]: Ink) => rgb(r / 255, g / 255, b / 255);
  for (const { path, fill, stroke } of layers) {
    if (!path) continue;
    page.pushOperators(pushGraphicsState(), setLineJoin(stroke?.round ? LineJoinStyle.Round : LineJoinStyle.Miter));
    page.drawSvgPath(path, {
      x: 0,
      y: h * POINTS_PER_MM,
      // What is drawn is turned upside down by it too, and so are widths of lines and dashes scaled.
      scale: POINTS_PER_MM,
      ...(fill && { color: colour(fill) }),
      ...(stroke && { borderColor: colour(stroke.ink), borderWidth: stroke.mm, ...(stroke.dash && { borderDashArray: [...stroke.dash] }) }),
    });
    page.pushOperators(popGraphicsState());
  }
  // Without packed objects, which readers of before PDF 1.5 don’t know.
  return file.save({ useObjectStreams: false });
}

/** As a file of either kind. */
export const sheetFile = async (sheet: VectorSheet, as: 'svg' | 'pdf'): Promise<Uint8Array> =>
  as === 'pdf' ? sheetPdf(sheet) : new TextEncoder().encode(sheetSvg(sheet));
