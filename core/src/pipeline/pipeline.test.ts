import { WebIO } from '@gltf-transform/core';
import validator from 'gltf-validator';
import { applyPatches } from 'immer';
import { beforeAll, describe, expect, it } from 'vitest';
import { stormLantern } from '../../../demo/src/lantern';
import { tinHigh, tinLow } from '../../../demo/src/tin';
import { cube } from '../../test/shapes';
import { adviseBrief } from '../brief/advice';
import { briefFor } from '../brief/brief';
import { layoutPng, layoutSvg } from '../drawing/layout';
import { thumbnail } from '../drawing/thumbnail';
import { CancelledError } from '../errors';
import { decodePng } from '../image/png';
import { readModel } from '../io/read';
import { inverse, placement } from '../maths/mat4';
import { triangleCount } from '../mesh/polymesh';
import { aboutParts, bakeSettings } from './bake';
import { bake } from './bake-finish';
import { decodeParts, encodeParts } from './bundle';
import { applyCommand, type Command, inWords } from './commands';
import { type AssetDocument, newDocument } from './document';
import { exportGlb, exportOptions, fileName } from './export';
import { assetBounds, formAsset } from './form';
import { documentFromModel, intoPartSpace, pairHigh } from './import';
import { inspectAsset, ledgerOf } from './inspect';
import { nameOf } from './results';
import { solveAsset } from './solve';
import { unwrap, unwrapSettings } from './unwrap';

const none = () => {
  throw new Error('a recipe needs no stored mesh');
};
const text = (s: string) => new TextEncoder().encode(s);

