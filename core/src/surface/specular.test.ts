import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { metalFrom, specularFrom, specularSet } from './specular';

const share = fc.double({ min: 0, max: 1, noNaN: true });

describe('diffuse, specular and gloss', () => {
  it('of what is no metal reflect four hundredths head on and keep its colour; of metal reflect its colour and nothing else', () => {
    // The extension’s own two ends: specular is a mix of 0.04 and base colour by metal.
    expect(specularFrom({ base: [0.5, 0.25, 0.125], metallic: 0, roughness: 0.3 })).toEqual({
      diffuse: [expect.closeTo(0.5, 12), expect.closeTo(0.25, 12), expect.closeTo(0.125, 12)],
      specular: [0.04, 0.04, 0.04],
      gloss: 0.7,
    });
    const gold = specularFrom({ base: [1, 0.766, 0.336], metallic: 1, roughness: 0.2 });
    expect(gold.diffuse).toEqual([0, 0, 0]);
    expect(gold.specular).toEqual([expect.closeTo(1, 12), expect.closeTo(0.766, 12), expect.closeTo(0.336, 12)]);
  });

  it('turned back are what they were, for metal, for what is none, and for greys between', () => {
    fc.assert(
      fc.property(fc.tuple(share, share, share), share, fc.constantFrom(0, 1), (base, roughness, metallic) => {
        // Black metal and black paint are told apart by nothing.
        if (metallic === 1 && Math.min(...base) < 0.05) return;
        const back = metalFrom(specularFrom({ base, metallic, roughness }));
        for (let k = 0; k < 3; k++) expect(back.base[k]).toBeCloseTo(base[k], 4);
        expect(back.metallic).toBeCloseTo(metallic, 4);
        expect(back.roughness).toBeCloseTo(roughness, 12);
      }),
    );
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 0.95, noNaN: true }), share, (grey, metallic) => {
        const back = metalFrom(specularFrom({ base: [grey, grey, grey], metallic, roughness: 0.5 }));
        expect(back.metallic).toBeCloseTo(metallic, 2);
        expect(back.base[0]).toBeCloseTo(grey, 2);
      }),
    );
  });

  it('as eight bits say how much is lost, texel by texel', () => {
    const n = 64;
    const picture = (of: (i: number, k: number) => number) => ({
      width: n,
      height: 1,
      channels: 3 as const,
      depth: 8 as const,
      data: Uint8Array.from({ length: 3 * n }, (_, i) => of(Math.floor(i / 3), i % 3)),
    });
    const colour = picture((i, k) => 40 + 3 * i - 10 * k);
    const plain = specularSet(
      colour,
      picture((_, k) => (k === 1 ? 128 : 0)),
    );
    // What is no metal comes back to the last bit or the one before it.
    expect(plain.mostLost).toBeLessThanOrEqual(1);
    expect([...plain.gloss.data]).toEqual(Array(n).fill(127));
    const half = specularSet(
      colour,
      picture((_, k) => (k === 0 ? 255 : 128)),
    );
    expect(half.mostLost).toBeGreaterThan(plain.mostLost);
    expect(half.mostLost).toBe(Math.max(...half.lost.data));
    expect(half.meanLost).toBeCloseTo((half.lost.data as Uint8Array).reduce((a, b) => a + b, 0) / n, 9);
  });
});
