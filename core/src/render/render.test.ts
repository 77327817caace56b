import { describe, expect, it } from 'vitest';
import { ball, disk, lampAt, pinhole, scene, sceneMaterial } from '../../test/scenes';
import { sheet } from '../../test/shapes';
import { corners, formFactor } from '../light/lamps';
import { fresnel, slabReflectance } from '../surface/bsdf/fresnel';
import { addTile, clippedShare, type Development, develop, emptyFilm, heldBackShare, noiseOf, tilesOf, traceTile } from './film';
import { fitNoise, forecast, passesTo } from './forecast';
import { buildScene, type Scene } from './scene';
import { readTexture } from './texture';
import { CHANNELS, PathTracer } from './tracer';

const LINEAR: Development = { full: 1, tone: 'linear', background: 'paper', colour: [1, 1, 1] };

/** Mean radiance of a picture of one pixel, from many samples. */
function radiance(s: Scene, n = 16384, seed = 1): number[] {
  const tracer = new PathTracer(s);
  const sum = new Array<number>(CHANNELS).fill(0);
  for (let i = 0; i < n; i++) {
    tracer.sample(0, 0, 1, 1, i, seed);
    for (let k = 0; k < CHANNELS; k++) sum[k] += tracer.out[k];
  }
  return sum.map((x) => x / n);
}

function film(s: Scene, size: number, samples: number, seed = 1) {
  const tracer = new PathTracer(s);
  const f = emptyFilm(size, size);
  for (const tile of tilesOf(size, size))
    addTile(f, tile, traceTile(tracer, { tile, from: 0, to: samples, width: size, height: size, seed }));
  f.samples = samples;
  return f;
}

/** A white Lambert floor: no specular would be right, so its index is 1. */
const floor = { mesh: sheet(1, 2000, () => 0), material: sceneMaterial({ colour: [1, 1, 1], roughness: 1, ior: 1 }) };
/** Looks at the origin of the floor, nearly straight down, through a needle's eye. */
const above = pinhole([0, 400, 0.1], 0, 89.98, 1e-5);

describe('direct light on a plane is what the form factor says, within 0.5 %', () => {
  // Radiance of a white Lambert surface is E/π = L·F.
  it.each([
    ['a small lamp overhead', lampAt([0, 300, 0], [0, -1, 0], 100, 100)],
    ['a large lamp, near', lampAt([0, 120, 0], [0, -1, 0], 400, 300)],
    ['beside and tilted', lampAt([300, 200, 100], [-3, -2, -1], 200, 120)],
    ['half below the horizon', lampAt([200, 0, 0], [-1, 0, 0], 160, 160)],
  ])('%s', (_, lamp) => {
    const wanted = formFactor([0, 0, 0], [0, 1, 0], corners(lamp));
    const got = radiance(scene([floor], { camera: above, lamps: [lamp] }));
    expect(Math.abs(got[0] / wanted - 1)).toBeLessThan(0.005);
    expect(got[0]).toBeCloseTo(got[2], 9);
  });
  it('a disk lamp on its axis: E = πL · r²/(r² + d²), the lamp being a glowing mesh', () => {
    const [r, d] = [80, 150];
    // Black but for what it gives off, so that nothing goes to and fro.
    const glow = {
      ...sceneMaterial({ colour: [1, 1, 1], roughness: 1, ior: 1, emission: 1 }),
      colour: [0, 0, 0] as [number, number, number],
    };
    const lit = scene([floor, { mesh: disk(r, d, -1), material: glow }], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5) });
    expect(Math.abs(radiance(lit)[0] / ((r * r) / (r * r + d * d)) - 1)).toBeLessThan(0.005);
    const away = scene([floor, { mesh: disk(r, d, 1), material: glow }], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5) });
    expect(radiance(away, 256)[0]).toBe(0);
  });
  it('a lamp and the surround it stands before add up, and what is between them casts a shadow', () => {
    const lamp = lampAt([0, 300, 0], [0, -1, 0], 100, 100);
    const f = formFactor([0, 0, 0], [0, 1, 0], corners(lamp));
    const both = scene([floor], { camera: above, lamps: [lamp], environment: [0.25, 0.25, 0.25] });
    expect(Math.abs(radiance(both)[0] / (f + 0.25 * (1 - f)) - 1)).toBeLessThan(0.005);
    const lid = { mesh: disk(200, 200, -1), material: sceneMaterial({ colour: [0.001, 0.001, 0.001], roughness: 1, ior: 1 }) };
    const shut = scene([floor, lid], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5), lamps: [lamp] });
    expect(radiance(shut, 2048)[0]).toBeLessThan(0.02 * f);
  });
});

