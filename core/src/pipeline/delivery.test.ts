import { strFromU8, unzipSync } from 'fflate';
import validator from 'gltf-validator';
import jpeg from 'jpeg-js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { beforeAll, describe, expect, it } from 'vitest';
import { stormLantern } from '../../../demo/src/lantern';
import { testKit } from '../../test/kit';
import { hashBytes } from '../hash';
import { decodePng } from '../image/png';
import { readModel } from '../io/read';
import { fromLibrary } from '../surface/library';
import { figure } from '../units/lengths';
import { secondLayout } from '../uv/second';
import { aboutParts, type BakeResult, bakeSettings } from './bake';
import { bake } from './bake-finish';
import { applyCommand, type Command, inWords } from './commands';
import { type AssetDocument, canBake, newDocument, upgradeDocument } from './document';
import { formAsset, type PartMesh } from './form';
import { archive, handoffFiles, type Timed, turnedTo } from './handoff';
import { documentFromModel } from './import';
import { inspectAsset, ledgerOf } from './inspect';
import { type AssetState, notCarried, preflight } from './preflight';
import { picturePng, renderPicture, safeToStart, solveStage, stageScene } from './render';
import { nameOf } from './results';
import { solveAsset } from './solve';
import { specSheet } from './spec-sheet';
import { composeAsset, surfaceVerdict } from './surface';
import { unwrap, unwrapSettings } from './unwrap';

const none = () => {
  throw new Error('the lantern needs no stored mesh');
};
const clock = () => performance.now() / 1000;

let document: AssetDocument;
let laid: PartMesh[];
let baked: BakeResult;
let surface: ReturnType<typeof composeAsset>;
let state: AssetState;

beforeAll(async () => {
  const raw = stormLantern();
  raw.brief = { ...raw.brief, limits: { ...raw.brief.limits, textureSize: 256 } };
  document = {
    ...raw,
    form: { ...raw.form, counts: solveAsset(raw).counts, highToleranceMm: 0.05 },
    bake: { ...raw.bake, samples: 1, occlusionRays: 4 },
    shot: { ...raw.shot, widthPx: 64, heightPx: 80 },
  };
  const low = formAsset(document, 'low', none);
  const layout = unwrap(low.parts, unwrapSettings(document));
  laid = layout.parts;
  baked = await bake(laid, formAsset(document, 'high', none).parts, aboutParts(document), bakeSettings(document), clock);
  surface = composeAsset(document, laid, baked.files, 256, clock);
  const ledger = ledgerOf(laid);
  state = {
    document,
    findings: inspectAsset(document, low, ledger),
    ledger,
    fresh: { form: true, unwrap: true, bake: true, surface: true, render: true },
    layout: layout.figures,
    bake: baked.figures,
    surface: surface.figures,
    render: null,
  };
}, 120_000);

describe('surface of the lantern', () => {
  it('is worn and dirty by the shares its materials ask for, and sound by the validity map', () => {
    for (const m of surface.figures.composed.materials) {
      const wanted = document.materials.find((d) => d.id === m.id);
      for (const l of m.layers) {
        const [asked] = wanted?.layers.find((x) => x.id === l.id)?.mask ?? [];
        if (asked?.field.kind === 'worn' || asked?.field.kind === 'enclosed')
          expect(Math.abs(l.share - asked.field.share)).toBeLessThan(0.01);
      }
    }
    expect(surfaceVerdict(surface.figures).level).not.toBe('over');
    expect(surface.figures.validity.sound).toBeGreaterThan(0.97);
    expect(surfaceVerdict({ ...surface.figures, validity: { ...surface.figures.validity, 'too dark': 0.4 } })).toMatchObject({
      level: 'over',
      sentence: expect.stringContaining('too dark'),
    });
  });
  it('wear lies where the high mesh is convex: worn texels bend more than the rest', () => {
    const curvature = decodePng(baked.files.curvature as Uint8Array);
    const values = [...curvature.data];
    expect(curvature.channels).toBe(1);
    // A lantern of turned parts has edges and grooves, and most of it is nearly flat at a millimetre.
    expect(values.filter((v) => v > 160).length).toBeGreaterThan(100);
    expect(values.filter((v) => v < 110).length).toBeGreaterThan(100);
    const flat = values.filter((v) => Math.abs(v - 128) < 20).length / values.length;
    expect(flat).toBeGreaterThan(0.4);
  });
  it('refuses what it can’t do in a sentence', () => {
    expect(() => composeAsset(document, formAsset(document, 'low', none).parts, {}, 64, clock)).toThrow(/unwrap first/);
    expect(() => composeAsset({ ...document, materials: [] }, laid, {}, 64, clock)).toThrow(/material/);
  });
});

