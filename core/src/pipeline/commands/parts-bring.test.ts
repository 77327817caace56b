import { stormLantern } from '@wellmorph/demo/lantern';
import { applyPatches } from 'immer';
import { describe, expect, it } from 'vitest';
import { cube } from '../../../test/shapes';
import type { Model } from '../../io/model';
import { IDENTITY, translation } from '../../maths/mat4';
import { partsFromModel } from '../import';
import { applyCommand, type Command, commandKind } from './index';

const document = stormLantern();
const plain = { colour: [0.5, 0.5, 0.5], metallic: 0, roughness: 0.5, ior: 1.5, transmission: 0, coat: 0, coatRoughness: 0.1, emission: 0 };
const model = {
  parts: [
    { name: document.parts[0].name, mesh: cube(10), placements: [IDENTITY], material: 1 },
    { name: 'Foot', mesh: cube(4), placements: [translation([20, 0, 0]), translation([-20, 0, 0])], material: -1 },
  ],
  materials: ['unused', document.materials[0].name].map((name) => ({ ...plain, name })),
  textures: [],
  notes: [],
} as unknown as Model;
const { parts, materials } = partsFromModel(
  model,
  () => 'a'.repeat(64),
  (kind, n) => `${kind}-new-${n}`,
  { fileName: 'feet.stl' },
);
const source = { fileName: 'feet.stl', licence: 'own work', note: '' };
const bring: Command = { type: 'parts.bring', parts, materials: materials.slice(1), source };

describe('bringing a file into a piece', () => {
  it('adds its parts with their places, material and source, under names that are nobody’s', () => {
    const { document: after, inverse } = applyCommand(document, bring);
    const [first, foot] = after.parts.slice(-2);
    expect([first.name, foot.name]).toEqual([`${document.parts[0].name} 2`, 'Foot']);
    expect(foot.shape.kind === 'mesh' && foot.shape.placements).toHaveLength(2);
    const own = after.materials.at(-1);
    expect(own?.name).toBe(`${document.materials[0].name} 2`);
    expect([first.material, foot.material]).toEqual([own?.id, null]);
    expect(after.sources.at(-1)).toEqual(source);
    expect(after.parts.slice(0, -2)).toEqual(document.parts);
    expect(applyPatches(after, inverse)).toEqual(document);
    expect(commandKind('parts.bring').words(bring, document)).toBe('brought 2 parts in from feet.stl');
    expect(commandKind('parts.bring').blobs?.(bring)).toEqual(['a'.repeat(64), 'a'.repeat(64)]);
  });

  it('is the server’s alone, and refused where an id is taken: nothing has changed then', () => {
    expect(commandKind('parts.bring').byServer).toBe(true);
    const { document: after } = applyCommand(document, bring);
    expect(() => applyCommand(after, bring)).toThrow('A part or a material with that id is there already.');
  });

  it('the same file again replaces its line among the sources', () => {
    const { document: after } = applyCommand(document, bring);
    const again = { ...bring, parts: parts.map((p) => ({ ...p, id: `${p.id}-b` })), materials: [], source: { ...source, licence: 'CC0' } };
    const twice = applyCommand(after, again as Command).document;
    expect(twice.sources.filter((s) => s.fileName === 'feet.stl')).toEqual([{ ...source, licence: 'CC0' }]);
    expect(twice.parts).toHaveLength(document.parts.length + 4);
  });
});