describe('white furnace through the whole tracer', () => {
  it.each([
    ['white dielectric', { colour: [1, 1, 1], roughness: 0.4 }],
    ['metal', { colour: [1, 1, 1], metallic: 1, roughness: 0.5 }],
    ['clear glass', { colour: [1, 1, 1], transmission: 1, roughness: 0 }],
    ['rough glass', { colour: [1, 1, 1], transmission: 1, roughness: 0.4 }],
    ['coated', { colour: [1, 1, 1], coat: 1, coatRoughness: 0.1, roughness: 0.6 }],
  ] as const)('%s in light of 1 from all round is 1', (_, m) => {
    const s = scene([{ mesh: ball(50, [0, 0, 0], 48), material: sceneMaterial({ ...m, colour: [1, 1, 1] }) }], {
      camera: pinhole([0, 0, 300], 0, 0, 0.05),
      environment: [1, 1, 1],
      background: 'paper',
    });
    // What facets and bent normals hold back, and paths cut short, is the difference.
    expect(Math.abs(radiance(s, 8192)[0] - 1)).toBeLessThan(0.012);
  });
});

describe('glass', () => {
  const lamp = lampAt([0, 600, 0], [0, -1, 0], 100, 100);
  const bare = radiance(scene([floor], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5), lamps: [lamp] }))[0];
  it('a pane overhead takes what a slab takes: 0.923 of the light comes through', () => {
    const pane = {
      mesh: sheet(1, 2000, () => 300),
      material: sceneMaterial({ colour: [1, 1, 1], transmission: 1, roughness: 0, ior: 1.5 }),
    };
    const got = radiance(scene([floor, pane], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5), lamps: [lamp] }))[0];
    const slab = 1 - slabReflectance(fresnel(1, 1.5));
    expect(slab).toBeCloseTo(0.923, 3);
    // The pane also mirrors the floor’s own light back down: f per go.
    const back = 1 - slab;
    expect(got / bare).toBeGreaterThan(slab * 0.995);
    expect(got / bare).toBeLessThan(slab * (1 + 1.2 * back));
  });
  it('a pane that a map says is rough lets through what one of that roughness does, sample for sample: nothing is counted twice', () => {
    const flat = (data: number[]) => ({ width: 1, height: 1, channels: 3 as const, data: Uint8Array.from(data) });
    const under = (map: readonly number[] | null, roughness: number) => {
      const own = { colour: [1, 1, 1] as [number, number, number], transmission: 1, roughness, ior: 1.5 };
      const material = { ...sceneMaterial(own), ...(map && { ormMap: 0 }) };
      const pane = { mesh: sheet(1, 2000, () => 300), material };
      return radiance(
        scene([floor, pane], { camera: pinhole([0, 100, 0.1], 0, 89.9, 1e-5), lamps: [lamp], ...(map && { textures: [flat([...map])] }) }),
        4096,
      );
    };
    // 102 of 255 is 0.4.
    expect(under([255, 102, 0], 0)[0] / under(null, 0.4)[0]).toBeCloseTo(1, 9);
    expect(under([255, 0, 0], 0.4)[0] / under(null, 0)[0]).toBeCloseTo(1, 9);
  });
  it('where a map says that no light goes through a pane it is what an opaque one is; coated by a map it is what a coated one is', () => {
    const flat = (v: number, w = 0) => ({ width: 1, height: 1, channels: 3 as const, data: Uint8Array.from([v, w, 0]) });
    const under = (
      own: Partial<Parameters<typeof sceneMaterial>[0]>,
      maps: { clearMap?: number; coatMap?: number } = {},
      map = flat(0),
    ) => {
      const material = { ...sceneMaterial({ colour: [0.5, 0.5, 0.5], transmission: 1, roughness: 0.4, ior: 1.5, ...own }), ...maps };
      const pane = { mesh: sheet(1, 2000, () => 300), material };
      const camera = pinhole([0, 700, 0.1], 0, 89.9, 1e-5);
      return radiance(scene([floor, pane], { camera, lamps: [lampAt([300, 600, 0], [0, -1, 0], 100, 100)], textures: [map] }), 2048)[0];
    };
    expect(under({}, { clearMap: 0 }) / under({ transmission: 0 })).toBeCloseTo(1, 9);
    expect(under({}, { clearMap: 0 }, flat(255)) / under({})).toBeCloseTo(1, 9);
    // What lets nothing through has no map of it.
    expect(under({ transmission: 0 }, { clearMap: 0 }, flat(255)) / under({ transmission: 0 })).toBeCloseTo(1, 9);
    const coated = under({ transmission: 0, coat: 1, coatRoughness: 0.4 });
    expect(under({ transmission: 0 }, { coatMap: 0 }, flat(255, 102)) / coated).toBeCloseTo(1, 9);
    expect(coated / under({ transmission: 0 })).not.toBeCloseTo(1, 3);
  });
  it('a flame inside glass lights what is outside, attenuated twice by a closed wall', () => {
    const glow = { mesh: ball(6, [0, 60, 0]), material: sceneMaterial({ colour: [1, 1, 1], emission: 10 }) };
    const shell = {
      mesh: ball(40, [0, 60, 0], 40),
      material: sceneMaterial({ colour: [1, 1, 1], transmission: 1, roughness: 0, ior: 1.5 }),
    };
    const camera = pinhole([150, 100, 0.1], 0, 89.9, 1e-5);
    const open = radiance(scene([floor, glow], { camera }))[0];
    const shut = radiance(scene([floor, glow, shell], { camera }))[0];
    expect(open).toBeGreaterThan(0);
    expect(shut / open).toBeGreaterThan(0.9);
    // Below the middle of a mirroring ball a little more arrives than without it; all round it evens out.
    expect(shut / open).toBeLessThan(1.15);
  });
  it('what stands behind clear glass is seen through it, ground and all', () => {
    const shell = {
      mesh: ball(40, [0, 0, 0], 40),
      material: sceneMaterial({ colour: [1, 1, 1], transmission: 1, roughness: 0, ior: 1.5 }),
    };
    const got = radiance(scene([shell], { camera: pinhole([0, 0, 300], 0, 0, 1e-4), background: 'white' }), 8192);
    // Two interfaces of 4 % each, met head on.
    expect(got[3]).toBeCloseTo(0.96 ** 2, 1);
    expect(got[6]).toBe(got[7]);
  });
});

