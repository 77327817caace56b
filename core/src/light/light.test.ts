import fc from 'fast-check';
import { ShaderChunk } from 'three';
import { describe, expect, it } from 'vitest';
import { disk, lampAt } from '../../test/scenes';
import { random } from '../maths/random';
import { cross, dot, normalise, sub, type Vec3 } from '../maths/vec3';
import { boundsOf, isWatertight } from '../mesh/measures';
import { backdrop } from './backdrop';
import { EFFICACY, ev100, fullLuminance, fullRadiance, stops } from './exposure';
import { corners, formFactor, irradiance, lampArea, lampNormal, lampPower } from './lamps';
import { blackBody, directionFrom, GREY_CARD, LAMPS, lightRig, RIG_DEFAULTS, solvePower, subjectOf } from './rig';
import { pbrNeutral, toneMap } from './tone';

const UP: Vec3 = [0, 1, 0];
const rectangle = (a: number, b: number, h: number): Vec3[] => [
  [0, h, 0],
  [a, h, 0],
  [a, h, b],
  [0, h, b],
];

describe('form factors, against the closed forms of Howell’s catalogue of configuration factors', () => {
  it.each([
    [100, 100, 100],
    [300, 50, 80],
    [20, 20, 200],
  ])('element under the corner of a parallel rectangle %d × %d at %d', (a, b, h) => {
    const [x, y] = [a / h, b / h];
    const [rx, ry] = [Math.sqrt(1 + x * x), Math.sqrt(1 + y * y)];
    const wanted = ((x / rx) * Math.atan(y / rx) + (y / ry) * Math.atan(x / ry)) / (2 * Math.PI);
    expect(formFactor([0, 0, 0], UP, rectangle(a, b, h))).toBeCloseTo(wanted, 10);
  });
  it.each([
    [100, 60, 80],
    [200, 300, 50],
  ])('element at right angles to a rectangle %d wide and %d high, at %d before its corner', (width, height, c) => {
    const [x, y] = [height / width, c / width];
    const wanted = (Math.atan(1 / y) - (y / Math.sqrt(x * x + y * y)) * Math.atan(1 / Math.sqrt(x * x + y * y))) / (2 * Math.PI);
    const wall: Vec3[] = [
      [0, 0, c],
      [width, 0, c],
      [width, height, c],
      [0, height, c],
    ];
    expect(formFactor([0, 0, 0], UP, wall)).toBeCloseTo(wanted, 10);
  });
  it('a disk on its axis: r²/(r² + d²)', () => {
    for (const [r, d] of [
      [50, 100],
      [200, 50],
    ]) {
      const p = disk(r, d, -1, 720).positions;
      const polygon = Array.from({ length: p.length / 3 }, (_, i) => [p[3 * i], p[3 * i + 1], p[3 * i + 2]] as Vec3);
      expect(Math.abs(formFactor([0, 0, 0], UP, polygon) / ((r * r) / (r * r + d * d)) - 1)).toBeLessThan(2e-4);
    }
  });
  it('parts of a polygon add up to the whole, wherever it is cut and whatever is below the horizon', () => {
    const n = fc.double({ min: -200, max: 200, noNaN: true });
    fc.assert(
      fc.property(n, n, n, n, fc.double({ min: 0.1, max: 0.9, noNaN: true }), (x, y, z, w, cut) => {
        const a: Vec3 = [x, y, z];
        const b: Vec3 = [x + 150, y + w / 4, z];
        const c: Vec3 = [x + 150, y + w / 4, z + 130];
        const d: Vec3 = [x, y, z + 130];
        const mid = (p: Vec3, q: Vec3): Vec3 => [0, 1, 2].map((k) => p[k] + cut * (q[k] - p[k])) as unknown as Vec3;
        fc.pre(Math.abs(dot(cross(sub(b, a), sub(d, a)), a)) > 1000);
        const whole = formFactor([0, 0, 0], UP, [a, b, c, d]);
        const parts = formFactor([0, 0, 0], UP, [a, mid(a, b), mid(d, c), d]) + formFactor([0, 0, 0], UP, [mid(a, b), b, c, mid(d, c)]);
        expect(parts).toBeCloseTo(whole, 8);
        expect(whole).toBeLessThanOrEqual(1);
      }),
    );
  });
});

