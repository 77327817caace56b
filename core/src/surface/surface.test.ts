import { converter, blend as culoriBlend } from 'culori';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { BLENDS, type BlendMode, composite } from './blend';
import { compose, setPixels } from './compose';
import { type BakedField, makeGround, thresholds } from './ground';
import { layersFrom, type OlderWear } from './layers/layer';
import { fromLibrary, fromLibraryFor, LIBRARY } from './library';
import { type Material, PLAIN, upgradeMaterial } from './material';
import { materialFile, materialFromFile } from './material-file';
import { blotches, noise3 } from './noise';
import { METAL_LEAST, validity } from './validity';

const material = ({ wear, dirt, ...more }: Partial<Material> & OlderWear): Material => ({
  ...PLAIN,
  id: 'm',
  name: 'M',
  touched: true,
  layers: layersFrom({ wear, dirt }),
  ...more,
});
const luminance = (c: readonly number[]) =>
  255 * linearToSrgb(0.2126 * srgbToLinear(c[0]) + 0.7152 * srgbToLinear(c[1]) + 0.0722 * srgbToLinear(c[2]));
const field = (size: number, at: (x: number, y: number) => number): BakedField => ({
  size,
  channels: 1,
  data: Uint8Array.from({ length: size * size }, (_, i) => at(i % size, Math.floor(i / size))),
});

describe('the transfer function, against culori', () => {
  const toLinear = converter('lrgb');
  const toSrgb = converter('rgb');
  it('188 is 0.503 in light, and data 128 is 0.502 as it stands', () => {
    expect(srgbToLinear(188 / 255)).toBeCloseTo(0.503, 3);
    expect(128 / 255).toBeCloseTo(0.502, 3);
  });
  it('agrees over the whole range, both ways', () => {
    for (let i = 0; i <= 255; i++) {
      const c = i / 255;
      expect(srgbToLinear(c)).toBeCloseTo(toLinear({ mode: 'rgb', r: c, g: c, b: c }).r, 12);
      expect(linearToSrgb(c)).toBeCloseTo(toSrgb({ mode: 'lrgb', r: c, g: c, b: c }).r, 12);
    }
  });
});

describe('blend modes', () => {
  const modes = Object.keys(BLENDS) as BlendMode[];
  it('values worked from the formulas of W3C Compositing and Blending Level 1, §9.1', () => {
    const [b, s] = [0.25, 0.75];
    const wanted: Record<BlendMode, number> = {
      normal: 0.75,
      multiply: 0.1875,
      screen: 0.8125,
      overlay: 0.375,
      darken: 0.25,
      lighten: 0.75,
      'color-dodge': 1,
      'color-burn': 0,
      'hard-light': 0.625,
      'soft-light': 0.375,
      difference: 0.5,
      exclusion: 0.625,
    };
    for (const m of modes) expect(BLENDS[m](b, s), m).toBeCloseTo(wanted[m], 12);
  });
  it('agree with culori’s own separable blends, alpha and all', () => {
    // Its hard light differs from the Recommendation’s by s² where the source is above one half; Chromium is the judge of that
    // and of overlay.
    const shared = [
      'multiply',
      'screen',
      'darken',
      'lighten',
      'color-dodge',
      'color-burn',
      'soft-light',
      'difference',
      'exclusion',
    ] as const;
    const unit = fc.integer({ min: 1, max: 254 }).map((x) => x / 255);
    fc.assert(
      fc.property(unit, unit, unit, unit, fc.constantFrom(...shared), (b, s, ab, as, mode) => {
        const ours = composite([b, b, b, ab], [s, s, s, as], mode);
        const theirs = culoriBlend(
          [
            { mode: 'rgb', r: b, g: b, b, alpha: ab },
            { mode: 'rgb', r: s, g: s, b: s, alpha: as },
          ],
          mode,
          'rgb',
        );
        expect(ours[0]).toBeCloseTo(theirs.r, 6);
        expect(ours[3]).toBeCloseTo(theirs.alpha ?? 1, 9);
      }),
    );
  });
  it('stay within 0 … 1, leave the backdrop alone under a clear source, and clear stays clear', () => {
    const unit = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(unit, unit, fc.constantFrom(...modes), (b, s, mode) => {
        const v = BLENDS[mode](b, s);
        expect(v).toBeGreaterThanOrEqual(-1e-12);
        expect(v).toBeLessThanOrEqual(1 + 1e-12);
        expect(composite([b, b, b, 0.6], [s, s, s, 0], mode)[0]).toBeCloseTo(b, 9);
      }),
    );
    expect(composite([0, 0, 0, 0], [0, 0, 0, 0], 'screen')).toEqual([0, 0, 0, 0]);
  });
});

