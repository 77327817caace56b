import type { Font, Glyph, PathCommand } from 'opentype.js';
import { FormError } from '../errors';
import type { Vec3 } from '../maths/vec3';
import { doubleArea, fillLoops } from '../mesh/planar';
import { MeshBuilder, type PolyMesh } from '../mesh/polymesh';

/** A closed outline in the plane, mm; the last point is joined to the first. */
export type Outline = [number, number][];

/**
 * A line of text as closed outlines, its middle at the origin, letters upright. Outlines run counter-clockwise, counters
 * (the inside of an o) clockwise.
 *
 * @param height of a capital, mm
 * @param step longest straight piece of a curve, mm
 * @throws FormError `text/glyph` for a letter the typeface lacks
 */
export function lettering(font: Font, text: string, height: number, step: number): Outline[] {
  for (const letter of text)
    if (letter.trim() && font.charToGlyphIndex(letter) === 0)
      throw new FormError('text/glyph', `The typeface that ships with this has no “${letter}”.`);
  const em = font.unitsPerEm;
  const capital = font.charToGlyph('H').getMetrics().yMax || 0.7 * em;
  const size = (height * em) / capital;
  // Letter by letter: ligatures and other substitutions have no place on a dial.
  const commands: PathCommand[] = [];
  let x = 0;
  let before: Glyph | undefined;
  for (const letter of text) {
    const glyph = font.charToGlyph(letter);
    if (before) x += (font.getKerningValue(before, glyph) * size) / em;
    commands.push(...glyph.getPath(x, 0, size).commands);
    x += ((glyph.advanceWidth ?? 0) * size) / em;
    before = glyph;
  }
  const out: Outline[] = [];
  let loop: Outline = [];
  const put = (x: number, y: number) => {
    const last = loop[loop.length - 1];
    if (!last || Math.hypot(last[0] - x, last[1] + y) > 1e-6) loop.push([x, -y]);
  };
  const curve = (points: readonly (readonly [number, number])[]) => {
    const [x0, y0] = loop[loop.length - 1];
    const all = [[x0, -y0] as const, ...points];
    const long = all.slice(1).reduce((s, p, i) => s + Math.hypot(p[0] - all[i][0], p[1] - all[i][1]), 0);
    const n = Math.max(2, Math.ceil(long / step));
    for (let i = 1; i <= n; i++) {
      let row = all.map((p) => [p[0], p[1]]);
      // De Casteljau.
      while (row.length > 1) row = row.slice(1).map((p, k) => [0, 1].map((c) => row[k][c] + (i / n) * (p[c] - row[k][c])));
      put(row[0][0], row[0][1]);
    }
  };
  const close = () => {
    while (loop.length > 1 && Math.hypot(loop[0][0] - loop[loop.length - 1][0], loop[0][1] - loop[loop.length - 1][1]) < 1e-6) loop.pop();
    if (loop.length >= 3) out.push(loop);
    loop = [];
  };
  for (const c of commands) {
    if (c.type === 'M') {
      close();
      put(c.x, c.y);
    } else if (c.type === 'L') put(c.x, c.y);
    else if (c.type === 'Q')
      curve([
        [c.x1, c.y1],
        [c.x, c.y],
      ]);
    else if (c.type === 'C')
      curve([
        [c.x1, c.y1],
        [c.x2, c.y2],
        [c.x, c.y],
      ]);
    else close();
  }
  close();
  if (out.length === 0) throw new FormError('text/empty', 'There is nothing to engrave: the text has no letters.');
  const xs = out.flatMap((l) => l.map((p) => p[0]));
  const middle = (Math.min(...xs) + Math.max(...xs)) / 2;
  // Typefaces run their outlines clockwise with y up, or the other way; the largest loop is an outline.
  const areas = out.map(doubleArea);
  const flip = areas[areas.map(Math.abs).indexOf(Math.max(...areas.map(Math.abs)))] < 0;
  return out.map((l) => {
    const moved = l.map(([x, y]): [number, number] => [x - middle, y - height / 2]);
    return flip ? moved.reverse() : moved;
  });
}

/** Long sides of outlines divided, so that they can follow a curved surface. */
export const divided = (outlines: readonly Outline[], step: number): Outline[] =>
  outlines.map((l) =>
    l.flatMap((p, i) => {
      const q = l[(i + 1) % l.length];
      const n = Math.max(1, Math.ceil(Math.hypot(q[0] - p[0], q[1] - p[1]) / step));
      return Array.from({ length: n }, (_, k): [number, number] => [p[0] + ((q[0] - p[0]) * k) / n, p[1] + ((q[1] - p[1]) * k) / n]);
    }),
  );

/** A solid between two heights over outlines. @param place where a point of the text at a height stands in space */
export function textSolid(
  outlines: readonly Outline[],
  low: number,
  high: number,
  place: (p: [number, number], height: number) => Vec3,
): PolyMesh {
  const builder = new MeshBuilder();
  const flat = outlines.flat();
  const rows = [low, high].map((h) => flat.map((p) => builder.vertex(...(place(p, h) as [number, number, number]))));
  const starts: number[] = [];
  let n = 0;
  for (const l of outlines) {
    starts.push(n);
    n += l.length;
  }
  const loops = outlines.map((l, i) => l.map((_, k) => starts[i] + k));
  const faces = fillLoops(loops, (v) => flat[v]);
  const [floor, sides, top] = ['floor', 'sides', 'top'].map((p) => builder.patch(p));
  const box = (k: 0 | 1) => {
    const all = flat.map((p) => p[k]);
    return [Math.min(...all), Math.max(...all)];
  };
  const [bx, by] = [box(0), box(1)];
  const uv = (v: number) => [(flat[v][0] - bx[0]) / Math.max(bx[1] - bx[0], 1e-9), (flat[v][1] - by[0]) / Math.max(by[1] - by[0], 1e-9)];
  for (const f of faces) {
    builder.face(
      f.map((v) => rows[1][v]),
      top,
      f.flatMap(uv),
      f.map(() => true),
    );
    const back = [...f].reverse();
    builder.face(
      back.map((v) => rows[0][v]),
      floor,
      back.flatMap(uv),
      back.map(() => true),
    );
  }
  for (const loop of loops)
    for (const [i, a] of loop.entries()) {
      const b = loop[(i + 1) % loop.length];
      const [u0, u1] = [i / loop.length, (i + 1) / loop.length];
      builder.face([rows[0][a], rows[0][b], rows[1][b], rows[1][a]], sides, [u0, 0, u1, 0, u1, 1, u0, 1], [true, false, true, false]);
    }
  return builder.build();
}