describe('lamps', () => {
  it('radiance is P/(πA), and a small lamp far off gives P/(πd²) on its axis', () => {
    const lamp = lampAt([0, 2000, 0], [0, -1, 0], 20, 20, 500);
    expect(lampArea(lamp)).toBeCloseTo(4e-4, 12);
    expect(lampPower(lamp)).toBeCloseTo(Math.PI * 500 * 4e-4, 9);
    expect(irradiance(lamp, [0, 0, 0], UP) / (lampPower(lamp) / (Math.PI * 4))).toBeCloseTo(1, 3);
    expect([...lampNormal(lamp)].map(Math.round)).toEqual([0, -1, 0]);
  });
  it('shines to one side only', () => {
    expect(irradiance(lampAt([0, 100, 0], [0, 1, 0], 50, 50), [0, 0, 0], UP)).toBe(0);
  });
});

describe('exposure', () => {
  it('EV of handbook tables: 1 s at f/1 is 0, 1/125 s at f/16 is 15 (sunny sixteen), 1/60 s at f/8 is 12', () => {
    expect(ev100({ aperture: 1, seconds: 1, iso: 100 })).toBe(0);
    expect(ev100({ aperture: 16, seconds: 1 / 125, iso: 100 })).toBeCloseTo(15, 1);
    expect(ev100({ aperture: 8, seconds: 1 / 60, iso: 100 })).toBeCloseTo(11.9, 1);
    expect(ev100({ aperture: 8, seconds: 1 / 60, iso: 400 })).toBeCloseTo(9.9, 1);
  });
  it('full is 1.2 · 2^EV cd/m² (ISO 12232, saturation), and close-ups want (1 + m)² of the light', () => {
    expect(fullLuminance(10)).toBeCloseTo(1228.8, 6);
    const e = { aperture: 8, seconds: 1 / 8, iso: 100 };
    expect(fullRadiance(e, 1) / fullRadiance(e)).toBeCloseTo(4, 12);
    expect(fullRadiance(e) * EFFICACY).toBeCloseTo(fullLuminance(ev100(e)), 9);
    expect(stops(8)).toBe(3);
  });
  it('the efficacy used is far from 683 lm/W, which holds at 555 nm only', () => {
    expect(EFFICACY).toBeCloseTo(182.5, 1);
  });
});