describe('the storm lantern, from brief to file', () => {
  let document: AssetDocument;
  beforeAll(() => {
    const raw = stormLantern();
    document = { ...raw, form: { ...raw.form, counts: solveAsset(raw).counts } };
    document.brief.limits.textureSize = 512;
  });

  it('keeps its limit, and has no finding', () => {
    const formed = formAsset(document, 'low', none);
    const ledger = ledgerOf(formed.parts);
    expect(ledger.triangles).toBeLessThanOrEqual(5000);
    expect(ledger.triangles).toBe(solveAsset(stormLantern()).triangles);
    expect(inspectAsset(document, formed, ledger)).toEqual([]);
    for (const [k, mm] of [112, 268, 112].entries()) expect(ledger.sizeMm[k]).toBeGreaterThan(mm * 0.97);
  });
  it('has at least 150 000 triangles in its high mesh, with no fault either', () => {
    const high = formAsset(document, 'high', none);
    expect(high.problems).toEqual([]);
    const drawn = high.parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
    expect(drawn).toBeGreaterThanOrEqual(150_000);
  });
  it('its ledger is the exported file’s: triangles, vertices with tangent splits, draws; the validator has nothing to say', async () => {
    const laid = unwrap(formAsset(document, 'low', none).parts, unwrapSettings(document));
    expect(laid.figures.folds).toBe(0);
    expect(laid.figures.overlapTexels).toBe(0);
    expect(laid.figures.stretchL2).toBeLessThan(1.01);
    const ledger = ledgerOf(laid.parts);
    const glb = await exportGlb(laid.parts, exportOptions(document));
    const root = (await new WebIO().readBinary(glb)).getRoot();
    const stored = root.listMeshes().reduce((n, m) => n + (m.listPrimitives()[0].getAttribute('POSITION')?.getCount() ?? 0), 0);
    expect(ledger.gpuVertices).toBe(stored);
    const nodes = root.listNodes().filter((n) => n.getMesh());
    expect(ledger.drawCalls).toBe(nodes.length);
    expect(ledger.triangles).toBe(nodes.reduce((n, x) => n + (x.getMesh()?.listPrimitives()[0].getIndices()?.getCount() ?? 0) / 3, 0));
    expect(nodes.map((n) => n.getName())).toContain('Guard wires 4');
    const report = await validator.validateBytes(glb);
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    // Read again it is the same piece.
    const back = await readModel('lantern.glb', glb);
    const bounds = assetBounds(back.parts.map((p, i) => ({ id: String(i), name: p.name, mesh: p.mesh, placements: p.placements })));
    const own = assetBounds(laid.parts);
    for (let k = 0; k < 3; k++) expect(bounds.max[k]).toBeCloseTo(own.max[k], 2);
  });
  it('bakes with at least 5 % of its texels more than 10° from flat, hardly a ray missed, and close to the high mesh', async () => {
    const laid = unwrap(formAsset(document, 'low', none).parts, unwrapSettings(document));
    const made = await bake(
      laid.parts,
      formAsset(document, 'high', none).parts,
      aboutParts(document),
      { ...bakeSettings(document), samples: 1, occlusion: false },
      () => 0,
    );
    expect(made.figures.leaningShare).toBeGreaterThan(0.05);
    expect(made.figures.missedShare).toBeLessThan(0.002);
    expect(made.figures.backShare).toBeLessThan(0.005);
    expect(made.figures.judgement?.mean).toBeLessThan(4);
    const glb = await exportGlb(laid.parts, exportOptions(document, { normal: made.files.glbNormal }));
    const report = await validator.validateBytes(glb);
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
  });
  it('draws: a thumbnail with the piece on a clear ground, a layout as PNG and SVG', () => {
    const { parts } = formAsset(document, 'low', none);
    const picture = decodePng(
      thumbnail(
        parts.map((p) => ({ mesh: p.mesh, placements: p.placements, colour: [0.8, 0.6, 0.3], metallic: 1, opacity: 1, emissive: 0 })),
        64,
      ),
    );
    const alpha = Array.from({ length: 64 * 64 }, (_, i) => picture.data[4 * i + 3]);
    expect(alpha[0]).toBe(0);
    expect(alpha.filter((a) => a === 255).length).toBeGreaterThan(300);
    const laid = unwrap(parts, unwrapSettings(document));
    expect(decodePng(layoutPng(laid.parts, 128)).width).toBe(128);
    expect(layoutSvg(laid.parts, 512)).toMatch(/^<svg [^>]+width="512".+<g id="Font and base">/);
  });
  it('can be stopped', () => {
    const { parts } = formAsset(document, 'low', none);
    expect(() => unwrap(parts, unwrapSettings(document), { progress() {}, cancelled: () => true })).toThrow(CancelledError);
  });
  it('comes back whole from its bundle', () => {
    const { parts } = formAsset(document, 'low', none);
    const back = decodeParts(encodeParts(parts));
    expect(back.map((p) => [p.id, p.placements.length, triangleCount(p.mesh)])).toEqual(
      parts.map((p) => [p.id, p.placements.length, triangleCount(p.mesh)]),
    );
    expect(() => decodeParts(encodeParts(parts).slice(0, 500))).toThrow(/damaged/);
  });
});

