import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import { EVERY } from '../../test/commands';
import { stepOf } from '../../test/recipes';
import { applyCommand, type Command } from './commands/index';
import type { AssetDocument } from './document';
import { drawnWithMaps, inputsOf, KEPT, type Kept, nameOf, namesOf, STAGES, usedMaterials } from './results';

const lantern = stormLantern();
const part = lantern.parts[0].id;
const material = usedMaterials(lantern)[0].id;
/** What a change makes stale, in the order of what is kept. */
function staleBy(command: Command, document = lantern): Kept[] {
  const [before, after] = [namesOf(document), namesOf(applyCommand(document, command).document)];
  return KEPT.filter((kind) => before[kind] !== after[kind]);
}
const brief = (patch: object): Command => ({ type: 'brief.set', patch }) as Command;
const set = (patch: object): Command => ({ type: 'part.set', part, patch }) as Command;
const ALL: Kept[] = ['form', 'findings', 'look', 'unwrap', 'bake', 'surface', 'gather', 'project', 'render'];
const LAID: Kept[] = ['unwrap', 'bake', 'surface', 'gather', 'project', 'render'];

/** What a person changes, and exactly what has to be made again for it: the contract of the stage line. */
const CONTRACT: [what: string, command: Command, stale: Kept[]][] = [
  ['the piece’s name', { type: 'rename', name: 'Another' }, []],
  ['a part’s name', set({ name: 'Another' }), []],
  ['a material’s name', { type: 'material.set', material, patch: { name: 'Another' } }, []],
  ['the unit lengths are shown in', brief({ unit: 'in' }), []],
  ['the day it is due', brief({ deadline: '2027-01-31' }), []],
  ['the shot accepted', { type: 'shot.set', patch: { locked: true } }, []],
  ['what is handed over', { type: 'handoff.set', patch: { unit: 'm' } }, []],
  ['a waiver', { type: 'waive', waiver: { finding: 'x', reason: 'it is meant', value: 1, box: null } } as Command, []],
  ['where a part stands', set({ move: [1, 2, 3] }), ALL],
  ['how it is turned', set({ turnDegrees: [0, 5, 0] }), ALL],
  ['that it only shapes others', set({ aid: true }), ALL],
  ['a step more', { type: 'step.add', part, step: stepOf('box', { id: 'more' }) } as Command, ALL],
  ['a named dimension', { type: 'dimension.set', dimension: { id: 'd', name: 'gap', formula: '2', kind: 'length' } } as Command, ALL],
  ['how exactly rounds are drawn', brief({ errorPx: 0.9 }), ALL],
  ['what a part is', set({ role: 'flame' }), ['findings', 'look', 'bake', 'surface', 'gather', 'render']],
  ['that a rim is meant to be open', set({ declaredOpen: true }), ['findings', 'look']],
  ['the wall wanted', brief({ wallMm: 3 }), ['findings', 'look']],
  ['more texels for a part', set({ weight: 2 }), LAID],
  ['the texels between islands', { type: 'unwrap.set', patch: { padding: 3 } }, LAID],
  ['rays a texel', { type: 'bake.set', patch: { occlusionRays: 7 } }, ['bake', 'surface', 'gather', 'render']],
  ['that a part is taken off', set({ loose: true }), ['bake', 'surface', 'gather', 'render']],
  ['whether what moves darkens', { type: 'bake.set', patch: { movingOcclude: true } }, ['bake', 'surface', 'gather', 'render']],
  ['a material’s roughness', { type: 'material.set', material, patch: { roughness: 0.123 } }, ['surface', 'gather', 'render']],
  ['the seed of wear', { type: 'surface.set', patch: { seed: 99 } }, ['surface', 'gather', 'render']],
  ['the size of the gathered set', { type: 'gather.set', patch: { size: 512 } }, ['gather']],
  ['that it goes out gathered, and in how many draws', { type: 'gather.set', patch: { on: true, apart: true } }, []],
  ['the size of the set photographs are laid on', { type: 'project.set', patch: { size: 512 } }, ['project']],
  ['that it goes out with them, and how lit', { type: 'project.set', patch: { on: true, unlit: false } }, []],
  ['the room’s light', { type: 'rig.set', patch: { surround: 0.77 } }, ['render']],
  ['the lamps solved', { type: 'rig.set', patch: { power: { key: 10, fill: 3, rim: 5, surround: 1 } } }, ['render']],
  ['the lens', { type: 'shot.set', patch: { lensMm: 61 } }, ['render']],
  ['the samples', { type: 'render.set', patch: { samples: 123 } }, ['render']],
  ['drawn without its maps', { type: 'render.set', patch: { maps: false } }, ['render']],
];