describe('the rig', () => {
  const subject = subjectOf({ min: [-56, 0, -56], max: [56, 268, 56] });
  const full = fullRadiance({ aperture: 16, seconds: 0.25, iso: 100 });
  const lit = (of: typeof subject, at: number) => lightRig(RIG_DEFAULTS, of, 30, solvePower(RIG_DEFAULTS, of, 30, at), at);
  const solved = lit(subject, full);
  const around = Math.PI * solved.environment[0];
  const facing = (i: number) => normalise(sub(solved.lamps[i].centre, subject.centre));

  it('a grey card facing the key reads 0.18, worked out again from the lamps themselves', () => {
    const e = solved.lamps.reduce((s, l) => s + irradiance(l, subject.centre, facing(0)), 0) + around;
    expect((GREY_CARD * e) / Math.PI / full).toBeCloseTo(0.18, 6);
    expect(solved.cardReading).toBeCloseTo(0.18, 6);
  });
  it('light arrives in the ratio asked for', () => {
    const e = solved.lamps.map((l, i) => irradiance(l, subject.centre, facing(i)));
    expect(e[0] / e[1]).toBeCloseTo(4, 6);
    expect(e[2] / e[1]).toBeCloseTo(2, 6);
    for (const [i, stops] of [0, 2, 1].entries()) expect(solved.figures[i].stopsBelowKey).toBeCloseTo(stops, 9);
    for (const [i, f] of solved.figures.entries()) expect(f.arriving).toBeCloseTo(e[i], 6);
  });
  it('lamps keep their watts: what the card reads follows the camera, the lamps and where they stand', () => {
    const { power } = solved;
    const reading = (at: number, rig = RIG_DEFAULTS, watts = power) => lightRig(rig, subject, 30, watts, at).cardReading;
    // A shutter open twice as long halves what fills the picture; a stop of aperture doubles it.
    expect(reading(full / 2)).toBeCloseTo(0.36, 6);
    expect(reading(2 * full)).toBeCloseTo(0.09, 6);
    expect(
      reading(full, RIG_DEFAULTS, { key: 2 * power.key, fill: 2 * power.fill, rim: 2 * power.rim, surround: 2 * power.surround }),
    ).toBeCloseTo(0.36, 6);
    const { lamps } = RIG_DEFAULTS;
    const alone = { key: power.key, fill: 0, rim: 0, surround: 0 };
    const near = reading(full, RIG_DEFAULTS, alone);
    const far = reading(
      full,
      {
        ...RIG_DEFAULTS,
        lamps: { ...lamps, key: { ...lamps.key, distance: 40 * lamps.key.distance, width: lamps.key.width, height: lamps.key.height } },
      },
      alone,
    );
    const farther = reading(
      full,
      { ...RIG_DEFAULTS, lamps: { ...lamps, key: { ...lamps.key, distance: 80 * lamps.key.distance } } },
      alone,
    );
    expect(near).toBeGreaterThan(far);
    // From far off a lamp is a point: twice as far, a quarter of the light.
    expect(far / farther).toBeCloseTo(4, 2);
    // The figures say what the lamps are, not what was wanted of them.
    const dim = lightRig(RIG_DEFAULTS, subject, 30, { ...power, fill: power.fill / 2 }, full);
    expect(dim.figures[1].watts).toBeCloseTo(power.fill / 2, 9);
    expect(dim.figures[1].stopsBelowKey).toBeCloseTo(3, 6);
  });
  it('follows the scale: a piece ten times as large takes a hundred times the watts at the same radiance', () => {
    const large = subjectOf({ min: [-560, 0, -560], max: [560, 2680, 560] });
    const more = lit(large, full);
    for (const [i, f] of more.figures.entries()) {
      expect(f.watts / solved.figures[i].watts).toBeCloseTo(100, 4);
      expect(f.radiance / solved.figures[i].radiance).toBeCloseTo(1, 6);
    }
  });
  it('every lamp shines at the piece; the key stands on the camera’s left, the fill on its right, the rim behind', () => {
    for (const l of solved.lamps) expect(dot(lampNormal(l), normalise(sub(subject.centre, l.centre)))).toBeCloseTo(1, 9);
    const right = normalise(cross([0, 1, 0], directionFrom(30, 0, 0)));
    const side = solved.lamps.map((l) => dot(sub(l.centre, subject.centre), right));
    expect(side[0]).toBeLessThan(0);
    expect(side[1]).toBeGreaterThan(0);
    expect(dot(sub(solved.lamps[2].centre, subject.centre), directionFrom(30, 0, 0))).toBeLessThan(0);
    expect(solved.lamps.map((l) => l.name)).toEqual([...LAMPS]);
    expect(corners(solved.lamps[0])).toHaveLength(4);
  });
  it('black bodies: illuminant A is warm by the published chromaticity, and 6500 K nearly neutral', () => {
    // CIE 15: illuminant A, 2856 K, x = 0.4476, y = 0.4074; as linear Rec. 709 with red 1.
    const [x, y] = [0.4476, 0.4074];
    const [X, Z] = [x / y, (1 - x - y) / y];
    const rgb = [3.2406 * X - 1.5372 - 0.4986 * Z, -0.9689 * X + 1.8758 + 0.0415 * Z, 0.0557 * X - 0.204 + 1.057 * Z].map((c) => c);
    const ours = blackBody(2856);
    for (let k = 0; k < 3; k++) expect(ours[k]).toBeCloseTo(rgb[k] / rgb[0], 1);
    for (const c of blackBody(6504)) expect(c).toBeGreaterThan(0.9);
  });
});