describe('an imported pair', () => {
  it('is paired by name, and by place where names say nothing', async () => {
    const low = await readModel('tin.obj', text(tinLow()), { unit: 'mm' });
    const high = await readModel('tin-high.obj', text(tinHigh()), { unit: 'mm' });
    const parts = low.parts.map((p, i) => ({ id: `part${i + 1}`, name: p.name, mesh: p.mesh, placements: p.placements }));
    expect(pairHigh(parts, high.parts).map((p) => [p.part, p.by])).toEqual([
      ['part1', 'name'],
      ['part2', 'name'],
    ]);
    const renamed = high.parts.map((p, i) => ({ ...p, name: `mesh_${7 - i}_hp` }));
    expect(pairHigh(parts, renamed)).toEqual([
      { part: 'part1', high: 0, by: 'place' },
      { part: 'part2', high: 1, by: 'place' },
    ]);
  });
  it('takes what is named after a part and lies on it for it, the longest name first, once that has its own', () => {
    const at = (name: string, x: number) => ({ name, mesh: cube(10), placements: [placement([x, 0, 0], [0, 0, 0])], material: -1 });
    const low = ['Door', 'Door latch', 'Foot'].map((name, i) => ({ id: `p${i}`, ...at(name, 100 * i) }));
    const high = [
      at('door_high', 0),
      at('door latch high', 100),
      at('Door.rivets', 8),
      at('door_latch_screw', 95),
      at('lamp', 1100),
      at('foot pad', 1200),
      at('door_002', 900),
    ];
    expect(pairHigh(low, high)).toEqual([
      { part: 'p0', high: 0, by: 'name', more: [2] },
      { part: 'p1', high: 1, by: 'name', more: [3] },
    ]);
  });
  it('goes from OBJ to a baked map, low without layout and all', async () => {
    const low = await readModel('tin.obj', text(tinLow()), { unit: 'mm' });
    const high = await readModel('tin-high.obj', text(tinHigh()), { unit: 'mm' });
    const meshes = new Map(low.parts.map((p, i) => [`m${i}`, p.mesh]));
    const document = documentFromModel(
      'Tin',
      low,
      { fileName: 'tin.obj', licence: 'own', note: '' },
      (m) => [...meshes].find(([, x]) => x === m)?.[0] as string,
    );
    expect(document.materials.map((m) => m.name)).toEqual(['Printed_tin', 'Bare_tin']);
    expect(document.brief.sizeMm).toEqual([210, 96, 140]);
    document.brief.limits.textureSize = 256;
    const laid = unwrap(formAsset(document, 'low', (b) => meshes.get(b) as never).parts, unwrapSettings(document));
    const highParts = pairHigh(laid.parts, high.parts).map(({ part, high: i }) => {
      const l = laid.parts.find((p) => p.id === part) as (typeof laid.parts)[number];
      return { ...l, mesh: intoPartSpace(high.parts[i], inverse(l.placements[0])) };
    });
    const made = await bake(laid.parts, highParts, new Map(), { ...bakeSettings(document), samples: 1, occlusion: false }, () => 0);
    expect(made.figures.missedShare).toBeLessThan(0.01);
    expect(made.figures.judgement?.mean).toBeLessThan(8);
  });
  it('a high mesh elsewhere is brought into its part’s space', () => {
    const m = placement([100, 0, 0], [0, 90, 0]);
    const moved = intoPartSpace({ name: 'h', mesh: cube(10), placements: [m], material: -1 }, inverse(m));
    for (const [i, x] of cube(10).positions.entries()) expect(moved.positions[i]).toBeCloseTo(x, 9);
  });
});

