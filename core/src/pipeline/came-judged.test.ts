import { describe, expect, it } from 'vitest';
import { part } from '../../test/assets';
import { bumps, painted, pane, patchwork } from '../../test/textured';
import { briefFor } from '../brief/brief';
import { linearToSrgb } from '../image/srgb';
import { IDENTITY } from '../maths/mat4';
import { attribute, withAttribute } from '../mesh/polymesh';
import { fromLibrary } from '../surface/library';
import { PLAIN_TEXTURING, type TextureUse, type Texturing } from '../surface/texturing';
import { judgeCame } from './came-judged';
import { type AssetDocument, newDocument } from './document';

/** A pane 100 mm square with one material. */
function judged(pictures: Record<string, Uint8Array>, uses: TextureUse[], more: Partial<Texturing> = {}, wanted = 20, share = 1) {
  const mesh = pane(100, 100);
  const own =
    share === 1
      ? mesh
      : withAttribute(mesh, {
          name: 'uv',
          domain: 'corner',
          size: 2,
          data: (attribute(mesh, 'uv')?.data as Float64Array).map((x) => share * x),
        });
  const document: AssetDocument = {
    ...newDocument('Pane', briefFor('game')),
    materials: [{ ...fromLibrary('enamel', 'm'), name: 'Paint', texturing: { ...PLAIN_TEXTURING, uses, ...more } }],
    parts: [part('p', [], { material: 'm', declaredOpen: true })],
  };
  const map = new Map(Object.entries(pictures).map(([k, bytes]) => [k, { name: `${k}.png`, mime: 'image/png', bytes }]));
  return judgeCame(document, [{ id: 'p', name: 'Pane', mesh: own, placements: [IDENTITY] }], map, wanted);
}
const use = (picture: string, slot: TextureUse['slot'], more: Partial<TextureUse> = {}): TextureUse => ({
  picture,
  slot,
  layout: 0,
  ...more,
});
const said = (list: ReturnType<typeof judged>) => list.flatMap((x) => x.faults.map((f) => f.sentence)).join(' ');

describe('pictures that came with files, measured on the piece', () => {
  it('px/cm is texels over centimetres: 256 px over 10 cm, twice that when repeated', () => {
    const [c] = judged({ c: patchwork(256) }, [use('c', 'baseColour')]);
    expect(c.least).toBeCloseTo(25.6, 6);
    expect(c).toMatchObject({ size: [256, 256], space: 'sRGB', says: ['base colour'], materials: ['Paint'], faults: [] });
    expect(c.memoryMB).toBeCloseTo((256 * 256 * 16) / 3 / 1e6, 9);
    expect(judged({ c: patchwork(256) }, [use('c', 'baseColour', { scale: [2, 2] })])[0].least).toBeCloseTo(51.2, 6);
  });
  it('too fine says what would do, too coarse what is wanted', () => {
    expect(said(judged({ c: patchwork(256) }, [use('c', 'baseColour')], {}, 5))).toMatch(
      /5.1 times what shows: 64 × 64 px would do, and free/,
    );
    expect(said(judged({ c: patchwork(256) }, [use('c', 'baseColour')], {}, 40))).toMatch(/25.6 px\/cm .* the closest view wants 40/);
  });
  it('a normal map with a gamma, one that is none, and a good one', () => {
    const gamma = painted(64, 3, () => [linearToSrgb(0.5), linearToSrgb(0.5), 1]);
    expect(said(judged({ n: gamma }, [use('n', 'normal')]))).toMatch(/stored with a gamma: straight out is 188, 188/);
    expect(said(judged({ n: patchwork(64) }, [use('n', 'normal')]))).toMatch(/% of its texels are no directions/);
    expect(judged({ n: bumps(256) }, [use('n', 'normal')])[0]).toMatchObject({ space: 'linear', faults: [] });
  });
  it('colour and data from one picture, alpha lost, alpha missing, texels on no face', () => {
    expect(said(judged({ c: patchwork(256) }, [use('c', 'baseColour'), use('c', 'roughness', { channel: 1 })]))).toMatch(
      /read as colour \(base colour\) and as data \(roughness\)/,
    );
    expect(said(judged({ c: patchwork(256, 0.4) }, [use('c', 'baseColour')]))).toMatch(
      /100 % of its texels are clear, and its material is opaque/,
    );
    expect(said(judged({ c: patchwork(256) }, [use('c', 'baseColour'), use('c', 'alpha', { channel: 3 })], { alpha: 'blend' }))).toMatch(
      /and it has none/,
    );
    const [quarter] = judged({ c: patchwork(512) }, [use('c', 'baseColour')], {}, 20, 0.5);
    expect(quarter.unusedShare).toBeCloseTo(0.75, 2);
    expect(said([quarter])).toMatch(/75 % of its texels are on no face/);
  });
  it('a picture of a kind that can’t be read is said, with nothing measured', () => {
    const [x] = judged({ c: new TextEncoder().encode('«KTX 20» and more than that, all of it no picture') }, [use('c', 'baseColour')]);
    expect(x).toMatchObject({ size: null, least: null, memoryMB: 0 });
    expect(x.faults[0].sentence).toMatch(/is not a PNG, JPEG, WebP or KTX2 picture/);
  });
});