describe('the backdrop', () => {
  it('lies under the piece, sweeps up behind it and faces the camera', () => {
    const subject = subjectOf({ min: [-50, 10, -50], max: [50, 210, 50] });
    const mesh = backdrop(subject, 0);
    const b = boundsOf(mesh);
    expect(b.min[1]).toBeCloseTo(10, 2);
    expect(b.max[1]).toBeGreaterThan(210);
    expect(b.min[2]).toBeLessThan(-2 * subject.radius);
    expect(isWatertight(mesh)).toBe(false);
    // First face is the floor: up. Last is the wall: towards the camera.
    const normal = (f: number) => {
      const [p, q, r] = [0, 1, 2].map((k) => {
        const v = 3 * mesh.faceVert[mesh.faceStart[f] + k];
        return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]] as Vec3;
      });
      return normalise(cross(sub(q, p), sub(r, p)));
    };
    expect(normal(0)[1]).toBeCloseTo(1, 9);
    expect(normal(mesh.faceStart.length - 2)[2]).toBeCloseTo(1, 9);
  });
});

describe('Khronos PBR Neutral', () => {
  it('agrees with the reference implementation that three ships, its constants taken from its own text', () => {
    const glsl = ShaderChunk.tonemapping_pars_fragment;
    const body = glsl.slice(glsl.indexOf('vec3 NeutralToneMapping'));
    const number = (pattern: RegExp): number => {
      const found = pattern.exec(body);
      if (!found) throw new Error(`the reference has no ${pattern}`);
      return found.slice(1).reduce((a, b) => a - Number(b), 2 * Number(found[1]));
    };
    const start = number(/StartCompression = ([\d.]+) - ([\d.]+)/);
    const desaturation = number(/Desaturation = ([\d.]+)/);
    const [edge, square, flat] = (/x < ([\d.]+) \? x - ([\d.]+) \* x \* x : ([\d.]+)/.exec(body) ?? []).slice(1).map(Number);
    const reference = (c: number[]): number[] => {
      const x = Math.min(...c);
      const offset = x < edge ? x - square * x * x : flat;
      const low = c.map((v) => v - offset);
      const peak = Math.max(...low);
      if (peak < start) return low;
      const d = 1 - start;
      const newPeak = 1 - (d * d) / (peak + d - start);
      const g = 1 - 1 / (desaturation * (peak - newPeak) + 1);
      return low.map((v) => (v * newPeak * (1 - g)) / peak + newPeak * g);
    };
    const next = random(12);
    for (let i = 0; i < 500; i++) {
      const c = [0, 1, 2].map(() => 4 * next() ** 3);
      const out = Float64Array.from(c);
      pbrNeutral(out);
      for (const [k, v] of reference(c).entries()) expect(out[k]).toBeCloseTo(v, 9);
    }
  });
  it('values worked from the published formula', () => {
    const map = (...c: number[]) => {
      const out = Float64Array.from(c);
      pbrNeutral(out);
      return [...out];
    };
    // Below the shoulder a colour only loses the Fresnel offset of 0.04.
    expect(map(0.5, 0.4, 0.3)).toEqual([0.46, 0.36, 0.26].map((x) => expect.closeTo(x, 12)));
    // Dark: x − 6.25x².
    expect(map(0.04, 0.04, 0.04)[0]).toBeCloseTo(0.04 - (0.04 - 6.25 * 0.0016), 12);
    // Peak 1.96 after the offset: 1 − 0.24²/(1.96 − 0.76 + 0.24) = 0.96.
    const white = map(2, 2, 2);
    expect(white[0]).toBeCloseTo(0.96, 12);
    expect(white[1]).toBe(white[0]);
    // A saturated highlight goes towards white: g = 1 − 1/(0.15·(1.96 − 0.96) + 1).
    const red = map(2, 0.2, 0.2);
    const g = 1 - 1 / 1.15;
    expect(red[0]).toBeCloseTo(0.96, 12);
    expect(red[1]).toBeCloseTo(((0.16 * 0.96) / 1.96) * (1 - g) + 0.96 * g, 12);
  });
  it('is monotone, never above 1, and the straight curve changes nothing', () => {
    let last = 0;
    for (let x = 0; x < 40; x += 0.05) {
      const c = Float64Array.from([x, x, x]);
      pbrNeutral(c);
      expect(c[0]).toBeGreaterThanOrEqual(last - 1e-12);
      expect(c[0]).toBeLessThan(1);
      last = c[0];
    }
    const c = Float64Array.from([3, 0.2, 0.1]);
    toneMap(c, 'linear');
    expect([...c]).toEqual([3, 0.2, 0.1]);
  });
});
