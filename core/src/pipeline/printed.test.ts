import { WebIO } from '@gltf-transform/core';
import type { Clearcoat, Transmission } from '@gltf-transform/extensions';
import { KHRMaterialsClearcoat, KHRMaterialsTransmission } from '@gltf-transform/extensions';
import validator from 'gltf-validator';
import { beforeAll, describe, expect, it } from 'vitest';
import { bottle } from '../../test/bottle';
import { testKit } from '../../test/kit';
import { hashBytes } from '../hash';
import { decodePng, encodePng } from '../image/png';
import type { Kit } from '../kit';
import { INK, type Print } from '../print/print';
import { KeptSet } from '../surface/compose';
import { fromLibrary } from '../surface/library';
import { QUIET } from '../task';
import { openAsset, packAsset } from './asset-file';
import { applyCommand, type Command } from './commands/index';
import { type AssetDocument, composedMaterials } from './document';
import { exportGlb, exportOptions } from './export';
import { formAsset } from './form';
import { openPrints, setPrints } from './printed';
import { nameOf } from './results';
import { composeAsset, composePrepared, finishSet, groundInput, prepareSet, prepareSurface, SetComposer, stripsOf } from './surface';
import { unwrap, unwrapSettings } from './unwrap';

const none = () => {
  throw new Error('nothing stored');
};
const SIZE = 640;
let kit: Kit;
let laid: ReturnType<typeof unwrap>['parts'];
const ARTWORK = encodePng({
  width: 64,
  height: 32,
  channels: 4,
  depth: 8,
  data: Uint8Array.from({ length: 4 * 64 * 32 }, (_, i) => [200, 30 + ((i >> 4) % 90), 40, (i >> 2) % 64 < 8 ? 0 : 255][i % 4]),
});
const BLOB = hashBytes(ARTWORK);

const print = (more: Partial<Print> = {}): Print => ({
  id: 'front',
  name: 'Front',
  on: true,
  part: 'body',
  artwork: { kind: 'picture', blob: BLOB, fileName: 'front.png', mime: 'image/png', widthPx: 64, heightPx: 32 },
  width: 90,
  height: 45,
  at: { point: [0, 66, 35], normal: [0, 0, 1] },
  across: { from: 'middle', mm: 0 },
  up: { from: 'low', mm: 20 },
  turn: 0,
  ink: { ...INK, roughness: 0.35 },
  ...more,
});
const TEXT: Print['artwork'] = {
  kind: 'text',
  text: 'LAMP',
  capital: 12,
  tracking: 0,
  leading: 1.6,
  align: 'middle',
  arc: 0,
  colour: [0, 0, 0],
};
const PLAIN = bottle(24);
const withPrints = (prints: Print[], d = bottle(24)): AssetDocument => ({ ...d, prints });
const opened = (d: AssetDocument) => openPrints(d, laid, SIZE, { kit, read: (blob) => (blob === BLOB ? ARTWORK : undefined) });
async function composed(d: AssetDocument) {
  return composeAsset(d, laid, {}, SIZE, () => 0, QUIET, await opened(d));
}

beforeAll(async () => {
  kit = await testKit();
  const d = bottle(24);
  laid = unwrap(formAsset(d, 'low', none).parts, unwrapSettings(d)).parts;
});

