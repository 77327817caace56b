import { readModel } from '@wellmorph/core/io/read';
import { areaOf, volumeOf } from '@wellmorph/core/mesh/measures';
import { triangleCount } from '@wellmorph/core/mesh/polymesh';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { assetBounds, formAsset } from '@wellmorph/core/pipeline/form';
import { inspectAsset, ledgerOf, withWaivers } from '@wellmorph/core/pipeline/inspect';
import { lookClosely } from '@wellmorph/core/pipeline/look';
import { MeshCache } from '@wellmorph/core/pipeline/mesh-cache';
import { printedPart } from '@wellmorph/core/pipeline/printed';
import { solveFormed } from '@wellmorph/core/pipeline/solve';
import { standingsOf } from '@wellmorph/core/pipeline/standings';
import { variantsOf } from '@wellmorph/core/pipeline/variants';
import { judgePrint } from '@wellmorph/core/print/judge';
import { layPrint } from '@wellmorph/core/print/lay';
import { drawnArtwork, openArtwork } from '@wellmorph/core/print/open';
import { printPicture } from '@wellmorph/core/print/pixels';
import { describe, expect, it } from 'vitest';
import { testKit } from '../../core/test/kit';
import { aneroidGauge } from './gauge';
import { keptCounts, WRITTEN, withCounts } from './kept';
import { stormLantern } from './lantern';
import { RECIPES } from './pieces';
import { TIN_MTL, tinHigh, tinLow } from './tin';

const NO_MESHES = () => {
  throw new Error('recipes need no stored mesh');
};
const kit = await testKit();
const formed = (document: AssetDocument, which: 'low' | 'high' = 'low', memory?: MeshCache) =>
  formAsset(document, which, NO_MESHES, memory, kit);
const solved = (document: AssetDocument): AssetDocument => {
  const memory = new MeshCache();
  return { ...document, form: { ...document.form, counts: solveFormed(document, (d) => formed(d, 'low', memory)).counts } };
};

describe.each([['storm lantern', stormLantern], ['aneroid gauge', aneroidGauge], ...Object.entries(RECIPES)])('the %s', (_name, make) => {
  const document = solved(make());
  const low = formed(document);
  const ledger = ledgerOf(low.parts);

  it('builds every step and stays within its triangle limit', () => {
    expect(low.problems).toEqual([]);
    expect(low.parts).toHaveLength(document.parts.filter((p) => !p.aid).length);
    expect(ledger.triangles).toBeLessThanOrEqual(document.brief.limits.triangles);
    expect(ledger.triangles).toBeGreaterThan(0.9 * document.brief.limits.triangles);
  });
  it('has its parts stand as they are wanted to, and move without running into each other', () => {
    const { relations, travels } = standingsOf(document, low.parts, new MeshCache());
    expect(relations.filter((r) => !r.met).map((r) => r.id)).toEqual([]);
    expect(relations).toHaveLength(document.relations?.length ?? 0);
    expect(travels.filter((t) => t.clash)).toEqual([]);
  });
  it('has no finding above information that was not waived', () => {
    const memory = new MeshCache();
    const found = withWaivers(document, [...inspectAsset(document, low, ledger), ...lookClosely(document, low, memory).findings]);
    const open = found.filter((f) => !f.waived && f.severity !== 'information');
    expect(open.map((f) => f.message)).toEqual([]);
  });
  it('is as large as its brief says, to a hundredth of its height', () => {
    const b = assetBounds(low.parts);
    for (const k of [0, 1, 2])
      expect(Math.abs(b.max[k] - b.min[k] - document.brief.sizeMm[k])).toBeLessThan(0.01 * document.brief.sizeMm[1]);
  });
  it('low and high enclose nearly the same, part by part', () => {
    const { parts: high, problems } = formed(document, 'high');
    expect(problems).toEqual([]);
    for (const l of low.parts) {
      const h = high.find((p) => p.id === l.id);
      if (!h) throw new Error(`${l.name} has no high mesh`);
      expect(Math.abs(volumeOf(l.mesh) / volumeOf(h.mesh) - 1), l.name).toBeLessThan(0.15);
      expect(Math.abs(areaOf(l.mesh) / areaOf(h.mesh) - 1), l.name).toBeLessThan(0.25);
      expect(triangleCount(h.mesh)).toBeGreaterThan(triangleCount(l.mesh));
    }
  });
  it('names parts, steps and materials once, and points at nothing that is missing', () => {
    const ids = document.parts.flatMap((p) => [p.id, ...(p.shape.kind === 'recipe' ? p.shape.steps.map((s) => s.id) : [])]);
    expect(new Set(ids).size).toBe(ids.length);
    const materials = new Set(document.materials.map((m) => m.id));
    expect(materials.size).toBe(document.materials.length);
    for (const p of document.parts) expect(materials.has(p.material ?? '')).toBe(true);
  });
});

describe('what is printed on pieces', () => {
  it('is as large as it is drawn, and lies on its part altogether', async () => {
    const counts = await keptCounts();
    const looks = Object.entries(WRITTEN).flatMap(([name, make]) => {
      const document = withCounts(make(), counts[name]);
      return [document, ...variantsOf(document)].map((look) => [`${name} ${look.as ?? ''}`, look] as const);
    });
    for (const [name, document] of looks) {
      if (!document.prints) continue;
      const { parts } = formed(document);
      for (const print of document.prints) {
        if (print.artwork.kind === 'picture') continue;
        const drawn = drawnArtwork(print.artwork, kit);
        expect([print.width, print.height], `${name}, ${print.name}`).toEqual([
          expect.closeTo(drawn.width, 2),
          expect.closeTo(drawn.height, 2),
        ]);
        const mesh = parts.find((p) => p.id === print.part)?.mesh;
        const picture = printPicture(await openArtwork(print.artwork, print.name, 400, { kit, read: () => undefined }));
        const figures = mesh && judgePrint(mesh, layPrint(mesh, print, printedPart(document, print.part)), 1024, picture);
        expect(figures?.off, `${name}, ${print.name}`).toBeLessThan(0.02);
        expect(figures?.stretch.most, `${name}, ${print.name}`).toBeLessThan(1.1);
      }
    }
  });
});

describe('the biscuit tin', () => {
  const read = (text: string) =>
    readModel('tin.obj', new TextEncoder().encode(text), {
      unit: 'mm',
      companions: { 'biscuit-tin.mtl': new TextEncoder().encode(TIN_MTL) },
    });
  it('comes low and high with the same parts in the same places', async () => {
    const [low, high] = [await read(tinLow()), await read(tinHigh())];
    expect(high.parts.map((p) => p.name.replace(/_high$/, ''))).toEqual(low.parts.map((p) => p.name));
    const box = (m: typeof low) => assetBounds(m.parts.map((p, i) => ({ id: String(i), ...p })));
    for (const k of [0, 1, 2]) {
      expect(Math.abs(box(low).min[k] - box(high).min[k])).toBeLessThan(2);
      expect(Math.abs(box(low).max[k] - box(high).max[k])).toBeLessThan(2);
    }
    expect(low.notes).toEqual([]);
  });
});
