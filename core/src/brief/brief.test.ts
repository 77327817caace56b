import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LENGTH_UNITS } from '../units/lengths';
import { adviseBrief, fieldOfView, MAPS_PER_SET, nextPowerOfTwo, pixelMm, textureBytes } from './advice';
import { type Brief, briefFor, PURPOSES, type Purpose } from './brief';
import { memoryTable, TEXTURE_FORMATS } from './memory';

const purposes = Object.keys(PURPOSES) as Purpose[];
const brief = (change: Partial<Brief> = {}): Brief => ({ ...briefFor('product'), ...change });
/** Cameras there are: a lens, a sensor, a picture and a distance beyond twice the lens. */
const anyCamera = fc.record({
  lensMm: fc.double({ min: 10, max: 300, noNaN: true }),
  sensorHeightMm: fc.double({ min: 4, max: 60, noNaN: true }),
  pictureHeightPx: fc.integer({ min: 100, max: 8000 }),
  closestMm: fc.double({ min: 700, max: 50_000, noNaN: true }),
});

describe('what a pixel covers', () => {
  it('at one to one it is the pitch of the sensor: a lens at twice its focal length (thin lens equation, any optics handbook)', () => {
    const camera = { lensMm: 50, closestMm: 100, sensorHeightMm: 24, pictureHeightPx: 2400 };
    expect(pixelMm(camera)).toBeCloseTo(0.01, 12);
  });
  it('times the picture’s height it is what the camera sees at that distance, by the angle it sees it under', () => {
    fc.assert(
      fc.property(anyCamera, (camera) => {
        const seen = pixelMm(camera) * camera.pictureHeightPx;
        expect(seen / (2 * camera.closestMm * Math.tan(fieldOfView(camera) / 2))).toBeCloseTo(1, 9);
      }),
    );
  });
  it('far away, half the angle is that of a 36 × 24 mm picture with a normal lens: 27.0° for 50 mm (handbook tables of angles of view)', () => {
    expect((fieldOfView({ lensMm: 50, sensorHeightMm: 24, closestMm: 1e9 }) * 180) / Math.PI).toBeCloseTo(26.99, 2);
    expect((fieldOfView({ lensMm: 35, sensorHeightMm: 24, closestMm: 1e9 }) * 180) / Math.PI).toBeCloseTo(37.85, 2);
  });
  it('farther away, with a shorter lens or in a smaller picture, a pixel covers more', () => {
    fc.assert(
      fc.property(anyCamera, (c) => {
        const px = pixelMm(c);
        expect(pixelMm({ ...c, closestMm: c.closestMm * 1.2 })).toBeGreaterThan(px);
        expect(pixelMm({ ...c, lensMm: c.lensMm * 0.8 })).toBeGreaterThan(px);
        expect(pixelMm({ ...c, pictureHeightPx: c.pictureHeightPx * 2 })).toBeCloseTo(px / 2, 12);
      }),
    );
  });
  it('nearer than the lens can be focused it still is a figure above nothing', () => {
    const close = { lensMm: 90, closestMm: 40, sensorHeightMm: 24, pictureHeightPx: 1080 };
    expect(pixelMm(close)).toBeGreaterThan(0);
    expect(fieldOfView(close)).toBeGreaterThan(0);
  });
});

