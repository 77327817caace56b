import { stormLantern } from '@wellmorph/demo/lantern';
import { applyPatches } from 'immer';
import { describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { stepOf } from '../../test/recipes';
import { briefFor } from '../brief/brief';
import { readModel } from '../io/read';
import { anglesOf, multiply, placement, transformPoint } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import { attribute, triangleCount, vertexCount } from '../mesh/polymesh';
import { aboutParts, bakeSettings, prepareBake } from './bake';
import { decodeParts, encodeParts } from './bundle';
import { checkedDocument } from './checked-document';
import { applyCommand, type Command } from './commands';
import { copyCost, mirrored, type Placed, quarterTurned } from './copies';
import { type AssetDocument, newDocument, type Part, sharers } from './document';
import { exportGlb, exportOptions } from './export';
import { formAsset } from './form';
import { inspectAsset, ledgerOf } from './inspect';
import { nameOf } from './results';
import { budgetProblem } from './solve';
import { unwrap, unwrapSettings } from './unwrap';

const load = () => {
  throw new Error('There is no stored mesh.');
};
const post: Part = {
  id: 'post',
  name: 'Post',
  role: 'body',
  material: 'm',
  move: [30, 5, -10],
  turnDegrees: [10, 20, 30],
  shape: { kind: 'recipe', steps: [stepOf('box')] },
  weight: 1,
  declaredOpen: false,
};
const piece: AssetDocument = { ...newDocument('Posts', briefFor('game')), parts: [post] };
const copy = (of: AssetDocument, part: string, id: string, placed: Placed): AssetDocument =>
  applyCommand(of, { type: 'part.copy', part, id, name: id, ...placed }).document;
/** Every corner of a part where it stands. */
function corners(document: AssetDocument, id: string): Vec3[] {
  const found = formAsset(document, 'low', load).parts.find((p) => p.id === id);
  if (!found) throw new Error('It is formed.');
  const { positions } = found.mesh;
  return found.placements.flatMap((m) =>
    Array.from({ length: vertexCount(found.mesh) }, (_, v) =>
      transformPoint(m, [positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]]),
    ),
  );
}
const expectPlaces = (a: Vec3[], b: Vec3[]) => {
  expect(a.length).toBe(b.length);
  for (const [i, p] of a.entries()) for (const k of [0, 1, 2]) expect(p[k]).toBeCloseTo(b[i][k], 6);
};

