import { describe, expect, it } from 'vitest';
import { aneroidGauge } from '../../../demo/src/gauge';
import { stormLantern } from '../../../demo/src/lantern';
import { cube } from '../../test/shapes';
import { adviseBrief } from '../brief/advice';
import { briefFor, PURPOSES, type Purpose } from '../brief/brief';
import { type ThumbnailPart, thumbnail } from '../drawing/thumbnail';
import { CancelledError, FormError, InputError, StageError, WellmorphError } from '../errors';
import { array } from '../form/steps/array';
import { canonical, hashBytes, hashOf } from '../hash';
import { decodePng } from '../image/png';
import { IDENTITY, isRigid, transformPoint } from '../maths/mat4';
import { checkpoint, part, QUIET } from '../task';
import { formAsset } from './form';
import { inspectAsset, ledgerOf } from './inspect';
import { solveAsset, trianglesAtTolerance } from './solve';

describe('names of results', () => {
  it('are SHA-256 (FIPS 180-4 examples: the empty message and “abc”)', () => {
    expect(hashBytes(new Uint8Array(0))).toBe('e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855');
    expect(hashBytes(new TextEncoder().encode('abc'))).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
  });
  it('don’t depend on the order of keys, but on everything else', () => {
    expect(hashOf({ a: 1, b: { c: [1, 2], d: 'x' } })).toBe(hashOf({ b: { d: 'x', c: [1, 2] }, a: 1 }));
    expect(hashOf({ a: [1, 2] })).not.toBe(hashOf({ a: [2, 1] }));
    expect(hashOf({ a: 1 })).not.toBe(hashOf({ a: '1' }));
    expect(canonical({ b: null, a: [{ z: 1, y: 2 }] })).toBe('{"a":[{"y":2,"z":1}],"b":null}');
  });
});

describe('long work', () => {
  it('says its share of a larger whole', () => {
    const seen: [number, string | undefined][] = [];
    const half = part({ progress: (s, w) => seen.push([s, w]), cancelled: () => false }, 0.5, 1);
    half.progress(0);
    half.progress(0.5, 'on it');
    half.progress(1);
    expect(seen).toEqual([
      [0.5, undefined],
      [0.75, 'on it'],
      [1, undefined],
    ]);
  });
  it('stops when it is asked to', () => {
    expect(() => checkpoint(QUIET)).not.toThrow();
    expect(() => checkpoint({ progress() {}, cancelled: () => true })).toThrow(CancelledError);
    for (const Kind of [InputError, FormError, StageError]) {
      const e = new Kind('a/b', 'A sentence.', { mm: 1 });
      expect(e).toBeInstanceOf(WellmorphError);
      expect([e.name, e.code, e.figures.mm]).toEqual([Kind.name, 'a/b', 1]);
    }
  });
});

describe('copies round an axis', () => {
  it.each([
    [3, 120],
    [6, 60],
    [4, 90],
  ])('%i stand %i° apart (common practice, no source), all as far from the axis', (count, degrees) => {
    const copies = array.copies({ kind: 'array', id: 'a', name: 'a', enabled: true, count, x: 5, z: -3, startDegrees: 20 });
    expect(copies).toHaveLength(count);
    const places = copies.map((m) => transformPoint(m, [25, 7, -3]));
    for (const [i, p] of places.entries()) {
      expect(isRigid(copies[i])).toBe(true);
      expect(p[1]).toBe(7);
      expect(Math.hypot(p[0] - 5, p[2] + 3)).toBeCloseTo(20, 9);
      const q = places[(i + 1) % count];
      // Chord between neighbours: 2r·sin(half the angle).
      expect(Math.hypot(p[0] - q[0], p[2] - q[2])).toBeCloseTo(40 * Math.sin((degrees * Math.PI) / 360), 9);
    }
  });
});