describe('a printed set', () => {
  const both = [
    print(),
    print({
      id: 'back',
      name: 'Back',
      artwork: { ...TEXT, text: 'OIL' },
      width: 40,
      height: 16,
      across: { from: 'middle', mm: Math.PI * 35 },
      ink: { ...INK, relief: -120, coat: 0.8, metallic: 1 },
    }),
  ];

  it('is the same to the byte in any order of strips, by several threads', async () => {
    const d = withPrints(both);
    const whole = await composed(d);
    const job = prepareSet(d, laid, {}, SIZE, QUIET, (n) => new SharedArrayBuffer(n), await opened(d));
    const [one, other] = [new SetComposer(job), new SetComposer({ ...structuredClone({ ...job, set: null }), set: job.set })];
    const order = Array.from({ length: stripsOf(SIZE) }, (_, i) => i).reverse();
    expect(order.length).toBeGreaterThan(3);
    const strips: ReturnType<SetComposer['draw']>[] = [];
    for (const i of order) strips[i] = (i % 2 ? one : other).draw(i);
    const { files, figures } = finishSet(job, strips, {}, () => 0);
    for (const name of ['baseColour', 'orm', 'normal', 'coat', 'validity'] as const)
      expect(hashBytes(files[name] as Uint8Array), name).toBe(hashBytes(whole.files[name] as Uint8Array));
    expect(figures).toEqual(whole.figures);
    expect(figures.printed?.prints.map((p) => p.round?.degrees)).toEqual([expect.closeTo(147.3, 1), expect.closeTo(65.5, 1)]);
  });

  it('gets what each ink says and nothing else, and leaves what is kept of a preview as it was', async () => {
    const d = withPrints(both);
    const prepared = prepareSurface(groundInput(d, laid, {}, SIZE));
    const materials = composedMaterials(d);
    const prints = setPrints(d, laid, await opened(d), SIZE);
    const kept = new KeptSet();
    const bare = composePrepared(prepared, materials, QUIET, kept).set;
    const inked = composePrepared(prepared, materials, QUIET, kept, prints).set;
    // Switched off again it is to the byte what it was, though what was composed is composed into again.
    expect(asBytes(composePrepared(prepared, materials, QUIET, kept).set)).toEqual(asBytes(bare));
    const cold = composePrepared(prepared, materials, QUIET, undefined, prints).set;
    expect(asBytes(composePrepared(prepared, materials, QUIET, kept, prints).set)).toEqual(asBytes(cold));
    let [front, deep, wrong] = [0, 0, 0];
    for (let i = 0; i < SIZE * SIZE; i++) {
      if (inked.orm[3 * i + 1] === Math.round(255 * 0.35) && bare.orm[3 * i + 1] !== inked.orm[3 * i + 1]) front++;
      const height = inked.height?.[i] ?? 0;
      if (height < 0) deep++;
      if (height < -0.12 - 1e-6) wrong++;
      // All of the ink is metal and coated there.
      if (height < -0.1199 && !(inked.orm[3 * i + 2] === 255 && inked.coat?.[3 * i] === 204)) wrong++;
    }
    expect(wrong).toBe(0);
    const texel = 1 / (judged(d, prints, prepared) ?? 1);
    // Seven eighths of the first artwork are inked.
    expect((front * texel * texel) / (90 * 45 * (7 / 8))).toBeCloseTo(1, 1);
    expect(deep).toBeGreaterThan(100);
  });
  /** The maps of a set, by their bytes. */
  const asBytes = (set: typeof composeAsset extends (...all: never[]) => { set: infer S } ? S : never) =>
    Object.entries(set).map(([name, map]) => [name, ArrayBuffer.isView(map) ? hashBytes(new Uint8Array(map.buffer)) : map]);
  function judged(d: AssetDocument, prints: ReturnType<typeof setPrints>, prepared: ReturnType<typeof prepareSurface>): number | undefined {
    const { prints: made } = composePrepared(prepared, composedMaterials(d), QUIET, undefined, prints);
    const [first] = made;
    if (first.wrong !== undefined) return undefined;
    const { mesh } = first.ready;
    const uv = mesh.attributes.find((a) => a.name === 'uv')?.data as Float64Array;
    const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[3 * first.ready.laid.triangles[0] + k]);
    const area = Math.abs(
      (uv[2 * b] - uv[2 * a]) * (uv[2 * c + 1] - uv[2 * a + 1]) - (uv[2 * c] - uv[2 * a]) * (uv[2 * b + 1] - uv[2 * a + 1]),
    );
    const q = [a, b, c].map((i) => [0, 1, 2].map((k) => mesh.positions[3 * mesh.faceVert[i] + k]));
    const [e, f] = [1, 2].map((n) => q[n].map((x, k) => x - q[0][k]));
    const space = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
    return SIZE * Math.sqrt(area / space);
  }

  it('puts a dot of a clear picture down whole, wherever in it the dot stands, turned and mirrored as well', async () => {
    const [wide, high, side] = [400, 200, 10];
    const prepared = prepareSurface(groundInput(PLAIN, laid, {}, SIZE));
    const materials = composedMaterials(PLAIN);
    const bare = composePrepared(prepared, materials).set;
    const areas: number[] = [];
    for (const [x, y] of [
      [0, 0],
      [195, 95],
      [390, 190],
      [3, 101],
      [201, 7],
      [77, 133],
    ]) {
      const data = new Uint8Array(4 * wide * high);
      for (let j = y; j < y + side; j++) for (let i = x; i < x + side; i++) data.fill(255, 4 * (j * wide + i), 4 * (j * wide + i) + 4);
      const dot = encodePng({ width: wide, height: high, channels: 4, depth: 8, data });
      const artwork = { ...print().artwork, blob: hashBytes(dot), widthPx: wide, heightPx: high } as Print['artwork'];
      const d = withPrints([print({ artwork, turn: 3 * x, mirrored: x % 2 === 1, ink: { ...INK, metallic: 1 } })]);
      const pictures = await openPrints(d, laid, SIZE, { kit, read: () => dot });
      const { set } = composePrepared(prepared, materials, QUIET, undefined, setPrints(d, laid, pictures, SIZE));
      let area = 0;
      for (let i = 2; i < set.orm.length; i += 3) area += (set.orm[i] - bare.orm[i]) / (255 - bare.orm[i] || 1);
      areas.push(area);
    }
    // 2.25 mm each way: as many texels, all of their coverage summed.
    const mean = areas.reduce((n, x) => n + x, 0) / areas.length;
    expect(mean).toBeGreaterThan(20);
    for (const area of areas) expect(Math.abs(area / mean - 1)).toBeLessThan(0.06);
  });
  it('on glass lets no light through where it is printed, and goes out so, to the validator’s content', async () => {
    const glass = { ...fromLibrary('clear-glass', 'glaze'), layers: [] };
    const d = withPrints(
      both.map((p) => ({ ...p, ink: { ...p.ink, relief: undefined } })),
      { ...bottle(24), materials: [glass] },
    );
    const { files } = await composed(d);
    const clear = decodePng(files.clear as Uint8Array).data as Uint8Array;
    expect([clear.reduce((m, x) => Math.min(m, x), 255), clear.reduce((m, x) => Math.max(m, x), 0)]).toEqual([
      0,
      Math.round(255 * glass.transmission),
    ]);
    const glb = await exportGlb(
      laid,
      exportOptions(d, { baseColour: files.baseColour, orm: files.orm, coat: files.coat, clear: files.clear }),
    );
    const { issues } = await validator.validateBytes(glb);
    expect(issues.numErrors).toBe(0);
    const read = await new WebIO().registerExtensions([KHRMaterialsClearcoat, KHRMaterialsTransmission]).readBinary(glb);
    const [material] = read.getRoot().listMaterials();
    // Only the print is coated: the material has no coat of its own.
    expect(material.getExtension<Clearcoat>('KHR_materials_clearcoat')?.getClearcoatTexture()?.getImage()).toEqual(files.coat);
    expect(material.getExtension<Transmission>('KHR_materials_transmission')?.getTransmissionTexture()?.getImage()).toEqual(files.clear);
  });

  it('says of a print that can’t be laid why, and prints the others', async () => {
    const d = withPrints([print({ region: 'gone' }), both[1]]);
    const { figures } = await composed(d);
    expect(figures.printed?.wrong).toEqual([{ id: 'front', name: 'Front', sentence: expect.stringContaining('is gone') }]);
    expect(figures.printed?.prints).toHaveLength(1);
    const nowhere = withPrints([print({ part: 'body' })], { ...bottle(24), parts: bottle().parts.map((p) => ({ ...p, aid: true })) });
    expect(setPrints(nowhere, laid, new Map(), SIZE)).toEqual([]);
  });
});