describe('light and picture of the lantern', () => {
  it('is framed, in focus and lit for the card, and the check before a long picture says so', () => {
    const solved = solveStage(document, laid);
    expect(Math.max(...solved.shot.fill)).toBeCloseTo(1 - 2 * document.shot.margin, 3);
    const checks = safeToStart(document, laid, solved, { composed: true });
    expect(checks.every((c) => c.level === 'ok')).toBe(true);
    const worse = { ...document, parts: document.parts.map((p, i) => (i ? p : { ...p, material: null })) };
    const wide = { ...worse, shot: { ...document.shot, aperture: 1.4, widthPx: 12000, heightPx: 12000 } };
    const bad = safeToStart(wide, laid, solveStage(wide, laid), { composed: false });
    expect(bad.filter((c) => c.level !== 'ok').map((c) => c.id)).toEqual(['materials', 'textures', 'light', 'focus', 'size', 'memory']);
    // The aperture set by hand floods it: the lamps keep what they give, the card's reading is what is measured.
    expect(bad.find((c) => c.id === 'light')?.sentence).toMatch(/stops over/);
    const shot = { ...document.shot, seconds: 2 * document.shot.seconds };
    const [longer, again] = [
      solveStage({ ...document, shot }, laid),
      solveStage({ ...document, shot, rig: { ...document.rig, power: solved.rig.power } }, laid),
    ];
    expect(longer.rig.cardReading).toBeCloseTo(0.36, 6);
    expect(again.rig.cardReading).toBeCloseTo(0.36, 6);
    // Either of the two ways mends it.
    expect(again.wantedSeconds).toBeCloseTo(document.shot.seconds, 9);
    const dimmed = solveStage({ ...document, shot, rig: { ...document.rig, power: again.wantedPower } }, laid);
    expect(dimmed.rig.cardReading).toBeCloseTo(0.18, 6);
    expect(() => solveStage(document, [])).toThrow(/form the piece first/);
  });
  it('the flame and the backdrop are seen through the chimney, and the brass is brass', async () => {
    const solved = solveStage(document, laid);
    const scene = stageScene(document, laid, { ...surface.files, normal: baked.files.glbNormal }, solved);
    const { picture, figures } = await renderPicture(scene, solved.development, { width: 64, height: 80, samples: 16, seed: 1 }, clock);
    const at = (x: number, y: number) => [...picture.data.slice(4 * (64 * y + x), 4 * (64 * y + x) + 3)];
    // Paper at the rim of the picture is light and nearly grey.
    const corner = at(3, 76);
    expect(Math.min(...corner)).toBeGreaterThan(110);
    expect(Math.max(...corner) - Math.min(...corner)).toBeLessThan(30);
    let brightest = [0, 0, 0];
    for (let y = 28; y < 52; y++) for (let x = 26; x < 38; x++) if (at(x, y)[0] > brightest[0]) brightest = at(x, y);
    expect(brightest[0]).toBeGreaterThan(230);
    // Through the glass beside the flame there is paper, a little darker, not black.
    expect(Math.min(...at(27, 40))).toBeGreaterThan(50);
    const brass = at(32, 62);
    expect(brass[0]).toBeGreaterThan(brass[2] + 20);
    expect(figures.samples).toBe(16);
    expect(figures.noise).toBeGreaterThan(0);
    expect(figures.noise).toBeLessThan(0.2);
    expect(figures.measured.map((m) => m.samples)).toEqual([2, 4, 8, 16]);
    expect(decodePng(picturePng(picture)).channels).toBe(4);
  });
});

