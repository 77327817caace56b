import { decodePng } from '@wellmorph/core/image/png';
import { kits } from '@wellmorph/core/node/kit';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { unlabelled } from '@wellmorph/core/pipeline/labels';
import { solveStage, stageScene } from '@wellmorph/core/pipeline/render';
import { KEPT, type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { makeWhole } from '@wellmorph/core/pipeline/whole';
import { addTile, develop, emptyFilm, type Tile, tilesOf, traceTile } from '@wellmorph/core/render/film';
import { passesTo } from '@wellmorph/core/render/forecast';
import { PathTracer } from '@wellmorph/core/render/tracer';
import { beforeAll, describe, expect, it } from 'vitest';
import { keptCounts, keptLantern, lanternWith, solveCounts, WRITTEN } from './kept';

/** What comes ready with the demo has to be what a fresh run makes; where it is not, `npm run keep` makes it anew. */
const counts = await keptCounts();
const { document, whole } = await keptLantern();
beforeAll(async () => {
  for (const make of Object.values(WRITTEN)) await kits.for(make());
});

/** Figures without what depends on the machine: how long it took. */
const timeless = (figures: unknown): unknown =>
  JSON.parse(JSON.stringify(figures, (key, value) => (key === 'seconds' ? undefined : value)));

/** A file of what was kept. */
const file = (stage: Kept, key: string): Uint8Array => {
  const found = whole.files.get(whole.results.find((r) => r.stage === stage)?.blobs[key] ?? '');
  return found?.bytes ?? expect.fail(`${stage} lacks its ${key}`);
};

/** The lantern is made of nothing that was brought, and was never photographed: there is nothing to gather or to lay on. */
const MADE = KEPT.filter((k) => k !== 'gather' && k !== 'project');

describe('what comes ready with the demo', () => {
  it('has the counts that solving every piece gives', () => {
    expect(solveCounts(kits.loaded)).toEqual(counts);
  });
  it('has the lantern as it is written down, with a result of every kind, under the names its document gives them', () => {
    expect(document).toEqual(JSON.parse(JSON.stringify(lanternWith(counts['storm lantern']))));
    expect(whole.results.map((r) => [r.stage, r.name]).sort()).toEqual(MADE.map((k) => [k, nameOf(document, k)]).sort());
  });
  it('has its form, findings, layout, maps and textures byte for byte, and their figures', async () => {
    const fresh = await makeWhole(
      document,
      () => expect.fail('no stored mesh'),
      kits.loaded,
      'surface',
      () => performance.now() / 1000,
    );
    expect(fresh.results).toHaveLength(MADE.length - 1);
    for (const made of fresh.results) {
      const kept = whole.results.find((r) => r.stage === made.stage);
      expect([made.stage, made.blobs]).toEqual([made.stage, kept?.blobs]);
      expect(timeless(made.figures)).toEqual(timeless(kept?.figures));
    }
    expect(Buffer.compare(fresh.thumbnail, whole.thumbnail)).toBe(0);
  });
  it('has its picture: tiles of it, drawn anew, are the same to the last bit', () => {
    // What it stands on was compared above: here it comes from what is kept.
    const bare = unlabelled(document);
    const parts = decodeParts(file('unwrap', 'parts'));
    const set = { baseColour: file('surface', 'baseColour'), orm: file('surface', 'orm'), normal: file('bake', 'glbNormal') };
    const solved = solveStage(bare, parts);
    const tracer = new PathTracer(stageScene(bare, parts, set, solved));
    const kept = decodePng(file('render', 'png'));
    const { width, height } = kept;
    const film = emptyFilm(width, height);
    const tiles = tilesOf(width, height).filter((_, i, all) => i % Math.ceil(all.length / 8) === 0);
    for (const tile of tiles) {
      let from = 0;
      for (const to of passesTo(document.render.samples / 2)) {
        addTile(film, tile, traceTile(tracer, { tile, from, to, width, height, seed: document.render.seed }));
        from = to;
      }
    }
    const fresh = develop(film, solved.development, document.render.samples / 2);
    const row = (p: { data: ArrayLike<number> }, t: Tile, y: number) =>
      Array.from({ length: 4 * t.width }, (_, k) => p.data[4 * ((t.y + y) * width + t.x) + k]);
    expect(tiles.length).toBeGreaterThanOrEqual(7);
    for (const tile of tiles) for (let y = 0; y < tile.height; y++) expect(row(fresh, tile, y)).toEqual(row(kept, tile, y));
  });
});