describe('advice of a brief', () => {
  it('a texel for each pixel, and the texture they need on the piece’s surface', () => {
    const b = brief({ sizeMm: [100, 100, 100] });
    const { density, texture, pixelMm: px } = adviseBrief(b, { areaMm2: 60_000, coverage: 0.5 });
    expect(density.value).toBeCloseTo(10 / px, 12);
    // 600 cm² at so many px/cm on half of a tile: its side, by the area alone.
    const side = Math.sqrt((600 * density.value ** 2) / 0.5);
    expect(texture.value).toBeGreaterThanOrEqual(side);
    expect(texture.value).toBeLessThan(2 * side);
    expect(Math.log2(texture.value) % 1).toBe(0);
  });
  it('before anything is formed goes by the box of its size, and by less of it in more sets', () => {
    const b = brief({ sizeMm: [200, 300, 100] });
    const boxed = adviseBrief(b, { areaMm2: 2 * (200 * 300 + 300 * 100 + 100 * 200) });
    expect(adviseBrief(b).texture.value).toBe(boxed.texture.value);
    expect(adviseBrief(brief({ sizeMm: b.sizeMm, limits: { ...b.limits, textureSets: 4 } })).texture.value).toBe(boxed.texture.value / 2);
  });
  it('outlines may be off by the share of a pixel that is allowed', () => {
    for (const purpose of purposes) {
      const b = briefFor(purpose);
      expect(adviseBrief(b).tolerance.value).toBeCloseTo(b.errorPx * pixelMm(b), 12);
    }
  });
  it('what a person set is in force, and is said beside the advice', () => {
    const b = brief({ overrides: { densityPxPerCm: 12, toleranceMm: 0.4 } });
    const advice = adviseBrief(b, { trianglesFor: (mm) => Math.round(1000 / mm) });
    expect(advice.wanted).toEqual({ densityPxPerCm: 12, toleranceMm: 0.4 });
    expect([advice.density.override, advice.tolerance.override]).toEqual([12, 0.4]);
    expect(advice.density.value).not.toBe(12);
    expect(advice.triangles?.value).toBe(2500);
    const plain = adviseBrief(brief());
    expect([plain.density.override, plain.tolerance.override, plain.triangles]).toEqual([undefined, undefined, undefined]);
  });
  it('a texture limit that is as advised is no other figure', () => {
    const b = brief();
    const { value } = adviseBrief(b).texture;
    expect(adviseBrief({ ...b, limits: { ...b.limits, textureSize: value } }).texture.override).toBeUndefined();
    expect(adviseBrief({ ...b, limits: { ...b.limits, textureSize: value * 2 } }).texture.override).toBe(value * 2);
  });
  it('says the same lengths in every unit, and each figure in one sentence', () => {
    for (const unit of LENGTH_UNITS) {
      const advice = adviseBrief(brief({ unit }), { trianglesFor: () => 9000 });
      for (const a of [advice.pixels, advice.density, advice.texture, advice.tolerance, advice.triangles, advice.memory]) {
        expect(a?.why).toMatch(/^[A-Z\d].*\.$/);
        if (unit !== 'mm') expect(a?.why.replace(/\d mm lens/, '')).not.toMatch(/\d\smm\b/);
      }
      // The figures themselves are mm in all of them.
      expect(advice.tolerance.value).toBe(adviseBrief(brief()).tolerance.value);
    }
  });
  it('a product picture is looked at closer than a game prop, and no brief asks for what it forbids', () => {
    expect(pixelMm(briefFor('product'))).toBeLessThan(pixelMm(briefFor('game')));
    for (const purpose of purposes) {
      const b = briefFor(purpose);
      // Three maps a set, uncompressed, fit into what the brief allows at first.
      expect(adviseBrief(b).memory.value).toBeLessThanOrEqual(b.limits.memoryMB);
      expect(b.closestMm).toBeGreaterThan(b.lensMm);
    }
  });
});

describe('memory of textures', () => {
  it('with all its levels a texture takes a third more: the sum of a quarter, a sixteenth … (geometric series)', () => {
    expect(textureBytes(1, 1, 4)).toBe(4);
    expect(textureBytes(4, 4, 4)).toBe(4 * (16 + 4 + 1));
    expect(textureBytes(2048, 2048, 4) / (4 * 2048 * 2048)).toBeCloseTo(4 / 3, 6);
    expect(textureBytes(1024, 256, 4)).toBe(4 * (262144 + 65536 + 16384 + 4096 + 1024 + 256 + 64 + 16 + 4 + 2 + 1));
  });
  it('blocks of four by four are whole down to the last level: BC1 has 8 bytes a block, BC7 and ASTC 4 × 4 have 16 (Khronos Data Format 1.3)', () => {
    const { bc1, bc7 } = TEXTURE_FORMATS;
    expect(16 * bc1.bytesPerTexel).toBe(8);
    expect(16 * bc7.bytesPerTexel).toBe(16);
    // 4 × 4, 2 × 2 and 1 × 1 take a block each.
    expect(textureBytes(4, 4, bc1.bytesPerTexel, bc1.block)).toBe(3 * 8);
    expect(textureBytes(8, 8, bc7.bytesPerTexel, bc7.block)).toBe((4 + 1 + 1 + 1) * 16);
  });
  it('the table has the size and those beside it, each set and each map counted', () => {
    const maps = [{ bytes: 4 }, { bytes: 4 }, { bytes: 3 }];
    const table = memoryTable(1024, 2, maps);
    expect(table.map((r) => r.size)).toEqual([512, 1024, 2048]);
    const one = textureBytes(1024, 1024, 1) / 1e6;
    expect(table[1].mb.plain).toBeCloseTo(2 * 11 * one, 9);
    expect(table[1].mb.bc7 / table[1].mb.bc1).toBeCloseTo(2, 3);
    expect(memoryTable(128, 1, maps).map((r) => r.size)).toEqual([128, 256]);
    expect(memoryTable(8192, 1, maps).map((r) => r.size)).toEqual([4096, 8192]);
  });
  it('a brief’s memory is that of its sets and maps, until more is known', () => {
    const b = brief();
    const { textureSize, textureSets } = b.limits;
    expect(adviseBrief(b).memory.value).toBeCloseTo((textureSets * MAPS_PER_SET * textureBytes(textureSize, textureSize, 4)) / 1e6, 9);
    expect(adviseBrief(b, { textures: { maps: 4, memoryMB: 77 } }).memory).toMatchObject({
      value: 77,
      why: expect.stringContaining('4 maps'),
    });
  });
  it('the next power of two is at least as much, less than twice as much, and its own next one', () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 1e5, noNaN: true }), (x) => {
        const p = nextPowerOfTwo(x);
        expect(p).toBeGreaterThanOrEqual(x * (1 - 1e-8));
        expect(p).toBeLessThan(2 * x);
        expect(nextPowerOfTwo(p)).toBe(p);
      }),
    );
    expect(nextPowerOfTwo(0)).toBe(1);
  });
});