describe('noise', () => {
  it('is zero on lattice points, between −1 and 1, smooth, and the same for the same seed', () => {
    for (let i = -3; i < 3; i++) expect(noise3(i, 2, -i, 5)).toBe(0);
    fc.assert(
      fc.property(fc.double({ min: -50, max: 50, noNaN: true }), fc.double({ min: -50, max: 50, noNaN: true }), (x, y) => {
        const v = noise3(x, y, 0.37, 9);
        expect(Math.abs(v)).toBeLessThanOrEqual(1.04);
        expect(Math.abs(noise3(x + 1e-5, y, 0.37, 9) - v)).toBeLessThan(1e-4);
        expect(noise3(x, y, 0.37, 9)).toBe(v);
      }),
    );
    expect(noise3(0.4, 0.4, 0.4, 1)).not.toBe(noise3(0.4, 0.4, 0.4, 2));
  });
  it('blotches average out to nothing, so they move no share', () => {
    let sum = 0;
    for (let i = 0; i < 4000; i++) sum += blotches(i * 0.731, i * 1.317, i * 0.213, 9, 3, 4);
    expect(Math.abs(sum / 4000)).toBeLessThan(0.02);
  });
});

describe('the library', () => {
  it('every material says where its values come from, and is sound by the validity check’s own rule', () => {
    for (const m of LIBRARY) {
      expect(m.source.length, m.key).toBeGreaterThan(10);
      const l = luminance(m.colour);
      if (m.transmission > 0 || m.emission > 0) continue;
      if (m.metallic === 1) expect(l, m.key).toBeGreaterThanOrEqual(METAL_LEAST);
      else {
        expect(l, m.key).toBeGreaterThanOrEqual(30);
        expect(l, m.key).toBeLessThanOrEqual(240);
      }
      if (m.layers.some((l) => l.id === 'wear')) expect(m.roughness).toBeGreaterThan(0);
    }
    expect(LIBRARY.map((m) => m.key).sort()).toEqual(
      [
        'aged-brass',
        'blackened-iron',
        'brushed-aluminium',
        'canvas',
        'clear-glass',
        'enamel',
        'flame',
        'glazed-ceramic',
        'oiled-wood',
        'painted-steel',
        'polished-brass',
        'rubber',
        'smudged-glass',
        'tinplate',
        'walnut',
        'weathered-copper',
      ].sort(),
    );
  });
  it('starts clean on a piece for product pictures: what tells of use is there and off', () => {
    const on = (purpose: 'product' | 'game', key: string) => fromLibraryFor(purpose, key, 'm').layers.flatMap((l) => (l.on ? [l.id] : []));
    for (const { key, layers } of LIBRARY) {
      expect(on('game', key)).toEqual(layers.map((l) => l.id));
      for (const id of ['wear', 'dirt', 'chips', 'scratches', 'smudges']) expect(on('product', key), key).not.toContain(id);
    }
    expect(on('product', 'oiled-wood')).toEqual(['boards', 'late', 'fibres']);
    expect(on('product', 'glazed-ceramic')).toEqual(['pool', 'specks', 'rim']);
  });
  it('polished brass is the colour its reflectance makes', () => {
    const brass = fromLibrary('polished-brass', 'b');
    for (const [k, v] of [0.89, 0.79, 0.43].entries()) expect(srgbToLinear(brass.colour[k])).toBeCloseTo(v, 2);
    expect(brass.touched).toBe(true);
  });
  it('materials of older documents keep their look', () => {
    const old = {
      id: 'g',
      name: 'Glass',
      colour: [1, 1, 1] as [number, number, number],
      metallic: 0,
      roughness: 0.05,
      opacity: 0.35,
      emissive: 0,
    };
    expect(upgradeMaterial(old)).toMatchObject({ id: 'g', transmission: 0.65, emission: 0, roughness: 0.05, ior: 1.5, layers: [] });
    expect(upgradeMaterial({ ...old, opacity: 1, emissive: 1 }).emission).toBeGreaterThan(0);
    const wear = { share: 0.1, colour: [1, 1, 1] as [number, number, number], metallic: 1, roughness: 0.1 };
    const dirt = { share: 0.2, colour: [0.2, 0.2, 0.2] as [number, number, number], roughness: 1, cover: 0.7 };
    // What gathered lies under what is rubbed through it.
    expect(upgradeMaterial({ ...old, wear, dirt }).layers).toMatchObject([
      { id: 'dirt', opacity: 0.7, look: { metallic: 0, roughness: 1 }, mask: [{ field: { kind: 'enclosed', share: 0.2 } }] },
      { id: 'wear', opacity: 1, look: { metallic: 1 }, mask: [{ field: { kind: 'worn', share: 0.1 } }] },
    ]);
    // An older change taken back: what it brings takes its layer's place.
    const enamel = fromLibrary('enamel', 'e');
    expect(upgradeMaterial({ ...enamel, wear: null } as never).layers.map((l) => l.id)).toEqual(['dirt']);
    expect(upgradeMaterial({ ...enamel, wear } as never).layers.find((l) => l.id === 'wear')?.look.roughness).toBe(0.1);
    const now = fromLibrary('enamel', 'e');
    expect(upgradeMaterial(now)).toEqual(now);
  });
});

