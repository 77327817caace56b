import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { asset, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import { hashBytes } from '../hash';
import { encodePng } from '../image/png';
import { encodeMesh } from '../mesh/codec';
import { volumeOf } from '../mesh/measures';
import { fromLibrary } from '../surface/library';
import { openAsset, packAsset, resultsIn } from './asset-file';
import type { AssetDocument } from './document';
import { nameOf } from './results';
import type { Whole } from './whole';

const bytes = encodeMesh(cube(10));
const blob = hashBytes(bytes);
const document: AssetDocument = asset([
  part('post', [stepOf('box', { id: 'b' })]),
  {
    ...part('crate', []),
    shape: { kind: 'mesh', low: { blob, triangles: 12 }, placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]] },
  },
]);
const text = (x: unknown) => strToU8(JSON.stringify(x));

interface Head {
  arrays: Record<string, unknown>[];
  patches: unknown;
}
const brass = fromLibrary('polished-brass', 'm');
const broken = (change: object) => ({
  ...document.parts[0],
  shape: { kind: 'recipe', steps: [{ ...stepOf('box', { id: 'b' }), ...change }] },
});

describe('an asset file', () => {
  it('takes the pictures behind the piece along; one that did not come is left out, and said', () => {
    const png = encodePng({ width: 2, height: 2, channels: 3, depth: 8, data: new Uint8Array(12) });
    const reference = {
      id: 'r',
      name: 'Front',
      view: 'front' as const,
      blob: hashBytes(png),
      widthPx: 2,
      heightPx: 2,
      mmPerPx: 1,
      x: 0,
      y: 0,
      opacity: 0.5,
    };
    const seen = { ...document, references: [reference] };
    const opened = openAsset(
      'crate.asset.zip',
      packAsset(seen, (name) => (name === blob ? bytes : png)),
    );
    expect(opened.document).toEqual(seen);
    expect(opened.bytes(reference.blob)).toEqual(png);
    const without = openAsset('recipe.json', text({ ...seen, parts: [document.parts[0]] }));
    expect([without.document.references, without.notes.length]).toEqual([[], 1]);
    const other = zipSync({ 'asset.json': text(seen), [`meshes/${blob}.mesh`]: bytes, [`pictures/${reference.blob}.png`]: bytes });
    expect(() => openAsset('x.zip', other)).toThrow(/picture in “x.zip” is not the one/);
  });
  it('of every demo piece opens as what it was', async () => {
    const { RECIPES } = await import('@wellmorph/demo/pieces');
    const { stormLantern } = await import('@wellmorph/demo/lantern');
    const { aneroidGauge } = await import('@wellmorph/demo/gauge');
    for (const make of [...Object.values(RECIPES), stormLantern, aneroidGauge]) {
      const whole = JSON.parse(JSON.stringify(make())) as AssetDocument;
      expect(openAsset('x.json', text(whole)).document, whole.name).toEqual(whole);
    }
  });
  it('holds everything, and opens as it was; equal assets give equal bytes', () => {
    const packed = packAsset(document, () => bytes);
    expect(packAsset(structuredClone(document), () => bytes)).toEqual(packed);
    const opened = openAsset('crate.asset.zip', packed);
    expect(opened.document).toEqual(document);
    expect(volumeOf(opened.load(blob))).toBeCloseTo(1000, 9);
    expect(packAsset(opened.document, opened.bytes)).toEqual(packed);
  });
  it('may be a document alone where it refers to no mesh', () => {
    const alone = { ...document, parts: [document.parts[0]] };
    expect(openAsset('recipe.json', text(alone)).document).toEqual(alone);
  });
  it.each([
    ['not JSON', strToU8('{'), /JSON is broken/],
    ['a list', text([]), /not one JSON object/],
    ['another schema', text({ ...document, schema: 9 }), /schema is not one/],
    ['no brief', text({ ...document, brief: undefined }), /no name or no brief/],
    ['a limit of nothing', text({ ...document, brief: { ...document.brief, limits: { triangles: 0 } } }), /no number above 0/],
    ['no parts', text({ ...document, parts: 3 }), /no list of parts/],
    ['a part without a shape', text({ ...document, parts: [{ id: 'a', name: 'A' }] }), /no id, name or shape/],
    ['two parts of one id', text({ ...document, parts: [document.parts[0], document.parts[0]] }), /two parts/],
    [
      'a shape of neither kind',
      text({ ...document, parts: [{ id: 'a', name: 'A', shape: { kind: 'cloud' } }] }),
      /neither made by steps nor a mesh/,
    ],
    ['a step that lacks a field', text({ ...document, parts: [broken({ width: undefined })] }), /width/i],
    ['a step out of all bounds', text({ ...document, parts: [broken({ width: 1e300 })] }), /width/i],
    ['a step of no kind', text({ ...document, parts: [broken({ kind: 'constructor' })] }), /no kind of step/],
    ['two steps of one id', text({ ...document, parts: [broken({}), { ...broken({}), id: 'other' }] }), /two steps have the id b/],
    ['counts that are words', text({ ...document, form: { ...document.form, counts: { a: 'many' } } }), /counts are whole numbers/],
    ['no form at all', text({ ...document, form: null }), /form/],
    ['overrides of the wrong type', text({ ...document, brief: { ...document.brief, overrides: 3 } }), /overrides/],
    [
      'a region rule of no kind',
      text({
        ...document,
        parts: [
          { ...document.parts[0], regions: [{ id: 'r', name: 'R', weight: 1, rules: [{ id: 'a', how: 'add', rule: { kind: 'x' } }] }] },
        ],
      }),
      /./,
    ],
    ['high parts that are a word', text({ ...document, highParts: 'many' }), /highParts/],
    ['a lens of nothing', text({ ...document, shot: { ...document.shot, lensMm: 0 } }), /lensMm/],
    ['a material brighter than white', text({ ...document, materials: [{ ...brass, colour: [2, 0, 0] }] }), /colour/],
    ['a mesh that is missing', text(document), /lacks a mesh/],
    ['an archive without a document', zipSync({ 'x.txt': strToU8('x') }), /holds no asset\.json/],
    ['a damaged archive', strToU8('PK broken'), /damaged archive|holds no asset/],
  ])('%s is refused in one sentence', (_, broken, words) => {
    expect(() => openAsset('x.zip', broken)).toThrow(words);
  });
  it('a small archive that unpacks to gigabytes is refused before it does', () => {
    const packed = zipSync({ 'asset.json': text(document), [`meshes/${blob}.mesh`]: new Uint8Array(100_000_000) }, { level: 6 });
    expect(packed.length).toBeLessThan(500_000);
    expect(() => openAsset('x.zip', packed)).toThrow(/^“x\.zip” would unpack to more than the \d+ MB it may hold\.$/);
  });
  it('nesting without end, and fields of names that the language keeps for itself, are refused', () => {
    const deep = `${'['.repeat(200_000)}${']'.repeat(200_000)}`;
    const plain = JSON.stringify({ ...document, parts: [document.parts[0]] });
    expect(() => openAsset('x.json', strToU8(plain.replace('"schema":2', `"schema":2,"more":${deep}`)))).toThrow(/goes deeper/);
    expect(() => openAsset('x.json', strToU8(plain.replace('"schema":2', '"schema":2,"constructor":3')))).toThrow(
      /“constructor”, which none/,
    );
  });
  it.each([
    [
      'a kind that is a word of the language',
      (h: Head) => ({ ...h, arrays: [{ ...h.arrays[0], kind: 'constructor' }, ...h.arrays.slice(1)] }),
    ],
    ['a length below nothing', (h: Head) => ({ ...h, arrays: [{ ...h.arrays[0], length: -8 }, ...h.arrays.slice(1)] })],
    ['a length beyond its bytes', (h: Head) => ({ ...h, arrays: [{ ...h.arrays[0], length: 1e15 }, ...h.arrays.slice(1)] })],
    ['no list of arrays', (h: Head) => ({ ...h, arrays: 3 })],
    ['no list of patches', (h: Head) => ({ ...h, patches: { length: 2 } })],
    ['elements of endless width', (h: Head) => ({ ...h, arrays: h.arrays.map((a) => ({ ...a, size: 1e9, elements: 3 })) })],
    ['a head that is nothing', () => null],
  ])('a stored mesh with %s is refused, and so are indices beyond what there is', (_, change) => {
    const odd = (altered: Uint8Array) => {
      const name = hashBytes(altered);
      const plain = JSON.parse(JSON.stringify(document).replaceAll(blob, name));
      const opened = openAsset('x.zip', zipSync({ 'asset.json': text(plain), [`meshes/${name}.mesh`]: altered }));
      return () => opened.load(name);
    };
    const size = new DataView(bytes.buffer).getUint32(4, true);
    const head = text(change(JSON.parse(new TextDecoder().decode(bytes.slice(8, 8 + size)))));
    const start = (8 + size + 7) & ~7;
    const at = (8 + head.length + 7) & ~7;
    const altered = new Uint8Array(at + bytes.length - start);
    altered.set(bytes.slice(0, 8));
    altered.set(head, 8);
    altered.set(bytes.slice(start), at);
    new DataView(altered.buffer).setUint32(4, head.length, true);
    expect(odd(altered)).toThrow(/^A stored mesh is damaged: .+\.$/);
    // The first corner stands on a vertex that isn't there: 8 vertices of three doubles lie before the corners.
    const beyond = bytes.slice();
    new DataView(beyond.buffer).setUint32(start + 8 * 24, 4_000_000_000, true);
    expect(odd(beyond)).toThrow(/stored mesh is damaged/);
  });
  it('a mesh that is not the one referred to is refused', () => {
    const other = zipSync({ 'asset.json': text(document), [`meshes/${blob}.mesh`]: encodeMesh(cube(11)) });
    expect(() => openAsset('x.zip', other)).toThrow(/not the one/);
  });
  it('takes what was made of the piece along; what is not as its name says is left out, and a file that is only opened gives none', () => {
    const file = new TextEncoder().encode('parts of the piece');
    const one = (stage: 'form' | 'unwrap' | 'bake', name: string, blobs: Record<string, string>) => ({
      name,
      stage,
      inputs: [],
      figures: { of: stage },
      blobs,
      milliseconds: 3,
    });
    const whole: Whole = {
      results: [
        one('form', nameOf(document, 'form'), { parts: hashBytes(file) }),
        one('unwrap', 'f'.repeat(64), {}),
        one('bake', nameOf(document, 'bake'), { normal: hashBytes(new Uint8Array([1])) }),
      ],
      files: new Map([
        [hashBytes(file), { bytes: file, kind: 'parts' }],
        // Damaged on the way: its bytes are others than its name says.
        [hashBytes(new Uint8Array([1])), { bytes: new Uint8Array([2]), kind: 'png' }],
      ]),
      thumbnail: new Uint8Array([9]),
    };
    const packed = packAsset(document, () => bytes, whole);
    expect(
      Buffer.compare(
        packed,
        packAsset(document, () => bytes, whole),
      ),
    ).toBe(0);
    const back = resultsIn(document, packed);
    expect(back.results).toEqual([whole.results[0]]);
    expect(back.files.get(hashBytes(file))?.bytes).toEqual(file);
    expect(back.thumbnail).toEqual(whole.thumbnail);
    expect(Object.keys(openAsset('a.zip', packed))).not.toContain('results');
    expect(
      resultsIn(
        document,
        packAsset(document, () => bytes),
      ).results,
    ).toEqual([]);
  });
});