describe('the camera', () => {
  it('lamps are not in the picture, but in what mirrors them', () => {
    const lamp = lampAt([0, 0, -200], [0, 0, 1], 400, 400, 3);
    expect(radiance(scene([floor], { camera: pinhole([0, 20, 300], 0, 0, 1e-4), lamps: [lamp] }), 64)[0]).toBe(0);
    const mirror = { mesh: sheet(1, 4000, () => 0), material: sceneMaterial({ colour: [1, 1, 1], metallic: 1, roughness: 0 }) };
    const facing = lampAt([0, 100, -200], [0, 0, 1], 300, 300, 3);
    const seen = radiance(scene([mirror], { camera: pinhole([0, 100, 300], 0, 21.8, 1e-3), lamps: [facing] }), 4096)[0];
    expect(seen).toBeGreaterThan(2.6);
    expect(seen).toBeLessThan(3.05);
  });
  it('a point in focus is sharp, one behind is spread over the blur disc of the thin lens', () => {
    const glow = (z: number) => ({ mesh: ball(1, [0, 0, z], 12), material: sceneMaterial({ colour: [1, 1, 1], emission: 1 }) });
    const camera = { ...pinhole([0, 0, 1000], 0, 0, 0.05), focus: 1000, lensRadius: 10 };
    const lit = (z: number) => {
      const f = film(scene([glow(z)], { camera }), 96, 32);
      let n = 0;
      for (let i = 0; i < 96 * 96; i++) if (f.sums[0][CHANNELS * i] + f.sums[1][CHANNELS * i] > 0) n++;
      return Math.sqrt((4 * n) / Math.PI);
    };
    // One pixel is 100 mm / 96 at the focus.
    expect(lit(0)).toBeLessThan(5);
    // 1500 mm away: a disc of 2·10·500/1500 mm at the focus’s distance is 6.4 px, and the ball’s own width.
    expect(lit(-500)).toBeGreaterThan(6.5);
    expect(lit(-500)).toBeLessThan(9.5);
  });
});

