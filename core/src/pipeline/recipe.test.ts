import { describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { randomStep, stepOf } from '../../test/recipes';
import type { Region } from '../form/regions';
import type { Step } from '../form/steps/index';
import { random } from '../maths/random';
import { encodeMesh } from '../mesh/codec';
import { boundsOf } from '../mesh/measures';
import { triangleCount } from '../mesh/polymesh';
import { applyCommand, type Command, inWords } from './commands';
import { type AssetDocument, upgradeDocument } from './document';
import { type FormResult, formAsset } from './form';
import { inspectAsset, ledgerOf } from './inspect';
import { MeshCache } from './mesh-cache';
import { nameOf } from './results';
import { measuredOf, partPlans, solveAsset, trianglesAtTolerance } from './solve';
import { unwrap, unwrapSettings } from './unwrap';

const run = (document: AssetDocument, commands: Command[]) => commands.reduce((d, c) => applyCommand(d, c).document, document);
const bytes = (formed: FormResult) => formed.parts.map((p) => [p.id, p.placements, new TextDecoder('latin1').decode(encodeMesh(p.mesh))]);

describe('named dimensions of an asset', () => {
  const tin = (): AssetDocument =>
    run(asset([part('tray', [stepOf('box', { id: 'b', formulas: { width: 'opening - 2*gap' }, corner: 0 })])]), [
      { type: 'dimension.set', dimension: { id: 'o', name: 'opening', formula: '60', kind: 'length' } },
      { type: 'dimension.set', dimension: { id: 'g', name: 'gap', formula: '0.4', kind: 'length' } },
    ]);
  const width = (d: AssetDocument) => {
    const b = boundsOf(formAsset(d, 'low', none).parts[0].mesh);
    return b.max[0] - b.min[0];
  };
  it('drive what follows them, and change the name of the result', () => {
    const d = tin();
    expect(width(d)).toBeCloseTo(59.2, 9);
    const wider = run(d, [{ type: 'dimension.set', dimension: { id: 'o', name: 'opening', formula: '100', kind: 'length' } }]);
    expect(width(wider)).toBeCloseTo(99.2, 9);
    expect(nameOf(wider, 'form')).not.toBe(nameOf(d, 'form'));
  });
  it('one that is gone leaves its step out with a finding, and the rest stands', () => {
    const d = run(tin(), [
      { type: 'step.add', part: 'tray', step: stepOf('bar') },
      { type: 'dimension.remove', dimension: 'g' },
    ]);
    const formed = formAsset(d, 'low', none);
    expect(formed.problems).toHaveLength(1);
    const found = inspectAsset(d, formed, ledgerOf(formed.parts)).find((f) => f.kind === 'step');
    expect(found?.message).toMatch(/there is no dimension called “gap”/);
    expect(formed.parts).toHaveLength(1);
  });
  it('names that can’t be, and twice the same name, change nothing', () => {
    const d = tin();
    expect(() => run(d, [{ type: 'dimension.set', dimension: { id: 'x', name: 'GAP', formula: '1', kind: 'length' } }])).toThrow(/already/);
    expect(() => run(d, [{ type: 'dimension.set', dimension: { id: 'x', name: '9', formula: '1', kind: 'length' } }])).toThrow(/can’t be/);
  });
  it('a document from before there were any gets none', () => {
    const { dimensions: _, references: __, ...old } = tin();
    expect(upgradeDocument(old)).toMatchObject({ dimensions: [], references: [] });
  });
});

describe('steps as commands', () => {
  const d = asset([part('a', [stepOf('box', { id: 'one' }), stepOf('bar', { id: 'two' })])]);
  const ids = (doc: AssetDocument) => (doc.parts[0].shape.kind === 'recipe' ? doc.parts[0].shape.steps.map((s) => s.id) : []);
  it('are doubled right after the first, moved up and down, never with one id twice', () => {
    const doubled = run(d, [{ type: 'step.add', part: 'a', step: stepOf('box', { id: 'three' }), after: 'one' }]);
    expect(ids(doubled)).toEqual(['one', 'three', 'two']);
    expect(ids(run(doubled, [{ type: 'step.move', part: 'a', step: 'three', by: 1 }]))).toEqual(['one', 'two', 'three']);
    expect(ids(run(doubled, [{ type: 'step.move', part: 'a', step: 'one', by: 2 }]))).toEqual(['three', 'two', 'one']);
    // No further than the list.
    expect(ids(run(doubled, [{ type: 'step.move', part: 'a', step: 'two', by: -9 }]))).toEqual(['two', 'one', 'three']);
    expect(inWords({ type: 'step.move', part: 'a', step: 'one', by: 2 }, doubled)).toMatch(/down by 2 places$/);
    expect(() => run(doubled, [{ type: 'step.add', part: 'a', step: stepOf('bar', { id: 'one' }) }])).toThrow(/already/);
  });
  it('a part is moved to another place of the list, and back', () => {
    const three = asset(['a', 'b', 'c'].map((id) => part(id, [])));
    const order = (doc: AssetDocument) => doc.parts.map((p) => p.id).join('');
    const { document: moved, patches: _ } = applyCommand(three, { type: 'part.move', part: 'a', by: 2 });
    expect(order(moved)).toBe('bca');
    expect(order(applyCommand(moved, { type: 'part.move', part: 'a', by: -2 }).document)).toBe('abc');
    expect(() => applyCommand(three, { type: 'part.move', part: 'z', by: 1 })).toThrow(/no longer there/);
  });
  it('say in words what they did', () => {
    const words = (c: Command) => inWords(c, d);
    expect(words({ type: 'step.add', part: 'a', step: stepOf('blade') })).toBe('added the step blade to a');
    expect(words({ type: 'dimension.set', dimension: { id: 'x', name: 'gap', formula: '0.4', kind: 'length' } })).toBe('set gap = 0.4');
    expect(words({ type: 'seams.set', part: 'a', seams: [] })).toBe('picked 0 seams on a');
    expect(words({ type: 'region.set', part: 'a', region: { id: 'r', name: 'label', rules: [], weight: 1 } })).toBe(
      'set the region label of a',
    );
  });
});

describe('regions and seams of an asset', () => {
  const label: Region = {
    id: 'label',
    name: 'Label',
    weight: 3,
    rules: [{ id: '1', how: 'add', rule: { kind: 'picked', places: [{ patch: 'b/front', u: [0, 1], v: [0, 1] }] } }],
  };
  const d = run(asset([part('box', [stepOf('box', { id: 'b', corner: 0 })])]), [{ type: 'region.set', part: 'box', region: label }]);
  it('are found when it is formed, and lost ones are findings', () => {
    const [marks] = formAsset(d, 'low', none).marks;
    expect(marks.regions[0]).toMatchObject({ name: 'Label', lost: [] });
    expect(marks.regions[0].area).toBeCloseTo(80 * 40, 6);
    const other = run(d, [
      { type: 'step.remove', part: 'box', step: 'b' },
      { type: 'step.add', part: 'box', step: stepOf('bar') },
      { type: 'seams.set', part: 'box', seams: [{ id: 's', patch: 'b/left', constant: 'u', at: 0.5, from: 0, to: 1 }] },
    ]);
    const formed = formAsset(other, 'low', none);
    const kinds = inspectAsset(other, formed, ledgerOf(formed.parts)).map((f) => f.id);
    expect(kinds).toContain('region-lost:box:label');
    expect(kinds).toContain('seam-lost:box');
  });
  it('a waiver of a lost region re-opens when more of it is lost', () => {
    const bare = run(d, [
      { type: 'step.remove', part: 'box', step: 'b' },
      { type: 'step.add', part: 'box', step: stepOf('bar') },
      { type: 'waive', waiver: { finding: 'region-lost:box:label', reason: 'not needed now', value: 1 } },
    ]);
    const found = (doc: AssetDocument) => {
      const formed = formAsset(doc, 'low', none);
      return inspectAsset(doc, formed, ledgerOf(formed.parts)).find((f) => f.id === 'region-lost:box:label');
    };
    expect(found(bare)?.waived).toBe('not needed now');
    const more: Region = {
      ...label,
      rules: [
        { id: '1', how: 'add', rule: { kind: 'picked', places: ['b/front', 'b/back'].map((patch) => ({ patch, u: [0, 1], v: [0, 1] })) } },
      ],
    };
    expect(found(run(bare, [{ type: 'region.set', part: 'box', region: more }]))?.waived).toBeUndefined();
  });
  it('a region of three times the weight gets three times the density, the rest what is left', () => {
    const { parts } = formAsset(d, 'low', none);
    const laid = unwrap(parts, { ...unwrapSettings(d), size: 512 });
    const mesh = laid.parts[0].mesh;
    const uv = mesh.attributes.find((a) => a.name === 'uv')?.data ?? [];
    const region = mesh.attributes.find((a) => a.name === 'region')?.data ?? [];
    const density = (inside: boolean) => {
      let [real, flat] = [0, 0];
      for (let t = 0; t < triangleCount(mesh); t++) {
        if (region[mesh.triangleFace[t]] > 0 !== inside) continue;
        const c = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
        const p = c.map((i) => [0, 1, 2].map((k) => mesh.positions[3 * mesh.faceVert[i] + k]));
        const [e, f] = [p[1].map((x, k) => x - p[0][k]), p[2].map((x, k) => x - p[0][k])];
        real += Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]) / 2;
        const [a, b, q] = c.map((i) => [uv[2 * i], uv[2 * i + 1]]);
        flat += Math.abs((b[0] - a[0]) * (q[1] - a[1]) - (b[1] - a[1]) * (q[0] - a[0])) / 2;
      }
      return Math.sqrt(flat / real);
    };
    expect(density(true) / density(false)).toBeCloseTo(3, 4);
  });
});

