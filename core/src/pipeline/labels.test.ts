import { stormLantern } from '@wellmorph/demo/lantern';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { AssetDocument } from './document';
import { formAndInspect } from './forming';
import { labelled, labelledSvg, labelledText, unlabelled } from './labels';
import { MeshCache } from './mesh-cache';
import { inputsOf, KEPT, nameOf, namesOf } from './results';

const lantern = stormLantern();
const none = () => {
  throw new Error('a recipe needs no stored mesh');
};

/** The same piece with every name another. */
const renamed = (d: AssetDocument, by: string): AssetDocument => ({
  ...d,
  name: `${by} piece`,
  parts: d.parts.map((p) => ({
    ...p,
    name: `${by} ${p.name}`,
    shape: p.shape.kind === 'recipe' ? { ...p.shape, steps: p.shape.steps.map((s) => ({ ...s, name: `${by} ${s.name}` })) } : p.shape,
    regions: p.regions?.map((r) => ({ ...r, name: `${by} ${r.name}` })),
  })),
  materials: d.materials.map((m) => ({ ...m, name: `${by} ${m.name}` })),
});

describe('labels', () => {
  it('names of results know none of them, and nothing of the date, the waivers or a locked shot', () => {
    const other = renamed(lantern, 'New');
    expect(namesOf(other)).toEqual(namesOf(lantern));
    const more = {
      ...other,
      brief: { ...other.brief, deadline: '2027-02-03' },
      waivers: [{ finding: 'x', reason: 'meant', value: 1 }],
      shot: { ...other.shot, locked: !other.shot.locked, name: 'Other' },
      rig: { ...other.rig, name: 'Other' },
    };
    expect(namesOf(more)).toEqual(namesOf(lantern));
  });
  it('what is made has none of them: equal names, equal bytes', () => {
    const [a, b] = [lantern, renamed(lantern, 'New')].map((d) => formAndInspect(d, none, new MeshCache(), {}));
    expect(b.parts).toEqual(a.parts);
    expect(b.figures).toEqual(a.figures);
    expect(b.found).toEqual(a.found);
  });
  it('shown, every mark is the label of the day; what was removed is said to be', () => {
    const bad = { ...lantern, parts: lantern.parts.map((p) => ({ ...p, material: null })) };
    const { found } = formAndInspect(bad, none, new MeshCache(), {});
    expect(JSON.stringify(found)).toContain('⟦part font⟧');
    const shown = JSON.stringify(labelled(found, renamed(bad, 'New')));
    expect(shown).not.toContain('⟦');
    expect(shown).toContain(`New ${lantern.parts.find((p) => p.id === 'font')?.name}`);
    expect(labelledText('⟦part gone⟧ and ⟦material m9⟧', lantern)).toBe('a removed part and a removed material');
    const named = { ...lantern, parts: lantern.parts.map((p) => (p.id === 'font' ? { ...p, name: 'Öl & "Docht" <1>' } : p)) };
    const svg = new TextEncoder().encode('<g id="⟦part font⟧"/>');
    expect(new TextDecoder().decode(labelledSvg(svg, named))).toBe('<g id="Öl &#38; &#34;Docht&#34; &#60;1&#62;"/>');
  });
  it('names that look like marks stay what they are', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (name) => {
        const d = { ...lantern, parts: lantern.parts.map((p) => ({ ...p, name: `${name}⟦part cap⟧` })) };
        expect(labelledText('⟦part font⟧', d)).toBe(`${name}⟦part cap⟧`);
        expect(labelled(unlabelled(d).parts, d).map((p) => p.name)).toEqual(d.parts.map((p) => p.name));
      }),
      { seed: 9 },
    );
  });
  it('bytes, and whatever holds no mark, are handed back as they are', () => {
    const value = { mesh: { positions: new Float64Array(3) }, list: [1, 'two'], bytes: new Uint8Array(2) };
    expect(labelled(value, lantern)).toBe(value);
    const marked = { ...value, name: '⟦part font⟧' };
    expect(labelled(marked, lantern).mesh).toBe(value.mesh);
    expect(unlabelled(unlabelled(lantern))).toBe(unlabelled(lantern));
  });
});

describe('what a result stands on', () => {
  it('follows from the document alone: maps by choice and by having any, a bake where there is something to bake', () => {
    expect(inputsOf(lantern, 'render')).toEqual(['unwrap', 'surface', 'bake']);
    expect(inputsOf({ ...lantern, render: { ...lantern.render, maps: false } }, 'render')).toEqual(['form', null, null]);
    expect(inputsOf({ ...lantern, materials: [] }, 'render')).toEqual(['form', null, null]);
    const bare = {
      ...lantern,
      parts: lantern.parts.map((p) => ({ ...p, shape: { kind: 'mesh' as const, low: { blob: 'a', triangles: 1 }, placements: [] } })),
    };
    expect(inputsOf(bare, 'surface')).toEqual(['unwrap', null]);
  });
  it('drawn with its maps and without, pictures have names of their own', () => {
    const plain = { ...lantern, render: { ...lantern.render, maps: false } };
    expect(nameOf(plain, 'render')).not.toBe(nameOf(lantern, 'render'));
    for (const kind of KEPT) if (kind !== 'render') expect(nameOf(plain, kind), kind).toBe(nameOf(lantern, kind));
    // What only the maps depend on doesn't touch a plain picture.
    const padded = (d: AssetDocument) => ({ ...d, unwrap: { ...d.unwrap, padding: 21 } });
    expect(nameOf(padded(plain), 'render')).toBe(nameOf(plain, 'render'));
    expect(nameOf(padded(lantern), 'render')).not.toBe(nameOf(lantern, 'render'));
  });
});