describe('copies of a part', () => {
  it('angles are those that turn as the matrix does, straight up and down too', () => {
    for (const turn of [
      [10, 20, 30],
      [-170, 80, 95],
      [30, 90, 0],
      [40, -90, 0],
      [0, 0, 180],
    ] as const) {
      const m = placement([1, 2, 3], turn);
      const again = placement([1, 2, 3], anglesOf(m));
      for (let i = 0; i < 16; i++) expect(again[i]).toBeCloseTo(m[i], 9);
    }
  });

  it.each(['x', 'y', 'z'] as const)('mirrored across %s every point lies opposite; twice it lies where it was', (axis) => {
    const k = 'xyz'.indexOf(axis);
    const once = copy(piece, 'post', 'other', mirrored(post, axis));
    const opposite = corners(piece, 'post').map((p) => p.map((x, i) => (i === k ? -x : x)) as unknown as Vec3);
    expectPlaces(corners(once, 'other'), opposite);
    const twice = copy(once, 'other', 'back', mirrored(once.parts[1], axis));
    expect(twice.parts.find((p) => p.id === 'back')?.shape).toMatchObject({ kind: 'copy', of: 'post', mirror: null });
    expectPlaces(corners(twice, 'back'), corners(piece, 'post'));
    // Across another axis: the half turn of both.
    const next = (['x', 'y', 'z'] as const)[(k + 1) % 3];
    const corner = copy(once, 'other', 'corner', mirrored(once.parts[1], next));
    expectPlaces(
      corners(corner, 'corner'),
      opposite.map((p) => p.map((x, i) => (i === (k + 1) % 3 ? -x : x)) as unknown as Vec3),
    );
  });

  it('turned by a quarter four times it lies where it was', () => {
    let [document, last] = [piece, post];
    for (const id of ['a', 'b', 'c', 'd']) {
      document = copy(document, last.id, id, quarterTurned(last, 'y'));
      last = document.parts.find((p) => p.id === id) as Part;
    }
    expectPlaces(corners(document, 'd'), corners(piece, 'post'));
    const [x, y, z] = corners(piece, 'post')[0];
    const [turned] = corners(document, 'a');
    for (const [i, w] of [z, y, -x].entries()) expect(turned[i]).toBeCloseTo(w, 6);
  });

  it('share mesh, texels and stored vertices; another material gives texels of their own; triangles count each time', async () => {
    const two = copy(piece, 'post', 'other', mirrored(post, 'x'));
    expect(sharers(two)).toEqual({ other: 'post' });
    expect(copyCost(two, two.parts[1])).toBe('One draw more; its texels are those of Post.');
    const formed = formAsset(two, 'low', load);
    expect(formed.parts[1].mesh).toBe(formed.parts[0].mesh);
    const again = decodeParts(encodeParts(formed.parts));
    expect(again[1].mesh).toBe(again[0].mesh);
    const own = ledgerOf(formed.parts, undefined, true, [], sharers(two));
    const one = ledgerOf(formAsset(piece, 'low', load).parts);
    expect(own.triangles).toBe(2 * one.triangles);
    expect([own.drawCalls, own.gpuVertices, own.areaMm2]).toEqual([2, one.gpuVertices, one.areaMm2]);
    expect(budgetProblem(two).triangles(() => 8)).toBe(2 * budgetProblem(piece).triangles(() => 8));

    const laid = unwrap(formed.parts, unwrapSettings(two));
    const alone = unwrap(formAsset(piece, 'low', load).parts, unwrapSettings(piece));
    // Where the copy hides it, it may be cut elsewhere; it has no islands more.
    expect(laid.figures.islands).toBe(alone.figures.islands);
    expect(attribute(laid.parts[1].mesh, 'uv', 'corner')?.data).toBe(attribute(laid.parts[0].mesh, 'uv', 'corner')?.data);
    const high = formAsset(two, 'high', load).parts;
    const baked = prepareBake(laid.parts, high, aboutParts(two), { ...bakeSettings(two), size: 64 });
    expect(baked.prepared.pairs.map((p) => p.id)).toEqual(['post']);
    // It stands in the way all the same.
    expect(baked.prepared.scene?.triangles).toBe(2 * triangleCount(high[0].mesh));
    const glb = await exportGlb(laid.parts, exportOptions(two));
    const read = await readModel('posts.glb', glb);
    expect(read.parts.length * 1 + (read.parts[0].placements.length - 1)).toBe(2);
    const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))));
    expect([json.meshes.length, json.nodes.filter((n: { mesh?: number }) => n.mesh === 0).length]).toEqual([1, 2]);

    const painted = applyCommand(two, { type: 'part.set', part: 'other', patch: { material: null } }).document;
    expect(sharers(painted)).toEqual({});
    expect(copyCost(painted, painted.parts[1])).toMatch(/texels of its own/);
    const apart = unwrap(formAsset(painted, 'low', load).parts, unwrapSettings(painted));
    expect(attribute(apart.parts[1].mesh, 'uv', 'corner')?.data).not.toEqual(attribute(apart.parts[0].mesh, 'uv', 'corner')?.data);
    expect(nameOf(painted, 'unwrap')).not.toBe(nameOf(two, 'unwrap'));
  });

  it('follow what they are copies of; their steps are that one’s; that one is not removed before them', async () => {
    const kit = await testKit();
    const lantern = stormLantern();
    const two = copy(lantern, 'font', 'second', { move: [200, 0, 0], turnDegrees: [0, 0, 0], mirror: null });
    const step = two.parts.find((p) => p.id === 'font')?.shape.steps?.[0];
    if (!step) throw new Error('The font is made by steps.');
    const edited = applyCommand(two, { type: 'step.set', part: 'font', step: { ...step, enabled: false } }).document;
    const mesh = (d: AssetDocument) => formAsset(d, 'low', load, undefined, kit).parts.find((p) => p.id === 'second')?.mesh;
    expect(triangleCount(mesh(two) as never)).not.toBe(mesh(edited) ? triangleCount(mesh(edited) as never) : 0);
    const refused = (c: Command) => () => applyCommand(two, c);
    expect(refused({ type: 'step.add', part: 'second', step: stepOf('bevel') })).toThrow(
      '“second” is a copy of “Font and base”; its steps are that one’s.',
    );
    expect(refused({ type: 'part.remove', part: 'font' })).toThrow('has a copy, “second”; remove it first.');
    const without = applyCommand(applyCommand(two, { type: 'part.remove', part: 'second' }).document, {
      type: 'part.remove',
      part: 'font',
    });
    expect(without.document.parts.some((p) => p.id === 'font')).toBe(false);
    // Faults of its mesh are said once.
    const formed = formAsset(two, 'low', load, undefined, kit);
    const about = inspectAsset(two, formed, ledgerOf(formed.parts)).filter((f) => f.part === 'second');
    expect(about.every((f) => f.kind === 'no-material' || f.kind === 'default-material')).toBe(true);
  });

  it('stand in a document from outside, and in none that names no such part', () => {
    const two = copy(piece, 'post', 'other', mirrored(post, 'z'));
    const wrong = (why: string) => new Error(why) as never;
    expect(checkedDocument(JSON.parse(JSON.stringify(two)), wrong).parts[1]).toEqual(two.parts[1]);
    const lost = { ...two, parts: [two.parts[1]] };
    expect(formAsset(lost, 'low', load).parts).toEqual([]);
  });
});