describe('advice of the brief', () => {
  it.each(Object.keys(PURPOSES) as Purpose[])('for a %s every figure has a unit and a reason that ends in a full stop', (purpose) => {
    const a = adviseBrief(briefFor(purpose), { areaMm2: 50_000, trianglesFor: () => 1234 });
    for (const x of [a.pixels, a.density, a.texture, a.tolerance, a.memory, a.triangles]) {
      expect(x?.unit).toBeTruthy();
      expect(x?.why).toMatch(/\.$/);
      expect(Number.isFinite(x?.value)).toBe(true);
    }
  });
  it('says lengths in the unit of the brief, lenses in millimetres, and its figures are the same in any', () => {
    const brief = { ...briefFor('game'), closestMm: 635, lensMm: 35, sizeMm: [112, 254, 112] as [number, number, number] };
    const mm = adviseBrief(brief);
    const inches = adviseBrief({ ...brief, unit: 'in' });
    // 1 in = 25.4 mm exactly (International yard and pound agreement, 1959): 635 mm are 25 in, 254 mm are 10 in.
    expect(inches.pixels.why).toMatch(/^At 25\u00a0in with a 35 mm lens one pixel covers 0\.0\d+\u00a0in, so 10\u00a0in of piece fill/);
    for (const x of [inches.density, inches.tolerance]) expect(x.why).not.toContain('mm');
    expect(mm.pixels.why).toMatch(/^At 635\u00a0mm with a 35 mm lens one pixel covers 0\.\d+\u00a0mm, so 254\u00a0mm of piece fill/);
    for (const id of ['pixels', 'density', 'texture', 'tolerance', 'memory'] as const) expect(inches[id].value).toBe(mm[id].value);
  });
  it('half as far off is twice the density and half the tolerance, but for the lens’s own length', () => {
    const at = (closestMm: number) => adviseBrief({ ...briefFor('game'), closestMm, lensMm: 35 });
    const [far, near] = [at(1035), at(535)];
    expect(near.density.value / far.density.value).toBeCloseTo(2, 9);
    expect(far.tolerance.value / near.tolerance.value).toBeCloseTo(2, 9);
  });
  it('a coverage that was measured replaces the expected one', () => {
    const brief = briefFor('game');
    const texture = (coverage: number) => adviseBrief(brief, { areaMm2: 60_000, coverage }).texture.value;
    expect(texture(0.9)).toBeLessThanOrEqual(texture(0.2));
    expect(texture(0.05)).toBeGreaterThan(texture(0.9));
  });
});

describe('the demo', () => {
  it.each([
    ['lantern', stormLantern()],
    ['gauge', aneroidGauge()],
  ])('%s: every step builds, within its limit, nothing to mend', (_name, raw) => {
    const document = { ...raw, form: { ...raw.form, counts: solveAsset(raw).counts } };
    const formed = formAsset(document, 'low', () => {
      throw new Error('no stored mesh');
    });
    expect(formed.problems).toEqual([]);
    const ledger = ledgerOf(formed.parts);
    expect(ledger.triangles).toBeLessThanOrEqual(document.brief.limits.triangles);
    expect(inspectAsset(document, formed, ledger).filter((f) => f.severity !== 'information')).toEqual([]);
    // A looser tolerance never takes more.
    const [tight, loose] = [0.05, 0.5].map((e) => trianglesAtTolerance(document, e).triangles);
    expect(tight).toBeGreaterThan(loose);
  });
});

describe('thumbnails', () => {
  const block = (more: Partial<ThumbnailPart> = {}): ThumbnailPart => ({
    mesh: cube(10),
    placements: [IDENTITY],
    colour: [0.2, 0.7, 0.4],
    metallic: 0,
    opacity: 1,
    emissive: 0,
    ...more,
  });
  const middle = (png: Uint8Array) => {
    const p = decodePng(png);
    const i = 4 * ((p.height >> 1) * p.width + (p.width >> 1));
    return [...p.data.slice(i, i + 4)];
  };
  it('show the colour of the part, opaque, on a clear ground', () => {
    const [r, g, b, a] = middle(thumbnail([block()], 40));
    expect(g).toBeGreaterThan(r + 30);
    expect(g).toBeGreaterThan(b + 10);
    expect(a).toBe(255);
    expect(decodePng(thumbnail([block()], 40)).data[3]).toBe(0);
  });
  it('glass lets through what stands inside it', () => {
    const inner = block({ colour: [0.9, 0.1, 0.1], mesh: cube(4, [0, 3, 0]) });
    const [r, g] = middle(thumbnail([block({ opacity: 0.3, colour: [0.9, 0.9, 0.9] }), inner], 40));
    expect(r).toBeGreaterThan(g + 40);
  });
  it('can be portrait, and of nothing at all', () => {
    const p = decodePng(thumbnail([block()], 30, 50));
    expect([p.width, p.height]).toEqual([30, 50]);
    expect(decodePng(thumbnail([], 8)).data.every((x) => x === 0)).toBe(true);
  });
});
