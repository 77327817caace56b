import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { drawnOn, NOTICE_BOUNDS, NOTICE_BOX, noticeBox, TAKEN } from '@wellmorph/demo/notice-box';
import { describe, expect, it } from 'vitest';
import type { SourcePicture } from '../gather/picture';
import { hashBytes } from '../hash';
import { decodeTexture } from '../io/textures';
import { seenFrom } from '../photo/camera';
import { solvePhoto } from '../photo/solve';
import { azimuthOf, project } from '../shot/shot';
import { allFindings } from './all-findings';
import { openAsset, packAsset } from './asset-file';
import { applyCommand, type Command, inWords } from './commands';
import { textureMemoryMB } from './delivered';
import { type AssetDocument, gatherOf, projectOf } from './document';
import { formAsset } from './form';
import { inspectAsset, ledgerOf } from './inspect';
import { preflight } from './preflight';
import { projectAsset } from './project';
import { honestSize, projectChecks, projectVerdict, standWords } from './project-figures';
import { drawPicture, renderPicture, solveStage, stageScene } from './render';
import { nameOf } from './results';
import { unwrap, unwrapSettings } from './unwrap';

const file = (name: string) => new Uint8Array(readFileSync(join(import.meta.dirname, '../../../demo/kept', name)));
const bytes = TAKEN.map((t) => file(t.file));
const photos = TAKEN.map((t, i) => drawnOn(t, hashBytes(bytes[i])));
const document: AssetDocument = { ...noticeBox(photos), project: { size: 256 } };
const none = () => {
  throw new Error('no stored mesh');
};
const formed = formAsset(document, 'low', none);
const laid = unwrap(formed.parts, unwrapSettings(document)).parts;
const pixels = new Map<string, SourcePicture>(
  photos.map((p, i) => {
    const { width, height, channels, data } = decodeTexture(p.name, bytes[i]);
    return [p.id, { width, height, channels, data: data as Uint8Array }];
  }),
);
const made = projectAsset(document, laid, pixels, () => 0);

describe('the notice box’s photographs laid on it', () => {
  it('what is seen of it, how bright each was, where to stand, how large a set is worth while', () => {
    const { figures } = made;
    // Front, both sides and the top from two sides: all but back and bottom.
    const [w, h, d] = NOTICE_BOX;
    const whole = 2 * (w * h + d * h + w * d);
    expect(figures.seenShare).toBeGreaterThan((w * h + 2 * d * h + 0.7 * w * d) / whole);
    expect(figures.seenShare).toBeLessThan((w * h + 2 * d * h + w * d) / whole + 0.01);
    // The second was exposed less than the first; what the tone curve and its noise add is left in it.
    expect(figures.photos[0].gain).toBeCloseTo(1, 6);
    expect(Math.abs(figures.photos[1].gain * TAKEN[1].exposure - 1)).toBeLessThan(0.1);
    expect(figures.overlap?.after).toBeLessThan(0.5 * (figures.overlap?.before ?? 0));
    expect(Math.abs((figures.stand?.azimuth ?? 0) - 180)).toBeLessThan(60);
    expect(figures.stand?.never).toBeCloseTo((w * d) / whole, 1);
    // 256 px are far fewer than the photographs have.
    expect(honestSize(figures)?.sentence).toMatch(/would show more/);
    expect(projectVerdict(figures)).toMatchObject({ level: 'near', sentence: expect.stringMatching(/% is not, and has the mean colour/) });
    expect(standWords(figures.stand as never, (mm) => `${Math.round(mm)} mm`)).toMatch(/^Stand behind.*can be seen\. .*can’t be seen/);
    // Small writing is lost at 256 px.
    expect(figures.off.mean).toBeLessThan(9);
  });
  it('its pictures are PNG of the size, grey where nothing is seen', () => {
    for (const png of Object.values(made.files)) expect(decodeTexture('map', png).width).toBe(256);
  });
  it('what is mirrored across is said apart from what is seen', () => {
    const { figures } = projectAsset({ ...document, project: { size: 128, blind: 'across-z' } }, laid, pixels, () => 0);
    const [w, h, d] = NOTICE_BOX;
    expect(figures.acrossShare).toBeCloseTo((w * h) / (2 * (w * h + d * h + w * d)), 1);
    expect(projectVerdict(figures).sentence).toMatch(/taken from the other side/);
  });
  it('what stands in the way is one sentence each', () => {
    const go = (d: AssetDocument, p = pixels) => projectAsset(d, laid, p, () => 0);
    expect(() => go({ ...document, photos: [] })).toThrow(/No photograph is to be laid/);
    expect(() => go({ ...document, photos: [{ ...photos[0], part: 'gone' }] })).toThrow(/no part of the piece stands/);
    expect(() => go({ ...document, photos: [{ ...photos[0], pins: photos[0].pins.slice(0, 1) }] })).toThrow(/two corners/);
    expect(() => go({ ...document, photos: [{ ...photos[0], widthPx: 1200 }] })).toThrow(/is 2400 × 1600 px now and was 1200/);
    expect(() => go(document, new Map())).toThrow(/no longer stored/);
    expect(() => go({ ...document, project: { left: ['box'] } })).toThrow(/Every part is left out/);
    expect(() => projectAsset(document, formAsset(document, 'low', none).parts, pixels, () => 0)).toThrow(/unwrap first/);
  });
});

