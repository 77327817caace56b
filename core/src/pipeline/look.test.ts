import { beforeAll, describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { testKit } from '../../test/kit';
import { stepOf } from '../../test/recipes';
import { cube, refined, torusMesh } from '../../test/shapes';
import type { Region } from '../form/regions';
import type { Finding, FixId } from '../inspect/finding';
import { stillCovers } from '../inspect/finding';
import type { Kit } from '../kit';
import { compose, IDENTITY, isRigid, type Mat4, multiply, rotation, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { normalise } from '../maths/vec3';
import { isWatertight, volumeOf } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { makeMesh, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { transform } from '../mesh/transform';
import { applyCommand } from './commands';
import type { AssetDocument, Part } from './document';
import { assetBounds, formAsset } from './form';
import { inspectAsset, ledgerOf, withWaivers } from './inspect';
import { lookClosely } from './look';
import { GAP_MM, mend } from './mend';
import { MeshCache } from './mesh-cache';
import { protectedFaces, simplifyParts, withoutSimplify } from './simplify';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});

/** An import of meshes as they stand, with its store. */
function imported(meshes: Record<string, PolyMesh>, placements: Record<string, Mat4[]> = {}, more: Partial<AssetDocument> = {}) {
  const store = new Map(Object.entries(meshes));
  const parts = Object.keys(meshes).map(
    (id): Part => ({
      id,
      name: id,
      role: 'body',
      material: 'm',
      move: [0, 0, 0],
      turnDegrees: [0, 0, 0],
      shape: { kind: 'mesh', low: { blob: id, triangles: triangleCount(meshes[id]) }, placements: placements[id] ?? [IDENTITY] },
      weight: 1,
      declaredOpen: false,
    }),
  );
  const document = { ...asset(parts), ...more };
  const load = (blob: string) => store.get(blob) as PolyMesh;
  const look = (d: AssetDocument): Finding[] => {
    const formed = formAsset(d, 'low', load, undefined, kit);
    return withWaivers(d, [...inspectAsset(d, formed, ledgerOf(formed.parts)), ...lookClosely(d, formed, new MeshCache()).findings]);
  };
  /** Mends a finding and gives back the document with it. */
  const fixed = (d: AssetDocument, finding: Finding, fix: FixId): AssetDocument => {
    const mended = mend(d, formAsset(d, 'low', load, undefined, kit), finding, fix, load, 'new');
    if ('commands' in mended) return mended.commands.reduce((x, c) => applyCommand(x, c).document, d);
    const blob = `${mended.part}+${fix}`;
    store.set(blob, mended.mesh);
    const low = { blob, triangles: triangleCount(mended.mesh) };
    return applyCommand(d, {
      type: 'mesh.replace',
      part: mended.part,
      low,
      ...(mended.placements && { placements: mended.placements }),
      what: fix,
    }).document;
  };
  return { document, look, fixed, load };
}
const of = (findings: readonly Finding[], kind: Finding['kind']) => findings.find((f) => f.kind === kind);
const serious = (findings: readonly Finding[]) =>
  findings.filter((f) => f.severity !== 'information' && f.kind !== 'no-material').map((f) => f.kind);

describe('the longer look', () => {
  it('finds what nobody sees, says what it frees, and takes it away', () => {
    const next = random(3);
    for (let i = 0; i < 20; i++) {
      const inner = torusMesh(4, 1.5, 10, 6);
      const at = translation([8 * next() - 4, 20 + 8 * next() - 4, 8 * next() - 4]);
      const { document, look, fixed } = imported({ crate: cube(40), ring: inner }, { ring: [at] });
      const f = of(look(document), 'hidden');
      expect(f?.severity).toBe('information');
      expect(f?.part).toBe('ring');
      expect(f?.frees).toBe(triangleCount(inner));
      // All of a part is not taken away by the finding's fix: the part is.
      expect(() => fixed(document, f as Finding, 'remove-hidden')).toThrow(/take the part away/);
      const both = imported({ crate: merge([cube(40), transform(inner, at)]) });
      const g = of(both.look(both.document), 'hidden') as Finding;
      expect(g.frees).toBe(triangleCount(inner));
      const lean = both.fixed(both.document, g, 'remove-hidden');
      expect(of(both.look(lean), 'hidden')).toBeUndefined();
      expect((lean.parts[0].shape as { low: { triangles: number } }).low.triangles).toBe(12);
    }
  });
  it('takes away no more than leaves clean rims, and frees what was said', () => {
    const next = random(31);
    for (let i = 0; i < 20; i++) {
      const turned = (m: PolyMesh) => transform(m, rotation(normalise([next() - 0.5, next() - 0.5, next() - 0.5]), 6 * next()));
      const rings = [0, 1, 2].map(() => transform(turned(torusMesh(18, 6, 24, 12)), translation([20 * next(), 20 * next(), 20 * next()])));
      const heap = merge([refined(cube(30), 6), ...rings]);
      const { document, look, fixed, load } = imported({ heap });
      const f = of(look(document), 'hidden') as Finding;
      expect(f.frees).toBeGreaterThan(0);
      expect(f.frees).toBeLessThanOrEqual(f.value);
      const lean = fixed(document, f, 'remove-hidden');
      const mesh = load((lean.parts[0].shape as { low: { blob: string } }).low.blob);
      expect(triangleCount(heap) - triangleCount(mesh)).toBe(f.frees);
      expect(look(lean).map((x) => x.kind)).not.toContain('non-manifold');
    }
  });
  it('what moves hides nothing for good', () => {
    const { document, look } = imported({ crate: cube(40), ring: torusMesh(4, 1.5, 10, 6) }, { ring: [translation([0, 20, 0])] });
    const parts = document.parts.map((p) =>
      p.id === 'crate' ? { ...p, travel: { kind: 'slide' as const, axis: 'y' as const, from: 0, to: 50, x: 0, y: 0, z: 0 } } : p,
    );
    expect(of(look({ ...document, parts }), 'hidden')).toBeUndefined();
  });
  it('finds loops and flats that bear nothing; taking them away frees what was said and moves nothing', () => {
    const { document, look, fixed, load } = imported({ crate: refined(cube(40), 4) });
    const flats = of(look(document), 'flats') as Finding;
    expect(flats.frees).toBe(12 * 16 - 12);
    const lean = fixed(document, flats, 'join-flats');
    const mesh = load((lean.parts[0].shape as { low: { blob: string } }).low.blob);
    expect(triangleCount(mesh)).toBe(12);
    expect(volumeOf(mesh)).toBeCloseTo(64_000, 6);
    expect(serious(look(lean))).toEqual([]);
    const loops = of(look(document), 'idle-loops') as Finding;
    const fewer = fixed(document, loops, 'remove-loops');
    const left = load((fewer.parts[0].shape as { low: { blob: string } }).low.blob);
    expect(triangleCount(load('crate')) - triangleCount(left)).toBe(loops.frees);
    expect(isWatertight(left)).toBe(true);
  });
  it('a recipe gets a step instead, one for all of it, and loses what was said', () => {
    const steps = [
      stepOf('box', { id: 'b' }),
      stepOf('subdivide', { id: 'd', levels: 2, smooth: false } as never),
      stepOf('shell', { id: 's', thickness: 2 } as never),
    ];
    let document = asset([part('case', steps)]);
    const memory = new MeshCache();
    const looked = () => {
      const formed = formAsset(document, 'low', none, memory, kit);
      expect(formed.problems).toEqual([]);
      const { findings } = lookClosely(document, formed, memory);
      return { formed, findings, triangles: triangleCount(formed.parts[0].mesh) };
    };
    const high = triangleCount(formAsset(document, 'high', none, memory, kit).parts[0].mesh);
    for (const kind of ['hidden', 'flats'] as const) {
      const before = looked();
      const f = of(before.findings, kind) as Finding;
      expect(f.fixes).toEqual(['add-clear']);
      const mended = mend(document, before.formed, f, 'add-clear', none, 'new');
      if (!('commands' in mended)) throw new Error('a recipe is not mended in its mesh');
      for (const c of mended.commands) document = applyCommand(document, c).document;
      const after = looked();
      expect(before.triangles - after.triangles).toBe(f.frees);
      expect(of(after.findings, kind)).toBeUndefined();
    }
    // One step, both wishes; the high mesh is as it was.
    expect(document.parts[0].shape.steps?.filter((s) => s.kind === 'clear')).toHaveLength(1);
    const bare = formAsset(asset([part('case', [steps[0]])]), 'low', none, memory, kit).parts[0].mesh;
    expect(looked().triangles).toBeLessThanOrEqual(triangleCount(bare));
    expect(triangleCount(formAsset(document, 'high', none, memory, kit).parts[0].mesh)).toBe(high);
  });
  it('walls thinner than the brief wants are found where they are', () => {
    const next = random(9);
    for (let i = 0; i < 20; i++) {
      const t = 1 + 2 * next();
      const { document, look } = imported({ box: shell(cube(40), { thickness: t }).mesh });
      const wanting = (wallMm: number) => of(look({ ...document, brief: { ...document.brief, wallMm } }), 'thin-wall');
      expect(wanting(t * 0.98)).toBeUndefined();
      const f = wanting(t * 1.05);
      expect(f?.severity).toBe('warning');
      expect(f?.value).toBeCloseTo(t, 4);
    }
    const { document, look } = imported({ box: cube(40) });
    expect(of(look(document), 'thin-wall')).toBeUndefined();
  });
  it('neighbours are those that stand near each other, with what is between them', () => {
    const { document, load } = imported(
      { a: cube(20), b: cube(20), c: cube(20), d: cube(20) },
      { b: [translation([20.4, 0, 0])], c: [translation([0, 17, 0])], d: [translation([300, 0, 0])] },
    );
    const { neighbours } = lookClosely(document, formAsset(document, 'low', load), new MeshCache());
    const between = (a: string, b: string) => neighbours.find((n) => n.a === a && n.b === b);
    expect(between('a', 'b')?.gap).toBeCloseTo(0.4, 9);
    expect(between('a', 'c')?.sunk).toBeCloseTo(3, 6);
    expect(neighbours.some((n) => n.b === 'd')).toBe(false);
  });
  it('a bar sunk into a post of the same part is no fault, a surface through itself is, however much the others cross', () => {
    const post = refined(cube(30), 14);
    const bars = [10, 12, 14, 16, 18].map((y) => transform(refined(cube(6), 6), [9, 0, 0, 0, 0, 0.2, 0, 0, 0, 0, 0.2, 0, 0, y, 0, 1]));
    const { document, look } = imported({ post: merge([post, ...bars]) });
    expect(of(look(document), 'crossing')).toBeUndefined();
    const spiked = { ...torusMesh(20, 6, 24, 12) };
    const positions = spiked.positions.slice();
    for (let k = 0; k < 3; k++) positions[k] = k === 0 ? -30 : 0.4;
    const through = imported({ post: merge([post, ...bars, transform(makeMesh({ ...spiked, positions }), translation([200, 0, 0]))]) });
    expect(of(through.look(through.document), 'crossing')?.severity).toBe('warning');
  });
  it('can be stopped', () => {
    const { document, load } = imported({ a: cube(20) });
    expect(() =>
      lookClosely(document, formAsset(document, 'low', load), new MeshCache(), { cancelled: () => true, progress() {} }),
    ).toThrow();
  });
});

describe('parts in one plane', () => {
  it('are parted by a gap, wherever they lie against or beside each other', () => {
    const next = random(21);
    for (let i = 0; i < 20; i++) {
      const turn = rotation(normalise([next() - 0.5, next() - 0.5, next() - 0.5]), 6 * next());
      const [x, z] = [10 * next() - 5, 10 * next() - 5];
      // On top of it, or let into its top so that both look up.
      const y = i % 2 === 0 ? 40 : 32;
      const put = (m: Mat4): Mat4 => multiply(turn, m);
      const { document, look, fixed } = imported(
        { crate: cube(40), lid: cube(8) },
        { crate: [put(IDENTITY)], lid: [put(translation([x, y, z]))] },
      );
      const f = of(look(document), 'coincident') as Finding;
      expect(f.severity).toBe('warning');
      expect(f.value).toBeCloseTo(64, 0);
      expect(f.fixes).toEqual(['leave-gap']);
      const apart = fixed(document, f, 'leave-gap');
      expect(of(look(apart), 'coincident')).toBeUndefined();
      const moved = apart.parts.find((p) => p.id === f.part)?.move ?? [0, 0, 0];
      expect(Math.hypot(...moved)).toBeCloseTo(GAP_MM, 5);
    }
  });
  it('of several directions are said to be, and nothing is moved', () => {
    const { document, look, fixed } = imported({ crate: cube(40), corner: cube(8) }, { corner: [translation([16, 32, 0])] });
    const f = of(look(document), 'coincident') as Finding;
    expect(f.fixes).toEqual([]);
    expect(() => fixed(document, f, 'leave-gap')).toThrow(/several directions/);
  });
});

describe('a scale left on an import', () => {
  it('is found and applied: the piece stands where it stood', () => {
    const next = random(5);
    for (let i = 0; i < 20; i++) {
      const mirror = i % 2 === 0 ? 1 : -1;
      const even = i % 3 === 0;
      const s = [0.5 + next(), 0.5 + next(), 0.5 + next()];
      const scale = even ? [s[0] * mirror, s[0], s[0]] : [s[0] * mirror, s[1], s[2]];
      const places = [0, 1].map(() => {
        const q = [next() - 0.5, next() - 0.5, next() - 0.5, next()];
        const l = Math.hypot(...q);
        return compose(
          [100 * next(), 100 * next(), 100 * next()],
          q.map((x) => x / l),
          scale as unknown as [number, number, number],
        );
      });
      const { document, look, fixed, load } = imported({ crate: cube(20) }, { crate: places });
      const f = of(look(document), 'scaled') as Finding;
      expect(f.severity).toBe('warning');
      expect(f.message).toMatch(mirror < 0 ? /mirror/ : /scale/);
      const before = assetBounds(formAsset(document, 'low', load).parts);
      const applied = fixed(document, f, 'apply-scale');
      const { shape } = applied.parts[0] as { shape: { placements: Mat4[] } };
      expect(shape.placements.every(isRigid)).toBe(true);
      const after = assetBounds(formAsset(applied, 'low', load).parts);
      for (const k of [0, 1, 2]) {
        expect(after.min[k]).toBeCloseTo(before.min[k], 6);
        expect(after.max[k]).toBeCloseTo(before.max[k], 6);
      }
      expect(of(look(applied), 'scaled')).toBeUndefined();
      expect(of(look(applied), 'inward')).toBeUndefined();
    }
  });
  it('of copies that differ can’t be put into one mesh, and a sentence says so', () => {
    const { document, look, fixed } = imported(
      { crate: cube(20) },
      { crate: [compose([0, 0, 0], [0, 0, 0, 1], [2, 2, 2]), translation([90, 0, 0])] },
    );
    expect(() => fixed(document, of(look(document), 'scaled') as Finding, 'apply-scale')).toThrow(/scaled differently/);
  });
});

describe('the origin', () => {
  it('is moved where the brief wants it', () => {
    const { document, look, fixed, load } = imported({ crate: cube(20) }, { crate: [translation([7, 3, -4])] });
    for (const origin of ['foot', 'middle'] as const) {
      const wanting = { ...document, brief: { ...document.brief, origin } };
      const f = of(look(wanting), 'origin') as Finding;
      expect(f.severity).toBe('warning');
      expect(f.value).toBeCloseTo(Math.hypot(7, origin === 'foot' ? 3 : 13, -4), 9);
      const moved = fixed(wanting, f, 'move-origin');
      expect(of(look(moved), 'origin')).toBeUndefined();
      expect(assetBounds(formAsset(moved, 'low', load).parts).min[1]).toBeCloseTo(origin === 'foot' ? 0 : -10, 9);
    }
    expect(of(look(document), 'origin')).toBeUndefined();
  });
});

describe('waivers', () => {
  const cup = (missing: number, at: Mat4 = IDENTITY) =>
    transform(
      fromFaces(
        cube(20),
        [0, 1, 2, 3, 4, 5].filter((f) => f !== missing),
      ),
      at,
    );
  it('hold while what they cover stays, and are open again when it changes', () => {
    const open = imported({ cup: cup(1) });
    const f = of(open.look(open.document), 'open-rim') as Finding;
    const document = applyCommand(open.document, {
      type: 'waive',
      waiver: { finding: f.id, reason: 'it is a cup', value: f.value, ...(f.covers && { covers: f.covers }) },
    }).document;
    expect(of(open.look(document), 'open-rim')?.waived).toBe('it is a cup');
    // Another face is open now: as many rims, in another place.
    const other = imported({ cup: cup(0) });
    const again = of(other.look({ ...other.document, waivers: document.waivers }), 'open-rim');
    expect(again?.waived).toBeUndefined();
    expect(again?.reopened).toBe('it is a cup');
    // A little larger, it is the same rim.
    const larger = imported({ cup: cup(1, [1.005, 0, 0, 0, 0, 1.005, 0, 0, 0, 0, 1.005, 0, 0, 0, 0, 1]) });
    expect(of(larger.look({ ...larger.document, waivers: document.waivers }), 'open-rim')?.waived).toBe('it is a cup');
  });
  it('given before places were kept hold by their value', () => {
    expect(stillCovers({ value: 3, unit: 'rims', covers: [0, 0, 0, 1, 1, 1] }, { value: 3 })).toBe(true);
    expect(stillCovers({ value: 4, unit: 'rims' }, { value: 3 })).toBe(false);
    expect(stillCovers({ value: 10.1, unit: 'mm²' }, { value: 10 })).toBe(true);
    expect(stillCovers({ value: 11, unit: 'mm²' }, { value: 10 })).toBe(false);
  });
});

function fromFaces(m: PolyMesh, faces: readonly number[]): PolyMesh {
  const flat = { faceStart: faces.concat(0).map((_, i) => 4 * i), faceVert: faces.flatMap((f) => [...m.faceVert.slice(4 * f, 4 * f + 4)]) };
  return makeMesh({ positions: m.positions, ...flat });
}

describe('simplifying an import', () => {
  const ring = torusMesh(40, 12, 80, 40);
  it('to a limit leaves a protected region as it is, and measures how far the rest is off', () => {
    const { document, load } = imported({ ring, post: refined(cube(30), 6) });
    const own = document.parts[0];
    const region: Region = {
      id: 'right',
      name: 'Right',
      rules: [{ id: 'r', how: 'add', rule: { kind: 'side', axis: 'x', beyond: 20, way: 'above' } }],
      weight: 1,
    };
    const steps = [{ kind: 'simplify' as const, id: 's', name: 'Simplify', enabled: true, triangles: 9999, region: 'right' }];
    const shape = own.shape.kind === 'mesh' ? { ...own.shape, steps } : own.shape;
    const parts = [{ ...own, regions: [region], shape }, document.parts[1]] as unknown as Part[];
    const asked = { ...document, parts };
    const { parts: whole } = formAsset(withoutSimplify(asked), 'low', load, undefined, kit);
    const keep = protectedFaces(asked);
    const kept = keep(whole[0]);
    const places = (m: PolyMesh) =>
      new Set(Array.from({ length: m.positions.length / 3 }, (_, v) => m.positions.slice(3 * v, 3 * v + 3).join()));
    const { parts: lean, off } = simplifyParts(kit, whole, 5000, undefined, keep);
    expect(lean.reduce((n, p) => n + triangleCount(p.mesh), 0)).toBeLessThanOrEqual(5000);
    expect(off[0].most).toBeGreaterThan(0);
    if (!kept) throw new Error('nothing was protected');
    expect(kept.includes(1) && kept.includes(0)).toBe(true);
    const left = places(lean[0].mesh);
    for (let f = 0; f < kept.length; f++)
      if (kept[f])
        for (let c = ring.faceStart[f]; c < ring.faceStart[f + 1]; c++) {
          const v = 3 * ring.faceVert[c];
          expect(left.has(ring.positions.slice(v, v + 3).join())).toBe(true);
        }
  });
  it('leaves parts made by steps to their counts', () => {
    const document = asset([part('post', [stepOf('box', { id: 'b' })])]);
    const { parts } = formAsset(document, 'low', none, undefined, kit);
    expect(protectedFaces(document)(parts[0])?.every((x) => x === 1)).toBe(true);
  });
});
