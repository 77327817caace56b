import { applyPatches } from 'immer';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { bottle, bottleLabel } from '../../test/bottle';
import { testKit } from '../../test/kit';
import { contactSheet } from '../drawing/contact-sheet';
import { hashBytes } from '../hash';
import { encodePng } from '../image/png';
import type { Kit } from '../kit';
import { INK, type Print } from '../print/print';
import { fromLibrary } from '../surface/library';
import { QUIET } from '../task';
import { openAsset, packAsset } from './asset-file';
import { madeIn } from './commands/in-variant';
import { applyCommand, type Command, inWords, meet, touchedBy } from './commands/index';
import type { AssetDocument } from './document';
import { formAsset } from './form';
import { openPrints } from './printed';
import { printedSet } from './printed-set';
import { nameOf, namesOf, namesOfAll } from './results';
import { groundOf, overAny, sharedBy } from './series';
import { everyBlob } from './stored';
import { composeAsset, finishSet, prepareSet, SetComposer, SetPacker, stripsOf } from './surface';
import { unwrap, unwrapSettings } from './unwrap';
import { asVariant, calledAs, differencesOf, MOST_VARIANTS, variantsOf } from './variants';

const PICTURE = encodePng({ width: 8, height: 4, channels: 3, depth: 8, data: new Uint8Array(96).fill(200) });
const OTHER = encodePng({ width: 8, height: 4, channels: 3, depth: 8, data: new Uint8Array(96).fill(40) });
const picture = (bytes: Uint8Array): Print['artwork'] => ({
  kind: 'picture',
  blob: hashBytes(bytes),
  fileName: 'label.png',
  mime: 'image/png',
  widthPx: 8,
  heightPx: 4,
});
const text = (words: string): Print['artwork'] => bottleLabel('front', words).artwork;
const label = (more: Partial<Print> = {}): Print => bottleLabel('front', 'LAMP OIL', 1, more);
const PIECE: AssetDocument = { ...bottle(24), prints: [label()] };
const did = (d: AssetDocument, ...commands: Command[]): AssetDocument => commands.reduce((now, c) => applyCommand(now, c).document, d);
const inVariant = (variant: string, edit: Command): Command => ({ type: 'variant.edit', variant, edit });
const inRed = (edit: Command) => inVariant('red', edit);
const RED = did(PIECE, { type: 'variant.set', variant: 'red', name: 'Red' });
const glass = PIECE.materials[0];

