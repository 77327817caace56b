import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { stepOf } from '../../test/recipes';
import type { Kit } from '../kit';
import { KitLoader } from '../kit-load';
import { isWatertight, volumeOf } from '../mesh/measures';
import { doubleArea } from '../mesh/planar';
import type { PolyMesh } from '../mesh/polymesh';
import type { AssetDocument } from '../pipeline/document';
import { divided, lettering, textSolid } from './lettering';
import { checkLines, checkSpot, patchIndex, spotAt, spotOf } from './places';
import { form } from './recipe';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const font = () => kit.font as NonNullable<Kit['font']>;
const area = (loops: readonly (readonly [number, number])[][]) => loops.reduce((s, l) => s + doubleArea(l) / 2, 0);

describe('letters', () => {
  it('are as high as asked, in the middle, with counters the other way round', () => {
    const loops = lettering(font(), 'HO', 10, 0.5);
    const ys = loops.flatMap((l) => l.map((p) => p[1]));
    // An o stands a little over the line at both ends, as round letters do (common practice, no source).
    expect(Math.min(...ys)).toBeGreaterThan(-5.4);
    expect(Math.max(...ys)).toBeLessThan(5.4);
    const xs = loops.flatMap((l) => l.map((p) => p[0]));
    expect(Math.min(...xs)).toBeCloseTo(-Math.max(...xs), 9);
    expect(loops.map((l) => Math.sign(doubleArea(l))).sort()).toEqual([-1, 1, 1]);
  });
  it('have the area their outlines say, whatever they are divided into, and fill it as closed solids', () => {
    for (const text of ['B', 'Q', '8', '&', 'Pellamere Light']) {
      const loops = lettering(font(), text, 10, 0.4);
      expect(area(divided(loops, 0.7))).toBeCloseTo(area(loops), 9);
      const solid = textSolid(divided(loops, 0.7), 0, 2, ([x, y], h) => [x, h, -y]);
      expect(isWatertight(solid)).toBe(true);
      expect(volumeOf(solid)).toBeCloseTo(2 * area(loops), 6);
    }
    // The typeface's own outline is met as curves are cut finer.
    const [coarse, fine, finest] = [2, 0.5, 0.02].map((step) => area(lettering(font(), 'O', 10, step)));
    expect(Math.abs(fine - finest)).toBeLessThan(Math.abs(coarse - finest));
  });
  it('scale with their height', () => {
    expect(area(lettering(font(), 'K', 20, 2))).toBeCloseTo(4 * area(lettering(font(), 'K', 10, 1)), 6);
    expect(() => lettering(font(), '   ', 5, 1)).toThrow(/no letters/);
  });
});

describe('picked places', () => {
  it('are found again where they were, after the counts have changed', () => {
    const drum = (count: number) => form([stepOf('turned', { id: 'd' })], { mesh: 'low', count: () => count }).mesh as PolyMesh;
    const [few, many] = [drum(16), drum(64)];
    const at = { patch: 'd/s0', u: 0.3, v: 0.4 };
    const [a, b] = [few, many].map((m) => spotAt(m, patchIndex(m), at));
    for (const k of [0, 1, 2]) expect(Math.abs((a?.point[k] ?? 0) - (b?.point[k] ?? 9))).toBeLessThan(0.5);
    const back = a && spotOf(few, a.face, a.point);
    expect(back?.u).toBeCloseTo(0.3, 6);
    expect(back?.v).toBeCloseTo(0.4, 6);
    // It faces out, and u runs round the drum.
    expect((a?.normal[0] ?? 0) * (a?.point[0] ?? 0) + (a?.normal[2] ?? 0) * (a?.point[2] ?? 0)).toBeGreaterThan(0);
    expect(Math.abs(a?.alongU[1] ?? 1)).toBeLessThan(1e-9);
    expect(spotAt(few, patchIndex(few), { ...at, patch: 'gone' })).toBeNull();
  });
  it('are refused in a sentence when they are none', () => {
    expect(() => checkSpot({ patch: 'a', u: 2, v: 0 }, 'the text')).toThrow(/place picked for the text/);
    expect(() => checkLines('x', 'the bevel')).toThrow(/edges picked on the bevel/);
    expect(() => checkLines([{ id: 'a', patch: 'p', constant: 'w', at: 0, from: 0, to: 1 }], 'the bevel')).toThrow(/constant u or v/);
    const line = { id: 'a', patch: 'p', constant: 'u', at: 0.5, from: 0, to: 1 };
    expect(checkLines([{ ...line, more: 1 }], 'the bevel')).toEqual([line]);
  });
});

describe('libraries', () => {
  it('are loaded once, only when a step that is on needs them, and asked for again after a failure', async () => {
    let asked = 0;
    const loader = new KitLoader({
      async font() {
        asked++;
        throw new Error('no such file');
      },
      async drawings() {
        throw new Error('no such file');
      },
    });
    const document = (steps: unknown[]) => ({ parts: [{ shape: { kind: 'recipe', steps } }] }) as unknown as AssetDocument;
    expect(await loader.for(document([stepOf('box')]))).toEqual({});
    expect(await loader.for(document([{ ...stepOf('engrave'), enabled: false }]))).toEqual({});
    await expect(loader.for(document([stepOf('engrave')]))).rejects.toThrow(/no such file/);
    await expect(loader.for(document([stepOf('engrave')]))).rejects.toThrow(/no such file/);
    // Where a piece is to be shown all the same, what is there is handed over.
    expect(await loader.best(document([stepOf('engrave'), stepOf('box')]))).toHaveProperty('solids');
    expect(asked).toBe(3);
    expect((await loader.for(document([stepOf('combine')]))).solids).toBeDefined();
  });
});