describe('prints of a document', () => {
  const d = withPrints([print()]);
  const after = (command: Command, from = d) => applyCommand(from, command).document;

  it('make the set stale when anything of them shows, and not by their name or by being off', () => {
    const name = nameOf(d, 'surface');
    expect(nameOf(withPrints([print({ name: 'Other' })]), 'surface')).toBe(name);
    expect(nameOf(withPrints([print({ smallest: 2, keepClear: 3 })]), 'surface')).toBe(name);
    expect(nameOf(withPrints([print(), print({ id: 'off', on: false })]), 'surface')).toBe(name);
    const noted = { ...print().artwork, fileName: 'other.png', source: 'made here' } as Print['artwork'];
    expect(nameOf(withPrints([print({ artwork: noted })]), 'surface')).toBe(name);
    for (const more of [
      { turn: 1 },
      { width: 91 },
      { up: { from: 'low', mm: 21 } },
      { ink: { ...INK } },
      { artwork: TEXT },
    ] as Partial<Print>[])
      expect(nameOf(withPrints([print(more)]), 'surface')).not.toBe(name);
    expect(nameOf(withPrints([print({ turn: 1 })]), 'bake')).toBe(nameOf(d, 'bake'));
    // A piece without any is what it was.
    expect(nameOf(withPrints([]), 'surface')).toBe(nameOf(bottle(24), 'surface'));
  });

  it('travel with the piece: artwork and all, or without it where it did not come', () => {
    const bytes = packAsset(d, (blob) => {
      if (blob !== BLOB) throw new Error(blob);
      return ARTWORK;
    });
    const back = openAsset('bottle.zip', bytes);
    expect(back.document.prints).toEqual(d.prints);
    expect(hashBytes(back.bytes(BLOB) as Uint8Array)).toBe(BLOB);
  });

  it('go with their part, keep their order, and are told in the history', () => {
    const two = after({ type: 'print.set', print: print({ id: 'back', name: 'Back' }) });
    expect(after({ type: 'print.move', print: 'back', by: -1 }, two).prints?.map((p) => p.id)).toEqual(['back', 'front']);
    expect(after({ type: 'print.remove', print: 'front' }, d).prints).toBeUndefined();
    expect(after({ type: 'part.remove', part: 'body' }, two).prints).toBeUndefined();
    expect(() => after({ type: 'print.set', print: print({ part: 'none' }) })).toThrow(/no longer there/);
  });
});
