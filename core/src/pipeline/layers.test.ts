import { WebIO } from '@gltf-transform/core';
import { type Clearcoat, KHRONOS_EXTENSIONS, type Transmission } from '@gltf-transform/extensions';
import { noticeBox } from '@wellmorph/demo/notice-box';
import validator from 'gltf-validator';
import { beforeAll, describe, expect, it } from 'vitest';
import { hashBytes } from '../hash';
import { decodePng } from '../image/png';
import { KeptSet } from '../surface/compose';
import { MOST_LAYERS } from '../surface/layers/layer';
import { BEGINNINGS } from '../surface/layers/presets';
import { fromLibrary } from '../surface/library';
import type { Layer } from '../surface/material';
import { QUIET } from '../task';
import { applyCommand, type Command } from './commands/index';
import { deliveredMaps } from './delivered';
import { type AssetDocument, composedMaterials } from './document';
import { deliversTangents, exportGlb, exportOptions } from './export';
import { formAsset } from './form';
import { handoffFiles } from './handoff';
import { nameOf } from './results';
import { specSheet } from './spec-sheet';
import { composeAsset, composePrepared, finishSet, groundInput, prepareSet, prepareSurface, SetComposer, stripsOf } from './surface';
import { surfaceTrial } from './trials';
import { unwrap, unwrapSettings } from './unwrap';

const done = (d: AssetDocument, ...commands: Command[]) => commands.reduce((now, c) => applyCommand(now, c).document, d);
const none = () => {
  throw new Error('no stored mesh');
};
const enamel = { ...fromLibrary('enamel', 'paint'), layers: [] };
const brass = { ...fromLibrary('polished-brass', 'brass'), layers: [] };
const top = {
  id: 'top',
  name: 'Its top',
  rules: [{ id: 'r', how: 'add' as const, rule: { kind: 'facing' as const, x: 0, y: 1, z: 0, degrees: 20 } }],
  weight: 1,
};
const bowls: Layer = {
  id: 'bowls',
  name: 'Bowls',
  on: true,
  opacity: 1,
  look: { relief: -300 },
  mask: [{ join: 'times', inverted: false, field: { kind: 'dents', size: 40 } }],
};
const plain = done(noticeBox(), { type: 'material.add', material: enamel, parts: ['box'] }, { type: 'material.add', material: brass });
const composed = (d: AssetDocument, size = 256) => {
  const laid = unwrap(formAsset(d, 'low', none).parts, unwrapSettings(d)).parts;
  return { laid, ...composeAsset(d, laid, {}, size, () => 0) };
};

describe('a material on a region', () => {
  const set = done(plain, { type: 'region.set', part: 'box', region: { ...top, material: 'brass' } });
  it('is composed on its faces and nowhere else, by their share of the surface', () => {
    const [paint, metal] = composed(set).figures.composed.materials;
    expect([paint.id, metal.id]).toEqual(['paint', 'brass']);
    const [w, h, d] = [640, 480, 220];
    expect(metal.texels / (metal.texels + paint.texels)).toBeCloseTo((w * d) / (2 * (w * h + w * d + h * d)), 1);
    expect(composed(plain).figures.composed.materials.map((m) => m.id)).toEqual(['paint']);
  });
  it('makes the set stale and neither the form nor the layout', () => {
    const region = done(plain, { type: 'region.set', part: 'box', region: top });
    const names = (d: AssetDocument) => (['form', 'unwrap', 'surface', 'render'] as const).map((k) => nameOf(d, k));
    const [a, b] = [names(region), names(set)];
    expect(a.map((n, i) => n === b[i])).toEqual([true, true, false, false]);
  });
  it('goes with the material, and what is clear can’t lie on one', () => {
    const gone = done(set, { type: 'material.remove', material: 'brass' });
    expect(gone.parts[0].regions?.[0].material).toBeUndefined();
    const clear = done(set, { type: 'material.set', material: 'brass', patch: { transmission: 1 } });
    expect(composed(clear).figures.composed.materials.map((m) => m.id)).toEqual(['paint']);
  });
});

