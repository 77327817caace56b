import { getDocumentProxy, getResolvedPDFJS } from 'unpdf';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { decodePng } from '../image/png';
import { IDENTITY, rotation } from '../maths/mat4';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { unwrap } from '../pipeline/unwrap';
import { islandTemplate, templatePng, templateSheet, templateWords } from './template';
import { sheetPdf, sheetSvg } from './vector-sheet';

const OPTIONS = { dpi: 254, bleedMm: 2 };
const laid = (mesh: PolyMesh) =>
  unwrap([{ id: 'a', name: 'Tin <lid>', mesh, placements: [IDENTITY] }], {
    size: 512,
    padding: 4,
    seamAngle: 50,
    rotate: true,
    whole: true,
    weights: {},
    regions: {},
  }).parts[0];

/** A wall of flat sides round y, radius 10 and height 30 mm, open above and below. */
function wall(sides = 24): PolyMesh {
  const positions = Array.from({ length: 2 * sides }, (_, i) => {
    const a = (2 * Math.PI * (i % sides)) / sides;
    return [10 * Math.sin(a), i < sides ? 0 : 30, 10 * Math.cos(a)];
  }).flat();
  const faceVert = Array.from({ length: sides }, (_, i) => [i, (i + 1) % sides, sides + ((i + 1) % sides), sides + i]).flat();
  return makeMesh({ positions, faceStart: Array.from({ length: sides + 1 }, (_, i) => 4 * i), faceVert });
}