describe('a material as a file', () => {
  it('is read again as it was, without what belongs to its piece', () => {
    const wood = fromLibrary('oiled-wood', 'w');
    expect(materialFromFile('wood.json', materialFile(wood), 'other')).toEqual({ ...wood, id: 'other' });
  });
  it('what is none, is broken off, is newer or says what can’t be is one sentence', () => {
    const file = materialFile(fromLibrary('enamel', 'e'));
    const none = '“x.json” is no file of a material, or not a whole one.';
    for (const text of ['', 'enamel', '[]', 'null', '{}', file.slice(0, 300), file.replace('"roughness": 0.14', '"roughness": 14')])
      expect(() => materialFromFile('x.json', text, 'm'), text.slice(0, 20)).toThrow(none);
    expect(() => materialFromFile('x.json', file.replace('"version": 1', '"version": 2'), 'm')).toThrow(/newer version/);
  });
});

describe('masks and composing', () => {
  const size = 128;
  const mesh = sheet(4, 100, () => 0);
  // A ridge down the middle and a shut-in corner.
  const curvature = field(size, (x) => 128 + Math.round(120 * Math.exp(-(((x - 64) / 10) ** 2))));
  const occlusion = field(size, (x, y) => (x + y < 80 ? 60 + x + y : 255));
  const ground = makeGround({ parts: [{ id: 'p', mesh, material: 0 }], size, curvature, occlusion, seed: 1 });
  const white = (share: number) => ({ share, colour: [1, 1, 1] as [number, number, number], metallic: 1, roughness: 0.1 });
  const brass = material({ ...fromLibrary('polished-brass', 'b'), layers: layersFrom({ wear: white(0.1) }) });

  it('a mask touches the share it is asked for, to within half a point', () => {
    for (const share of [0.02, 0.1, 0.3, 0.6]) {
      const m = material({
        ...brass,
        layers: layersFrom({ wear: white(share), dirt: { share: share / 2, colour: [0.2, 0.2, 0.2], roughness: 1, cover: 1 } }),
      });
      const { figures } = compose(ground, [m], null);
      const [dirty, worn] = figures.materials[0].layers;
      expect(Math.abs(worn.share - share)).toBeLessThan(0.005);
      expect(Math.abs(dirty.share - share / 2)).toBeLessThan(0.005);
    }
    const [limit] = thresholds(ground.wear, ground.owner, [0.25], 1e-4);
    const above = ground.wear.filter((w) => w > limit).length / ground.wear.length;
    expect(Math.abs(above - 0.25)).toBeLessThan(0.005);
    expect(thresholds(ground.wear, ground.owner, [0], 0.05)).toEqual([Infinity]);
  });
  it('wear is on the ridge, dirt in the corner', () => {
    const mean = (driver: Float32Array, inside: (x: number, y: number) => boolean) => {
      const list = [...driver].filter((_, i) => inside(i % size, Math.floor(i / size)));
      return list.reduce((a, b) => a + b, 0) / list.length;
    };
    expect(mean(ground.wear, (x) => Math.abs(x - 64) < 5)).toBeGreaterThan(5 * Math.abs(mean(ground.wear, (x) => x < 30)));
    expect(mean(ground.dirt, (x, y) => x + y < 40)).toBeGreaterThan(4 * Math.abs(mean(ground.dirt, (x, y) => x > 100 && y > 100)));
  });
  it('packs occlusion, roughness and metallic into red, green and blue', () => {
    const plain = material({ metallic: 1, roughness: 0.4, colour: [0.9, 0.8, 0.6] });
    const ao = Uint8Array.from({ length: size * size }, (_, i) => i % 256);
    const { set } = compose(ground, [plain], ao);
    for (const i of [0, 777, 9000]) {
      expect(set.orm[3 * i]).toBe(i % 256);
      expect(set.orm[3 * i + 1]).toBe(102);
      expect(set.orm[3 * i + 2]).toBe(255);
      expect(Math.abs(set.baseColour[3 * i] - 230)).toBeLessThanOrEqual(1);
    }
    expect(set.emissive).toBeNull();
    const glow = compose(ground, [material({ emission: 5, colour: [1, 0.5, 0] })], null).set.emissive;
    expect([...(glow ?? []).slice(0, 3)]).toEqual([255, 128, 0]);
  });
  it('bands of rows put together are the whole, so workers may share it', () => {
    const whole = compose(ground, [brass], occlusion.data).set;
    const again = compose(
      makeGround({ parts: [{ id: 'p', mesh, material: 0 }], size, curvature, occlusion, seed: 1 }),
      [brass],
      occlusion.data,
    ).set;
    expect(again.baseColour).toEqual(whole.baseColour);
    expect(again.orm).toEqual(whole.orm);
  });
  it('delivered pictures go on past the islands', () => {
    const inner = { ...ground, owner: ground.owner.map((o, i) => (i % size < 64 ? o : 0)) };
    const { set } = compose(inner, [material({ colour: [0.5, 0.5, 0.5] })], null);
    expect(set.baseColour[3 * 100]).toBe(0);
    expect(setPixels(set, inner.owner).baseColour.data[3 * 100]).toBeGreaterThan(120);
  });
});

