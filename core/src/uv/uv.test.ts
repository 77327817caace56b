import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { fieldOfView, nextPowerOfTwo, pixelMm, textureBytes } from '../brief/advice';
import { bar } from '../form/steps/bar';
import { turned } from '../form/steps/turned';
import { fillTriangle } from '../image/raster';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import { groupBands, layBelt, unrollChain } from '../mesh/unroll';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { pack } from './pack/pack';
import { singularValues } from './stretch';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const laid = (mesh: PolyMesh, more: Partial<UnwrapSettings> = {}) =>
  unwrap([{ id: 'p', name: 'p', mesh, placements: [IDENTITY] }], { ...settings, ...more });

describe('stretch (Sander et al. 2001)', () => {
  it('is 1 for an isometry, and the two scales of a squeezed square', () => {
    expect(singularValues([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 0, 1, 0, 0, 1])).toEqual([1, 1]);
    const [large, small] = singularValues([0, 0, 0, 3, 0, 0, 0, 0.5, 0], [0, 0, 1, 0, 0, 1]);
    expect(large).toBeCloseTo(3, 12);
    expect(small).toBeCloseTo(0.5, 12);
    expect(singularValues([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 0, 1, 1, 2, 2])[0]).toBe(Infinity);
  });
});

describe('what is too much', () => {
  it('two million triangles are refused before anything is made, with the limit said', () => {
    // Only counted: the mesh is never looked at.
    const huge = { ...cube(1), triangles: new Uint32Array(6_000_000) };
    expect(() => laid(huge)).toThrow(
      'Fewer than 2\u202f000\u202f000 triangles can be laid out; these are 2\u202f000\u202f000. Simplify first.',
    );
  });
});

describe('exact unrolling of facets', () => {
  const solid = (points: [number, number][], n: number) =>
    turned.maker.build(
      {
        kind: 'turned',
        id: 't',
        name: 't',
        enabled: true,
        body: 'open',
        edgeRadius: 0,
        rings: [],
        profile: {
          points: points.map(([r, y], i) => ({ id: `p${i}`, r, y })),
          segments: points.slice(1).map((_, i) => ({ id: `s${i}`, name: `s${i}`, kind: 'line' as const })),
        },
      },
      { mesh: 'low', count: () => n },
    );
  it.each([
    [
      'cylinder',
      [
        [20, 0],
        [20, 50],
      ],
      12,
    ],
    [
      'cone',
      [
        [30, 0],
        [10, 40],
      ],
      12,
    ],
    [
      'cone to its tip',
      [
        [30, 0],
        [0, 40],
      ],
      7,
    ],
    [
      'flat ring',
      [
        [30, 0],
        [10, 0],
      ],
      16,
    ],
    [
      'flat disc',
      [
        [30, 0],
        [0, 0],
      ],
      24,
    ],
  ] as [string, [number, number][], number][])('a faceted %s is laid without any stretch: L² = L∞ = 1', (_name, points, n) => {
    const { figures } = laid(solid(points, n));
    expect(figures.stretchL2).toBeCloseTo(1, 6);
    expect(figures.stretchLinf).toBeCloseTo(1, 4);
    expect(figures.folds).toBe(0);
    expect(figures.overlapTexels).toBe(0);
  });
  it('the smooth cone would be 0.4 % off at 12 sides (sin(x)/x at half a facet)', () => {
    // Sector of the smooth cone: angle 2π·sin(half angle); the facets’ own: n · 2·asin(r·sin(π/n)/ρ).
    const [r, slant, n] = [30, Math.hypot(30, 40), 12];
    const smooth = (2 * Math.PI * r) / slant;
    const facets = n * 2 * Math.asin((r * Math.sin(Math.PI / n)) / slant);
    expect(smooth / facets - 1).toBeGreaterThan(0.003);
    expect(layBelt([0, 2 * r * Math.sin(Math.PI / n)], [slant], n).stretch).toBeCloseTo(1, 12);
    expect(groupBands([10, 10, 5, 1], [4, 4, 4], 12, () => false, 1.01)).toHaveLength(3);
  });
  it('a chain of flat quads keeps every side', () => {
    const next = random(2);
    const lower: [number, number, number][] = [[0, 0, 0]];
    const upper: [number, number, number][] = [[0, 5, 0]];
    for (let i = 0; i < 8; i++) {
      const [x, , z] = lower[i];
      const a = next() * 2;
      lower.push([x + Math.cos(a), 0, z + Math.sin(a)]);
      upper.push([x + Math.cos(a), 5, z + Math.sin(a)]);
    }
    const flat = unrollChain(lower, upper);
    for (let i = 0; i < 8; i++) {
      expect(Math.hypot(flat.lower[i + 1][0] - flat.lower[i][0], flat.lower[i + 1][1] - flat.lower[i][1])).toBeCloseTo(1, 9);
      expect(Math.hypot(flat.upper[i][0] - flat.lower[i][0], flat.upper[i][1] - flat.lower[i][1])).toBeCloseTo(5, 9);
    }
  });
  it('a straight bar is exact; a bent one is stretched by no more than its bend', () => {
    const make = (bend: boolean) =>
      bar.maker.build(
        {
          kind: 'bar',
          id: 'b',
          name: 'b',
          enabled: true,
          radius: 2,
          edgeRadius: 0,
          path: bend
            ? [
                { id: '1', x: 0, y: 0, z: 0 },
                { id: '2', x: 0, y: 60, z: 0, bend: 30 },
                { id: '3', x: 60, y: 60, z: 0 },
              ]
            : [
                { id: '1', x: 0, y: 0, z: 0 },
                { id: '2', x: 0, y: 60, z: 0 },
              ],
        },
        { mesh: 'low', count: () => 8 },
      );
    expect(laid(make(false)).figures.stretchLinf).toBeCloseTo(1, 4);
    expect(laid(make(true)).figures.stretchLinf).toBeLessThan(1 + 2.4 / 30);
  });
});