const NOTHING = { glb: false, obj: false, textures: false, layout: false, picture: false, sheet: false, levels: false };

describe('hand-off of the lantern', () => {
  const made = () =>
    handoffFiles(
      state,
      laid,
      { ...baked.files, ...surface.files, glbNormal: baked.files.glbNormal, picture: surface.files.orm },
      solveStage(document, laid),
      '2026-11-25',
    );
  it('goes out for the older school too where that is chosen, and says what is lost by it', async () => {
    const chosen = { ...document, handoff: { ...document.handoff, specular: true, include: { ...NOTHING, textures: true } } };
    const files = await handoffFiles({ ...state, document: chosen }, laid, { ...baked.files, ...surface.files }, null, '');
    const older = files.filter((f) => /_(diffuse|specular|gloss|specular_lost)\.png$/.test(f.name));
    expect(older.map((f) => f.name.replace(/.*storm-lantern_/, ''))).toEqual([
      'diffuse.png',
      'specular.png',
      'gloss.png',
      'specular_lost.png',
    ]);
    expect(older[1].what).toMatch(/base colour is [\d.]+ of 255 off on the mean, \d+ at most/);
    for (const f of older) expect([decodePng(f.bytes).width, decodePng(f.bytes).depth]).toEqual([256, 8]);
  });
  it('takes colours along as JPEG with what each lost, and the set on one sheet, where that is chosen', async () => {
    const handoff = { ...document.handoff, specular: true, jpeg: 90, setSheet: true, include: { ...NOTHING, textures: true } };
    const maps = { ...baked.files, ...surface.files };
    const files = await handoffFiles({ ...state, document: { ...document, handoff } }, laid, maps, null, '', undefined, await testKit());
    const lossy = files.filter((f) => f.name.endsWith('.jpg'));
    expect(lossy.map((f) => f.name.replace(/.*storm-lantern_/, ''))).toEqual([
      'basecolor.jpg',
      'emissive.jpg',
      'diffuse.jpg',
      'specular.jpg',
    ]);
    const png = decodePng(surface.files.baseColour);
    for (const f of lossy) {
      expect(f.what).toMatch(/JPEG of quality 90: [\d.]+ of 255 off on the mean, \d+ at most, seen in [\d.]+ % of its texels$/);
      expect(jpeg.decode(f.bytes).width).toBe(png.width);
    }
    const sheet = decodePng(files.find((f) => f.name === 'storm-lantern_set.png')?.bytes as Uint8Array);
    // Six maps of 256 px in two rows of three.
    expect([sheet.width > 3 * 256, sheet.width < 4 * 256, sheet.height > 2 * 256]).toEqual([true, true, true]);
  });
  it('takes further levels along where they are chosen: valid GLBs of fewer triangles each, with the same textures', async () => {
    const chosen = { ...document, handoff: { ...document.handoff, include: { ...NOTHING, glb: true, levels: true } } };
    const kit = await testKit();
    const maps = { ...baked.files, ...surface.files };
    let timed = 0;
    const stopwatch: Timed = (act) => {
      timed++;
      return act();
    };
    const files = await handoffFiles({ ...state, document: chosen }, laid, maps, null, '', undefined, kit, stopwatch);
    expect(timed).toBe(1);
    expect(files.map((f) => f.name)).toEqual([
      'storm-lantern.glb',
      'storm-lantern_level1.glb',
      'storm-lantern_level2.glb',
      'storm-lantern_level3.glb',
    ]);
    let last = Infinity;
    for (const f of files) {
      const report = await validator.validateBytes(f.bytes);
      expect(report.issues.numErrors).toBe(0);
      expect(report.info.totalTriangleCount).toBeLessThanOrEqual(last);
      last = report.info.totalTriangleCount;
      expect((await readModel(f.name, f.bytes)).textures.length).toBe((await readModel('a.glb', files[0].bytes)).textures.length);
    }
    expect(files[1].what).toMatch(/50 % of the screen height/);
    const one = { ...chosen, handoff: { ...chosen.handoff, levels: 1 } };
    const fewer = await handoffFiles({ ...state, document: one }, laid, maps, null, '', undefined, kit);
    expect(fewer.map((f) => hashBytes(f.bytes))).toEqual(files.slice(0, 2).map((f) => hashBytes(f.bytes)));
  });
  it('one archive with everything, the same bytes every time', async () => {
    const zip = archive(await made());
    const names = Object.keys(unzipSync(zip)).sort();
    expect(names).toEqual(
      [
        'storm-lantern.glb',
        'storm-lantern.mtl',
        'storm-lantern.obj',
        'storm-lantern_layout.png',
        'storm-lantern_layout.svg',
        'storm-lantern_picture.png',
        'storm-lantern_spec-sheet.html',
        ...['basecolor', 'emissive', 'metallic', 'normal', 'occlusion', 'orm', 'roughness'].map((c) => `textures/storm-lantern_${c}.png`),
      ].sort(),
    );
    expect(archive(await made())).toEqual(zip);
  });
  it('the Khronos validator has nothing to say about the GLB, materials and extensions included', async () => {
    const glb = unzipSync(archive(await made()))['storm-lantern.glb'];
    const report = await validator.validateBytes(glb);
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity < 2)).toEqual([]);
    const json = JSON.parse(strFromU8(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))));
    expect([...json.extensionsUsed].sort()).toEqual(['KHR_materials_emissive_strength', 'KHR_materials_ior', 'KHR_materials_transmission']);
  });
  it('reading the GLB again gives the same figures, materials and all', async () => {
    const glb = unzipSync(archive(await made()))['storm-lantern.glb'];
    const model = await readModel('storm-lantern.glb', glb);
    expect(model.textures).toHaveLength(3);
    const meshes = new Map<string, PartMesh['mesh']>();
    const again = documentFromModel('Again', model, { fileName: 'x', licence: '', note: '' }, (mesh) => {
      meshes.set(String(meshes.size), mesh);
      return String(meshes.size - 1);
    });
    const parts = formAsset(again, 'low', (b) => meshes.get(b) as PartMesh['mesh']).parts;
    const [ours, theirs] = [ledgerOf(laid), ledgerOf(parts)];
    expect(theirs.triangles).toBe(ours.triangles);
    expect(theirs.drawCalls).toBe(ours.drawCalls);
    for (let k = 0; k < 3; k++) expect(theirs.sizeMm[k]).toBeCloseTo(ours.sizeMm[k], 3);
    expect(theirs.areaMm2 / ours.areaMm2).toBeCloseTo(1, 5);
    for (const m of document.materials) {
      const { id: _, ...own } = m;
      expect(again.materials).toContainEqual(expect.objectContaining({ ...own, touched: true }));
    }
    // A picture of either is lit the same.
    const [a, b] = [solveStage(document, laid), solveStage({ ...again, shot: document.shot, rig: document.rig }, parts)];
    for (const [i, l] of a.rig.figures.entries()) expect(b.rig.figures[i].watts / l.watts).toBeCloseTo(1, 4);
  });
  it('the OBJ is read by three’s loader: same triangles, same size, named materials', async () => {
    const files = unzipSync(archive(await made()));
    const obj = strFromU8(files['storm-lantern.obj']);
    const group = new OBJLoader().parse(obj);
    const triangles = group.children.reduce(
      (n, c) =>
        n + (c as unknown as { geometry: { getAttribute(k: string): { count: number } } }).geometry.getAttribute('position').count / 3,
      0,
    );
    expect(triangles).toBe(ledgerOf(laid).triangles);
    const mtl = strFromU8(files['storm-lantern.mtl']);
    for (const m of ['Aged_brass', 'Clear_glass', 'Flame']) expect(mtl).toContain(`newmtl ${m}`);
    expect(mtl).toContain('map_Kd textures/storm-lantern_basecolor.png');
    expect(obj).toContain('mtllib storm-lantern.mtl');
  });
  it('a second layout has pictures of its own, at its own size', async () => {
    const second = { on: true, size: 512, padding: 4 };
    const two = {
      ...document,
      unwrap: { ...document.unwrap, second },
      handoff: { ...document.handoff, include: { ...NOTHING, layout: true } },
    };
    const files = await handoffFiles({ ...state, document: two }, secondLayout(laid, second, true).parts, {}, null, '');
    expect(files.map((f) => f.name.replace('storm-lantern', ''))).toEqual(['_layout.png', '_layout.svg', '_layout-2.png', '_layout-2.svg']);
    expect(decodePng(files[0].bytes).width).toBe(256);
    expect(decodePng(files[2].bytes).width).toBe(512);
    expect(files[2].bytes).not.toEqual(files[0].bytes);
  });
  it('a turned normal map is 255 − G, and what isn’t asked for stays out', async () => {
    const up = baked.files.normal as Uint8Array;
    const [a, b] = [decodePng(up).data, decodePng(turnedTo(up, 'up', 'down')).data];
    for (const i of [1, 301, 9001]) expect(b[i]).toBe(255 - a[i]);
    expect(turnedTo(up, 'up', 'up')).toBe(up);
    const few = {
      ...document,
      handoff: { ...document.handoff, include: { ...NOTHING, layout: true, picture: true } },
    };
    const files = await handoffFiles({ ...state, document: few }, laid, {}, null, '2026-11-25');
    expect(files.map((f) => f.name)).toEqual(['storm-lantern_layout.png', 'storm-lantern_layout.svg']);
    const nothing = { ...few, handoff: { ...few.handoff, include: { ...few.handoff.include, layout: false, picture: false } } };
    await expect(handoffFiles({ ...state, document: nothing }, laid, {}, null, '')).rejects.toThrow(/Nothing is chosen/);
  });
  it('the spec sheet says what the piece is, what was waived and why, and escapes what people write', () => {
    const bare = { ...document, parts: document.parts.map((p, i) => (i ? p : { ...p, material: null })) };
    const [found] = inspectAsset(bare, formAsset(bare, 'low', none), ledgerOf(laid));
    const finding = { ...found, waived: 'meant <so>' };
    const sheetHtml = specSheet(
      { ...state, findings: [finding], document: { ...document, name: 'A & B' } },
      solveStage(document, laid),
      [],
      null,
      '2026-11-25',
    );
    expect(sheetHtml).toContain('A &#38; B');
    expect(sheetHtml).toContain('meant &#60;so&#62;');
    expect(sheetHtml).not.toContain('<so>');
    // The layout by what was measured on it.
    const { islands, density, seams } = state.layout as NonNullable<AssetState['layout']>;
    for (const said of [String(islands), `${figure(density, 1)} px/cm`, `${figure(seams?.lengthMm ?? 0, 0)} mm, `])
      expect(sheetHtml).toContain(`<td>${said}`);
    for (const words of ['Aged brass', 'W/(m²·sr)', 'lm/W', 'Missed', 'OBJ: the format has no unit']) expect(sheetHtml).toContain(words);
  });
  it('preflight names what is stale, open, over or unlicensed, worst first, and where to mend it', () => {
    // At a quarter of its size the rims of open parts are many texels among few: what the judge says of that is no matter here.
    const sound = { ...state, bake: { ...baked.figures, verdict: { level: 'ok' as const, sentence: 'Sound.', change: null } } };
    expect(preflight(sound).filter((l) => l.level === 'over')).toEqual([]);
    expect(preflight(sound).some((l) => l.id === 'hard-inside')).toBe(false);
    const layout = state.layout as NonNullable<AssetState['layout']>;
    const torn = { ...layout, seams: { ...(layout.seams as NonNullable<typeof layout.seams>), hardInsideMm: 42 } };
    expect(preflight({ ...sound, layout: torn }).find((l) => l.id === 'hard-inside')).toMatchObject({
      level: 'near',
      stage: 'unwrap',
      sentence: '42\u00a0mm of hard edge lie inside islands: baked normals can’t be right there.',
    });
    // What was placed by hand may lie on others, or out of the tile.
    const placed = preflight({ ...sound, layout: { ...layout, overlapTexels: 1200, outside: 2 } });
    expect(placed.find((l) => l.id === 'texels-twice')).toMatchObject({
      level: 'over',
      sentence: '1\u202f200 texels are claimed by two islands.',
    });
    expect(placed.find((l) => l.id === 'outside')).toMatchObject({ level: 'over', sentence: '2 islands reach out of the tile.' });
    expect(
      preflight({ ...sound, fresh: { ...sound.fresh, unwrap: false }, layout: { ...layout, outside: 1 } }).some((l) => l.id === 'outside'),
    ).toBe(false);
    const second = { islands: 20, coverage: 0.5, overlapTexels: 0, folds: 0, gutter: 8, border: 4, density: 12 };
    const twins = { shells: 3, mirrored: 1, savedShare: 0.2 };
    const sheet = specSheet({ ...sound, layout: { ...layout, second, twins } }, solveStage(document, laid), [], null, '2026-11-25');
    expect(sheet).toContain('Second layout (TEXCOORD_1)');
    expect(sheet).toContain('3, 1 of them mirrored');
    const bad: AssetState = {
      ...state,
      fresh: { ...state.fresh, bake: false, surface: false },
      surface: null,
      document: {
        ...document,
        brief: { ...document.brief, limits: { ...document.brief.limits, triangles: 10 } },
        parts: document.parts.map((p, i) => (i ? p : { ...p, material: null })),
        materials: document.materials.map((m) => ({ ...m, touched: false })),
        sources: [{ fileName: 'tin.obj', licence: ' ', note: '' }],
      },
    };
    const lines = preflight(bad);
    expect(lines[0].level).toBe('over');
    expect(lines.map((l) => [l.id, l.level])).toEqual(
      expect.arrayContaining([
        ['stale-bake', 'over'],
        ['stale-surface', 'over'],
        ['triangles', 'over'],
        ['materials', 'over'],
        ['untouched', 'near'],
        ['licence', 'near'],
        ['shot', 'near'],
      ]),
    );
    expect(lines.find((l) => l.id === 'stale-surface')?.sentence).toMatch(/not been made/);
    expect(lines.find((l) => l.id === 'stale-bake')?.sentence).toMatch(/older state/);
    expect(canBake(document)).toBe(true);
    expect(notCarried(document, { glb: false, obj: false })).toEqual([]);
  });
});