describe('what stands out of a set', () => {
  const out = done(plain, { type: 'material.set', material: 'paint', patch: { layers: [bowls] } });
  let made: ReturnType<typeof composed>;
  beforeAll(() => {
    made = composed(out, 512);
  });
  it('is a normal map of its own, with how deep and how steep it is', () => {
    const { relief } = made.figures;
    expect(relief?.highestUm).toBe(0);
    expect(relief?.lowestUm).toBeLessThan(-280);
    expect(relief?.lowestUm).toBeGreaterThanOrEqual(-300.001);
    expect(relief?.steepest).toBeGreaterThan(0.5);
    const p = decodePng(made.files.normal as Uint8Array);
    expect([p.width, p.channels, p.depth]).toEqual([512, 3, 8]);
    expect(composed(plain).files.normal).toBeUndefined();
    expect(surfaceTrial(out, made.figures).settings['Enamel: Bowls']).toMatch(/bowls of 40 mm · 300 µm deep/);
  });
  it('goes out in the GLB with tangents, and in the archive in the Y that is asked for', async () => {
    const unbaked = [plain, out].map((d) => done(d, { type: 'bake.set', patch: { normal: false } }));
    expect(unbaked.map(deliversTangents)).toEqual([false, true]);
    const { normal: relief, ...set } = made.files;
    const glb = await exportGlb(made.laid, exportOptions(out, { ...set, normal: relief }));
    const document = await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(glb);
    expect(document.getRoot().listMaterials()[0].getNormalTexture()?.getImage()).toEqual(relief);
    expect(document.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('TANGENT')).not.toBeNull();
    const state = {
      document: { ...out, handoff: { ...out.handoff, y: 'down' as const, smaller: 2 } },
      findings: [],
      ledger: null,
      fresh: { form: true, unwrap: true, bake: false, surface: true, render: false },
      layout: null,
      bake: null,
      surface: made.figures,
      render: null,
    };
    const files = await handoffFiles(state, made.laid, { ...set, relief }, null, 'today');
    const archived = decodePng(files.find((f) => f.name.endsWith('_normal.png'))?.bytes as Uint8Array);
    const own = decodePng(relief as Uint8Array);
    expect([...archived.data.slice(0, 3000)].every((v, i) => (i % 3 === 1 ? v === 255 - own.data[i] : v === own.data[i]))).toBe(true);
    const small = files.filter((f) => /_\d+\.png$/.test(f.name));
    expect(small.map((f) => /_([a-z]+_\d+)\.png$/.exec(f.name)?.[1])).toEqual([
      'basecolor_256',
      'orm_256',
      'normal_256',
      'basecolor_128',
      'orm_128',
      'normal_128',
    ]);
    const half = decodePng(small[2].bytes);
    expect([half.width, small[0].what]).toEqual([256, 'base colour, sRGB, 256 px']);
    // Its Y as well is the one that is asked for: above a bowl’s middle it leans as the large one does.
    const mean = (p: typeof half, of: number) =>
      Array.from(p.data).reduce((s, v, i) => (i % 3 === of ? s + Math.abs(v - 128) : s), 0) / (p.width * p.height);
    expect(mean(half, 1)).toBeGreaterThan(0.5 * mean(archived, 1));
    expect(specSheet(state, null, [], null, 'today')).toMatch(/Bowls \d+/);
  });
});