describe('what a change makes stale', () => {
  it.each(CONTRACT)('%s', (_, command, stale) => {
    expect(staleBy(command)).toEqual(stale);
  });
  it('a name follows from the document alone, not from how it came to be', () => {
    for (const command of EVERY) {
      let after: AssetDocument;
      try {
        after = applyCommand(lantern, command).document;
      } catch {
        continue;
      }
      expect(namesOf(JSON.parse(JSON.stringify(after)) as AssetDocument), command.type).toEqual(namesOf(after));
    }
  });
  it('what stands on something stale is stale', () => {
    let made = 0;
    for (const command of EVERY) {
      let after: AssetDocument;
      try {
        after = applyCommand(lantern, command).document;
      } catch {
        continue;
      }
      made++;
      const stale = new Set(KEPT.filter((k) => nameOf(after, k) !== nameOf(lantern, k)));
      for (const kind of KEPT)
        for (const input of inputsOf(after, kind))
          if (input && stale.has(input)) expect([command.type, kind, stale.has(kind)]).toEqual([command.type, kind, true]);
    }
    expect(made).toBeGreaterThan(40);
  });
});

describe('what a result stands on', () => {
  it('comes before it, and each stage once', () => {
    for (const kind of KEPT)
      for (const input of inputsOf(lantern, kind)) if (input) expect(KEPT.indexOf(input)).toBeLessThan(KEPT.indexOf(kind));
    expect(STAGES).toEqual(['form', 'unwrap', 'bake', 'surface', 'render']);
  });
  it('what a part is made of makes a bake stale only where ids are by material', () => {
    const other = set({ material: null });
    const by = (idBy: 'material' | 'region', further: 'id'[]) => ({ ...lantern, bake: { ...lantern.bake, idBy, further } });
    expect(staleBy(other, by('material', ['id']))).toContain('bake');
    expect(staleBy(other, by('region', ['id']))).not.toContain('bake');
    expect(staleBy(other, by('material', []))).not.toContain('bake');
  });
  it('without maps, or without a material, a picture stands on the form alone', () => {
    const plain = applyCommand(lantern, { type: 'render.set', patch: { maps: false } }).document;
    const bare = { ...lantern, parts: lantern.parts.map((p) => ({ ...p, material: null })) };
    for (const d of [plain, bare]) expect([drawnWithMaps(d), inputsOf(d, 'render')]).toEqual([false, ['form', null, null]]);
    expect(inputsOf(lantern, 'render')).toEqual(['unwrap', 'surface', 'bake']);
    // So the padding of a layout is nothing to it.
    expect(staleBy({ type: 'unwrap.set', patch: { padding: 3 } }, plain)).not.toContain('render');
  });
  it('the order keys were written in, and what is undefined, change no name', () => {
    const turned = Object.fromEntries(Object.entries(structuredClone(lantern)).reverse()) as unknown as AssetDocument;
    expect(namesOf(turned)).toEqual(namesOf(lantern));
    expect(namesOf({ ...lantern, relations: lantern.relations ?? undefined })).toEqual(namesOf(lantern));
  });
  it('no two kinds, and no two states of a hundred, share a name', () => {
    const names = new Set<string>();
    for (let seed = 0; seed < 100; seed++)
      names.add(nameOf(applyCommand(lantern, { type: 'surface.set', patch: { seed } }).document, 'surface'));
    expect(names.size).toBe(100);
    expect(new Set(Object.values(namesOf(lantern))).size).toBe(KEPT.length);
    for (const name of Object.values(namesOf(lantern))) expect(name).toMatch(/^[0-9a-f]{64}$/);
  });
});