describe('the document of the second half', () => {
  const apply = (d: AssetDocument, c: Command) => applyCommand(d, c);
  const base = newDocument('N', stormLantern().brief);
  const brass = fromLibrary('polished-brass', 'b');
  it('materials are added to parts, changed, and taken away from every part, each undone by its inverse', () => {
    const d = { ...base, parts: stormLantern().parts.map((p) => ({ ...p, material: null })) };
    const ids = d.parts.slice(0, 2).map((p) => p.id);
    const added = apply(d, { type: 'material.add', material: { ...brass, touched: false }, parts: ids });
    expect(added.document.parts.slice(0, 3).map((p) => p.material)).toEqual(['b', 'b', null]);
    const set = apply(added.document, { type: 'material.set', material: 'b', patch: { roughness: 0.5 } });
    expect(set.document.materials[0]).toMatchObject({ roughness: 0.5, touched: true });
    const gone = apply(set.document, { type: 'material.remove', material: 'b' });
    expect(gone.document.parts.every((p) => p.material === null)).toBe(true);
    expect(() => apply(gone.document, { type: 'material.set', material: 'b', patch: {} })).toThrow(/no longer there/);
    expect(() => apply(added.document, { type: 'material.add', material: brass })).toThrow(/already/);
    expect(inWords({ type: 'material.set', material: 'b', patch: { roughness: 0.5 } }, added.document)).toBe(
      'set roughness of Polished brass',
    );
    expect(inWords({ type: 'material.add', material: brass, parts: ids }, d)).toMatch(/^gave .+ Polished brass$/);
  });
  it('a locked shot can only be unlocked', () => {
    const locked = apply(base, { type: 'shot.set', patch: { locked: true } }).document;
    expect(() => apply(locked, { type: 'shot.set', patch: { lensMm: 50 } })).toThrow(/locked/);
    const open = apply(locked, { type: 'shot.set', patch: { locked: false } });
    expect(apply(open.document, { type: 'shot.set', patch: { lensMm: 50 } }).document.shot.lensMm).toBe(50);
    expect(inWords({ type: 'shot.set', patch: { locked: true } }, base)).toBe('locked the shot');
  });
  it('a result is stale when what it was made from changes, and only then', () => {
    const hash = (d: AssetDocument) => [nameOf(d, 'bake'), nameOf(d, 'surface'), nameOf(d, 'render')];
    const before = hash(document);
    const changed = (c: Command) => hash(apply(document, c).document).map((h, i) => h !== before[i]);
    expect(changed({ type: 'material.set', material: 'brass', patch: { roughness: 0.1 } })).toEqual([false, true, true]);
    expect(changed({ type: 'material.set', material: 'brass', patch: { name: 'Old brass' } })).toEqual([false, false, false]);
    expect(changed({ type: 'rig.set', patch: { surround: 0.5 } })).toEqual([false, false, true]);
    expect(changed({ type: 'shot.set', patch: { locked: true } })).toEqual([false, false, false]);
    expect(changed({ type: 'shot.set', patch: { azimuth: 10 } })).toEqual([false, false, true]);
    expect(changed({ type: 'bake.set', patch: { curvatureRadiusMm: 2 } })).toEqual([true, true, true]);
    expect(changed({ type: 'handoff.set', patch: { unit: 'm' } })).toEqual([false, false, false]);
  });
  it('a document of the first half is read with defaults for what is new, and loses nothing', () => {
    const { surface: _, rig: __, shot: ___, render: ____, handoff: _____, ...rest } = stormLantern();
    const { curvature: a, curvatureRadiusMm: b, ...oldBake } = rest.bake;
    const old = {
      ...rest,
      schema: 1,
      bake: oldBake,
      materials: [{ id: 'g', name: 'Glass', colour: [1, 1, 1], metallic: 0, roughness: 0.1, opacity: 0.4, emissive: 0 }],
    };
    const now = upgradeDocument(JSON.parse(JSON.stringify(old)));
    expect(now).toMatchObject({ schema: 2, shot: newDocument('', rest.brief).shot, rig: newDocument('', rest.brief).rig });
    expect([now.bake.curvature, now.bake.curvatureRadiusMm]).toEqual([a, b]);
    expect(now.materials[0].transmission).toBeCloseTo(0.6, 9);
    expect(now.parts).toEqual(rest.parts);
    expect(upgradeDocument(now)).toEqual(now);
  });
});