describe('textures', () => {
  it('are read between texels, right way up, and colours as light', () => {
    const t = { width: 2, height: 2, channels: 3 as const, data: Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255, 188, 188, 188]) };
    const out = new Float64Array(3);
    readTexture(t, 0.25, 0.75, true, out);
    expect([...out]).toEqual([1, 0, 0]);
    readTexture(t, 0.25, 0.25, false, out);
    expect([...out]).toEqual([0, 0, 1]);
    readTexture(t, 0.75, 0.25, true, out);
    expect(out[0]).toBeCloseTo(0.503, 3);
    readTexture(t, 1.25, -0.25, false, out);
    expect([...out]).toEqual([1, 0, 0]);
  });
  it('a normal map leans the light as the geometry would', () => {
    // Flat sheet whose map leans every normal 30° towards +x, under a distant small lamp overhead: cos 30° of the light.
    const flat = sheet(1, 2000, () => 0);
    const lean = Math.round((Math.sin(Math.PI / 6) * 0.5 + 0.5) * 255);
    const up = Math.round((Math.cos(Math.PI / 6) * 0.5 + 0.5) * 255);
    const lamp = lampAt([0, 4000, 0], [0, -1, 0], 100, 100, 1000);
    const s = buildScene({
      parts: [{ mesh: flat, placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]], material: 0 }],
      materials: [{ ...sceneMaterial({ colour: [1, 1, 1], roughness: 1, ior: 1 }), normalMap: 0 }],
      textures: [{ width: 1, height: 1, channels: 3, data: Uint8Array.from([lean, 128, up]) }],
      lamps: [lamp],
      environment: [0, 0, 0],
      backdrop: null,
      backdropColour: [1, 1, 1],
      background: 'paper',
      camera: above,
    });
    const ratio = radiance(s)[0] / radiance(scene([floor], { camera: above, lamps: [lamp] }))[0];
    expect(ratio).toBeCloseTo(Math.cos(Math.PI / 6), 2);
  });
});

describe('the picture', () => {
  const glow = { mesh: ball(20, [0, 21, 0]), material: sceneMaterial({ colour: [0.8, 0.4, 0.2], roughness: 0.5 }) };
  const lamps = [lampAt([100, 300, 200], [-1, -3, -2], 150, 150, 6)];
  const camera = pinhole([0, 60, 200], 0, 12, 0.25);
  const paper = scene([glow, floor], { camera, lamps, environment: [0.1, 0.1, 0.1] });
  it('the same seed gives the same bytes, however the tiles are shared out', () => {
    const whole = film(paper, 40, 4);
    const other = emptyFilm(40, 40);
    const tracers = [new PathTracer(paper), new PathTracer(paper)];
    for (const [from, to] of [
      [0, 1],
      [1, 4],
    ])
      for (const [i, tile] of [...tilesOf(40, 40)].reverse().entries())
        addTile(other, tile, traceTile(tracers[i % 2], { tile, from, to, width: 40, height: 40, seed: 1 }));
    other.samples = 4;
    expect(develop(other, LINEAR).data).toEqual(develop(whole, LINEAR).data);
    expect(develop(film(paper, 40, 4, 2), LINEAR).data).not.toEqual(develop(whole, LINEAR).data);
  });
  it('white, colour and clear grounds are set apart from the light; only the shadow shows', () => {
    const s = (background: 'white' | 'transparent' | 'colour') =>
      buildScene({
        parts: [{ mesh: glow.mesh, placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]], material: 0 }],
        materials: [glow.material],
        textures: [],
        lamps,
        environment: [0.1, 0.1, 0.1],
        backdrop: floor.mesh,
        backdropColour: [0.9, 0.9, 0.9],
        background,
        camera,
      });
    const white = develop(film(s('white'), 48, 24), { ...LINEAR, background: 'white' });
    expect([...white.data.slice(0, 4)]).toEqual([255, 255, 255, 255]);
    const shadow = Array.from({ length: 48 * 48 }, (_, i) => 4 * i).filter(
      (i) => white.data[i] === white.data[i + 2] && white.data[i] < 240,
    );
    expect(shadow.length).toBeGreaterThan(30);
    const under = shadow[shadow.length >> 1];
    const green = develop(film(s('colour'), 48, 8), { ...LINEAR, background: 'colour', colour: [0.2, 0.6, 0.3] });
    expect([...green.data.slice(0, 3)]).toEqual([51, 153, 77]);
    const clear = develop(film(s('transparent'), 48, 24), { ...LINEAR, background: 'transparent' });
    expect(clear.data[3]).toBe(0);
    expect(clear.data[4 * (48 * 24 + 24) + 3]).toBe(255);
    expect(clear.data[under + 3]).toBeGreaterThan(10);
    expect(clear.data[under + 3]).toBeLessThan(250);
  });
  it('noise halves with four times the samples, and is what many pictures differ by', () => {
    const f = film(paper, 40, 32);
    const pictures = [1, 2, 3, 4, 5, 6].map((seed) => develop(film(paper, 40, 16, 10 + seed), LINEAR).data);
    let sum = 0;
    for (let i = 0; i < pictures[0].length; i++) {
      if (i % 4 === 3) continue;
      const mean = pictures.reduce((s, p) => s + p[i], 0) / pictures.length;
      sum += pictures.reduce((s, p) => s + (p[i] - mean) ** 2, 0) / (pictures.length - 1);
    }
    const spread = Math.sqrt(sum / (0.75 * pictures[0].length)) / 255;
    const own = noiseOf(film(paper, 40, 16, 99), LINEAR);
    expect(Math.abs(own / spread - 1)).toBeLessThan(0.2);
    expect(noiseOf(f, LINEAR)).toBeLessThan(noiseOf(film(paper, 40, 8), LINEAR));
  });
  it('says how much of it is burnt out', () => {
    expect(clippedShare({ width: 2, height: 1, data: Uint8Array.from([255, 255, 255, 255, 255, 255, 254, 255]) })).toBe(0.5);
  });
});