describe('a template for artwork', () => {
  it('is as large as what is printed on: round a tin of 24 sides, 2 · 24 · r · sin(π / 24) wide and as high as it is', () => {
    const tin = laid(wall());
    const t = islandTemplate(tin, 0, OPTIONS);
    const round = 2 * 24 * 10 * Math.sin(Math.PI / 24);
    expect(t.islandMm[0]).toBeCloseTo(round, 3);
    expect(t.islandMm[1]).toBeCloseTo(30, 3);
    expect(t.sheetMm[0]).toBeCloseTo(round + 4, 3);
    // 254 dpi are ten pixels a millimetre.
    expect(t.sheetPx).toEqual([Math.round(10 * (round + 4)), 340]);
    expect(templateWords(t)).toBe('62.7 × 30 mm, 667 × 340 px at 254 dpi with 2 mm of bleed');
    const svg = sheetSvg(templateSheet(t));
    expect(svg).toContain(`width="${(round + 4).toFixed(4).slice(0, 6)}`);
    expect(svg).toContain('<title>Tin &#60;lid&#62;, island 1</title>');
    // Its edge is as long as the island is round, in millimetres.
    let edge = 0;
    for (let i = 0; i < t.outline.length; i += 4) edge += Math.hypot(t.outline[i + 2] - t.outline[i], t.outline[i + 3] - t.outline[i + 1]);
    expect(edge).toBeCloseTo(2 * (round + 30), 2);
  });

  it('stands as the piece does: what is higher on the wall is higher on the sheet, however it lies in the tile', () => {
    for (const turn of [0, 0.7, 2.4]) {
      const tin = laid(wall());
      const uv = attribute(tin.mesh, 'uv', 'corner')?.data as Float64Array;
      const [c, s] = [Math.cos(turn) / 2, Math.sin(turn) / 2];
      const turned = Float64Array.from(uv, (_, i) =>
        i % 2 === 0 ? c * (uv[i] - 0.5) - s * (uv[i + 1] - 0.5) + 0.5 : s * (uv[i - 1] - 0.5) + c * (uv[i] - 0.5) + 0.5,
      );
      const mesh = withAttribute(tin.mesh, { name: 'uv', domain: 'corner', size: 2, data: turned });
      const t = islandTemplate({ name: 'wall', mesh }, 0, OPTIONS);
      for (const corner of mesh.faceVert.keys()) {
        const height = mesh.positions[3 * mesh.faceVert[corner] + 1];
        expect(t.places[2 * corner + 1]).toBeCloseTo(32 - height, 3);
      }
    }
    // A lid that lies flat has its far edge up, however it is turned.
    const lid = laid(
      transform(
        sheet(2, 20, () => 0),
        rotation([0, 1, 0], 0.4),
      ),
    );
    const t = islandTemplate(lid, 0, OPTIONS);
    const [near, far] = [0, 6].map((v) => lid.mesh.faceVert.indexOf(v));
    expect(t.places[2 * far + 1]).toBeLessThan(t.places[2 * near + 1]);
  });

  it('as a picture has the island in it, its bleed round it, and nothing beyond', () => {
    const box = laid(cube(10));
    const t = islandTemplate(box, 0, OPTIONS);
    const { width, height, data } = decodePng(templatePng(box.mesh, t));
    expect([width, height]).toEqual([140, 140]);
    const alpha = (x: number, y: number): number => data[4 * (y * width + x) + 3];
    expect([alpha(70, 70), alpha(70, 2), alpha(2, 70), alpha(1, 1)]).toEqual([255, 255, 255, 0]);
    let inked = 0;
    for (let i = 3; i < data.length; i += 4) if (data[i] === 255) inked++;
    // A square of 10 mm with rounded corners 2 mm out: 10² + 4 · 10 · 2 + π · 2² square millimetres, at a hundred pixels each.
    expect(Math.abs(inked / 100 - (100 + 80 + Math.PI * 4))).toBeLessThan(1.5);
  });

  it('says where it folds and where it is cut: a wall of eight sides folds between them, one of 24 nowhere', () => {
    const t = islandTemplate(laid(wall(8)), 0, OPTIONS);
    const along = (list: number[]) => {
      let mm = 0;
      for (let i = 0; i < list.length; i += 4) mm += Math.hypot(list[i + 2] - list[i], list[i + 3] - list[i + 1]);
      return mm;
    };
    // In one strip seven of its eight edges of 30 mm are folds, the last is cut on both sides.
    const round = 2 * 8 * 10 * Math.sin(Math.PI / 8);
    expect(t.islandMm).toEqual([expect.closeTo(round, 3), expect.closeTo(30, 3)]);
    expect(along(t.folds)).toBeCloseTo(7 * 30, 3);
    expect(along(t.outline)).toBeCloseTo(2 * (round + 30), 2);
    // A tin of 24 sides turns by 15° from one to the next, which is no fold.
    expect(islandTemplate(laid(wall()), 0, OPTIONS).folds).toEqual([]);
  });

  it('as PDF is one page of its size to a hundredth of a millimetre, its finished size the trim box; another reader finds its lines in place', async () => {
    const t = islandTemplate(laid(wall()), 0, OPTIONS);
    const bytes = await sheetPdf(templateSheet(t));
    expect(await sheetPdf(templateSheet(t))).toEqual(bytes);
    const pdf = await getDocumentProxy(bytes.slice());
    expect(pdf.numPages).toBe(1);
    expect((await pdf.getMetadata()).info).toMatchObject({ Title: 'Tin <lid>, island 1', Subject: templateWords(t) });
    const page = await pdf.getPage(1);
    const mm = (points: number) => (points * 25.4) / 72;
    expect(page.view.map(mm)).toEqual([0, 0, expect.closeTo(t.sheetMm[0], 2), expect.closeTo(t.sheetMm[1], 2)]);
    const { OPS } = await getResolvedPDFJS();
    const { fnArray, argsArray } = await page.getOperatorList();
    // Lines in the page’s own points: what it is moved and turned by, times what is drawn.
    const drawn: { box: number[]; from: number[] }[] = [];
    const stack: number[][] = [];
    let m = [1, 0, 0, 1, 0, 0];
    for (const [i, op] of fnArray.entries()) {
      const a = argsArray[i];
      if (op === OPS.save) stack.push(m);
      else if (op === OPS.restore) m = stack.pop() ?? m;
      else if (op === OPS.transform)
        m = [
          m[0] * a[0] + m[2] * a[1],
          m[1] * a[0] + m[3] * a[1],
          m[0] * a[2] + m[2] * a[3],
          m[1] * a[2] + m[3] * a[3],
          m[0] * a[4] + m[2] * a[5] + m[4],
          m[1] * a[4] + m[3] * a[5] + m[5],
        ];
      else if (op === OPS.constructPath) drawn.push({ box: Array.from(a[2] as ArrayLike<number>), from: m });
    }
    expect(drawn.length).toBeGreaterThanOrEqual(4);
    const { box, from } = drawn[drawn.length - 1];
    const at = (x: number, y: number) => [mm(from[0] * x + from[2] * y + from[4]), mm(from[1] * x + from[3] * y + from[5])];
    const [low, high] = [at(box[0], box[3]), at(box[2], box[1])];
    // The cut is the island within its bleed, y up.
    expect(low).toEqual([expect.closeTo(2, 2), expect.closeTo(2, 2)]);
    expect(high).toEqual([expect.closeTo(2 + t.islandMm[0], 2), expect.closeTo(2 + t.islandMm[1], 2)]);
    // The finished size, from corner to corner, is the island’s.
    const trim = /\/TrimBox \[ (\S+) (\S+) (\S+) (\S+) \]/
      .exec(new TextDecoder('latin1').decode(bytes))
      ?.slice(1)
      .map((x) => mm(Number(x)));
    expect(trim).toEqual([2, 2, 2 + t.islandMm[0], 2 + t.islandMm[1]].map((x) => expect.closeTo(x, 2)));
  });

  it('says in a sentence what can’t be drawn', () => {
    const box = laid(cube(10));
    expect(() => islandTemplate(box, 99, OPTIONS)).toThrow('That island is not in the layout any more.');
    const large = islandTemplate(box, 0, { dpi: 1200, bleedMm: 200 });
    expect(() => templatePng(box.mesh, large)).toThrow(/^At 1\u202f200 dpi it would be .* px long; 16\u202f384 is the most\.$/);
  });
});