describe('print on glass, and varnish worn off', () => {
  const on = (id: string, look: Layer['look'], more: Partial<Layer> = {}): Layer => ({
    id,
    name: id,
    on: true,
    opacity: 1,
    look,
    mask: [],
    ...more,
  });
  it('go into maps of their own, and as open extensions into the GLB; without them there are no such maps', async () => {
    const varnished = done(plain, {
      type: 'material.set',
      material: 'paint',
      patch: { coat: 1, layers: [on('bare', { coat: 0.25, coatRoughness: 0.5 })] },
    });
    const clear = done(plain, {
      type: 'material.set',
      material: 'paint',
      patch: { transmission: 1, layers: [on('print', { colour: [0.1, 0.1, 0.1], transmission: 0.2 }, { opacity: 0.5 })] },
    });
    // What goes out is what memory is reckoned from.
    const names = (d: AssetDocument) => deliveredMaps({ ...d, bake: { ...d.bake, normal: false } }).map((m) => m.name);
    expect(names(plain)).toEqual(['base colour', 'occlusion, roughness, metallic']);
    expect(names(varnished).slice(2)).toEqual(['clear coat']);
    expect(names(clear).slice(2)).toEqual(['light let through']);
    expect(names(done(plain, { type: 'material.set', material: 'paint', patch: { layers: [bowls] } })).slice(2)).toEqual(['normal']);
    expect(composed(plain).files).not.toHaveProperty('coat');
    expect(composed(plain).files).not.toHaveProperty('clear');
    for (const [d, map, wanted] of [
      [varnished, 'coat', [64, 128]],
      [clear, 'clear', [153]],
    ] as const) {
      const { files, laid } = composed(d, 128);
      const p = decodePng(files[map] as Uint8Array);
      const here = Array.from({ length: p.channels }, (_, k) => p.data[p.channels * (64 * 128 + 40) + k]);
      expect(here.slice(0, wanted.length), map).toEqual(wanted);
      const { normal: _, ...set } = files;
      const glb = await exportGlb(laid, exportOptions(d, set));
      const report = await validator.validateBytes(glb);
      expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
      const read = await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(glb);
      const [material] = read.getRoot().listMaterials();
      const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
      const through = material.getExtension<Transmission>('KHR_materials_transmission');
      if (map === 'coat') expect([coat?.getClearcoatTexture()?.getImage(), coat?.getClearcoatFactor()]).toEqual([files.coat, 1]);
      else expect([through?.getTransmissionTexture()?.getImage(), through?.getTransmissionFactor()]).toEqual([files.clear, 1]);
    }
  });
});

describe('a set by strips', () => {
  const all = BEGINNINGS.map((b) => ({ id: b.key, ...b.make(enamel) })).slice(0, MOST_LAYERS);
  const stacked = done(plain, { type: 'material.set', material: 'paint', patch: { layers: all } });
  it('is the same to the byte in any order, by several at once and in memory that threads share', () => {
    const size = 640;
    const whole = composed(stacked, size);
    const job = prepareSet(stacked, whole.laid, {}, size, QUIET, (n) => new SharedArrayBuffer(n));
    // What another thread is handed is a copy.
    const [one, other] = [new SetComposer(job), new SetComposer({ ...structuredClone({ ...job, set: null }), set: job.set })];
    const order = Array.from({ length: stripsOf(size) }, (_, i) => i).reverse();
    expect(order.length).toBeGreaterThan(3);
    const strips: ReturnType<SetComposer['draw']>[] = [];
    for (const i of order) strips[i] = (i % 2 ? one : other).draw(i);
    const { files, figures } = finishSet(job, strips, {}, () => 0);
    for (const name of ['baseColour', 'orm', 'normal', 'validity'] as const)
      expect(hashBytes(files[name] as Uint8Array), name).toBe(hashBytes(whole.files[name] as Uint8Array));
    expect(figures).toEqual(whole.figures);
    expect(figures.composed.materials[0].layers).toHaveLength(all.length);
  });
  it('a preview that keeps what layers came to shows what one from cold shows', () => {
    const laid = unwrap(formAsset(stacked, 'low', none).parts, unwrapSettings(stacked)).parts;
    const prepared = prepareSurface(groundInput(stacked, laid, {}, 128));
    const [paint, ...rest] = composedMaterials(stacked);
    const kept = new KeptSet();
    const tries: Layer[][] = [
      all,
      all.map((l, n) => (n === 3 ? { ...l, opacity: 0.3 } : l)),
      // Only where one lies, and back.
      all.map((l) => ({ ...l, mask: l.mask.map((k) => (k.field.kind === 'spots' ? { ...k, field: { ...k.field, share: 0.3 } } : k)) })),
      all,
      // Another order, one left off, a field changed under a layer that follows it.
      [...all].reverse(),
      all.map((l, n) => (n === 1 ? { ...l, on: false } : l)),
      [
        ...all.map((l) => ({ ...l, mask: l.mask.map((k) => (k.field.kind === 'dents' ? { ...k, field: { ...k.field, size: 33 } } : k)) })),
        { ...bowls, id: 'in-it', mask: [{ join: 'times', inverted: true, field: { kind: 'layer', of: 'dents' } }] },
      ].slice(-MOST_LAYERS) as Layer[],
      all,
    ];
    for (const layers of tries) {
      const materials = [{ ...paint, layers }, ...rest];
      expect(composePrepared(prepared, materials, QUIET, kept)).toEqual(composePrepared(prepared, materials));
    }
  });
});