describe('a variant', () => {
  it('is the piece with what is otherwise in it, and shares all results that this changes nothing of', () => {
    const d = did(RED, inRed({ type: 'print.set', print: label({ artwork: text('SPIRIT') }) }));
    const red = asVariant(d, 'red');
    expect([d.prints?.[0].artwork, red.prints?.[0].artwork]).toEqual([text('LAMP OIL'), text('SPIRIT')]);
    expect(d.variants).toEqual([{ id: 'red', name: 'Red', prints: { front: { artwork: text('SPIRIT') } } }]);
    expect(red.parts[0]).toBe(d.parts[0]);
    expect(asVariant(d, 'red')).toBe(red);
    const [own, its] = [namesOf(d), namesOf(red)];
    expect(Object.keys(own).filter((k) => own[k as 'form'] !== its[k as 'form'])).toEqual(['surface', 'gather', 'render']);
    expect(Object.values(namesOfAll(d))).toEqual(expect.arrayContaining([own.surface, its.surface, its.render]));
    expect([calledAs(d), calledAs(red)]).toEqual(['Oil bottle', 'Oil bottle, Red']);
  });

  it('follows the piece in all that is not its own', () => {
    const d = did(RED, inRed({ type: 'print.set', print: label({ artwork: text('SPIRIT') }) }), {
      type: 'print.set',
      print: label({ width: 60, turn: 90 }),
    });
    expect(asVariant(d, 'red').prints?.[0]).toMatchObject({ artwork: text('SPIRIT'), width: 60, turn: 90 });
  });

  it('takes colours and finishes for itself, and leaves to the piece what is not of its look', () => {
    const d = did(
      RED,
      inRed({ type: 'material.set', material: glass.id, patch: { roughness: 0.77 } }),
      inRed({ type: 'material.add', material: fromLibrary('enamel', 'enamel'), parts: ['body'] }),
      inRed({ type: 'part.set', part: 'body', patch: { weight: 3 } }),
    );
    expect(d.materials.map((m) => [m.id, m.roughness])).toEqual([
      [glass.id, glass.roughness],
      ['enamel', expect.any(Number)],
    ]);
    expect([d.parts[0].material, d.parts[0].weight]).toEqual([glass.id, 3]);
    const red = asVariant(d, 'red');
    expect([red.parts[0].material, red.parts[0].weight]).toEqual(['enamel', 3]);
    expect(red.materials.find((m) => m.id === glass.id)?.roughness).toBe(0.77);
    // A material that goes makes it as the piece is.
    expect(asVariant(did(d, { type: 'material.remove', material: 'enamel' }), 'red').parts[0].material).toBe(glass.id);
  });

  it('has prints of its own, and leaves prints off', () => {
    const d = did(
      RED,
      inRed({ type: 'print.set', print: label({ id: 'seal', name: 'Seal' }) }),
      inRed({ type: 'print.remove', print: 'front' }),
    );
    expect(d.prints?.map((p) => [p.id, p.on])).toEqual([
      ['seal', false],
      ['front', true],
    ]);
    expect(asVariant(d, 'red').prints?.map((p) => [p.id, p.on])).toEqual([
      ['seal', true],
      ['front', false],
    ]);
    expect(differencesOf(d, (d.variants ?? [])[0]).map((x) => [x.name, x.words])).toEqual([
      ['Seal', 'only here'],
      ['Front', 'left off'],
    ]);
    // What it alone had goes with it, or with its being removed there.
    expect(did(d, { type: 'variant.remove', variant: 'red' }).prints?.map((p) => p.id)).toEqual(['front']);
    expect(did(d, inRed({ type: 'print.remove', print: 'seal' })).prints?.map((p) => p.id)).toEqual(['front']);
    const back = did(d, { type: 'variant.back', variant: 'red', of: 'prints', key: 'front' });
    expect(asVariant(back, 'red').prints?.find((p) => p.id === 'front')?.on).toBe(true);
  });

  it('is edited by patches that hold no more than what changed, and taken back to the letter', () => {
    const d = did(RED, inRed({ type: 'material.set', material: glass.id, patch: { roughness: 0.5 } }));
    const { document, patches, inverse } = applyCommand(d, inRed({ type: 'print.set', print: label({ turn: 5 }) }));
    expect(JSON.stringify(patches).length).toBeLessThan(600);
    expect(applyPatches(d, patches)).toEqual(document);
    expect(applyPatches(document, inverse)).toEqual(d);
    expect(inWords(inRed({ type: 'print.set', print: label({ turn: 5 }) }), d)).toBe('in Red: moved Front');
  });

  it('painted stroke by stroke keeps of each no more than that stroke', () => {
    const stroke = (y: number): Command =>
      inRed({
        type: 'material.stroke',
        material: glass.id,
        layer: 'painted',
        field: 0,
        stroke: { part: 'body', erases: false, radius: 4, points: Array.from({ length: 70 }, (_, i) => y + i) },
      });
    const layers = [
      {
        id: 'painted',
        name: 'Painted',
        on: true,
        opacity: 1,
        look: { roughness: 0.9 },
        mask: [{ join: 'times' as const, inverted: false, field: { kind: 'strokes' as const, soft: 0.4, strokes: [] } }],
      },
    ];
    const d = did(RED, inRed({ type: 'material.set', material: glass.id, patch: { layers } }), stroke(1), stroke(100));
    const { document, patches, inverse } = applyCommand(d, stroke(200));
    expect(JSON.stringify(patches).length).toBeLessThan(700);
    expect(JSON.stringify(inverse).length).toBeLessThan(300);
    expect(applyPatches(document, inverse)).toEqual(d);
    const [mask] = asVariant(document, 'red').materials[0].layers[0].mask;
    expect(mask.field.kind === 'strokes' && mask.field.strokes.length).toBe(3);
    expect(document.materials).toEqual(PIECE.materials);
  });

  it('takes up what a trial of another state was made by, and the piece does not', () => {
    const older = did(
      PIECE,
      { type: 'print.set', print: label({ artwork: text('OLDER') }) },
      { type: 'unwrap.set', patch: { padding: 16 } },
    );
    const d = did(RED, inRed({ type: 'state.take', stage: 'surface', title: 'Older', state: older }));
    expect(asVariant(d, 'red').prints?.[0].artwork).toEqual(text('OLDER'));
    expect([d.prints?.[0].artwork, d.unwrap.padding]).toEqual([text('LAMP OIL'), 16]);
  });

  it('is what changes of looks are made to while it is looked at, and no others', () => {
    const kinds = (...list: Command[]) => list.map((c) => madeIn(c, 'red').type);
    const toNone: Command = { type: 'part.set', part: 'body', patch: { material: null } };
    const several: Command = {
      type: 'several',
      what: 'painted',
      commands: [toNone],
    };
    expect(kinds({ type: 'print.set', print: label() }, toNone, several)).toEqual(Array(3).fill('variant.edit'));
    expect(
      kinds(
        { type: 'part.set', part: 'body', patch: { weight: 2 } },
        { type: 'material.remove', material: 'x' },
        { type: 'rename', name: 'x' },
      ),
    ).toEqual(['part.set', 'material.remove', 'rename']);
    expect(madeIn({ type: 'print.set', print: label() }, null).type).toBe('print.set');
  });

  it('meets a change of the same thing, and of the whole variant, but no other', () => {
    const mine = touchedBy(inRed({ type: 'print.set', print: label() }));
    const meets = (c: Command) => meet(mine, touchedBy(c));
    expect(meets({ type: 'print.remove', print: 'front' })).toBe(true);
    expect(meets({ type: 'variant.remove', variant: 'red' })).toBe(true);
    expect(meets(inRed({ type: 'print.set', print: label({ id: 'other' }) }))).toBe(false);
    expect(meets({ type: 'variant.set', variant: 'blue', name: 'Blue' })).toBe(false);
  });

  it('that is gone, one too many, or a change that can’t be in one is refused in a sentence', () => {
    expect(() => applyCommand(PIECE, inRed({ type: 'print.set', print: label() }))).toThrow(
      'The variant this change is for is no longer there.',
    );
    const full = did(
      PIECE,
      ...Array.from({ length: MOST_VARIANTS }, (_, i): Command => ({ type: 'variant.set', variant: `v${i}`, name: `V ${i}` })),
    );
    expect(() => applyCommand(full, { type: 'variant.set', variant: 'more', name: 'More' })).toThrow(/up to 24 variants/);
    expect(() => applyCommand(RED, inRed({ type: 'variant.remove', variant: 'red' }))).toThrow(/one of its changes is none/);
  });
});