describe('photographs in a document', () => {
  it('are looked for first: none, none solved, a part forgotten', () => {
    expect(projectChecks(document, () => true).map((c) => c.level)).toEqual(['ok']);
    expect(projectChecks(document, () => false)[0]).toMatchObject({
      level: 'over',
      sentence: expect.stringMatching(/match the camera in Form/),
    });
    expect(projectChecks({ ...document, photos: [] }, () => true)[0].level).toBe('over');
    expect(projectChecks({ ...document, project: { left: ['box'] } }, () => true).at(-1)).toMatchObject({ level: 'over', fix: 'take-all' });
  });
  it('a result goes stale with what is drawn, not with names or what is handed over', () => {
    const name = nameOf(document, 'project');
    const put = (photo: (typeof photos)[number]) => nameOf(applyCommand(document, { type: 'photo.set', photo }).document, 'project');
    expect(put({ ...photos[0], name: 'Another' })).toBe(name);
    expect(put({ ...photos[0], known: { axis: 0, mm: 640 } })).toBe(name);
    expect(put({ ...photos[0], edges: photos[0].edges.slice(1) })).not.toBe(name);
    expect(put({ ...photos[0], left: true })).not.toBe(name);
    expect(nameOf(applyCommand(document, { type: 'photo.remove', photo: photos[1].id }).document, 'project')).not.toBe(name);
  });
  it('what was done is told, and only one set goes out', () => {
    const fewer: Command = { type: 'photo.set', photo: { ...photos[0], edges: [] } };
    expect(inWords(fewer, document)).toBe(`removed 9 edges from ${photos[0].name}`);
    expect(inWords({ type: 'photo.set', photo: { ...photos[0], id: 'new' } }, document)).toMatch(/^brought the photograph/);
    const gathers = applyCommand(document, { type: 'gather.set', patch: { on: true } }).document;
    const projects = applyCommand(gathers, { type: 'project.set', patch: { on: true } }).document;
    expect([gatherOf(projects).on, projectOf(projects).on]).toEqual([false, true]);
    expect(projectOf(applyCommand(projects, { type: 'gather.set', patch: { on: true } }).document).on).toBe(false);
    // One picture of 256 × 256 with its levels.
    expect(textureMemoryMB(projects)).toBeCloseTo((256 * 256 * 4 * 4) / 3 / 1e6, 3);
  });
  it('preflight wants them laid on the piece as it is, and no material beside them', () => {
    const on = applyCommand(document, { type: 'project.set', patch: { on: true } }).document;
    const about = (project: { figures: typeof made.figures; fresh: boolean } | null) =>
      preflight({
        document: on,
        findings: [],
        ledger: null,
        fresh: { form: true, unwrap: true, bake: true, surface: false, render: true },
        layout: null,
        bake: null,
        surface: null,
        render: null,
        project,
      });
    expect(about(null).find((l) => l.id === 'stale-project')?.sentence).toMatch(/not been laid on yet/);
    expect(about({ figures: made.figures, fresh: false }).find((l) => l.id === 'stale-project')?.sentence).toMatch(/lay them on again/);
    const ready = about({ figures: made.figures, fresh: true });
    expect(ready.find((l) => l.id === 'project')?.sentence).toMatch(/Photographs on one set of 256 px/);
    expect(ready.filter((l) => l.level === 'over')).toEqual([]);
  });
  it('a material is missed only while the photographs don’t go out', () => {
    const findings = inspectAsset(document, formed, ledgerOf(formed.parts));
    const told = (d: AssetDocument) => allFindings(d, { findings: { name: '', findings }, look: null }).map((f) => f.kind);
    const on = applyCommand(document, { type: 'project.set', patch: { on: true } }).document;
    const forgotten = applyCommand(on, { type: 'project.set', patch: { left: ['box'] } }).document;
    expect([document, on, forgotten].map(told)).toEqual([['no-material'], [], ['no-material']]);
  });
  it('go along in an asset’s file, byte for byte; one that is missing is said', () => {
    const packed = packAsset(document, (name) => bytes[photos.findIndex((p) => p.blob === name)]);
    const opened = openAsset('box.zip', packed);
    expect(opened.document.photos).toEqual(photos);
    expect(opened.notes).toEqual([]);
    expect(hashBytes(opened.bytes(photos[0].blob))).toBe(photos[0].blob);
  });
});