describe('packing and density', () => {
  it('weights make a part denser: twice the weight, twice the px/cm', () => {
    const parts = ['a', 'b'].map((id) => ({ id, name: id, mesh: cube(20), placements: [IDENTITY] }));
    const { figures } = unwrap(parts, { ...settings, weights: { a: 2 } });
    expect(figures.parts[0].density / figures.parts[1].density).toBeCloseTo(2, 5);
  });
  it('the density of one square over a known tile is 10·√(W·H·A_uv/A)', () => {
    const { figures } = laid(cube(10), { size: 256 });
    const uv = attribute(laid(cube(10), { size: 256 }).parts[0].mesh, 'uv')?.data as Float64Array;
    let area = 0;
    for (let f = 0; f < 6; f++)
      for (let k = 0; k < 4; k++) {
        const [a, b] = [4 * f + k, 4 * f + ((k + 1) % 4)];
        area += (uv[2 * a] * uv[2 * b + 1] - uv[2 * b] * uv[2 * a + 1]) / 2;
      }
    expect(figures.density).toBeCloseTo(10 * Math.sqrt((256 * 256 * area) / 600), 6);
  });
  it('is the same every time', () => {
    const next = random(4);
    const islands = Array.from({ length: 20 }, () => {
      const [w, h] = [5 + 20 * next(), 2 + 10 * next()];
      return { triangles: Float64Array.from([0, 0, w, 0, w, h, 0, 0, w, h, 0, h]) };
    });
    expect(pack(islands, { size: 512, padding: 4, rotate: true })).toEqual(pack(islands, { size: 512, padding: 4, rotate: true }));
  });
  it('a tile that can’t hold the padding says so', () => {
    expect(() => laid(cube(10), { size: 16, padding: 128 })).toThrow(/lower the padding/);
  });
});

describe('drawing triangles', () => {
  it('gives every pixel of a cut square to exactly one half', () => {
    const next = random(8);
    for (let i = 0; i < 50; i++) {
      const count = new Uint8Array(900);
      const hit = (x: number, y: number) => count[y * 30 + x]++;
      const [x, y] = [2 + 20 * next(), 2 + 20 * next()];
      const c = [2, 2, 28, 2, 28, 28, 2, 28];
      for (let k = 0; k < 4; k++) fillTriangle(c[2 * k], c[2 * k + 1], c[(2 * k + 2) % 8], c[(2 * k + 3) % 8], x + 2, y + 2, 30, 30, hit);
      for (let py = 0; py < 30; py++)
        for (let px = 0; px < 30; px++) expect(count[py * 30 + px]).toBe(px >= 2 && px < 28 && py >= 2 && py < 28 ? 1 : 0);
    }
  });
});

describe('the brief’s arithmetic', () => {
  it('a pixel by the thin lens: 24 mm over 1080 px, f = 50, s = 1 050 gives magnification 1/20', () => {
    expect(pixelMm({ closestMm: 1050, lensMm: 50, sensorHeightMm: 24, pictureHeightPx: 1080 })).toBeCloseTo((24 / 1080) * 20, 12);
  });
  it('the field of view at infinity is 2·atan(h/2f): 26.99° for 50 mm and 24 mm (handbook tables: 27.0°)', () => {
    expect((fieldOfView({ closestMm: 1e9, lensMm: 50, sensorHeightMm: 24 }) * 180) / Math.PI).toBeCloseTo(26.99, 2);
  });
  it('the camera’s field and the pixel agree at the focused distance', () => {
    const b = { closestMm: 600, lensMm: 35, sensorHeightMm: 24, pictureHeightPx: 1080 };
    // Height seen in the plane of focus, measured from the lens.
    expect(2 * b.closestMm * Math.tan(fieldOfView(b) / 2)).toBeCloseTo(pixelMm(b) * 1080, 9);
  });
  it('sizes and memory: next power of two; all levels of 4 × 4 are 16 + 4 + 1 texels; blocks of 4 round up', () => {
    expect([1, 1000, 1024, 1025].map(nextPowerOfTwo)).toEqual([1, 1024, 1024, 2048]);
    expect(textureBytes(4, 4, 4)).toBe(4 * 21);
    expect(textureBytes(4, 4, 1, 4)).toBe(16 * 3);
  });
});