describe('variants in an asset file', () => {
  const d = did(
    RED,
    inRed({ type: 'print.set', print: label({ artwork: picture(PICTURE) }) }),
    { type: 'variant.set', variant: 'blue', name: 'Blue', from: 'red' },
    inVariant('blue', { type: 'print.set', print: label({ artwork: picture(OTHER), width: 50 }) }),
  );
  const files = new Map([PICTURE, OTHER].map((b) => [hashBytes(b), b]));

  it('come back whole with their artwork', () => {
    expect(everyBlob(d)).toEqual(expect.arrayContaining([...files.keys()]));
    const opened = openAsset(
      'bottle.zip',
      packAsset(d, (name) => files.get(name) as Uint8Array),
    );
    expect(opened.document.variants).toEqual(d.variants);
    expect(nameOf(asVariant(opened.document, 'blue'), 'surface')).toBe(nameOf(asVariant(d, 'blue'), 'surface'));
  });

  it('without their artwork are as the piece is, and it is said', () => {
    const json = new TextEncoder().encode(JSON.stringify(d));
    const opened = openAsset('bottle.json', json);
    expect(opened.notes).toEqual([expect.stringMatching(/^2 textures, photographs, artworks/)]);
    expect(opened.document.variants).toEqual([
      { id: 'red', name: 'Red' },
      { id: 'blue', name: 'Blue' },
    ]);
  });

  it('that say nothing which is known, or would stand as one of themselves, come in as the piece', () => {
    const odd = { id: 'r', name: 'R', prints: { front: 'abc', gone: { width: 3 } }, parts: 'x', regions: { 'a/b': 5 }, more: 1 };
    const json = new TextEncoder().encode(JSON.stringify({ ...PIECE, variants: [odd], as: 'r' }));
    const { document } = openAsset('x.json', json);
    expect([document.variants, document.as]).toEqual([[{ id: 'r', name: 'R' }], undefined]);
  });

  it.each([
    ['no list', { red: 1 }, /its variants are no list of them/],
    ['a colour that is none', [{ id: 'r', name: 'R', materials: { [glass.id]: { colour: [2, 0, 0] } } }], /colour/],
    ['a print that is none', [{ id: 'r', name: 'R', prints: { front: { width: -4 } } }], /width/],
    [
      'one id twice',
      [
        { id: 'r', name: 'R' },
        { id: 'r', name: 'S' },
      ],
      /two variants have the id r/,
    ],
    ['no name', [{ id: 'r' }], /name/],
    ['nothing in its place', [null], /./],
  ])('%s is refused in a sentence', (_, variants, said) => {
    const json = new TextEncoder().encode(JSON.stringify({ ...PIECE, variants }));
    expect(() => openAsset('x.json', json)).toThrow(said);
  });
});