describe('a shot through a photograph', () => {
  const parts = formAsset(document, 'low', none).parts;
  const shown: AssetDocument = { ...document, shot: { ...document.shot, photo: photos[0].id, widthPx: 240, heightPx: 160 } };
  it('sees the piece where the photograph shows it, cropped or not', () => {
    const bounds = { min: [...NOTICE_BOUNDS.min] as [number, number, number], max: [...NOTICE_BOUNDS.max] as [number, number, number] };
    for (const photo of [photos[0], { ...photos[0], cropped: true }]) {
      const { shot } = solveStage({ ...shown, photos: [photo] }, parts);
      const { camera } = solvePhoto(photo, bounds);
      expect(camera.middle[0] === photo.widthPx / 2).toBe(!photo.cropped);
      for (const p of [bounds.min, bounds.max, [0, 200, 110]] as const) {
        const [x, y] = project(shot.camera, p, photo.widthPx, photo.heightPx);
        const at = seenFrom(camera, p);
        expect(x).toBeCloseTo(at?.[0] ?? 0, 6);
        expect(y).toBeCloseTo(at?.[1] ?? 0, 6);
      }
      expect(shot.nearest).toBeLessThan(TAKEN[0].distanceMm);
      expect(Math.abs(azimuthOf(shot.camera) - TAKEN[0].azimuth)).toBeLessThan(1);
    }
  });
  it('stands in it: where nothing is in front and no shadow falls, it is the photograph', async () => {
    const solved = solveStage(shown, parts);
    const behind = { width: 240, height: 160, data: Uint8Array.from({ length: 3 * 240 * 160 }, (_, i) => (i * 13) & 255) };
    const development = { ...solved.development, behind };
    const { picture } = await renderPicture(
      stageScene(shown, parts, {}, solved),
      development,
      { width: 60, height: 40, samples: 4, seed: 1 },
      () => 0,
    );
    const at = (x: number, y: number) => [0, 1, 2].map((k) => picture.data[4 * (y * 60 + x) + k]);
    const photo = (x: number, y: number) => [0, 1, 2].map((k) => behind.data[3 * ((4 * y + 2) * 240 + 4 * x + 2) + k]);
    for (const [x, y] of [
      [1, 1],
      [58, 1],
      [30, 2],
    ])
      expect(
        at(x, y)
          .map((v, k) => Math.abs(v - photo(x, y)[k]))
          .every((d) => d <= 1),
      ).toBe(true);
    // The front of the box: plain grey, not the photograph.
    const [cx, cy] = project(solved.shot.camera, [0, 240, 110], 60, 40).map(Math.floor);
    const [r, g, b] = at(cx, cy);
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(25);
  });
  it('what keeps it from being seen so is one sentence each, and framing it again is nothing left behind', () => {
    const go = (patch: Partial<AssetDocument['shot']>, d = shown) => solveStage({ ...d, shot: { ...d.shot, ...patch } }, parts);
    expect(() => go({ heightPx: 240 })).toThrow(/of one shape/);
    expect(() => go({ photo: 'gone' })).toThrow(/is gone; choose another/);
    expect(() => go({}, { ...shown, photos: [{ ...photos[0], part: 'gone' }] })).toThrow(/no part of the piece stands/);
    const through = applyCommand(document, { type: 'shot.set', patch: { photo: photos[0].id } }).document;
    expect(nameOf(through, 'render')).not.toBe(nameOf(document, 'render'));
    expect(applyCommand(through, { type: 'photo.remove', photo: photos[0].id }).document.shot).toEqual(document.shot);
    const framed = applyCommand(through, { type: 'shot.set', patch: { photo: '' } }).document;
    expect(framed.shot).toEqual(document.shot);
    expect(nameOf(framed, 'render')).toBe(nameOf(document, 'render'));
    // What is drawn on it decides where the camera stands.
    const less = applyCommand(through, { type: 'photo.set', photo: { ...photos[0], edges: photos[0].edges.slice(2) } }).document;
    expect(nameOf(less, 'render')).not.toBe(nameOf(through, 'render'));
  });
  it('is not drawn by a queue that can’t unpack it upright', async () => {
    await expect(drawPicture(shown, parts, {}, () => 0)).rejects.toThrow(/drawn on the page, not in the queue/);
  });
});