describe('validity', () => {
  const size = 32;
  const mesh = sheet(1, 100, () => 0);
  const ground = makeGround({ parts: [{ id: 'p', mesh, material: 0 }], size, curvature: null, occlusion: null, seed: 1 });
  const judged = (m: Partial<Material> & OlderWear) => {
    const list = [material(m)];
    return validity(compose(ground, list, null).set, ground, list).shares;
  };
  it('the limits of common practice, no source: dielectrics 30 to 240, metals from 180', () => {
    expect(judged({ colour: [29 / 255, 29 / 255, 29 / 255] })['too dark']).toBe(1);
    expect(judged({ colour: [31 / 255, 31 / 255, 31 / 255] }).sound).toBe(1);
    expect(judged({ colour: [243 / 255, 243 / 255, 243 / 255] })['too bright']).toBe(1);
    expect(judged({ colour: [239 / 255, 239 / 255, 239 / 255] }).sound).toBe(1);
    expect(judged({ colour: [0.6, 0.6, 0.6], metallic: 1 })['metal too dark']).toBe(1);
    expect(judged({ colour: [0.9, 0.85, 0.7], metallic: 1 }).sound).toBe(1);
  });
  it('half a metal is wrong unless it lies on the way from one to the other', () => {
    expect(judged({ metallic: 0.5 })['half metal']).toBe(1);
  });
  it('a perfect mirror that is worn is wrong; glass and flames are exempt', () => {
    expect(
      judged({ roughness: 0, wear: { share: 0.001, colour: [1, 1, 1], metallic: 0, roughness: 0 } })['mirror on a worn part'],
    ).toBeGreaterThan(0.9);
    const shares = judged({ ...fromLibrary('flame', 'f'), colour: [0, 0, 0] });
    expect(Object.values(shares).every((s) => s === 0)).toBe(true);
  });
});