describe('groups', () => {
  const two = copy(piece, 'post', 'other', { move: [100, 0, 0], turnDegrees: [0, 0, 0], mirror: null });
  const grouped = applyCommand(two, { type: 'group.set', group: 'g', name: 'Pair', parts: ['post', 'other'] }).document;
  it('are moved and turned together, about a point, and taken back', () => {
    const command: Command = { type: 'group.move', group: 'g', by: [0, 10, 0], turnDegrees: [0, 90, 0], about: [50, 0, 0] };
    const { document, inverse } = applyCommand(grouped, command);
    const there = multiply(
      placement([50, 10, 0], [0, 0, 0]),
      multiply(placement([0, 0, 0], [0, 90, 0]), placement([-50, 0, 0], [0, 0, 0])),
    );
    for (const id of ['post', 'other'])
      expectPlaces(
        corners(document, id),
        corners(grouped, id).map((p) => transformPoint(there, p)),
      );
    expect(applyPatches(document, inverse)).toEqual(grouped);
    const moved = applyCommand(grouped, { ...command, turnDegrees: [0, 0, 0] }).document;
    expect(moved.parts.map((p) => p.turnDegrees)).toEqual(grouped.parts.map((p) => p.turnDegrees));
  });
  it('lose and gain parts, dissolve, and say what is not there', () => {
    const less = applyCommand(grouped, { type: 'group.set', group: 'g', name: 'One', parts: ['other'] }).document;
    expect(less.parts.map((p) => p.group)).toEqual([undefined, 'g']);
    expect(less.groups).toEqual([{ id: 'g', name: 'One' }]);
    const none = applyCommand(grouped, { type: 'group.remove', group: 'g' }).document;
    expect([none.groups, none.parts.some((p) => p.group)]).toEqual([[], false]);
    expect(() => applyCommand(none, { type: 'group.remove', group: 'g' })).toThrow('The group this change is for is no longer there.');
    expect(() => applyCommand(none, { type: 'group.move', group: 'g', by: [1, 0, 0], turnDegrees: [0, 0, 0], about: [0, 0, 0] })).toThrow(
      'has no parts any more',
    );
  });
});

describe('steps shared by several parts', () => {
  const shared = applyCommand(
    applyCommand(
      {
        ...piece,
        parts: [post, { ...post, id: 'rail', name: 'Rail', shape: { kind: 'recipe', steps: [{ ...stepOf('box'), id: 'rail-box' }] } }],
      },
      {
        type: 'step.add',
        part: 'post',
        step: { ...stepOf('bevel'), id: 'round' },
      },
    ).document,
    { type: 'step.share', part: 'post', step: 'round', same: 'rounding', to: [{ part: 'rail', id: 'round-rail' }] },
  ).document;
  const bevels = (d: AssetDocument) => d.parts.map((p) => p.shape.steps?.at(-1));
  it('one bevel on two: changing one changes both, each keeps its id and whether it is on', () => {
    const [, own] = bevels(shared);
    if (own?.kind !== 'bevel') throw new Error('It is the bevel.');
    const off = applyCommand(shared, { type: 'step.set', part: 'rail', step: { ...own, enabled: false } }).document;
    expect(bevels(off).map((s) => s?.enabled)).toEqual([true, false]);
    const wider = applyCommand(off, { type: 'step.set', part: 'rail', step: { ...own, enabled: false, size: 3.5 } });
    expect(bevels(wider.document)).toMatchObject([
      { id: 'round', size: 3.5, enabled: true, same: 'rounding' },
      { id: 'round-rail', size: 3.5, enabled: false },
    ]);
    expect(applyPatches(wider.document, wider.inverse)).toEqual(off);
  });
  it('one that stands alone again is changed alone; what makes something is not shared', () => {
    const alone = applyCommand(shared, { type: 'step.share', part: 'rail', step: 'round-rail', same: null, to: [] }).document;
    const [own] = bevels(alone);
    if (own?.kind !== 'bevel') throw new Error('It is the bevel.');
    const wider = applyCommand(alone, { type: 'step.set', part: 'post', step: { ...own, size: 4 } }).document;
    expect(bevels(wider).map((s) => s?.kind === 'bevel' && s.size)).toEqual([4, own.size]);
    expect(() =>
      applyCommand(shared, { type: 'step.share', part: 'post', step: post.shape.steps?.[0].id ?? '', same: 'x', to: [] }),
    ).toThrow('only steps that change it are shared');
    expect(() =>
      applyCommand(shared, { type: 'step.share', part: 'post', step: 'round', same: 'rounding', to: [{ part: 'rail', id: 'z' }] }),
    ).toThrow('“Rail” has that step already.');
  });
});
