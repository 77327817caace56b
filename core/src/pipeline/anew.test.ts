import { applyPatches } from 'immer';
import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { briefFor } from '../brief/brief';
import type { Model } from '../io/model';
import { IDENTITY } from '../maths/mat4';
import { PLAIN } from '../surface/material';
import { PLAIN_TEXTURING } from '../surface/texturing';
import { dressedAnew, matchAnew, partsFrom } from './anew';
import { applyCommand, type Command, commandKind } from './commands';
import { newDocument, type Part } from './document';
import { partsFromModel } from './import';
import { inspectAsset, ledgerOf } from './inspect';
import { nameOf } from './results';

const model = (...names: string[]): Model => ({
  parts: names.map((name, i) => ({ name, mesh: cube(10 + i), placements: [IDENTITY], material: -1 })),
  materials: [],
  textures: [],
  notes: [],
});
const taken = (fileName: string, tag: string, ...names: string[]) =>
  partsFromModel(
    model(...names),
    () => tag.repeat(64).slice(0, 64),
    (kind, n) => `${kind}-${tag}-${n}`,
    { fileName },
  );
const source = (fileName: string) => ({ fileName, licence: 'own', note: '' });
const first = taken('box.glb', 'a', 'Body', 'Lid', 'Bolt');
const piece = applyCommand(newDocument('Box', briefFor('game')), { type: 'parts.bring', ...first, source: source('box.glb') }).document;
const origins = (parts: readonly Part[]) => parts.map((p) => p.origin as NonNullable<Part['origin']>);

describe('a newer file', () => {
  it('is matched by what parts are called in it, whatever they are called here', () => {
    const renamed = piece.parts.map((p) => ({ ...p, name: `My ${p.name}` }));
    const newer = taken('box-2.glb', 'b', 'Lid', 'Hinge', 'Body');
    expect(matchAnew(renamed, origins(newer.parts))).toEqual({
      pairs: [
        { part: 'part-a-1', newer: 2 },
        { part: 'part-a-2', newer: 0 },
      ],
      fresh: [1],
      gone: ['part-a-3'],
    });
    const alone = taken('other.stl', 'c', 'thing');
    expect(matchAnew([piece.parts[0]], origins(alone.parts)).pairs).toEqual([{ part: 'part-a-1', newer: 0 }]);
  });

  it('takes the place of the meshes alone; what is gone is a finding; it can be taken back', () => {
    const worked = applyCommand(
      applyCommand(piece, { type: 'part.set', part: 'part-a-1', patch: { name: 'My body', move: [5, 0, 0], weight: 2 } }).document,
      { type: 'seams.set', part: 'part-a-1', seams: [{ id: 's', patch: 'p', constant: 'u', at: 0.5, from: 0, to: 1 }] },
    ).document;
    const newer = taken('box-2.glb', 'b', 'Body', 'Lid', 'Hinge');
    const anew = [0, 1].map((i) => {
      const { shape, origin } = newer.parts[i];
      if (shape.kind !== 'mesh' || !origin) throw new Error('It is a mesh.');
      return { part: worked.parts[i].id, low: shape.low, placements: shape.placements, origin };
    });
    const command: Command = {
      type: 'parts.anew',
      anew,
      parts: [newer.parts[2]],
      materials: [],
      gone: ['part-a-3'],
      source: source('box-2.glb'),
      what: 'a newer box-2.glb',
    };
    const { document, inverse } = applyCommand(worked, command);
    const [body, , bolt, hinge] = document.parts;
    expect([body.name, body.move, body.weight, body.seams?.length]).toEqual(['My body', [5, 0, 0], 2, 1]);
    expect(body.shape.kind === 'mesh' && body.shape.low.blob).toBe('b'.repeat(64));
    expect([bolt.origin?.gone, hinge.name]).toEqual([true, 'Hinge']);
    expect(partsFrom(document, { fileName: 'box-2.glb' }).map((p) => p.name)).toEqual(['My body', 'Lid', 'Hinge']);
    const parts = document.parts.map((p) => ({ id: p.id, name: p.name, mesh: cube(10), placements: [IDENTITY] }));
    const formed = { parts, aids: [], problems: [], steps: [], strewn: [], marks: [] };
    const gone = inspectAsset(document, formed, ledgerOf(parts)).filter((f) => f.kind === 'gone');
    expect(gone.map((f) => f.message)).toEqual(['Bolt is not in the newer “box.glb”; it stands as it was.']);
    // The findings of the older state are not shown as those of this one.
    expect(nameOf(document, 'findings')).not.toBe(nameOf(worked, 'findings'));
    expect(applyPatches(document, inverse)).toEqual(worked);
    expect(commandKind('parts.anew').words(command, worked)).toBe('took a newer box-2.glb');
    expect(commandKind('parts.anew').byServer).toBe(true);
  });

  it('its pictures take the place of those that came before, unless they were taken off', () => {
    const pictured = (tag: string): ReturnType<typeof taken> => {
      const made = taken('box.glb', tag, 'Body');
      const uses = [{ picture: tag.repeat(64), slot: 'baseColour' as const, layout: 0 }];
      const material = { ...PLAIN, id: `m-${tag}`, name: 'Paint', texturing: { ...PLAIN_TEXTURING, uses } };
      return { parts: made.parts.map((p) => ({ ...p, material: material.id })), materials: [material] };
    };
    const [old, newer] = [pictured('d'), pictured('e')];
    const before = applyCommand(newDocument('Box', briefFor('game')), { type: 'parts.bring', ...old, source: source('box.glb') }).document;
    const pairs = [{ part: before.parts[0].id, newer: 0 }];
    const dressed = dressedAnew(before, pairs, newer);
    expect(dressed).toEqual([{ material: 'm-d', texturing: newer.materials[0].texturing }]);
    const command: Command = {
      type: 'parts.anew',
      anew: [],
      parts: [],
      materials: [],
      dressed,
      gone: [],
      source: source('box.glb'),
      what: 'a newer box.glb',
    };
    expect(commandKind('parts.anew').blobs?.(command)).toContain('e'.repeat(64));
    expect(applyCommand(before, command).document.materials[0].texturing?.uses[0].picture).toBe('e'.repeat(64));
    const plain = applyCommand(before, { type: 'material.set', material: 'm-d', patch: { texturing: null } }).document;
    expect(plain.materials[0].texturing).toBeUndefined();
    expect(dressedAnew(plain, pairs, newer)).toEqual([]);
    expect(applyCommand(plain, command).document.materials[0].texturing).toBeUndefined();
  });
});
