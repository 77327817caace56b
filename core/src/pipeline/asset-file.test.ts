import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { asset, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import { hashBytes } from '../hash';
import { encodeMesh } from '../mesh/codec';
import { volumeOf } from '../mesh/measures';
import { openAsset, packAsset } from './asset-file';
import type { AssetDocument } from './document';

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

describe('an asset file', () => {
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
    ['a mesh that is missing', text(document), /lacks a mesh/],
    ['an archive without a document', zipSync({ 'x.txt': strToU8('x') }), /holds no asset\.json/],
    ['a damaged archive', strToU8('PK broken'), /damaged archive|holds no asset/],
  ])('%s is refused in one sentence', (_, broken, words) => {
    expect(() => openAsset('x.zip', broken)).toThrow(words);
  });
  it('a mesh that is not the one referred to is refused', () => {
    const other = zipSync({ 'asset.json': text(document), [`meshes/${blob}.mesh`]: encodeMesh(cube(11)) });
    expect(() => openAsset('x.zip', other)).toThrow(/not the one/);
  });
});