describe('parts that lie on others', () => {
  const rivets = (on: string, more: object = {}) =>
    part('rivets', [
      stepOf('prism', { id: 'rivet', sides: 6, acrossFlats: 3, height: 1 }),
      stepOf('scatter', { on, most: 40, spacing: 8, ...more }),
    ]);
  const plate = part('plate', [stepOf('box', { id: 'b', width: 100, depth: 100, height: 4, corner: 0 })], {
    move: [30, 5, -20],
    turnDegrees: [0, 40, 0],
  });
  it('are strewn over them wherever they were moved, whatever the order of the parts', () => {
    for (const parts of [
      [rivets('plate'), plate],
      [plate, rivets('plate')],
    ]) {
      const formed = formAsset(asset(parts), 'low', none);
      expect(formed.problems).toEqual([]);
      expect(formed.parts.map((p) => p.id)).toEqual(parts.map((p) => p.id));
      const copies = formed.parts.find((p) => p.id === 'rivets')?.placements ?? [];
      expect(copies).toHaveLength(40);
      const [box] = formed.parts.filter((p) => p.id === 'plate');
      const b = boundsOf(box.mesh);
      // Back into the plate's own space every copy stands on its surface.
      const [c, s] = [Math.cos((-40 * Math.PI) / 180), Math.sin((-40 * Math.PI) / 180)];
      for (const m of copies) {
        const [x, y, z] = [m[12] - 30, m[13] - 5, m[14] + 20];
        const own = [c * x + s * z, y, -s * x + c * z];
        const off = Math.max(...own.map((v, k) => Math.max(b.min[k] - v, v - b.max[k])));
        expect(Math.abs(off)).toBeLessThan(1e-6);
      }
      expect(formed.strewn[0]).toMatchObject({ part: 'rivets', copies: 40 });
      expect(formed.strewn[0].shows).toBeGreaterThan(0.9);
      expect(formed.strewn[0].shows).toBeLessThan(1);
    }
  });
  it('only over a region when one is named; the budget counts the copies that lie there', () => {
    const region: Region = {
      id: 'top',
      name: 'Top',
      weight: 1,
      rules: [{ id: '1', how: 'add', rule: { kind: 'facing', x: 0, y: 1, z: 0, degrees: 5 } }],
    };
    const d = asset([{ ...plate, regions: [region] }, rivets('plate', { region: 'top', spacing: 30, most: 100 })]);
    const formed = formAsset(d, 'low', none);
    const copies = formed.parts[1].placements;
    for (const m of copies) expect(m[13]).toBeCloseTo(9, 6);
    expect(copies.length).toBeLessThan(20);
    const each = 4 * 6 - 4;
    const strewn = measuredOf(d, formed);
    expect(strewn).toEqual({ rivets: { copies: copies.length, triangles: copies.length * each, each: {} } });
    expect(partPlans(d, strewn)[1].triangles(() => 1)).toBe(copies.length * each);
    expect(trianglesAtTolerance(d, 1, strewn).triangles).toBe(ledgerOf(formed.parts).triangles);
    expect(solveAsset(d, strewn).triangles).toBe(ledgerOf(formed.parts).triangles);
  });
  it('a part that isn’t there, one that lies on itself, and a circle each get a sentence', () => {
    expect(formAsset(asset([rivets('nowhere')]), 'low', none).problems[0].message).toMatch(/is not there/);
    expect(formAsset(asset([rivets('rivets')]), 'low', none).problems[0].message).toMatch(/is not there, or refers to rivets in turn/);
    const circle = [
      part('a', [stepOf('box', { id: 'x' }), stepOf('scatter', { id: 's1', on: 'b' })]),
      part('b', [stepOf('box', { id: 'y' }), stepOf('scatter', { id: 's2', on: 'a' })]),
    ];
    expect(formAsset(asset(circle), 'low', none).problems).toHaveLength(1);
    expect(formAsset(asset([plate, rivets('plate', { region: 'gone' })]), 'low', none).problems[0].message).toMatch(
      /region .* is not there any more/,
    );
  });
});

