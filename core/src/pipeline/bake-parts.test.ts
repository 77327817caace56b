import { describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import { total } from '../bake/bands';
import type { Step } from '../form/steps';
import { aboutParts, bakeSettings, prepareBake } from './bake';
import { bake, bakeTexels } from './bake-finish';
import type { AssetDocument } from './document';
import { formAsset, type PartMesh } from './form';
import { unwrap, unwrapSettings } from './unwrap';

const SIZE = 256;
/** A box without a lid: 60 × 60 × 60 with a wall of 3, open above. */
const walls = { body: 'hollow' as const, left: 3, right: 3, front: 3, back: 3, floor: 3, corner: 0, edgeRadius: 0.2 };
const hollow = (id: string): Step[] => [stepOf('box', { id, width: 60, height: 60, depth: 60, ...walls })];
const settings = (document: AssetDocument, more: object = {}) => ({
  ...bakeSettings(document),
  size: SIZE,
  samples: 1 as const,
  occlusionRays: 64,
  reachMm: 200,
  curvatureRadiusMm: 1,
  ...more,
});

/** What the texels say in the middle of a part’s triangles, with where those lie. */
function middles(laid: readonly PartMesh[], id: string, texels: ReturnType<typeof bakeTexels>) {
  const mesh = (laid.find((p) => p.id === id) as PartMesh).mesh;
  const uv = mesh.attributes.find((a) => a.name === 'uv')?.data as Float64Array;
  return Array.from({ length: mesh.triangles.length / 3 }, (_, t) => {
    const corners = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const mean = (f: (c: number) => number) => corners.reduce((s, c) => s + f(c), 0) / 3;
    const at = [0, 1, 2].map((k) => mean((c) => mesh.positions[3 * mesh.faceVert[c] + k]));
    const x = Math.floor(mean((c) => uv[2 * c]) * SIZE);
    const y = Math.floor((1 - mean((c) => uv[2 * c + 1])) * SIZE);
    const i = y * SIZE + x;
    return {
      at,
      state: texels.state[i],
      lean: Math.acos(Math.min(1, texels.normal[3 * i + 2])),
      open: texels.occlusion[i],
      bend: texels.curvature[i],
    };
  });
}
const mean = (list: readonly number[]) => list.reduce((s, x) => s + x, 0) / list.length;

describe('a part without a high mesh', () => {
  // What is imported has no recipe to make a high mesh from: the box as formed stands for it.
  const made = formAsset(
    asset([part('box', hollow('b')), part('knob', [stepOf('turned', { id: 'k' })], { move: [150, 0, 0] })]),
    'low',
    none,
  );
  const document = asset([part('box', hollow('b')), part('knob', [stepOf('turned', { id: 'k' })], { move: [150, 0, 0] })]);
  const laid = unwrap(made.parts, { ...unwrapSettings(document), size: SIZE, padding: 2 }).parts;
  const high = formAsset(document, 'high', none).parts.filter((p) => p.id === 'knob');

  it('is baked from itself: flat normals, dark inside, bent only at its edges', () => {
    const { prepared } = prepareBake(laid, high, aboutParts(document), settings(document));
    const texels = bakeTexels(prepared);
    const box = middles(laid, 'box', texels).filter((m) => m.state !== 0);
    expect(box.length).toBeGreaterThan(8);
    expect(box.every((m) => m.state === 1)).toBe(true);
    // It has its own normals again, to the rounding of single precision.
    for (const m of box) expect(m.lean).toBeLessThan(0.01);
    const inside = box.filter((m) => Math.abs(m.at[0]) < 28.5 && Math.abs(m.at[2]) < 28.5 && m.at[1] > 1);
    const outside = box.filter((m) => Math.abs(m.at[0]) > 29.5 || Math.abs(m.at[2]) > 29.5);
    expect(mean(outside.map((m) => m.open))).toBeGreaterThan(0.9);
    expect(mean(inside.map((m) => m.open))).toBeLessThan(0.6);
    // Flat away from the rim, whose three millimetres are all edge at this radius.
    for (const m of box.filter((b) => b.at[1] < 55)) expect(Math.abs(m.bend)).toBeLessThan(0.05);
    expect(total(texels.counts.missed) / total(texels.counts.samples)).toBeLessThan(0.001);
  });
  it('is judged with the rest, and said to have been baked from itself', async () => {
    const { figures } = await bake(laid, high, aboutParts(document), settings(document, { occlusionRays: 1 }), () => 0);
    expect(figures.pairs.map((p) => [p.id, p.itself])).toEqual([
      ['box', true],
      ['knob', false],
    ]);
    const judged = figures.judgement?.parts.find((p) => p.name === 'box');
    expect(judged?.texels).toBeGreaterThan(100);
    // Eight bits a channel cost a third of a degree by themselves.
    expect(judged?.mean).toBeLessThan(0.7);
  });
});

describe('a part that moves', () => {
  const travel = { kind: 'slide' as const, axis: 'y' as const, from: 0, to: 60, x: 0, y: 0, z: 0 };
  const block = part('tray', [stepOf('box', { id: 't', width: 50, height: 40, depth: 50, ...walls })], {
    move: [0, 6, 0],
    travel,
  });
  const document = asset([part('box', hollow('b')), block]);
  const formed = formAsset(document, 'low', none).parts;
  const laid = unwrap(formed, { ...unwrapSettings(document), size: SIZE, padding: 2 }).parts;
  const baked = (movingOcclude: boolean) =>
    bakeTexels(
      prepareBake(laid, formAsset(document, 'high', none).parts, aboutParts(document), settings(document, { movingOcclude })).prepared,
    );

  it('does not darken what it covers where it stands now, unless that is wanted; it is dark inside either way', () => {
    const floor = (texels: ReturnType<typeof bakeTexels>) =>
      mean(
        middles(laid, 'box', texels)
          .filter((m) => m.state === 1 && Math.abs(m.at[0]) < 28.5 && Math.abs(m.at[2]) < 28.5 && m.at[1] > 1)
          .map((m) => m.open),
      );
    const own = (texels: ReturnType<typeof bakeTexels>) =>
      mean(
        middles(laid, 'tray', texels)
          .filter((m) => m.state === 1 && Math.abs(m.at[0]) < 23.5 && Math.abs(m.at[2]) < 23.5 && m.at[1] > 7)
          .map((m) => m.open),
      );
    const [without, with_] = [baked(false), baked(true)];
    expect(floor(without)).toBeGreaterThan(1.3 * floor(with_));
    expect(own(without)).toBeLessThan(0.7);
    expect(Math.abs(own(without) - own(with_))).toBeLessThan(0.12);
  });
});