describe('changes', () => {
  const start = stormLantern();
  const commands: Command[] = [
    { type: 'rename', name: 'Storm lantern, small' },
    { type: 'brief.set', patch: { closestMm: 900 } },
    { type: 'part.set', part: 'font', patch: { weight: 2 } },
    {
      type: 'step.set',
      part: 'guards',
      step: { kind: 'array', id: 'guard-array', name: 'Six', enabled: true, count: 6, x: 0, z: 0, startDegrees: 0 },
    },
    { type: 'step.move', part: 'guards', step: 'guard-array', by: -1 },
    { type: 'form.lock', key: 'font-turned.sides', label: 'sides', count: 24 },
    { type: 'form.counts', counts: { a: 3 }, triangles: 100 },
    { type: 'unwrap.set', patch: { padding: 16 } },
    { type: 'bake.set', patch: { y: 'down' } },
    { type: 'waive', waiver: { finding: 'x', reason: 'it is meant', value: 1 } },
    { type: 'unwaive', finding: 'x' },
    { type: 'part.remove', part: 'flame' },
  ];
  it('each says in words what it did, and its inverse takes it back exactly', () => {
    let document = start;
    const stack: { before: AssetDocument; inverse: ReturnType<typeof applyCommand>['inverse'] }[] = [];
    for (const c of commands) {
      expect(inWords(c, document).length).toBeGreaterThan(8);
      const made = applyCommand(document, c);
      stack.push({ before: document, inverse: made.inverse });
      expect(applyPatches(document, made.patches)).toEqual(made.document);
      document = made.document;
    }
    for (const { before, inverse: back } of stack.reverse()) {
      document = applyPatches(document, back);
      expect(document).toEqual(before);
    }
  });
  it('that refer to nothing change nothing', () => {
    expect(() => applyCommand(start, { type: 'part.remove', part: 'nobody' })).toThrow(/no longer there/);
    expect(() => applyCommand(start, { type: 'step.remove', part: 'font', step: 'nothing' })).toThrow(/no longer there/);
    expect(() => applyCommand(start, { type: 'rename', name: '  ' })).toThrow(/at least one letter/);
    expect(() => applyCommand(start, { type: 'mesh.replace', part: 'font', low: { blob: '', triangles: 0 }, what: 'x' })).toThrow(
      /made by steps/,
    );
  });
  it('change the hash of exactly the stages that depend on them', () => {
    const stages = (d: AssetDocument) => (['form', 'unwrap', 'bake'] as const).map((s) => nameOf(d, s));
    const base = stages(start);
    const changed = (c: Command) => stages(applyCommand(start, c).document).map((h, i) => h !== base[i]);
    expect(changed({ type: 'rename', name: 'Other' })).toEqual([false, false, false]);
    expect(changed({ type: 'part.set', part: 'font', patch: { material: null } })).toEqual([false, false, false]);
    expect(changed({ type: 'bake.set', patch: { samples: 4 } })).toEqual([false, false, true]);
    expect(changed({ type: 'unwrap.set', patch: { padding: 2 } })).toEqual([false, true, true]);
    expect(changed({ type: 'form.lock', key: 'font-turned.sides', label: '', count: 9 })).toEqual([true, true, true]);
    expect(changed({ type: 'part.set', part: 'chimney', patch: { role: 'body' } })).toEqual([false, false, true]);
  });
  it('laid through the shot’s camera, only what moves the camera makes another layout; why its stretch is meant makes none', () => {
    const choice = { part: 'font', method: 'shot' as const };
    const through = applyCommand(start, { type: 'islands.lay', choices: [choice] }).document;
    const same = (c: Command) => nameOf(applyCommand(through, c).document, 'unwrap') === nameOf(through, 'unwrap');
    expect(nameOf(through, 'unwrap')).not.toBe(nameOf(start, 'unwrap'));
    expect(same({ type: 'shot.set', patch: { iso: 400 } })).toBe(true);
    expect(same({ type: 'shot.set', patch: { locked: true } })).toBe(true);
    expect(same({ type: 'shot.set', patch: { azimuth: 80 } })).toBe(false);
    expect(same({ type: 'islands.lay', choices: [{ ...choice, meant: 'painted as it is seen' }] })).toBe(true);
    expect(nameOf(applyCommand(start, { type: 'shot.set', patch: { azimuth: 80 } }).document, 'unwrap')).toBe(nameOf(start, 'unwrap'));
  });
});

describe('findings of the whole asset', () => {
  it('a step that can’t be built, a limit that is passed, and a waiver that re-opens when its value changes', () => {
    const base = stormLantern();
    base.brief.limits.triangles = 100;
    const font = base.parts[0];
    if (font.shape.kind === 'recipe' && font.shape.steps[0].kind === 'turned') font.shape.steps[0].profile.points[1].fillet = 90;
    const look = (d: AssetDocument) => {
      const formed = formAsset(d, 'low', none);
      return inspectAsset(d, formed, ledgerOf(formed.parts));
    };
    const found = look(base);
    expect(found.map((f) => f.kind)).toEqual(['over-limit', 'step']);
    const over = found[0];
    const waived = { ...base, waivers: [{ finding: over.id, reason: 'a study', value: over.value }] };
    expect(look(waived).find((f) => f.id === over.id)?.waived).toBe('a study');
    const reopened = { ...waived, waivers: [{ finding: over.id, reason: 'a study', value: over.value + 1 }] };
    expect(look(reopened).find((f) => f.id === over.id)?.waived).toBeUndefined();
  });
  it('advice explains itself and gives way to an override', () => {
    const brief = { ...briefFor('game'), overrides: { densityPxPerCm: 10 } };
    const a = adviseBrief(brief, { areaMm2: 100_000 });
    expect(a.density.value).not.toBe(10);
    expect(a.density.override).toBe(10);
    expect(a.wanted.densityPxPerCm).toBe(10);
    expect(a.texture.why).toMatch(/1.?000 cm² at 10 px\/cm/);
    expect(newDocument('x', brief).parts).toEqual([]);
    expect(fileName('Storm lantern, 2')).toBe('storm-lantern-2');
  });
});