describe('the forecast of samples is true within 25 % on three scenes', () => {
  const ball20 = ball(20, [0, 21, 0]);
  const lamps = [lampAt([100, 300, 200], [-1, -3, -2], 150, 150, 6)];
  const camera = pinhole([0, 60, 200], 0, 12, 0.25);
  const glass = sceneMaterial({ colour: [1, 1, 1], transmission: 1, roughness: 0 });
  const flame = { mesh: ball(5, [0, 18, 0], 10), material: sceneMaterial({ colour: [1, 0.6, 0.2], emission: 8 }) };
  it.each([
    ['paint under one lamp', [{ mesh: ball20, material: sceneMaterial({ colour: [0.8, 0.3, 0.2] }) }, floor]],
    ['rough brass', [{ mesh: ball20, material: sceneMaterial({ colour: [0.95, 0.88, 0.65], metallic: 1, roughness: 0.25 }) }, floor]],
    ['a flame in glass', [{ mesh: ball20, material: glass }, flame, floor]],
  ])('%s', (_, parts) => {
    const s = scene(parts, { camera, lamps, environment: [0.05, 0.05, 0.05] });
    const measured = [4, 8, 16].map((n) => ({ samples: 2 * n, noise: noiseOf(film(s, 48, n), LINEAR), seconds: n / 8 }));
    const wanted = noiseOf(film(s, 48, 128), LINEAR);
    const told = forecast(measured, wanted);
    expect(Math.abs((told?.samples ?? 0) / 256 - 1)).toBeLessThan(0.25);
    // Each sample costs a sixteenth of a second here.
    expect(told?.seconds).toBeCloseTo((told?.samples ?? 0) / 16, 6);
  });
  it('light chanced upon by a mirror’s way is held to the limit, and what was taken off is summed', () => {
    const parts = [{ mesh: ball20, material: glass }, flame, floor];
    const free = film(scene(parts, { camera, lamps }), 32, 16);
    const held = film(scene(parts, { camera, lamps, clamp: 0.5 }), 32, 16);
    expect(heldBackShare(free)).toBe(0);
    expect(heldBackShare(held)).toBeGreaterThan(0);
    expect(heldBackShare(held)).toBeLessThan(0.05);
    expect(noiseOf(held, LINEAR)).toBeLessThanOrEqual(noiseOf(free, LINEAR));
  });
  it('with nothing measured says nothing, and one measurement goes by the square root', () => {
    expect(forecast([], 0.01)).toBeNull();
    expect(forecast([{ samples: 16, noise: 0.04, seconds: 2 }], 0.01)).toMatchObject({ samples: 256, seconds: 32, b: 0.5 });
    expect(fitNoise([{ samples: 4, noise: 0, seconds: 1 }]).a).toBe(0);
    expect(passesTo(12)).toEqual([1, 2, 4, 8, 12]);
    expect(passesTo(1)).toEqual([1]);
  });
});
