import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import type { fromLibrary } from '../../surface/library';
import { materialFile, materialFromFile } from '../../surface/material-file';
import { checkedAs } from '../checked';
import type { AssetDocument } from '../document';
import { nameOf } from '../results';
import { applyCommand, type Command, commandKind } from './index';

const done = (d: AssetDocument, ...commands: Command[]) => commands.reduce((now, c) => applyCommand(now, c).document, d);
const of = (d: AssetDocument, id: string) => d.materials.find((m) => m.id === id);
const set = (material: string, patch: Extract<Command, { type: 'material.set' }>['patch']): Command => ({
  type: 'material.set',
  material,
  patch,
});
const derive = (id: string, from: string, of: AssetDocument): Command => {
  const { texturing: _, ...own } = structuredClone(of.materials.find((m) => m.id === from) as NonNullable<ReturnType<typeof fromLibrary>>);
  return { type: 'material.add', material: { ...own, id, name: id, derived: { from, own: [] } } };
};

const lantern = stormLantern();
const [first] = lantern.materials;
const two = done(lantern, derive('pale', first.id, lantern));

describe('a material derived from another', () => {
  it('follows it in all that is not its own, through those between them', () => {
    const three = done(two, derive('paler', 'pale', two), set('paler', { roughness: 0.9 }));
    const d = done(three, set(first.id, { colour: [0.1, 0.2, 0.3], roughness: 0.2 }), set('pale', { colour: [0.9, 0.9, 0.9] }));
    expect(of(d, 'pale')).toMatchObject({ colour: [0.9, 0.9, 0.9], roughness: 0.2, derived: { own: ['colour'] } });
    expect(of(d, 'paler')).toMatchObject({ colour: [0.9, 0.9, 0.9], roughness: 0.9, derived: { from: 'pale', own: ['roughness'] } });
    const after = done(d, set(first.id, { colour: [0, 0, 0], roughness: 0.5, layers: [] }));
    expect(of(after, 'pale')).toMatchObject({ colour: [0.9, 0.9, 0.9], roughness: 0.5, layers: [] });
    expect(of(after, 'paler')).toMatchObject({ colour: [0.9, 0.9, 0.9], roughness: 0.9, layers: [] });
    // What another has of it is no part of it.
    expect(of(after, 'pale')?.layers).not.toBe(of(after, first.id)?.layers);
  });
  it('goes back to it in one thing or in all, and is cut loose as it is', () => {
    const d = done(two, set('pale', { colour: [0.9, 0.9, 0.9], roughness: 0.9 }));
    const back = done(d, { type: 'material.follow', material: 'pale', fields: ['roughness'] });
    expect(of(back, 'pale')).toMatchObject({ colour: [0.9, 0.9, 0.9], roughness: first.roughness, derived: { own: ['colour'] } });
    const loose = done(d, { type: 'material.follow', material: 'pale', fields: null }, set(first.id, { metallic: 0 }));
    expect(of(loose, 'pale')?.derived).toBeUndefined();
    expect(of(loose, 'pale')).toMatchObject({ colour: [0.9, 0.9, 0.9], metallic: first.metallic });
    const orphan = done(d, { type: 'material.remove', material: first.id });
    expect(of(orphan, 'pale')?.derived).toBeUndefined();
  });
  it('is taken back with one undo, those that followed too', () => {
    const { document, inverse } = applyCommand(two, set(first.id, { roughness: 0.77 }));
    expect(of(document, 'pale')?.roughness).toBe(0.77);
    expect(inverse.some((p) => p.path.includes(two.materials.findIndex((m) => m.id === 'pale')))).toBe(true);
  });
  it('is another material to results only by what it looks like; files don’t have the link', () => {
    const worn = done(two, { type: 'part.set', part: two.parts[0].id, patch: { material: 'pale' } });
    const loose = done(worn, { type: 'material.follow', material: 'pale', fields: null });
    expect(nameOf(worn, 'surface')).toBe(nameOf(loose, 'surface'));
    const pale = of(two, 'pale') as NonNullable<ReturnType<typeof of>>;
    expect(materialFromFile('x.json', materialFile(pale), 'y').derived).toBeUndefined();
  });
  it('is refused where what it is derived from isn’t there, or the link is none', () => {
    const pale = of(two, 'pale') as NonNullable<ReturnType<typeof of>>;
    const add = (derived: unknown) => ({ type: 'material.add', material: { ...pale, id: 'z', derived } });
    expect(() => done(lantern, add({ from: 'nowhere', own: [] }) as Command)).toThrow(/no longer there/);
    const checkCommand = (c: object) => checkedAs(c, commandKind('material.add').shape, (sentence) => new Error(sentence));
    expect(() => checkCommand(add({ from: 'x', own: ['name'] }))).toThrow(/of its own/);
    expect(() => checkCommand(add({ from: 3, own: [] }))).toThrow(/derived from/);
  });
});