describe('sets of several variants', () => {
  const SIZE = 512;
  let kit: Kit;
  let laid: ReturnType<typeof unwrap>['parts'];
  const d = did(
    { ...PIECE, prints: [label({ id: 'back', up: { from: 'low', mm: 6 } }), label()] },
    { type: 'variant.set', variant: 'red', name: 'Red' },
    inRed({ type: 'print.set', print: label({ artwork: text('SPIRIT') }) }),
    { type: 'variant.set', variant: 'gilt', name: 'Gilt' },
    inVariant('gilt', { type: 'print.set', print: label({ ink: { ...INK, metallic: 1, coat: 0.5, relief: 200 } }) }),
    { type: 'variant.set', variant: 'matt', name: 'Matt' },
    inVariant('matt', { type: 'material.set', material: glass.id, patch: { roughness: 0.9 } }),
  );
  const looks = [d, ...variantsOf(d)];
  const opened = (look: AssetDocument) => openPrints(look, laid, SIZE, { kit, read: () => undefined });
  beforeAll(async () => {
    kit = await testKit();
    laid = unwrap(
      formAsset(PIECE, 'low', () => {
        throw new Error('nothing stored');
      }).parts,
      unwrapSettings(PIECE),
    ).parts;
  });

  it('share the ground where they differ in prints alone, and the prints that all have under those', () => {
    expect(looks.map((x) => groundOf(x) === groundOf(d))).toEqual([true, true, true, false]);
    expect(sharedBy(looks.slice(0, 3)).prints?.map((p) => p.id)).toEqual(['back']);
    expect(sharedBy([d]).prints).toEqual(d.prints);
  });

  it('made together come to the bytes and figures that each comes to alone, in any order', async () => {
    const group = looks.slice(0, 3);
    const shared = prepareSet(sharedBy(group), laid, {}, SIZE, QUIET, undefined, await opened(sharedBy(group)), overAny(group));
    const composer = new SetComposer(shared);
    const strips = Array.from({ length: stripsOf(SIZE) }, (_, s) => composer.draw(s));
    const packer = new SetPacker();
    for (const look of [group[2], group[0], group[1], group[2]]) {
      const together = finishSet(printedSet(shared, look, await opened(look)), strips, {}, () => 0, QUIET, packer);
      const alone = composeAsset(look, laid, {}, SIZE, () => 0, QUIET, await opened(look));
      expect(together.figures).toEqual(alone.figures);
      const hashes = (files: typeof alone.files) => Object.entries(files).map(([k, b]) => [k, hashBytes(b)]);
      expect(hashes(together.files)).toEqual(hashes(alone.files));
    }
  });
});

describe('a contact sheet', () => {
  const plain = (width: number, height: number, grey: number) =>
    encodePng({ width, height, channels: 3, depth: 8, data: new Uint8Array(3 * width * height).fill(grey) });

  it('holds pictures of one size beside each other as they are, with names under them', async () => {
    const kit = await testKit();
    const sheet = contactSheet(
      ['Plain', 'Ginger', 'Oat'].map((name, i) => ({ name, png: plain(160, 120, 60 + 60 * i) })),
      kit,
    );
    const { data, info } = await sharp(encodePng(sheet)).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([sheet.width, sheet.height]);
    const count = (grey: number) => {
      let n = 0;
      for (let i = 0; i < data.length; i += 3) if (data[i] === grey && data[i + 1] === grey && data[i + 2] === grey) n++;
      return n;
    };
    for (const grey of [60, 120, 180]) expect(count(grey)).toBe(160 * 120);
    let dark = 0;
    for (let i = 0; i < data.length; i += 3) if (data[i] < 50) dark++;
    expect(dark).toBeGreaterThan(100);
  });

  it('makes large pictures smaller, leaves out a name that can’t be set, and refuses what doesn’t match', async () => {
    const kit = await testKit();
    expect(
      contactSheet(
        [1, 2, 3, 4].map((i) => ({ name: '字', png: plain(2600, 400, 9 * i) })),
        kit,
      ).width,
    ).toBeLessThanOrEqual(4096);
    expect(() => contactSheet([], kit)).toThrow(/no picture/);
    expect(() =>
      contactSheet(
        [plain(8, 8, 1), plain(8, 9, 1)].map((png) => ({ name: 'x', png })),
        kit,
      ),
    ).toThrow(/not of one size/);
  });
});