describe('what is remembered between edits', () => {
  it('is what would be made anew: meshes, figures and findings after 60 random edits', () => {
    const next = random(2025);
    const memory = new MeshCache();
    let d = asset(Array.from({ length: 4 }, (_, i) => part(`p${i}`, [{ ...randomStep(next), id: `s${i}` }], { move: [i * 120, 0, 0] })));
    for (let i = 0; i < 60; i++) {
      const p = d.parts[Math.floor(next() * 4)];
      const steps = p.shape.kind === 'recipe' ? p.shape.steps : [];
      const what = next();
      const step: Step = { ...randomStep(next), id: what < 0.3 && steps.length < 4 ? `n${i}` : (steps[0]?.id ?? `n${i}`) };
      if (what < 0.3 && steps.length < 4) d = run(d, [{ type: 'step.add', part: p.id, step }]);
      else if (what < 0.6 && steps.length > 0) d = run(d, [{ type: 'step.set', part: p.id, step }]);
      else if (what < 0.7 && steps.length > 1) d = run(d, [{ type: 'step.remove', part: p.id, step: steps[1].id }]);
      else if (what < 0.8) d = run(d, [{ type: 'part.set', part: p.id, patch: { move: [Math.round(next() * 300), 0, 0] } }]);
      else if (what < 0.9) d = run(d, [{ type: 'part.set', part: p.id, patch: { name: `name ${i}`, declaredOpen: next() < 0.5 } }]);
      else if (steps.length > 0) d = run(d, [{ type: 'step.set', part: p.id, step: { ...steps[0], enabled: !steps[0].enabled } }]);
      const [kept, fresh] = [formAsset(d, 'low', none, memory), formAsset(d, 'low', none)];
      expect(bytes(kept)).toEqual(bytes(fresh));
      expect(kept.problems).toEqual(fresh.problems);
      const [a, b] = [ledgerOf(kept.parts, memory), ledgerOf(fresh.parts)];
      expect(a).toEqual(b);
      expect(inspectAsset(d, kept, a, undefined, memory)).toEqual(inspectAsset(d, fresh, b));
    }
  }, 120_000);
  it('a stored mesh is opened once, and the least used goes first', () => {
    const memory = new MeshCache();
    const mesh = formAsset(asset([part('a', [stepOf('box')])]), 'low', none).parts[0].mesh;
    let opened = 0;
    const open = () => {
      opened++;
      return mesh;
    };
    memory.open('x', open);
    memory.open('x', open);
    expect(opened).toBe(1);
    for (let i = 0; i < 30; i++) memory.open(`y${i}`, open);
    memory.open('x', open);
    expect(opened).toBe(32);
  });
});
